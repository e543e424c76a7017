package claim

import (
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/tally"
)

// TwoMeans is a claim about the means of a number in two groups of different respondents.
type TwoMeans struct {
	// Summaries describes the two groups, and both together last.
	Summaries
	First, Second string // the labels of the groups
	Direction     Direction
	Role          Role
	Level         float64
}

func (c TwoMeans) values() document.Values {
	v := document.Values{"units": c.Units, "question": c.Question.called(), "groups": c.Groups.called(), "first": document.Text(c.First), "second": document.Text(c.Second), "level": document.Of(document.Level, c.Level)}
	for _, role := range Roles {
		clause := document.Say("claim.two_means.clause."+string(role)+"."+string(c.Direction), document.Values{"units": c.Units, "question": v["question"], "first": v["first"], "second": v["second"]})
		v[string(role)] = document.Value{Kind: document.Said, Message: &clause}
	}
	return v
}

// Statement is what the claim says.
func (c TwoMeans) Statement() document.Message {
	v := c.values()
	v["clause"] = v[string(c.Role)]
	return document.Say("claim.two_means.statement", v)
}

// Document says what a result means. The decision is that of Welch's t (1947), which lets the
// spreads differ; the test with a common spread stands beside it.
func (c TwoMeans) Document(r *infer.Means, list []*tally.Summary) document.Document {
	test := r.Student
	p := tailOf(test.Tails, c.Direction)
	rejected := p.AtMost(c.Level)
	critical := test.CriticalValue
	if c.Direction != Different {
		critical = prob.StudentUpperQuantile(c.Level, *test.DF)
	}
	interval := &test.Interval // at 1 − level, for a direction the bound on its side
	v := c.values()
	confidence := document.Of(document.Level, 1-c.Level)
	v["n"], v["n2"], v["mean"], v["mean2"] = document.N(r.First.N), document.N(r.Second.N), rounded(r.First.Mean), rounded(r.Second.Mean)
	v["t"], v["df"], v["p"] = document.Of(document.Statistic, test.Statistic), document.Of(document.Amount, *test.DF), document.P(document.PEqual, p, c.Level)
	v["se"], v["difference"], v["confidence"] = document.Of(document.Exact, test.StandardError), measure(r.Estimate), confidence
	v["lower"], v["upper"] = measure(interval.Lower), measure(interval.Upper)
	v["direction"] = document.Term("direction." + string(c.Direction))
	critText := criticalText(c.Direction, critical)
	v["critical"] = document.Value{Kind: document.Said, Message: &critText}
	finding := document.Say("finding.two_means."+string(c.Role)+"."+outcome(rejected), v)
	reading := document.Say("read.two_means."+[]string{"same", "higher", "lower"}[sign(r.Estimate)], v)
	pExact := document.P(document.PExact, p, c.Level)
	facts := []document.Fact{
		fact("statistic", "statistic", nil, document.Say("fact.welch", document.Values{"t": v["t"]})),
		fact("df", "df", nil, plain(v["df"])),
		fact("p", "p_direction", document.Values{"direction": v["direction"]}, plain(pExact)),
		fact("critical", "critical_t", document.Values{"direction": v["direction"], "level": v["level"]}, critText),
		fact("difference", "difference_means", document.Values{"confidence": confidence}, document.Say("fact.with_interval_of", document.Values{"value": v["difference"], "lower": v["lower"], "upper": v["upper"]})),
	}
	if r.CohensD != nil {
		facts = append(facts, effectFact("cohens_d", *r.CohensD, 1-c.Level))
	}
	facts = append(facts, fact("pooled", "pooled_t", document.Values{"direction": v["direction"]}, plain(document.P(document.PExact, tailOf(r.Pooled.Tails, c.Direction), c.Level))))
	d := c.Summaries.Document(list)
	blocks := []document.Block{
		hypotheses("two_means."+string(c.Direction), c.Role, v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
	}
	for _, b := range d.Blocks { // the table, the boxes, and the ways to look at them
		if b.Kind != document.Sentence && b.Kind != document.WriteUp {
			blocks = append(blocks, b)
		}
	}
	working := []document.Message{document.Say("working.two_means.t", v), document.Say("working.two_means.df", v), document.Say("working.two_means.p_"+string(c.Direction), v), document.Say("working.two_means."+outcome(rejected), v)}
	d.Blocks = append(blocks, document.Block{Kind: document.Facts, Facts: facts}, document.Block{Kind: document.Working, Said: working},
		document.Block{Kind: document.WriteUp, Said: []document.Message{finding, reading, document.Say("finding.two_means.journal", v)}})
	d.Outcome = &document.Outcome{Text: document.Say("outcome.null_"+outcome(rejected), nil), P: pExact}
	notes := notesOf(d.Notes)
	for _, k := range r.Conditions {
		if !k.Met {
			notes.caution(document.Conditions, "two_means.few", document.Values{"smallest": document.N(int64(k.Found)), "needed": document.N(int64(k.Needed)), "units": c.Units})
		}
	}
	if c.Direction != Different {
		notes.add(document.Facts, "two_means.interval", v)
	}
	d.Notes = notes
	return d
}

// sign is 0 for nothing, 1 for more and 2 for less.
func sign(x float64) int {
	switch {
	case x > 0:
		return 1
	case x < 0:
		return 2
	}
	return 0
}
