package service

import (
	"slices"

	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/tally"
)

// Leaving is what may leave of the document of an analysis by the rule of its study; nil where there is none.
func (v AnalysisView) Leaving() *document.Document {
	if v.Document == nil || !v.Rule.InForce() {
		return v.Document
	}
	d := disclosure.Document(*v.Document, v.Rule, v.N)
	return &d
}

// Leaving is the view as those may see it to whom the study is shown, by its rule: without the answers that are
// withheld, which a note names, and without the distribution of a number, which tells of single respondents.
func (v *QuestionView) Leaving() *QuestionView {
	if !v.Rule.InForce() || v.Damaged != nil {
		return v
	}
	coded := *v
	v, out := &coded, coded
	if v.Estimates == nil { // of several values together nothing is estimated
		v.Question.Question, v.Frequency = disclosure.CodedEnds(v.Question.Question, v.Frequency, v.Rule)
		out.Question = v.Question
	}
	withheld, all := disclosure.Frequency(v.Frequency, v.Kind.Coded(), v.Rule)
	f := *v.Frequency
	f.Rows, f.Answered, f.Everyone, f.Missing = nil, v.Rule.Rounded(f.Answered), v.Rule.Rounded(f.Everyone), v.Rule.Rounded(f.Missing)
	for _, row := range v.Frequency.Rows {
		if all || withheld[row.Slot] {
			label := ""
			if a, ok := v.Answer(row.Slot); ok {
				label = a.Label
			}
			out.Withheld = append(out.Withheld, label)
			continue
		}
		f.Rows = append(f.Rows, v.roundedRow(row, len(out.Withheld) > 0))
	}
	f.MissingRows = nil
	for _, row := range v.Frequency.MissingRows {
		f.MissingRows = append(f.MissingRows, v.roundedRow(row, true))
	}
	out.Frequency, out.Examples = &f, nil
	if out.Numeric != nil {
		out.Numeric, out.EstimatedNumber = nil, nil
	}
	out.Analyses = slices.Clone(v.Analyses)
	for i := range out.Analyses {
		out.Analyses[i].Document = out.Analyses[i].Leaving()
	}
	return &out
}

// roundedRow is a row as the rule tells it; after one that is withheld running sums would tell that one.
func (v *QuestionView) roundedRow(row tally.Row, after bool) tally.Row {
	r := v.Rule
	percent := func(of int64, exact *float64) *float64 {
		if exact == nil {
			return nil
		}
		p, is := r.Percent(row.Count, of, *exact)
		if !is {
			return nil
		}
		return &p
	}
	row.PercentOfAnswered, row.PercentOfEveryone = percent(v.Frequency.Answered, row.PercentOfAnswered), percent(v.Frequency.Everyone, row.PercentOfEveryone)
	if row.Cumulative != nil {
		running := r.Rounded(*row.Cumulative)
		if row.Cumulative = &running; after || r.Rounding > 1 {
			row.Cumulative, row.CumulativePercent = nil, nil
		}
	}
	row.Count = r.Rounded(row.Count)
	return row
}
