package claim

import (
	"fmt"
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/tally"
)

// TwoMeans is a claim about the means of a number in two groups of different respondents.
type TwoMeans struct {
	// Summaries describes the two groups, and both together last.
	Summaries
	Stated
	First, Second string // the labels of the groups
	// Looked are further directions that were looked at after the stated one.
	Looked []Direction
}

const twoMeans = "two_means"

func (c TwoMeans) values() document.Values {
	return document.Values{"units": c.Units, "question": c.Question.called(), "groups": c.Groups.groups(), "of": ofGroups(c.Groups), "first": document.Text(c.First), "second": document.Text(c.Second)}
}

// Statement is what the claim says.
func (c TwoMeans) Statement() document.Message { return stated(c.clauses(twoMeans, c.values())) }

// summary is a table of what is known where nobody knows the numbers.
func (c TwoMeans) summary(r *infer.Means) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: document.Say("caption.summaries_by", c.values()), Stub: groupsHead(c.Groups), Shown: []document.Role{document.Main}, Columns: []document.Message{head("n"), head("stat.mean"), head("stat.sd")}}
	for i, s := range []infer.Sample{r.First, *r.Second} {
		t.Rows = append(t.Rows, document.Row{Name: plain(document.Text([]string{c.First, c.Second}[i])), Cells: []document.Cell{document.One(document.N(s.N)), document.One(measure(s.Mean)), document.One(measure(s.SD))}})
	}
	return t
}

// Document says what a result means; list describes both groups and all in them, nil where
// only their summaries are known. The decision is that of Welch's t (1947), which lets the
// spreads differ; the test with a common spread stands beside it.
func (c TwoMeans) Document(r *infer.Means, list []*tally.Summary) document.Document {
	test := r.Student
	p := tailOf(test.Tails, c.Direction)
	critical := c.critical(func(alpha float64) float64 { return prob.StudentUpperQuantile(alpha, *test.DF) })
	interval := &test.Interval
	v := c.clauses(twoMeans, c.values())
	decided := verdict{level: c.Level, ways: []way{
		byP("welch_p", p, c.Level),
		by("t", document.Of(document.Statistic, test.Statistic), c.againstCritical(critical), c.beyond(test.Statistic, critical)),
		c.within("means", test.Interval, test.Bounds, 0, 1, document.Measure, measure(0)),
	}}
	rejected := decided.rejected()
	confidence := document.Of(document.Level, 1-c.Level)
	v["n"], v["n2"], v["mean"], v["mean2"] = document.N(r.First.N), document.N(r.Second.N), rounded(r.First.Mean), rounded(r.Second.Mean)
	v["about"], v["about2"] = v["mean"], v["mean2"]
	v["t"], v["df"], v["p"] = document.Of(document.Statistic, test.Statistic), document.Of(document.Amount, *test.DF), document.P(document.PEqual, p, c.Level)
	v["se"], v["difference"], v["confidence"] = document.Of(document.Exact, test.StandardError), rounded(r.Estimate), confidence
	v["lower"], v["upper"] = rounded(interval.Lower), rounded(interval.Upper)
	critText := criticalText(c.Direction, critical)
	v["critical"] = document.Value{Kind: document.Said, Message: &critText}
	finding := append([]document.Message{c.finding(rejected, v)}, meanDoubt(r)...)
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
	for i, name := range []string{c.First, c.Second} {
		if list != nil && list[i] != nil && list[i].MedianInterval != nil {
			facts = append(facts, medianFact(fmt.Sprint("median_", i+1), document.Values{"group": document.Text(name)}, list[i]))
		}
	}
	for _, other := range c.Looked {
		if other != c.Direction {
			facts = append(facts, fact("looked_"+string(other), "looked", document.Values{"direction": document.Term("direction." + string(other))}, plain(document.P(document.PExact, tailOf(test.Tails, other), c.Level))))
		}
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Figures, Table: c.summary(r)}}}
	if list != nil {
		d = c.Summaries.Document(list)
	}
	blocks := []document.Block{
		c.hypotheses(twoMeans, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Sentence, Said: []document.Message{reading}},
	}
	for _, b := range d.Blocks { // the table, the boxes, and the ways to look at them
		if b.Kind != document.Sentence && b.Kind != document.WriteUp {
			blocks = append(blocks, b)
		}
	}
	working := []document.Message{document.Say("working.two_means.t", v), document.Say("working.two_means.df", v), document.Say("working.two_means.p_"+string(c.Direction), v), document.Say("working.two_means."+outcome(rejected), v)}
	d.Blocks = append(blocks, document.Block{Kind: document.Facts, Facts: facts}, document.Block{Kind: document.Figures, Table: decided.table(r.Confidence)},
		document.Block{Kind: document.Chart, Chart: c.bell(infer.StudentCurve(test.Statistic, critical, *test.DF), test.Statistic, critical, p, "t")},
		document.Block{Kind: document.Choices, Choices: c.looked(c.Looked)}, document.Block{Kind: document.Working, Said: working},
		document.Block{Kind: document.WriteUp, Said: append(slices.Clone(finding), reading, document.Say("finding.two_means.journal", v))})
	d.Outcome = decided.outcome("null")
	notes := notesOf(d.Notes)
	notes.shapes(r, []string{c.First, c.Second}, c.Units, list != nil)
	decided.differ(&notes, "means")
	if c.Direction != Different {
		notes.add(document.Facts, "two_means.interval_of", v)
	}
	if len(c.Looked) > 0 {
		notes.caution(document.Decision, "one_share.looked", nil)
	}
	c.meanNotes(&notes, rejected, test, r.CohensD, v)
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
