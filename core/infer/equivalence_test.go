package infer

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

// Near enough is shown exactly when the interval at 1 − 2α lies within the margin.
func TestEquivalenceIsDualToItsInterval(t *testing.T) {
	rng := rand.New(rand.NewPCG(12, 5))
	shown := 0
	for range 600 {
		margin, level := 0.02+0.2*rng.Float64(), 0.01+0.1*rng.Float64()
		n1, n2 := 20+rng.Int64N(2000), 20+rng.Int64N(2000)
		x1 := rng.Int64N(n1 + 1)
		x2 := int64(float64(x1) / float64(n1) * float64(n2))
		expected := math.Min(0.95, math.Max(0.05, float64(x1)/float64(n1)+0.05*(rng.Float64()-0.5)))
		one, err := ComputeShareEquivalence(x1, n1, expected, margin, level)
		require.NoError(t, err)
		two, err := ComputeTwoSharesEquivalence(TwoProportionsInput{Successes1: x1, N1: n1, Successes2: x2, N2: n2}, margin, level)
		require.NoError(t, err)
		for _, e := range []*Equivalence{one, two} {
			inside := e.Interval.Lower >= -margin && e.Interval.Upper <= margin
			if e.NotBelow != nil && e.NotAbove != nil {
				assert.Equal(t, inside, e.Equivalent, "%+v", e)
			}
			if e.Equivalent {
				shown++
			}
		}
		assert.Equal(t, *one.ExactEquivalent, one.ExactP.AtMost(level))
	}
	assert.Greater(t, shown, 100)
	assert.Less(t, shown, 1100)
}

// The shares fitted under p1 − p2 = δ make the likelihood largest: against a search over
// a fine grid. At δ = 0 the statistic is the pooled z.
func TestFarringtonManningFit(t *testing.T) {
	for _, c := range []struct {
		in    TwoProportionsInput
		delta float64
	}{{TwoProportionsInput{44, 90, 61, 95, 0.95}, 0.1}, {TwoProportionsInput{3, 40, 9, 25, 0.95}, -0.2}, {TwoProportionsInput{0, 15, 12, 60, 0.95}, 0.05}, {TwoProportionsInput{30, 30, 12, 60, 0.95}, 0.3}} {
		n1, n2 := float64(c.in.N1), float64(c.in.N2)
		x1, x2 := float64(c.in.Successes1), float64(c.in.Successes2)
		lnLikelihood := func(p1 float64) float64 {
			part := func(x, n, p float64) float64 {
				sum := 0.0
				if x > 0 {
					sum += x * math.Log(p)
				}
				if x < n {
					sum += (n - x) * math.Log(1-p)
				}
				return sum
			}
			return part(x1, n1, p1) + part(x2, n2, p1-c.delta)
		}
		lo, hi := math.Max(0, c.delta), math.Min(1, 1+c.delta)
		for range 200 { // golden section; the likelihood has one top
			a, b := lo+0.382*(hi-lo), lo+0.618*(hi-lo)
			if lnLikelihood(a) < lnLikelihood(b) {
				lo = a
			} else {
				hi = b
			}
		}
		p1 := (lo + hi) / 2
		p2 := p1 - c.delta
		want := (x1/n1 - x2/n2 - c.delta) / math.Sqrt(p1*(1-p1)/n1+p2*(1-p2)/n2)
		assert.InDelta(t, want, c.in.farringtonManning(c.delta), 1e-6*math.Max(1, math.Abs(want)))
		pooled, err := ComputeTwoProportions(c.in)
		require.NoError(t, err)
		assert.InDelta(t, *pooled.Z, c.in.farringtonManning(0), 1e-9)
	}
}

func TestDistributionEquivalence(t *testing.T) {
	shares := []*big.Rat{big.NewRat(1, 2), big.NewRat(1, 2), new(big.Rat)}
	r, err := ComputeDistributionEquivalence(GoodnessOfFitInput{Observed: []int64{510, 488, 2}, Shares: shares, Level: 0.05}, 0.06)
	require.NoError(t, err)
	assert.True(t, r.Equivalent && r.ExactEquivalent, "a share of 0 can be near enough")
	assert.Nil(t, r.Answers[2].NotBelow)
	// At the upper edge of the third answer, 0.06, 60 and 940 are expected of 1,000.
	assert.InDeltaSlice(t, []float64{60, 940}, []float64{r.Answers[2].Conditions[0].Found, r.Answers[2].Conditions[1].Found}, 1e-9)
	far, err := ComputeDistributionEquivalence(GoodnessOfFitInput{Observed: []int64{560, 440, 0}, Shares: shares, Level: 0.05}, 0.06)
	require.NoError(t, err)
	assert.False(t, far.Equivalent)
	assert.Equal(t, far.Answers[far.FurthestAt].P, far.P)
	for margin, why := range map[float64]Reason{0: MarginRange, 1: MarginRange} {
		_, err := ComputeShareEquivalence(5, 10, 0.5, margin, 0.05)
		var bad *InputError
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, why, bad.Reason)
	}
}

// The more respondents stand behind the published shares, the closer the test of
// homogeneity comes to goodness of fit; what is kept is then about M/(n + M).
func TestAgainstSample(t *testing.T) {
	observed := []int64{642, 290, 249, 38}
	for _, times := range []int64{1, 10, 1000, 1_000_000} {
		published := []int64{580 * times, 210 * times, 185 * times, 25 * times}
		r, err := ComputeHomogeneity(observed, published, 0.05)
		require.NoError(t, err)
		assert.InDelta(t, r.KeptExpected, *r.Kept, 0.05)
		assert.Less(t, r.Test.Statistic, r.Known.Statistic)
		if times == 1_000_000 {
			assert.InEpsilon(t, r.Known.Statistic, r.Test.Statistic, 1e-5)
		}
		back, err := ComputeHomogeneity(published, observed, 0.05)
		require.NoError(t, err)
		assert.InEpsilon(t, r.Test.Statistic, back.Test.Statistic, 1e-12)
	}
	r, err := ComputeHomogeneity([]int64{4, 5, 6}, []int64{0, 9, 9}, 0.05)
	require.NoError(t, err)
	assert.Nil(t, r.Known)
	assert.Equal(t, ChosenButShareZero, r.WhyNotKnown)
	_, err = ComputeHomogeneity([]int64{1, 2}, []int64{1, 2, 3}, 0.05)
	assert.Error(t, err)
}

// At the ends of w's interval the statistic stands at α/2 from either side.
func TestWIntervalIsDualToTheTest(t *testing.T) {
	for _, c := range []struct{ statistic, df, n float64 }{{14.802, 3, 1219}, {2.1, 4, 80}, {900, 1, 1000}, {4e11, 3, 1e12}} {
		i := NoncentralW(c.statistic, c.df, c.n, 0.95, math.Inf(1))
		if i.Lower > 0 {
			assert.InEpsilon(t, 0.025, prob.NoncentralChiSquareUpper(c.statistic, c.df, c.n*i.Lower*i.Lower).Value, 1e-9)
		} else {
			assert.False(t, prob.ChiSquareUpper(c.statistic, c.df).AtMost(0.025))
		}
		if i.Upper > 0 {
			assert.InEpsilon(t, 0.025, prob.NoncentralChiSquareLower(c.statistic, c.df, c.n*i.Upper*i.Upper).Value, 1e-9)
		}
	}
}

// Closer than chance allows, there is no interval rather than 0 … 0; and no end lies
// beyond the largest w.
func TestWIntervalAtItsEnds(t *testing.T) {
	assert.Nil(t, NoncentralW(0.01, 6, 50, 0.95, 1))
	near, err := ComputeIndependence([][]int64{{50, 50}, {50, 50}}, 0.05)
	require.NoError(t, err)
	for _, e := range near.Effects[:2] {
		assert.Nil(t, e.Interval)
		assert.Equal(t, CloserThanChance, e.Why)
	}
	all, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: []int64{20, 0}, Shares: workedcases.Ratios(1, 1), Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, 1.0, all.Effects[0].Interval.Upper)
	whole, err := ComputeIndependence([][]int64{{9, 0, 0}, {0, 9, 0}, {0, 0, 9}}, 0.05)
	require.NoError(t, err)
	for _, e := range append(whole.Effects, all.Effects...) {
		assert.Equal(t, e.Word.Word != "", e.Note == NoteContext, "a word for a size stands with its note: %s", e.Name)
	}
	assert.Equal(t, Word{"large", "cohen_1988"}, whole.Effects[0].Word)
	effects := named(whole.Effects)
	for name, most := range map[EffectName]float64{CohensW: math.Sqrt2, CramersV: 1, ContingencyC: math.Sqrt(2.0 / 3), ContingencyCScaled: 1} {
		assert.InEpsilon(t, most, effects[name].Interval.Upper, 1e-14, name)
	}
}

func TestAdvice(t *testing.T) {
	for name, c := range map[string]struct {
		observed []int64
		shares   []*big.Rat
		use      Approach
		because  Reason
		merge    []int
	}{
		"all expected counts large":   {[]int64{30, 30}, workedcases.Ratios(1, 1), ChiSquareSafe, BecauseNoLowCell, nil},
		"one in five thin":            {[]int64{30, 30, 30, 30, 3}, workedcases.Ratios(30, 30, 30, 30, 3), ChiSquareAcceptable, BecauseWithinRule, nil},
		"one of three thin":           {[]int64{20, 20, 3}, workedcases.Ratios(20, 20, 3), UseExact, BecauseManyLow, []int{0, 2}},
		"two thin that make one":      {[]int64{30, 3, 2, 30}, workedcases.Ratios(30, 3, 2, 30), UseExact, BecauseManyLow, []int{1, 2}},
		"one below one":               {[]int64{50, 49, 0}, workedcases.Ratios(500, 495, 5), UseExact, BecauseOneTooSmall, []int{1, 2}},
		"thin and too many for exact": {[]int64{30_000, 30_000, 1}, workedcases.Ratios(30_000, 30_000, 1), UseSimulation, BecauseExactTooLong, []int{0, 2}},
		"nothing to merge":            {[]int64{2, 2}, workedcases.Ratios(1, 1), UseExact, BecauseManyLow, nil},
	} {
		r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: c.observed, Shares: c.shares, Level: 0.05})
		require.NoError(t, err, name)
		assert.Equal(t, Advice{c.use, c.because, c.merge}, r.Advice, name)
	}
}

func TestAdviceOnTables(t *testing.T) {
	for name, c := range map[string]struct {
		table [][]int64
		want  Advice
	}{
		"within reach":      {[][]int64{{32, 25, 5}, {16, 12, 2}, {16, 13, 1}, {4, 3, 0}}, Advice{UseExact, BecauseOneTooSmall, nil}},
		"two columns merge": {[][]int64{{30, 3, 2}, {40, 4, 6}}, Advice{UseExact, BecauseManyLow, []int{1, 2}}},
		"beyond reach":      {[][]int64{{9, 4, 3, 2, 1}, {3, 8, 6, 2, 4}, {2, 5, 7, 6, 3}, {1, 2, 4, 5, 5}, {1, 3, 2, 4, 8}}, Advice{UseSimulation, BecauseExactTooLong, nil}},
		"an empty column":   {[][]int64{{30, 0, 3, 2}, {40, 0, 4, 6}}, Advice{UseExact, BecauseManyLow, []int{2, 3}}},
	} {
		r, err := ComputeIndependence(c.table, 0.05)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, r.Advice, name)
	}
}
