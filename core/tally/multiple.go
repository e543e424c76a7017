package tally

import (
	"cmp"
	"math/bits"
	"slices"

	"widetally/core/infer"
	"widetally/core/survey"
)

// MultipleResponse is the tally of a choose-all question.
type MultipleResponse struct {
	// Frequency counts each respondent in the row of each answer that was chosen.
	Frequency *Frequency
	// Responses is the number of answers chosen, all respondents together.
	Responses int64
	// Chosen holds how many respondents chose 0, 1, 2 … answers, of those who answered.
	Chosen []int64
	// Patterns are the combinations that were chosen, each with its respondents; nil where
	// only counts are known.
	Patterns []Pattern
}

// Pattern is a combination of chosen answers: a bit for the slot of each.
type Pattern struct {
	Set   uint64
	Count int64
}

// MultipleOf reads a distribution of a choose-all question.
func MultipleOf(q survey.Question, d *survey.Distribution) *MultipleResponse {
	m := &MultipleResponse{Frequency: FrequencyOf(q, d), Patterns: []Pattern{}}
	for _, r := range m.Frequency.Rows {
		m.Responses += r.Count
	}
	under, isMissing := map[survey.Slot]survey.Slot{}, map[survey.Slot]bool{}
	for _, a := range q.Answers {
		under[a.Slot] = a.Slot
		if a.SameAs != nil {
			under[a.Slot] = *a.SameAs
		}
		isMissing[a.Slot] = a.Missing != ""
	}
	times := map[uint64]int64{}
sets:
	for _, s := range d.Sets {
		var folded uint64
		for set := s.Chosen; set != 0; set &= set - 1 {
			slot := under[survey.Slot(bits.TrailingZeros64(set))]
			if isMissing[slot] {
				continue sets
			}
			folded |= 1 << slot
		}
		times[folded] += s.Count
	}
	for set, count := range times {
		m.Patterns = append(m.Patterns, Pattern{set, count})
		n := bits.OnesCount64(set)
		for len(m.Chosen) <= n {
			m.Chosen = append(m.Chosen, 0)
		}
		m.Chosen[n] += count
	}
	slices.SortFunc(m.Patterns, func(a, b Pattern) int { return cmp.Compare(a.Set, b.Set) })
	return m
}

// Paired is a square table: what the same respondents answered first and second.
type Paired struct {
	Answers []survey.Answer // proper ones of either question, by code
	Counts  [][]int64       // first by second
}

// Pair brings a crosstab of two questions with the same answers into a square.
func Pair(t *Crosstab) *Paired {
	p := &Paired{}
	place := func(answers []survey.Answer) (at []int) {
		for _, a := range answers {
			if a.Missing != "" {
				at = append(at, -1)
				continue
			}
			i := slices.IndexFunc(p.Answers, func(known survey.Answer) bool { return known.Code == a.Code })
			if i < 0 {
				i = len(p.Answers)
				p.Answers = append(p.Answers, a)
			}
			at = append(at, i)
		}
		return at
	}
	rows, columns := place(t.Rows.Answers), place(t.Columns.Answers)
	p.Counts = make([][]int64, len(p.Answers))
	for i := range p.Counts {
		p.Counts[i] = make([]int64, len(p.Answers))
	}
	for i, at := range rows {
		for j, to := range columns {
			if at >= 0 && to >= 0 {
				p.Counts[at][to] += t.At(0, i, j).N
			}
		}
	}
	return p
}

// Describe summarises rising numbers, each given once in the rows of the summary; nil when
// there is none.
func Describe(v []survey.Value, confidence float64) (*Summary, error) {
	if len(v) == 0 {
		return nil, nil
	}
	in := NumbersInput{Confidence: confidence, Percents: []float64{25, 50, 75}}
	for _, w := range v {
		in.Values, in.Counts = append(in.Values, w.Number), append(in.Counts, w.Times)
	}
	return SummariseNumbers(in)
}

// ResponseShares is the shares of a choose-all question over both bases.
type ResponseShares struct {
	Respondents, Responses int64
	// OfRespondents and OfResponses hold, for each answer, its share of the respondents and
	// of all answers chosen, 0–1; nil where nobody answered, or nothing was chosen.
	OfRespondents, OfResponses []float64
	// Chosen is how many respondents chose 0, 1, 2 … answers; MeanChosen their mean.
	Chosen     []int64
	MeanChosen float64
}

// ResponsesDisagree says that the answers chosen are not as many as the respondents are said
// to have chosen, or that an answer was chosen more often than there are respondents.
const ResponsesDisagree infer.Reason = "responses_disagree"

// ShareResponses takes how many respondents chose each answer, and how many chose 0, 1,
// 2 … answers. Errors, all *infer.InputError: counts out of range, nobody asked, or
// ResponsesDisagree.
func ShareResponses(counts, chosen []int64) (*ResponseShares, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "multiple response", Reason: why, Index: at}
	}
	s := &ResponseShares{Chosen: chosen}
	said := int64(0)
	for k, n := range chosen {
		if n < 0 {
			return nil, fail(infer.NegativeCount, k)
		}
		if n > infer.MaxCount || s.Respondents > infer.MaxCount-n || k > 64 {
			return nil, fail(infer.CountTooLarge, k)
		}
		s.Respondents += n
		said += int64(k) * n
	}
	for i, n := range counts {
		switch {
		case n < 0:
			return nil, fail(infer.NegativeCount, i)
		case n > s.Respondents:
			return nil, fail(ResponsesDisagree, i)
		}
		s.Responses += n
	}
	switch {
	case s.Respondents == 0:
		return nil, fail(infer.NoObservations, -1)
	case said != s.Responses:
		return nil, fail(ResponsesDisagree, -1)
	}
	s.MeanChosen = float64(s.Responses) / float64(s.Respondents)
	for _, n := range counts {
		s.OfRespondents = append(s.OfRespondents, float64(n)/float64(s.Respondents))
		if s.Responses > 0 {
			s.OfResponses = append(s.OfResponses, float64(n)/float64(s.Responses))
		}
	}
	return s, nil
}
