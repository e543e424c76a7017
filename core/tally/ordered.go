package tally

import (
	"math"

	"widetally/core/infer"
	"widetally/core/survey"
)

// OrderedSummary describes answers that have an order and need not be numbers.
type OrderedSummary struct {
	N        int64
	Percents []float64 // asked for, 0–100
	// Lower and Upper are, for each percent, the positions of the answers between which it
	// lies: the same one unless exactly that percent of the respondents gave an answer up to
	// the lower one (Hyndman and Fan 1996, definition 2, without the mean of the two, which
	// answers do not have).
	Lower, Upper []int
	Modes        []int // positions of the commonest answers, all of them
	// MeanScore and SDScore are those of the scores, where every answer has one; the divisor
	// is n − 1.
	MeanScore, SDScore *float64
}

// SummariseOrdered takes counts in the order of the answers; scores is nil or has a number
// for each. Errors, all *infer.InputError: no answer, counts out of range, nobody counted,
// scores of another length or not finite, percents out of range.
func SummariseOrdered(counts []int64, scores, percents []float64) (*OrderedSummary, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "ordered summary", Reason: why, Index: at}
	}
	r, err := RelativeFrequencies(counts, 0)
	if err != nil {
		return nil, err
	}
	if len(scores) > 0 && len(scores) != len(counts) {
		return nil, fail(CountsLength, -1)
	}
	s := &OrderedSummary{N: r.N, Percents: percents}
	reach := func(k int64) int { // the answer of the k-th respondent, from 1
		for i, so := range r.Cumulative {
			if so >= k {
				return i
			}
		}
		return len(counts) - 1
	}
	for i, p := range percents {
		if !(p >= 0 && p <= 100) {
			return nil, fail(PercentRange, i)
		}
		at := p * float64(r.N) / 100
		if near := math.Round(at); math.Abs(at-near) < 1e-9*float64(r.N) {
			at = near // 35 % of 20 is 7, whatever the binary fractions say
		}
		k := int64(math.Ceil(at))
		lower, upper := reach(max(k, 1)), reach(max(k, 1))
		if at == float64(k) && k >= 1 && k < r.N {
			upper = reach(k + 1)
		}
		s.Lower, s.Upper = append(s.Lower, lower), append(s.Upper, upper)
	}
	most := int64(0)
	for _, n := range counts {
		most = max(most, n)
	}
	for i, n := range counts {
		if n == most {
			s.Modes = append(s.Modes, i)
		}
	}
	if scores == nil {
		return s, nil
	}
	var v []survey.Value
	for i, x := range scores {
		if !(math.Abs(x) <= 1e100) {
			return nil, fail(infer.NotFinite, i)
		}
		if counts[i] > 0 {
			v = append(v, survey.Value{Number: x, Times: counts[i]})
		}
	}
	m := measure(v, r.N)
	s.MeanScore = &m.mean
	if m.variance != nil {
		sd := math.Sqrt(*m.variance)
		s.SDScore = &sd
	}
	return s, nil
}
