package crosstab

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

func (c Crossing) notes(t Crossed, r *infer.Independence, decided claim.Verdict) []document.Note {
	var out claim.NotesOf
	v := c.Values()
	out.Add(document.Figures, "crosstab.read_"+string(c.Reading), v)
	c.LeftOut(&out, t)
	c.fewNote(&out, t)
	if slices.Contains(c.Show, document.Expected) && r != nil {
		out.Add(
			document.Figures,
			"crosstab.expected",
			document.Values{"n": document.N(t.N), "units": c.Units, "rows": c.Rows.Called()},
		)
	}
	if c.Test == nil || r == nil {
		if r == nil && t.N > 0 {
			out.Add(document.Figures, "crosstab.not_testable", v)
		}
		return out
	}
	if gone := len(c.RowLabels) - len(r.RowsUsed) + len(c.ColumnLabels) - len(r.ColumnsUsed); gone > 0 {
		out.Add(
			document.Figures,
			"crosstab.empty_left_out",
			document.Values{"n": document.N(int64(gone)), "df": document.N(int64(r.DF))},
		)
	}
	stands := int64(0)
	for _, row := range r.Cells {
		for _, x := range row {
			if decided.MarkOf(x.Significant, r.DF, x.Difference) != "" {
				stands++
			}
		}
	}
	cells := document.Values{
		"n":     document.N(stands),
		"cells": document.N(int64(r.CellsInTest)),
		"level": document.Of(document.Level, r.Level),
	}
	switch {
	case stands > 0 && r.DF == 1:
		out.Add(document.Figures, "crosstab.stands_all", cells)
	case stands > 0:
		out.Add(document.Figures, "crosstab.stands", cells)
	}
	switch { // four cells are one and the same question
	case r.DF == 1:
	case decided.Rejected() && stands == 0:
		out.Add(document.Decision, "crosstab.none_stands", nil)
	case !decided.Rejected() && stands > 0:
		out.Caution(document.Decision, "crosstab.one_stands", nil)
	}
	decided.Differ(&out, "chi_square")
	c.otherMethods(&out)
	c.conditionNote(&out, r)
	out.Exact(c.Test.Exact, r.Level)
	out.Unweighted(c.About)
	w := infer.DetectableW(float64(r.N), float64(r.DF), r.Level, claim.UsualPower)
	v = document.Values{"n": document.N(r.N), "w": document.Of(document.Effect, w), "level": document.Of(document.Level, r.Level)}
	switch {
	case decided.Rejected():
		out.Add(document.Decision, "crosstab.not_cause", nil)
		out.Size("crosstab", r.Effects, r.DF, r.N, r.Level, document.Values{"v": document.Of(document.Effect, r.CramersV)})
	case w > math.Sqrt(float64(min(len(r.RowTotals), len(r.ColumnTotals))-1)): // beyond the largest there can be
		out.Add(document.Decision, "crosstab.not_proving_none", v)
	default:
		out.Add(document.Decision, "crosstab.not_proving", v)
	}
	return out
}

// otherMethods speaks where the test of separate people without an order is not the one that
// serves: the same people asked twice, or answers with an order, which it does not use.
func (c Crossing) otherMethods(out *claim.NotesOf) {
	if c.SameAnswers {
		out.Caution(document.Conditions, "crosstab.same_answers", c.Values()).Remedy = &document.Remedy{
			Label: say.RemedyPaired(),
			Ask: &document.Ask{
				Method:   "paired",
				Others:   []int{1},
				Settings: claim.Patch(map[string]any{"level": c.Test.Level, "role": c.Test.Role}),
			},
		}
		return
	}
	at := 0
	if !c.Ordered[0] {
		at = 1
	}
	if c.Ordered[at] && len(c.ColumnLabels)+len(c.RowLabels) > 4 {
		out.Add(document.Conditions, "crosstab.ordered", c.Values()).Remedy = &document.Remedy{
			Label: say.RemedyOrdered(),
			Ask: &document.Ask{
				Method:   "ordered",
				Question: at,
				Others:   []int{1 - at},
				Settings: claim.Patch(map[string]any{"level": c.Test.Level}),
			},
		}
	}
}

// LeftOut says who is not in the table.
func (c Crossing) LeftOut(out *claim.NotesOf, t Crossed) {
	if c.Everyone > t.N {
		out.Add(
			document.Basis,
			"crosstab.left_out",
			document.Values{"left": document.N(c.Everyone - t.N), "everyone": document.N(c.Everyone), "units": c.Units,
				"rows": c.Rows.Called(), "columns": c.Columns.Called(), "noRow": document.N(c.NoRow), "noColumn": document.N(c.NoColumn)},
		)
	}
}

func (c Crossing) fewNote(out *claim.NotesOf, t Crossed) {
	labels, sums := c.RowLabels, t.RowSum
	switch c.Reading {
	case OfEachColumn:
		labels, sums = c.ColumnLabels, t.ColumnSum
	case AsCounts, OfEveryone:
		return
	}
	at, few := -1, int64(0)
	for i, n := range sums {
		if n > 0 && n < claim.FewInGroup {
			few++
			if at < 0 || n < sums[at] {
				at = i
			}
		}
	}
	if at >= 0 {
		out.Caution(
			document.Figures,
			"crosstab.few",
			document.Values{"n": document.N(sums[at]), "answer": document.Text(labels[at]), "few": document.N(few)},
		)
	}
}

// conditionNote follows Cochran's rule; outside it the exact p is one press away.
func (c Crossing) conditionNote(out *claim.NotesOf, r *infer.Independence) {
	v := document.Values{
		"smallest": document.Of(document.Amount, r.SmallestExpected),
		"units":    c.Units,
		"low":      document.N(int64(r.LowCells)),
		"cells":    document.N(int64(r.CellsInTest)),
		"percent":  document.Of(document.Percent, r.LowPercent),
	}
	var n *document.Note
	switch {
	case r.LowCells == 0:
		out.Add(document.Conditions, "crosstab.good", v)
		return
	case r.Advice.Because == infer.BecauseWithinRule:
		n = out.Add(document.Conditions, "crosstab.fair", v)
	default:
		n = out.Caution(document.Conditions, "crosstab.poor", v)
	}
	n.Remedy = claim.Merging
	if !c.Test.ExactAsked {
		n.Remedy = &document.Remedy{
			Label:  say.RemedyExact(),
			Change: claim.Patch(map[string]any{"test": map[string]any{"exact": true}}),
		}
	}
}
