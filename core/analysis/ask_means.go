package analysis

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// TwoMeansSettings asks whether the mean of a number differs between the two answers to
// another question.
type TwoMeansSettings struct {
	Direction claim.Direction   `json:"direction"`
	Role      claim.Role        `json:"role"`
	Level     Level             `json:"level"`
	Looked    []claim.Direction `json:"looked,omitempty"`
	Show      []claim.Statistic `json:"show,omitempty"`
	Frame     *claim.Frame      `json:"frame,omitempty"`
}

var askedTwoMeans = &Asked{Version: 1, Quick: QuickTwoSummaries, Seldom: true, Questions: []Part{TheQuestion, TheGroups},
	Inputs: []Input{
		{Name: "direction", Kind: ChoiceInput, Options: texts(claim.Directions), Needed: true},
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	},
	Texts: "two_means", Lines: []Line{{ID: "claim"}, {ID: "role"}}, Key: "m", Of: func(q survey.Question) bool { return numeric(q) || q.Kind == survey.Summarised }, With: func(q survey.Question) bool { return q.Kind.Coded() && len(q.Proper()) == 2 },
	New: func() Settings {
		return &TwoMeansSettings{Level: 0.05, Show: []claim.Statistic{claim.StatMean, claim.StatSD, claim.StatMedian}}
	}}

// Check implements Settings.
func (s *TwoMeansSettings) Check([]survey.Question) []Problem {
	return slices.Concat(checkOneOf(claim.Directions, s.Direction, "share.direction", "direction"), checkLooked(s.Looked), checkRole(s.Role, "role"), s.Level.problems("level"), checkStatistics(s.Show), checkFrame(s.Frame))
}

// Tests implements Settings.
func (*TwoMeansSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *TwoMeansSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements Settings: no category is named.
func (*TwoMeansSettings) Codes(int) []string { return nil }

// Essence implements Settings.
func (s *TwoMeansSettings) Essence() any {
	e := *s
	e.Show, e.Frame, e.Looked = nil, nil, nil
	return e
}

func (s *TwoMeansSettings) claim(q []survey.Question, about claim.About) claim.TwoMeans {
	labels := labelsOf(q[1])
	c := claim.TwoMeans{Summaries: (&ByGroupSettings{Show: s.Show, Frame: s.Frame}).claim(q, about), Stated: claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)}, Looked: s.Looked}
	if len(labels) == 2 {
		c.First, c.Second = labels[0], labels[1]
	}
	return c
}

// Statement implements Settings.
func (s *TwoMeansSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*TwoMeansSettings) needs() need { return descriptivesBy }

func (s *TwoMeansSettings) run(work Work, c *Counted) (*Outcome, error) {
	samples := make([]SampleRequest, 2)
	for i, one := range c.Summaries {
		if one == nil || one.SD == nil {
			return &Outcome{Refusal: &infer.InputError{Method: meansName, Reason: infer.TooFewForSD, Index: i}}, nil
		}
		samples[i] = SampleRequest{N: one.N, Mean: one.Mean, SD: one.SD, Skewness: one.Skewness}
	}
	return outcomeOf(work, meansName, &MeansRequest{First: samples[0], Second: &samples[1], Confidence: 1 - float64(s.Level)})
}

func (s *TwoMeansSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	if o.Counted.Summaries[0].Rows == nil { // only these are known
		return c.Document(o.Result.(*infer.Means), nil)
	}
	c.Everyone = o.Counted.Frequency.Everyone
	var list []*tally.Summary
	all := NumericSummaryRequest{Confidence: usualConfidence, Percents: quarters}
	for _, one := range o.Counted.Summaries {
		in := listOf(one)
		all.Values, all.Counts = append(all.Values, in.Values...), append(all.Counts, in.Counts...)
		in.Confidence = usualConfidence
		list = append(list, summarised(in))
	}
	return c.Document(o.Result.(*infer.Means), append(list, summarised(all)))
}

// summarised describes a list that has numbers.
func summarised(in NumericSummaryRequest) *tally.Summary {
	s, err := tally.SummariseNumbers(tally.NumbersInput(in))
	if err != nil {
		return nil
	}
	return s
}
