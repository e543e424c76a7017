package crosstab

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

func (c Crossing) facts(r *infer.Independence, decided claim.Verdict) []document.Fact {
	level := document.Values{"level": document.Of(document.Level, r.Level)}
	out := []document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactChiSquare(document.Of(document.Statistic, r.Statistic))),
		claim.Fact("df", "df", nil, say.FactDfTable(int64(len(r.RowTotals)), int64(len(r.ColumnTotals)), int64(r.DF))),
	}
	out = append(out, decided.Facts(claim.PFact(r.P, r.Level))...)
	out = append(out, claim.Fact("critical", "critical", level, claim.Plain(document.Of(document.Statistic, r.CriticalValue))))
	out = append(out, claim.EffectFact("v", infer.Measure(r.Effects, infer.CramersV), 1-r.Level))
	out = append(out, claim.LowExpected(r.LowExpectedCounts, "cells"))
	t := c.Test.TwoByTwo
	if t == nil {
		return out
	}
	s := t.Shares
	of := c.apart(r)
	v := document.Values{
		"points":     document.Of(document.Difference, 100*s.Difference),
		"lower":      document.Of(document.Difference, 100*s.Newcombe.Lower),
		"upper":      document.Of(document.Difference, 100*s.Newcombe.Upper),
		"confidence": document.Of(document.Level, s.Confidence),
	}
	out = append(out, claim.Fact("points", "points_of", of, document.Say("fact.points_interval", v)))
	for _, e := range t.Effects {
		switch e.Name {
		case infer.RelativeRisk:
			f := claim.EffectFact("ratio", e, s.Confidence)
			f.Name = document.Say("fact.ratio_of", of)
			out = append(out, f)
		case infer.OddsRatio:
			f := claim.EffectFact("odds", e, s.Confidence)
			f.Name = document.Say("fact.odds_of", of)
			out = append(out, f)
		}
	}
	if t.Fisher != nil && decided.At == 0 {
		out = append(out, claim.Fact("fisher", "fisher", nil, claim.Plain(document.P(document.PExact, t.Fisher.TwoSided, r.Level))))
	}
	return out
}

// apart names what the figures of two groups with two answers are of: they follow the reading,
// which is along the rows where it is of neither side.
func (c Crossing) apart(r *infer.Independence) document.Values {
	groups, answers := c.RowLabels, c.ColumnLabels
	first, second, answer := r.RowsUsed[0], r.RowsUsed[1], r.ColumnsUsed[0]
	if c.Reading == OfEachColumn {
		groups, answers = answers, groups
		first, second, answer = r.ColumnsUsed[0], r.ColumnsUsed[1], r.RowsUsed[0]
	}
	return document.Values{
		"first":  document.Text(groups[first]),
		"second": document.Text(groups[second]),
		"answer": document.Text(answers[answer]),
	}
}

func (c Crossing) working(r *infer.Independence) []document.Message {
	var out []document.Message
	say := func(id string, v document.Values) { out = append(out, document.Say("working.crosstab."+id, v)) }
	for i, cells := range r.Cells {
		for j, x := range cells {
			say(
				"cell",
				document.Values{
					"row":         document.Text(c.RowLabels[r.RowsUsed[i]]),
					"column":      document.Text(c.ColumnLabels[r.ColumnsUsed[j]]),
					"observed":    document.N(x.Observed),
					"rowTotal":    document.N(r.RowTotals[i]),
					"columnTotal": document.N(r.ColumnTotals[j]),
					"n":           document.N(r.N),
					"expected": document.Of(
						document.Statistic,
						x.Expected,
					),
					"contribution": document.Of(document.Statistic, x.Contribution),
				},
			)
		}
	}
	statistic, df := document.Of(document.Statistic, r.Statistic), document.N(int64(r.DF))
	say("statistic", document.Values{"statistic": statistic})
	say(
		"df",
		document.Values{"rows": document.N(int64(len(r.RowTotals))), "columns": document.N(int64(len(r.ColumnTotals))), "df": df},
	)
	say("p", document.Values{"df": df, "statistic": statistic, "p": document.P(document.PEqual, r.P, r.Level)})
	say(
		claim.Outcome(r.Reject),
		document.Values{
			"p":         document.P(document.PEqual, r.P, r.Level),
			"level":     document.Of(document.Level, r.Level),
			"statistic": statistic,
			"critical":  document.Of(document.Statistic, r.CriticalValue),
		},
	)
	say(
		"v",
		document.Values{
			"statistic": statistic,
			"n":         document.N(r.N),
			"side":      document.N(int64(min(len(r.RowTotals), len(r.ColumnTotals)) - 1)),
			"v":         document.Of(document.Statistic, r.CramersV),
		},
	)
	say("likelihood", document.Values{"g": document.Of(document.Statistic, r.G), "p": document.P(document.PEqual, r.GP, r.Level)})
	return out
}
