package onemean

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the mean of a population and its test against the claimed one.
type Estimate struct {
	*design.Mean
	Test     infer.TTest
	Interval infer.Interval
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	refused := func(why infer.Reason) (*analysis.Outcome, error) {
		return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, why, -1)}, nil
	}
	if s.Sigma != nil {
		return refused(infer.SigmaAndDesign)
	}
	m, err := c.Drawing.Sample.Mean(c.Drawing.All())
	if err != nil {
		return refused(infer.NoObservations)
	}
	df := float64(m.DF)
	e := &Estimate{Mean: m, Test: infer.ComputeTTest(m.Mean-float64(*s.Claimed), m.SE(), df)}
	if e.Test.T == nil {
		return refused(infer.NoDesignVariance)
	}
	e.Interval = *infer.TInterval(m.Mean, m.SE(), df, 1-float64(s.Level))
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	if o.Counted.Frequency != nil {
		about.Everyone = o.Counted.Frequency.Everyone
	}
	return s.claim(o.Counted.Questions[0], about).estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated says what the estimate means: it goes by t on the degrees of freedom of the design.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	m := claim.MeanByDesign{
		Stated:   c.Stated,
		Estimate: e.Mean.Mean,
		SE:       e.SE(),
		Claimed:  c.Claimed,
		DF:       e.DF,
		Test:     e.Test,
		Interval: e.Interval,
	}
	decided := m.Verdict()
	v := m.Values(c.Clauses(oneMean, c.values()))
	v["n"], v["mean"], v["about"] = document.N(e.N), claim.Rounded(e.Mean.Mean), claim.Rounded(e.Mean.Mean)
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say(
		"read.one_mean_estimated."+[]string{"same", "higher", "lower"}[claim.Sign(e.Mean.Mean-c.Claimed)],
		v,
	)
	facts := m.Facts("mean_interval", v)
	if e.DesignEffect != nil {
		facts = append(
			facts,
			claim.Fact(
				"design_effect",
				"design_effect",
				nil,
				claim.Plain(document.Of(document.Effect, *e.DesignEffect)),
			),
		)
	}
	if e.SD != nil {
		facts = append(facts, claim.Fact("sd", "sd", nil, claim.Plain(claim.Rounded(*e.SD))))
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.DesignEffect)
	return document.Document{
		Blocks: []document.Block{
			by.Basis(c.About),
			c.Hypotheses(oneMean, v),
			{Kind: document.Sentence, Said: []document.Message{finding}},
			{Kind: document.Sentence, Said: []document.Message{reading}},
			{Kind: document.Facts, Facts: facts},
			decided.Block(),
			{Kind: document.Working, Said: []document.Message{
				say.WorkingDesignedWeights(e.Sum, e.N),
				by.Variance(),
				say.WorkingDesignedMean(e.Mean.Mean, c.Claimed, e.SE(), *e.Test.T, int64(e.DF), v["p"]),
			}},
			{
				Kind: document.WriteUp,
				Said: slices.Concat(
					[]document.Message{finding, reading},
					[]document.Message{document.Say("finding.one_mean.journal_t", v)},
				),
			},
		},
		Notes: notes, Outcome: decided.Outcome("null"),
	}
}
