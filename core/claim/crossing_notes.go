package claim

import (
	"math"
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
)

func (c Crossing) notes(t crossed, r *infer.Independence, decided verdict) []document.Note {
	var out notesOf
	v := c.values()
	out.add(document.Figures, "crossing.read_"+string(c.Reading), v)
	c.leftOut(&out, t)
	c.fewNote(&out, t)
	if slices.Contains(c.Show, document.Expected) && r != nil {
		out.add(document.Figures, "crossing.expected", document.Values{"n": document.N(t.n), "units": c.Units, "rows": c.Rows.called()})
	}
	if c.Test == nil || r == nil {
		if r == nil && t.n > 0 {
			out.add(document.Figures, "crossing.not_testable", v)
		}
		return out
	}
	if gone := len(c.RowLabels) - len(r.RowsUsed) + len(c.ColumnLabels) - len(r.ColumnsUsed); gone > 0 {
		out.add(document.Figures, "crossing.empty_left_out", document.Values{"n": document.N(int64(gone)), "df": document.N(int64(r.DF))})
	}
	stands := int64(0)
	for _, row := range r.Cells {
		for _, x := range row {
			if decided.markOf(x.Significant, r.DF, x.Difference) != "" {
				stands++
			}
		}
	}
	cells := document.Values{"n": document.N(stands), "cells": document.N(int64(r.CellsInTest)), "level": document.Of(document.Level, r.Level)}
	switch {
	case stands > 0 && r.DF == 1:
		out.add(document.Figures, "crossing.stands_all", cells)
	case stands > 0:
		out.add(document.Figures, "crossing.stands", cells)
	}
	switch { // four cells are one and the same question
	case r.DF == 1:
	case decided.rejected() && stands == 0:
		out.add(document.Decision, "crossing.none_stands", nil)
	case !decided.rejected() && stands > 0:
		out.caution(document.Decision, "crossing.one_stands", nil)
	}
	decided.differ(&out, "chi_square")
	c.otherMethods(&out)
	c.conditionNote(&out, r)
	out.exact(c.Test.Exact, r.Level)
	out.unweighted(c.About)
	w := infer.DetectableW(float64(r.N), float64(r.DF), r.Level, usualPower)
	v = document.Values{"n": document.N(r.N), "w": document.Of(document.Effect, w), "level": document.Of(document.Level, r.Level)}
	switch {
	case decided.rejected():
		out.add(document.Decision, "crossing.not_cause", nil)
		out.size("crossing", r.Effects, r.DF, r.N, r.Level, document.Values{"v": document.Of(document.Effect, r.CramersV)})
	case w > math.Sqrt(float64(min(len(r.RowTotals), len(r.ColumnTotals))-1)): // beyond the largest there can be
		out.add(document.Decision, "crossing.not_proving_none", v)
	default:
		out.add(document.Decision, "crossing.not_proving", v)
	}
	return out
}

// otherMethods speaks where the test of separate people without an order is not the one that
// serves: the same people asked twice, or answers with an order, which it does not use.
func (c Crossing) otherMethods(out *notesOf) {
	if c.SameAnswers {
		out.caution(document.Conditions, "crossing.same_answers", c.values()).Remedy = &document.Remedy{Label: document.Say("remedy.paired", nil), Ask: &document.Ask{Method: "paired", Others: []int{1}, Settings: patch(map[string]any{"level": c.Test.Level, "role": c.Test.Role})}}
		return
	}
	at := 0
	if !c.Ordered[0] {
		at = 1
	}
	if c.Ordered[at] && len(c.ColumnLabels)+len(c.RowLabels) > 4 {
		out.add(document.Conditions, "crossing.ordered", c.values()).Remedy = &document.Remedy{Label: document.Say("remedy.ordered", nil), Ask: &document.Ask{Method: "ordered", Question: at, Others: []int{1 - at}, Settings: patch(map[string]any{"level": c.Test.Level})}}
	}
}

func (c Crossing) leftOut(out *notesOf, t crossed) {
	if c.Everyone > t.n {
		out.add(document.Basis, "crossing.left_out", document.Values{"left": document.N(c.Everyone - t.n), "everyone": document.N(c.Everyone), "units": c.Units,
			"rows": c.Rows.called(), "columns": c.Columns.called(), "noRow": document.N(c.NoRow), "noColumn": document.N(c.NoColumn)})
	}
}

func (c Crossing) fewNote(out *notesOf, t crossed) {
	labels, sums := c.RowLabels, t.rowSum
	switch c.Reading {
	case OfEachColumn:
		labels, sums = c.ColumnLabels, t.columnSum
	case AsCounts, OfEveryone:
		return
	}
	at, few := -1, int64(0)
	for i, n := range sums {
		if n > 0 && n < fewInGroup {
			few++
			if at < 0 || n < sums[at] {
				at = i
			}
		}
	}
	if at >= 0 {
		out.caution(document.Figures, "crossing.few", document.Values{"n": document.N(sums[at]), "answer": document.Text(labels[at]), "few": document.N(few)})
	}
}

// conditionNote follows Cochran's rule; outside it the exact p is one press away.
func (c Crossing) conditionNote(out *notesOf, r *infer.Independence) {
	v := document.Values{"smallest": document.Of(document.Amount, r.SmallestExpected), "units": c.Units, "low": document.N(int64(r.LowCells)), "cells": document.N(int64(r.CellsInTest)),
		"percent": document.Of(document.Percent, r.LowPercent)}
	var n *document.Note
	switch {
	case r.LowCells == 0:
		out.add(document.Conditions, "crossing.good", v)
		return
	case r.Advice.Because == infer.BecauseWithinRule:
		n = out.add(document.Conditions, "crossing.fair", v)
	default:
		n = out.caution(document.Conditions, "crossing.poor", v)
	}
	n.Remedy = merging
	if !c.Test.ExactAsked {
		n.Remedy = &document.Remedy{Label: document.Say("remedy.exact", nil), Change: patch(map[string]any{"test": map[string]any{"exact": true}})}
	}
}
