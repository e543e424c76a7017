package crosstab

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Meaning says what one cell stands for in the reading that is chosen.
func (c Crossing) Meaning(t Crossed, i, j int) document.Message {
	o, v := t.counts[i][j], c.Values()
	group, answer, of, what, base := c.RowLabels[i], c.ColumnLabels[j], v["rows"], v["columns"], t.RowSum[i]
	if c.Reading == OfEachColumn {
		group, answer, of, what, base = answer, group, what, of, t.ColumnSum[j]
	}
	id := "read.cell.group"
	if c.Reading == OfEveryone || c.Reading == AsCounts {
		id, base = "read.cell."+string(c.Reading), t.N
	}
	if base == 0 {
		id = "read.cell.nobody"
	}
	v["group"], v["answer"], v["of"], v["what"] = document.Text(group), document.Text(answer), of, what
	v["base"], v["count"], v["percent"] = document.N(base), document.N(o), document.Of(document.Percent, claim.Percent(o, base))
	return document.Say(id, v)
}

// Margin says what a sum stands for, whatever the reading.
func (c Crossing) Margin(t Crossed, sum int64, label string, q claim.Question) document.Message {
	v := document.Values{
		"units":   c.Units,
		"answer":  document.Text(label),
		"what":    q.Called(),
		"count":   document.N(sum),
		"base":    document.N(t.N),
		"percent": document.Of(document.Percent, claim.Percent(sum, t.N)),
	}
	if t.N == 0 {
		return document.Say("read.nobody", v)
	}
	return document.Say("read.cell.margin", v)
}

// Table holds every figure of each cell; what is shown follows the reading.
func (c Crossing) Table(t Crossed, r *infer.Independence, decided claim.Verdict) *document.Table {
	out := &document.Table{Caption: document.Say("caption.crosstab", c.Values()), Stub: claim.Plain(c.Rows.Called())}
	for _, l := range c.ColumnLabels {
		out.Columns = append(out.Columns, claim.Plain(document.Text(l)))
	}
	out.Columns = append(out.Columns, say.ColumnAll())
	main := map[Reading]document.Role{OfEachRow: document.RowPercent, OfEachColumn: document.ColumnPercent, OfEveryone: document.TotalPercent, AsCounts: document.Observed}[c.Reading]
	out.Shown = []document.Role{main}
	if main != document.Observed {
		out.Shown = append(out.Shown, document.Observed)
	}
	out.Shown = append(out.Shown, c.Show...)
	if c.Reading == OfEachRow {
		strips := say.ColumnStrip(c.Rows.Called())
		out.Strips = &strips
	}
	for i, label := range c.RowLabels {
		row := document.Row{Name: claim.Plain(document.Text(label)), Strip: c.strip(t.counts[i], t.RowSum[i])}
		for j, o := range t.counts[i] {
			cell := CellOf(o, t.RowSum[i], t.ColumnSum[j], t.N)
			cell.Said = c.Meaning(t, i, j)
			if c.RowCodes != nil && o > 0 {
				rows, columns := c.places()
				cell.Who = []document.Who{{Question: rows, Code: c.RowCodes[i]}, {Question: columns, Code: c.ColumnCodes[j]}}
			}
			if r != nil {
				c.tested(&cell, r, decided, i, j)
			}
			row.Cells = append(row.Cells, cell)
		}
		all := CellOf(t.RowSum[i], t.RowSum[i], t.N, t.N)
		all.Said = c.Margin(t, t.RowSum[i], label, c.Rows)
		row.Cells = append(row.Cells, all)
		out.Rows = append(out.Rows, row)
	}
	all := document.Row{Name: say.ColumnAll(), Total: true, Strip: c.strip(t.ColumnSum, t.N)}
	for j, sum := range t.ColumnSum {
		cell := CellOf(sum, t.N, sum, t.N)
		cell.Said = c.Margin(t, sum, c.ColumnLabels[j], c.Columns)
		all.Cells = append(all.Cells, cell)
	}
	out.Rows = append(out.Rows, all)
	last := &out.Rows[len(out.Rows)-1]
	last.Cells = append(last.Cells, CellOf(t.N, t.N, t.N, t.N))
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
		return say.ColumnMissing(label)
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
func (c Crossing) withoutEmpty(out *document.Table, t Crossed) {
	for i, sum := range slices.Backward(t.RowSum) {
		if sum == 0 {
			out.Rows = slices.Delete(out.Rows, i, i+1)
		}
	}
	for j, sum := range slices.Backward(t.ColumnSum) {
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
		out = append(out, claim.Percent(o, base))
	}
	return out
}

// CellOf is a cell with its count and the percents of its row, its column and everyone; a
// percent of nobody is left out.
func CellOf(o, row, column, n int64) document.Cell {
	cell := document.Cell{Figures: []document.Figure{{Role: document.Observed, Value: document.N(o)}}}
	for _, f := range []struct {
		role document.Role
		base int64
	}{{document.RowPercent, row}, {document.ColumnPercent, column}, {document.TotalPercent, n}} {
		if f.base > 0 {
			cell.Figures = append(
				cell.Figures,
				document.Figure{Role: f.role, Value: document.Of(document.Bare, claim.Percent(o, f.base))},
			)
		}
	}
	return cell
}

// tested adds what the test computes for the cell, and the mark where it stands out.
func (c Crossing) tested(cell *document.Cell, r *infer.Independence, decided claim.Verdict, i, j int) {
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
		cell.Mark = decided.MarkOf(x.Significant, r.DF, x.Difference)
	}
}
