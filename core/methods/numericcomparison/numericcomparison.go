// Package numericcomparison describes the numbers of several questions side by side.
package numericcomparison

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/numericsummary"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is several lists of numbers, of questions or of groups.
type Request struct {
	Lists []numericsummary.Request `json:"lists"`
}

// Compute is the computation of both; nil for a list without numbers.
func Compute(_ context.Context, in *Request) ([]*tally.Summary, error) {
	if len(in.Lists) > analysis.MostRows+1 {
		return nil, analysis.RefuseInput("numeric summary", analysis.TooManyCells, -1)
	}
	var out []*tally.Summary
	for _, list := range in.Lists {
		if list.Confidence == 0 {
			list.Confidence = analysis.UsualConfidence
		}
		s, err := tally.SummariseNumbers(tally.NumbersInput(list))
		if err != nil && !analysis.Nobody(err) {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

var figures = analysis.Figures(
	"numeric-comparison",
	"Several lists of numbers side by side",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.NearlyNormal},
	Request{},
	Compute,
)

// Settings asks for several questions with numbers in one table.
type Settings struct {
	analysis.Describing
	Show []Statistic `json:"show"`
}

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "D",
	Questions: []analysis.Part{analysis.TheQuestion},
	More:      analysis.TheOthers,
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Of:        numericsummary.Of,
	New:       func() analysis.Settings { return &Settings{Show: UsualStatistics} },
}

// CheckStatistics checks which figures are shown, each once.
func CheckStatistics(list []Statistic) []analysis.Problem {
	for i, k := range list {
		if !slices.Contains(Statistics, k) || slices.Contains(list[:i], k) {
			return []analysis.Problem{{Code: "crosstab.show", Pointer: "/settings/show"}}
		}
	}
	return nil
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	return append(analysis.Several(q, 2), CheckStatistics(s.Show)...)
}

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

func (s *Settings) claim(q []survey.Question, about claim.About) Summaries {
	c := Summaries{About: about, Show: s.Show}
	for _, one := range q {
		c.Names = append(c.Names, analysis.Named(one).Name())
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedEachDescriptives }

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{}
	for _, s := range c.Summaries {
		in.Lists = append(in.Lists, numericsummary.ListOf(s))
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	for _, f := range o.Counted.Each {
		c.Everyones = append(c.Everyones, f.Everyone)
	}
	return c.Document(o.Result.([]*tally.Summary))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
