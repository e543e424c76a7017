package reporting

import (
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

// Printed makes of a table of a document one for a page. Where its cells hold percents and counts, the
// percents stand alone and each whole has its n, in a row below or a column at the end; what stands
// beside them in a cell has a row of its own. What stands out is explained under it.
func Printed(w *i18n.Catalogue, t *said.Table, notes []string) export.Table {
	return printed(w, t, notes, "mark.", wholeOf(t))
}

// printed is Printed where the words of the marks stand below an id, and each figure that is shown has its
// own row unless there is a whole.
func printed(w *i18n.Catalogue, t *said.Table, notes []string, marks string, whole document.Role) export.Table {
	across, down := slices.Index(t.Columns, w.Text("column.all", nil)), slices.IndexFunc(t.Rows, func(r said.Row) bool { return r.Total })
	out := export.Table{Title: t.Caption, Notes: notes, Head: append([]string{t.Stub}, t.Columns...), Figures: Figures(w, t)}
	for _, line := range t.Over {
		var of []export.Spanning
		for _, s := range line {
			of = append(of, export.Spanning(s))
		}
		out.Over = append(out.Over, of)
	}
	others := slices.Clone(t.Shown[min(1, len(t.Shown)):])
	if whole != "" {
		others = slices.DeleteFunc(others, func(r document.Role) bool { return r == document.Observed })
	}
	n := w.Text("column.n", nil)
	if whole == document.RowPercent && across >= 0 {
		out.Head = append(out.Head, n)
	}
	for _, r := range t.Rows {
		row := line(r.Name, r.Cells, t.Shown[0])
		if whole == document.RowPercent && across >= 0 && across < len(r.Cells) && !r.Faint {
			row = append(slices.Concat(row, make([]export.Cell, len(out.Head)-1-len(row))), cellOf(r.Cells[across], document.Observed))
		}
		out.Rows = append(out.Rows, row)
		if r.Total {
			out.Foot++
		} else {
			out.Foot = 0
		}
		for _, role := range others {
			if r.Total && r.Faint { // of respondents, which are one figure
				break
			}
			if beside := line("\u2003"+w.Text("role."+string(role), nil), r.Cells, role); slices.ContainsFunc(beside[1:], func(c export.Cell) bool { return c.Text != "" }) {
				out.Rows = append(out.Rows, beside)
			}
		}
	}
	if whole == document.ColumnPercent && down >= 0 {
		out.Rows = append(out.Rows, line(n, t.Rows[down].Cells, document.Observed))
		out.Foot++
	}
	var legend []string
	for _, mark := range []document.Mark{document.More, document.Fewer} {
		if slices.ContainsFunc(t.Rows, func(r said.Row) bool {
			return slices.ContainsFunc(r.Cells, func(c said.Cell) bool { return c.Mark == mark })
		}) {
			legend = append(legend, export.Mark(mark)+" "+w.Text(marks+string(mark), nil))
		}
	}
	if len(legend) > 0 {
		out.Notes = append([]string{strings.Join(legend, "; ")}, notes...)
	}
	return out
}

// wholeOf tells of what the percents of a table are, each cell of which has a count, too; "" where its
// cells hold something else.
func wholeOf(t *said.Table) document.Role {
	if len(t.Shown) < 2 || !slices.Contains(t.Shown, document.Observed) {
		return ""
	}
	if t.Whole != "" {
		return t.Whole
	}
	if main := t.Shown[0]; main == document.RowPercent || main == document.ColumnPercent || main == document.TotalPercent {
		return main
	}
	return ""
}

// line is a row of one figure of each cell.
func line(name string, cells []said.Cell, role document.Role) []export.Cell {
	row := []export.Cell{{Text: name}}
	for _, c := range cells {
		row = append(row, cellOf(c, role))
	}
	return row
}

func cellOf(c said.Cell, role document.Role) export.Cell {
	f, ok := c.Figure(role)
	if !ok {
		return export.Cell{}
	}
	out := export.Cell{Text: f.Text}
	if role == document.Main || role != document.Observed {
		out.Mark = string(c.Mark)
	}
	if above, ok := c.Figure(document.Above); ok && role != document.Observed {
		out.Above = above.Text
	}
	out.Few = c.Few
	switch {
	case f.Number == nil:
	case f.Kind == document.PExact || f.Kind == document.PEqual:
		out.Number, out.Decimals, out.Format = f.Number, -1, export.PValue
	case f.Kind == document.Percent:
		out.Number, out.Decimals, out.Format = f.Number, 1, export.PercentSign
	case f.Kind == document.Difference:
		out.Number, out.Decimals, out.Format = f.Number, 1, export.Signed
	case f.Plain:
		out.Number, out.Decimals = f.Number, f.Decimals
	case f.Kind == document.Measure || f.Kind == document.Rounded:
		out.Number, out.Decimals = f.Number, -1
	}
	return out
}

// Figures are all figures of a table one by one, those that are not shown, too, each with its base where
// it is a percent.
func Figures(w *i18n.Catalogue, t *said.Table) (out []export.Figure) {
	across := slices.Index(t.Columns, w.Text("column.all", nil))
	down := slices.IndexFunc(t.Rows, func(r said.Row) bool { return r.Total })
	columns := t.Paths()
	observed := func(row, column int) *float64 {
		if row < 0 || column < 0 || column >= len(t.Rows[row].Cells) {
			return nil
		}
		f, ok := t.Rows[row].Cells[column].Figure(document.Observed)
		if !ok {
			return nil
		}
		return f.Number
	}
	for i, r := range t.Rows {
		if r.Head {
			continue
		}
		for k, c := range r.Cells {
			for _, f := range c.Figures {
				one := export.Figure{Row: r.Name, Column: columns[k], Text: f.Text, Number: f.Number}
				if f.Role != document.Main {
					one.What = w.Text("role."+string(f.Role), nil)
				}
				of := f.Role
				if of == document.Main {
					of = t.Whole
				}
				switch of {
				case document.RowPercent:
					one.Base = observed(i, across)
				case document.ColumnPercent:
					one.Base = observed(down, k)
				case document.TotalPercent:
					one.Base = observed(down, across)
				}
				out = append(out, one)
			}
		}
	}
	return out
}
