package analysis

import (
	"slices"

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

func (g TwoGroups) check(q survey.Question) (out []Problem) {
	for _, one := range []struct{ member, code string }{{"first", g.First}, {"second", g.Second}} {
		pointer := "/settings/groups/" + one.member
		switch {
		case one.code == "":
			out = append(out, Problem{Code: "groups.none", Pointer: pointer, Values: document.Values{"question": document.Text(q.Wording)}})
		case !slices.ContainsFunc(q.Proper(), func(a survey.Answer) bool { return a.Code == one.code }):
			out = append(out, Problem{Code: "spec.category", Pointer: pointer, Values: document.Values{"text": document.Text(one.code), "name": document.Text(q.Name)}})
		}
	}
	if g.First != "" && g.First == g.Second {
		out = append(out, Problem{Code: "groups.same", Pointer: "/settings/groups/second"})
	}
	return out
}

func (g TwoGroups) codes() (out []string) {
	for _, code := range []string{g.First, g.Second} {
		if code != "" {
			out = append(out, code)
		}
	}
	return out
}

// labels are the names of the groups, their codes where the question lacks them.
func (g TwoGroups) labels(q survey.Question) (first, second string) {
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

// groupInputs are those of two groups.
var groupInputs = []Input{{Name: "groups.first", Kind: CategoryInput, Needed: true}, {Name: "groups.second", Kind: CategoryInput, Needed: true}}

// counted gives how many in each of the two groups gave an answer that counts, of how many; and
// how many answered both questions, in any group.
func (g TwoGroups) counted(c *Counted, success []string) (in TwoProportionsRequest, both int64) {
	answers, groups := c.Questions[0].Proper(), c.Questions[1].Proper()
	for i, row := range c.Crosstab.Proper(0) {
		for j, n := range row {
			both += n
			group := &Group{}
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

func successLabels(success []string, q survey.Question) (out []string) {
	for _, a := range q.Proper() {
		if slices.Contains(success, a.Code) {
			out = append(out, a.Label)
		}
	}
	return out
}

// TwoSharesSettings asks whether the share of some answers differs between two groups.
type TwoSharesSettings struct {
	Success   []string          `json:"success"`
	Groups    TwoGroups         `json:"groups"`
	Direction claim.Direction   `json:"direction"`
	Role      claim.Role        `json:"role"`
	Level     Level             `json:"level"`
	Looked    []claim.Direction `json:"looked,omitempty"`
}

const twoProportionsName = "two-proportions"

var askedTwoShares = &Asked{Version: 1, Quick: QuickTwoYesNo, Questions: []Part{TheQuestion, TheGroups},
	Inputs: append(append([]Input{{Name: "success", Kind: CategoriesInput, Needed: true}}, groupInputs...),
		Input{Name: "direction", Kind: ChoiceInput, Options: texts(claim.Directions), Needed: true},
		Input{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	),
	Texts: "two_shares", Key: "g", Lines: []Line{{ID: "claim"}, {ID: "role"}}, Seldom: true,
	New: func() Settings { return &TwoSharesSettings{Success: []string{}, Level: 0.05} }}

// Check implements Settings.
func (s *TwoSharesSettings) Check(q []survey.Question) []Problem {
	return slices.Concat(checkSuccess(s.Success, q[0]), s.Groups.check(q[1]), checkOneOf(claim.Directions, s.Direction, "share.direction", "direction"), checkLooked(s.Looked), checkRole(s.Role, "role"), s.Level.problems("level"))
}

// Tests implements Settings.
func (*TwoSharesSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *TwoSharesSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements Settings.
func (s *TwoSharesSettings) Codes(question int) []string {
	if question == 0 {
		return s.Success
	}
	return s.Groups.codes()
}

// Essence implements Settings.
func (s *TwoSharesSettings) Essence() any {
	e := *s
	e.Looked, e.Success = nil, slices.Sorted(slices.Values(e.Success))
	return e
}

func (s *TwoSharesSettings) claim(q []survey.Question, about claim.About) claim.TwoShares {
	c := claim.TwoShares{About: about, Stated: claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)}, Question: named(q[0]), Groups: named(q[1]), Success: successLabels(s.Success, q[0]), Looked: s.Looked}
	c.First, c.Second = s.Groups.labels(q[1])
	return c
}

// Statement implements Settings.
func (s *TwoSharesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*TwoSharesSettings) needs() need { return crosstab }

func (s *TwoSharesSettings) run(work Work, c *Counted) (*Outcome, error) {
	in, _ := s.Groups.counted(c, s.Success)
	in.Confidence = 1 - float64(s.Level)
	o, err := outcomeOf(work, twoProportionsName, &in)
	if err == nil && o.Refusal == nil && o.Result.(*infer.TwoProportions).Z == nil {
		o.Refusal = &infer.InputError{Method: twoProportionsName, Reason: infer.NoVariation, Index: -1}
	}
	return o, err
}

func (s *TwoSharesSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	_, c.Answered = s.Groups.counted(o.Counted, s.Success)
	c.Asked, _, _ = o.Counted.Crosstab.Everyone()
	return c.Document(o.Result.(*infer.TwoProportions))
}
