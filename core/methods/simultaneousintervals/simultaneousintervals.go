// Package simultaneousintervals gives intervals for all shares of a question that hold together.
package simultaneousintervals

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Settings asks for intervals for all shares of a question that hold together.
type Settings struct {
	analysis.Describing
	// Confidence is one of those that are offered, 0–1.
	Confidence float64 `json:"confidence"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickAnswers,
	Seldom:    true,
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "i",
	New:       func() analysis.Settings { return &Settings{Confidence: 0.95} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) []analysis.Problem {
	if !slices.Contains(Confidences, s.Confidence) {
		return []analysis.Problem{{Code: "simultaneous_intervals.confidence", Pointer: "/settings/confidence"}}
	}
	return nil
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (*Settings) Statement([]survey.Question, claim.About) document.Message {
	return ShareIntervals{}.Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedFrequencies }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Confidence: s.Confidence}
	for i := range c.Questions[0].Proper() {
		in.Observed = append(in.Observed, c.Frequency.Rows[i].Count)
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := ShareIntervals{About: about}
	for _, a := range o.Counted.Questions[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c.Document(o.Result.(*infer.Simultaneous))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is the counts of one question.
type Request struct {
	Observed   []int64 `json:"observed"`
	Confidence float64 `json:"confidence,omitempty"`
}

var figures = analysis.Figures("simultaneous-intervals", "Intervals for all shares of a question that hold together",
	[]analysis.Assumption{analysis.SimpleRandom}, Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.Simultaneous, error) {
		if len(in.Observed) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("simultaneous intervals", analysis.TooManyAnswers, -1)
		}
		return infer.ComputeSimultaneous(in.Observed, in.Confidence)
	})
