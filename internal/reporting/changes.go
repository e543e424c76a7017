package reporting

import (
	"math"
	"slices"
	"strings"

	"widetally/core/report"
	"widetally/internal/export"
	"widetally/internal/i18n"
)

// Since is what the same report tells of another wave, with the labels of the two.
type Since struct {
	Content
	Wave, Before string
}

// changes tells what changed since another wave, number by number: for each piece that is about the wave its figures
// beside those of the other one, and what came out of claims.
func (d *made) changes() error {
	s := d.c.Since
	if s == nil || slices.Contains(d.r.Without, report.Changes) {
		return nil
	}
	d.heading(1, d.text("report.changes.title", "wave", s.Wave, "since", s.Before))
	before := Maker{Words: d.Words, Methods: d.Methods}
	told := false
	for _, p := range d.r.Pieces {
		if p.Question == 0 && p.Analysis == 0 || s.Tallies[p.ID] == nil && s.Analyses[p.ID] == nil {
			continue
		}
		then, err := before.Make(d.ctx, report.Report{Pieces: []report.Piece{p}, Without: report.Parts}, s.Content)
		if err != nil {
			return err
		}
		table, some := d.changed(p, then.Blocks)
		if !some {
			continue
		}
		if !told {
			d.paragraph(d.text("report.changes.how", "wave", s.Wave, "since", s.Before), false)
		}
		told = true
		d.table(table)
	}
	if !told {
		d.paragraph(d.text("report.changes.none", "wave", s.Wave), false)
	}
	return nil
}

// placeOf tells a figure apart from others: its table and row, and which of several of the same name it is.
type placeOf struct {
	table       int
	row, column string
	again       int
}

// cellsOf are the figures of the tables of a piece by their places, in their order, but for those of columns that are
// sums of others.
func cellsOf(piece int, blocks []export.Block, sums []string) (order []placeOf, at map[placeOf]export.Cell) {
	at = map[placeOf]export.Cell{}
	tables := 0
	for _, b := range blocks {
		if b.Table == nil || b.Piece != piece {
			continue
		}
		tables++
		over := ""
		for _, row := range b.Table.Rows {
			name := row[0].Text
			if rest, inner := cutIndent(name); inner { // a further figure of the row above
				name = over + ", " + rest
			} else {
				over = name
			}
			for k, cell := range row[1:] {
				if cell.Text == "" || k+1 >= len(b.Table.Head) || slices.Contains(sums, b.Table.Head[k+1]) {
					continue
				}
				p := placeOf{table: tables, row: name, column: b.Table.Head[k+1]}
				for ; ; p.again++ {
					if _, is := at[p]; !is {
						break
					}
				}
				order, at[p] = append(order, p), cell
			}
		}
	}
	return order, at
}

// cutIndent is the name of a row that stands below another one.
func cutIndent(name string) (string, bool) { return strings.CutPrefix(name, "\u2003") }

// changed is the table of what changed of a piece; some is false where it has no figures.
func (d *made) changed(p report.Piece, then []export.Block) (out export.Table, some bool) {
	w, s := d.Words, d.c.Since
	out = export.Table{Title: d.text("report.changes.caption", "what", d.nameOf(p), "wave", s.Wave, "since", s.Before), Notes: []string{}}
	word := func(id string) string { return d.text("report.word." + id) }
	out.Head = []string{word("row"), word("figure"), s.Before, s.Wave, d.text("report.changes.change")}
	sums := []string{d.text("column.cumulative"), d.text("column.cumulative_relative"), d.text("column.cumulative_estimated")}
	before, old := cellsOf(p.ID, then, sums)
	order, is := cellsOf(p.ID, d.out.Blocks, sums)
	seen := map[placeOf]bool{}
	add := func(p placeOf) {
		if seen[p] {
			return
		}
		seen[p] = true
		was, now := old[p], is[p]
		was.Mark, now.Mark, was.Above, now.Above = "", "", "", ""
		row := []export.Cell{{Text: p.row}, {Text: p.column}, was, now, difference(w, was, now)}
		out.Rows = append(out.Rows, row)
		if x := row[4]; x.Number != nil {
			out.Figures = append(out.Figures, export.Figure{Row: p.row + " · " + p.column, Column: out.Head[4], Text: x.Text, Number: x.Number})
		}
	}
	for _, p := range order {
		add(p)
	}
	for _, p := range before { // what is told of the other wave alone
		add(p)
	}
	if a := d.c.Analyses[p.ID]; a != nil {
		out.Rows = append(out.Rows, d.factsChanged(p, a, s.Analyses[p.ID])...)
	}
	return out, len(out.Rows) > 0
}

// factsChanged are the figures of an analysis that stand in no table and are not as they were, and what came out of
// a claim.
func (d *made) factsChanged(p report.Piece, now, then *Analysis) (rows [][]export.Cell) {
	outcome := d.text("report.changes.outcome")
	add := func(name, was, is string) {
		if was != is || name == outcome {
			rows = append(rows, []export.Cell{{Text: name}, {}, {Text: was}, {Text: is}, {}})
		}
	}
	facts := func(a *Analysis) (order []string, at map[string]string) {
		at = map[string]string{}
		if a == nil || a.Document == nil {
			return nil, at
		}
		for _, b := range a.Document.Blocks {
			if !p.Shows(b.Kind) {
				continue
			}
			for _, f := range b.Facts {
				if at[f.Name] == "" {
					order = append(order, f.Name)
				}
				at[f.Name] = f.Value
			}
		}
		if a.Document.Outcome != nil {
			order, at[outcome] = append(order, outcome), a.Document.Outcome.Text
		}
		return order, at
	}
	order, is := facts(now)
	others, was := facts(then)
	for _, name := range others { // what is told of the other wave alone
		if _, told := is[name]; !told {
			order = append(order, name)
		}
	}
	for _, name := range order {
		add(name, was[name], is[name])
	}
	return rows
}

// nameOf is what a piece is called.
func (d *made) nameOf(p report.Piece) string {
	if a := d.c.Analyses[p.ID]; a != nil {
		if a.Claim > 0 {
			return a.name(d.Words) + ", " + a.Title
		}
		return a.Title
	}
	if t := d.c.Tallies[p.ID]; t != nil {
		if t.Question.Short != "" {
			return t.Question.Short
		}
		return t.Question.Wording
	}
	return ""
}

// difference is by how much a figure changed, of what stands there as it is shown; empty for what is no number, was
// not told, or is a p-value.
func difference(w *i18n.Catalogue, was, is export.Cell) export.Cell {
	if was.Number == nil || is.Number == nil || is.Format == export.PValue || was.Format == export.PValue {
		return export.Cell{}
	}
	x := *is.Number - *was.Number
	decimals := is.Decimals
	if decimals < 0 {
		decimals = 3
	}
	shift := math.Pow10(decimals)
	if math.Round(x*shift) == 0 {
		x = 0
	}
	return export.Cell{Text: w.Signed(x, decimals), Number: &x, Decimals: decimals, Format: export.Signed}
}
