package infer

import (
	"math"

	"widetally/core/prob"
)

// ratio is a measure of a table as numerator/denominator, with the derivatives of both
// by each cell's count. Both are homogeneous of the same degree in the counts.
type ratio struct {
	above, below   float64
	dAbove, dBelow func(i, j int) float64
}

// standardError is that of the ratio when the cells are multinomial: √(Σ n_ij g_ij²) with
// g the derivative by the count, whose mean is 0 because multiplying all counts changes
// nothing (delta method; Goodman and Kruskal 1963, Measures of association for cross
// classifications III).
func (r ratio) standardError(counts [][]int64) float64 {
	value := r.above / r.below
	sum := 0.0
	for i, row := range counts {
		for j, o := range row {
			if o > 0 {
				g := (r.dAbove(i, j) - value*r.dBelow(i, j)) / r.below
				sum += float64(o) * g * g
			}
		}
	}
	return math.Sqrt(sum)
}

// effect gives the measure with its interval estimate ± z·SE, cut to lowest … 1. An
// estimate at an end of its range has no standard error that means anything.
func (r ratio) effect(name EffectName, counts [][]int64, confidence, lowest float64) Effect {
	if !(math.Abs(r.below) > 0) {
		return absent(name, NoVariation)
	}
	value := math.Min(1, math.Max(lowest, r.above/r.below)) // rounding may pass an end
	e := present(name, value)
	se := r.standardError(counts)
	if value >= 1 || value <= lowest || !(se > 0) {
		e.Why = AtTheEdge
		return e
	}
	z := prob.NormalUpperQuantile((1 - confidence) / 2)
	return e.with(&Interval{math.Max(lowest, value-z*se), math.Min(1, value+z*se)}, DeltaInterval)
}

// margins adds a table up.
func margins(counts [][]int64) (rows, columns []float64, n float64) {
	rows, columns = make([]float64, len(counts)), make([]float64, len(counts[0]))
	for i, row := range counts {
		for j, o := range row {
			rows[i], columns[j], n = rows[i]+float64(o), columns[j]+float64(o), n+float64(o)
		}
	}
	return
}
