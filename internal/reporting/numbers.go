package reporting

import (
	"strings"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/internal/export"
	"widetally/internal/i18n"
)

// described is a figure of a number: of the respondents, and of the population with its interval, nil where
// nobody says.
type described struct {
	id                     string
	kind                   document.ValueKind
	here                   *float64
	estimate, lower, upper *float64
}

// describes lists the figures of a number in the order in which they are read.
func (t *Tally) describes() []described {
	n, none := t.Numeric, described{}
	respondents := float64(n.N)
	mean, sd, quartiles := none, none, [3]described{}
	if e := t.EstimatedNumber; e != nil {
		mean.estimate, sd.estimate = &e.Mean.Mean, e.SD
		if e.Interval != nil {
			mean.lower, mean.upper = &e.Interval.Lower, &e.Interval.Upper
		}
		for i, q := range e.Quartiles[:min(len(e.Quartiles), len(quartiles))] {
			quartiles[i] = described{estimate: &q.Quantile, lower: q.Lower, upper: q.Upper}
		}
	}
	as := func(of described, id string, kind document.ValueKind, here *float64) described {
		of.id, of.kind, of.here = id, kind, here
		return of
	}
	return []described{
		as(none, "n", document.Count, &respondents), as(mean, "stat.mean", document.Rounded, &n.Mean), as(sd, "stat.sd", document.Rounded, n.SD),
		as(none, "stat.smallest", document.Measure, &n.Smallest), as(quartiles[0], "stat.q1", document.Measure, &n.Quartile1),
		as(quartiles[1], "stat.median", document.Measure, &n.Median), as(quartiles[2], "stat.q3", document.Measure, &n.Quartile3),
		as(none, "stat.largest", document.Measure, &n.Largest),
	}
}

// NumberTable describes a number that was asked for: how many gave one, mean, spread and quartiles of the
// respondents, and before them what the design says of the population, with intervals.
func NumberTable(w *i18n.Catalogue, t *Tally) export.Table {
	name := func(id string) string { return w.Text("column."+id, nil) }
	out := export.Table{Title: t.Question.Wording, Head: []string{w.Text("report.word.figure", nil)}}
	if t.Within != "" {
		out.Title += " (" + t.Within + ")"
	}
	if t.EstimatedNumber != nil {
		out.Head = append(out.Head, name("estimated_number"), w.Text("column.interval_number", map[string]string{"confidence": w.Write(document.Of(document.Level, analysis.UsualConfidence))}))
	}
	out.Head = append(out.Head, name("respondents"))
	if n := t.Numeric.N; n < t.Rule.Least {
		out.Head, out.Notes = out.Head[:1], []string{w.Say(document.Say("disclosure.tally_few", document.Values{"least": document.N(t.Rule.Least)}))}
		return out
	}
	cell := func(row, column string, x *float64, kind document.ValueKind, base *float64) export.Cell {
		if x == nil {
			return export.Cell{}
		}
		c := export.Cell{Text: w.Write(document.Of(kind, *x)), Number: x, Decimals: -1}
		if kind == document.Count {
			c.Decimals = 0
		}
		out.Figures = append(out.Figures, export.Figure{Row: row, Column: column, Text: c.Text, Number: x, Base: base})
		return c
	}
	n := float64(t.Numeric.N)
	for _, d := range t.describes() {
		if !t.tells(d.id) {
			continue
		}
		if d.id == "n" {
			here := float64(t.Rule.Rounded(t.Numeric.N))
			d.here = &here
		}
		row := []export.Cell{{Text: name(d.id)}}
		if t.EstimatedNumber != nil {
			row = append(row, cell(row[0].Text, out.Head[1], d.estimate, d.kind, &n), export.Cell{})
			if d.lower != nil && d.upper != nil {
				row[2].Text = w.Text("fact.from_to", map[string]string{"lower": w.Write(document.Of(d.kind, *d.lower)), "upper": w.Write(document.Of(d.kind, *d.upper))})
			}
		}
		out.Rows = append(out.Rows, append(row, cell(row[0].Text, out.Head[len(out.Head)-1], d.here, d.kind, nil)))
	}
	if t.Frequency != nil {
		out.Notes = []string{w.Text("leaves.base_answered", t.whom(w, t.Numeric.N))}
	}
	return out
}

// tells says whether a figure of a number is told by the rule: no extremes, and a median and quartiles of as many as
// there are told of on either side.
func (t *Tally) tells(id string) bool {
	if id == "stat.smallest" || id == "stat.largest" {
		return t.Rule.Least <= 1
	}
	return t.Rule.Quantile(strings.TrimPrefix(id, "stat."), t.Numeric.N)
}

// whom tells of how many respondents a table is, and how many gave no answer.
func (t *Tally) whom(w *i18n.Catalogue, n int64) map[string]string {
	out := map[string]string{"units": t.Units, "n": w.Fixed(float64(t.Rule.Rounded(n)), 0), "missing": w.Fixed(float64(t.Rule.Rounded(t.Frequency.Missing)), 0)}
	if t.Within != "" {
		out["units"] = w.Text("claim.in_subgroup", map[string]string{"units": t.Units, "subgroup": t.Within})
	}
	return out
}
