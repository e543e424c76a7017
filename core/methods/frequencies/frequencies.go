// Package frequencies counts the answers to several questions.
package frequencies

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/frequency"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is several lists of counts.
type Request struct {
	Questions []frequency.Request `json:"questions"`
}

// figures gives each list by itself; nil for one in which nobody is counted.
var figures = analysis.Figures("frequencies", "Relative frequencies of several lists of counts", nil, Request{},
	func(_ context.Context, in *Request) ([]*tally.Relative, error) {
		if len(in.Questions) > analysis.MostRows {
			return nil, analysis.RefuseInput("frequency", analysis.TooManyCells, -1)
		}
		var out []*tally.Relative
		for i, q := range in.Questions {
			if len(q.Counts) > analysis.MaxAnswers {
				return nil, analysis.RefuseInput("frequency", analysis.TooManyAnswers, i)
			}
			r, err := tally.RelativeFrequencies(q.Counts, q.Missing)
			if err != nil && !analysis.Nobody(err) {
				return nil, err
			}
			out = append(out, r)
		}
		return out, nil
	})

// Settings asks for several questions as one table.
type Settings struct {
	analysis.Describing
	Order claim.Order `json:"order"`
}

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "T",
	Questions: []analysis.Part{analysis.TheQuestion},
	More:      analysis.TheOthers,
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	New:       func() analysis.Settings { return &Settings{Order: claim.AsAsked} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	return append(analysis.Several(q, 2), analysis.CheckOneOf(claim.Orders, s.Order, "frequency.order", "order")...)
}

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

func (s *Settings) claim(q []survey.Question, about claim.About) Frequencies {
	c := Frequencies{About: about, Order: s.Order}
	for _, one := range q {
		c.Questions, c.Labels, c.Ranked = append(
			c.Questions,
			analysis.Named(one),
		), append(
			c.Labels,
			analysis.LabelsOf(one),
		), append(
			c.Ranked,
			one.Kind.Ranked(),
		)
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedEachFrequencies }

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{}
	for _, f := range c.Each {
		in.Questions = append(in.Questions, *frequency.CountsOf(f))
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	var everyone []int64
	for _, f := range o.Counted.Each {
		everyone = append(everyone, f.Everyone)
	}
	return s.claim(o.Counted.Questions, about).Document(o.Result.([]*tally.Relative), everyone)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
