package homogeneity

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Claim is a claim about the shares of a question's answers against the counts of another
// sample, whose shares are themselves uncertain.
type Claim struct {
	claim.About
	claim.Stated
	Question claim.Question
	Labels   []string
	Source   string
}

const texts = "homogeneity"

func (c Claim) values() document.Values {
	return document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"source":   document.Text(c.Source),
		"where":    document.Term("claim.where.two"),
	}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return claim.StatementOf(c.Clauses(texts, c.values()))
}

// Document says what the test of homogeneity means, and beside it what taking the other
// sample's shares as known would have claimed.
func (c Claim) Document(r *infer.Homogeneity, published []int64) document.Document {
	t := r.Test
	v := c.Clauses(texts, c.values())
	v["n"], v["m"], v["df"], v["rows"] = document.N(
		t.RowTotals[0],
	), document.N(
		t.RowTotals[1],
	), document.N(
		int64(t.DF),
	), document.N(
		int64(len(t.ColumnsUsed)),
	)
	v["statistic"], v["p"], v["critical"] = document.Of(
		document.Statistic,
		t.Statistic,
	), document.P(
		document.PEqual,
		t.P,
		c.Level,
	), document.Of(
		document.Statistic,
		t.CriticalValue,
	)
	decided, doubt := claim.ChiSquareVerdict(t.Statistic, t.CriticalValue, t.P, c.Level, t.Advice, r.Exact)
	said := append([]document.Message{c.Finding(decided.Rejected(), v)}, doubt...)
	head := func(id string) document.Message { return document.Say("column."+id, v) }
	table := &document.Table{
		Caption: document.Say("caption.homogeneity", v),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{
			head("observed"),
			head("share_percent"),
			head("there"),
			head("there_percent"),
			head("points_from"),
		},
	}
	n, m := float64(t.RowTotals[0]), float64(t.RowTotals[1])
	furthest, away := 0, 0.0
	for j, label := range c.Labels {
		row := document.Row{Name: claim.Plain(document.Text(label))}
		var here int64
		mark := document.Mark("")
		for used, column := range t.ColumnsUsed {
			if column == j {
				here = t.Cells[0][used].Observed
				mark = decided.MarkOf(t.Cells[0][used].Significant, t.DF, t.Cells[0][used].Difference)
			}
		}
		points := 100 * (float64(here)/n - float64(published[j])/m)
		if math.Abs(points) > math.Abs(away) {
			furthest, away = j, points
		}
		observed := document.One(document.N(here))
		observed.Mark = mark
		row.Cells = []document.Cell{
			observed,
			document.One(document.Of(document.Bare, 100*float64(here)/n)),
			document.One(document.N(published[j])),
			document.One(document.Of(document.Bare, 100*float64(published[j])/m)),
			document.One(document.Of(document.Difference, points)),
		}
		table.Rows = append(table.Rows, row)
	}
	hundred := document.One(document.Of(document.Bare, 100))
	table.Rows = append(
		table.Rows,
		document.Row{
			Name:  head("total"),
			Total: true,
			Cells: []document.Cell{document.One(v["n"]), hundred, document.One(v["m"]), hundred, document.One(document.Text(""))},
		},
	)
	v["answer"], v["points"] = document.Text(c.Labels[furthest]), document.Of(document.Points, math.Abs(away))
	reading := document.Say("read.homogeneity."+[]string{"same", "more", "fewer"}[claim.Sign(away)], v)
	facts := []document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactChiSquare(v["statistic"])),
		claim.Fact("df", "df", nil, say.FactDfSamples(v["rows"], v["df"])),
	}
	facts = append(facts, decided.Facts(claim.PFact(t.P, c.Level))...)
	facts = append(facts, claim.Fact("critical", "critical", document.Values{"level": v["level"]}, claim.Plain(v["critical"])))
	facts = append(facts, claim.EffectFact("v", infer.Measure(t.Effects, infer.CramersV), 1-c.Level))
	facts = append(facts, claim.LowExpected(t.LowExpectedCounts, "cells"))
	var notes claim.NotesOf
	if k := r.Known; k != nil {
		v["known"], v["known_p"] = document.Of(document.Statistic, k.Statistic), document.P(document.PEqual, k.P, c.Level)
		facts = append(facts, claim.Fact("known", "as_known", nil, say.FactKnown(v["known"], v["known_p"])))
		if r.Kept != nil {
			v["kept"] = document.Of(document.Percent, 100**r.Kept)
			notes.Add(document.Facts, "homogeneity.kept", v)
		}
		if k.Reject != decided.Rejected() {
			notes.Caution(document.Decision, "homogeneity.differ", v)
		}
	}
	var working []document.Message
	for i, cells := range t.Cells {
		for j, x := range cells {
			working = append(
				working,
				say.WorkingCrosstabCell(
					document.Term([]string{"column.here", "column.there"}[i]),
					c.Labels[t.ColumnsUsed[j]],
					t.RowTotals[i],
					t.ColumnTotals[j],
					t.N,
					x.Expected,
					x.Observed,
					x.Contribution,
				),
			)
		}
	}
	for _, id := range []string{"statistic", "df", "p", claim.Outcome(t.Reject)} {
		working = append(working, document.Say("working.homogeneity."+id, v))
	}
	working = append(working, decided.DecidesInstead()...)
	d := document.Document{Blocks: []document.Block{
		c.Hypotheses(texts, v),
		{Kind: document.Sentence, Said: said},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: table},
		{Kind: document.Facts, Facts: facts},
		decided.Block(),
		{Kind: document.Chart, Chart: claim.ChiSquarePicture(t.Statistic, t.CriticalValue, t.DF, t.Reject, v["p"])},
		{Kind: document.Working, Said: working},
		{
			Kind: document.WriteUp,
			Said: slices.Concat(
				said,
				[]document.Message{reading},
				decided.InsteadInJournal(document.Say("finding.homogeneity.journal", v)),
			),
		},
	}, Outcome: decided.Outcome("null")}
	if t.LowCells > 0 {
		notes.Caution(document.Conditions, "homogeneity.low", document.Values{"n": document.N(int64(t.LowCells)), "of": document.N(int64(t.CellsInTest)), "smallest": document.Of(document.Amount, t.SmallestExpected)}).Remedy = claim.Merging
	}
	notes.Exact(r.Exact, c.Level)
	decided.Differ(&notes, "chi_square")
	notes.LeftOut(c.About, t.RowTotals[0])
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
