package analysis

import (
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Adjustment says how the p-values of claims that are looked at together are adjusted.
type Adjustment string

// The adjustments.
const (
	NoAdjustment      Adjustment = "none"
	HolmAdjustment    Adjustment = "holm"               // the chance of any false rejection
	BenjaminiHochberg Adjustment = "benjamini_hochberg" // the share of false ones among the rejections
)

// Adjustments lists them in the order in which they are offered.
var Adjustments = []Adjustment{NoAdjustment, HolmAdjustment, BenjaminiHochberg}

// manyTests is from how many tests on a rejection is said to be one of many.
const manyTests = 5

// Remind adds to the document of a rejected null how many tests have been run beside it, and how
// many of as many true nulls would be rejected at its level by chance. One question crossed with
// several is as many looks, from which the one that is tested may have been picked. It is quiet of
// few, and where an adjustment has been chosen.
func (a Adjustment) Remind(d *document.Document, tests, looks int, level float64) {
	id := "note.many_tests"
	if looks > 0 {
		id, tests = "note.many_looks", tests+looks
	}
	if a != NoAdjustment || tests < manyTests || d.Outcome == nil || !d.Outcome.Rejected {
		return
	}
	d.Notes = append(d.Notes, document.Note{Beside: document.Decision, Message: document.Say(id, document.Values{
		"tests": document.N(
			int64(tests),
		), "level": document.Of(document.Level, level), "chance": document.Of(document.Rounded, float64(tests)*level)})})
}

// Adjusted is a claim's p-value among others: adjusted for all of them, and whether it is still
// at most the claim's own level.
type Adjusted struct {
	P        prob.Prob
	Rejected bool
}

// Together adjusts the outcomes of claims that are looked at together, each with its own level;
// nil for no adjustment.
func (a Adjustment) Together(outcomes []*document.Outcome, levels []float64) []Adjusted {
	var p []prob.Prob
	for _, o := range outcomes {
		p = append(p, prob.Prob{Value: o.P.Number, Log10: o.P.Log10})
	}
	switch a {
	case HolmAdjustment:
		p = infer.Holm(p)
	case BenjaminiHochberg:
		p = infer.BenjaminiHochberg(p)
	default:
		return nil
	}
	out := make([]Adjusted, len(p))
	for i := range p {
		out[i] = Adjusted{p[i], p[i].AtMost(levels[i])}
	}
	return out
}
