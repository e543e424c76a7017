package claim

import (
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/tally"
)

// OneMean is a claim about the mean of a number.
type OneMean struct {
	About
	Stated
	Question Question
	Claimed  float64
	Source   string // who claims it; "" where nobody is named
	Looked   []Direction
	// Numbers describes them at the confidence of the claim; nil where only their summary is known.
	Numbers *tally.Summary
}

const oneMean = "one_mean"

func (c OneMean) values() document.Values {
	return document.Values{"units": c.Units, "question": c.Question.called(), "claimed": measure(c.Claimed), "source": document.Text(c.Source)}
}

// Statement is what the claim says.
func (c OneMean) Statement() document.Message { return stated(c.clauses(oneMean, c.values())) }

// Document says what a result means: by z where the standard deviation of the population was
// given, else by Student's t. r must have confidence 1 − Level.
func (c OneMean) Document(r *infer.Means) document.Document {
	test, letter, quantile := r.Normal, "z", prob.NormalUpperQuantile
	if test == nil {
		df := *r.Student.DF
		test, letter, quantile = r.Student, "t", func(alpha float64) float64 { return prob.StudentUpperQuantile(alpha, df) }
	}
	p, critical := tailOf(test.Tails, c.Direction), c.critical(quantile)
	v := c.clauses(oneMean, c.values())
	decided := verdict{level: c.Level, ways: []way{
		byP(letter+"_p", p, c.Level),
		by(letter, document.Of(document.Statistic, test.Statistic), c.againstCritical(critical), c.beyond(test.Statistic, critical)),
		c.within("mean", test.Interval, test.Bounds, c.Claimed, 1, document.Measure, v["claimed"]),
	}}
	rejected := decided.rejected()
	v["n"], v["mean"], v["se"], v["statistic"], v["p"] = document.N(r.First.N), rounded(r.First.Mean), document.Of(document.Exact, test.StandardError), document.Of(document.Statistic, test.Statistic), document.P(document.PEqual, p, c.Level)
	v["lower"], v["upper"], v["confidence"], v["letter"] = rounded(test.Interval.Lower), rounded(test.Interval.Upper), document.Of(document.Level, r.Confidence), document.Text(letter)
	v["spread"], v["about"] = measure(r.First.SD), rounded(r.First.Mean)
	if r.First.Sigma != nil {
		v["spread"] = measure(*r.First.Sigma)
	}
	critText := criticalText(c.Direction, critical)
	v["critical"] = document.Value{Kind: document.Said, Message: &critText}
	finding := append([]document.Message{c.finding(rejected, v)}, meanDoubt(r)...)
	reading := document.Say("read.one_mean."+[]string{"same", "higher", "lower"}[sign(r.Estimate-c.Claimed)], v)
	direction := document.Values{"direction": v["direction"], "level": v["level"]}
	facts := []document.Fact{
		fact("mean", "mean_interval", document.Values{"confidence": v["confidence"]}, document.Say("fact.with_interval_of", document.Values{"value": v["mean"], "lower": v["lower"], "upper": v["upper"]})),
		fact("statistic", "statistic", nil, document.Say("fact."+letter+"_of", document.Values{"x": v["statistic"]})),
	}
	journal := "finding.one_mean.journal_z"
	if test.DF != nil {
		v["df"] = document.N(int64(*test.DF))
		facts = append(facts, fact("df", "df", nil, document.Say("fact.df_n", document.Values{"n": v["n"], "df": v["df"]})))
		journal = "finding.one_mean.journal_t"
	}
	facts = append(facts, fact("p", "p_direction", direction, plain(document.P(document.PExact, p, c.Level))),
		fact("critical", "critical_"+letter, direction, critText))
	if r.CohensD != nil {
		facts = append(facts, effectFact("cohens_d", *r.CohensD, r.Confidence))
	}
	if c.Numbers != nil && c.Numbers.MedianInterval != nil {
		facts = append(facts, medianFact("median", nil, c.Numbers))
	}
	for _, d := range c.Looked {
		if d != c.Direction {
			facts = append(facts, fact("looked_"+string(d), "looked", document.Values{"direction": document.Term("direction." + string(d))}, plain(document.P(document.PExact, tailOf(test.Tails, d), c.Level))))
		}
	}
	curve := infer.NormalCurve(test.Statistic, critical)
	if test.DF != nil {
		curve = infer.StudentCurve(test.Statistic, critical, *test.DF)
	}
	working := []document.Message{document.Say("working.one_mean.se", v), document.Say("working.one_mean.statistic", v), document.Say("working.one_mean.p_"+string(c.Direction), v), document.Say("working.one_mean."+outcome(rejected), v)}
	d := document.Document{Blocks: []document.Block{
		c.hypotheses(oneMean, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Figures, Table: decided.table(r.Confidence)},
		{Kind: document.Chart, Chart: c.bell(curve, test.Statistic, critical, p, letter)},
		{Kind: document.Choices, Choices: c.looked(c.Looked)},
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: append(slices.Clone(finding), reading, document.Say(journal, v))},
	}, Outcome: decided.outcome("null")}
	var notes notesOf
	notes.shapes(r, []string{""}, c.Units, c.Numbers != nil)
	if r.First.Sigma != nil {
		notes.add(document.Conditions, "one_mean.sigma", v)
	}
	notes.leftOut(c.About, r.First.N)
	decided.differ(&notes, "means")
	if c.Direction != Different {
		notes.add(document.Facts, "two_means.interval_of", v)
	}
	if len(c.Looked) > 0 {
		notes.caution(document.Decision, "one_share.looked", nil)
	}
	notes.unweighted(c.About)
	if !rejected {
		notes.add(document.Decision, "one_mean.not_proving", v)
	}
	c.meanNotes(&notes, rejected, test, r.CohensD, v)
	d.Notes = notes
	return d
}
