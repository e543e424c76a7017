package infer

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/prob"
)

// The curve's area up to its end is the lower tail there; it covers the critical value
// and the statistic unless that is too far out to be seen; its top is the drawing's.
func TestChiSquareCurve(t *testing.T) {
	for _, c := range []struct {
		statistic, df float64
		outside       bool
	}{{3.12, 4, false}, {0, 2, false}, {14.8, 3, false}, {900, 3, true}, {5, 1, false}, {40, 30, false}} {
		critical := prob.ChiSquareUpperQuantile(0.05, c.df)
		curve := ChiSquareCurve(c.statistic, critical, c.df)
		last := len(curve.X) - 1
		assert.Equal(t, c.outside, curve.StatisticOutside, "%+v", c)
		assert.Greater(t, curve.X[last], critical)
		area := 0.0
		for i := 1; i <= last; i++ {
			assert.Greater(t, curve.X[i], curve.X[i-1])
			area += (curve.X[i] - curve.X[i-1]) * (curve.Density[i] + curve.Density[i-1]) / 2
			if c.df >= 2 {
				assert.LessOrEqual(t, curve.Density[i], curve.Top)
			}
		}
		if c.df >= 2 { // with 1 degree of freedom the density has no bound at 0
			assert.InDelta(t, prob.ChiSquareLower(curve.X[last], c.df).Value, area, 6e-3, "%+v; straight lines between 160 points", c)
		}
	}
}
