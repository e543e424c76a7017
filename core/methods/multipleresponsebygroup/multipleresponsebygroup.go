// Package multipleresponsebygroup counts the items of a choose-all question within groups.
package multipleresponsebygroup

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/crosstabs"
	"widetally/core/methods/frequency"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is how many respondents of each group chose each answer of a choose-all
// question, and how many respondents each group has.
type Request struct {
	Counts [][]int64 `json:"counts"`
	Bases  []int64   `json:"bases"`
}

var figures = analysis.Figures(
	"multiple-response-by-group",
	"A choose-all question within groups: shares of the respondents of each",
	nil,
	Request{},
	func(_ context.Context, in *Request) (*tally.RespondentShares, error) {
		if err := analysis.CheckTable("choose-all by group", in.Counts); err != nil {
			return nil, err
		}
		return tally.ShareRespondents(in.Counts, in.Bases)
	},
)

// Settings crosses a choose-all question with another one, of respondents.
type Settings struct {
	analysis.Describing
	Reading crosstab.Reading         `json:"reading"`
	Picture crosstab.CrossingPicture `json:"picture,omitempty"`
	Frame   *claim.Frame             `json:"frame,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "x",
	Of:        func(q survey.Question) bool { return q.Kind == survey.ChooseAll },
	With:      func(q survey.Question) bool { return q.Kind.Coded() },
	New:       func() analysis.Settings { return &Settings{Reading: crosstab.OfEachColumn} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	out := append(
		analysis.CheckOneOf(crosstabs.CrossingsReadings, s.Reading, "crosstab.reading", "reading"),
		analysis.CheckOneOf(ResponsesPictures, s.Picture, "crosstab.picture", "picture")...)
	return append(append(out, analysis.CellsFit(q)...), analysis.CheckFrame(s.Frame)...)
}

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

func (s *Settings) claim(q []survey.Question, about claim.About) ResponsesBy {
	return ResponsesBy{
		About:       about,
		Question:    analysis.Named(q[0]),
		Groups:      analysis.Named(q[1]),
		Labels:      analysis.LabelsOf(q[0]),
		GroupLabels: analysis.LabelsOf(q[1]),
		Reading:     s.Reading,
		Picture:     s.Picture,
		Frame:       s.Frame,
	}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedResponsesBy }

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{}
	for _, m := range c.ResponsesBy {
		in.Counts, in.Bases = append(in.Counts, frequency.CountsOf(m.Frequency).Counts), append(in.Bases, m.Frequency.Answered)
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := s.claim(o.Counted.Questions, about)
	c.Counts = o.Request.(*Request).Counts
	return c.Document(o.Result.(*tally.RespondentShares))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
