package book

import (
	"math"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Others stands in a comparison for all respondents of the table who are not in the column.
const Others = -1

// Comparison is a figure of one column against that of another, or of all others.
type Comparison struct {
	// Other is the column, or Others.
	Other int
	// Difference is the figure of this column less the other one.
	Difference float64
	// Statistic is z, or t with DF degrees of freedom where these are not 0.
	Statistic, DF float64
	// P is two-sided; Adjusted is adjusted for all comparisons of the table.
	P, Adjusted prob.Prob
	// Levels is how many of the book's levels the adjusted p-value lies below.
	Levels int
}

// turned is the comparison as the other column has it.
func (c Comparison) turned(column int) Comparison {
	c.Other, c.Difference, c.Statistic = column, -c.Difference, -c.Statistic
	return c
}

// Above lists the columns over which a cell stands out, and whether by the strictest of two levels.
func (c Cell) Above() (columns []int, strictly []bool) {
	for _, one := range c.Compared {
		if one.Other != Others && one.Levels > 0 && one.Difference > 0 {
			columns, strictly = append(columns, one.Other), append(strictly, one.Levels > 1)
		}
	}
	return columns, strictly
}

// Mark tells whether a cell stands out against all others; "" where it does not.
func (c Cell) Mark() document.Mark {
	for _, one := range c.Compared {
		switch {
		case one.Other != Others || one.Levels == 0:
		case one.Difference > 0:
			return document.More
		default:
			return document.Fewer
		}
	}
	return ""
}

// leastExpected is the expected count below which shares are not compared: the usual condition for the
// normal approximation (Cochran 1954).
const leastExpected = 5

// side is one of two shares that are compared: so many of so many.
type side struct{ hits, n int64 }

func (s side) share() float64 { return float64(s.hits) / float64(s.n) }

func (s side) less(o side) side { return side{s.hits - o.hits, s.n - o.n} }

// bears reports whether two shares bear a comparison: bases that are not too few, expected counts that are
// not too small.
func (b Book) bears(s, o side) bool {
	if !b.enough(s.n) || !b.enough(o.n) {
		return false
	}
	pooled := float64(s.hits+o.hits) / float64(s.n+o.n)
	return float64(min(s.n, o.n))*math.Min(pooled, 1-pooled) >= leastExpected
}

// enough reports whether a base is large enough to be compared.
func (b Book) enough(n int64) bool { return n >= max(b.Few, b.Least, 2) }

// compareShares is the test of two independent shares by the pooled share, whose square is Pearson's
// chi-square without correction.
func compareShares(s, o side) Comparison {
	p, q := s.share(), o.share()
	pooled := float64(s.hits+o.hits) / float64(s.n+o.n)
	z := (p - q) / math.Sqrt(pooled*(1-pooled)*(1/float64(s.n)+1/float64(o.n)))
	return Comparison{Difference: p - q, Statistic: z, P: prob.NormalTwoSided(z)}
}

// moments are those of numbers: how many, their mean and the sum of their squared departures from it.
type moments struct {
	n        int64
	mean, m2 float64
}

// with takes further numbers in (Chan, Golub and LeVeque 1979).
func (m moments) with(o moments) moments {
	switch {
	case o.n == 0:
		return m
	case m.n == 0:
		return o
	}
	n := float64(m.n + o.n)
	away := o.mean - m.mean
	return moments{m.n + o.n, m.mean + away*float64(o.n)/n, m.m2 + o.m2 + away*away*float64(m.n)*float64(o.n)/n}
}

// variance is that of one number, with the divisor n − 1.
func (m moments) variance() float64 { return m.m2 / float64(m.n-1) }

// compareMeans is the test of two independent means with variances of their own (Welch 1947); false where
// neither group varies.
func compareMeans(s, o moments) (Comparison, bool) {
	a, b := s.variance()/float64(s.n), o.variance()/float64(o.n)
	if !(a+b > 0) {
		return Comparison{}, false
	}
	df := (a + b) * (a + b) / (a*a/float64(s.n-1) + b*b/float64(o.n-1))
	t := (s.mean - o.mean) / math.Sqrt(a+b)
	return Comparison{Difference: s.mean - o.mean, Statistic: t, DF: df, P: prob.StudentTwoSided(t, df)}, true
}

// compareEstimates is the test of a difference with its variance by the design, with its degrees of freedom;
// false without variance.
func compareEstimates(difference, variance, df float64) (Comparison, bool) {
	if !(variance > 0) || !(df >= 1) {
		return Comparison{}, false
	}
	t := difference / math.Sqrt(variance)
	return Comparison{Difference: difference, Statistic: t, DF: df, P: prob.StudentTwoSided(t, df)}, true
}

// pairs calls f for each comparison of columns of a partition that a book tells of; other is Others or the
// place of another column.
func (b Book) pairs(l *Layout, p part, f func(place, other int)) {
	switch b.Differences.Against {
	case AllOthers:
		for place := range p.columns {
			f(place, Others)
		}
	case EachOther:
		for place, column := range p.columns {
			for other := place + 1; other < len(p.columns); other++ {
				if family := l.Columns[column].Family; family >= 0 && family == l.Columns[p.columns[other]].Family {
					f(place, other)
				}
			}
		}
	}
}

// compare compares the columns of a partition in a row: test gives a comparison, or false where too few
// stand behind it.
func (m *maker) compare(made *Made, row *Row, p part, test func(place, other int) (Comparison, bool)) {
	if made.own(p) {
		return
	}
	m.book.pairs(m.layout, p, func(place, other int) {
		c, is := test(place, other)
		if !is {
			made.Untested++
			return
		}
		made.Tests++
		cell := &row.Cells[p.columns[place]]
		if c.Other = Others; other != Others {
			c.Other = p.columns[other]
			to := &row.Cells[p.columns[other]]
			to.Compared = append(to.Compared, c.turned(p.columns[place]))
		}
		cell.Compared = append(cell.Compared, c)
	})
}

// adjust adjusts the p-values of a table for being looked at together, and tells which lie below the levels.
func (t *Made) adjust(d Differences) {
	type place struct {
		cell *Cell
		at   int
	}
	var places []place
	var p []prob.Prob
	twin := map[[3]int]int{} // of a pair of columns in a row
	index := []int{}
	for r := range t.Rows {
		for column := range t.Rows[r].Cells {
			cell := &t.Rows[r].Cells[column]
			for i, c := range cell.Compared {
				places = append(places, place{cell, i})
				if c.Other != Others && c.Other < column {
					index = append(index, twin[[3]int{r, c.Other, column}])
					continue
				}
				twin[[3]int{r, column, c.Other}] = len(p)
				index, p = append(index, len(p)), append(p, c.P)
			}
		}
	}
	adjusted := p
	switch d.Adjust {
	case "", ByHolm:
		adjusted = infer.Holm(p)
	case ByBenjaminiHochberg:
		adjusted = infer.BenjaminiHochberg(p)
	}
	for i, at := range places {
		c := &at.cell.Compared[at.at]
		c.Adjusted = adjusted[index[i]]
		for _, level := range d.levels() {
			if c.Adjusted.Value < level {
				c.Levels++
			}
		}
	}
}
