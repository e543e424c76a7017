package inspect

import (
	"math"
	"regexp"
	"strings"

	"widetally/core/survey"
)

var shareName = regexp.MustCompile(`(?i)%|percent|per cent|\bpct\b|\bshares?\b|proportion`)

// mostAlike is how many answers are given equally often at most, where counts are looked for.
const mostAlike = 4

// mostPublished is how many shares a published list has at most.
const mostPublished = 60

// shares looks for percents in the place of answers: those of a published list, a row each, or
// those that a table prints beside its counts.
func (r *Report) shares(q survey.Question, numbers []survey.Value, counts []int64) {
	named := shareName.MatchString(q.Name)
	if q.Kind.Coded() {
		values := q.Values()
		for _, a := range q.Answers {
			if x, is := values[a.Slot]; is && a.Proper() && counts[a.Slot] > 0 {
				numbers, named = append(
					numbers,
					survey.Value{Number: x, Times: counts[a.Slot]},
				), named ||
					strings.Contains(a.Code, "%")
			}
		}
	}
	if len(numbers) < 2 || r.Missing > 0 {
		return
	}
	sum, rows := 0.0, int64(0)
	for _, v := range numbers {
		if v.Number <= 0 || v.Number > 100 {
			return
		}
		sum, rows = sum+v.Number*float64(v.Times), rows+v.Times
	}
	if rows != r.Answered {
		return // there are words, too
	}
	for _, whole := range []float64{1, 100} {
		if named && rows <= mostPublished && math.Abs(sum-whole) <= 0.006*whole {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksShares})
			return
		}
		beside := true
		for _, v := range numbers {
			// Answers that were given equally often have the same percent.
			is := whole * float64(v.Times) / float64(rows)
			alike := math.Max(1, math.Round(is/v.Number))
			beside = beside && alike <= mostAlike && math.Abs(is-alike*v.Number) <= alike*rounding(v.Number, whole)
		}
		if beside {
			r.Suspicions = append(r.Suspicions, Suspicion{Kind: LooksPercents})
			return
		}
	}
}

// rounding is how far a printed share may lie from its figure: half of its last place, and
// percents have at least none, shares two.
func rounding(x, whole float64) float64 {
	place := whole / 100
	for place > 1e-6 && math.Abs(x/place-math.Round(x/place)) > 1e-9 {
		place /= 10
	}
	return 0.5*place + 1e-9
}
