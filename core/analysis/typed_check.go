package analysis

import (
	"fmt"
	"math"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// Check refuses, as a *SpecError, counts that do not fit together or cannot be.
func (t Typed) Check() error {
	seen := map[Key]bool{}
	for i, q := range t.Questions {
		at := fmt.Sprintf("/counts/questions/%d", i)
		codes, names := map[string]bool{}, map[string]bool{}
		for k, c := range q.Categories {
			if codes[c.Code] {
				return Refused("typed.same_code", at+"/categories", nil)
			}
			if names[c.name()] {
				return Refused(
					"typed.same_name",
					fmt.Sprintf("%s/categories/%d", at, k),
					document.Values{"answer": document.Text(c.name())},
				)
			}
			codes[c.Code], names[c.name()] = true, true
		}
		switch {
		case q.Key == "" || seen[q.Key]:
			return Refused("typed.key", at+"/key", nil)
		case len(q.Categories) > MaxAnswers:
			return Refused("compute."+string(TooManyAnswers), at+"/categories", nil)
		case q.Counts != nil && len(q.Counts) != len(q.Categories):
			return Refused("typed.length", at+"/counts", nil)
		}
		if q.Patterns != nil && (q.Counts != nil || q.Chosen != nil) {
			return Refused("typed.twice", at+"/patterns", nil)
		}
		seen[q.Key] = true
		for _, p := range q.Patterns {
			if err := countsCan([]int64{p.Count}, at+"/patterns"); err != nil {
				return err
			}
			for _, code := range p.Chosen {
				if !codes[code] {
					return Refused("typed.length", at+"/patterns", nil)
				}
			}
		}
		if len(q.Patterns) > MaxAnswers || q.Patterns != nil && len(q.Categories) > survey.MostSetItems-1 {
			return Refused("compute."+string(TooManyAnswers), at+"/patterns", nil)
		}
		if len(q.Summaries) > MaxAnswers {
			return Refused("compute."+string(TooManyAnswers), at+"/summaries", nil)
		}
		for _, list := range [][]int64{q.Counts, q.Chosen, q.ValueCounts} {
			if err := countsCan(list, at+"/counts"); err != nil {
				return err
			}
		}
	}
	for i, x := range t.Crosstabs {
		if err := t.checkCrosstab(x, fmt.Sprintf("/counts/crosstabs/%d", i)); err != nil {
			return err
		}
	}
	return t.withoutTotals()
}

func (t Typed) checkCrosstab(x TypedCrosstab, at string) error {
	size := map[Key]int{"": 1}
	for _, q := range t.Questions {
		size[q.Key] = len(q.Categories)
	}
	if x.Rows == "" || x.Columns == "" {
		return Refused("typed.key", at, nil)
	}
	for _, key := range []Key{x.Rows, x.Columns, x.Layers} {
		if _, known := size[key]; !known {
			return Refused("typed.key", at, nil)
		}
	}
	if size[x.Rows]*size[x.Columns]*size[x.Layers] > MaxCells {
		return Refused("compute."+string(TooManyCells), at+"/counts", nil)
	}
	fits := len(x.Counts) == size[x.Layers]
	for _, table := range x.Counts {
		fits = fits && len(table) == size[x.Rows]
		for _, row := range table {
			fits = fits && len(row) == size[x.Columns]
			if err := countsCan(row, at+"/counts"); err != nil {
				return err
			}
		}
	}
	if !fits {
		return Refused("typed.length", at+"/counts", nil)
	}
	return nil
}

func countsCan(counts []int64, at string) error {
	sum := int64(0)
	for _, n := range counts {
		switch {
		case n < 0:
			return Refused("compute."+string(infer.NegativeCount), at, nil)
		case n > infer.MaxCount || sum > math.MaxInt64-n:
			return Refused("compute."+string(infer.CountTooLarge), at, nil)
		}
		sum += n
	}
	return nil
}
