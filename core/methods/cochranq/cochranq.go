// Package cochranq compares how often the items of a choose-all question were chosen (Cochran 1950).
package cochranq

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Settings asks whether the answers to a choose-all question are chosen equally
// often by the same respondents.
type Settings struct {
	Role  claim.Role     `json:"role"`
	Level analysis.Level `json:"level"`
}

var asked = &analysis.Asked{Version: 1, Quick: analysis.QuickPatterns, Questions: []analysis.Part{analysis.TheQuestion},
	Inputs: []analysis.Input{
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{{ID: "claim"}}, Key: "t",
	Of:  func(q survey.Question) bool { return q.Kind == survey.ChooseAll },
	New: func() analysis.Settings { return &Settings{Level: 0.05} }}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) []analysis.Problem {
	return slices.Concat(analysis.CheckRole(s.Role, "role"), s.Level.Problems("level"))
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements analysis.Settings: no category is named.
func (*Settings) Codes(int) []string { return nil }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

func (s *Settings) claim(q survey.Question, about claim.About) Claim {
	return Claim{About: about, Question: analysis.Named(q), Labels: analysis.LabelsOf(q), Role: s.Role}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedPatterns }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Level: float64(s.Level)}
	for _, p := range c.Responses.Patterns {
		one := PatternRequest{Count: p.Count}
		for _, a := range c.Questions[0].Proper() {
			one.Chosen = append(one.Chosen, p.Set>>a.Slot&1 == 1)
		}
		in.Patterns = append(in.Patterns, one)
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.CochranQ))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// PatternRequest is one combination of choices and how many respondents made it.
type PatternRequest struct {
	Chosen []bool `json:"chosen"`
	Count  int64  `json:"count"`
}

// Request is the answers to a choose-all question.
type Request struct {
	Patterns []PatternRequest `json:"patterns"`
	Level    float64          `json:"level,omitempty"`
}

var figures = analysis.Figures("cochran-q", "How often the items of a choose-all question were chosen: Cochran's Q",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.SameRespondents}, Request{Level: 0.05},
	func(_ context.Context, in *Request) (*infer.CochranQ, error) {
		var patterns []infer.ChosenPattern
		for _, p := range in.Patterns {
			patterns = append(patterns, infer.ChosenPattern(p))
		}
		return infer.ComputeCochranQ(patterns, in.Level)
	})
