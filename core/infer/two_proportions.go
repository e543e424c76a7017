package infer

import (
	"math"

	"widetally/core/exact"
	"widetally/core/prob"
)

// TwoProportionsInput asks whether two independent groups have the same share.
type TwoProportionsInput struct {
	Successes1, N1, Successes2, N2 int64
	Confidence                     float64
}

// TwoProportions is the complete result for two shares; Less means share 1 below
// share 2.
type TwoProportions struct {
	TwoProportionsInput
	Estimate1, Estimate2, Difference float64
	Pooled, StandardErrorPooled      float64
	// Z and Tails are nil when both groups said only yes or only no, where the
	// pooled standard error is 0.
	Z                     *float64
	Tails                 *Tails
	StandardErrorUnpooled float64
	Wald, Newcombe        Interval
	RelativeRisk          *float64 // p1/p2; nil when p2 is 0
	OddsRatio             *float64 // nil when a group's odds are infinite or both are 0
	// OddsRatioInterval is Woolf's (1955), RelativeRiskInterval Katz's (1978), both
	// from logarithms; nil when a cell that they need is 0.
	OddsRatioInterval, RelativeRiskInterval *Interval
	// Bounds are the one-sided Newcombe bounds of the difference at the same confidence,
	// nil for a confidence of one half or less.
	Bounds *Interval
	// Exact is Fisher's test with both margins fixed: Less means share 1 below share 2.
	// Nil beyond its reach, or when both groups said only yes or only no.
	// TwoSided is by ExactConvention.
	Exact           *exact.TwoByTwo
	ExactConvention string
	// CohensH is the difference on the arcsine scale; see Proportion.
	CohensH    Effect
	Conditions []Condition
}

// ComputeTwoProportions compares two shares.
//
//	z = (p̂1 − p̂2)/√(p̄(1−p̄)(1/n1 + 1/n2))
//
// with p̄ the share of both groups together. The Wald interval uses the unpooled
// standard error and is not cut, so it may leave [−1, 1]; Newcombe's combines the two Wilson intervals (Newcombe 1998b, method
// 10) and is the one to report. Errors as in ComputeProportion, with Index 0 or 1
// for the group.
func ComputeTwoProportions(in TwoProportionsInput) (*TwoProportions, error) {
	for i, g := range [][2]int64{{in.Successes1, in.N1}, {in.Successes2, in.N2}} {
		switch {
		case g[1] < 1:
			return nil, &InputError{"two proportions", NoObservations, i}
		case g[1] > MaxCount:
			return nil, &InputError{"two proportions", CountTooLarge, i}
		case g[0] < 0 || g[0] > g[1]:
			return nil, &InputError{"two proportions", MoreYesThanAsked, i}
		}
	}
	if !(in.Confidence > 0 && in.Confidence < 1) {
		return nil, &InputError{"two proportions", LevelRange, -1}
	}
	x1, n1, x2, n2 := float64(in.Successes1), float64(in.N1), float64(in.Successes2), float64(in.N2)
	p1, p2 := x1/n1, x2/n2
	r := &TwoProportions{TwoProportionsInput: in, Estimate1: p1, Estimate2: p2, Pooled: (x1 + x2) / (n1 + n2)}
	// x1·n2 − x2·n1 with the rounding of the second product made good (Kahan).
	cross := x2 * n1
	r.Difference = (math.FMA(x1, n2, -cross) - math.FMA(x2, n1, -cross)) / (n1 * n2)
	notPooled := (float64(in.N1-in.Successes1) + float64(in.N2-in.Successes2)) / (n1 + n2)
	r.StandardErrorPooled = math.Sqrt(r.Pooled * notPooled * (1/n1 + 1/n2))
	if r.StandardErrorPooled > 0 {
		z := r.Difference / r.StandardErrorPooled
		tails := normalTails(z)
		r.Z, r.Tails = &z, &tails
		r.ExactConvention = ExactConvention
		r.Exact, _ = exact.Fisher(in.Successes1, in.N1-in.Successes1, in.Successes2, in.N2-in.Successes2)
	}
	z := prob.NormalUpperQuantile((1 - in.Confidence) / 2)
	r.StandardErrorUnpooled = math.Sqrt(p1*((n1-x1)/n1)/n1 + p2*((n2-x2)/n2)/n2)
	r.Wald = Interval{r.Difference - z*r.StandardErrorUnpooled, r.Difference + z*r.StandardErrorUnpooled}
	r.Newcombe = newcombe(in, r.Difference, z)
	if alpha := 1 - in.Confidence; 2*alpha < 1 {
		bounds := newcombe(in, r.Difference, prob.NormalUpperQuantile(alpha))
		r.Bounds = &bounds
	}
	r.CohensH = cohensH(p1, p2, r.Difference, math.Sqrt(1/n1+1/n2), in.Confidence)
	r.Conditions = []Condition{
		atLeast(CountAtLeast, float64(min(in.Successes1, in.N1-in.Successes1, in.Successes2, in.N2-in.Successes2)), LowExpected),
	}
	r.ratios(x1, n1, x2, n2, z)
	return r, nil
}

func (r *TwoProportions) ratios(x1, n1, x2, n2, z float64) {
	if x2 > 0 {
		v := x1 / n1 * (n2 / x2)
		r.RelativeRisk = &v
		if x1 > 0 {
			r.RelativeRiskInterval = logInterval(v, z*math.Sqrt((n1-x1)/n1/x1+(n2-x2)/n2/x2))
		}
	}
	if x2 > 0 && x1 < n1 {
		v := x1 / (n1 - x1) * ((n2 - x2) / x2)
		r.OddsRatio = &v
		if x1 > 0 && x2 < n2 {
			r.OddsRatioInterval = logInterval(v, z*math.Sqrt(1/x1+1/(n1-x1)+1/x2+1/(n2-x2)))
		}
	}
}

func logInterval(estimate, half float64) *Interval {
	return &Interval{estimate * math.Exp(-half), estimate * math.Exp(half)}
}

// newcombe combines the Wilson intervals of the two shares.
func newcombe(in TwoProportionsInput, difference, z float64) Interval {
	below1, above1 := wilsonReach(in.Successes1, in.N1, z)
	below2, above2 := wilsonReach(in.Successes2, in.N2, z)
	return Interval{difference - math.Hypot(below1, above2), difference + math.Hypot(above1, below2)}
}
