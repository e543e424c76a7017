// Package twoproportions compares the shares of two groups.
package twoproportions

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// TwoGroups names two answers of the second question, whose respondents are compared.
type TwoGroups struct {
	First  string `json:"first"`
	Second string `json:"second"`
}

// Check lists what keeps the groups from being those of a question.
func (g TwoGroups) Check(q survey.Question) (out []analysis.Problem) {
	for _, one := range []struct{ member, code string }{{"first", g.First}, {"second", g.Second}} {
		pointer := "/settings/groups/" + one.member
		switch {
		case one.code == "":
			out = append(
				out,
				analysis.Problem{
					Code:    "groups.none",
					Pointer: pointer,
					Values:  document.Values{"question": document.Text(q.Wording)},
				},
			)
		case !slices.ContainsFunc(q.Proper(), func(a survey.Answer) bool { return a.Code == one.code }):
			out = append(
				out,
				analysis.Problem{
					Code:    "spec.category",
					Pointer: pointer,
					Values:  document.Values{"text": document.Text(one.code), "name": document.Text(q.Name)},
				},
			)
		}
	}
	if g.First != "" && g.First == g.Second {
		out = append(out, analysis.Problem{Code: "groups.same", Pointer: "/settings/groups/second"})
	}
	return out
}

// Codes lists the codes of both groups.
func (g TwoGroups) Codes() (out []string) {
	for _, code := range []string{g.First, g.Second} {
		if code != "" {
			out = append(out, code)
		}
	}
	return out
}

// Labels are the names of the groups, their codes where the question lacks them.
func (g TwoGroups) Labels(q survey.Question) (first, second string) {
	first, second = g.First, g.Second
	for _, a := range q.Proper() {
		if a.Code == g.First {
			first = a.Label
		}
		if a.Code == g.Second {
			second = a.Label
		}
	}
	return first, second
}

// GroupInputs are those of two groups.
var GroupInputs = []analysis.Input{
	{Name: "groups.first", Kind: analysis.CategoryInput, Needed: true},
	{Name: "groups.second", Kind: analysis.CategoryInput, Needed: true},
}

// Counted gives how many in each of the two groups gave an answer that counts, of how many; and
// how many answered both questions, in any group.
func (g TwoGroups) Counted(c *analysis.Counted, success []string) (in Request, both int64) {
	answers, groups := c.Questions[0].Proper(), c.Questions[1].Proper()
	for i, row := range c.Crosstab.Proper(0) {
		for j, n := range row {
			both += n
			group := &analysis.Group{}
			switch groups[i].Code {
			case g.First:
				group = &in.First
			case g.Second:
				group = &in.Second
			}
			group.N += n
			if slices.Contains(success, answers[j].Code) {
				group.Successes += n
			}
		}
	}
	return in, both
}

// Settings asks whether the share of some answers differs between two groups.
type Settings struct {
	Success   []string          `json:"success"`
	Groups    TwoGroups         `json:"groups"`
	Direction claim.Direction   `json:"direction"`
	Role      claim.Role        `json:"role"`
	Level     analysis.Level    `json:"level"`
	Looked    []claim.Direction `json:"looked,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickTwoYesNo,
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs: append(append([]analysis.Input{{Name: "success", Kind: analysis.CategoriesInput, Needed: true}}, GroupInputs...),
		analysis.Input{Name: "direction", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Directions), Needed: true},
		analysis.Input{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	),
	Key:    "2",
	Lines:  []analysis.Line{{ID: "claim"}, {ID: "role"}},
	Seldom: true,
	New:    func() analysis.Settings { return &Settings{Success: []string{}, Level: 0.05} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	return slices.Concat(
		analysis.CheckSuccess(s.Success, q[0]),
		s.Groups.Check(q[1]),
		analysis.CheckOneOf(claim.Directions, s.Direction, "share.direction", "direction"),
		analysis.CheckLooked(s.Looked),
		analysis.CheckRole(s.Role, "role"),
		s.Level.Problems("level"),
	)
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements analysis.Settings.
func (s *Settings) Codes(question int) []string {
	if question == 0 {
		return s.Success
	}
	return s.Groups.Codes()
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Looked, e.Success = nil, slices.Sorted(slices.Values(e.Success))
	return e
}

func (s *Settings) claim(q []survey.Question, about claim.About) Claim {
	c := Claim{
		About:    about,
		Stated:   claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)},
		Question: analysis.Named(q[0]),
		Groups:   analysis.Named(q[1]),
		Success:  analysis.SuccessLabels(s.Success, q[0]),
		Looked:   s.Looked,
	}
	c.First, c.Second = s.Groups.Labels(q[1])
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedCrosstab }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in, _ := s.Groups.Counted(c, s.Success)
	in.Confidence = 1 - float64(s.Level)
	o, err := figures.Outcome(work, &in)
	if err == nil && o.Refusal == nil && o.Result.(*infer.TwoProportions).Z == nil {
		o.Refusal = &infer.InputError{Method: figures.Name, Reason: infer.NoVariation, Index: -1}
	}
	return o, err
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	_, c.Answered = s.Groups.Counted(o.Counted, s.Success)
	c.Asked, _, _ = o.Counted.Crosstab.Everyone()
	return c.Document(o.Result.(*infer.TwoProportions))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request asks whether two groups have the same share.
type Request struct {
	First      analysis.Group `json:"first"`
	Second     analysis.Group `json:"second"`
	Confidence float64        `json:"confidence,omitempty"`
}

// Input is the request as the test takes it.
func (in Request) Input() infer.TwoProportionsInput {
	return infer.TwoProportionsInput{
		Successes1: in.First.Successes,
		N1:         in.First.N,
		Successes2: in.Second.Successes,
		N2:         in.Second.N,
		Confidence: in.Confidence,
	}
}

var figures = analysis.HeavyWhen(
	analysis.Figures("two-proportions", "The shares of two independent groups: pooled and exact tests, difference, ratio",
		[]analysis.Assumption{analysis.SimpleRandom, analysis.IndependentGroups}, Request{Confidence: 0.95},
		func(_ context.Context, in *Request) (*infer.TwoProportions, error) {
			return infer.ComputeTwoProportions(in.Input())
		}),
	func(in *Request) bool { return analysis.Total([]int64{in.First.N, in.Second.N}) > analysis.LightCount },
)
