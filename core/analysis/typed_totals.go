package analysis

import (
	"fmt"

	"widetally/core/document"
	"widetally/core/survey"
)

// withoutTotals refuses counts among which a category is called a total and is the sum of the
// others: it would count everybody twice.
func (t Typed) withoutTotals() error {
	for i, q := range t.Questions {
		if q.Counts == nil {
			continue
		}
		if k := totalAmong(q.Categories, func(k int) []int64 { return q.Counts[k : k+1] }); k >= 0 {
			return holdsTotal(q, i, k)
		}
	}
	for _, x := range t.Crosstabs {
		for i, q := range t.Questions {
			if k := totalAmong(q.Categories, x.along(q.Key)); k >= 0 {
				return holdsTotal(q, i, k)
			}
		}
	}
	return nil
}

func holdsTotal(q TypedQuestion, at, k int) error {
	return refused("typed.total", fmt.Sprintf("/counts/questions/%d/categories/%d", at, k), document.Values{"answer": document.Text(q.Categories[k].name())})
}

// totalAmong finds a category that is called a total and whose counts are, each of them, the sums
// of those of the other categories, or of the proper ones; -1 where there is none.
func totalAmong(categories []TypedCategory, counts func(k int) []int64) int {
	for k, c := range categories {
		said := []int64(nil)
		if survey.IsTotalName(c.name()) {
			said = counts(k)
		}
		all, proper, someone := len(said) > 0, len(said) > 0, false
		for i, n := range said {
			var sumAll, sumProper int64
			for other, o := range categories {
				if other == k {
					continue
				}
				sumAll += counts(other)[i]
				if o.Missing == "" {
					sumProper += counts(other)[i]
				}
			}
			all, proper, someone = all && n == sumAll, proper && n == sumProper, someone || n > 0
		}
		if (all || proper) && someone {
			return k
		}
	}
	return -1
}

// along gives the cells of a crosstab that belong to a category of one of its questions, always
// in the same order; none for another question.
func (x TypedCrosstab) along(q Key) func(k int) []int64 {
	return func(k int) (out []int64) {
		for l, table := range x.Counts {
			for r, row := range table {
				for c, n := range row {
					if q == x.Rows && r == k || q == x.Columns && c == k || q == x.Layers && l == k {
						out = append(out, n)
					}
				}
			}
		}
		return out
	}
}
