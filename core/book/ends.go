package book

import (
	"slices"

	"widetally/core/disclosure"
	"widetally/core/tally"
)

// codeEnds lets the rare ends of numbers stand in one row each, as the rule of what may leave has it for all of whom
// the book is; where a net has some of them alone, they stay.
func (m *maker) codeEnds(l *line) error {
	n := len(l.Question.Proper())
	if !m.from.Rule.CodeEnds || !disclosure.Numbered(l.Question) || len(l.rows) < n {
		return nil
	}
	of, err := m.from.Sample(m.book.Subgroup)
	if err != nil {
		return err
	}
	f, err := tally.Tabulate(l.Question, l.Column, of)
	if err != nil {
		return err
	}
	counts := make([]int64, n)
	for i, row := range f.Rows {
		counts[i] = row.Count
	}
	low, high := m.from.Rule.Ends(counts)
	end := func(from, to int, label string) lineRow {
		row := lineRow{kind: AnswerRow, label: label}
		for i := from; i < to; i++ {
			row.answers = append(row.answers, i)
		}
		return row
	}
	answers, nets := l.rows[:n], l.rows[n:]
	var rows []lineRow
	if low > 0 {
		rows = append(rows, end(0, low, disclosure.LowEnd(l.Question.Proper()[low-1])))
	}
	rows = append(rows, answers[low:n-high]...)
	if high > 0 {
		rows = append(rows, end(n-high, n, disclosure.HighEnd(l.Question.Proper()[n-high])))
	}
	for _, net := range nets {
		for _, row := range rows {
			some := 0
			for _, place := range row.answers {
				if slices.Contains(net.answers, place) {
					some++
				}
			}
			if some > 0 && some < len(row.answers) {
				return nil
			}
		}
	}
	l.rows = append(rows, nets...)
	return nil
}
