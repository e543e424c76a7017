package book

import (
	"math"
	"slices"

	"widetally/core/survey"
	"widetally/core/tally"
)

// counted makes the rows of a line from its counts by the partitions.
func (m *maker) counted(l placedLine, grids []grid) {
	for _, r := range l.rows {
		row := m.row(r.kind, r.label)
		row.Net = r.answers
		of := func(g grid, place int) (s side) {
			for a, counts := range g {
				s.n += counts[place]
				if slices.Contains(r.answers, a) {
					s.hits += counts[place]
				}
			}
			return s
		}
		var all side
		for place := range len(m.layout.parts[0].columns) + 1 {
			one := of(grids[0], place)
			all.hits, all.n = all.hits+one.hits, all.n+one.n
		}
		row.All = shareCell(all)
		m.everyone(&row)
		for i, p := range m.layout.parts {
			for place, column := range p.columns {
				row.Cells[column] = shareCell(of(grids[i], place))
			}
			m.compare(l.made, &row, p, func(place, other int) (Comparison, bool) {
				s := of(grids[i], place)
				o := all.less(s)
				if other != Others {
					o = of(grids[i], other)
				}
				if !m.book.bears(s, o) {
					return Comparison{}, false
				}
				return compareShares(s, o), true
			})
		}
		l.made.Rows = append(l.made.Rows, row)
	}
	if l.numbers != nil {
		m.numbers(l, func(part, place int) (values []survey.Value) {
			for a, counts := range grids[part] {
				if n := counts[place]; n > 0 && !math.IsNaN(l.numbers[a]) {
					values = append(values, survey.Value{Number: l.numbers[a], Times: n})
				}
			}
			return survey.Merged(values)
		})
	}
}

// row is an empty row.
func (m *maker) row(kind RowKind, label string) Row {
	return Row{Kind: kind, Label: label, Cells: make([]Cell, len(m.layout.Columns))}
}

// everyone gives the columns of everyone their figure.
func (m *maker) everyone(row *Row) {
	for i, c := range m.layout.Columns {
		if c.part < 0 {
			row.Cells[i] = row.All
		}
	}
}

func shareCell(s side) Cell {
	c := Cell{Base: Base{N: s.n}, Count: s.hits}
	if s.n > 0 {
		p := s.share()
		se := math.Sqrt(p * (1 - p) / float64(s.n))
		c.Value, c.SE = &p, &se
	}
	return c
}

// describe makes the rows of a line of numbers.
func (m *maker) describe(l placedLine) error {
	values := make([][][]survey.Value, len(m.layout.parts))
	for i, p := range m.layout.parts {
		groups, err := m.over(l.line, p).DescriptivesBy(m.ctx, lineKey, partKey, m.book.Subgroup)
		if err != nil {
			return err
		}
		values[i] = make([][]survey.Value, len(groups))
		for place, s := range groups {
			if s == nil {
				continue
			}
			for _, r := range s.Rows {
				values[i][place] = append(values[i][place], survey.Value{Number: r.Value, Times: r.Count})
			}
		}
	}
	m.numbers(l, func(part, place int) []survey.Value { return values[part][place] })
	return nil
}

// numbers makes the rows of a mean and a median; values gives the numbers of a place, rising.
func (m *maker) numbers(l placedLine, values func(part, place int) []survey.Value) {
	mean, median := m.row(MeanRow, l.label()), m.row(MedianRow, "")
	if l.made.Battery == nil {
		mean.Label = ""
	}
	of := make([][]moments, len(m.layout.parts))
	var everyone []survey.Value
	for i, p := range m.layout.parts {
		of[i] = make([]moments, len(p.columns)+1)
		for place := range of[i] {
			v := values(i, place)
			if i == 0 {
				everyone = append(everyone, v...)
			}
			var middle float64
			if of[i][place], middle = momentsOf(v); place < len(p.columns) {
				column := p.columns[place]
				mean.Cells[column], median.Cells[column] = meanCell(of[i][place]), medianCell(of[i][place].n, middle)
			}
		}
	}
	everyone = survey.Merged(everyone)
	all, middle := momentsOf(everyone)
	mean.All, median.All = meanCell(all), medianCell(all.n, middle)
	m.everyone(&mean)
	m.everyone(&median)
	for i, p := range m.layout.parts {
		m.compare(l.made, &mean, p, func(place, other int) (Comparison, bool) {
			s, o := of[i][place], moments{}
			if other != Others {
				o = of[i][other]
			} else {
				for k, one := range of[i] {
					if k != place {
						o = o.with(one)
					}
				}
			}
			if !m.book.enough(s.n) || !m.book.enough(o.n) {
				return Comparison{}, false
			}
			return compareMeans(s, o)
		})
	}
	l.made.Rows = append(l.made.Rows, mean)
	if l.made.Battery == nil {
		l.made.Rows = append(l.made.Rows, median)
	}
}

// label is what a row of the line alone is called.
func (l line) label() string { return l.Question.Wording }

// momentsOf are those of rising numbers, with their median.
func momentsOf(values []survey.Value) (m moments, median float64) {
	s := tally.Summarise(values)
	if s == nil {
		return m, 0
	}
	m = moments{n: s.N, mean: s.Mean}
	if s.SD != nil {
		m.m2 = *s.SD * *s.SD * float64(s.N-1)
	}
	return m, s.Median
}

func meanCell(m moments) Cell {
	c := Cell{Base: Base{N: m.n}}
	if m.n > 0 {
		c.Value = &m.mean
	}
	if m.n > 1 {
		se := math.Sqrt(m.variance() / float64(m.n))
		c.SE = &se
	}
	return c
}

func medianCell(n int64, median float64) Cell {
	c := Cell{Base: Base{N: n}}
	if n > 0 {
		c.Value = &median
	}
	return c
}
