package disclosure

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/survey"
	"widetally/core/tally"
)

// people is a question of numbers from 1 on, so many of each.
func people(counts ...int64) (survey.Question, *tally.Frequency) {
	q := survey.Question{Name: "people", Kind: survey.Discrete, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}
	f := &tally.Frequency{Everyone: 10, Missing: 10}
	for i, n := range counts {
		slot := survey.Slot(i + 1)
		q.Answers = append(q.Answers, survey.Answer{Slot: slot, Code: fmt.Sprint(i + 1), Label: fmt.Sprint(i + 1)})
		f.Answered, f.Everyone = f.Answered+n, f.Everyone+n
		f.Rows = append(f.Rows, tally.Row{Slot: slot, Count: n, Cumulative: new(f.Answered)})
	}
	return q, f
}

// The rare ends of a number are told together, as few values as it takes; the middle stays as it is.
func TestTheEndsOfNumbers(t *testing.T) {
	t.Parallel()
	r := Rule{Fewest: 5, CodeEnds: true}
	for _, k := range []struct {
		what   string
		counts []int64
		want   string
	}{
		{"both ends", []int64{1, 3, 2, 20, 30, 4, 0, 1}, "[≤ 3 6 6] [4 20 26] [5 30 56] [≥ 6 5 61] "},
		{"the top alone", []int64{9, 20, 8, 2, 1, 2}, "[1 9 9] [2 20 29] [3 8 37] [≥ 4 5 42] "},
		{"nothing rare", []int64{9, 20, 8}, "[1 9 9] [2 20 29] [3 8 37] "},
		{"values that nobody gave are not rare", []int64{0, 9, 8, 0}, "[1 0 0] [2 9 9] [3 8 17] [4 0 17] "},
		{"rare in the middle is for suppression", []int64{9, 2, 8}, "[1 9 9] [2 2 11] [3 8 19] "},
		{"ends that would meet", []int64{1, 3, 1, 2}, "[1 1 1] [2 3 4] [3 1 5] [4 2 7] "},
	} {
		q, f := people(k.counts...)
		labels := ""
		named, got := CodedEnds(q, f, r)
		for _, row := range got.Rows {
			a, _ := named.Answer(row.Slot)
			labels += fmt.Sprint([]any{a.Label, row.Count, *row.Cumulative}) + " "
		}
		assert.Equal(t, k.want, strings.ReplaceAll(labels, "\u00a0", " "), k.what)
		assert.Equal(t, k.counts[0], f.Rows[0].Count, "what was given stays")
		for _, row := range got.Rows {
			if row.PercentOfAnswered != nil {
				assert.InDelta(t, 100*float64(row.Count)/float64(f.Answered), *row.PercentOfAnswered, 1e-12, k.what)
				assert.InDelta(t, 100*float64(row.Count)/float64(f.Everyone), *row.PercentOfEveryone, 1e-12, k.what)
			}
		}
	}
	for what, rule := range map[string]Rule{"not asked for": {Fewest: 5}, "no smallest count": {CodeEnds: true}} {
		q, f := people(1, 3, 2, 20)
		_, same := CodedEnds(q, f, rule)
		assert.Same(t, f, same, what)
	}
	q, f := people(1, 3, 2, 20)
	for what, change := range map[string]func(){"words": func() { q.Answers[1].Code = "none" }, "another order": func() { q.Answers[1].Code = "9" }, "codes": func() { q.Kind = survey.Single }} {
		change()
		_, same := CodedEnds(q, f, r)
		assert.Same(t, f, same, what)
	}

	// Of random counts nobody is lost, and no end that is told together is rare.
	random := rand.New(rand.NewPCG(30, 11))
	for range 500 {
		counts := make([]int64, 2+random.IntN(9))
		for i := range counts {
			counts[i] = int64(random.IntN(9))
		}
		q, f := people(counts...)
		_, got := CodedEnds(q, f, r)
		sum := int64(0)
		for _, row := range got.Rows {
			sum += row.Count
		}
		assert.Equal(t, f.Answered, sum, counts)
		if low, high := r.Ends(counts); low+high > 0 {
			for _, row := range []tally.Row{got.Rows[0], got.Rows[len(got.Rows)-1]} {
				assert.True(t, row.PercentOfAnswered == nil || row.Count >= 5, counts)
			}
		}
	}
}
