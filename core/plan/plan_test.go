package plan

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/exact"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/internal/workedcases"
)

func ref[T any](v T) *T { return &v }

func TestChiSquareReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "power_chi2") {
		r, err := ComputeChiSquare(ChiSquareInput{W: ref(workedcases.Float(t, c, "w")), N: ref(int64(workedcases.Float(t, c, "n"))), DF: int(workedcases.Float(t, c, "df")), Level: workedcases.Float(t, c, "alpha")})
		require.NoError(t, err)
		assert.True(t, c.Near(t, "power", r.Power) && c.Near(t, "type_2_error", r.Type2Error) && c.Near(t, "critical_value", r.CriticalValue) && c.Near(t, "noncentrality", r.Noncentrality))
	}
	for _, c := range workedcases.Load(t, "required_n") {
		r, err := ComputeChiSquare(ChiSquareInput{W: ref(workedcases.Float(t, c, "w")), Power: ref(workedcases.Float(t, c, "power")), DF: int(workedcases.Float(t, c, "df")), Level: workedcases.Float(t, c, "alpha")})
		require.NoError(t, err)
		assert.True(t, c.Near(t, "n", float64(r.N)) && c.Near(t, "power", r.Power) && c.Near(t, "power_at_n_minus_1", *r.PowerOneFewer))
		// The third way round: the departure that n finds with the power it has.
		back, err := ComputeChiSquare(ChiSquareInput{N: &r.N, Power: &r.Power, DF: r.DF, Level: r.Level})
		require.NoError(t, err)
		assert.InEpsilon(t, r.W, back.W, 1e-10)
	}
}

func TestSampleSizeReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "sample_size") {
		switch workedcases.In[string](t, c, "mode") {
		case "margin":
			in := MarginInput{Margin: ref(workedcases.Float(t, c, "margin")), Share: workedcases.Float(t, c, "p"), Confidence: workedcases.Float(t, c, "level")}
			if c.Input["population"] != nil {
				in.Population = int64(workedcases.Float(t, c, "population"))
			}
			r, err := ComputeMargin(in)
			require.NoError(t, err)
			assert.True(t, c.Near(t, "n_unrounded", *r.NUnrounded))
			assert.LessOrEqual(t, r.Margin, *in.Margin*(1+1e-4))
			if in.Population == 0 {
				assert.True(t, c.Near(t, "n", float64(r.N)))
				continue
			}
			assert.True(t, c.Near(t, "n_finite_unrounded", *r.NFinite) && c.Near(t, "n_finite", float64(r.N)))
		case "one":
			r, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: workedcases.Float(t, c, "p0"), True: ref(workedcases.Float(t, c, "p1")), Power: ref(workedcases.Float(t, c, "power")), Level: workedcases.Float(t, c, "alpha")})
			require.NoError(t, err)
			assert.True(t, c.Near(t, "n_unrounded", *r.NUnrounded) && c.Near(t, "n", float64(r.N)))
		case "two":
			r, err := ComputeTwoProportions(context.Background(), TwoProportionsInput{Share1: workedcases.Float(t, c, "p1"), Share2: ref(workedcases.Float(t, c, "p2")), Power: ref(workedcases.Float(t, c, "power")), Level: workedcases.Float(t, c, "alpha")})
			require.NoError(t, err)
			assert.True(t, c.Near(t, "n_unrounded", *r.NUnrounded) && c.Near(t, "n", float64(r.N1)))
		}
	}
}

// The exact powers add the chances of the outcomes that the tests themselves reject.
func TestExactPowerIsThatOfTheTest(t *testing.T) {
	for _, d := range []Direction{TwoSided, Less, Greater} {
		truth := map[Direction]float64{TwoSided: 0.55, Less: 0.2, Greater: 0.55}[d]
		for _, n := range []int64{1, 12, 57} {
			r, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: 0.35, True: &truth, N: &n, Level: 0.05, Direction: d})
			require.NoError(t, err)
			power, size := 0.0, 0.0
			for k := int64(0); k <= n; k++ {
				one, err := infer.ComputeProportion(infer.ProportionInput{Successes: k, N: n, Claimed: 0.35, Confidence: 0.95})
				require.NoError(t, err)
				p := map[Direction]prob.Prob{TwoSided: one.Exact.TwoSided, Less: one.Exact.Less, Greater: one.Exact.Greater}[d]
				if p.AtMost(0.05) {
					power, size = power+math.Exp(prob.LnBinomial(k, n, truth)), size+math.Exp(prob.LnBinomial(k, n, 0.35))
				}
			}
			assert.InDelta(t, power, r.Exact.Power, 1e-12, "%s n %d", d, n)
			assert.InDelta(t, size, r.Exact.Size, 1e-12)
			assert.LessOrEqual(t, r.Exact.Size, 0.05)
		}
	}
	n1, n2 := int64(14), int64(9)
	r, err := ComputeTwoProportions(context.Background(), TwoProportionsInput{Share1: 0.8, Share2: ref(0.3), N1: &n1, N2: &n2, Level: 0.05})
	require.NoError(t, err)
	fisher, z := 0.0, 0.0
	for x := int64(0); x <= n1; x++ {
		for y := int64(0); y <= n2; y++ {
			chance := math.Exp(prob.LnBinomial(x, n1, 0.8) + prob.LnBinomial(y, n2, 0.3))
			if e, err := exact.Fisher(x, n1-x, y, n2-y); err == nil && e.TwoSided.AtMost(0.05) {
				fisher += chance
			}
			two, err := infer.ComputeTwoProportions(infer.TwoProportionsInput{Successes1: x, N1: n1, Successes2: y, N2: n2, Confidence: 0.95})
			require.NoError(t, err)
			if two.Tails != nil && two.Tails.TwoSided.AtMost(0.05) {
				z += chance
			}
		}
	}
	assert.InDelta(t, fisher, r.Exact.FisherPower, 1e-12)
	assert.InDelta(t, z, r.Exact.ZPower, 1e-12)
	assert.LessOrEqual(t, r.Exact.FisherSize, 0.05)
}

// From ExactN on the exact power stays; just below it falls short. The nearest share
// that n finds has the power asked for.
func TestOneProportionSearches(t *testing.T) {
	in := OneProportionInput{Claimed: 0.4, True: ref(0.55), Power: ref(0.8), Level: 0.05}
	r, err := ComputeOneProportion(context.Background(), in)
	require.NoError(t, err)
	at := func(n int64) float64 { return exactBinomial(0.4, 0.55, n, 0.05, TwoSided).Power }
	for n := *r.ExactN; n < *r.ExactN+r.N/4; n++ {
		assert.GreaterOrEqual(t, at(n), 0.8)
	}
	assert.Less(t, at(*r.ExactN-1), 0.8)
	d, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: 0.4, N: ref(int64(200)), Power: ref(0.8), Level: 0.05})
	require.NoError(t, err)
	for _, p := range []*float64{d.DetectBelow, d.DetectAbove} {
		require.NotNil(t, p)
		back, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: 0.4, True: p, N: ref(int64(200)), Level: 0.05})
		require.NoError(t, err)
		assert.InDelta(t, 0.8, back.Power, 1e-9)
	}
	two, err := ComputeTwoProportions(context.Background(), TwoProportionsInput{Share1: 0.5, Share2: ref(0.7), Power: ref(0.8), Level: 0.05})
	require.NoError(t, err)
	assert.Greater(t, *two.ExactN, two.N1, "the exact test asks for more")
	// The other way round: these numbers find that share with that power.
	back, err := ComputeTwoProportions(context.Background(), TwoProportionsInput{Share1: 0.5, N1: &two.N1, N2: &two.N2, Power: &two.Power, Level: 0.05})
	require.NoError(t, err)
	assert.InDelta(t, 0.7, *back.DetectAbove, 1e-9)
	assert.InDelta(t, 0.3, *back.DetectBelow, 1e-9)
	w, df, err := WOfTable([][]float64{{0.3, 0.2}, {0.1, 0.4}})
	require.NoError(t, err)
	assert.Equal(t, 1, df)
	assert.InEpsilon(t, 0.1/math.Sqrt(0.5*0.5*0.4*0.6), w, 1e-12, "φ of the table")
}

func TestPlansRefuse(t *testing.T) {
	ctx := context.Background()
	chi := func(in ChiSquareInput) error { _, err := ComputeChiSquare(in); return err }
	one := func(in OneProportionInput) error { _, err := ComputeOneProportion(ctx, in); return err }
	two := func(in TwoProportionsInput) error { _, err := ComputeTwoProportions(ctx, in); return err }
	margin := func(in MarginInput) error { _, err := ComputeMargin(in); return err }
	_, unlike := W([]float64{0.5, 0.5}, []float64{0.5, 0.6})
	for name, c := range map[string]struct {
		err error
		why infer.Reason
	}{
		"nothing given":             {chi(ChiSquareInput{DF: 1, Level: 0.05}), TwoOfThree},
		"all three given":           {chi(ChiSquareInput{W: ref(0.1), N: ref(int64(9)), Power: ref(0.8), DF: 1, Level: 0.05}), TwoOfThree},
		"power below the level":     {chi(ChiSquareInput{W: ref(0.1), Power: ref(0.01), DF: 1, Level: 0.05}), PowerRange},
		"no degrees of freedom":     {chi(ChiSquareInput{W: ref(0.1), Power: ref(0.8), Level: 0.05}), DFRange},
		"more than any population":  {chi(ChiSquareInput{W: ref(1e-9), Power: ref(0.8), DF: 1, Level: 0.05}), NumberRange},
		"the same share":            {one(OneProportionInput{Claimed: 0.4, True: ref(0.4), Power: ref(0.8), Level: 0.05}), SameShares},
		"against the direction":     {one(OneProportionInput{Claimed: 0.4, True: ref(0.3), Power: ref(0.8), Level: 0.05, Direction: Greater}), DepartureRange},
		"one group without number":  {two(TwoProportionsInput{Share1: 0.1, Share2: ref(0.2), N1: ref(int64(3)), Level: 0.05}), TwoOfThree},
		"more asked than there are": {margin(MarginInput{N: ref(int64(30)), Share: 0.5, Confidence: 0.95, Population: 20}), NumberRange},
		"no share":                  {margin(MarginInput{N: ref(int64(30)), Share: 0, Confidence: 0.95}), infer.ClaimedRange},
		"shares beyond one":         {unlike, infer.SharesSum},
		"a level of one":            {chi(ChiSquareInput{W: ref(0.1), Power: ref(0.8), DF: 1, Level: 1}), infer.LevelRange},
		"no departure":              {chi(ChiSquareInput{W: ref(0.0), Power: ref(0.8), DF: 1, Level: 0.05}), DepartureRange},
		"nobody":                    {chi(ChiSquareInput{W: ref(0.1), N: ref(int64(0)), DF: 1, Level: 0.05}), NumberRange},
		"too long a table":          {chi(ChiSquareInput{W: ref(0.1), Power: ref(0.8), DF: 10_001, Level: 0.05}), DFRange},
		"a claim of certainty":      {one(OneProportionInput{Claimed: 1, True: ref(0.4), Power: ref(0.8), Level: 0.05}), infer.ClaimedRange},
		"a truth beyond certainty":  {one(OneProportionInput{Claimed: 0.5, True: ref(1.4), Power: ref(0.8), Level: 0.05}), infer.ClaimedRange},
		"half the level":            {one(OneProportionInput{Claimed: 0.5, True: ref(0.4), Power: ref(0.8), Level: 0.5}), infer.LevelRange},
		"one share, all three":      {one(OneProportionInput{Claimed: 0.5, True: ref(0.4), N: ref(int64(4)), Power: ref(0.8), Level: 0.05}), TwoOfThree},
		"a certain power":           {one(OneProportionInput{Claimed: 0.5, True: ref(0.4), Power: ref(1.0), Level: 0.05}), PowerRange},
		"so few find nothing":       {one(OneProportionInput{Claimed: 0.5, N: ref(int64(2)), Power: ref(0.99), Level: 0.05}), DepartureRange},
		"two alike":                 {two(TwoProportionsInput{Share1: 0.2, Share2: ref(0.2), Power: ref(0.8), Level: 0.05}), SameShares},
		"a share below none":        {two(TwoProportionsInput{Share1: -0.2, Share2: ref(0.2), Power: ref(0.8), Level: 0.05}), infer.ClaimedRange},
		"groups of nobody":          {two(TwoProportionsInput{Share1: 0.1, Share2: ref(0.2), N1: ref(int64(0)), N2: ref(int64(4)), Level: 0.05}), NumberRange},
		"groups that find nothing":  {two(TwoProportionsInput{Share1: 0.5, N1: ref(int64(2)), N2: ref(int64(2)), Power: ref(0.9), Level: 0.05}), DepartureRange},
		"margin and number":         {margin(MarginInput{N: ref(int64(30)), Margin: ref(0.1), Share: 0.5, Confidence: 0.95}), TwoOfThree},
		"a margin of everything":    {margin(MarginInput{Margin: ref(1.0), Share: 0.5, Confidence: 0.95}), infer.MarginRange},
		"a population of one":       {margin(MarginInput{Margin: ref(0.1), Share: 0.5, Confidence: 0.95, Population: 1}), PopulationSize},
		"too narrow for anybody":    {margin(MarginInput{Margin: ref(1e-9), Share: 0.5, Confidence: 0.95}), NumberRange},
	} {
		var bad *infer.InputError
		require.ErrorAs(t, c.err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
	}
}

// One direction puts the whole level on its side, and then the nearest share that is found
// lies nearer; the wrong side is not offered. Certain answers leave no spread.
func TestDirections(t *testing.T) {
	find := func(d Direction) *OneProportion {
		r, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: 0.4, N: ref(int64(300)), Power: ref(0.8), Level: 0.05, Direction: d})
		require.NoError(t, err)
		return r
	}
	both, up, down := find(TwoSided), find(Greater), find(Less)
	assert.Less(t, *up.DetectAbove, *both.DetectAbove)
	assert.Greater(t, *down.DetectBelow, *both.DetectBelow)
	assert.Nil(t, up.DetectBelow)
	assert.Nil(t, down.DetectAbove)
	sure, err := ComputeOneProportion(context.Background(), OneProportionInput{Claimed: 0.5, True: ref(1.0), N: ref(int64(9)), Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, []float64{1, 1}, []float64{sure.Power, sure.Exact.Power})
	two, err := ComputeTwoProportions(context.Background(), TwoProportionsInput{Share1: 0, Share2: ref(1.0), N1: ref(int64(9)), N2: ref(int64(9)), Level: 0.05})
	require.NoError(t, err)
	assert.InDelta(t, 1, two.Exact.FisherPower, 1e-12)
	// A finite population asks for fewer; asking all of it leaves no margin.
	all, err := ComputeMargin(MarginInput{N: ref(int64(80)), Share: 0.5, Confidence: 0.95, Population: 80})
	require.NoError(t, err)
	assert.Zero(t, all.Margin)
	for name, c := range map[string][][]float64{"ragged": {{0.5, 0.2}, {0.3}}, "negative": {{0.5, 0.6}, {0.1, -0.2}}, "one row": {{0.5, 0.5}}, "beyond one": {{0.5, 0.5}, {0.5, 0.5}}} {
		_, _, err := WOfTable(c)
		assert.Error(t, err, name)
	}
	_, err = W([]float64{1, 0}, []float64{0.9, 0.1})
	assert.Error(t, err, "a share expected of nobody")
}

func TestSearchesStop(t *testing.T) {
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	_, err := ComputeOneProportion(gone, OneProportionInput{Claimed: 0.5, True: ref(0.52), Power: ref(0.8), Level: 0.05})
	assert.ErrorIs(t, err, context.Canceled)
	_, err = ComputeTwoProportions(gone, TwoProportionsInput{Share1: 0.5, Share2: ref(0.7), Power: ref(0.8), Level: 0.05})
	assert.ErrorIs(t, err, context.Canceled)
}

// A plan that nobody waits for any more is given up.
func TestAPlanIsStopped(t *testing.T) {
	ctx, stop := context.WithCancel(t.Context())
	stop()
	other, power, n := 0.5, 0.8, int64(40)
	for _, in := range []TwoProportionsInput{
		{Share1: 0.6, Share2: &other, Power: &power, Level: 0.05},
		{Share1: 0.6, Share2: &other, N1: &n, N2: &n, Level: 0.05},
	} {
		_, err := ComputeTwoProportions(ctx, in)
		assert.ErrorIs(t, err, context.Canceled)
	}
}
