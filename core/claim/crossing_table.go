package claim

import (
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
)

// meaning says what one cell stands for in the reading that is chosen.
func (c Crossing) meaning(t crossed, i, j int) document.Message {
	o, v := t.counts[i][j], c.values()
	group, answer, of, what, base := c.RowLabels[i], c.ColumnLabels[j], v["rows"], v["columns"], t.rowSum[i]
	if c.Reading == OfEachColumn {
		group, answer, of, what, base = answer, group, what, of, t.columnSum[j]
	}
	id := "read.cell.group"
	if c.Reading == OfEveryone || c.Reading == AsCounts {
		id, base = "read.cell."+string(c.Reading), t.n
	}
	if base == 0 {
		id = "read.cell.nobody"
	}
	v["group"], v["answer"], v["of"], v["what"] = document.Text(group), document.Text(answer), of, what
	v["base"], v["count"], v["percent"] = document.N(base), document.N(o), document.Of(document.Percent, percent(o, base))
	return document.Say(id, v)
}

// margin says what a sum stands for, whatever the reading.
func (c Crossing) margin(t crossed, sum int64, label string, q Question) document.Message {
	v := document.Values{"units": c.Units, "answer": document.Text(label), "what": q.called(), "count": document.N(sum), "base": document.N(t.n), "percent": document.Of(document.Percent, percent(sum, t.n))}
	if t.n == 0 {
		return document.Say("read.nobody", v)
	}
	return document.Say("read.cell.margin", v)
}

// table holds every figure of each cell; what is shown follows the reading.
func (c Crossing) table(t crossed, r *infer.Independence, decided verdict) *document.Table {
	out := &document.Table{Caption: document.Say("caption.crossing", c.values()), Stub: plain(c.Rows.called())}
	for _, l := range c.ColumnLabels {
		out.Columns = append(out.Columns, plain(document.Text(l)))
	}
	out.Columns = append(out.Columns, document.Say("column.all", nil))
	main := map[Reading]document.Role{OfEachRow: document.RowPercent, OfEachColumn: document.ColumnPercent, OfEveryone: document.TotalPercent, AsCounts: document.Observed}[c.Reading]
	out.Shown = []document.Role{main}
	if main != document.Observed {
		out.Shown = append(out.Shown, document.Observed)
	}
	out.Shown = append(out.Shown, c.Show...)
	if c.Reading == OfEachRow {
		strips := document.Say("column.strip", document.Values{"rows": c.Rows.called()})
		out.Strips = &strips
	}
	for i, label := range c.RowLabels {
		row := document.Row{Name: plain(document.Text(label)), Strip: c.strip(t.counts[i], t.rowSum[i])}
		for j, o := range t.counts[i] {
			cell := cellOf(o, t.rowSum[i], t.columnSum[j], t.n)
			cell.Said = c.meaning(t, i, j)
			if c.RowCodes != nil && o > 0 {
				rows, columns := c.places()
				cell.Who = []document.Who{{Question: rows, Code: c.RowCodes[i]}, {Question: columns, Code: c.ColumnCodes[j]}}
			}
			if r != nil {
				c.tested(&cell, r, decided, i, j)
			}
			row.Cells = append(row.Cells, cell)
		}
		all := cellOf(t.rowSum[i], t.rowSum[i], t.n, t.n)
		all.Said = c.margin(t, t.rowSum[i], label, c.Rows)
		row.Cells = append(row.Cells, all)
		out.Rows = append(out.Rows, row)
	}
	all := document.Row{Name: document.Say("column.all", nil), Total: true, Strip: c.strip(t.columnSum, t.n)}
	for j, sum := range t.columnSum {
		cell := cellOf(sum, t.n, sum, t.n)
		cell.Said = c.margin(t, sum, c.ColumnLabels[j], c.Columns)
		all.Cells = append(all.Cells, cell)
	}
	out.Rows = append(out.Rows, all)
	last := &out.Rows[len(out.Rows)-1]
	last.Cells = append(last.Cells, cellOf(t.n, t.n, t.n, t.n))
	if c.ShowMissing && c.Missing != nil {
		c.withMissing(out)
	}
	if c.HideEmpty {
		c.withoutEmpty(out, t)
	}
	return out
}

// withMissing adds the missing as counts behind the sums, which do not hold them.
func (c Crossing) withMissing(out *document.Table) {
	m := c.Missing
	count := func(n int64) document.Cell {
		return document.Cell{Faint: true, Figures: []document.Figure{{Role: out.Shown[0], Value: document.N(n)}}}
	}
	name := func(label string) document.Message {
		return document.Say("column.missing", document.Values{"reason": document.Text(label)})
	}
	for k, label := range m.ColumnLabels {
		out.Columns = append(out.Columns, name(label))
		for i := range c.RowLabels {
			out.Rows[i].Cells = append(out.Rows[i].Cells, count(m.Columns[i][k]))
		}
		sum := int64(0)
		for i := range c.RowLabels {
			sum += m.Columns[i][k]
		}
		all := &out.Rows[len(c.RowLabels)]
		all.Cells = append(all.Cells, count(sum))
	}
	for i, label := range m.RowLabels {
		row, sum := document.Row{Name: name(label), Total: true, Faint: true}, int64(0)
		for j, n := range m.Rows[i] {
			if j < len(c.ColumnLabels) {
				sum += n
			}
			if j == len(c.ColumnLabels) {
				row.Cells = append(row.Cells, count(sum))
			}
			row.Cells = append(row.Cells, count(n))
		}
		if len(m.ColumnLabels) == 0 {
			row.Cells = append(row.Cells, count(sum))
		}
		out.Rows = append(out.Rows, row)
	}
}

// withoutEmpty takes the rows and columns out of a table in which nobody is.
func (c Crossing) withoutEmpty(out *document.Table, t crossed) {
	for i, sum := range slices.Backward(t.rowSum) {
		if sum == 0 {
			out.Rows = slices.Delete(out.Rows, i, i+1)
		}
	}
	for j, sum := range slices.Backward(t.columnSum) {
		if sum > 0 {
			continue
		}
		out.Columns = slices.Delete(out.Columns, j, j+1)
		for i := range out.Rows {
			row := &out.Rows[i]
			row.Cells = slices.Delete(row.Cells, j, j+1)
			if len(row.Strip) > j {
				row.Strip = slices.Delete(row.Strip, j, j+1)
			}
		}
	}
}

func (c Crossing) strip(counts []int64, base int64) (out []float64) {
	if c.Reading != OfEachRow {
		return nil
	}
	for _, o := range counts {
		out = append(out, percent(o, base))
	}
	return out
}

// cellOf is a cell with its count and the percents of its row, its column and everyone; a
// percent of nobody is left out.
func cellOf(o, row, column, n int64) document.Cell {
	cell := document.Cell{Figures: []document.Figure{{Role: document.Observed, Value: document.N(o)}}}
	for _, f := range []struct {
		role document.Role
		base int64
	}{{document.RowPercent, row}, {document.ColumnPercent, column}, {document.TotalPercent, n}} {
		if f.base > 0 {
			cell.Figures = append(cell.Figures, document.Figure{Role: f.role, Value: document.Of(document.Bare, percent(o, f.base))})
		}
	}
	return cell
}

// tested adds what the test computes for the cell, and the mark where it stands out.
func (c Crossing) tested(cell *document.Cell, r *infer.Independence, decided verdict, i, j int) {
	ri, cj := slices.Index(r.RowsUsed, i), slices.Index(r.ColumnsUsed, j)
	if ri < 0 || cj < 0 {
		cell.Faint = true
		return
	}
	x := r.Cells[ri][cj]
	add := func(role document.Role, kind document.ValueKind, y float64) {
		cell.Figures = append(cell.Figures, document.Figure{Role: role, Value: document.Of(kind, y)})
	}
	add(document.Expected, document.Amount, x.Expected)
	add(document.ObservedLess, document.Amount, x.Difference)
	add(document.Pearson, document.Effect, x.Pearson)
	add(document.AdjustedResidual, document.Effect, x.Adjusted)
	add(document.Contribution, document.Statistic, x.Contribution)
	if c.Test != nil {
		cell.Mark = decided.markOf(x.Significant, r.DF, x.Difference)
	}
}
