// Package infer holds the tests: values in, complete results out. Every result
// carries its inputs as used, its intermediate table, the names of its
// conventions and the counted conditions, so that it can be checked by hand.
package infer

import (
	"sort"

	"widetally/core/prob"
)

// Adjusted holds p-values adjusted for looking at all of them at once, each in the order
// given.
type Adjusted struct {
	P []prob.Prob
	// Bonferroni is min(1, m·p).
	Bonferroni []prob.Prob
	Holm       []prob.Prob
	// BenjaminiHochberg controls the expected share of false findings among all
	// findings rather than the chance of any.
	BenjaminiHochberg []prob.Prob
}

// MaxClaims bounds the p-values adjusted together.
const MaxClaims = 100_000

// Adjust gives the adjustments for many claims. Errors are *InputError: none, too many,
// or a p outside [0, 1].
func Adjust(p []prob.Prob) (*Adjusted, error) {
	switch {
	case len(p) == 0:
		return nil, &InputError{"adjustment", Empty, -1}
	case len(p) > MaxClaims:
		return nil, &InputError{"adjustment", TooMany, -1}
	}
	r := &Adjusted{P: p, Holm: Holm(p), BenjaminiHochberg: BenjaminiHochberg(p)}
	for i, q := range p {
		if !(q.Value >= 0 && q.Value <= 1) {
			return nil, &InputError{"adjustment", ProbabilityRange, i}
		}
		r.Bonferroni = append(r.Bonferroni, q.Times(float64(len(p))))
	}
	return r, nil
}

// Holm returns the p-values adjusted for looking at all of them at once, in the
// order given: with p sorted upwards, adjusted p(i) = max over j ≤ i of
// min(1, (m−j+1)·p(j)). It controls the chance of any false alarm at whatever
// level it is compared with, under any dependence (Holm 1979, A simple
// sequentially rejective multiple test procedure).
func Holm(p []prob.Prob) []prob.Prob {
	adjusted := make([]prob.Prob, len(p))
	var running prob.Prob
	for rank, i := range rising(p) {
		q := p[i].Times(float64(len(p) - rank))
		if rank == 0 || running.Less(q) {
			running = q
		}
		adjusted[i] = running
	}
	return adjusted
}

// BenjaminiHochberg returns min over j ≥ i of min(1, m·p(j)/j) with p sorted upwards. It
// controls the expected share of false findings for independent or positively dependent
// p-values (Benjamini and Hochberg 1995, Controlling the false discovery rate).
func BenjaminiHochberg(p []prob.Prob) []prob.Prob {
	adjusted := make([]prob.Prob, len(p))
	order := rising(p)
	var running prob.Prob
	for rank := len(order) - 1; rank >= 0; rank-- {
		i := order[rank]
		q := p[i].Times(float64(len(p)) / float64(rank+1))
		if rank == len(order)-1 || q.Less(running) {
			running = q
		}
		adjusted[i] = running
	}
	return adjusted
}

// rising gives positions by rising p.
func rising(p []prob.Prob) []int {
	order := make([]int, len(p))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return p[order[a]].Less(p[order[b]]) })
	return order
}
