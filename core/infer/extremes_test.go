package infer

import (
	"context"
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

// exactX2 is Σ (O − E)²/E in fractions.
func exactX2(observed []int64, shares []*big.Rat) float64 {
	n := new(big.Rat)
	for _, o := range observed {
		n.Add(n, new(big.Rat).SetInt64(o))
	}
	sum := new(big.Rat)
	for i, o := range observed {
		e := new(big.Rat).Mul(n, shares[i])
		d := new(big.Rat).Sub(new(big.Rat).SetInt64(o), e)
		sum.Add(sum, d.Mul(d, d).Quo(d, e))
	}
	f, _ := sum.Float64()
	return f
}

// Counts to 10¹², a thousand answers, tables of 100 × 100: every figure is there and right
// against fractions, and the ends of the intervals are ordered.
// 2 arcsin √p is π/2 + arcsin(2p − 1), so against one half Cohen's h is arcsin(2p − 1) itself; the
// difference of two angles that are nearly the same keeps its digits.
func TestCohensHKeepsItsDigits(t *testing.T) {
	for _, more := range []int64{1, 1000, 400_000_000, 500_000_000} {
		const n = 1_000_000_000
		r, err := ComputeProportion(ProportionInput{Successes: n/2 + more, N: n, Claimed: 0.5, Confidence: 0.95})
		require.NoError(t, err)
		assert.InEpsilon(t, math.Asin(2*float64(more)/n), *r.CohensH.Value, 1e-12)
	}
	r, err := ComputeTwoProportions(TwoProportionsInput{Successes1: 500_000_001, N1: 1_000_000_000, Successes2: 1, N2: 2, Confidence: 0.95})
	require.NoError(t, err)
	assert.InEpsilon(t, 2e-9, *r.CohensH.Value, 1e-12)
}

// No association is none, whatever rounding leaves of it; the least there can be is some.
func TestNoTrendIsNone(t *testing.T) {
	o, err := ComputeOrdered(OrderedInput{Table: [][]int64{{7, 3, 7}, {11, 4, 11}, {2, 9, 2}}, Level: 0.05})
	require.NoError(t, err)
	assert.Zero(t, o.Trend.Correlation)
	o, err = ComputeOrdered(OrderedInput{Table: [][]int64{{700_000_000, 3, 700_000_001}, {11, 4, 11}, {2, 9, 2}}, Level: 0.05})
	require.NoError(t, err)
	assert.NotZero(t, o.Trend.Correlation)
}

func TestExtremes(t *testing.T) {
	const trillion = 1_000_000_000_000
	for name, c := range map[string]struct {
		observed []int64
		shares   []*big.Rat
	}{
		"nearly equal, trillions": {[]int64{trillion, trillion + 1_234_567, trillion - 1_234_567}, workedcases.Ratios(1, 1, 1)},
		"far apart, trillions":    {[]int64{trillion, 7, 3}, workedcases.Ratios(1, 1, 1)},
		"a share of a trillionth": {[]int64{trillion, 3}, workedcases.Ratios(trillion-1, 1)},
	} {
		r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: c.observed, Shares: c.shares, Level: 0.05})
		require.NoError(t, err, name)
		assert.InEpsilon(t, exactX2(c.observed, c.shares), r.Statistic, 1e-13, name)
		for _, e := range r.Effects {
			assert.True(t, e.Interval.Lower <= *e.Value && *e.Value <= e.Interval.Upper*(1+1e-9), "%s %s %v", name, e.Name, *e.Interval)
		}
		for _, row := range r.Rows {
			one, err := ComputeProportion(ProportionInput{row.Observed, r.N, row.Share, 0.95})
			require.NoError(t, err)
			assert.True(t, one.Intervals.ClopperPearson.Lower <= one.Estimate && one.Estimate <= one.Intervals.ClopperPearson.Upper, name)
		}
	}
	thousand, parts := make([]int64, 1000), make([]int64, 1000)
	for i := range thousand {
		thousand[i], parts[i] = int64(40+i%7), int64(1+i%3)
	}
	r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: thousand, Shares: workedcases.Ratios(parts...), Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, 999, r.DF)
	assert.InEpsilon(t, exactX2(thousand, workedcases.Ratios(parts...)), r.Statistic, 1e-12)
	hundred := make([][]int64, 100)
	for i := range hundred {
		for j := range 100 {
			hundred[i] = append(hundred[i], int64((i*j)%11))
		}
	}
	table, err := ComputeIndependence(hundred, 0.05)
	require.NoError(t, err)
	// i·j is a multiple of 11 throughout the rows and columns 0, 11, 22, … 99: ten each.
	assert.Equal(t, 89*89, table.DF)
	assert.Len(t, table.RowsUsed, 90)
	assert.Less(t, math.Abs(table.P.Log10), 1e4)
}

// The chance that all counts stay within ±c is there for every c, also where counts are
// large and unlike; near 1 for wide ones where the expansion holds, and γ is a part of 1.
func TestSisonGlazOfUnlikeCounts(t *testing.T) {
	for _, c := range []struct {
		counts []int64
		close  float64
	}{{[]int64{8192, 0, 819_200, 2_088_960}, 0.005}, {[]int64{300, 200, 100}, 0.005}, {[]int64{3, 0, 1}, 0.02}, {[]int64{50_000, 20}, 0.15}} {
		n := int64(0)
		for _, o := range c.counts {
			n += o
		}
		for wide := int64(0); wide <= n; wide = 2*wide + 1 {
			assert.Greater(t, chanceWithin(c.counts, n, wide), 0.0, "%v ±%d", c.counts, wide)
		}
		assert.InDelta(t, 1, chanceWithin(c.counts, n, n), c.close, "%v", c.counts)
		for _, confidence := range []float64{0.5, 0.95, 0.999} {
			r, err := ComputeSimultaneous(c.counts, confidence)
			require.NoError(t, err)
			if r.SisonGlaz != nil {
				assert.True(t, r.SisonGlaz.Gamma >= 0 && r.SisonGlaz.Gamma <= 1, "%+v", r.SisonGlaz)
			}
		}
	}
}

// p at its ends: a perfect fit has p = 1 everywhere; all in one answer with a share below
// a double's range gives a logarithm.
func TestPAtItsEnds(t *testing.T) {
	fit, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: []int64{30, 60}, Shares: workedcases.Ratios(1, 2), Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, prob.Prob{Value: 1}, fit.P)
	assert.Nil(t, fit.Effects[0].Interval)
	e, err := ComputeExactGoodnessOfFit(context.Background(), GoodnessOfFitInput{Observed: []int64{30, 60}, Shares: workedcases.Ratios(1, 2), Level: 0.05}, ExactOptions{})
	require.NoError(t, err)
	assert.InDelta(t, 1, e.Exact.P.Value, 1e-14)
	far, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: []int64{1_000_000, 0}, Shares: workedcases.Ratios(1, 1), Level: 0.05})
	require.NoError(t, err)
	assert.Zero(t, far.P.Value)
	// √(2/(π·10⁶))·e^(−500000), the leading term of the normal tail, times 1 − 10⁻⁶.
	assert.InEpsilon(t, (math.Log(2/(math.Pi*1e6))/2-500_000-1e-6)/math.Ln10, far.P.Log10, 1e-12)
	one, err := ComputeExactGoodnessOfFit(context.Background(), GoodnessOfFitInput{Observed: []int64{20, 0}, Shares: workedcases.Ratios(1, 1), Level: 0.05}, ExactOptions{Way: ExactOnly})
	require.NoError(t, err)
	assert.InEpsilon(t, math.Ldexp(1, -19), one.Exact.P.Value, 1e-14, "two outcomes of 2⁻²⁰")
	assert.True(t, one.Settled && *one.Reject)
}

func TestExactThroughInfer(t *testing.T) {
	compared := 0
	for _, c := range workedcases.Load(t, "gof") {
		if c.Expect["exact_p_value"] == nil {
			continue
		}
		in := GoodnessOfFitInput{Observed: workedcases.In[[]int64](t, c, "observed"), Shares: workedcases.Shares(t, c, "shares"), Level: 0.05}
		e, err := ComputeExactGoodnessOfFit(context.Background(), in, ExactOptions{})
		require.NoError(t, err)
		if c.NearProb(t, "exact_p_value", e.Exact.P.Value, e.Exact.P.Log10) {
			compared++
		}
		s, err := ComputeExactGoodnessOfFit(context.Background(), in, ExactOptions{Way: SimulatedOnly, Replicates: 40_000, Seed: 7})
		require.NoError(t, err)
		simulated := s.Simulated.ByProbability
		assert.True(t, simulated.Lower <= e.Exact.P.Value && e.Exact.P.Value <= simulated.Upper, "the interval holds the exact p")
		again, err := ComputeExactGoodnessOfFit(context.Background(), in, ExactOptions{Way: SimulatedOnly, Replicates: 40_000, Seed: 7})
		require.NoError(t, err)
		assert.Equal(t, s, again, "the same seed, the same draws")
	}
	assert.Positive(t, compared)
	tiny, err := ComputeExactIndependence(context.Background(), [][]int64{{90, 80, 70}, {60, 50, 90}, {40, 95, 85}}, 0.05, ExactOptions{Way: ExactOnly, Work: 1000})
	require.NoError(t, err)
	assert.True(t, tiny.BeyondReach && tiny.Reject == nil && tiny.Exact == nil && tiny.Simulated == nil)
	_, err = ComputeExactGoodnessOfFit(context.Background(), GoodnessOfFitInput{Observed: []int64{1, 2}, Shares: workedcases.Ratios(1, 1), Level: 0.05, Estimated: 1}, ExactOptions{})
	assert.Error(t, err, "the exact test takes shares as known")
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = ComputeExactIndependence(gone, [][]int64{{90, 80, 70}, {60, 50, 90}, {40, 95, 85}}, 0.05, ExactOptions{})
	assert.ErrorIs(t, err, context.Canceled)
}
