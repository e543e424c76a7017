package paired

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/prob"
	"widetally/core/say"
)

// Claim is a claim about two questions that the same respondents answered by the same
// answers: that the shares stayed the same, or that they changed.
type Claim struct {
	claim.About
	First, Second claim.Question
	// Labels are those of the answers, Counts the respondents by first and second answer.
	Labels []string
	Counts [][]int64
	Role   claim.Role
	Level  float64
}

func (c Claim) values() document.Values {
	return document.Values{
		"units":  c.Units,
		"first":  c.First.Called(),
		"second": c.Second.Called(),
		"level":  document.Of(document.Level, c.Level),
	}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return document.Say("claim.paired."+string(c.Role), c.values())
}

// fewChanged is the number of changed answers below which McNemar's chi-square test is not
// relied on.
const fewChanged = 25

// pairs adds up a square table.
type pairs struct {
	crosstab.Crossed
	changed int64
}

func (c Claim) pairs() pairs {
	p := pairs{Crossed: crosstab.AddUp(c.Counts, len(c.Labels))}
	for i, row := range c.Counts {
		for j, o := range row {
			if i != j {
				p.changed += o
			}
		}
	}
	return p
}

// Document says what a result means. The finding goes by the chi-square test of the margins
// (McNemar 1947 for two answers, Stuart 1955 for more); for two answers of which fewer than
// 25 changed, by McNemar's exact test. r must have Margins.
func (c Claim) Document(r *infer.Agreement) document.Document {
	p, test := c.pairs(), r.Margins
	critical := prob.ChiSquareUpperQuantile(c.Level, float64(test.DF))
	decided := c.decided(r, p, critical)
	byExact, rejected := decided.At > 0, decided.Rejected()
	v := c.values()
	v["n"], v["changed"], v["stayed"], v["left"] = document.N(
		p.N,
	), document.N(
		p.changed,
	), document.N(
		p.N-p.changed,
	), document.N(
		c.Everyone-p.N,
	)
	v["p"], v["df"], v["statistic"] = decided.InText(), document.N(int64(test.DF)), document.Of(document.Statistic, test.Statistic)
	basis := "basis.paired"
	if c.Everyone == p.N {
		basis = "basis.paired_all"
	}
	said := []document.Message{document.Say("finding.paired."+string(c.Role)+"."+claim.Outcome(rejected), v)}
	switch {
	case byExact:
		said = append(said, document.Say("finding.paired.by_exact", v))
	case p.changed < fewChanged:
		said = append(said, document.Say("finding.doubt.changed", v))
	}
	journal := "finding.paired.journal"
	if byExact {
		journal = "finding.paired.journal_exact"
	}
	return document.Document{
		Blocks: []document.Block{
			{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}},
			claim.Hypotheses("paired", c.Role, v),
			{Kind: document.Sentence, Said: said},
			{Kind: document.Figures, Table: c.shares(p)},
			{Kind: document.Figures, Table: c.moves(p)},
			{Kind: document.Facts, Facts: c.facts(r, decided, critical)},
			{
				Kind: document.Chart,
				Chart: claim.ChiSquarePicture(
					test.Statistic,
					critical,
					test.DF,
					test.P.AtMost(c.Level),
					document.P(document.PEqual, test.P, c.Level),
				),
			},
			decided.Block(),
			{Kind: document.Working, Said: append(c.working(r, p, critical), decided.DecidesInstead()...)},
			{Kind: document.WriteUp, Said: append(slices.Clone(said), document.Say(journal, v))},
		},
		Notes:   c.notes(r, p, rejected),
		Outcome: decided.Outcome("null"),
	}
}

// decided are the ways to decide: by the chi-square test, and of two answers by the exact one,
// which decides where few changed.
func (c Claim) decided(r *infer.Agreement, p pairs, critical float64) claim.Verdict {
	out, _ := claim.ChiSquareVerdict(r.Margins.Statistic, critical, r.Margins.P, c.Level, infer.Advice{}, nil)
	if r.McNemar != nil {
		out.Ways = append(out.Ways, claim.ByP("mcnemar_exact", r.McNemar.Exact, c.Level))
		if p.changed < fewChanged {
			out.GoBy("mcnemar_exact")
		}
	}
	return out
}

// shares are those of each answer, first and second, and the points between them.
func (c Claim) shares(p pairs) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, c.values()) }
	t := &document.Table{
		Caption: document.Say("caption.paired_shares", c.values()),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("of_first"), head("of_second"), head("points")},
	}
	for i, label := range c.Labels {
		first, second := claim.Percent(p.RowSum[i], p.N), claim.Percent(p.ColumnSum[i], p.N)
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: claim.Plain(document.Text(label)),
				Cells: []document.Cell{
					document.One(document.Of(document.Percent, first)),
					document.One(document.Of(document.Percent, second)),
					document.One(document.Of(document.Difference, second-first)),
				},
			},
		)
	}
	return t
}

// moves is the square table: who went from which answer to which.
func (c Claim) moves(p pairs) *document.Table {
	t := &document.Table{
		Caption: document.Say("caption.paired", c.values()),
		Stub:    document.Say("column.first_down", c.values()),
		Shown:   []document.Role{document.Main},
	}
	for _, label := range c.Labels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(label)))
	}
	t.Columns = append(t.Columns, say.ColumnAll())
	row := func(name document.Message, counts []int64, sum int64, at int) document.Row {
		out := document.Row{Name: name}
		for j, o := range counts {
			cell := document.One(document.N(o))
			cell.Faint = j == at
			out.Cells = append(out.Cells, cell)
		}
		out.Cells = append(out.Cells, document.One(document.N(sum)))
		return out
	}
	for i, label := range c.Labels {
		t.Rows = append(t.Rows, row(claim.Plain(document.Text(label)), c.Counts[i], p.RowSum[i], i))
	}
	total := row(say.ColumnAll(), p.ColumnSum, p.N, -1)
	total.Total = true
	t.Rows = append(t.Rows, total)
	return t
}

func (c Claim) facts(r *infer.Agreement, decided claim.Verdict, critical float64) []document.Fact {
	test := r.Margins
	out := []document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactChiSquare(document.Of(document.Statistic, test.Statistic))),
		claim.Fact("df", "df", nil, claim.Plain(document.N(int64(test.DF)))),
	}
	out = append(out, decided.Facts(claim.PFact(test.P, c.Level))...)
	out = append(
		out,
		claim.Fact(
			"critical",
			"critical",
			document.Values{"level": document.Of(document.Level, c.Level)},
			claim.Plain(document.Of(document.Statistic, critical)),
		),
	)
	switch m := r.McNemar; {
	case m != nil && decided.At == 0:
		out = append(out, claim.Fact("exact", "mcnemar_exact", nil, claim.Plain(document.P(document.PExact, m.Exact, c.Level))))
	case m == nil:
		out = append(
			out,
			claim.Fact(
				"symmetry",
				"symmetry",
				nil,
				say.FactSymmetryOf(
					document.Of(document.Statistic, r.Symmetry.Statistic),
					document.N(int64(r.Symmetry.DF)),
					document.P(document.PEqual, r.Symmetry.P, c.Level),
				),
			),
		)
	}
	kappa := say.FactNone()
	if k := r.Kappa; k != nil {
		kappa = claim.Plain(document.Of(document.Statistic, k.Value))
		if k.Interval != nil {
			kappa = say.FactWithInterval(k.Value, r.Confidence, k.Interval.Lower, k.Interval.Upper)
		}
	}
	return append(out, claim.Fact("kappa", "kappa", nil, kappa))
}

func (c Claim) working(r *infer.Agreement, p pairs, critical float64) []document.Message {
	var out []document.Message
	test := r.Margins
	v := document.Values{
		"statistic": document.Of(document.Statistic, test.Statistic),
		"df":        document.N(int64(test.DF)),
		"p":         document.P(document.PEqual, test.P, c.Level),
		"level":     document.Of(document.Level, c.Level),
		"critical":  document.Of(document.Statistic, critical),
	}
	if r.McNemar != nil {
		there, back := c.Counts[0][1], c.Counts[1][0]
		v["there"], v["back"], v["from"], v["to"] = document.N(
			there,
		), document.N(
			back,
		), document.Text(
			c.Labels[0],
		), document.Text(
			c.Labels[1],
		)
		v["exact"] = document.P(document.PEqual, r.McNemar.Exact, c.Level)
		out = append(
			out,
			document.Say("working.paired.moved", v),
			document.Say("working.paired.mcnemar", v),
			document.Say("working.paired.exact", v),
		)
	} else {
		for i, label := range c.Labels {
			out = append(out, say.WorkingPairedDifference(label, p.RowSum[i], p.ColumnSum[i], p.RowSum[i]-p.ColumnSum[i]))
		}
		out = append(out, document.Say("working.paired.stuart", v))
	}
	return append(out, document.Say("working.paired."+claim.Outcome(test.P.AtMost(c.Level)), v))
}

func (c Claim) notes(r *infer.Agreement, p pairs, rejected bool) []document.Note {
	var out claim.NotesOf
	v := c.values()
	v["n"], v["changed"], v["few"] = document.N(p.N), document.N(p.changed), document.N(fewChanged)
	if left := c.Everyone - p.N; left > 0 {
		v["left"], v["everyone"] = document.N(left), document.N(c.Everyone)
		out.Add(document.Basis, "paired.left_out", v)
	}
	out.Add(document.Figures, "paired.same_people", v)
	switch {
	case p.changed >= fewChanged:
		out.Add(document.Conditions, "paired.good", v)
	case r.McNemar != nil:
		out.Caution(document.Conditions, "paired.few_exact", v)
	default:
		out.Caution(document.Conditions, "paired.few", v)
	}
	out.Unweighted(c.About)
	if r.McNemar != nil && p.changed >= fewChanged && r.McNemar.Exact.AtMost(c.Level) != rejected {
		out.Caution(
			document.Decision,
			"paired.exact_differs",
			document.Values{"p": document.P(document.PEqual, r.McNemar.Exact, c.Level)},
		)
	}
	if rejected {
		most, points := 0, 0.0
		for i := range c.Labels {
			if d := claim.Percent(p.ColumnSum[i], p.N) - claim.Percent(p.RowSum[i], p.N); math.Abs(d) > math.Abs(points) {
				most, points = i, d
			}
		}
		id := "paired.more"
		if points < 0 {
			id = "paired.fewer"
		}
		out.Add(
			document.Decision,
			id,
			document.Values{
				"answer": document.Text(c.Labels[most]),
				"points": document.Of(document.Points, math.Abs(points)),
				"first":  c.First.Called(),
				"second": c.Second.Called(),
			},
		)
		out.Add(document.Decision, "paired.not_cause", nil)
	} else {
		out.Add(document.Decision, "paired.not_proving", v)
	}
	return out
}
