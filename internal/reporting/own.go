package reporting

import (
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"widetally/core/report"
	"widetally/docs"
	"widetally/internal/export"
	"widetally/internal/help"
)

// Tells says whether a report tells a fact: somebody wrote it, or the study itself knows it.
func (c Content) Tells(r report.Report, key report.FactKey) bool {
	return r.Fact(key) != "" || key == report.Weighting && (c.Weights != "" || c.Weighted != "") || key == report.Design && c.Design != ""
}

// facts tells what the survey discloses of itself: what was written, and what the study knows.
func (d *made) facts() {
	if slices.Contains(d.r.Without, report.Facts) {
		return
	}
	known := map[report.FactKey]string{}
	if d.c.Weights != "" {
		known[report.Weighting] = d.text("report.unweighted", "name", d.c.Weights)
	}
	if d.c.Weighted != "" {
		known[report.Weighting] = d.text("report.weighted", "name", d.c.Weighted)
	}
	if d.c.Design != "" {
		known[report.Design] = d.c.Design
	}
	items := [][]export.Run{}
	n := d.Words.Fixed(float64(d.c.Respondents), 0)
	known[report.Respondents] = d.text("leaves.counted", "n", n, "units", d.c.Units)
	if d.c.CountsBy != "" {
		known[report.Respondents] = d.text("report.counted_by", "n", n, "units", d.c.Units, "name", d.c.CountsBy)
	}
	for _, key := range report.Disclosed {
		text := d.r.Fact(key)
		if text == "" {
			text = known[key]
		}
		if text != "" {
			items = append(items, []export.Run{{Text: d.text("report.fact."+string(key)) + ": ", Bold: true}, {Text: text}})
		}
	}
	d.heading(1, d.text("report.facts"))
	d.add(export.Block{Kind: export.ListBlock, Items: items})
}

// methods names every method in use, its level, its conventions, what it takes for granted and its
// sources.
func (d *made) methods() {
	if slices.Contains(d.r.Without, report.Methods) {
		return
	}
	var order []asked
	by, assumed := map[asked][]string{}, []string{}
	for _, p := range d.r.Pieces {
		a := d.c.Analyses[p.ID]
		if a == nil || a.Document == nil {
			continue
		}
		of := asked{a.Method, a.Estimated}
		if by[of] == nil {
			order = append(order, of)
			for _, text := range d.assumptions(of) {
				if !slices.Contains(assumed, text) {
					assumed = append(assumed, text)
				}
			}
		}
		name := a.name(d.Words)
		if a.Level > 0 {
			name = d.text("report.at_level", "name", name, "level", d.Words.Level(a.Level))
		}
		by[of] = append(by[of], name)
	}
	if len(order) == 0 {
		return
	}
	d.heading(1, d.text("report.methods"))
	var lines []string
	for _, of := range order {
		title, sources := d.published(of)
		line := d.text("report.method", "title", title, "for", strings.Join(by[of], ", "))
		if len(sources) > 0 {
			line = d.text("report.method_from", "line", line, "sources", strings.Join(sources, "; "))
		}
		if m, ok := d.Methods.Find(of.method); ok && m.Asked != nil && d.Words.Has(of.under("convention")+m.Asked.Texts) {
			line += " " + d.text(of.under("convention")+m.Asked.Texts)
		}
		lines = append(lines, line)
	}
	d.list(lines)
	if d.c.Adjusted != "" {
		assumed = append(assumed, d.c.Adjusted)
	}
	d.paragraph(strings.Join(assumed, " "), false)
}

// asked is a method as it was asked: of respondents, or of the population by the design of the sample.
type asked struct {
	method    string
	estimated bool
}

// under is where its texts of a kind stand in the catalogue.
func (a asked) under(kind string) string {
	if a.estimated {
		return kind + "_designed."
	}
	return kind + "."
}

// claims lists every claim of the study, reported or not.
func (d *made) claims() {
	if slices.Contains(d.r.Without, report.Claims) || len(d.c.Claims) == 0 {
		return
	}
	head := []string{}
	for _, id := range []string{"claim", "says", "level", "stated", "run", "outcome", "p", "changes"} {
		head = append(head, d.text("report.column."+id))
	}
	t := export.Table{Title: d.text("report.claims"), Head: head, Notes: []string{d.text("report.tests", "n", strconv.Itoa(d.c.Tests))}}
	if d.c.Withdrawn > 0 {
		t.Notes = append(t.Notes, d.text("report.withdrawn", "n", strconv.Itoa(d.c.Withdrawn)))
	}
	for _, c := range d.c.Claims {
		cells := []string{strconv.Itoa(c.Claim), c.Statement, d.Words.Level(c.Level), day(c.StatedAt), "", "", "", strings.Join(c.Changes, "; ")}
		if c.FirstRunAt != nil {
			cells[4] = day(*c.FirstRunAt)
		}
		if c.Document != nil && c.Document.Outcome != nil {
			cells[5], cells[6] = c.Document.Outcome.Text, c.Document.Outcome.P
		} else if c.FirstRunAt == nil {
			cells[5] = d.text("report.open")
		}
		row := make([]export.Cell, len(cells))
		for i, text := range cells {
			row[i].Text = text
		}
		t.Rows = append(t.Rows, row)
	}
	if last := len(head) - 1; !slices.ContainsFunc(t.Rows, func(r []export.Cell) bool { return r[last].Text != "" }) {
		t.Head = head[:last] // nothing was changed
		for i := range t.Rows {
			t.Rows[i] = t.Rows[i][:last]
		}
	}
	d.heading(1, d.text("report.claims"))
	d.table(t)
}

// day is that of a time, in the time of everywhere: a table has no room for the minute, which stands
// with each claim.
func day(t time.Time) string { return t.UTC().Format("2006-01-02") }

// Topics are the short explanations of the page on the methods.
var Topics = sync.OnceValue(func() []help.Topic { return help.Topics(docs.Methods) })

// published names a method and its publications, these from the same text as the page on the
// methods; those of its form for designed samples stand with its convention.
func (d *made) published(of asked) (title string, sources []string) {
	m, ok := d.Methods.Find(of.method)
	if !ok || m.Asked == nil {
		return of.method, nil
	}
	if of.estimated {
		if id := of.under("method") + m.Asked.Texts; d.Words.Has(id) {
			return d.text(id), nil
		}
		return d.text("method." + m.Asked.Texts), nil
	}
	for _, t := range Topics() {
		if slices.Contains(t.For, of.method) {
			sources = t.Sources()
		}
	}
	return d.text("method." + m.Asked.Texts), sources
}

// assumptions are what a method takes for granted.
func (d *made) assumptions(of asked) (out []string) {
	m, _ := d.Methods.Find(of.method)
	for _, a := range m.Assumed(of.estimated) {
		out = append(out, d.text("assumption."+string(a)))
	}
	return out
}
