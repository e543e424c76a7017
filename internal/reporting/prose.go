package reporting

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	tables "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"widetally/core/report"
	"widetally/internal/export"
)

// A reference stands in the Markdown as its number between these signs of nobody's, so that
// nothing of it is read as Markdown.
const (
	openRef  = "\uE000"
	closeRef = "\uE001"
)

// live is a reference with what it comes to.
type live struct {
	report.Reference
	text, link, stale string
}

// prose adds a piece of prose: Markdown, its references filled in.
func (d *made) prose(p report.Piece) {
	var refs []live
	clean := strings.NewReplacer(openRef, "", closeRef, "").Replace(p.Prose)
	source := []byte(report.Fill(clean, func(r report.Reference) string {
		refs = append(refs, d.live(r, p.Figures))
		return openRef + strconv.Itoa(len(refs)-1) + closeRef
	}))
	m := &markdown{d: d, source: source, refs: refs}
	for n := proseReader.Parse(text.NewReader(source)).FirstChild(); n != nil; n = n.NextSibling() {
		m.block(n, export.ParagraphBlock)
	}
}

// live fills in a reference, and says where it no longer is what it was when it was written.
func (d *made) live(r report.Reference, were map[string]string) live {
	out := live{Reference: r}
	var ok bool
	if out.text, out.link, ok = d.figure(r); !ok {
		out.text, out.stale = "{"+r.Key()+"}", d.text("report.no_figure")
		return out
	}
	if was, known := were[r.Key()]; known && was != out.text && out.link == "" {
		out.stale = d.text("report.stale", "was", was)
	}
	return out
}

// figure is what a reference comes to; a table or a picture is a link to it.
func (d *made) figure(r report.Reference) (text, link string, ok bool) {
	for _, p := range d.r.Pieces {
		n := d.numbers[p.ID]
		name, a, t := "", (*Analysis)(nil), (*Tally)(nil)
		switch {
		case p.Question != 0 && d.c.Tallies[p.ID] != nil:
			t = d.c.Tallies[p.ID]
			name = t.Question.Name
		case p.Analysis != 0 && d.c.Analyses[p.ID] != nil:
			a = d.c.Analyses[p.ID]
			name = a.Name
		}
		switch {
		case name == "" || !strings.EqualFold(name, r.Of):
		case r.Figure == "table" && n.table > 0:
			return d.Words.Text("report.table", map[string]string{"n": strconv.Itoa(n.table)}), fmt.Sprintf("#table-%d", n.table), true
		case r.Figure == "figure" && n.picture > 0:
			return d.Words.Text("report.figure", map[string]string{"n": strconv.Itoa(n.picture)}), fmt.Sprintf("#figure-%d", n.picture), true
		case a != nil:
			if text, ok := d.ofAnalysis(a, r.Figure); ok {
				return text, "", true
			}
		default:
			if text, ok := d.ofTally(t, r.Figure); ok {
				return text, "", true
			}
		}
	}
	// A claim can be spoken of without being shown.
	for i := range d.c.Claims {
		if c := &d.c.Claims[i]; strings.EqualFold(c.Name, r.Of) {
			text, ok := d.ofAnalysis(c, r.Figure)
			return text, "", ok
		}
	}
	return "", "", false
}

func (d *made) ofAnalysis(a *Analysis, figure string) (string, bool) {
	switch {
	case a.Document == nil:
		return "", false
	case figure == "finding":
		if finding := a.Document.Finding(); finding != "" {
			return strings.TrimSuffix(finding, "."), true
		}
	case figure == "outcome" && a.Document.Outcome != nil:
		return a.Document.Outcome.Text, true
	case figure == "level" && a.Level > 0:
		return d.Words.Level(a.Level), true
	}
	return a.Document.Fact(figure)
}

// ofTally are n, missing, and of an answer, by its label or its code, its count or its percent: of the
// population where a design is in force.
func (d *made) ofTally(t *Tally, figure string) (string, bool) {
	whole := func(n int64) (string, bool) { return d.Words.Fixed(float64(n), 0), true }
	switch figure {
	case "n":
		return whole(t.Frequency.Answered)
	case "missing":
		return whole(t.Frequency.Missing)
	}
	kind, name, _ := strings.Cut(figure, " ")
	for _, r := range t.Frequency.Rows {
		answer, _ := t.Question.Answer(r.Slot)
		if !strings.EqualFold(answer.Label, name) && answer.Code != name {
			continue
		}
		switch {
		case kind == "count":
			return whole(r.Count)
		case kind == "%" && t.Estimates != nil:
			e, ok := t.estimated(r.Slot)
			return d.Words.Fixed(100*e.Share, t.Decimals) + "\u00a0%", ok
		case kind == "%" && t.Frequency.Answered > 0:
			return d.Words.Fixed(100*float64(r.Count)/float64(t.Frequency.Answered), t.Decimals) + "\u00a0%", true
		}
	}
	return "", false
}

// Offered is a figure that prose can name: what is written for it, and what it comes to now.
type Offered struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// Offers lists the figures that prose can name: those of the pieces and of all claims.
func (m Maker) Offers(r report.Report, c Content) (out []Offered) {
	d := &made{Maker: m, r: r, c: c}
	d.numbers = d.count()
	add := func(of, figure string) {
		ref := report.Reference{Of: of, Figure: figure}
		if text, _, ok := d.figure(ref); ok {
			out = append(out, Offered{ref.Key(), text})
		}
	}
	told := map[string]bool{}
	analysis := func(a *Analysis) {
		name := a.Name
		if a.Document == nil || told[name] {
			return
		}
		told[name] = true
		for _, figure := range []string{"finding", "outcome", "level", "table", "figure"} {
			add(name, figure)
		}
		for _, b := range a.Document.Blocks {
			for _, f := range b.Facts {
				add(name, f.Key)
			}
		}
	}
	for _, p := range r.Pieces {
		switch {
		case c.Tallies[p.ID] != nil && p.Question != 0:
			t := c.Tallies[p.ID]
			for _, figure := range []string{"n", "missing", "table"} {
				add(t.Question.Name, figure)
			}
			for _, row := range t.Frequency.Rows {
				a, _ := t.Question.Answer(row.Slot)
				add(t.Question.Name, "% "+a.Label)
				add(t.Question.Name, "count "+a.Label)
			}
		case c.Analyses[p.ID] != nil && p.Analysis != 0:
			analysis(c.Analyses[p.ID])
		}
	}
	for i := range c.Claims {
		analysis(&c.Claims[i])
	}
	return out
}

// Figures are what the references of a text come to now, by their keys.
func (m Maker) Figures(r report.Report, c Content, prose string) map[string]string {
	d := &made{Maker: m, r: r, c: c}
	d.numbers = d.count()
	out := map[string]string{}
	for _, ref := range report.References(prose) {
		if text, link, ok := d.figure(ref); ok && link == "" {
			out[ref.Key()] = text
		}
	}
	return out
}

// markdown makes blocks of parsed Markdown.
type markdown struct {
	d      *made
	source []byte
	refs   []live
}

func (m *markdown) block(n ast.Node, kind export.BlockKind) {
	switch n := n.(type) {
	case *ast.Heading:
		m.d.add(export.Block{Kind: export.HeadingBlock, Level: min(n.Level, 4), Runs: m.runs(n, export.Run{}), Anchor: fmt.Sprintf("part-%d", len(m.d.out.Blocks)+1)})
	case *ast.List:
		b := export.Block{Kind: export.ListBlock, Numbered: n.IsOrdered()}
		for item := n.FirstChild(); item != nil; item = item.NextSibling() {
			var runs []export.Run
			for child := item.FirstChild(); child != nil; child = child.NextSibling() {
				if len(runs) > 0 {
					runs = append(runs, export.Run{Text: " "})
				}
				runs = append(runs, m.runs(child, export.Run{})...)
			}
			b.Items = append(b.Items, runs)
		}
		m.d.add(b)
	case *ast.Blockquote:
		for child := n.FirstChild(); child != nil; child = child.NextSibling() {
			m.block(child, export.QuoteBlock)
		}
	case *tables.Table:
		m.table(n)
	case *ast.ThematicBreak:
	case *ast.FencedCodeBlock, *ast.CodeBlock, *ast.HTMLBlock:
		lines := n.Lines()
		m.d.add(export.Block{Kind: kind, Runs: m.filled(strings.TrimRight(string(lines.Value(m.source)), "\n"), export.Run{Code: true})})
	default:
		m.d.add(export.Block{Kind: kind, Runs: m.runs(n, export.Run{})})
	}
}

// proseReader reads CommonMark with the usual tables.
var proseReader = goldmark.New(goldmark.WithExtensions(extension.Table)).Parser()

// table makes a table of what was written as one: it has no number and no caption, and its cells are words,
// figures that follow their sources among them.
func (m *markdown) table(n *tables.Table) {
	t := export.Table{Head: []string{}, Notes: []string{}}
	for row := n.FirstChild(); row != nil; row = row.NextSibling() {
		var cells []export.Cell
		for c := row.FirstChild(); c != nil; c = c.NextSibling() {
			text := ""
			for _, run := range m.runs(c, export.Run{}) {
				if text += run.Text; run.Stale != "" {
					text += " [" + run.Stale + "]"
				}
			}
			cells = append(cells, export.Cell{Text: text})
		}
		if row.Kind() != tables.KindTableHeader {
			t.Rows = append(t.Rows, cells)
			continue
		}
		for _, c := range cells {
			t.Head = append(t.Head, c.Text)
		}
	}
	m.d.add(export.Block{Kind: export.TableBlock, Table: &t})
}

// runs flattens the text of a node; like says how it looks so far.
func (m *markdown) runs(n ast.Node, like export.Run) (out []export.Run) {
	for child := n.FirstChild(); child != nil; child = child.NextSibling() {
		look := like
		switch c := child.(type) {
		case *ast.Text:
			text := string(c.Segment.Value(m.source))
			if c.SoftLineBreak() || c.HardLineBreak() {
				text += " "
			}
			out = append(out, m.filled(plain([]byte(text)), look)...)
			continue
		case *ast.String:
			out = append(out, m.filled(string(c.Value), look)...)
			continue
		case *ast.RawHTML:
			for i := range c.Segments.Len() {
				at := c.Segments.At(i)
				out = append(out, m.filled(string(at.Value(m.source)), look)...)
			}
			continue
		case *ast.AutoLink:
			out = append(out, export.Run{Text: m.said(c.Label(m.source)), Link: address(m.said(c.URL(m.source)))})
			continue
		case *ast.Emphasis:
			if c.Level >= 2 {
				look.Bold = true
			} else {
				look.Italic = true
			}
		case *ast.CodeSpan:
			look.Code = true
		case *ast.Link:
			look.Link = address(m.said(c.Destination))
		}
		out = append(out, m.runs(child, look)...)
	}
	return out
}

// plain takes the backslashes off and reads the entities.
func plain(s []byte) string {
	return string(util.ResolveNumericReferences(util.ResolveEntityNames(util.UnescapePunctuations(s))))
}

// address lets those through that a document may hold.
func address(to string) string {
	for _, scheme := range []string{"https://", "http://", "mailto:"} {
		if strings.HasPrefix(strings.ToLower(to), scheme) {
			return to
		}
	}
	return ""
}

// said is a text with its references filled in, without a look.
func (m *markdown) said(text []byte) string {
	return export.Plain(m.filled(string(text), export.Run{}))
}

// filled parts a text at its references.
func (m *markdown) filled(text string, look export.Run) (out []export.Run) {
	for text != "" {
		before, rest, found := strings.Cut(text, openRef)
		if before != "" {
			run := look
			run.Text = before
			out = append(out, run)
		}
		if !found {
			break
		}
		var number string
		number, text, _ = strings.Cut(rest, closeRef)
		if i, err := strconv.Atoi(number); err == nil && i < len(m.refs) {
			r, run := m.refs[i], look
			run.Text, run.Source, run.Stale = r.text, r.Key(), r.stale
			if r.link != "" {
				run.Link = r.link
			}
			out = append(out, run)
		}
	}
	return out
}
