package analysis

import (
	"context"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// SummariesRequest is several lists of numbers, of questions or of groups.
type SummariesRequest struct {
	Lists []NumericSummaryRequest `json:"lists"`
}

const (
	comparisonName = "numeric-comparison"
	byGroupName    = "numeric-by-group"
)

// summaries is the computation of both; nil for a list without numbers.
func summaries(_ context.Context, in *SummariesRequest) ([]*tally.Summary, error) {
	if len(in.Lists) > mostRows+1 {
		return nil, refuse("numeric summary", TooManyCells, -1)
	}
	var out []*tally.Summary
	for _, list := range in.Lists {
		if list.Confidence == 0 {
			list.Confidence = usualConfidence
		}
		s, err := tally.SummariseNumbers(tally.NumbersInput(list))
		if err != nil && !nobody(err) {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

var (
	comparison = figures(comparisonName, "Several lists of numbers side by side", []Assumption{SimpleRandom, NearlyNormal}, SummariesRequest{}, summaries)
	byGroup    = figures(byGroupName, "Numbers within groups, and of all groups together", []Assumption{SimpleRandom, NearlyNormal, IndependentGroups}, SummariesRequest{}, summaries)
)

// quarters are the percentiles of a table and of a box.
var quarters = []float64{25, 50, 75}

func listOf(s *tally.Summary) NumericSummaryRequest {
	in := NumericSummaryRequest{Confidence: usualConfidence, Percents: quarters}
	if s == nil {
		return in
	}
	for _, row := range s.Rows {
		in.Values, in.Counts = append(in.Values, row.Value), append(in.Counts, row.Count)
	}
	return in
}

func numeric(q survey.Question) bool {
	return q.Kind == survey.Discrete || q.Kind == survey.Continuous
}

// SummariesSettings asks for several questions with numbers in one table.
type SummariesSettings struct {
	describing
	Show []claim.Statistic `json:"show"`
}

var askedComparison = &Asked{Version: 1, Seldom: true, Questions: []Part{TheQuestion}, More: TheOthers, Inputs: []Input{}, Texts: "summaries", Lines: []Line{}, Of: numeric,
	New: func() Settings { return &SummariesSettings{Show: claim.UsualStatistics} }}

// checkStatistics checks which figures are shown, each once.
func checkStatistics(list []claim.Statistic) []Problem {
	for i, k := range list {
		if !slices.Contains(claim.Statistics, k) || slices.Contains(list[:i], k) {
			return []Problem{{Code: "crosstab.show", Pointer: "/settings/show"}}
		}
	}
	return nil
}

// Check implements Settings.
func (s *SummariesSettings) Check(q []survey.Question) []Problem {
	return append(several(q, 2), checkStatistics(s.Show)...)
}

// Essence implements Settings: all is how it is shown.
func (*SummariesSettings) Essence() any { return SummariesSettings{} }

func (s *SummariesSettings) claim(q []survey.Question, about claim.About) claim.Summaries {
	c := claim.Summaries{About: about, Show: s.Show}
	for _, one := range q {
		c.Names = append(c.Names, named(one).Name())
	}
	return c
}

// Statement implements Settings.
func (s *SummariesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*SummariesSettings) needs() need { return eachDescriptives }

func (*SummariesSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &SummariesRequest{}
	for _, s := range c.Summaries {
		in.Lists = append(in.Lists, listOf(s))
	}
	return outcomeOf(work, comparisonName, in)
}

func (s *SummariesSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	for _, f := range o.Counted.Each {
		c.Everyones = append(c.Everyones, f.Everyone)
	}
	return c.Document(o.Result.([]*tally.Summary))
}

// ByGroupSettings asks for numbers within the answers to another question.
type ByGroupSettings struct {
	describing
	Show  []claim.Statistic `json:"show"`
	Frame *claim.Frame      `json:"frame,omitempty"`
}

var askedByGroup = &Asked{Version: 1, Questions: []Part{TheQuestion, TheGroups}, Inputs: []Input{}, Texts: "by_group", Lines: []Line{}, Key: "g", Of: numeric, With: func(q survey.Question) bool { return q.Kind.Coded() },
	New: func() Settings {
		return &ByGroupSettings{Show: []claim.Statistic{claim.StatMean, claim.StatSD, claim.StatSmallest, claim.StatQuartile1, claim.StatMedian, claim.StatQuartile3, claim.StatLargest}}
	}}

// Check implements Settings.
func (s *ByGroupSettings) Check(q []survey.Question) []Problem {
	out := append(checkStatistics(s.Show), checkFrame(s.Frame)...)
	if n := len(q[1].Proper()); n > mostRows {
		out = append(out, Problem{Code: "layers.many", Pointer: "/questions/1", Values: document.Values{"n": document.N(int64(n)), "most": document.N(mostRows)}})
	}
	return out
}

// Essence implements Settings: all is how it is shown.
func (*ByGroupSettings) Essence() any { return ByGroupSettings{} }

func (s *ByGroupSettings) claim(q []survey.Question, about claim.About) claim.Summaries {
	c := claim.Summaries{About: about, Question: named(q[0]), Groups: named(q[1]), ByGroup: true, Show: s.Show, Frame: s.Frame}
	for _, label := range labelsOf(q[1]) {
		c.Names = append(c.Names, document.Say("value", document.Values{"value": document.Text(label)}))
	}
	c.Names = append(c.Names, document.Say("column.all", nil))
	return c
}

// Statement implements Settings.
func (s *ByGroupSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*ByGroupSettings) needs() need { return descriptivesBy }

// run adds all groups together as a last list.
func (*ByGroupSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &SummariesRequest{}
	all := NumericSummaryRequest{Confidence: usualConfidence, Percents: quarters}
	for _, s := range c.Summaries {
		if s != nil && s.Rows == nil {
			return nil, refused("spec.counts", "/questions", nil) // numbers of which only the mean is known
		}
		list := listOf(s)
		in.Lists = append(in.Lists, list)
		all.Values, all.Counts = append(all.Values, list.Values...), append(all.Counts, list.Counts...)
	}
	in.Lists = append(in.Lists, all)
	return outcomeOf(work, byGroupName, in)
}

func (s *ByGroupSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions, about).Document(o.Result.([]*tally.Summary))
}
