// Package goodnessoffit compares the shares of a question's answers with known ones.
package goodnessoffit

import (
	"context"
	"encoding/json"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/exact"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
)

// Settings asks whether a question's answers are spread as expected shares say.
type Settings struct {
	Shares analysis.ExpectedShares `json:"shares"`
	// Role says which hypothesis the claim is: that the shares hold, or that they do not.
	Role  claim.Role     `json:"role"`
	Level analysis.Level `json:"level"`
	// Picture draws the observed shares beside the expected ones; none where absent.
	Picture SharesPicture `json:"picture,omitempty"`
	Frame   *claim.Frame  `json:"frame,omitempty"`
}

var asked = &analysis.Asked{Version: 1, Quick: analysis.QuickAnswers, Questions: []analysis.Part{analysis.TheQuestion},
	Inputs: append(slices.Clone(analysis.SharesInputs),
		analysis.Input{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles)},
		analysis.LevelBlank("level"),
	),
	Key: "c", Lines: []analysis.Line{{ID: "given", Unless: analysis.WhenIs("shares.scale", string(shares.Equal))}, {ID: "equal", Only: analysis.WhenIs("shares.scale", string(shares.Equal))}, {ID: "claim"}},
	New: func() analysis.Settings {
		return &Settings{Shares: analysis.ExpectedShares{Scale: shares.Percents}, Role: claim.ClaimIsNull, Level: 0.05}
	}}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	return slices.Concat(
		analysis.CheckRole(s.Role, "role"),
		s.Level.Problems("level"),
		s.Shares.Check(q[0]),
		analysis.CheckOneOf(SharesPictures, s.Picture, "crosstab.picture", "picture"),
		analysis.CheckFrame(s.Frame),
	)
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the claimed figures come from.
func (s *Settings) Cited() analysis.Reference { return s.Shares.Source }

// Codes implements analysis.Settings.
func (s *Settings) Codes(int) []string { return s.Shares.Codes() }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Shares, e.Picture, e.Frame = s.Shares.Essence(), "", nil
	return e
}

func (s *Settings) claim(q survey.Question, about claim.About) Claim {
	c := Claim{
		About:    about,
		Question: analysis.Named(q),
		Source:   s.Shares.Source.Title,
		Kind:     s.Shares.Source.Kind,
		Scale:    s.Shares.Scale,
		Role:     s.Role,
		Aligned:  s.Shares.Align(q),
		Picture:  s.Picture,
		Frame:    s.Frame,
	}
	c.Gaps, c.Placed = survey.Gaps(q), s.Shares.Placed
	c.Asked, _ = json.Marshal(s.Shares) // texts and flags only
	for _, a := range q.Proper() {
		c.Labels, c.Codes = append(c.Labels, a.Label), append(c.Codes, a.Code)
	}
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
	in := &Request{Observed: analysis.ProperCounts(c.Frequency), Scaled: s.Shares.Scaled(c.Questions[0]), Level: float64(s.Level)}
	o, err := figures.Outcome(work, in)
	if err != nil || o.Refusal != nil {
		return o, err
	}
	answer := o.Result.(Answer)
	if r := answer.GoodnessOfFit; r.LowCells > 0 {
		input := infer.GoodnessOfFitInput{Observed: in.Observed, Shares: s.Shares.Align(c.Questions[0]).Shares, Level: in.Level}
		options := infer.ExactOptions{Work: work.Steps, Replicates: work.Replicates, Seed: analysis.FixedSeed}
		if r.Answers > 2 && exact.MultinomialSteps(r.N, r.Answers) > float64(work.Steps) {
			options.Way = infer.SimulatedOnly
		}
		if answer.Exact, err = infer.ComputeExactGoodnessOfFit(work.Context, input, options); err != nil {
			return nil, err
		}
		o.Result = answer
	}
	return o, nil
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	answer := o.Result.(Answer)
	about.Everyone = o.Counted.Frequency.Everyone
	c := s.claim(o.Counted.Questions[0], about)
	c.Exact = answer.Exact
	return c.Document(answer.GoodnessOfFit)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is the observed counts of one question and its expected shares.
type Request struct {
	Observed []int64 `json:"observed"`
	analysis.Scaled
	// Level is the significance level; intervals are at 1 − level.
	Level float64 `json:"level,omitempty"`
	// Estimated is the number of parameters estimated from these counts.
	Estimated int                    `json:"estimated,omitempty"`
	Exact     *analysis.ExactRequest `json:"exact,omitempty"`
}

// Answer holds the test, and the exact or simulated one where asked for.
type Answer struct {
	GoodnessOfFit *infer.GoodnessOfFit
	Exact         *infer.ExactTest
}

var figures = analysis.HeavyWhen(
	analysis.Figures(
		"goodness-of-fit",
		"Observed counts against known shares: chi-square, likelihood ratio, residuals, exact or simulated",
		[]analysis.Assumption{analysis.SimpleRandom, analysis.SharesKnown},
		Request{Scaled: analysis.DefaultScaled, Level: 0.05},
		func(ctx context.Context, in *Request) (a Answer, err error) {
			expected, err := in.Read("goodness of fit", len(in.Observed))
			if err != nil {
				return a, err
			}
			core := infer.GoodnessOfFitInput{Observed: in.Observed, Shares: expected, Level: in.Level, Estimated: in.Estimated}
			if a.GoodnessOfFit, err = infer.ComputeGoodnessOfFit(core); err != nil || in.Exact == nil {
				return a, err
			}
			options, err := in.Exact.Options("exact goodness of fit", a.GoodnessOfFit.Answers)
			if err != nil {
				return a, err
			}
			a.Exact, err = infer.ComputeExactGoodnessOfFit(ctx, core, options)
			return a, err
		},
	),
	func(in *Request) bool {
		if in.Exact == nil || len(in.Observed) == 2 && in.Exact.Way != infer.SimulatedOnly {
			return false
		}
		return in.Exact.Way == infer.SimulatedOnly ||
			exact.MultinomialSteps(analysis.Total(in.Observed), len(in.Observed)) > analysis.LightSteps
	},
)
