package means

import (
	"fmt"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/numericcomparison"
	"widetally/core/prob"
	"widetally/core/say"
	"widetally/core/tally"
)

// Claim is a claim about the means of a number in two groups of different respondents.
type Claim struct {
	// Summaries describes the two groups, and both together last.
	numericcomparison.Summaries
	claim.Stated
	First, Second string // the labels of the groups
	// Looked are further directions that were looked at after the stated one.
	Looked []claim.Direction
}

const texts = "means"

func (c Claim) values() document.Values {
	return document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"groups":   c.Groups.Groups(),
		"of":       claim.OfGroups(c.Groups),
		"first":    document.Text(c.First),
		"second":   document.Text(c.Second),
	}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return claim.StatementOf(c.Clauses(texts, c.values()))
}

// summary is a table of what is known where nobody knows the numbers.
func (c Claim) summary(r *infer.Means) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.numeric_by_group", c.values()),
		Stub:    claim.GroupsHead(c.Groups),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("n"), head("stat.mean"), head("stat.sd")},
	}
	for i, s := range []infer.Sample{r.First, *r.Second} {
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: claim.Plain(document.Text([]string{c.First, c.Second}[i])),
				Cells: []document.Cell{
					document.One(document.N(s.N)),
					document.One(claim.Measure(s.Mean)),
					document.One(claim.Measure(s.SD)),
				},
			},
		)
	}
	return t
}

// Document says what a result means; list describes both groups and all in them, nil where
// only their summaries are known. The decision is that of Welch's t (1947), which lets the
// spreads differ; the test with a common spread stands beside it.
func (c Claim) Document(r *infer.Means, list []*tally.Summary) document.Document {
	test := r.Student
	p := claim.TailOf(test.Tails, c.Direction)
	critical := c.Critical(func(alpha float64) float64 { return prob.StudentUpperQuantile(alpha, *test.DF) })
	interval := &test.Interval
	v := c.Clauses(texts, c.values())
	decided := claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP("welch_p", p, c.Level),
		claim.By(
			"t",
			document.Of(document.Statistic, test.Statistic),
			c.AgainstCritical(critical),
			c.Beyond(test.Statistic, critical),
		),
		c.Within("means", test.Interval, test.Bounds, 0, 1, document.Measure, claim.Measure(0)),
	}}
	rejected := decided.Rejected()
	confidence := document.Of(document.Level, 1-c.Level)
	v["n"], v["n2"], v["mean"], v["mean2"] = document.N(
		r.First.N,
	), document.N(
		r.Second.N,
	), claim.Rounded(
		r.First.Mean,
	), claim.Rounded(
		r.Second.Mean,
	)
	v["about"], v["about2"] = v["mean"], v["mean2"]
	v["t"], v["df"], v["p"] = document.Of(
		document.Statistic,
		test.Statistic,
	), document.Of(
		document.Amount,
		*test.DF,
	), document.P(
		document.PEqual,
		p,
		c.Level,
	)
	v["se"], v["difference"], v["confidence"] = document.Of(
		document.Exact,
		test.StandardError,
	), claim.Rounded(
		r.Estimate,
	), confidence
	v["lower"], v["upper"] = claim.Rounded(interval.Lower), claim.Rounded(interval.Upper)
	critText := claim.CriticalText(c.Direction, critical)
	v["critical"] = document.Value{Kind: document.Said, Message: &critText}
	finding := append([]document.Message{c.Finding(rejected, v)}, claim.MeanDoubt(r)...)
	reading := document.Say("read.means."+[]string{"same", "higher", "lower"}[claim.Sign(r.Estimate)], v)
	pExact := document.P(document.PExact, p, c.Level)
	facts := []document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactWelch(v["t"])),
		claim.Fact("df", "df", nil, claim.Plain(v["df"])),
		claim.Fact("p", "p_direction", document.Values{"direction": v["direction"]}, claim.Plain(pExact)),
		claim.Fact("critical", "critical_t", document.Values{"direction": v["direction"], "level": v["level"]}, critText),
		claim.Fact(
			"difference",
			"difference_means",
			document.Values{"confidence": confidence},
			say.FactWithIntervalOf(v["difference"], v["lower"], v["upper"]),
		),
	}
	if r.CohensD != nil {
		facts = append(facts, claim.EffectFact("cohens_d", *r.CohensD, 1-c.Level))
	}
	facts = append(
		facts,
		claim.Fact(
			"pooled",
			"pooled_t",
			document.Values{"direction": v["direction"]},
			claim.Plain(document.P(document.PExact, claim.TailOf(r.Pooled.Tails, c.Direction), c.Level)),
		),
	)
	for i, name := range []string{c.First, c.Second} {
		if list != nil && list[i] != nil && list[i].MedianInterval != nil {
			facts = append(
				facts,
				claim.MedianFact(fmt.Sprint("median_", i+1), document.Values{"group": document.Text(name)}, list[i]),
			)
		}
	}
	for _, other := range c.Looked {
		if other != c.Direction {
			facts = append(
				facts,
				claim.Fact(
					"looked_"+string(other),
					"looked",
					document.Values{"direction": document.Term("direction." + string(other))},
					claim.Plain(document.P(document.PExact, claim.TailOf(test.Tails, other), c.Level)),
				),
			)
		}
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Figures, Table: c.summary(r)}}}
	if list != nil {
		d = c.Summaries.Document(list)
	}
	blocks := []document.Block{
		c.Hypotheses(texts, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Sentence, Said: []document.Message{reading}},
	}
	for _, b := range d.Blocks { // the table, the boxes, and the ways to look at them
		if b.Kind != document.Sentence && b.Kind != document.WriteUp {
			blocks = append(blocks, b)
		}
	}
	working := []document.Message{
		document.Say("working.means.t", v),
		document.Say("working.means.df", v),
		document.Say("working.means.p_"+string(c.Direction), v),
		document.Say("working.means."+claim.Outcome(rejected), v),
	}
	d.Blocks = append(
		blocks,
		document.Block{Kind: document.Facts, Facts: facts},
		decided.BlockAt(r.Confidence),
		document.Block{
			Kind:  document.Chart,
			Chart: c.Bell(infer.StudentCurve(test.Statistic, critical, *test.DF), test.Statistic, critical, p, "t"),
		},
		document.Block{Kind: document.Choices, Choices: c.LookedAgain(c.Looked)},
		document.Block{Kind: document.Working, Said: working},
		document.Block{
			Kind: document.WriteUp,
			Said: append(slices.Clone(finding), reading, document.Say("finding.means.journal", v)),
		},
	)
	d.Outcome = decided.Outcome("null")
	notes := claim.NotesOf(d.Notes)
	notes.Shapes(r, []string{c.First, c.Second}, c.Units, list != nil)
	decided.Differ(&notes, "means")
	if c.Direction != claim.Different {
		notes.Add(document.Facts, "means.interval_of", v)
	}
	if len(c.Looked) > 0 {
		notes.Caution(document.Decision, "one_proportion.looked", nil)
	}
	c.MeanNotes(&notes, rejected, test, r.CohensD, v)
	d.Notes = notes
	return d
}
