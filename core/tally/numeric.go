package tally

import (
	"cmp"
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

// value is a number with the respondents who gave it.
type value struct {
	x     float64
	times int64
}

// Summarise returns nil when no respondent gave a number. Values of a coded
// discrete question are taken from valueOf; slots it does not know are skipped.
func Summarise(c survey.Column, valueOf map[survey.Slot]float64, of survey.Sample) *Numeric {
	v := numbers(c, valueOf, of)
	if len(v) == 0 {
		return nil
	}
	slices.SortFunc(v, func(a, b value) int { return cmp.Compare(a.x, b.x) })
	n := &Numeric{Smallest: v[0].x, Largest: v[len(v)-1].x}
	for _, w := range v {
		n.N += w.times
	}
	m := measure(v, n.N)
	n.Sum, n.Mean = m.sum, m.mean
	if m.variance != nil {
		sd := math.Sqrt(*m.variance)
		n.SD = &sd
	}
	n.Quartile1, n.Median, n.Quartile3 = quantile7(v, n.N, 0.25), quantile7(v, n.N, 0.5), quantile7(v, n.N, 0.75)
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
func measure(v []value, n int64) measures {
	m := measures{sum: compensatedSum(v, func(x float64) float64 { return x })}
	m.mean = m.sum / float64(n)
	if n > 1 {
		rest := compensatedSum(v, func(x float64) float64 { return x - m.mean })
		squares := compensatedSum(v, func(x float64) float64 { return (x - m.mean) * (x - m.mean) })
		variance := math.Max(0, (squares-rest*rest/float64(n))/float64(n-1))
		m.variance = &variance
	}
	return m
}

func numbers(c survey.Column, valueOf map[survey.Slot]float64, of survey.Sample) []value {
	var v []value
	of.Each(c.Rows(), func(i int, times int64) {
		x, known := 0.0, false
		switch {
		case c.F64 != nil:
			x, known = c.F64[i], !math.IsNaN(c.F64[i])
		case c.U8 != nil:
			x, known = valueOf[survey.Slot(c.U8[i])]
		case c.U16 != nil:
			x, known = valueOf[survey.Slot(c.U16[i])]
		}
		if known {
			v = append(v, value{x, times})
		}
	})
	return v
}

// compensatedSum adds f of each number with the correction of Neumaier (1974).
func compensatedSum(v []value, f func(x float64) float64) float64 {
	sum, lost := 0.0, 0.0
	for _, w := range v {
		x := f(w.x) * float64(w.times)
		t := sum + x
		if math.Abs(sum) >= math.Abs(x) {
			lost += (sum - t) + x
		} else {
			lost += (x - t) + sum
		}
		sum = t
	}
	return sum + lost
}

// quantile7 interpolates in the list in which each number stands as often as it was
// given; n is that list's length.
func quantile7(sorted []value, n int64, p float64) float64 {
	h := float64(n-1) * p
	below := math.Floor(h)
	lower, upper := at(sorted, int64(below)), at(sorted, min(int64(below)+1, n-1))
	return lower + (h-below)*(upper-lower)
}

// at returns the number in a 0-based place of the list of all respondents.
func at(sorted []value, place int64) float64 {
	for _, w := range sorted {
		if place -= w.times; place < 0 {
			return w.x
		}
	}
	return sorted[len(sorted)-1].x
}

// classes cuts sorted values into 6 to 15 bands whose width is 1, 2 or 5 times a
// power of ten.
func classes(sorted []value, n int64) []Class {
	lo, hi := sorted[0].x, sorted[len(sorted)-1].x
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
		i := min(max(int(math.Floor(w.x/width)-first), 0), bands-1)
		out[i].Count += w.times
	}
	return out
}
