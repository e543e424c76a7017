package design

import (
	"math"
	"sort"

	"widetally/core/prob"
)

// Quantile is the smallest observed number up to which a share of the population lies, with the
// interval of Woodruff (1952).
type Quantile struct {
	Probability float64 `json:"probability"`
	Quantile    float64 `json:"quantile"`
	// CDF is the share up to Quantile.
	CDF              float64 `json:"cdf"`
	CDFStandardError float64 `json:"cdfStandardError"`
	// Lower and Upper are nil where Quantile is the largest number, or without degrees of freedom. An
	// end is open where it lies beyond the smallest or the largest number, which it then is.
	Lower         *float64 `json:"lower"`
	Upper         *float64 `json:"upper"`
	LowerOpen     bool     `json:"lowerOpen"`
	UpperOpen     bool     `json:"upperOpen"`
	StandardError *float64 `json:"standardError"`
}

// Slack is how much a share may fall short of a probability by rounding.
const Slack = 1e-12

// Quantiles are those of a part at probabilities between 0 and 1. Errors: EmptyBase,
// EmptyReplicate.
func (s *Sample) Quantiles(of Part, probabilities []float64, confidence float64) (Base, []Quantile, error) {
	b, err := s.base(func(k int) bool { _, in := of(k); return in })
	if err != nil {
		return b, nil, err
	}
	at, below := s.distribution(of, b.Sum)
	var out []Quantile
	for _, q := range probabilities {
		x := Quantile{Probability: q}
		i := reach(below, q)
		x.Quantile, x.CDF = at[i], below[i]
		upTo := func(k int) (float64, bool) {
			y, in := of(k)
			return Indicator(y <= x.Quantile), in
		}
		v, err := s.estimates(1, func(weights []float64) []float64 {
			return []float64{s.meanOf(upTo, weights)}
		}, func(k int, z []float64) {
			z[0] = 0
			if below, in := upTo(k); in {
				z[0] = s.Weights[k] * (below - x.CDF) / b.Sum
			}
		})
		if err != nil {
			return b, nil, err
		}
		x.CDFStandardError = v.SE(0)
		if i < len(at)-1 && b.DF >= 1 {
			x.between(at, below, prob.StudentUpperQuantile((1-confidence)/2, float64(b.DF)))
		}
		out = append(out, x)
	}
	return b, out, nil
}

// Quantiles are those of the numbers of cells, rising, at probabilities between 0 and 1. The base must
// hold somebody.
func (c *Cells) Quantiles(numbers, probabilities []float64, confidence float64) (out []Quantile) {
	var at, below []float64
	var cells []int
	var sum Sum
	for cell, n := range c.Count {
		if n > 0 {
			sum.Add(c.Total[cell])
			at, below, cells = append(at, numbers[cell]), append(below, math.Min(1, sum.Value()/c.Sum)), append(cells, cell)
		}
	}
	below[len(below)-1] = 1
	for _, q := range probabilities {
		i := reach(below, q)
		x := Quantile{Probability: q, Quantile: at[i], CDF: below[i]}
		if i < len(at)-1 {
			x.CDFStandardError = c.Ratios(1, func(_, cell int) float64 { return Indicator(cell <= cells[i]) }, everywhere).SE(0)
			if c.DF >= 1 {
				x.between(at, below, prob.StudentUpperQuantile((1-confidence)/2, float64(c.DF)))
			}
		}
		out = append(out, x)
	}
	return out
}

func everywhere(int, int) float64 { return 1 }

// between sets the limits, Q(q ± t se).
func (x *Quantile) between(at, below []float64, t float64) {
	from, to := x.Probability-t*x.CDFStandardError, x.Probability+t*x.CDFStandardError
	lower, upper := at[0], at[len(at)-1]
	if x.LowerOpen = from <= 0; !x.LowerOpen {
		lower = at[reach(below, from)]
	}
	if x.UpperOpen = to >= 1; !x.UpperOpen {
		upper = at[reach(below, to)]
	}
	x.Lower, x.Upper = &lower, &upper
	if !x.LowerOpen && !x.UpperOpen {
		se := (upper - lower) / (2 * t)
		x.StandardError = &se
	}
}

// distribution gives the numbers that were observed, rising, and the share of the population up to
// each, exactly 1 at the last.
func (s *Sample) distribution(of Part, all float64) (at, below []float64) {
	type one struct{ y, w float64 }
	var every []one
	for k, w := range s.Weights {
		if y, in := of(k); in {
			every = append(every, one{y, w})
		}
	}
	sort.Slice(every, func(i, j int) bool { return every[i].y < every[j].y })
	var sum Sum
	for i, e := range every {
		sum.Add(e.w)
		if i+1 == len(every) || every[i+1].y != e.y {
			at, below = append(at, e.y), append(below, math.Min(1, sum.Value()/all))
		}
	}
	below[len(below)-1] = 1
	return at, below
}

func reach(below []float64, q float64) int {
	return min(sort.Search(len(below), func(i int) bool { return below[i] >= q-Slack }), len(below)-1)
}
