// Package means compares the means of two groups.
package means

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/numericbygroup"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/numericsummary"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Settings asks whether the mean of a number differs between the two answers to
// another question.
type Settings struct {
	Direction claim.Direction               `json:"direction"`
	Role      claim.Role                    `json:"role"`
	Level     analysis.Level                `json:"level"`
	Looked    []claim.Direction             `json:"looked,omitempty"`
	Show      []numericcomparison.Statistic `json:"show,omitempty"`
	Frame     *claim.Frame                  `json:"frame,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickTwoSummaries,
	Seldom:    true,
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs: []analysis.Input{
		{Name: "direction", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Directions), Needed: true},
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{
		{ID: "claim"},
		{ID: "role"},
	},
	Key:  "m",
	Of:   func(q survey.Question) bool { return numericsummary.Of(q) || q.Kind == survey.Summarised },
	With: func(q survey.Question) bool { return q.Kind.Coded() && len(q.Proper()) == 2 },
	New: func() analysis.Settings {
		return &Settings{
			Level: 0.05,
			Show: []numericcomparison.Statistic{
				numericcomparison.StatMean,
				numericcomparison.StatSD,
				numericcomparison.StatMedian,
			},
		}
	},
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) []analysis.Problem {
	return slices.Concat(
		analysis.CheckOneOf(claim.Directions, s.Direction, "share.direction", "direction"),
		analysis.CheckLooked(s.Looked),
		analysis.CheckRole(s.Role, "role"),
		s.Level.Problems("level"),
		numericcomparison.CheckStatistics(s.Show),
		analysis.CheckFrame(s.Frame),
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
	e.Show, e.Frame, e.Looked = nil, nil, nil
	return e
}

func (s *Settings) claim(q []survey.Question, about claim.About) Claim {
	labels := analysis.LabelsOf(q[1])
	c := Claim{
		Summaries: (&numericbygroup.Settings{Show: s.Show, Frame: s.Frame}).Claim(q, about),
		Stated:    claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)},
		Looked:    s.Looked,
	}
	if len(labels) == 2 {
		c.First, c.Second = labels[0], labels[1]
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedDescriptivesBy }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	samples := make([]SampleRequest, 2)
	for i, one := range c.Summaries {
		if one == nil || one.SD == nil {
			return &analysis.Outcome{Refusal: &infer.InputError{Method: figures.Name, Reason: infer.TooFewForSD, Index: i}}, nil
		}
		samples[i] = SampleRequest{N: one.N, Mean: one.Mean, SD: one.SD, Skewness: one.Skewness}
	}
	return figures.Outcome(work, &Request{First: samples[0], Second: &samples[1], Confidence: 1 - float64(s.Level)})
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	if o.Counted.Summaries[0].Rows == nil { // only these are known
		return c.Document(o.Result.(*infer.Means), nil)
	}
	c.Everyone = o.Counted.Frequency.Everyone
	var list []*tally.Summary
	all := numericsummary.Request{Confidence: analysis.UsualConfidence, Percents: numericsummary.Quarters}
	for _, one := range o.Counted.Summaries {
		in := numericsummary.ListOf(one)
		all.Values, all.Counts = append(all.Values, in.Values...), append(all.Counts, in.Counts...)
		in.Confidence = analysis.UsualConfidence
		list = append(list, numericsummary.Summarised(in))
	}
	return c.Document(o.Result.(*infer.Means), append(list, numericsummary.Summarised(all)))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// SampleRequest is a group of numbers by its summary.
type SampleRequest struct {
	N    int64   `json:"n"`
	Mean float64 `json:"mean"`
	// SD is the standard deviation with divisor n − 1; needed unless sigma is given.
	SD *float64 `json:"sd,omitempty"`
	// Sigma is the standard deviation of the population where it is known.
	Sigma *float64 `json:"sigma,omitempty"`
	// Skewness is that of the numbers, where they are known; it tells how many it takes.
	Skewness *float64 `json:"skewness,omitempty"`
}

// Sample reads what is known of the numbers of a group; name is that of the member of the request.
func (s SampleRequest) Sample(name string) (infer.Sample, error) {
	out := infer.Sample{N: s.N, Mean: s.Mean, Sigma: s.Sigma, Skewness: s.Skewness}
	switch {
	case s.SD != nil:
		out.SD = *s.SD
	case s.Sigma == nil:
		return out, &analysis.MissingError{Field: name + ".sd"}
	}
	return out, nil
}

// Request asks about one mean, or about the difference of two.
type Request struct {
	First  SampleRequest  `json:"first"`
	Second *SampleRequest `json:"second,omitempty"`
	// Claimed is the mean, or the difference first − second, under the null hypothesis.
	Claimed    float64 `json:"claimed,omitempty"`
	Confidence float64 `json:"confidence,omitempty"`
}

var figures = analysis.Figures(
	"means",
	"One or two means from summary numbers: z where sigma is known, t otherwise, Welch and pooled",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.NearlyNormal},
	Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.Means, error) {
		first, err := in.First.Sample("first")
		if err != nil {
			return nil, err
		}
		core := infer.MeansInput{First: first, Claimed: in.Claimed, Confidence: in.Confidence}
		if in.Second != nil {
			second, err := in.Second.Sample("second")
			if err != nil {
				return nil, err
			}
			core.Second = &second
		}
		return infer.ComputeMeans(core)
	},
)
