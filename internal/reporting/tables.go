package reporting

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

// Table makes of a table of a document one that can leave: each figure of a cell that is
// shown gets a column of its own.
func Table(w *i18n.Catalogue, t *said.Table, notes []string) export.Table {
	out := export.Table{Title: t.Caption, Notes: notes, Head: []string{t.Stub}}
	for _, c := range t.Columns {
		for _, role := range t.Shown {
			head := c
			if role != document.Main {
				head += ", " + w.Text("role."+string(role), nil)
			}
			out.Head = append(out.Head, head)
		}
	}
	for _, r := range t.Rows {
		row := []export.Cell{{Text: r.Name}}
		for _, c := range r.Cells {
			for i, role := range t.Shown {
				cell := export.Cell{}
				if f, ok := c.Figure(role); ok {
					if cell.Text = f.Text; i == 0 {
						cell.Mark = string(c.Mark)
					}
					if f.Plain {
						cell.Number, cell.Decimals = f.Number, f.Decimals
					}
				}
				row = append(row, cell)
			}
		}
		out.Rows = append(out.Rows, row)
	}
	return out
}

// TallyTable is the frequency table of a question over one base, "answered" or "everyone";
// where the order of the answers means something, with its running sums. more are further
// notes under it.
func TallyTable(w *i18n.Catalogue, t *Tally, base string, order claim.Order, more []string) export.Table {
	f := t.Frequency
	if t.Estimates == nil { // of several values together nothing is estimated
		coded := *t
		coded.Question, f = disclosure.CodedEnds(t.Question, f, t.Rule)
		t = &coded
	}
	rows, n := Arranged(t.Question, f.Rows, order), f.Answered
	if base == "everyone" {
		rows, n = slices.Concat(rows, f.MissingRows), f.Everyone
	}
	head := func(ids ...string) (out []string) {
		for _, id := range ids {
			out = append(out, w.Text("column."+id, nil))
		}
		return out
	}
	out := export.Table{Title: t.Question.Wording, Head: head("answer", "count", "of_"+base)}
	if t.Within != "" {
		out.Title += " (" + t.Within + ")"
	}
	running := t.Question.Kind.Ranked() && base == "answered"
	if running {
		relative := "cumulative_relative"
		if t.Estimates != nil {
			relative = "cumulative_estimated"
		}
		out.Head = append(out.Head, head("cumulative", relative)...)
	}
	if t.Estimates != nil {
		out.Head = append(out.Head, w.Text("column.estimated", nil), w.Text("column.interval", map[string]string{"confidence": w.Write(document.Of(document.Level, analysis.UsualConfidence))}))
	}
	withheld, nothing := disclosure.Frequency(f, t.Question.Kind.Coded(), t.Rule)
	if nothing {
		out.Head, out.Notes = out.Head[:1], []string{w.Say(document.Say("disclosure.tally_few", document.Values{"least": document.N(max(t.Rule.Least, t.Rule.Fewest))}))}
		return out
	}
	some := false
	number := func(x float64, decimals int) export.Cell {
		return export.Cell{Text: w.Fixed(x, decimals), Number: &x, Decimals: decimals}
	}
	percentOf := func(count int64) export.Cell {
		if n == 0 {
			return export.Cell{}
		}
		p, is := t.Rule.Percent(count, n, 100*float64(count)/float64(n))
		if !is {
			return export.Cell{}
		}
		return number(p, t.Decimals)
	}
	whole := float64(t.Rule.Rounded(n))
	add := func(answer, what string, x float64, decimals int, of *float64) {
		out.Figures = append(out.Figures, export.Figure{Row: answer, Column: what, Text: w.Fixed(x, decimals), Number: &x, Base: of})
	}
	for _, r := range rows {
		a, _ := t.Question.Answer(r.Slot)
		if withheld[r.Slot] {
			some = true
			row := []export.Cell{{Text: a.Label}}
			for range out.Head[1:] {
				row = append(row, export.Cell{Text: w.Text("disclosure.sign", nil)})
			}
			out.Rows = append(out.Rows, row)
			continue
		}
		count := float64(t.Rule.Rounded(r.Count))
		if !t.Rule.PercentsOnly {
			add(a.Label, out.Head[1], count, 0, nil)
		}
		if p := percentOf(r.Count); p.Number != nil {
			add(a.Label, out.Head[2], *p.Number, t.Decimals, &whole)
		}
		if e, ok := t.estimated(r.Slot); ok {
			add(a.Label, w.Text("column.estimated", nil), 100*e.Share, t.Decimals, &whole)
		}
		row := []export.Cell{{Text: a.Label}, number(count, 0), percentOf(r.Count)}
		if running && some { // running sums would tell what is withheld
			row = append(row, export.Cell{Text: w.Text("disclosure.sign", nil)}, export.Cell{Text: w.Text("disclosure.sign", nil)})
		} else if running {
			upTo := percentOf(*r.Cumulative)
			if e, ok := t.estimated(r.Slot); ok {
				upTo = number(100*e.UpTo, t.Decimals)
			}
			row = append(row, number(float64(t.Rule.Rounded(*r.Cumulative)), 0), upTo)
		}
		if t.Estimates != nil {
			row = append(row, t.estimate(w, r.Slot, number)...)
		}
		out.Rows = append(out.Rows, row)
	}
	if t.Rule.PercentsOnly {
		for _, row := range out.Rows {
			row[1] = export.Cell{}
		}
	}
	total := []export.Cell{{Text: w.Text("column.total", nil)}, number(float64(t.Rule.Rounded(n)), 0)}
	if n > 0 && t.Question.Kind != survey.ChooseAll {
		total = append(total, number(100, t.Decimals))
	}
	out.Rows, out.Foot = append(out.Rows, total), 1
	out.Notes = append([]string{w.Text("leaves.base_"+base, t.whom(w, n))}, more...)
	if some {
		out.Notes = append(out.Notes, w.Say(document.Say("disclosure.tally", document.Values{"fewest": document.N(t.Rule.Fewest)})))
	}
	return out
}

// estimate is the estimated percent of an answer with its interval; empty for a missing one.
func (t *Tally) estimate(w *i18n.Catalogue, slot survey.Slot, number func(x float64, decimals int) export.Cell) []export.Cell {
	e, ok := t.estimated(slot)
	if !ok {
		return []export.Cell{{}, {}}
	}
	interval := export.Cell{}
	if e.Interval != nil {
		interval.Text = w.Text("fact.from_to", map[string]string{"lower": w.Fixed(100*e.Interval.Lower, t.Decimals), "upper": w.Fixed(100*e.Interval.Upper, t.Decimals)})
	}
	return []export.Cell{number(100*e.Share, t.Decimals), interval}
}

// estimated is the estimate of an answer; false for one without.
func (t *Tally) estimated(slot survey.Slot) (analysis.Estimated, bool) {
	for _, e := range t.Estimates {
		if e.Slot == slot {
			return e, true
		}
	}
	return analysis.Estimated{}, false
}

// Arranged puts the rows of a tally in an order; answers that have one of their own keep it.
func Arranged(q survey.Question, rows []tally.Row, order claim.Order) []tally.Row {
	if order == "" || order == claim.AsAsked || q.Kind.Ranked() {
		return rows
	}
	var labels []string
	var counts []int64
	for _, r := range rows {
		a, _ := q.Answer(r.Slot)
		labels, counts = append(labels, a.Label), append(counts, r.Count)
	}
	out := make([]tally.Row, len(rows))
	for i, at := range claim.Arranged(order, labels, counts) {
		out[i] = rows[at]
	}
	return out
}
