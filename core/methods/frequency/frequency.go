// Package frequency counts the answers to one question.
package frequency

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is counts by answer, and how many gave none.
type Request struct {
	Counts  []int64 `json:"counts"`
	Missing int64   `json:"missing,omitempty"`
}

var figures = analysis.Figures("frequency", "Relative and cumulative relative frequencies of one list of counts", nil, Request{},
	func(_ context.Context, in *Request) (*tally.Relative, error) {
		if len(in.Counts) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("frequency", analysis.TooManyAnswers, -1)
		}
		return tally.RelativeFrequencies(in.Counts, in.Missing)
	})

// Settings asks for a picture of the answers to one question.
type Settings struct {
	analysis.Describing
	Picture BarsPicture  `json:"picture"`
	Height  claim.Height `json:"height"`
	Order   claim.Order  `json:"order"`
	// Intervals is the method of the simultaneous intervals that are drawn on bars of shares.
	Intervals Together `json:"intervals"`
	// Kind is that of the intervals of estimates, Weighted shows the sums of weights beside them.
	Kind     IntervalKind `json:"kind,omitempty"`
	Weighted bool         `json:"weighted,omitempty"`
	Frame    *claim.Frame `json:"frame,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickAnswers,
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "b",
	New: func() analysis.Settings {
		return &Settings{Picture: UprightBars, Height: claim.AsShare, Order: claim.AsAsked, Intervals: Apart}
	},
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) (out []analysis.Problem) {
	out = append(out, analysis.CheckOneOf(BarsPictures, s.Picture, "numeric_summary.picture", "picture")...)
	out = append(
		out,
		analysis.CheckOneOf([]claim.Height{claim.AsCount, claim.AsShare}, s.Height, "numeric_summary.height", "height")...)
	out = append(out, analysis.CheckOneOf(claim.Orders, s.Order, "frequency.order", "order")...)
	out = append(out, analysis.CheckOneOf(Togethers, s.Intervals, "frequency.intervals", "intervals")...)
	out = append(out, analysis.CheckOneOf(IntervalKinds, s.Kind, "frequency.kind", "kind")...)
	return append(out, analysis.CheckFrame(s.Frame)...)
}

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

// Statement implements analysis.Settings.
func (*Settings) Statement([]survey.Question, claim.About) document.Message {
	return Frequency{}.Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedFrequencies }

// CountsOf are the counts of the proper answers.
func CountsOf(f *tally.Frequency) *Request {
	in := &Request{Missing: f.Missing}
	for _, r := range f.Rows {
		in.Counts = append(in.Counts, r.Count)
	}
	return in
}

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return figures.Outcome(work, CountsOf(c.Frequency))
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	c := Frequency{
		About:    about,
		Question: analysis.Named(q),
		Labels:   analysis.LabelsOf(q),
		Ranked:   q.Kind.Ranked(),
		Order:    s.Order,
		Picture:  s.Picture,
		Height:   s.Height,
		Together: s.Intervals,
		Frame:    s.Frame,
	}
	if s.Intervals != Apart {
		if r, err := infer.ComputeSimultaneous(analysis.ProperCounts(o.Counted.Frequency), analysis.UsualConfidence); err == nil { // of one answer there are none
			c.Intervals = s.Intervals.Of(r)
		}
	}
	return c.Document(o.Result.(*tally.Relative))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
