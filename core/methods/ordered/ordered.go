// Package ordered compares groups whose answers have an order, and looks for trends.
package ordered

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/say"
	"widetally/core/survey"
)

// Settings asks whether ordered answers shift between groups, or rise or fall
// along groups that have an order, too.
type Settings struct {
	Form    OrderedForm      `json:"form"`
	Role    claim.Role       `json:"role"`
	Level   analysis.Level   `json:"level"`
	Reading crosstab.Reading `json:"reading"`
}

var asked = &analysis.Asked{
	Version:   1,
	Ordered:   true,
	Quick:     analysis.QuickTable,
	Seldom:    true,
	Key:       "o",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs: []analysis.Input{
		{Name: "form", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(OrderedForms), Needed: true},
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{{ID: "claim"}},
	Of:    func(q survey.Question) bool { return q.Kind.Ranked() },
	With:  func(q survey.Question) bool { return q.Kind.Coded() },
	New:   func() analysis.Settings { return &Settings{Level: 0.05, Reading: crosstab.OfEachRow} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings: a trend needs groups that have an order.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	out := analysis.CheckOneOf(OrderedForms, s.Form, "ordered.form", "form")
	if s.Form == Trend && !q[1].Kind.Ranked() {
		out = append(
			out,
			analysis.Problem{
				Code:    "ordered.order",
				Pointer: "/settings/form",
				Values:  document.Values{"question": document.Text(q[1].Wording)},
				Remedy:  &document.Remedy{Label: say.RemedyShift(), Change: []byte(`{"form":"shift"}`)},
			},
		)
	}
	return slices.Concat(
		out,
		analysis.CheckRole(s.Role, "role"),
		s.Level.Problems("level"),
		analysis.CheckOneOf(crosstab.Readings, s.Reading, "crosstab.reading", "reading"),
		analysis.CellsFit(q),
	)
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements analysis.Settings: no category is named.
func (*Settings) Codes(int) []string { return nil }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Reading = ""
	return e
}

func (s *Settings) claim(q []survey.Question, about claim.About) Claim {
	x := crosstab.Crossing{
		About:        about,
		Rows:         analysis.Named(q[1]),
		Columns:      analysis.Named(q[0]),
		RowLabels:    analysis.LabelsOf(q[1]),
		ColumnLabels: analysis.LabelsOf(q[0]),
		Reading:      s.Reading,
	}
	return Claim{
		Crossing: x,
		Form:     s.Form,
		Role:     s.Role,
		Level:    float64(s.Level),
		Scored:   analysis.ScoresOf(q[0]) != nil || analysis.ScoresOf(q[1]) != nil,
	}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedCrosstab }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Table: c.Crosstab.Proper(0), Level: float64(s.Level)}
	if s.Form == Trend {
		in.ColumnScores, in.RowScores = analysis.ScoresOf(c.Questions[0]), analysis.ScoresOf(c.Questions[1])
	}
	o, err := figures.Outcome(work, in)
	if err != nil || o.Refusal != nil {
		return o, err
	}
	if r := o.Result.(*infer.Ordered); s.Form == Trend && r.Trend == nil {
		o.Refusal = &infer.InputError{Method: figures.Name, Reason: r.WhyNoTrend, Index: -1}
	}
	return o, nil
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Counts = o.Counted.Crosstab.Proper(0)
	c.Everyone, c.NoRow, c.NoColumn = o.Counted.Crosstab.Everyone()
	return c.Document(o.Result.(*infer.Ordered))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is a table whose answers have an order, the lowest first.
type Request struct {
	Table [][]int64 `json:"table"`
	// RowScores and ColumnScores place the answers on a line; 1, 2, 3, … where absent.
	RowScores    []float64 `json:"rowScores,omitempty"`
	ColumnScores []float64 `json:"columnScores,omitempty"`
	Level        float64   `json:"level,omitempty"`
}

var figures = analysis.Figures("ordered", "Answers with an order: trends, rank tests, gamma, tau, Somers' d",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.AnswersOrdered}, Request{Level: 0.05},
	func(_ context.Context, in *Request) (*infer.Ordered, error) {
		if err := analysis.CheckTable("ordered answers", in.Table); err != nil {
			return nil, err
		}
		return infer.ComputeOrdered(infer.OrderedInput(*in))
	})
