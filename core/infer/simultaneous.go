package infer

import (
	"math"
	"slices"

	"widetally/core/prob"
)

// Simultaneous holds intervals for all shares of a question that hold together at
// the stated confidence.
type Simultaneous struct {
	Observed   []int64
	N          int64
	Confidence float64
	Estimates  []float64
	// Quantile is the chi-square value used; both methods solve
	// (p̂ − p)² = Quantile·p(1−p)/n for p.
	GoodmanQuantile, QuesenberryHurstQuantile float64
	Goodman, QuesenberryHurst                 []Interval
	// SisonGlaz is nil for counts beyond its reach, when fewer than two answers were given
	// by anybody, or when its approximation cannot tell; WhyNoSisonGlaz says so.
	SisonGlaz      *SisonGlaz
	WhyNoSisonGlaz Reason
	// Conditions: Goodman's and Quesenberry and Hurst's intervals want five in each answer.
	Conditions []Condition
}

// ComputeSimultaneous gives simultaneous intervals for multinomial shares: Goodman 1965
// with the quantile of chi-square(1) at α/k, and Quesenberry and Hurst 1964 with that of
// chi-square(k − 1) at α, and those of Sison and Glaz 1995. Errors are *InputError.
func ComputeSimultaneous(observed []int64, confidence float64) (*Simultaneous, error) {
	fail := func(why Reason, at int) error { return &InputError{"simultaneous intervals", why, at} }
	if len(observed) < 2 {
		return nil, fail(OneAnswer, -1)
	}
	if !(confidence > 0 && confidence < 1) {
		return nil, fail(LevelRange, -1)
	}
	r := &Simultaneous{Observed: observed, Confidence: confidence}
	for i, o := range observed {
		if o < 0 {
			return nil, fail(NegativeCount, i)
		}
		if o > MaxCount || r.N > MaxCount-o {
			return nil, fail(CountTooLarge, i)
		}
		r.N += o
	}
	if r.N == 0 {
		return nil, fail(NoObservations, -1)
	}
	k := float64(len(observed))
	r.GoodmanQuantile = prob.ChiSquareUpperQuantile((1-confidence)/k, 1)
	r.QuesenberryHurstQuantile = prob.ChiSquareUpperQuantile(1-confidence, k-1)
	for _, o := range observed {
		r.Estimates = append(r.Estimates, float64(o)/float64(r.N))
		r.Goodman = append(r.Goodman, Wilson(o, r.N, math.Sqrt(r.GoodmanQuantile)))
		r.QuesenberryHurst = append(r.QuesenberryHurst, Wilson(o, r.N, math.Sqrt(r.QuesenberryHurstQuantile)))
	}
	r.Conditions = []Condition{atLeast(CountAtLeast, float64(slices.Min(observed)), LowExpected)}
	given := 0
	for _, o := range observed {
		if o > 0 {
			given++
		}
	}
	switch {
	case given < 2:
		r.WhyNoSisonGlaz = NoVariation
	case r.N > maxSisonGlazTotal:
		r.WhyNoSisonGlaz = BeyondReach
	default:
		if r.SisonGlaz = sisonGlaz(observed, r.N, confidence); r.SisonGlaz == nil {
			r.WhyNoSisonGlaz = OutsideApproximation
		}
	}
	return r, nil
}
