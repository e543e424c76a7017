package httpapi

import (
	"slices"

	"widetally/core/survey"
)

// A list of more answers than this is shown by its largest.
const (
	mostWhole   = 15
	mostLargest = 10
)

// largestDTO are the largest answers of a long list in its order, and what the others come to.
type largestDTO struct {
	Slots []survey.Slot `json:"slots"`
	// N is how many others there are. Of a set, whose respondents count in several answers, they come
	// to nothing.
	N                 int      `json:"n"`
	Count             *int64   `json:"count"`
	PercentOfAnswered *float64 `json:"percentOfAnswered"`
	PercentOfEveryone *float64 `json:"percentOfEveryone"`
	Estimate          *float64 `json:"estimate"`
}

// largestOf picks them by their estimates, or by their counts where nothing is estimated; of those that
// are level the first stand.
func largestOf(kind survey.Kind, rows []answerRowDTO) *largestDTO {
	if len(rows) <= mostWhole {
		return nil
	}
	size := func(r answerRowDTO) float64 {
		if r.Estimate != nil {
			return r.Estimate.Percent
		}
		return float64(r.Count)
	}
	bySize := slices.Clone(rows)
	slices.SortStableFunc(bySize, func(a, b answerRowDTO) int {
		switch x, y := size(a), size(b); {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	out := &largestDTO{N: len(rows) - mostLargest}
	large := map[survey.Slot]bool{}
	for _, r := range bySize[:mostLargest] {
		large[r.Slot] = true
	}
	for _, r := range rows {
		if large[r.Slot] {
			out.Slots = append(out.Slots, r.Slot)
		}
	}
	if kind == survey.ChooseAll {
		return out
	}
	var count int64
	sums, there := [3]float64{}, [3]bool{true, true, true}
	for _, r := range bySize[mostLargest:] {
		count += r.Count
		var estimate *float64
		if r.Estimate != nil {
			estimate = &r.Estimate.Percent
		}
		for i, x := range []*float64{r.PercentOfAnswered, r.PercentOfEveryone, estimate} {
			if there[i] = there[i] && x != nil; there[i] {
				sums[i] += *x
			}
		}
	}
	out.Count = &count
	for i, to := range []**float64{&out.PercentOfAnswered, &out.PercentOfEveryone, &out.Estimate} {
		if there[i] {
			*to = &sums[i]
		}
	}
	return out
}
