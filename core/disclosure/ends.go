package disclosure

import (
	"slices"

	"widetally/core/survey"
	"widetally/core/tally"
)

// Ends is how many of the lowest and of the highest values are told together, each 0 or 2 at least: as many as it takes
// for a count that may be told, where the rarest alone may not (top and bottom coding). It is nothing where the two
// would meet.
func (r Rule) Ends(counts []int64) (low, high int) {
	if !r.CodeEnds || r.Fewest <= 1 {
		return 0, 0
	}
	end := func(at func(i int) int64) int {
		n, rare := int64(0), false
		for i := range counts {
			rare = rare || at(i) > 0 && at(i) < r.Fewest
			if n += at(i); n >= r.Fewest {
				if !rare || i == 0 {
					return 0
				}
				return i + 1
			}
		}
		return 0
	}
	low = end(func(i int) int64 { return counts[i] })
	high = end(func(i int) int64 { return counts[len(counts)-1-i] })
	if low+high > len(counts) {
		return 0, 0
	}
	return low, high
}

// Numbered reports whether the answers of a question are numbers in rising order, whose ends can be told together.
func Numbered(q survey.Question) bool {
	if q.Kind != survey.Discrete {
		return false
	}
	values, proper := q.Values(), q.Proper()
	return !slices.ContainsFunc(proper, func(a survey.Answer) bool { _, is := values[a.Slot]; return !is }) &&
		slices.IsSortedFunc(proper, func(a, b survey.Answer) int {
			if values[a.Slot] < values[b.Slot] {
				return -1
			}
			return 1
		})
}

// LowEnd and HighEnd are what values up to one, and from one on, are called.
func LowEnd(a survey.Answer) string  { return "≤\u00a0" + a.Code }
func HighEnd(a survey.Answer) string { return "≥\u00a0" + a.Code }

// CodedEnds is the frequency table of a number with its rare ends told together, and the question as its rows are
// called then; of everything else, what was given.
func CodedEnds(q survey.Question, f *tally.Frequency, r Rule) (survey.Question, *tally.Frequency) {
	if !r.CodeEnds || !Numbered(q) {
		return q, f
	}
	counts := make([]int64, len(f.Rows))
	for i, row := range f.Rows {
		counts[i] = row.Count
	}
	low, high := r.Ends(counts)
	if low+high == 0 {
		return q, f
	}
	q.Answers = slices.Clone(q.Answers)
	out := *f
	out.Rows = nil
	n := len(f.Rows)
	together := func(rows []tally.Row, named tally.Row, call func(survey.Answer) string) {
		sum := rows[len(rows)-1] // its running sums
		sum.Slot, sum.Count = named.Slot, 0
		sum.PercentOfAnswered, sum.PercentOfEveryone = nil, nil
		for _, row := range rows {
			sum.Count += row.Count
		}
		if f.Answered > 0 {
			sum.PercentOfAnswered = new(100 * float64(sum.Count) / float64(f.Answered))
		}
		if f.Everyone > 0 {
			sum.PercentOfEveryone = new(100 * float64(sum.Count) / float64(f.Everyone))
		}
		out.Rows = append(out.Rows, sum)
		at := slices.IndexFunc(q.Answers, func(a survey.Answer) bool { return a.Slot == named.Slot })
		q.Answers[at].Label = call(q.Answers[at])
	}
	if low > 0 {
		together(f.Rows[:low], f.Rows[low-1], LowEnd)
	}
	out.Rows = append(out.Rows, f.Rows[low:n-high]...)
	if high > 0 {
		together(f.Rows[n-high:], f.Rows[n-high], HighEnd)
	}
	return q, &out
}
