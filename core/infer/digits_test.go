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

func exactly(x float64) *big.Float { return new(big.Float).SetPrec(400).SetFloat64(x) }
func whole(n int64) *big.Float     { return new(big.Float).SetPrec(400).SetInt64(n) }

// Differences that nearly cancel keep their digits: against arithmetic with 120 digits.
func TestDifferencesThatCancel(t *testing.T) {
	twelve := func(name string, want *big.Float, got float64) {
		t.Helper()
		assert.GreaterOrEqual(t, workedcases.Digits(got, want), 12.0, "%s: got %.17g, want %s", name, got, want.Text('g', 20))
	}
	for _, c := range []struct {
		x, n    int64
		claimed float64
	}{{999_989_999_990, 1_000_000_000_000, 0.99999}, {4_999_999_999_001, 10_000_000_000_000, 0.5}, {2, 10, 0.2}, {333_333_334, 1_000_000_000, 1.0 / 3}} {
		r, err := ComputeProportion(ProportionInput{Successes: c.x, N: c.n, Claimed: c.claimed, Confidence: 0.95})
		require.NoError(t, err)
		p := exactly(c.claimed)
		variance := new(big.Float).Mul(new(big.Float).Mul(p, new(big.Float).Sub(exactly(1), p)), whole(c.n))
		want := new(big.Float).Sub(whole(c.x), new(big.Float).Mul(whole(c.n), p))
		twelve("z", want.Quo(want, new(big.Float).Sqrt(variance)), r.Z)
	}
	for _, in := range []TwoProportionsInput{
		{500_000_000, 1_000_000_000, 499_999_000, 1_000_000_000, 0.95}, {999_999_999, 1_000_000_000, 999_999_990, 1_000_000_000, 0.99},
		{3, 1_000_000_000, 0, 999_999_999, 0.95}, {3_333_333_333_333, 10_000_000_000_000, 3_333_333_333_330, 9_999_999_999_999, 0.95}, {7, 12, 9, 11, 0.95},
	} {
		r, err := ComputeTwoProportions(in)
		require.NoError(t, err)
		p1, p2 := new(big.Float).Quo(whole(in.Successes1), whole(in.N1)), new(big.Float).Quo(whole(in.Successes2), whole(in.N2))
		difference := new(big.Float).Sub(p1, p2)
		twelve("difference", difference, r.Difference)
		z := exactly(prob.NormalUpperQuantile((1 - in.Confidence) / 2))
		l1, u1 := wilsonExactly(in.Successes1, in.N1, z)
		l2, u2 := wilsonExactly(in.Successes2, in.N2, z)
		hypot := func(a, b, c, d *big.Float) *big.Float {
			x, y := new(big.Float).Sub(a, b), new(big.Float).Sub(c, d)
			return new(big.Float).Sqrt(new(big.Float).Add(x.Mul(x, x), y.Mul(y, y)))
		}
		below, above := hypot(p1, l1, u2, p2), hypot(u1, p1, p2, l2)
		// What the ends keep is measured against how far they lie from the difference.
		d, _ := difference.Float64()
		for name, c := range map[string]struct {
			want *big.Float
			got  float64
		}{"below": {below, d - r.Newcombe.Lower}, "above": {above, r.Newcombe.Upper - d}} {
			want, _ := c.want.Float64()
			assert.InDelta(t, want, c.got, 1e-12*want+2e-16*math.Abs(d), "%s, %+v", name, in)
		}
		for _, g := range [][2]int64{{in.Successes1, in.N1}, {in.Successes2, in.N2}} {
			lower, upper := wilsonExactly(g[0], g[1], z)
			zf, _ := z.Float64()
			w := Wilson(g[0], g[1], zf)
			if g[0] > 0 {
				twelve("Wilson lower", lower, w.Lower)
			}
			twelve("Wilson upper", upper, w.Upper)
		}
	}
}

func wilsonExactly(x, n int64, z *big.Float) (lower, upper *big.Float) {
	zz := new(big.Float).Mul(z, z)
	centre := new(big.Float).Add(whole(x), new(big.Float).Quo(zz, exactly(2)))
	spread := new(big.Float).Quo(new(big.Float).Mul(whole(x), whole(n-x)), whole(n))
	spread.Sqrt(spread.Add(spread, new(big.Float).Quo(zz, exactly(4))))
	spread.Mul(spread, z)
	all := new(big.Float).Add(whole(n), zz)
	return new(big.Float).Quo(new(big.Float).Sub(centre, spread), all), new(big.Float).Quo(new(big.Float).Add(centre, spread), all)
}

// Scores far from 0, and very small ones, give the trend of the same scores moved to
// where they are easy.
func TestScoresAnywhere(t *testing.T) {
	table := [][]int64{{12, 9, 4, 3}, {5, 8, 11, 14}}
	plain, err := ComputeOrdered(OrderedInput{Table: table, ColumnScores: []float64{0, 1, 2, 3}, Level: 0.05})
	require.NoError(t, err)
	for name, scores := range map[string][]float64{
		"years": {2001, 2002, 2003, 2004}, "far": {1e12, 1e12 + 1, 1e12 + 2, 1e12 + 3}, "tiny": {0, 1e-200, 2e-200, 3e-200}, "huge": {-1e99, 0, 1e99, 2e99},
	} {
		r, err := ComputeOrdered(OrderedInput{Table: table, ColumnScores: scores, Level: 0.05})
		require.NoError(t, err)
		require.NotNil(t, r.Trend, name)
		assert.InEpsilon(t, plain.Trend.Correlation, r.Trend.Correlation, 1e-13, name)
		assert.InEpsilon(t, plain.Proportions.Z, r.Proportions.Z, 1e-13, name)
	}
	r, err := ComputeOrdered(OrderedInput{Table: table, ColumnScores: []float64{7, 7, 7, 7}, Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, ScoresEqual, r.WhyNoTrend)
}

// What a simulation settles: never a single draw, and never that all or none of a few
// were as extreme.
func TestWhatSimulationSettles(t *testing.T) {
	for _, c := range []struct {
		observed   []int64
		replicates int
		settled    bool
	}{
		{[]int64{5, 5, 5}, 1, false}, {[]int64{15, 0, 0}, 1, false}, {[]int64{15, 0, 0}, 20, false}, {[]int64{15, 0, 0}, 10_000, true}, {[]int64{5, 5, 5}, 10_000, true},
	} {
		in := GoodnessOfFitInput{Observed: c.observed, Shares: workedcases.Ratios(1, 1, 1), Level: 0.05}
		r, err := ComputeExactGoodnessOfFit(context.Background(), in, ExactOptions{Way: SimulatedOnly, Replicates: c.replicates})
		require.NoError(t, err)
		assert.Equal(t, c.settled, r.Settled, "%v, %d draws", c.observed, c.replicates)
		e := r.Simulated.ByProbability
		assert.Greater(t, e.Upper, e.Lower)
		assert.InEpsilon(t, float64(e.AtLeast+1)/float64(c.replicates+1), e.P.Value, 1e-15)
	}
}

// Two answers are a pair of binomial tails whatever the count; three are tried for a
// second or two and simulated beyond.
func TestExactTestsKeepTheirTime(t *testing.T) {
	in := GoodnessOfFitInput{Observed: []int64{2_500_050_000_000, 2_500_000_000_000}, Shares: workedcases.Ratios(1, 1), Level: 0.05}
	r, err := ComputeExactGoodnessOfFit(context.Background(), in, ExactOptions{Way: ExactOnly})
	require.NoError(t, err)
	require.NotNil(t, r.Exact)
	assert.InEpsilon(t, prob.NormalTwoSided(25_000_000/(math.Sqrt(5_000_050_000_000)/2)).Log10, r.Exact.P.Log10, 1e-5)
	small := GoodnessOfFitInput{Observed: []int64{7, 1}, Shares: workedcases.Ratios(1, 1), Level: 0.05}
	r, err = ComputeExactGoodnessOfFit(context.Background(), small, ExactOptions{})
	require.NoError(t, err)
	assert.InEpsilon(t, 18.0/256, r.Exact.P.Value, 1e-14, "7 or 8 of 8, either way: (8 + 1)·2/2⁸")
	wide := GoodnessOfFitInput{Observed: []int64{40_000, 40_000, 40_001, 40_000, 40_000, 39_999}, Shares: workedcases.Ratios(1, 1, 1, 1, 1, 1), Level: 0.05}
	r, err = ComputeExactGoodnessOfFit(context.Background(), wide, ExactOptions{Replicates: 1000})
	require.NoError(t, err)
	assert.True(t, r.BeyondReach && r.Simulated != nil)
}

// As many changed one way as the other: 1 less half the chance of just that, C(6, 3)/2⁶.
func TestMidPOfEqualChanges(t *testing.T) {
	r, err := ComputePaired([2][2]int64{{9, 3}, {3, 5}})
	require.NoError(t, err)
	assert.InDelta(t, 1-20.0/64/2, r.MidP.Value, 1e-15)
	assert.Equal(t, 1.0, r.Exact.Value)
}
