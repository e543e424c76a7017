package book

import (
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/survey"
)

const (
	lineKey = analysis.Key("\x00line")
	partKey = analysis.Key("\x00part")
)

// over gives a source in which a line and a partition are questions.
func (m *maker) over(l line, p part) analysis.Columns {
	of := m.from.Columns
	of.Counted = nil
	get := of.Get
	of.Get = func(k analysis.Key) (survey.Source, error) {
		switch k {
		case lineKey:
			return l.Source, nil
		case partKey:
			return p.Source, nil
		}
		return get(k)
	}
	return of
}

// estimate makes all lines by the design in force.
func (m *maker) estimate() error {
	for _, l := range m.ready {
		if err := m.ctx.Err(); err != nil {
			return err
		}
		var err error
		if l.measured {
			err = m.drawn(l)
		} else {
			err = m.cells(l)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// cells makes the rows of a line of answers.
func (m *maker) cells(l placedLine) error {
	by := make([]*design.Cells, len(m.layout.parts))
	for i, p := range m.layout.parts {
		c, err := m.over(l.line, p).Cells(m.ctx, []analysis.Key{lineKey, partKey}, m.book.Subgroup)
		if err != nil && !empty(err) {
			return err
		}
		by[i] = c
	}
	for _, r := range l.rows {
		row := m.row(r.kind, r.label)
		row.Net = r.answers
		for i, p := range m.layout.parts {
			m.partRow(l, &row, p, by[i], i == 0, func(cell int) (float64, bool) {
				return design.Indicator(slices.Contains(r.answers, cell/(len(p.columns)+1))), true
			})
		}
		m.everyone(&row)
		l.made.Rows = append(l.made.Rows, row)
	}
	if l.numbers == nil {
		return nil
	}
	mean, median := m.row(MeanRow, ""), m.row(MedianRow, "")
	if l.made.Battery != nil {
		mean.Label = l.Question.Wording
	}
	for i, p := range m.layout.parts {
		places := len(p.columns) + 1
		m.partRow(l, &mean, p, by[i], i == 0, func(cell int) (float64, bool) {
			x := l.numbers[cell/places]
			return x, !math.IsNaN(x)
		})
		for place, column := range p.columns {
			median.Cells[column] = middle(by[i], l.numbers, places, func(at int) bool { return at == place })
		}
		if i == 0 {
			median.All = middle(by[i], l.numbers, places, func(int) bool { return true })
		}
	}
	m.everyone(&mean)
	m.everyone(&median)
	l.made.Rows = append(l.made.Rows, mean)
	if l.made.Battery == nil {
		l.made.Rows = append(l.made.Rows, median)
	}
	return nil
}

// target is respondents of whom a row has a figure: those of a place, of all others, or everyone.
type target struct {
	place    int
	all, not bool
}

func (t target) holds(place int) bool { return t.all || (place == t.place) != t.not }

// partRow makes the figures of a row in the columns of a partition, and compares them: score gives the
// number of a cell, 0 or 1 for a share, and whether it has one. Where everyone is asked for, that, too.
func (m *maker) partRow(
	l placedLine, row *Row, p part, cells *design.Cells, everyone bool, score func(cell int) (float64, bool),
) {
	if cells == nil {
		return
	}
	places := len(p.columns) + 1
	var targets []target
	var bases []Base
	index := map[target]int{}
	add := func(t target) {
		base := baseOf(cells, func(cell int) bool { _, is := score(cell); return is && t.holds(cell%places) })
		if base.N > 0 {
			index[t] = len(targets)
			targets, bases = append(targets, t), append(bases, base)
		}
	}
	for place := range p.columns {
		add(target{place: place})
		if m.book.Differences.Against == AllOthers {
			add(target{place: place, not: true})
		}
	}
	if everyone {
		add(target{all: true})
	}
	if len(targets) == 0 {
		return
	}
	in := func(i, cell int) float64 {
		_, is := score(cell)
		return design.Indicator(is && targets[i].holds(cell%places))
	}
	r := cells.Ratios(len(targets), func(i, cell int) float64 {
		x, is := score(cell)
		if !is {
			return 0
		}
		return x * in(i, cell)
	}, in)
	hits := make([]int64, len(targets))
	cellOf := func(i int) Cell {
		value, se := r.Value[i], r.SE(i)
		c := Cell{Base: bases[i]}
		if row.Kind.Shares() {
			var total design.Sum
			for cell, n := range cells.Count {
				if x, is := score(cell); is && x == 1 && targets[i].holds(cell%places) {
					c.Count += n
					total.Add(cells.Total[cell])
				}
			}
			c.Total, hits[i] = total.Value(), c.Count
			if c.Count == 0 || c.Count == c.N {
				value = design.Indicator(c.Count > 0)
			}
		}
		c.Value = &value
		if row.Kind.Shares() || c.N > 1 {
			c.SE = &se
		}
		return c
	}
	for i, t := range targets {
		c := cellOf(i)
		switch {
		case t.all:
			row.All = c
		case !t.not:
			row.Cells[p.columns[t.place]] = c
		}
	}
	m.compare(l.made, row, p, func(place, other int) (Comparison, bool) {
		a, here := index[target{place: place}]
		to := target{place: place, not: true}
		if other != Others {
			to = target{place: other}
		}
		b, there := index[to]
		switch {
		case !here || !there || !m.book.enough(bases[a].N) || !m.book.enough(bases[b].N):
			return Comparison{}, false
		case row.Kind.Shares() && !m.book.bears(side{hits[a], bases[a].N}, side{hits[b], bases[b].N}):
			return Comparison{}, false
		}
		v := r.Covariance
		return compareEstimates(r.Value[a]-r.Value[b], v[a][a]+v[b][b]-2*v[a][b], float64(cells.DF))
	})
}

// middle is the smallest number up to which half of the weights of some places lie.
func middle(cells *design.Cells, numbers []float64, places int, in func(place int) bool) Cell {
	if cells == nil {
		return Cell{}
	}
	holds := func(cell int) bool { return in(cell%places) && !math.IsNaN(numbers[cell/places]) }
	c := Cell{Base: baseOf(cells, holds)}
	if c.N == 0 {
		return c
	}
	totals := make([]design.Sum, len(numbers))
	for cell, t := range cells.Total {
		if cells.Count[cell] > 0 && holds(cell) {
			totals[cell/places].Add(t)
		}
	}
	order := make([]int, 0, len(numbers))
	for i := range numbers {
		if totals[i].Value() > 0 {
			order = append(order, i)
		}
	}
	slices.SortFunc(order, func(a, b int) int {
		if numbers[a] < numbers[b] {
			return -1
		}
		return 1
	})
	var upTo design.Sum
	for _, i := range order {
		upTo.Add(totals[i].Value())
		c.Value = &numbers[i]
		if upTo.Value() >= (0.5-design.Slack)*c.Sum {
			break
		}
	}
	return c
}

// drawn makes the rows of a line of numbers.
func (m *maker) drawn(l placedLine) error {
	mean, median := m.row(MeanRow, ""), m.row(MedianRow, "")
	for i, p := range m.layout.parts {
		if err := m.drawnPart(l, &mean, &median, p, i == 0); err != nil {
			return err
		}
	}
	m.everyone(&mean)
	m.everyone(&median)
	l.made.Rows = append(l.made.Rows, mean, median)
	return nil
}

func (m *maker) drawnPart(l placedLine, mean, median *Row, p part, everyone bool) error {
	d, err := m.over(l.line, p).Drawing(m.ctx, lineKey, partKey, m.book.Subgroup)
	if err != nil {
		return err
	}
	var targets []target
	for place := range p.columns {
		targets = append(targets, target{place: place})
		if m.book.Differences.Against == AllOthers {
			targets = append(targets, target{place: place, not: true})
		}
	}
	if everyone {
		targets = append(targets, target{all: true})
	}
	index := map[target]int{}
	var parts []design.Part
	for _, t := range targets {
		of := d.Sample.Of(func(row int) (float64, bool) {
			x, in := d.Number(row)
			return x, in && t.holds(d.Group(row))
		})
		middle, err := d.Sample.Median(of)
		if empty(err) {
			continue
		}
		if err != nil {
			return err
		}
		index[t] = len(parts)
		parts = append(parts, of)
		switch {
		case t.all:
			median.All.Value = &middle
		case !t.not:
			median.Cells[p.columns[t.place]].Value = &middle
		}
	}
	if len(parts) == 0 {
		return nil
	}
	of, err := d.Sample.Means(parts)
	if err != nil {
		return err
	}
	for t, i := range index {
		one := of.Parts[i]
		c := Cell{Base: Base{N: one.N, Sum: one.Sum, Kish: one.KishN}, Value: &one.Mean}
		if se := one.SE(); c.N > 1 {
			c.SE = &se
		}
		switch {
		case t.all:
			mean.All, median.All.Base = c, c.Base
		case !t.not:
			mean.Cells[p.columns[t.place]], median.Cells[p.columns[t.place]].Base = c, c.Base
		}
	}
	m.compare(l.made, mean, p, func(place, other int) (Comparison, bool) {
		a, here := index[target{place: place}]
		to := target{place: place, not: true}
		if other != Others {
			to = target{place: other}
		}
		b, there := index[to]
		if !here || !there || !m.book.enough(of.Parts[a].N) || !m.book.enough(of.Parts[b].N) {
			return Comparison{}, false
		}
		v := of.Covariance
		return compareEstimates(of.Parts[a].Mean-of.Parts[b].Mean, v[a][a]+v[b][b]-2*v[a][b], float64(of.DF))
	})
	return nil
}
