package onemean

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
	"widetally/core/tally"
)

// Claim is a claim about the mean of a number.
type Claim struct {
	claim.About
	claim.Stated
	Question claim.Question
	Claimed  float64
	Source   string // who claims it; "" where nobody is named
	Looked   []claim.Direction
	// Numbers describes them at the confidence of the claim; nil where only their summary is known.
	Numbers *tally.Summary
}

const oneMean = "one_mean"

func (c Claim) values() document.Values {
	return document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"claimed":  claim.Measure(c.Claimed),
		"source":   document.Text(c.Source),
	}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message { return claim.StatementOf(c.Clauses(oneMean, c.values())) }

// Document says what a result means: by z where the standard deviation of the population was
// given, else by Student's t. r must have confidence 1 − Level.
func (c Claim) Document(r *infer.Means) document.Document {
	test, letter, quantile := r.Normal, "z", prob.NormalUpperQuantile
	if test == nil {
		df := *r.Student.DF
		test, letter, quantile = r.Student, "t", func(alpha float64) float64 { return prob.StudentUpperQuantile(alpha, df) }
	}
	p, critical := claim.TailOf(test.Tails, c.Direction), c.Critical(quantile)
	v := c.Clauses(oneMean, c.values())
	decided := claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP(letter+"_p", p, c.Level),
		claim.By(
			letter,
			document.Of(document.Statistic, test.Statistic),
			c.AgainstCritical(critical),
			c.Beyond(test.Statistic, critical),
		),
		c.Within("mean", test.Interval, test.Bounds, c.Claimed, 1, document.Measure, v["claimed"]),
	}}
	rejected := decided.Rejected()
	v["n"], v["mean"], v["se"], v["statistic"], v["p"] = document.N(
		r.First.N,
	), claim.Rounded(
		r.First.Mean,
	), document.Of(
		document.Exact,
		test.StandardError,
	), document.Of(
		document.Statistic,
		test.Statistic,
	), document.P(
		document.PEqual,
		p,
		c.Level,
	)
	v["lower"], v["upper"], v["confidence"], v["letter"] = claim.Rounded(
		test.Interval.Lower,
	), claim.Rounded(
		test.Interval.Upper,
	), document.Of(
		document.Level,
		r.Confidence,
	), document.Text(
		letter,
	)
	v["spread"], v["about"] = claim.Measure(r.First.SD), claim.Rounded(r.First.Mean)
	if r.First.Sigma != nil {
		v["spread"] = claim.Measure(*r.First.Sigma)
	}
	critText := claim.CriticalText(c.Direction, critical)
	v["critical"] = document.Value{Kind: document.Said, Message: &critText}
	finding := append([]document.Message{c.Finding(rejected, v)}, claim.MeanDoubt(r)...)
	reading := document.Say("read.one_mean."+[]string{"same", "higher", "lower"}[claim.Sign(r.Estimate-c.Claimed)], v)
	direction := document.Values{"direction": v["direction"], "level": v["level"]}
	facts := []document.Fact{
		claim.Fact(
			"mean",
			"mean_interval",
			document.Values{"confidence": v["confidence"]},
			say.FactWithIntervalOf(v["mean"], v["lower"], v["upper"]),
		),
		claim.Fact("statistic", "statistic", nil, document.Say("fact."+letter+"_of", document.Values{"x": v["statistic"]})),
	}
	journal := "finding.one_mean.journal_z"
	if test.DF != nil {
		v["df"] = document.N(int64(*test.DF))
		facts = append(facts, claim.Fact("df", "df", nil, say.FactDfN(v["n"], v["df"])))
		journal = "finding.one_mean.journal_t"
	}
	facts = append(facts, claim.Fact("p", "p_direction", direction, claim.Plain(document.P(document.PExact, p, c.Level))),
		claim.Fact("critical", "critical_"+letter, direction, critText))
	if r.CohensD != nil {
		facts = append(facts, claim.EffectFact("cohens_d", *r.CohensD, r.Confidence))
	}
	if c.Numbers != nil && c.Numbers.MedianInterval != nil {
		facts = append(facts, claim.MedianFact("median", nil, c.Numbers))
	}
	for _, d := range c.Looked {
		if d != c.Direction {
			facts = append(
				facts,
				claim.Fact(
					"looked_"+string(d),
					"looked",
					document.Values{"direction": document.Term("direction." + string(d))},
					claim.Plain(document.P(document.PExact, claim.TailOf(test.Tails, d), c.Level)),
				),
			)
		}
	}
	curve := infer.NormalCurve(test.Statistic, critical)
	if test.DF != nil {
		curve = infer.StudentCurve(test.Statistic, critical, *test.DF)
	}
	working := []document.Message{
		document.Say("working.one_mean.se", v),
		document.Say("working.one_mean.statistic", v),
		document.Say("working.one_mean.p_"+string(c.Direction), v),
		document.Say("working.one_mean."+claim.Outcome(rejected), v),
	}
	d := document.Document{Blocks: []document.Block{
		c.Hypotheses(oneMean, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Facts, Facts: facts},
		decided.BlockAt(r.Confidence),
		{Kind: document.Chart, Chart: c.Bell(curve, test.Statistic, critical, p, letter)},
		{Kind: document.Choices, Choices: c.LookedAgain(c.Looked)},
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: append(slices.Clone(finding), reading, document.Say(journal, v))},
	}, Outcome: decided.Outcome("null")}
	var notes claim.NotesOf
	notes.Shapes(r, []string{""}, c.Units, c.Numbers != nil)
	if r.First.Sigma != nil {
		notes.Add(document.Conditions, "one_mean.sigma", v)
	}
	notes.LeftOut(c.About, r.First.N)
	decided.Differ(&notes, "means")
	if c.Direction != claim.Different {
		notes.Add(document.Facts, "means.interval_of", v)
	}
	if len(c.Looked) > 0 {
		notes.Caution(document.Decision, "one_proportion.looked", nil)
	}
	notes.Unweighted(c.About)
	if !rejected {
		notes.Add(document.Decision, "one_mean.not_proving", v)
	}
	c.MeanNotes(&notes, rejected, test, r.CohensD, v)
	d.Notes = notes
	return d
}
