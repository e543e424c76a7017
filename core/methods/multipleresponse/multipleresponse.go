// Package multipleresponse counts the items of a choose-all question.
package multipleresponse

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is how many respondents chose each answer of a choose-all
// question, and how many chose 0, 1, 2 … answers.
type Request struct {
	Counts []int64 `json:"counts"`
	Chosen []int64 `json:"chosen"`
}

var figures = analysis.Figures(
	"multiple-response",
	"A choose-all question: shares of respondents and of responses, and how many answers were chosen",
	nil,
	Request{},
	func(_ context.Context, in *Request) (*tally.ResponseShares, error) {
		if len(in.Counts) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("multiple response", analysis.TooManyAnswers, -1)
		}
		return tally.ShareResponses(in.Counts, in.Chosen)
	},
)

// Settings asks for a choose-all question over both its bases.
type Settings struct{ analysis.Describing }

var asked = &analysis.Asked{
	Version:   1,
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "d",
	Of:        func(q survey.Question) bool { return q.Kind == survey.ChooseAll },
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
	return Responses{}.Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedResponses }

// responseCounts are those of the proper answers.
func responseCounts(c *analysis.Counted) (out []int64) {
	for _, r := range c.Responses.Frequency.Rows {
		out = append(out, r.Count)
	}
	return out
}

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return figures.Outcome(work, &Request{Counts: responseCounts(c), Chosen: c.Responses.Chosen})
}

// Document implements analysis.Settings.
func (*Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := Responses{About: about, Question: analysis.Named(o.Counted.Questions[0])}
	for _, a := range o.Counted.Questions[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c.Document(o.Result.(*tally.ResponseShares), responseCounts(o.Counted))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
