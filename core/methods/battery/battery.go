// Package battery shows several questions with the same answers side by side.
package battery

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Request is the counts of several questions by the same answers, a row each.
type Request struct {
	Counts [][]int64 `json:"counts"`
	// Nets asks for the first two and the last two answers together.
	Nets bool `json:"nets,omitempty"`
}

var figures = analysis.Figures("battery", "Several questions with the same answers, side by side, with nets", nil, Request{},
	func(_ context.Context, in *Request) (*tally.Battery, error) {
		if len(in.Counts) > analysis.MostRows || len(in.Counts) > 0 && len(in.Counts)*len(in.Counts[0]) > analysis.MaxCells {
			return nil, analysis.RefuseInput("battery", analysis.TooManyCells, -1)
		}
		return tally.ShareRows(in.Counts, in.Nets)
	})

// Settings asks for questions that share a list of answers, a row each.
type Settings struct{ analysis.Describing }

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "B",
	Questions: []analysis.Part{analysis.TheQuestion},
	More:      analysis.TheBattery,
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	New:       func() analysis.Settings { return &Settings{} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings: the questions have the answers of the first, in any order.
func (*Settings) Check(q []survey.Question) []analysis.Problem {
	if len(q) < 2 || len(q) > analysis.MostRows {
		return []analysis.Problem{
			{Code: "battery.questions", Pointer: "/questions", Values: document.Values{"most": document.N(analysis.MostRows)}},
		}
	}
	for _, other := range q[1:] {
		if !slices.Equal(sortedCodes(q[0]), sortedCodes(other)) {
			return []analysis.Problem{
				{Code: "battery.answers", Pointer: "/questions", Values: document.Values{"question": document.Text(other.Wording)}},
			}
		}
	}
	return nil
}

func sortedCodes(q survey.Question) []string {
	out := analysis.CodesOf(q)
	slices.Sort(out)
	return out
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

func batteryOf(q []survey.Question, about claim.About) Battery {
	c := Battery{About: about}
	first := analysis.CodesOf(q[0])
	slices.Reverse(first)
	for i, one := range q {
		c.Questions = append(c.Questions, analysis.Named(one))
		c.Turned = append(c.Turned, i > 0 && len(first) > 1 && slices.Equal(analysis.CodesOf(one), first))
	}
	for _, a := range q[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c
}

// Statement implements analysis.Settings.
func (*Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return batteryOf(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedEachFrequencies }

// batteryCounts are the counts of every question, in the order of the first one's answers.
func batteryCounts(c *analysis.Counted) (out [][]int64) {
	for i, q := range c.Questions {
		byCode := map[string]int64{}
		for k, a := range q.Proper() {
			byCode[a.Code] = c.Each[i].Rows[k].Count
		}
		var row []int64
		for _, a := range c.Questions[0].Proper() {
			row = append(row, byCode[a.Code])
		}
		out = append(out, row)
	}
	return out
}

// Run implements analysis.Settings.
func (*Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return figures.Outcome(work, &Request{Counts: batteryCounts(c), Nets: c.Questions[0].Kind.Ranked()})
}

// Document implements analysis.Settings.
func (*Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	return batteryOf(o.Counted.Questions, about).Document(o.Result.(*tally.Battery), batteryCounts(o.Counted))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
