// Package tally turns columns of answers into tables: frequencies with their
// bases, and summaries of numbers.
package tally

import (
	"fmt"
	"math"

	"widetally/core/survey"
)

// Row is one answer of a frequency table. The percents are 0–100 at full
// precision, nil when their base is 0.
type Row struct {
	Slot              survey.Slot
	Count             int64
	PercentOfAnswered *float64 // nil for missing answers too
	PercentOfEveryone *float64
}

// Frequency is the frequency table of one question.
type Frequency struct {
	Everyone int64 // all respondents
	Answered int64 // those with a proper answer
	Missing  int64 // Everyone − Answered
	// Rows holds the proper answers in the question's order, also those that
	// nobody chose; MissingRows the missing ones that occur, in the same order.
	Rows        []Row
	MissingRows []Row
}

// Tabulate counts a question's column. Each of the question's answers gets its
// row, a spelling counted under another answer excepted; answers with a missing
// reason are told apart. For a continuous number or
// text only the missing rows are listed, since proper answers have no slots.
func Tabulate(q survey.Question, c survey.Column) (*Frequency, error) {
	slots := 1
	for _, a := range q.Answers {
		slots = max(slots, int(a.Slot)+1)
	}
	counts, err := c.Count(slots)
	if err != nil {
		return nil, fmt.Errorf("tabulate %q: %w", q.Name, err)
	}
	for _, a := range q.Answers {
		if a.SameAs != nil {
			counts[*a.SameAs] += counts[a.Slot]
		}
	}
	f := &Frequency{Everyone: int64(c.Rows())}
	f.Answered = f.Everyone
	for _, a := range q.Answers {
		if a.Missing != "" && a.SameAs == nil {
			f.Answered -= counts[a.Slot]
		}
	}
	f.Missing = f.Everyone - f.Answered
	for _, a := range q.Answers {
		if a.SameAs != nil {
			continue
		}
		row := Row{Slot: a.Slot, Count: counts[a.Slot], PercentOfEveryone: percent(counts[a.Slot], f.Everyone)}
		switch {
		case a.Missing != "" && row.Count > 0:
			f.MissingRows = append(f.MissingRows, row)
		case a.Missing == "" && q.Kind.Tabulated():
			row.PercentOfAnswered = percent(row.Count, f.Answered)
			f.Rows = append(f.Rows, row)
		}
	}
	return f, nil
}

func percent(count, base int64) *float64 {
	if base == 0 {
		return nil
	}
	p := 100 * float64(count) / float64(base)
	return &p
}

// RoundedSum returns what a column of percents adds to when each is shown with
// that many decimals, half away from zero. A reader who adds the printed column
// gets this figure; where it is not 100 the page says that rounding did it.
func RoundedSum(percents []float64, decimals int) float64 {
	scale := math.Pow(10, float64(decimals))
	sum := 0.0
	for _, p := range percents {
		sum += math.Round(p * scale)
	}
	return sum / scale
}
