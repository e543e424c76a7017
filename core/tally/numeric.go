package tally

import (
	"math"
	"slices"

	"widetally/core/survey"
)

// Numeric summarises the numbers that respondents gave. Quartiles follow the
// definition that interpolates at position 1 + (n−1)p of the sorted values
// (Hyndman and Fan 1996, definition 7).
type Numeric struct {
	N                            int64
	Mean                         float64
	SD                           *float64 // divisor n − 1; nil for n < 2
	Smallest, Largest            float64
	Quartile1, Median, Quartile3 float64
	Sum                          float64
	Classes                      []Class
}

// Class is one band of a histogram: From ≤ x < To, the last one also x = To.
type Class struct {
	From, To float64
	Count    int64
}

// Summarise describes rising numbers, each given once; nil when there is none.
func Summarise(v []survey.Value) *Numeric {
	if len(v) == 0 {
		return nil
	}
	n := &Numeric{Smallest: v[0].Number, Largest: v[len(v)-1].Number}
	l := listOf(v)
	n.N = l.n
	m := measure(v, n.N)
	n.Sum, n.Mean = m.sum, m.mean
	if m.variance != nil {
		sd := math.Sqrt(*m.variance)
		n.SD = &sd
	}
	n.Quartile1, n.Median, n.Quartile3 = l.quantile7(0.25), l.quantile7(0.5), l.quantile7(0.75)
	n.Classes = classes(v, n.N)
	return n
}

// measures are the sum, the mean and the variance with divisor n − 1, nil for n < 2.
type measures struct {
	sum, mean float64
	variance  *float64
}

// measure takes two passes, with the remainder of the first subtracted (Chan, Golub and
// LeVeque 1983), so that a large mean costs no digits.
func measure(v []survey.Value, n int64) measures {
	var all sum
	for _, w := range v {
		all.add(w.Number, w.Times)
	}
	m := measures{sum: all.total()}
	m.mean = m.sum / float64(n)
	if n > 1 {
		var rest, squares sum
		for _, w := range v {
			x := w.Number - m.mean
			rest.add(x, w.Times)
			squares.add(x*x, w.Times)
		}
		r := rest.total()
		variance := math.Max(0, (squares.total()-r*r/float64(n))/float64(n-1))
		m.variance = &variance
	}
	return m
}

// skewness is the third central moment over the second to 3/2; nil where nothing varies.
func skewness(v []survey.Value, n int64, mean float64) *float64 {
	scale := math.Max(math.Abs(v[0].Number-mean), math.Abs(v[len(v)-1].Number-mean))
	if !(scale > 0) {
		return nil
	}
	var squares, cubes sum
	for _, w := range v {
		x := (w.Number - mean) / scale
		squares.add(x*x, w.Times)
		cubes.add(x*x*x, w.Times)
	}
	second, third := squares.total()/float64(n), cubes.total()/float64(n)
	g := third / math.Pow(second, 1.5)
	return &g
}

// sum adds numbers with the correction of Neumaier (1974); what a product loses is told by a
// fused multiplication (Ogita, Rump and Oishi 2005).
type sum struct{ so, lost float64 }

func (s *sum) add(x float64, times int64) {
	if times != 1 {
		factor := float64(times)
		product := x * factor
		s.lost += math.FMA(x, factor, -product)
		x = product
	}
	t := s.so + x
	if math.Abs(s.so) >= math.Abs(x) {
		s.lost += (s.so - t) + x
	} else {
		s.lost += (x - t) + s.so
	}
	s.so = t
}

func (s *sum) total() float64 { return s.so + s.lost }

// list is the list in which each number stands as often as it was given.
type list struct {
	v []survey.Value
	// so holds how many numbers stand up to each one; nil where each was given once.
	so []int64
	n  int64
}

func listOf(v []survey.Value) list {
	l := list{v: v}
	for _, w := range v {
		l.n += w.Times
	}
	if l.n > int64(len(v)) {
		l.so = make([]int64, len(v))
		so := int64(0)
		for i, w := range v {
			so += w.Times
			l.so[i] = so
		}
	}
	return l
}

// at returns the number in a place of the list, from 0.
func (l list) at(place int64) float64 {
	if l.so == nil {
		return l.v[place].Number
	}
	i, _ := slices.BinarySearch(l.so, place+1)
	return l.v[min(i, len(l.v)-1)].Number
}

// between interpolates at a place of the list that need not be whole.
func (l list) between(h float64) float64 {
	below := math.Floor(h)
	lower, upper := l.at(int64(below)), l.at(min(int64(below)+1, l.n-1))
	return lower + (h-below)*(upper-lower)
}

func (l list) quantile7(p float64) float64 { return l.between(float64(l.n-1) * p) }

// quantile6 interpolates at position (n+1)p, not before the first or after the last.
func (l list) quantile6(p float64) float64 {
	return l.between(math.Min(math.Max(float64(l.n+1)*p, 1), float64(l.n)) - 1)
}

// classes cuts sorted values into 6 to 15 bands whose width is 1, 2 or 5 times a
// power of ten.
func classes(sorted []survey.Value, n int64) []Class {
	lo, hi := sorted[0].Number, sorted[len(sorted)-1].Number
	if !(hi > lo) || math.IsInf(hi-lo, 0) {
		return []Class{{lo, hi, n}}
	}
	width := math.Pow(10, math.Floor(math.Log10((hi-lo)/15)))
	for _, step := range []float64{1, 2, 5, 10} {
		if (hi-lo)/(width*step) <= 14 {
			width *= step
			break
		}
	}
	first := math.Floor(lo / width)
	bands := int(math.Floor(hi/width)-first) + 1
	out := make([]Class, bands)
	for i := range out {
		out[i].From, out[i].To = (first+float64(i))*width, (first+float64(i)+1)*width
	}
	for _, w := range sorted {
		i := min(max(int(math.Floor(w.Number/width)-first), 0), bands-1)
		out[i].Count += w.Times
	}
	return out
}
