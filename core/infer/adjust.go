// Package infer holds the tests: values in, complete results out. Every result
// carries its inputs as used, its intermediate table, the names of its
// conventions and the counted conditions, so that it can be checked by hand.
package infer

import (
	"sort"

	"widetally/core/prob"
)

// Holm returns the p-values adjusted for looking at all of them at once, in the
// order given: with p sorted upwards, adjusted p(i) = max over j ≤ i of
// min(1, (m−j+1)·p(j)). It controls the chance of any false alarm at whatever
// level it is compared with, under any dependence (Holm 1979, A simple
// sequentially rejective multiple test procedure).
func Holm(p []prob.Prob) []prob.Prob {
	order := make([]int, len(p))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return p[order[a]].Less(p[order[b]]) })
	adjusted := make([]prob.Prob, len(p))
	var running prob.Prob
	for rank, i := range order {
		q := p[i].Times(float64(len(p) - rank))
		if rank == 0 || running.Less(q) {
			running = q
		}
		adjusted[i] = running
	}
	return adjusted
}
