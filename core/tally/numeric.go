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

// Summarise returns nil when no respondent gave a number. Values of a coded
// discrete question are taken from valueOf; slots it does not know are skipped.
func Summarise(c survey.Column, valueOf map[survey.Slot]float64) *Numeric {
	var v []float64
	switch {
	case c.F64 != nil:
		for _, x := range c.F64 {
			if !math.IsNaN(x) {
				v = append(v, x)
			}
		}
	case c.U8 != nil:
		for _, s := range c.U8 {
			if x, ok := valueOf[survey.Slot(s)]; ok {
				v = append(v, x)
			}
		}
	case c.U16 != nil:
		for _, s := range c.U16 {
			if x, ok := valueOf[survey.Slot(s)]; ok {
				v = append(v, x)
			}
		}
	}
	if len(v) == 0 {
		return nil
	}
	slices.Sort(v)
	n := &Numeric{N: int64(len(v)), Smallest: v[0], Largest: v[len(v)-1]}
	n.Sum = compensatedSum(v)
	n.Mean = n.Sum / float64(len(v))
	if len(v) > 1 {
		// Two passes, with the remainder of the first subtracted (Chan, Golub and
		// LeVeque 1983), so that a large mean costs no digits.
		squares := make([]float64, len(v))
		rest := make([]float64, len(v))
		for i, x := range v {
			rest[i] = x - n.Mean
			squares[i] = rest[i] * rest[i]
		}
		r := compensatedSum(rest)
		sd := math.Sqrt((compensatedSum(squares) - r*r/float64(len(v))) / float64(len(v)-1))
		n.SD = &sd
	}
	n.Quartile1, n.Median, n.Quartile3 = quantile7(v, 0.25), quantile7(v, 0.5), quantile7(v, 0.75)
	n.Classes = classes(v)
	return n
}

// compensatedSum adds with the correction of Neumaier (1974).
func compensatedSum(v []float64) float64 {
	sum, lost := 0.0, 0.0
	for _, x := range v {
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

func quantile7(sorted []float64, p float64) float64 {
	h := float64(len(sorted)-1) * p
	i := int(math.Floor(h))
	if i+1 >= len(sorted) {
		return sorted[len(sorted)-1]
	}
	return sorted[i] + (h-float64(i))*(sorted[i+1]-sorted[i])
}

// classes cuts sorted values into 6 to 15 bands whose width is 1, 2 or 5 times a
// power of ten.
func classes(sorted []float64) []Class {
	lo, hi := sorted[0], sorted[len(sorted)-1]
	if !(hi > lo) || math.IsInf(hi-lo, 0) {
		return []Class{{lo, hi, int64(len(sorted))}}
	}
	width := math.Pow(10, math.Floor(math.Log10((hi-lo)/15)))
	for _, step := range []float64{1, 2, 5, 10} {
		if (hi-lo)/(width*step) <= 14 {
			width *= step
			break
		}
	}
	first := math.Floor(lo / width)
	n := int(math.Floor(hi/width)-first) + 1
	out := make([]Class, n)
	for i := range out {
		out[i].From, out[i].To = (first+float64(i))*width, (first+float64(i)+1)*width
	}
	for _, x := range sorted {
		i := min(max(int(math.Floor(x/width)-first), 0), n-1)
		out[i].Count++
	}
	return out
}
