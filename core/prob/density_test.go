package prob

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A density is the slope of its lower tail, and chances of counts are the steps of theirs.
func TestDensitiesAreTheSlopesOfTheirTails(t *testing.T) {
	t.Parallel()
	const h = 1e-5
	slope := func(lower func(x float64) Prob, x float64) float64 {
		return (lower(x+h).Value - lower(x-h).Value) / (2 * h)
	}
	for _, df := range []float64{1, 3, 7.5, 40, 2e7} {
		for _, x := range []float64{-3, -0.5, 0, 1, 2.5} {
			assert.InDelta(t, slope(func(x float64) Prob { return StudentLower(x, df) }, x), StudentDensity(x, df), 1e-6, "t %v at %v", df, x)
		}
	}
	for _, df := range [][2]float64{{1, 5}, {3, 40}, {10, 2}, {60, 60}} {
		for _, x := range []float64{0.2, 1, 2.5, 6} {
			assert.InDelta(t, slope(func(x float64) Prob { return FLower(x, df[0], df[1]) }, x), FDensity(x, df[0], df[1]), 1e-5, "F %v at %v", df, x)
		}
	}
	assert.Zero(t, FDensity(0, 3, 3))
	for _, n := range []int64{1, 30, 2000} {
		sum := 0.0
		for k := int64(-1); k <= n+1; k++ {
			sum += BinomialChance(k, n, 0.3)
		}
		assert.InDelta(t, 1, sum, 1e-9)
		assert.InDelta(t, BinomialLower(n/3, n, 0.3).Value-BinomialLower(n/3-1, n, 0.3).Value, BinomialChance(n/3, n, 0.3), 1e-12)
	}
	assert.False(t, math.IsNaN(StudentDensity(1e9, 2)))
}
