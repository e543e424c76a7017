// Package orderedsummary describes answers that have an order.
package orderedsummary

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/frequency"
	"widetally/core/methods/numericsummary"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is counts in the order of the answers.
type Request struct {
	Counts []int64 `json:"counts"`
	// Scores are the numbers that the answers stand for, where somebody declared them.
	Scores []float64 `json:"scores,omitempty"`
	// Percents are the percentiles asked for; 25, 50 and 75 where absent.
	Percents []float64 `json:"percents,omitempty"`
}

var figures = analysis.Figures(
	"ordered-summary",
	"Answers that have an order: median and percentiles as answers, a mean of declared scores",
	[]analysis.Assumption{analysis.AnswersOrdered},
	Request{},
	func(_ context.Context, in *Request) (*tally.OrderedSummary, error) {
		if len(in.Counts) > analysis.MaxAnswers || len(in.Percents) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("ordered summary", analysis.TooManyAnswers, -1)
		}
		if in.Percents == nil {
			in.Percents = slices.Clone(numericsummary.Quarters)
		}
		return tally.SummariseOrdered(in.Counts, in.Scores, in.Percents)
	},
)

// Settings asks for answers that have an order to be described.
type Settings struct{ analysis.Describing }

var asked = &analysis.Asked{
	Version:   1,
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "d",
	Of:        func(q survey.Question) bool { return q.Kind == survey.Ordered && !numericsummary.Describable(q) },
	New:       func() analysis.Settings { return &Settings{} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (*Settings) Check([]survey.Question) []analysis.Problem { return nil }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (*Settings) Statement([]survey.Question, claim.About) document.Message {
	return OrderedAnswers{}.Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedFrequencies }

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Counts: frequency.CountsOf(c.Frequency).Counts, Percents: numericsummary.Quarters}
	in.Scores = analysis.ScoresOf(c.Questions[0])
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (*Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	return OrderedAnswers{
		About:    about,
		Question: analysis.Named(q),
		Labels:   analysis.LabelsOf(q),
	}.Document(
		o.Result.(*tally.OrderedSummary),
	)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
