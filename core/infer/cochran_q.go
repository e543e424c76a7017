package infer

import (
	"math"

	"widetally/core/prob"
)

// ChosenPattern is a combination of choices on choose-all items and how many made it.
type ChosenPattern struct {
	Chosen []bool // one per item
	Count  int64
}

// CochranQ is the comparison of how often each of several items was chosen by the
// same people.
type CochranQ struct {
	N     int64
	Items []int64 // how many chose each
	// Bearing counts the respondents who chose some items and not others; the rest say
	// nothing about which is chosen more.
	Bearing int64
	ChiSquareTest
	Level      float64
	Reject     bool
	Conditions []Condition
}

// MaxItems bounds the items of a choose-all question.
const MaxItems = 1000

// ComputeCochranQ carries out Cochran's Q (1950, The comparison of percentages in
// matched samples):
//
//	Q = (k − 1)(k ΣC_j² − T²)/(kT − ΣR_i²)   df = k − 1
//
// with C_j the number that chose item j, R_i the number of items that respondent i chose
// and T their total. Errors, all *InputError: fewer than two items, patterns of unequal
// length, counts out of range, nobody who chose some and not others, a level outside
// (0, 1).
func ComputeCochranQ(patterns []ChosenPattern, level float64) (*CochranQ, error) {
	fail := func(why Reason, at int) error { return &InputError{"chosen items", why, at} }
	if !(level > 0 && level < 1) {
		return nil, fail(LevelRange, -1)
	}
	if len(patterns) == 0 {
		return nil, fail(NoObservations, -1)
	}
	k := len(patterns[0].Chosen)
	if k < 2 || k > MaxItems {
		return nil, fail(OneAnswer, -1)
	}
	r := &CochranQ{Level: level, Items: make([]int64, k)}
	bearing := make([]float64, k) // choices of those who bear on it
	var total, within float64
	for at, p := range patterns {
		switch {
		case len(p.Chosen) != k:
			return nil, fail(RaggedTable, at)
		case p.Count < 0:
			return nil, fail(NegativeCount, at)
		case p.Count > MaxCount || r.N > MaxCount-p.Count:
			return nil, fail(CountTooLarge, at)
		}
		r.N += p.Count
		own := 0
		for j, yes := range p.Chosen {
			if yes {
				own++
				r.Items[j] += p.Count
			}
		}
		if own == 0 || own == k {
			continue
		}
		r.Bearing += p.Count
		for j, yes := range p.Chosen {
			if yes {
				bearing[j] += float64(p.Count)
			}
		}
		total += float64(p.Count) * float64(own)
		within += float64(p.Count) * float64(own) * float64(k-own)
	}
	if r.Bearing == 0 {
		return nil, fail(NoVariation, -1)
	}
	mean, spread := total/float64(k), 0.0
	for _, c := range bearing {
		spread += (c - mean) * (c - mean)
	}
	q := float64(k-1) * float64(k) * spread / within
	r.ChiSquareTest = ChiSquareTest{q, k - 1, prob.ChiSquareUpper(q, float64(k-1))}
	r.Reject = r.P.AtMost(level)
	// Tate and Brown 1970, Note on the Cochran Q test: respondents who bear on it
	// times items at least 24, and at least 4 such respondents.
	r.Conditions = []Condition{atLeast(ChangedAtLeast, float64(r.Bearing), math.Max(4, math.Ceil(24/float64(k))))}
	return r, nil
}
