package claim

import (
	"math"
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Paired is a claim about two questions that the same respondents answered by the same
// answers: that the shares stayed the same, or that they changed.
type Paired struct {
	About
	First, Second Question
	// Labels are those of the answers, Counts the respondents by first and second answer.
	Labels []string
	Counts [][]int64
	Role   Role
	Level  float64
}

func (c Paired) values() document.Values {
	return document.Values{"units": c.Units, "first": c.First.called(), "second": c.Second.called(), "level": document.Of(document.Level, c.Level)}
}

// Statement is what the claim says.
func (c Paired) Statement() document.Message {
	return document.Say("claim.paired."+string(c.Role), c.values())
}

// fewChanged is the number of changed answers below which McNemar's chi-square test is not
// relied on.
const fewChanged = 25

// pairs adds up a square table.
type pairs struct {
	crossed
	changed int64
}

func (c Paired) pairs() pairs {
	p := pairs{crossed: addUp(c.Counts, len(c.Labels))}
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
func (c Paired) Document(r *infer.Agreement) document.Document {
	p, test := c.pairs(), r.Margins
	critical := prob.ChiSquareUpperQuantile(c.Level, float64(test.DF))
	decided := c.decided(r, p, critical)
	byExact, rejected := decided.at > 0, decided.rejected()
	v := c.values()
	v["n"], v["changed"], v["stayed"], v["left"] = document.N(p.n), document.N(p.changed), document.N(p.n-p.changed), document.N(c.Everyone-p.n)
	v["p"], v["df"], v["statistic"] = decided.inText(), document.N(int64(test.DF)), document.Of(document.Statistic, test.Statistic)
	basis := "basis.paired"
	if c.Everyone == p.n {
		basis = "basis.paired_all"
	}
	said := []document.Message{document.Say("finding.paired."+string(c.Role)+"."+outcome(rejected), v)}
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
			hypotheses("paired", c.Role, v),
			{Kind: document.Sentence, Said: said},
			{Kind: document.Figures, Table: c.shares(p)},
			{Kind: document.Figures, Table: c.moves(p)},
			{Kind: document.Facts, Facts: c.facts(r, decided, critical)},
			{Kind: document.Chart, Chart: chiSquarePicture(test.Statistic, critical, test.DF, test.P.AtMost(c.Level), document.P(document.PEqual, test.P, c.Level))},
			decided.block(),
			{Kind: document.Working, Said: append(c.working(r, p, critical), decided.decidesInstead()...)},
			{Kind: document.WriteUp, Said: append(slices.Clone(said), document.Say(journal, v))},
		},
		Notes:   c.notes(r, p, rejected),
		Outcome: decided.outcome("null"),
	}
}

// decided are the ways to decide: by the chi-square test, and of two answers by the exact one,
// which decides where few changed.
func (c Paired) decided(r *infer.Agreement, p pairs, critical float64) verdict {
	out, _ := chiSquareVerdict(r.Margins.Statistic, critical, r.Margins.P, c.Level, infer.Advice{}, nil)
	if r.McNemar != nil {
		out.ways = append(out.ways, byP("mcnemar_exact", r.McNemar.Exact, c.Level))
		if p.changed < fewChanged {
			out.goBy("mcnemar_exact")
		}
	}
	return out
}

// shares are those of each answer, first and second, and the points between them.
func (c Paired) shares(p pairs) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, c.values()) }
	t := &document.Table{Caption: document.Say("caption.paired_shares", c.values()), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("of_first"), head("of_second"), head("points")}}
	for i, label := range c.Labels {
		first, second := percent(p.rowSum[i], p.n), percent(p.columnSum[i], p.n)
		t.Rows = append(t.Rows, document.Row{Name: plain(document.Text(label)), Cells: []document.Cell{document.One(document.Of(document.Percent, first)), document.One(document.Of(document.Percent, second)), document.One(document.Of(document.Difference, second-first))}})
	}
	return t
}

// moves is the square table: who went from which answer to which.
func (c Paired) moves(p pairs) *document.Table {
	t := &document.Table{Caption: document.Say("caption.paired", c.values()), Stub: document.Say("column.first_down", c.values()), Shown: []document.Role{document.Main}}
	for _, label := range c.Labels {
		t.Columns = append(t.Columns, plain(document.Text(label)))
	}
	t.Columns = append(t.Columns, document.Say("column.all", nil))
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
		t.Rows = append(t.Rows, row(plain(document.Text(label)), c.Counts[i], p.rowSum[i], i))
	}
	total := row(document.Say("column.all", nil), p.columnSum, p.n, -1)
	total.Total = true
	t.Rows = append(t.Rows, total)
	return t
}

func (c Paired) facts(r *infer.Agreement, decided verdict, critical float64) []document.Fact {
	test := r.Margins
	out := []document.Fact{
		fact("statistic", "statistic", nil, document.Say("fact.chi_square", document.Values{"x": document.Of(document.Statistic, test.Statistic)})),
		fact("df", "df", nil, plain(document.N(int64(test.DF)))),
	}
	out = append(out, decided.facts(pFact(test.P, c.Level))...)
	out = append(out, fact("critical", "critical", document.Values{"level": document.Of(document.Level, c.Level)}, plain(document.Of(document.Statistic, critical))))
	switch m := r.McNemar; {
	case m != nil && decided.at == 0:
		out = append(out, fact("exact", "mcnemar_exact", nil, plain(document.P(document.PExact, m.Exact, c.Level))))
	case m == nil:
		out = append(out, fact("symmetry", "symmetry", nil, document.Say("fact.symmetry_of", document.Values{"x": document.Of(document.Statistic, r.Symmetry.Statistic), "df": document.N(int64(r.Symmetry.DF)), "p": document.P(document.PEqual, r.Symmetry.P, c.Level)})))
	}
	kappa := document.Say("fact.none", nil)
	if k := r.Kappa; k != nil {
		kappa = plain(document.Of(document.Statistic, k.Value))
		if k.Interval != nil {
			kappa = document.Say("fact.with_interval", document.Values{"value": document.Of(document.Statistic, k.Value), "confidence": document.Of(document.Level, r.Confidence),
				"lower": document.Of(document.Statistic, k.Interval.Lower), "upper": document.Of(document.Statistic, k.Interval.Upper)})
		}
	}
	return append(out, fact("kappa", "kappa", nil, kappa))
}

func (c Paired) working(r *infer.Agreement, p pairs, critical float64) []document.Message {
	var out []document.Message
	test := r.Margins
	v := document.Values{"statistic": document.Of(document.Statistic, test.Statistic), "df": document.N(int64(test.DF)), "p": document.P(document.PEqual, test.P, c.Level),
		"level": document.Of(document.Level, c.Level), "critical": document.Of(document.Statistic, critical)}
	if r.McNemar != nil {
		there, back := c.Counts[0][1], c.Counts[1][0]
		v["there"], v["back"], v["from"], v["to"] = document.N(there), document.N(back), document.Text(c.Labels[0]), document.Text(c.Labels[1])
		v["exact"] = document.P(document.PEqual, r.McNemar.Exact, c.Level)
		out = append(out, document.Say("working.paired.moved", v), document.Say("working.paired.mcnemar", v), document.Say("working.paired.exact", v))
	} else {
		for i, label := range c.Labels {
			out = append(out, document.Say("working.paired.difference", document.Values{"answer": document.Text(label), "first": document.N(p.rowSum[i]), "second": document.N(p.columnSum[i]), "difference": document.N(p.rowSum[i] - p.columnSum[i])}))
		}
		out = append(out, document.Say("working.paired.stuart", v))
	}
	return append(out, document.Say("working.paired."+outcome(test.P.AtMost(c.Level)), v))
}

func (c Paired) notes(r *infer.Agreement, p pairs, rejected bool) []document.Note {
	var out notesOf
	v := c.values()
	v["n"], v["changed"], v["few"] = document.N(p.n), document.N(p.changed), document.N(fewChanged)
	if left := c.Everyone - p.n; left > 0 {
		v["left"], v["everyone"] = document.N(left), document.N(c.Everyone)
		out.add(document.Basis, "paired.left_out", v)
	}
	out.add(document.Figures, "paired.same_people", v)
	switch {
	case p.changed >= fewChanged:
		out.add(document.Conditions, "paired.good", v)
	case r.McNemar != nil:
		out.caution(document.Conditions, "paired.few_exact", v)
	default:
		out.caution(document.Conditions, "paired.few", v)
	}
	out.unweighted(c.About)
	if r.McNemar != nil && p.changed >= fewChanged && r.McNemar.Exact.AtMost(c.Level) != rejected {
		out.caution(document.Decision, "paired.exact_differs", document.Values{"p": document.P(document.PEqual, r.McNemar.Exact, c.Level)})
	}
	if rejected {
		most, points := 0, 0.0
		for i := range c.Labels {
			if d := percent(p.columnSum[i], p.n) - percent(p.rowSum[i], p.n); math.Abs(d) > math.Abs(points) {
				most, points = i, d
			}
		}
		id := "paired.more"
		if points < 0 {
			id = "paired.fewer"
		}
		out.add(document.Decision, id, document.Values{"answer": document.Text(c.Labels[most]), "points": document.Of(document.Points, math.Abs(points)), "first": c.First.called(), "second": c.Second.called()})
		out.add(document.Decision, "paired.not_cause", nil)
	} else {
		out.add(document.Decision, "paired.not_proving", v)
	}
	return out
}
