package disclosure

import (
	"math"
	"slices"
)

// Sum is a linear relation between the counts of a table: the count at Whole is the sum of those at Parts and of
// Rest, which is known and not among them.
type Sum struct {
	Whole int
	Parts []int
	Rest  int64
}

// Counts is the counts that a table publishes, and how they hang together.
type Counts struct {
	N    []int64
	Sums []Sum
	// Hidden counts are never published, and need no protection: such as how many did not choose an answer.
	Hidden []bool
	// Margin marks totals, which are kept as long as others can be left out.
	Margin []bool
}

// Suppressed says of each count whether it is left out.
type Suppressed struct {
	// Primary counts are small themselves; Secondary ones would tell one of these by subtraction.
	Primary, Secondary []bool
	// Could is what can still be told of each count from those that are published; nil where none is left out.
	Could []Range
}

// Out reports whether a count is left out.
func (s Suppressed) Out(i int) bool { return s.Primary[i] || s.Secondary[i] }

// Small marks the counts that are above 0 and below the smallest allowed one.
func (c Counts) Small(smallest int64) []bool {
	out := make([]bool, len(c.N))
	for i, n := range c.N {
		out[i] = !c.hidden(i) && n > 0 && n < smallest
	}
	return out
}

// Suppress leaves out the primary counts, and so many others that nobody can tell any count that is left out
// more closely than to a range of width, from the published ones, their sums, and that no count is negative.
// The others are found one count after the other: of all
// changes of the table by which that count would be larger by the width, that which touches the smallest
// and the fewest published counts (Kelly, Golden and Assad 1992, Cell suppression; Cox 1995), a linear program
// for each. Where no change is possible all counts of the sums that it stands in are left out.
func Suppress(c Counts, primary []bool, width int64) Suppressed {
	s := Suppressed{Primary: primary, Secondary: make([]bool, len(c.N))}
	if !slices.Contains(s.Primary, true) {
		return s
	}
	for range len(c.N) + 1 {
		s.Could = c.Bounds(s)
		narrow := c.narrow(s, width)
		if narrow < 0 {
			return s
		}
		touched, ok := c.change(s, narrow, width)
		if !ok {
			touched = c.around(narrow)
		}
		grown := false
		for _, i := range touched {
			if !s.Out(i) && !c.hidden(i) {
				s.Secondary[i], grown = true, true
			}
		}
		if grown {
			continue
		}
		for i := range c.N { // nothing that hangs together helps
			if !s.Out(i) && !c.hidden(i) {
				s.Secondary[i] = true
			}
		}
	}
	return s
}

func (c Counts) hidden(i int) bool { return c.Hidden != nil && c.Hidden[i] }

func (c Counts) margin(i int) bool { return c.Margin != nil && c.Margin[i] }

// narrow finds a count that is left out and can be told too closely; −1 for none.
func (c Counts) narrow(s Suppressed, width int64) int {
	for i := range c.N {
		if s.Out(i) && s.Could[i].Upper-s.Could[i].Lower < float64(width)-near {
			return i
		}
	}
	return -1
}

// around are the counts that stand in a sum with one.
func (c Counts) around(i int) (out []int) {
	for _, sum := range c.Sums {
		if sum.Whole == i || slices.Contains(sum.Parts, i) {
			out = append(append(out, sum.Whole), sum.Parts...)
		}
	}
	return out
}

// Range is what can be told of a count: both ends are the count itself where it is published, and Upper is +Inf
// where nothing bounds it.
type Range struct{ Lower, Upper float64 }

// Bounds are what can be told of each count from the published ones: the least and the largest that it could be
// (Fréchet bounds where there is one sum, in general linear programs).
func (c Counts) Bounds(s Suppressed) []Range {
	out := make([]Range, len(c.N))
	at := map[int]int{}
	var open []int
	for i, n := range c.N {
		out[i] = Range{float64(n), float64(n)}
		if s.Out(i) || c.hidden(i) {
			at[i] = len(open)
			open = append(open, i)
		}
	}
	p := program{upper: make([]float64, len(open))}
	for k := range open {
		p.upper[k] = math.Inf(1)
	}
	for _, sum := range c.Sums {
		row, right, any := make([]float64, len(open)), float64(sum.Rest), false
		put := func(i int, sign float64) {
			if k, is := at[i]; is {
				row[k] += sign
				any = true
			} else {
				right -= sign * float64(c.N[i])
			}
		}
		put(sum.Whole, 1)
		for _, i := range sum.Parts {
			put(i, -1)
		}
		if any {
			p.rows, p.right = append(p.rows, row), append(p.right, right)
		}
	}
	from, ok := p.begin()
	for k, i := range open {
		if !ok { // counts that are no table: nothing is told of them
			out[i] = Range{0, math.Inf(1)}
			continue
		}
		cost := make([]float64, len(from.upper))
		cost[k] = 1
		least := from.minimise(cost)
		cost[k] = -1
		most := -from.minimise(cost)
		out[i] = Range{math.Max(0, math.Ceil(least-near)), math.Floor(most + near)}
	}
	return out
}

// What it costs to leave a count out: the larger it is the more is lost, and totals cost most.
const (
	costOfOut    = 1e-3
	costOfZero   = 40
	costOfMargin = 400
)

// change finds the counts that a change of the table touches by which one is larger by the width, those that are
// left out already for nearly nothing; false where there is none.
func (c Counts) change(s Suppressed, grows int, width int64) (touched []int, ok bool) {
	n := len(c.N)
	p := program{upper: make([]float64, 2*n)} // how much each grows, and by how much it shrinks
	cost := make([]float64, 2*n)
	for i, x := range c.N {
		p.upper[i], p.upper[n+i] = float64(width)*float64(n), float64(x)
		each := 1 + math.Log1p(float64(x))
		switch {
		case s.Out(i) || c.hidden(i):
			each = costOfOut
		case c.margin(i):
			each += costOfMargin
		case x == 0:
			each = costOfZero
		}
		cost[i], cost[n+i] = each, each
	}
	p.upper[grows], p.upper[n+grows] = 0, 0
	for _, sum := range c.Sums {
		row, right := make([]float64, 2*n), 0.0
		put := func(i int, sign float64) {
			if i == grows {
				right -= sign * float64(width)
			}
			row[i] += sign
			row[n+i] -= sign
		}
		put(sum.Whole, 1)
		for _, i := range sum.Parts {
			put(i, -1)
		}
		p.rows, p.right = append(p.rows, row), append(p.right, right)
	}
	from, ok := p.begin()
	if !ok {
		return nil, false
	}
	from.minimise(append(cost, make([]float64, len(p.rows))...))
	x := from.at()
	for i := range n {
		if math.Abs(x[i]-x[n+i]) > near {
			touched = append(touched, i)
		}
	}
	return touched, true
}
