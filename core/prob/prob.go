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

import (
	"math"
	"math/big"
)

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

// FromLog builds a Prob from its natural logarithm, cut at probability 1.
func FromLog(ln float64) Prob { return fromLog(math.Min(0, ln)) }

// FromRatio returns a/b for 0 ≤ a and 0 < b, cut at 1.
func FromRatio(a, b float64) Prob {
	if !(a < b) {
		return Prob{Value: 1}
	}
	if a == 0 {
		return zero
	}
	return Prob{Value: a / b, Log10: ratioLog(a, b) / math.Ln10}
}

// ratioLog is ln(a/b), by log1p near 1.
func ratioLog(a, b float64) float64 {
	if a > b/2 {
		return math.Log1p((a - b) / b)
	}
	return math.Log(a) - math.Log(b)
}

// FromCounts returns a/b of whole numbers 0 ≤ a ≤ b, b > 0, of any size.
func FromCounts(a, b *big.Int) Prob {
	if a.Sign() == 0 {
		return zero
	}
	const digits = 160
	q := new(big.Float).SetPrec(digits).Quo(new(big.Float).SetPrec(digits).SetInt(a), new(big.Float).SetPrec(digits).SetInt(b))
	v, _ := q.Float64()
	if v > 0.5 {
		rest := new(big.Float).SetPrec(digits).SetInt(new(big.Int).Sub(b, a))
		r, _ := rest.Quo(rest, new(big.Float).SetPrec(digits).SetInt(b)).Float64()
		return Prob{Value: v, Log10: math.Log1p(-r) / math.Ln10}
	}
	mantissa := new(big.Float)
	exponent := q.MantExp(mantissa)
	m, _ := mantissa.Float64()
	return Prob{Value: v, Log10: math.Log10(m) + float64(exponent)*math.Log10(2)}
}

// Tails holds the p-values of the three directions of a test.
type Tails struct{ Less, Greater, TwoSided Prob }
