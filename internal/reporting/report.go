// Package reporting makes reports: of the pieces that a study gives and the definition of what
// is chosen, blocks that every form is written from. It says texts and draws pictures; it
// counts nothing.
package reporting

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/report"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/chart"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

// Tally is the tally of a question.
type Tally struct {
	Question  survey.Question
	Number    int // in the questionnaire
	Frequency *tally.Frequency
	// Units is of whom it is, Within the subgroup; "" for everyone.
	Units, Within string
	Decimals      int
	// Order is that of its answers; "" for that of the questionnaire.
	Order claim.Order
	// Estimates are the shares in the population by the design in force; nil where there is none.
	Estimates []analysis.Estimated
	// Rule is what may be told of it.
	Rule disclosure.Rule
	// Numeric describes a number instead, and EstimatedNumber what the design says of it.
	Numeric         *tally.Numeric
	EstimatedNumber *analysis.EstimatedNumber
}

// tabular says whether there is a table of it: texts and identifiers have none, nor a number that nobody gave.
func (t *Tally) tabular() bool { return t.Question.Kind.Tabulated() || t.Numeric != nil }

// Analysis is something asked, as it stands.
type Analysis struct {
	// Name is that by which prose refers to it, such as “claim 3”.
	Name string
	// Claim is the number of a claim; 0 for what is only described.
	Claim int
	// Title is the wording of the question, or the short name.
	Title     string
	Method    string
	Statement string
	Level     float64
	// Document is nil where it could not be asked; Problems then say why.
	Document *said.Document
	Problems []string
	// Whom says of how many respondents it speaks, and Missing of how many answers it could not; "" where
	// its document says so itself.
	Whom, Missing string
	// Asked are the questions that it is about, in the order of the questionnaire.
	Asked []Asked
	// Source is where compared shares come from, with its date.
	Source string
	// StatedAt and FirstRunAt are those of a claim; Changes what was changed, and After that some
	// of it was changed once the test had been run.
	StatedAt   time.Time
	FirstRunAt *time.Time
	Changes    []string
	After      bool
	// Estimated says that it estimates the population by the design of the sample.
	Estimated bool
}

// name is what an analysis is called in sentences.
func (a Analysis) name(w *i18n.Catalogue) string {
	if a.Claim > 0 {
		return w.Text("report.claim", map[string]string{"n": strconv.Itoa(a.Claim)})
	}
	return a.Title
}

// Content is what a study gives for its report.
type Content struct {
	Study, Units string
	// Respondents are all, as they count.
	Respondents int64
	// Revision is the state of the study.
	Revision uint64
	At       time.Time
	// CountsBy and Weights name the columns of counts, which are in force, and of weights, which
	// are not; "" for none.
	CountsBy, Weights string
	// Design tells the design by which the analyses estimate the population, "" for none; Weighted names
	// its weights.
	Design, Weighted string
	// Tallies and Analyses are those that the pieces name, by piece.
	Tallies  map[int]*Tally
	Analyses map[int]*Analysis
	// Claims are all claims of the study in the order of their numbers, Withdrawn how many were
	// taken back and Tests how many tests were run in all.
	Claims           []Analysis
	Withdrawn, Tests int
	// Adjusted says how the claims are adjusted for being many; "" for not at all.
	Adjusted string
	// Since is what is told of another wave, nil where none is compared.
	Since *Since
}

// Maker makes reports in the words of a catalogue.
type Maker struct {
	Words   *i18n.Catalogue
	Methods *analysis.Registry
	// Draw draws a chart as SVG; nil to leave pictures out.
	Draw func(ctx context.Context, chart any) (string, error)
	// Told is told how many of the pieces are made; nil for nobody.
	Told func(done, of int)
	// Dots draws an SVG as a PNG, for forms whose readers know no SVG; nil where none is asked for.
	Dots func(svg string, scale float64) ([]byte, error)
	// Page draws an SVG as a PDF of its size; nil where none is asked for.
	Page func(svg string) ([]byte, error)
}

// For is the maker of reports that leave in a form: it draws pictures as the form shows them.
func (m Maker) For(form export.ReportForm) Maker {
	if form.HasDots() {
		m.Dots = chart.PNG
	}
	if form.HasPages() {
		m.Page = chart.PDF
	}
	return m
}

// made is a report under way.
type made struct {
	Maker
	ctx     context.Context
	r       report.Report
	c       Content
	out     export.Report
	piece   int
	part    report.Part
	tables  int
	figures int
	// numbers are the tables and pictures of each piece, so that prose before them can name them.
	numbers map[int]numbered
	said    map[string]bool // cautions
	// drawn are the pictures with the drawings that they were made of.
	drawn []drawing
}

// numbered are the first table and the first picture of a piece; 0 for none.
type numbered struct{ table, picture int }

// of says what a report is of: a study in a state or, where revision is 0, a file.
func (m Maker) of(study string, at time.Time, revision uint64, designed bool) string {
	id := "report.of"
	switch {
	case revision == 0 && designed:
		id = "leaves.from_designed"
	case revision == 0:
		id = "leaves.from"
	case designed:
		id = "report.of_designed"
	}
	return m.text(id, "study", study, "date", at.Format("2006-01-02"), "revision", strconv.FormatUint(revision, 10))
}

// Make makes the report. A context that ends stops it between two pieces.
func (m Maker) Make(ctx context.Context, r report.Report, c Content) (export.Report, error) {
	d := &made{Maker: m, ctx: ctx, r: r, c: c, said: map[string]bool{}}
	d.out = export.Report{Version: export.ReportVersion, Title: r.Title, Lang: m.Words.Language(), At: c.At, Of: m.of(c.Study, c.At, c.Revision, c.Design != "")}
	d.out.Study, d.out.Author = c.Study, m.text("report.author")
	d.out.Words = m.words()
	if r.Title == "" {
		d.out.Title = c.Study
	}
	d.numbers = d.count()
	d.part = report.Facts
	d.facts()
	d.part = ""
	for i, p := range r.Pieces {
		if err := ctx.Err(); err != nil {
			return d.out, err
		}
		if m.Told != nil {
			m.Told(i, len(r.Pieces))
		}
		d.piece = p.ID
		switch {
		case p.Question != 0:
			d.tally(p)
		case p.Analysis != 0:
			if err := d.analysis(p); err != nil {
				return d.out, err
			}
		default:
			d.prose(p)
		}
	}
	d.piece, d.part = 0, report.Changes
	if err := d.changes(); err != nil {
		return d.out, err
	}
	d.part = report.Methods
	d.methods()
	d.part = report.Claims
	d.claims()
	return d.out, d.render()
}

// words head the lists of a document.
func (m Maker) words() export.Words {
	word := func(id string) string { return m.text("report.word." + id) }
	return export.Words{
		Contents: word("contents"), Tables: word("tables"), Pictures: word("pictures"), Table: word("table"), Row: word("row"),
		Column: word("column"), Figure: word("figure"), Figures: word("figures"), Value: word("value"), Base: word("base"), Weight: word("weight"), Printed: word("printed"),
	}
}

// text says a message with values, name and value in turns.
func (m Maker) text(id string, values ...string) string {
	v := map[string]string{}
	for i := 0; i+1 < len(values); i += 2 {
		v[values[i]] = values[i+1]
	}
	return m.Words.Text(id, v)
}

// count gives the tables and pictures of the pieces their numbers.
func (d *made) count() map[int]numbered {
	out := map[int]numbered{}
	tables, pictures := 0, 0
	for _, p := range d.r.Pieces {
		n := numbered{}
		add := func(table, picture int) {
			if table > 0 && n.table == 0 {
				n.table = tables + 1
			}
			if picture > 0 && n.picture == 0 {
				n.picture = pictures + 1
			}
			tables, pictures = tables+table, pictures+picture
		}
		if t := d.c.Tallies[p.ID]; p.Question != 0 && t != nil && t.tabular() {
			add(1, 0)
		}
		if a := d.c.Analyses[p.ID]; p.Analysis != 0 && a != nil && a.Document != nil {
			for _, b := range a.Document.Blocks {
				switch {
				case !p.Shows(b.Kind):
				case b.Table != nil:
					add(1, 0)
				case b.Chart != nil && d.Draw != nil:
					add(0, 1)
				}
			}
		}
		out[p.ID] = n
	}
	return out
}

func (d *made) add(b export.Block) {
	b.Piece, b.Part = d.piece, string(d.part)
	d.out.Blocks = append(d.out.Blocks, b)
}

func (d *made) heading(level int, text string) {
	d.add(export.Block{Kind: export.HeadingBlock, Level: level, Runs: []export.Run{{Text: text}}, Anchor: fmt.Sprintf("part-%d", len(d.out.Blocks)+1)})
}

func (d *made) paragraph(text string, bold bool) {
	if text != "" {
		d.add(export.Block{Kind: export.ParagraphBlock, Runs: []export.Run{{Text: text, Bold: bold}}})
	}
}

func (d *made) list(items []string) {
	if len(items) == 0 {
		return
	}
	b := export.Block{Kind: export.ListBlock}
	for _, i := range items {
		b.Items = append(b.Items, []export.Run{{Text: i}})
	}
	d.add(b)
}

// table adds a table with its number.
func (d *made) table(t export.Table) {
	d.tables++
	t.Number, t.Label = d.tables, d.text("report.table", "n", strconv.Itoa(d.tables))
	d.add(export.Block{Kind: export.TableBlock, Table: &t, Anchor: fmt.Sprintf("table-%d", d.tables)})
}

func (d *made) tally(p report.Piece) {
	t := d.c.Tallies[p.ID]
	if t == nil {
		d.paragraph(d.text("report.gone"), false)
		return
	}
	if !t.tabular() {
		d.paragraph(d.text("report.no_table", "question", t.Question.Wording), false)
		return
	}
	base := p.Base
	if base == "" {
		base = "answered"
	}
	var of export.Table
	if t.Numeric != nil {
		of = NumberTable(d.Words, t)
	} else {
		of = TallyTable(d.Words, t, base, t.Order, nil)
	}
	for i, f := range of.Figures {
		if f.Column == d.text("column.estimated") || f.Column == d.text("column.estimated_number") {
			of.Figures[i].Weight = d.c.Weighted
		}
	}
	d.table(of)
}

func (d *made) analysis(p report.Piece) error {
	a := d.c.Analyses[p.ID]
	if a == nil {
		d.paragraph(d.text("report.gone"), false)
		return nil
	}
	if a.Claim > 0 {
		d.heading(2, a.name(d.Words)+": "+a.Title)
		d.paragraph(a.Statement, false)
		d.paragraph(d.when(*a), false)
	}
	if a.Document == nil {
		for _, problem := range a.Problems {
			d.paragraph(problem, false)
		}
		if len(a.Problems) == 0 {
			d.paragraph(d.text("report.not_run"), false)
		}
		return nil
	}
	for _, b := range a.Document.Blocks {
		if !p.Shows(b.Kind) {
			continue
		}
		switch b.Kind {
		case document.Hypotheses, document.Working:
			d.list(b.Lines)
		case document.Heading:
			d.heading(3, b.Text())
		case document.Basis, document.Agreement:
			d.paragraph(b.Text(), false)
		case document.Sentence:
			d.paragraph(b.Text(), true)
		case document.WriteUp:
			for _, line := range b.Styles.Journal {
				d.paragraph(line, false)
			}
		case document.Facts:
			var facts []string
			for _, f := range b.Facts {
				facts = append(facts, f.Name+": "+f.Value)
			}
			d.list(facts)
		case document.Figures:
			t := Printed(d.Words, b.Table, nonEmpty(a.under(d.Words)))
			if a.Estimated {
				for i := range t.Figures {
					t.Figures[i].Weight = d.c.Weighted
				}
			}
			d.table(t)
		case document.Chart:
			if err := d.picture(*b.Chart, a.Title, append(a.Document.Basis(), a.Whom)); err != nil {
				return err
			}
		}
	}
	if a.Source != "" {
		d.paragraph(d.text("write_up.source", "source", a.Source), false)
	}
	var cautions []string
	for _, n := range a.Document.Notes {
		if text := n.Text; n.Caution && !d.said[text] { // what holds for several is said once
			d.said[text] = true
			cautions = append(cautions, text)
		}
	}
	d.list(cautions)
	return nil
}

// when says when a claim was stated, first run, and what was changed.
func (d *made) when(a Analysis) string {
	lines := []string{d.text("report.stated", "date", moment(a.StatedAt))}
	if a.FirstRunAt != nil {
		lines = append(lines, d.text("report.first_run", "date", moment(*a.FirstRunAt)))
	}
	if len(a.Changes) > 0 {
		lines = append(lines, d.text("report.changed", "list", strings.Join(a.Changes, "; ")))
	}
	if a.After {
		lines = append(lines, d.text("note.claim.changed_after"))
	}
	return strings.Join(lines, " ")
}

// moment writes a time, to the minute, in the time of everywhere.
func moment(t time.Time) string { return t.UTC().Format("2006-01-02 15:04") + " UTC" }
