package analysis

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// OrderedGroupsSettings asks whether ordered answers shift between groups, or rise or fall
// along groups that have an order, too.
type OrderedGroupsSettings struct {
	Form    claim.OrderedForm `json:"form"`
	Role    claim.Role        `json:"role"`
	Level   Level             `json:"level"`
	Reading claim.Reading     `json:"reading"`
}

var askedOrderedGroups = &Asked{Version: 1, Quick: QuickTable, Seldom: true, Questions: []Part{TheQuestion, TheGroups},
	Inputs: []Input{
		{Name: "form", Kind: ChoiceInput, Options: texts(claim.OrderedForms), Needed: true},
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	},
	Texts: "ordered_groups", Lines: []Line{{ID: "claim"}},
	Of: func(q survey.Question) bool { return q.Kind.Ranked() }, With: func(q survey.Question) bool { return q.Kind.Coded() },
	New: func() Settings { return &OrderedGroupsSettings{Level: 0.05, Reading: claim.OfEachRow} }}

// Check implements Settings: a trend needs groups that have an order.
func (s *OrderedGroupsSettings) Check(q []survey.Question) []Problem {
	out := checkOneOf(claim.OrderedForms, s.Form, "ordered_groups.form", "form")
	if s.Form == claim.Trend && !q[1].Kind.Ranked() {
		out = append(out, Problem{Code: "ordered_groups.order", Pointer: "/settings/form", Values: document.Values{"question": document.Text(q[1].Wording)},
			Remedy: &document.Remedy{Label: document.Say("remedy.shift", nil), Change: []byte(`{"form":"shift"}`)}})
	}
	return slices.Concat(out, checkRole(s.Role, "role"), s.Level.problems("level"), checkOneOf(claim.Readings, s.Reading, "crosstab.reading", "reading"), cellsFit(q))
}

// Tests implements Settings.
func (*OrderedGroupsSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *OrderedGroupsSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements Settings: no category is named.
func (*OrderedGroupsSettings) Codes(int) []string { return nil }

// Essence implements Settings.
func (s *OrderedGroupsSettings) Essence() any {
	e := *s
	e.Reading = ""
	return e
}

func (s *OrderedGroupsSettings) claim(q []survey.Question, about claim.About) claim.OrderedGroups {
	x := claim.Crossing{About: about, Rows: named(q[1]), Columns: named(q[0]), RowLabels: labelsOf(q[1]), ColumnLabels: labelsOf(q[0]), Reading: s.Reading}
	return claim.OrderedGroups{Crossing: x, Form: s.Form, Role: s.Role, Level: float64(s.Level), Scored: scoresOf(q[0]) != nil || scoresOf(q[1]) != nil}
}

// Statement implements Settings.
func (s *OrderedGroupsSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*OrderedGroupsSettings) needs() need { return crosstab }

// scoresOf are the scores of the answers, where somebody gave one to each; nil elsewhere.
func scoresOf(q survey.Question) (out []float64) {
	for _, a := range q.Proper() {
		if a.Score == nil {
			return nil
		}
		out = append(out, *a.Score)
	}
	return out
}

func (s *OrderedGroupsSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &OrderedRequest{Table: c.Crosstab.Proper(0), Level: float64(s.Level)}
	if s.Form == claim.Trend {
		in.ColumnScores, in.RowScores = scoresOf(c.Questions[0]), scoresOf(c.Questions[1])
	}
	o, err := outcomeOf(work, orderedName, in)
	if err != nil || o.Refusal != nil {
		return o, err
	}
	if r := o.Result.(*infer.Ordered); s.Form == claim.Trend && r.Trend == nil {
		o.Refusal = &infer.InputError{Method: orderedName, Reason: r.WhyNoTrend, Index: -1}
	}
	return o, nil
}

func (s *OrderedGroupsSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Counts = o.Counted.Crosstab.Proper(0)
	c.Everyone, c.NoRow, c.NoColumn = o.Counted.Crosstab.Everyone()
	return c.Document(o.Result.(*infer.Ordered))
}
