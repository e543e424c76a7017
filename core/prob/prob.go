// Package prob gives tail probabilities and quantiles of the distributions that
// tests on counts need.
//
// Every tail is computed as that tail: the upper one is never one minus the
// lower one where that would lose digits, and the lower and the upper tail are
// separate functions, for probabilities and for quantiles. A probability is
// carried with its logarithm, so that 1e-400 is a number here and not zero.
//
// Arguments outside a function's domain give NaN in both fields; callers in
// this module check the domain first and report which input was wrong.
package prob

import "math"

// Prob is a probability in [0, 1] together with its common logarithm. Value is
// 0 when the probability lies below the range of a float64; Log10 still holds
// it then, and is -Inf only for a probability that is exactly zero.
type Prob struct {
	Value float64
	Log10 float64
}

// Less reports whether p is smaller than q, told apart by the logarithm, also
// where both values have underflowed to zero.
func (p Prob) Less(q Prob) bool { return p.Log10 < q.Log10 }

// AtMost reports whether p <= alpha, the rule by which a test rejects.
func (p Prob) AtMost(alpha float64) bool { return p.Log10 <= math.Log10(alpha) }

// Times returns min(1, k·p), the building block of Bonferroni-type adjustments.
func (p Prob) Times(k float64) Prob {
	l := p.Log10 + math.Log10(k)
	if l >= 0 {
		return Prob{Value: 1}
	}
	return Prob{Value: math.Min(1, p.Value*k), Log10: l}
}

var (
	zero = Prob{Value: 0, Log10: math.Inf(-1)}
	one  = Prob{Value: 1, Log10: 0}
	none = Prob{Value: math.NaN(), Log10: math.NaN()}
)

// fromLog builds a Prob from the natural logarithm of the probability.
func fromLog(ln float64) Prob {
	return Prob{Value: math.Exp(ln), Log10: ln / math.Ln10}
}

// complement builds 1 − p for a p that is not close to one, with the logarithm
// from log1p so that it keeps its digits when p is small.
func complement(p float64) Prob {
	return Prob{Value: 1 - p, Log10: math.Log1p(-p) / math.Ln10}
}

// logAdd returns ln(eᵃ + eᵇ) without leaving the logarithmic scale.
func logAdd(a, b float64) float64 {
	if a < b {
		a, b = b, a
	}
	if math.IsInf(b, -1) {
		return a
	}
	return a + math.Log1p(math.Exp(b-a))
}
