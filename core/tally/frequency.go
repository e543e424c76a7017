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
	// Cumulative counts this answer and those before it, of answers that have an order; nil
	// for others and for missing answers. CumulativePercent is of those who answered.
	Cumulative        *int64
	CumulativePercent *float64
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

// Tabulate counts a question's column and reads it as FrequencyOf does.
func Tabulate(q survey.Question, c survey.Column, of survey.Sample) (*Frequency, error) {
	counts, err := survey.CountAnswers(q, c, of)
	if err != nil {
		return nil, fmt.Errorf("tabulate: %w", err)
	}
	return frequencyOf(q, counts), nil
}

// FrequencyOf makes the frequency table of a question from a distribution of its column. Each
// of the question's answers gets its row, a spelling counted under another answer excepted;
// answers with a missing reason are told apart. In a choose-all question a respondent counts
// in the row of each chosen answer, so the percents need not add to 100. For a number or text
// only the missing rows are listed, since proper answers have no slots.
func FrequencyOf(q survey.Question, d *survey.Distribution) *Frequency {
	return frequencyOf(q, q.Counts(d))
}

// FromCounts makes the frequency table of a question of which only counts are known, one for
// each of its answers in their order. chosen is, for a choose-all question, how many
// respondents chose 0, 1, 2 … answers; nil elsewhere.
func FromCounts(q survey.Question, counts, chosen []int64) *Frequency {
	c := &survey.Counts{BySlot: make([]int64, q.Slots())}
	for i, a := range q.Answers {
		c.BySlot[a.Slot] = counts[i]
		if a.Missing != "" {
			c.Missing += counts[i]
		}
		if chosen == nil || a.Missing != "" {
			c.Everyone += counts[i]
		}
	}
	for _, n := range chosen {
		c.Everyone += n
	}
	return frequencyOf(q, c)
}

func frequencyOf(q survey.Question, counts *survey.Counts) *Frequency {
	f := &Frequency{Everyone: counts.Everyone, Missing: counts.Missing, Answered: counts.Everyone - counts.Missing}
	so := int64(0)
	for _, a := range q.Answers {
		if a.SameAs != nil {
			continue
		}
		row := Row{Slot: a.Slot, Count: counts.BySlot[a.Slot], PercentOfEveryone: percent(counts.BySlot[a.Slot], f.Everyone)}
		switch {
		case a.Missing != "" && row.Count > 0:
			f.MissingRows = append(f.MissingRows, row)
		case a.Missing == "" && q.Kind.Tabulated():
			row.PercentOfAnswered = percent(row.Count, f.Answered)
			if so += row.Count; q.Kind.Ranked() {
				running := so
				row.Cumulative, row.CumulativePercent = &running, percent(so, f.Answered)
			}
			f.Rows = append(f.Rows, row)
		}
	}
	return f
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
