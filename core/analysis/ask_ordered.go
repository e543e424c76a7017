package analysis

import (
	"context"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// OrderedSummaryRequest is counts in the order of the answers.
type OrderedSummaryRequest struct {
	Counts []int64 `json:"counts"`
	// Scores are the numbers that the answers stand for, where somebody declared them.
	Scores []float64 `json:"scores,omitempty"`
	// Percents are the percentiles asked for; 25, 50 and 75 where absent.
	Percents []float64 `json:"percents,omitempty"`
}

const orderedSummaryName = "ordered-summary"

var orderedSummary = figures(orderedSummaryName, "Answers that have an order: median and percentiles as answers, a mean of declared scores", []Assumption{AnswersOrdered},
	OrderedSummaryRequest{},
	func(_ context.Context, in *OrderedSummaryRequest) (*tally.OrderedSummary, error) {
		if len(in.Counts) > maxAnswers || len(in.Percents) > maxAnswers {
			return nil, refuse("ordered summary", TooManyAnswers, -1)
		}
		if in.Percents == nil {
			in.Percents = slices.Clone(quarters)
		}
		return tally.SummariseOrdered(in.Counts, in.Scores, in.Percents)
	})

// OrderedSummarySettings asks for answers that have an order to be described.
type OrderedSummarySettings struct{ describing }

var askedOrdered = &Asked{Version: 1, Questions: []Part{TheQuestion}, Inputs: []Input{}, Texts: "ordered", Lines: []Line{}, Key: "d",
	Of:  func(q survey.Question) bool { return q.Kind == survey.Ordered && !describable(q) },
	New: func() Settings { return &OrderedSummarySettings{} }}

// Check implements Settings.
func (*OrderedSummarySettings) Check([]survey.Question) []Problem { return nil }

// Essence implements Settings.
func (s *OrderedSummarySettings) Essence() any { return *s }

// Statement implements Settings.
func (*OrderedSummarySettings) Statement([]survey.Question, claim.About) document.Message {
	return claim.OrderedAnswers{}.Statement()
}

func (*OrderedSummarySettings) needs() need { return frequencies }

func (*OrderedSummarySettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &OrderedSummaryRequest{Counts: countsOf(c.Frequency).Counts, Percents: quarters}
	in.Scores = scoresOf(c.Questions[0])
	return outcomeOf(work, orderedSummaryName, in)
}

func (*OrderedSummarySettings) document(o *Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	return claim.OrderedAnswers{About: about, Question: named(q), Labels: labelsOf(q)}.Document(o.Result.(*tally.OrderedSummary))
}
