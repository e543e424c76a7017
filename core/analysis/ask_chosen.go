package analysis

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// ChosenItemsSettings asks whether the answers to a choose-all question are chosen equally
// often by the same respondents.
type ChosenItemsSettings struct {
	Role  claim.Role `json:"role"`
	Level Level      `json:"level"`
}

var askedChosen = &Asked{Version: 1, Quick: QuickPatterns, Questions: []Part{TheQuestion},
	Inputs: []Input{
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	},
	Texts: "chosen_items", Lines: []Line{{ID: "claim"}}, Key: "t",
	Of:  func(q survey.Question) bool { return q.Kind == survey.ChooseAll },
	New: func() Settings { return &ChosenItemsSettings{Level: 0.05} }}

// Check implements Settings.
func (s *ChosenItemsSettings) Check([]survey.Question) []Problem {
	return slices.Concat(checkRole(s.Role, "role"), s.Level.problems("level"))
}

// Tests implements Settings.
func (*ChosenItemsSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *ChosenItemsSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements Settings: no category is named.
func (*ChosenItemsSettings) Codes(int) []string { return nil }

// Essence implements Settings.
func (s *ChosenItemsSettings) Essence() any { return *s }

func (s *ChosenItemsSettings) claim(q survey.Question, about claim.About) claim.ChosenItems {
	return claim.ChosenItems{About: about, Question: named(q), Labels: labelsOf(q), Role: s.Role}
}

// Statement implements Settings.
func (s *ChosenItemsSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

func (*ChosenItemsSettings) needs() need { return patterns }

func (s *ChosenItemsSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &ChosenItemsRequest{Level: float64(s.Level)}
	for _, p := range c.Responses.Patterns {
		one := PatternRequest{Count: p.Count}
		for _, a := range c.Questions[0].Proper() {
			one.Chosen = append(one.Chosen, p.Set>>a.Slot&1 == 1)
		}
		in.Patterns = append(in.Patterns, one)
	}
	return outcomeOf(work, chosenName, in)
}

func (s *ChosenItemsSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.CochranQ))
}
