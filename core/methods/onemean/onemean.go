// Package onemean compares a mean with a claimed one.
package onemean

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/means"
	"widetally/core/methods/numericsummary"
	"widetally/core/survey"
)

// Request asks whether a mean is a claimed one.
type Request struct {
	means.SampleRequest
	Claimed    float64 `json:"claimed"`
	Confidence float64 `json:"confidence,omitempty"`
}

var figures = analysis.Figures("one-mean", "One mean against a claimed one: z where sigma is known, t otherwise",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.NearlyNormal}, Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.Means, error) {
		first, err := in.Sample("sample")
		if err != nil {
			return nil, err
		}
		return infer.ComputeMeans(infer.MeansInput{First: first, Claimed: in.Claimed, Confidence: in.Confidence})
	})

// Settings asks whether the mean of a number is a claimed one.
type Settings struct {
	Claimed *analysis.Number `json:"claimed,omitempty"`
	// Sigma is the standard deviation of the population, where it is known.
	Sigma     *analysis.Number   `json:"sigma,omitempty"`
	Direction claim.Direction    `json:"direction"`
	Role      claim.Role         `json:"role"`
	Level     analysis.Level     `json:"level"`
	Source    analysis.Reference `json:"source"`
	Looked    []claim.Direction  `json:"looked,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickSummary,
	Questions: []analysis.Part{analysis.TheQuestion},
	Seldom:    true,
	Key:       "v",
	Inputs: []analysis.Input{
		{Name: "claimed", Kind: analysis.TextInput, MaxLength: 24, Needed: true},
		{Name: "source.title", Kind: analysis.TextInput, MaxLength: analysis.MaxTitle},
		{Name: "sigma", Kind: analysis.TextInput, MaxLength: 24},
		{Name: "direction", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Directions), Needed: true},
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{{ID: "claimed"}, {ID: "question"}, {ID: "role"}, {ID: "sigma"}},
	Of:    numericsummary.Of,
	New:   func() analysis.Settings { return &Settings{Level: 0.05} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) (out []analysis.Problem) {
	if s.Claimed == nil {
		out = append(out, analysis.Problem{Code: "mean.empty", Pointer: "/settings/claimed"})
	}
	if s.Sigma != nil && !(*s.Sigma > 0) {
		out = append(out, analysis.Problem{Code: "mean.sigma", Pointer: "/settings/sigma"})
	}
	return slices.Concat(
		out,
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

// Cited is where the claimed mean comes from.
func (s *Settings) Cited() analysis.Reference { return s.Source }

// Codes implements analysis.Settings: no category is named.
func (*Settings) Codes(int) []string { return nil }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Source, e.Looked = analysis.Reference{}, nil
	return e
}

func (s *Settings) claim(q survey.Question, about claim.About) Claim {
	c := Claim{
		About:    about,
		Stated:   claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)},
		Question: analysis.Named(q),
		Source:   s.Source.Title,
		Looked:   s.Looked,
	}
	if s.Claimed != nil {
		c.Claimed = float64(*s.Claimed)
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedDescriptives }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	if c.Summary == nil || c.Summary.SD == nil && s.Sigma == nil {
		return &analysis.Outcome{Refusal: &infer.InputError{Method: figures.Name, Reason: infer.TooFewForSD, Index: -1}}, nil
	}
	in := &Request{
		SampleRequest: means.SampleRequest{
			N:        c.Summary.N,
			Mean:     c.Summary.Mean,
			SD:       c.Summary.SD,
			Sigma:    (*float64)(s.Sigma),
			Skewness: c.Summary.Skewness,
		},
		Claimed:    float64(*s.Claimed),
		Confidence: 1 - float64(s.Level),
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	if o.Counted.Frequency != nil {
		about.Everyone = o.Counted.Frequency.Everyone
	}
	c := s.claim(o.Counted.Questions[0], about)
	if o.Counted.Summary.Rows != nil {
		in := numericsummary.ListOf(o.Counted.Summary)
		in.Confidence = 1 - float64(s.Level)
		c.Numbers = numericsummary.Summarised(in)
	}
	return c.Document(o.Result.(*infer.Means))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
