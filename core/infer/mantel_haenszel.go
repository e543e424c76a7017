package infer

import (
	"math"

	"widetally/core/prob"
)

// MantelHaenszel is the comparison of two groups within layers that are kept apart: a 2 × 2
// table per layer, rows the groups, the first column the outcome.
type MantelHaenszel struct {
	Layers     []Layer
	Confidence float64
	// Statistic is that of Cochran (1954) and Mantel and Haenszel (1959, Statistical
	// aspects of the analysis of data from retrospective studies):
	// (Σ a − Σ E)²/Σ Var, 1 degree of freedom; Corrected takes ½ off |Σ a − Σ E|, not
	// below 0.
	Statistic, Corrected float64
	DF                   int
	P, CorrectedP        prob.Prob
	// CommonOddsRatio is that of Mantel and Haenszel with the interval of Robins,
	// Breslow and Greenland (1986), nil where no layer has a pair for or none against.
	CommonOddsRatio  *float64
	LogStandardError *float64
	Interval         *Interval
	// Homogeneity asks whether one odds ratio fits all layers (Breslow and Day 1980,
	// section 4.4), Tarone with the correction of Tarone (1985); nil with fewer than
	// two layers that bear on it, or without a common odds ratio.
	Homogeneity *LayerHomogeneity
	Conditions  []Condition
}

// Layer is one table with its part in the sums.
type Layer struct {
	Table              [2][2]int64
	N                  int64
	Expected, Variance float64 // of the first cell, margins fixed
	OddsRatio          *float64
	// LeftOut: a margin is empty, so that the layer says nothing about the groups.
	LeftOut bool
	// Fitted is the first cell under the common odds ratio, margins kept.
	Fitted *float64
}

// LayerHomogeneity is the test of Breslow and Day.
type LayerHomogeneity struct {
	Statistic float64
	DF        int
	P         prob.Prob
	Tarone    float64
	TaroneP   prob.Prob
}

// ComputeMantelHaenszel compares two groups over layers. Errors, all *InputError with the layer
// as Index: no layer, a negative or too large count, every layer left out, a confidence
// outside (0, 1).
func ComputeMantelHaenszel(tables [][2][2]int64, confidence float64) (*MantelHaenszel, error) {
	fail := func(why Reason, at int) error { return &InputError{"layers", why, at} }
	if !(confidence > 0 && confidence < 1) {
		return nil, fail(LevelRange, -1)
	}
	r := &MantelHaenszel{Confidence: confidence, DF: 1}
	var away, variance, below, above float64
	used := 0
	for k, t := range tables {
		var n int64
		for _, o := range []int64{t[0][0], t[0][1], t[1][0], t[1][1]} {
			if o < 0 {
				return nil, fail(NegativeCount, k)
			}
			if o > MaxCount || n > MaxCount-o {
				return nil, fail(CountTooLarge, k)
			}
			n += o
		}
		l := newLayer(t, n)
		if !l.LeftOut {
			used++
			away += crossDifference(t[0][0], t[1][1], t[0][1], t[1][0]) / float64(n) // a − E
			variance += l.Variance
			row, column := float64(t[0][0]+t[0][1]), float64(t[0][0]+t[1][0])
			below += l.Expected - math.Max(0, row+column-float64(n))
			above += math.Min(row, column) - l.Expected
		}
		r.Layers = append(r.Layers, l)
	}
	if used == 0 {
		return nil, fail(NoVariation, -1)
	}
	reduced := math.Max(0, math.Abs(away)-0.5)
	r.Statistic, r.Corrected = away/variance*away, reduced/variance*reduced
	r.P, r.CorrectedP = prob.ChiSquareUpper(r.Statistic, 1), prob.ChiSquareUpper(r.Corrected, 1)
	r.Conditions = []Condition{atLeast(RoomAtLeast, math.Min(below, above), 5)}
	r.common()
	if r.CommonOddsRatio != nil && used > 1 {
		r.homogeneity(*r.CommonOddsRatio, used)
	}
	return r, nil
}

func newLayer(t [2][2]int64, count int64) Layer {
	a, b, c, d := float64(t[0][0]), float64(t[0][1]), float64(t[1][0]), float64(t[1][1])
	l := Layer{Table: t, N: count}
	if a+b == 0 || c+d == 0 || a+c == 0 || b+d == 0 {
		l.LeftOut = true
		return l
	}
	n := float64(count)
	l.Expected = (a + b) / n * (a + c)
	l.Variance = l.Expected * ((c + d) / n) * ((b + d) / (n - 1))
	if b > 0 && c > 0 {
		or := a / b * (d / c)
		l.OddsRatio = &or
	}
	return l
}

// common is the odds ratio of Mantel and Haenszel: Σ ad/n over Σ bc/n.
func (r *MantelHaenszel) common() {
	var above, below, pa, mixed, qb float64
	for _, l := range r.Layers {
		if l.LeftOut {
			continue
		}
		n := float64(l.N)
		a, b, c, d := float64(l.Table[0][0]), float64(l.Table[0][1]), float64(l.Table[1][0]), float64(l.Table[1][1])
		p, q := (a+d)/n, (b+c)/n
		x, y := a/n*d, b/n*c
		above, below = above+x, below+y
		pa, mixed, qb = pa+p*x, mixed+p*y+q*x, qb+q*y
	}
	if !(above > 0) || !(below > 0) {
		return
	}
	or := above / below
	se := math.Sqrt(pa/(2*above*above) + mixed/(2*above*below) + qb/(2*below*below))
	r.CommonOddsRatio, r.LogStandardError = &or, &se
	r.Interval = logInterval(or, prob.NormalUpperQuantile((1-r.Confidence)/2)*se)
}

// homogeneity fits to each layer the first cell A that has the common odds ratio:
// A(n − r − c + A) = ψ(r − A)(c − A).
func (r *MantelHaenszel) homogeneity(psi float64, used int) {
	h := &LayerHomogeneity{DF: used - 1}
	var away, variance float64
	for k := range r.Layers {
		l := &r.Layers[k]
		if l.LeftOut {
			continue
		}
		n := float64(l.N)
		row, column := float64(l.Table[0][0]+l.Table[0][1]), float64(l.Table[0][0]+l.Table[1][0])
		cells := withOddsRatio(psi, row, column, n)
		fitted := cells[0]
		l.Fitted = &fitted
		v := 1 / (1/cells[0] + 1/cells[1] + 1/cells[2] + 1/cells[3])
		d := float64(l.Table[0][0]) - fitted
		h.Statistic += d / v * d
		away, variance = away+d, variance+v
	}
	h.Tarone = math.Max(0, h.Statistic-away/variance*away)
	h.P, h.TaroneP = prob.ChiSquareUpper(h.Statistic, float64(h.DF)), prob.ChiSquareUpper(h.Tarone, float64(h.DF))
	r.Homogeneity = h
}

// withOddsRatio finds the four cells with these margins and this odds ratio. What the
// first and the last cell have above their least, u, is found by bisection on the
// logarithm of the odds ratio, which rises with u, from the nearer end, so that cells next
// to nothing keep their digits.
func withOddsRatio(psi, row, column, n float64) (cells [4]float64) {
	lowest := math.Max(0, row+column-n)
	span := math.Min(row, column) - lowest
	// The cells are a + u, b + v, c + v and d + u with u + v = span; one of a and d is 0,
	// and one of b and c.
	a, d := lowest, n-row-column+lowest
	b, c := row-lowest-span, column-lowest-span
	target := math.Log(psi)
	at := func(u, v float64) float64 {
		return math.Log(a+u) + math.Log(d+u) - math.Log(b+v) - math.Log(c+v) - target
	}
	fromLower := at(span/2, span/2) >= 0
	lo, hi := 0.0, span/2
	for range 2000 {
		mid := lo + (hi-lo)/2
		if lo > 0 && hi > 4*lo {
			mid = math.Sqrt(lo) * math.Sqrt(hi)
		} else if lo == 0 {
			mid = hi / 16
		}
		if mid <= lo || mid >= hi {
			break
		}
		above := at(mid, span-mid) >= 0
		if !fromLower {
			above = at(span-mid, mid) < 0
		}
		if above {
			hi = mid
		} else {
			lo = mid
		}
	}
	u, v := hi, span-hi
	if !fromLower {
		u, v = v, u
	}
	return [4]float64{a + u, b + v, c + v, d + u}
}
