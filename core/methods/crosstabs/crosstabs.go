// Package crosstabs crosses a question with several others at once.
package crosstabs

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is several tables.
type Request struct {
	Tables [][][]int64 `json:"tables"`
}

var figures = analysis.Figures(
	"crosstabs",
	"Several tables, each with its shares of rows, of columns and of everyone",
	nil,
	Request{},
	func(_ context.Context, in *Request) ([]*tally.TableShares, error) {
		cells := 0
		for _, table := range in.Tables {
			for _, row := range table {
				cells += len(row)
			}
		}
		if len(in.Tables) > analysis.MostRows || cells > analysis.MaxCells {
			return nil, analysis.RefuseInput("crossings", analysis.TooManyCells, -1)
		}
		var out []*tally.TableShares
		for _, table := range in.Tables {
			t, err := tally.ShareTable(table)
			if err != nil && !analysis.Nobody(err) {
				return nil, err
			}
			out = append(out, t)
		}
		return out, nil
	},
)

// Settings crosses several questions with the first, whose answers are the groups.
type Settings struct {
	analysis.Describing
	Reading crosstab.Reading `json:"reading"`
}

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "X",
	Questions: []analysis.Part{analysis.TheGroups},
	More:      analysis.TheOthers,
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	New:       func() analysis.Settings { return &Settings{Reading: crosstab.OfEachColumn} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	out := append(analysis.Several(q, 2), analysis.CheckOneOf(CrossingsReadings, s.Reading, "crosstab.reading", "reading")...)
	return append(out, analysis.CellsFit(q)...)
}

// Looks is one crossing for each question of the groups.
func (*Settings) Looks(questions int) int { return questions - 1 }

// Essence implements analysis.Settings: all is how it is shown.
func (*Settings) Essence() any { return Settings{} }

func (s *Settings) claim(q []survey.Question, about claim.About) Crossings {
	c := Crossings{About: about, Groups: analysis.Named(q[0]), GroupLabels: analysis.LabelsOf(q[0]), Reading: s.Reading}
	for _, one := range q[1:] {
		c.Questions, c.Labels = append(c.Questions, analysis.Named(one)), append(c.Labels, analysis.LabelsOf(one))
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedEachCrosstab }

func tablesOf(c *analysis.Counted) (out [][][]int64) {
	for _, t := range c.Crosstabs {
		out = append(out, t.Proper(0))
	}
	return out
}

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return figures.Outcome(work, &Request{Tables: tablesOf(c)})
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Counts = tablesOf(o.Counted)
	return c.Document(o.Result.([]*tally.TableShares))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
