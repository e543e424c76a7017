// Package numericbygroup describes numbers within groups.
package numericbygroup

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/numericsummary"
	"widetally/core/say"
	"widetally/core/survey"
	"widetally/core/tally"
)

var figures = analysis.Figures(
	"numeric-by-group",
	"Numbers within groups, and of all groups together",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.NearlyNormal, analysis.IndependentGroups},
	numericcomparison.Request{},
	numericcomparison.Compute,
)

// Settings asks for numbers within the answers to another question.
type Settings struct {
	analysis.Describing
	Show  []numericcomparison.Statistic `json:"show"`
	Frame *claim.Frame                  `json:"frame,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "g",
	Of:        numericsummary.Of,
	With:      func(q survey.Question) bool { return q.Kind.Coded() },
	New: func() analysis.Settings {
		return &Settings{
			Show: []numericcomparison.Statistic{
				numericcomparison.StatMean,
				numericcomparison.StatSD,
				numericcomparison.StatSmallest,
				numericcomparison.StatQuartile1,
				numericcomparison.StatMedian,
				numericcomparison.StatQuartile3,
				numericcomparison.StatLargest,
			},
		}
	},
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	out := append(numericcomparison.CheckStatistics(s.Show), analysis.CheckFrame(s.Frame)...)
	if n := len(q[1].Proper()); n > analysis.MostRows {
		out = append(
			out,
			analysis.Problem{
				Code:    "mantel_haenszel.many",
				Pointer: "/questions/1",
				Values:  document.Values{"n": document.N(int64(n)), "most": document.N(analysis.MostRows)},
			},
		)
	}
	return out
}

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

// Claim is what may be said of the numbers within the groups.
func (s *Settings) Claim(q []survey.Question, about claim.About) numericcomparison.Summaries {
	c := numericcomparison.Summaries{
		About:    about,
		Question: analysis.Named(q[0]),
		Groups:   analysis.Named(q[1]),
		ByGroup:  true,
		Show:     s.Show,
		Frame:    s.Frame,
	}
	for _, label := range analysis.LabelsOf(q[1]) {
		c.Names = append(c.Names, say.Value(document.Text(label)))
	}
	c.Names = append(c.Names, say.ColumnAll())
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.Claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedDescriptivesBy }

// Run adds all groups together as a last list.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &numericcomparison.Request{}
	all := numericsummary.Request{Confidence: analysis.UsualConfidence, Percents: numericsummary.Quarters}
	for _, s := range c.Summaries {
		if s != nil && s.Rows == nil {
			return nil, analysis.Refused("spec.counts", "/questions", nil) // numbers of which only the mean is known
		}
		list := numericsummary.ListOf(s)
		in.Lists = append(in.Lists, list)
		all.Values, all.Counts = append(all.Values, list.Values...), append(all.Counts, list.Counts...)
	}
	in.Lists = append(in.Lists, all)
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.Claim(o.Counted.Questions, about).Document(o.Result.([]*tally.Summary))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
