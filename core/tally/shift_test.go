package tally_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/tally"
)

// Numbers far from 0 spread as those near it: what is computed of differences loses no digit to
// where they lie, and a change of unit changes nothing but the unit.
func TestNumbersShiftedAndScaled(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(3, 9))
	for range 40 {
		n := 2 + rng.IntN(40)
		near := tally.NumbersInput{Percents: []float64{10, 25, 50, 75, 90}, Confidence: 0.95}
		shifted, scaled := near, near
		shift, scale := math.Exp2(float64(20+rng.IntN(20))), math.Exp2(float64(rng.IntN(60)-30))
		for range n {
			x := float64(rng.IntN(2001)-1000) / 8
			near.Values = append(near.Values, x)
			shifted.Values = append(shifted.Values, x+shift)
			scaled.Values = append(scaled.Values, x*scale)
			near.Counts = append(near.Counts, 1+rng.Int64N(1000))
		}
		shifted.Counts, scaled.Counts = near.Counts, near.Counts
		a, err := tally.SummariseNumbers(near)
		require.NoError(t, err)
		b, err := tally.SummariseNumbers(shifted)
		require.NoError(t, err)
		c, err := tally.SummariseNumbers(scaled)
		require.NoError(t, err)
		same := func(want, got float64, what string) {
			assert.InDelta(t, want, got, 1e-12*math.Max(math.Abs(want), 1e-3), "%s, shifted by %v, scaled by %v", what, shift, scale)
		}
		same(*a.SD, *b.SD, "sd shifted")
		same(*a.Variance, *b.Variance, "variance shifted")
		same(a.Range, b.Range, "range shifted")
		assert.Equal(t, a.Median+shift, b.Median)
		last := math.Nextafter(shift, 2*shift) - shift // what is rounded once, where it lies
		assert.InDelta(t, a.Mean+shift, b.Mean, 2*last)
		assert.InDelta(t, a.MeanInterval.Lower+shift, b.MeanInterval.Lower, 2*last)
		assert.InDelta(t, a.MeanInterval.Upper+shift, b.MeanInterval.Upper, 2*last)
		same(*a.SD*scale, *c.SD, "sd scaled")
		same(a.Mean*scale, c.Mean, "mean scaled")
		for i := range a.Percents {
			assert.InDelta(t, a.PercentilesAtNMinus1[i]+shift, b.PercentilesAtNMinus1[i], 2*last)
			same(a.PercentilesAtNPlus1[i]*scale, c.PercentilesAtNPlus1[i], "percentile scaled")
		}
	}
}
