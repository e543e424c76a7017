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
		var counts [][]int64
		for _, n := range q.Counts {
			counts = append(counts, []int64{n})
		}
		if k := totalAmong(q.Categories, counts); k >= 0 {
			return holdsTotal(q, i, k)
		}
	}
	for _, x := range t.Crosstabs {
		for i, q := range t.Questions {
			if k := totalAmong(q.Categories, x.along(q)); k >= 0 {
				return holdsTotal(q, i, k)
			}
		}
	}
	return nil
}

func holdsTotal(q TypedQuestion, at, k int) error {
	return Refused(
		"typed.total",
		fmt.Sprintf("/counts/questions/%d/categories/%d", at, k),
		document.Values{"answer": document.Text(q.Categories[k].name())},
	)
}

// totalAmong finds a category that is called a total and whose counts are, each of them, the sums
// of those of the other categories, or of the proper ones; -1 where there is none.
func totalAmong(categories []TypedCategory, counts [][]int64) int {
	if len(counts) == 0 || len(counts[0]) == 0 {
		return -1
	}
	all, proper := make([]int64, len(counts[0])), make([]int64, len(counts[0]))
	for k, c := range categories {
		for i, n := range counts[k] {
			if all[i] += n; c.Missing == "" {
				proper[i] += n
			}
		}
	}
	for k, c := range categories {
		if !survey.IsTotalName(c.name()) {
			continue
		}
		ofAll, ofProper, someone := true, c.Missing == "", false
		for i, n := range counts[k] {
			ofAll, ofProper, someone = ofAll && n == all[i]-n, ofProper && n == proper[i]-n, someone || n > 0
		}
		if (ofAll || ofProper) && someone {
			return k
		}
	}
	return -1
}

// along gives the cells of a crosstab that belong to each category of one of its questions, always
// in the same order; nothing for another question.
func (x TypedCrosstab) along(q TypedQuestion) [][]int64 {
	if q.Key != x.Rows && q.Key != x.Columns && q.Key != x.Layers {
		return nil
	}
	out := make([][]int64, len(q.Categories))
	for l, table := range x.Counts {
		for r, row := range table {
			for c, n := range row {
				k := l
				switch q.Key {
				case x.Rows:
					k = r
				case x.Columns:
					k = c
				}
				out[k] = append(out[k], n)
			}
		}
	}
	return out
}
