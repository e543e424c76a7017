package exact

import (
	"math"
	"math/big"

	"widetally/core/prob"
)

// scaled is a positive number as mantissa · 2^exponent with the mantissa in [½, 1),
// rounded once from an exact value, so that products of many keep 14 digits and
// factorials of thousands have a place.
type scaled struct {
	mantissa float64
	exponent int
}

func toScaled(x *big.Float) scaled {
	m := new(big.Float)
	e := x.MantExp(m)
	f, _ := m.Float64()
	return scaled{f, e}
}

func (s scaled) times(t scaled) scaled {
	m, e := math.Frexp(s.mantissa * t.mantissa)
	return scaled{m, s.exponent + t.exponent + e}
}

func (s scaled) inverse() scaled {
	m, e := math.Frexp(1 / s.mantissa)
	return scaled{m, e - s.exponent}
}

func (s scaled) float() float64 { return math.Ldexp(s.mantissa, s.exponent) }

var one = scaled{0.5, 1}

// over returns s/t as a probability, cut at 1.
func (s scaled) over(t scaled) prob.Prob {
	q := s.times(t.inverse())
	if q.exponent > 0 {
		return prob.Prob{Value: 1}
	}
	if q.exponent == 0 { // between ½ and 1: the logarithm from what is missing to 1
		rest := (math.Ldexp(t.mantissa, t.exponent-s.exponent) - s.mantissa) / math.Ldexp(t.mantissa, t.exponent-s.exponent)
		return prob.Prob{Value: q.mantissa, Log10: math.Log1p(-math.Max(0, rest)) / math.Ln10}
	}
	return prob.Prob{Value: q.float(), Log10: math.Log10(q.mantissa) + float64(q.exponent)*math.Log10(2)}
}

// precision in bits of the products that weights are rounded from.
const precision = 160

// factorials returns 0! … n!, each rounded once.
func factorials(n int) []scaled {
	out := make([]scaled, n+1)
	f := big.NewFloat(1).SetPrec(precision)
	out[0] = toScaled(f)
	for i := 1; i <= n; i++ {
		f.Mul(f, new(big.Float).SetInt64(int64(i)))
		out[i] = toScaled(f)
	}
	return out
}

// sum adds with the correction of Neumaier (1974).
type sum struct{ total, lost float64 }

func (s *sum) add(x float64) {
	t := s.total + x
	if math.Abs(s.total) >= math.Abs(x) {
		s.lost += (s.total - t) + x
	} else {
		s.lost += (x - t) + s.total
	}
	s.total = t
}

func (s *sum) value() float64 { return s.total + s.lost }
