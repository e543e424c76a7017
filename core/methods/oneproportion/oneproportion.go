// Package oneproportion compares a share with a claimed one.
package oneproportion

import (
	"context"
	"encoding/json"
	"math/big"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/equivalence"
	"widetally/core/survey"
)

// Settings asks whether one answer, or several together, have a claimed share.
type Settings struct {
	// Success holds the codes of the answers that count.
	Success []string `json:"success"`
	// Claimed is the share as written: 62 %, 0.62 or 31/50. From 1 up it is a percent.
	Claimed   string             `json:"claimed"`
	Direction claim.Direction    `json:"direction"`
	Role      claim.Role         `json:"role"`
	Level     analysis.Level     `json:"level"`
	Source    analysis.Reference `json:"source"`
	// Looked are further directions that were looked at after the stated one.
	Looked []claim.Direction `json:"looked,omitempty"`
}

var asked = &analysis.Asked{Version: 1, Quick: analysis.QuickYesNo, Questions: []analysis.Part{analysis.TheQuestion},
	Inputs: []analysis.Input{
		{Name: "success", Kind: analysis.CategoriesInput, Needed: true},
		{Name: "claimed", Kind: analysis.ShareInput, MaxLength: 20, Needed: true},
		{Name: "direction", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Directions), Needed: true},
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
		{Name: "source.title", Kind: analysis.TextInput, MaxLength: analysis.MaxTitle},
	},
	Key: "t", Lines: []analysis.Line{{ID: "claimed"}, {ID: "question"}, {ID: "role"}},
	New: func() analysis.Settings { return &Settings{Success: []string{}, Level: 0.05} }}

// claimed reads the claimed share.
func (s *Settings) claimed() (*big.Rat, []analysis.Problem) {
	return analysis.ReadShare(s.Claimed, "claimed")
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	_, wrong := s.claimed()
	return slices.Concat(
		analysis.CheckSuccess(s.Success, q[0]),
		wrong,
		analysis.CheckOneOf(claim.Directions, s.Direction, "share.direction", "direction"),
		analysis.CheckLooked(s.Looked),
		analysis.CheckRole(s.Role, "role"),
		s.Level.Problems("level"),
		s.Source.Check("source"),
	)
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the claimed figures come from.
func (s *Settings) Cited() analysis.Reference { return s.Source }

// Codes implements analysis.Settings.
func (s *Settings) Codes(int) []string { return s.Success }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Source, e.Looked = analysis.Reference{}, nil
	e.Success = slices.Sorted(slices.Values(e.Success))
	if x, wrong := s.claimed(); wrong == nil {
		e.Claimed = x.RatString()
	}
	return e
}

func (s *Settings) claim(q survey.Question, about claim.About) Claim {
	c := Claim{
		About:     about,
		Question:  analysis.Named(q),
		Source:    s.Source.Title,
		Direction: s.Direction,
		Role:      s.Role,
		Level:     float64(s.Level),
		Looked:    s.Looked,
	}
	c.Claimed, _ = s.claimed()
	c.Success = analysis.SuccessLabels(s.Success, q)
	c.Near, _ = json.Marshal(
		equivalence.ShareSettings{
			Success:  s.Success,
			Expected: s.Claimed,
			Source:   s.Source,
			Near:     equivalence.Near{Role: claim.ClaimIsAlternative, Level: s.Level},
		},
	) // texts and numbers only
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedFrequencies }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	x, _ := s.claimed()
	share, _ := x.Float64()
	return figures.Outcome(work, &Request{Group: analysis.GroupOf(c, s.Success), Claimed: share, Confidence: 1 - float64(s.Level)})
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.Proportion))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request asks about one share.
type Request struct {
	analysis.Group
	// Claimed is the share under the null hypothesis, between 0 and 1.
	Claimed    float64 `json:"claimed"`
	Confidence float64 `json:"confidence,omitempty"`
}

var figures = analysis.Figures("one-proportion", "One share against a claimed one: score and exact tests, intervals",
	[]analysis.Assumption{analysis.SimpleRandom}, Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.Proportion, error) {
		return infer.ComputeProportion(
			infer.ProportionInput{Successes: in.Successes, N: in.N, Claimed: in.Claimed, Confidence: in.Confidence},
		)
	})
