package disclosure

import (
	"math"
	"slices"

	"widetally/core/document"
)

// extremes are the figures of single respondents, by the ends of their names.
var extremes = []string{"smallest", "largest", "range"}

// Document is what of a document may leave by a rule, of an analysis of so many respondents. Where a count of one of
// its tables is withheld, so are the sentences, figures and pictures that are made of all counts: a statistic and all
// counts but one tell that one.
func Document(d document.Document, r Rule, n int64) document.Document {
	if !r.InForce() {
		return d
	}
	out := document.Document{Notes: d.Notes, Outcome: d.Outcome, Ticks: d.Ticks}
	if n > 0 && n < r.Least {
		out.Notes, out.Outcome, out.Ticks = nil, nil, nil
		out.Blocks = []document.Block{
			{
				Kind: document.Sentence, Said: []document.Message{
					document.Say("disclosure.few", document.Values{"least": document.N(r.Least)}),
				},
			},
		}
		return out
	}
	withheld := false
	var blocks []document.Block
	derived := map[*document.Table]bool{} // tables of figures alone that are made of counts
	for _, b := range d.Blocks {
		if b.Table != nil {
			t, some, counts := protectedTable(*b.Table, r, n)
			b.Table, withheld = &t, withheld || some
			derived[b.Table] = !counts
		}
		blocks = append(blocks, b)
	}
	for _, b := range blocks {
		switch {
		case b.Chart != nil && r.singles(*b.Chart):
			continue
		case b.Table != nil && withheld && derived[b.Table]:
			continue
		case b.Table != nil || b.Kind == document.Choices || b.Kind == document.Hypotheses || b.Kind == document.Heading:
		case withheld && b.Kind == document.Sentence:
			b.Said = []document.Message{document.Say("disclosure.with_small", document.Values{"fewest": document.N(r.Fewest)})}
		case withheld:
			continue
		}
		b.Said = r.said(b.Said)
		b.Facts = slices.Clone(b.Facts)
		b.Facts = slices.DeleteFunc(
			b.Facts, func(f document.Fact) bool {
				return r.Least > 1 && slices.Contains(extremes, f.Key) || n > 0 && !r.Quantile(f.Key, n)
			},
		)
		for i := range b.Facts {
			b.Facts[i].Value = r.message(b.Facts[i].Value)
		}
		out.Blocks = append(out.Blocks, b)
	}
	if withheld {
		out.Notes, out.Outcome = nil, nil
	}
	for i, note := range out.Notes {
		if i == 0 {
			out.Notes = slices.Clone(out.Notes)
		}
		out.Notes[i].Message = r.message(note.Message)
	}
	return out
}

// singles reports whether a picture tells of single respondents by a rule that does not: one of numbers along an axis,
// where each stands, as a box and its ends, dots or classes of few.
func (r Rule) singles(p document.Picture) bool {
	of := p.Plot
	return of != nil && (r.Least > 1 || r.Fewest > 1) && len(of.Names) == 0 && !of.Flat
}

// said are texts without those that tell of extremes, their counts rounded.
func (r Rule) said(list []document.Message) []document.Message {
	var out []document.Message
	for _, m := range list {
		if _, smallest := m.Values["smallest"]; smallest && r.Least > 1 {
			if _, largest := m.Values["largest"]; largest {
				continue
			}
		}
		out = append(out, r.message(m))
	}
	return out
}

// message is a message with its counts rounded, and the percents beside them whole.
func (r Rule) message(m document.Message) document.Message {
	if r.Rounding < 2 || m.Values == nil {
		return m
	}
	out := document.Message{ID: m.ID, Values: document.Values{}}
	for name, v := range m.Values {
		out.Values[name] = r.value(v)
	}
	return out
}

func (r Rule) value(v document.Value) document.Value {
	if r.Rounding < 2 {
		return v
	}
	switch v.Kind {
	case document.Count:
		v.Number = float64(r.Rounded(int64(v.Number)))
	case document.Percent, document.Bare, document.Points, document.Difference:
		v.Number = math.Round(v.Number)
	}
	if v.Message != nil {
		m := r.message(*v.Message)
		v.Message = &m
	}
	v.List = slices.Clone(v.List)
	for i := range v.List {
		v.List[i] = r.value(v.List[i])
	}
	return v
}

// countOf is the count of a cell: what was observed, or its only figure where that is a count.
func countOf(c document.Cell) (int64, bool) {
	for _, f := range c.Figures {
		if f.Role == document.Observed || f.Role == document.Main && f.Value.Kind == document.Count {
			return int64(f.Value.Number), f.Value.Kind == document.Count
		}
	}
	return 0, false
}

// isTotal reports whether a row holds the sums or the bases of those over it.
func isTotal(r document.Row) bool { return r.Total || r.Name.ID == "column.n" }

// protectedTable is a table as a rule lets it leave, whether some of it is withheld, and whether it has counts at all.
// Of a row that tells of a count beside what is computed from it, both are withheld. Its sums are those of its
// rows of totals and of its column of all, as far as they add up; what is missing from a sum is taken to be known.
func protectedTable(t document.Table, r Rule, n int64) (of document.Table, some, counts bool) {
	width := len(t.Columns)
	c, at := Counts{}, map[[2]int]int{}
	for i, row := range t.Rows {
		for j, cell := range row.Cells {
			if n, is := countOf(cell); is {
				at[[2]int{i, j}] = len(c.N)
				c.N, c.Margin = append(c.N, n), append(c.Margin, isTotal(row) || j < width && isAll(t.Columns[j]))
			}
		}
	}
	sum := func(whole [2]int, parts [][2]int) {
		w, is := at[whole]
		if !is || len(parts) == 0 {
			return
		}
		s := Sum{Whole: w, Rest: c.N[w]}
		for _, p := range parts {
			k, is := at[p]
			if !is {
				return
			}
			s.Parts, s.Rest = append(s.Parts, k), s.Rest-c.N[k]
		}
		if s.Rest >= 0 {
			c.Sums = append(c.Sums, s)
		}
	}
	var over []int // the rows since the last heading
	for i, row := range t.Rows {
		switch {
		case row.Head:
			over = nil
			continue
		case isTotal(row):
			for j := range row.Cells {
				var parts [][2]int
				for _, k := range over {
					parts = append(parts, [2]int{k, j})
				}
				sum([2]int{i, j}, parts)
			}
		default:
			over = append(over, i)
		}
		for j := range row.Cells {
			if j < width && isAll(t.Columns[j]) {
				var parts [][2]int
				for k := range row.Cells {
					if k != j {
						parts = append(parts, [2]int{i, k})
					}
				}
				sum([2]int{i, j}, parts)
			}
		}
	}
	primary := c.Small(r.Fewest)
	for i, row := range t.Rows {
		for j := range row.Cells {
			base := isTotal(row) || j < width && isBase(t.Columns[j])
			if k, is := at[[2]int{i, j}]; is && base && c.N[k] > 0 && c.N[k] < r.Least {
				primary[k] = true
			}
		}
	}
	s := Suppress(c, primary, r.Width())
	out := func(i, j int) bool {
		if k, is := at[[2]int{i, j}]; is {
			return s.Out(k)
		}
		for other := range t.Rows[i].Cells {
			k, is := at[[2]int{i, other}]
			if is && s.Out(k) {
				return true
			}
			base := is && other < width && j < width && isBase(t.Columns[other])
			if base && !r.Quantile(lastPart(t.Columns[j].ID), c.N[k]) {
				return true
			}
		}
		return false
	}
	return r.shown(t, n, out), slices.Contains(primary, true), len(c.N) > 0
}

// isBase reports whether a column holds the numbers of respondents that the figures beside them are of.
func isBase(m document.Message) bool { return m.ID == "column.n" }

func isAll(m document.Message) bool { return m.ID == "column.all" || m.ID == "column.total" }

// shown is a table without the cells that are withheld, its counts rounded or left out.
func (r Rule) shown(t document.Table, n int64, out func(row, column int) bool) document.Table {
	rows := make([]document.Row, 0, len(t.Rows))
	for i, row := range t.Rows {
		name := lastPart(row.Name.ID)
		if r.Least > 1 && slices.Contains(extremes, name) || n > 0 && !r.Quantile(name, n) {
			continue
		}
		row.Cells = slices.Clone(row.Cells)
		withheld := false
		for j := range row.Cells {
			c := &row.Cells[j]
			if out(i, j) || j < len(t.Columns) && r.Least > 1 && slices.Contains(extremes, lastPart(t.Columns[j].ID)) {
				withheld = true
				role := document.Main
				if len(t.Shown) > 0 {
					role = t.Shown[0]
				}
				*c = document.Cell{
					Faint: true, Figures: []document.Figure{
						{Role: role, Value: document.Term("disclosure.sign")},
					}, Said: document.Say("disclosure.not_told", nil),
				}
				continue
			}
			c.Figures = slices.Clone(c.Figures)
			if r.PercentsOnly && len(c.Figures) > 1 && !isTotal(row) {
				c.Figures = slices.DeleteFunc(c.Figures, func(f document.Figure) bool { return f.Role == document.Observed })
			}
			for k := range c.Figures {
				c.Figures[k].Value = r.value(c.Figures[k].Value)
			}
			c.Said = r.message(c.Said)
		}
		if withheld {
			row.Strip = nil
		}
		rows = append(rows, row)
	}
	t.Rows = rows
	return t
}

func lastPart(id string) string {
	for i := len(id) - 1; i >= 0; i-- {
		if id[i] == '.' {
			return id[i+1:]
		}
	}
	return id
}
