package infer

import (
	"encoding/json"
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

func column(rows []GoodnessOfFitRow, f func(GoodnessOfFitRow) float64) []float64 {
	out := make([]float64, len(rows))
	for i, r := range rows {
		out[i] = f(r)
	}
	return out
}

func TestGoodnessOfFitReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "gof") {
		t.Run(c.ID, func(t *testing.T) {
			r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{
				Observed: workedcases.In[[]int64](t, c, "observed"),
				Shares:   workedcases.Shares(t, c, "shares"),
				Level:    workedcases.Float(t, c, "alpha"),
			})
			require.NoError(t, err)
			c.NearEach(t, "share", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Share }))
			c.NearEach(t, "observed_share", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.ObservedShare }))
			c.NearEach(t, "expected", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Expected }))
			c.NearEach(t, "residual", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Difference }))
			c.NearEach(t, "contribution", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Contribution }))
			c.NearEach(t, "pearson_residual", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Pearson }))
			c.NearEach(t, "standardized_residual", column(r.Rows, func(r GoodnessOfFitRow) float64 { return r.Adjusted }))
			for name, got := range map[string]float64{
				"statistic": r.Statistic, "critical_value": r.CriticalValue, "g_statistic": r.G, "cohens_w": r.CohensW,
				"n": float64(r.N), "df": float64(r.DF), "count_expected_below_5": float64(r.LowCells),
				"percent_expected_below_5": r.LowPercent, "min_expected": r.SmallestExpected,
			} {
				assert.True(t, c.Near(t, name, got), "%s was not compared", name)
			}
			assert.True(t, c.NearProb(t, "p_value", r.P.Value, r.P.Log10))
			assert.True(t, c.NearProb(t, "g_p_value", r.GP.Value, r.GP.Log10))
			assert.Equal(t, c.Expect["reject"], r.Reject)
		})
	}
}

func TestHolmReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "p_adjust") {
		var ps []prob.Prob
		for _, raw := range workedcases.In[[]json.RawMessage](t, c, "p_values") {
			v, _ := workedcases.Rat(t, raw).Float64()
			ps = append(ps, prob.Prob{Value: v, Log10: math.Log10(v)})
		}
		r, err := Adjust(ps)
		require.NoError(t, err)
		for name, adjusted := range map[string][]prob.Prob{"holm_p_value": r.Holm, "benjamini_hochberg_p_value": r.BenjaminiHochberg, "bonferroni_p_value": r.Bonferroni} {
			var values, logs []float64
			for _, p := range adjusted {
				values, logs = append(values, p.Value), append(logs, p.Log10)
			}
			require.NotNil(t, c.Expect[name])
			c.NearEach(t, name, values)
			c.NearEach(t, name+"_log10", logs)
		}
	}
}

func TestChiSquarePowerReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "power_chi2") {
		w, n, df, alpha := workedcases.Float(t, c, "w"), workedcases.Float(t, c, "n"), workedcases.Float(t, c, "df"), workedcases.Float(t, c, "alpha")
		power := ChiSquarePower(w, n, df, alpha)
		assert.True(t, c.Near(t, "power", power))
		if power < 1-1e-9 {
			assert.InEpsilon(t, w, DetectableW(n, df, alpha, power), 1e-9, "the inverse of power")
		}
	}
}

func TestGoodnessOfFitRefusals(t *testing.T) {
	half, third := big.NewRat(1, 2), big.NewRat(1, 3)
	zero, whole := new(big.Rat), big.NewRat(1, 1)
	cases := []struct {
		name     string
		observed []int64
		shares   []*big.Rat
		level    float64
		why      Reason
		at       int
	}{
		{"nobody answered", []int64{0, 0}, []*big.Rat{half, half}, .05, NoObservations, -1},
		{"one answer", []int64{4}, []*big.Rat{whole}, .05, OneAnswer, -1},
		{"no answer at all", nil, nil, .05, OneAnswer, -1},
		{"one answer left when zero shares leave", []int64{4, 0}, []*big.Rat{whole, zero}, .05, OneAnswerAfterZeros, -1},
		{"negative count", []int64{4, -1}, []*big.Rat{half, half}, .05, NegativeCount, 1},
		{"sum beyond range", []int64{MaxCount, 1}, []*big.Rat{half, half}, .05, CountTooLarge, 1},
		{"a share missing", []int64{4, 1}, []*big.Rat{whole}, .05, SharesLength, -1},
		{"a nil share", []int64{4, 1}, []*big.Rat{whole, nil}, .05, NegativeShare, 1},
		{"a negative share", []int64{4, 1}, []*big.Rat{big.NewRat(3, 2), big.NewRat(-1, 2)}, .05, NegativeShare, 1},
		{"shares of two thirds", []int64{4, 1}, []*big.Rat{third, third}, .05, SharesSum, -1},
		{"chosen although the share is zero", []int64{4, 1, 2}, []*big.Rat{half, zero, half}, .05, ChosenButShareZero, 1},
		{"level zero", []int64{4, 1}, []*big.Rat{half, half}, 0, LevelRange, -1},
		{"level NaN", []int64{4, 1}, []*big.Rat{half, half}, math.NaN(), LevelRange, -1},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			_, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: c.observed, Shares: c.shares, Level: c.level})
			var bad *InputError
			require.ErrorAs(t, err, &bad)
			assert.Equal(t, c.why, bad.Reason)
			assert.Equal(t, c.at, bad.Index)
		})
	}
}

// With counts of 10¹² and differences of 5, a float64 share times n would leave
// about four digits of the difference: the exact value is 2·5²/(5·10¹¹).
func TestGoodnessOfFitHugeCountsKeepTheirDigits(t *testing.T) {
	const half = 500_000_000_000
	r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: []int64{half + 5, half - 5}, Shares: []*big.Rat{big.NewRat(1, 2), big.NewRat(1, 2)}, Level: 0.05})
	require.NoError(t, err)
	assert.InEpsilon(t, 1e-10, r.Statistic, 1e-13)
	assert.InEpsilon(t, 1e-10, r.G, 1e-12)
	assert.Equal(t, 5.0, r.Rows[0].Difference)
}

func TestGoodnessOfFitZeroShareLeaves(t *testing.T) {
	r, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: []int64{30, 0, 70}, Shares: []*big.Rat{big.NewRat(1, 4), new(big.Rat), big.NewRat(3, 4)}, Level: 0.05})
	require.NoError(t, err)
	assert.Equal(t, 1, r.DF)
	assert.True(t, r.Rows[1].LeftOut)
	assert.InEpsilon(t, 25.0/25+25.0/75, r.Statistic, 1e-14)
}

// Laws that hold for every table: the order of answers changes nothing, ten
// times the counts is ten times the statistic, totals are checks, X² ≥ critical
// value exactly when p ≤ level, and w stays within its largest value.
func TestGoodnessOfFitLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	for range 300 {
		k := 2 + rng.IntN(9)
		observed, tenfold, flipped := make([]int64, k), make([]int64, k), make([]int64, k)
		shares, flippedShares := make([]*big.Rat, k), make([]*big.Rat, k)
		sum := int64(0)
		weights := make([]int64, k)
		for i := range k {
			weights[i] = 1 + rng.Int64N(50)
			sum += weights[i]
		}
		for i := range k {
			observed[i] = rng.Int64N(60)
			observed[0]++
			shares[i] = big.NewRat(weights[i], sum)
		}
		for i := range k {
			tenfold[i], flipped[i], flippedShares[i] = 10*observed[i], observed[k-1-i], shares[k-1-i]
		}
		a, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: observed, Shares: shares, Level: 0.05})
		require.NoError(t, err)
		b, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: tenfold, Shares: shares, Level: 0.05})
		require.NoError(t, err)
		c, err := ComputeGoodnessOfFit(GoodnessOfFitInput{Observed: flipped, Shares: flippedShares, Level: 0.05})
		require.NoError(t, err)
		assert.InEpsilon(t, 10*a.Statistic+1, b.Statistic+1, 1e-12)
		assert.InEpsilon(t, a.Statistic+1, c.Statistic+1, 1e-12)
		assert.InEpsilon(t, float64(a.N), a.SumExpected, 1e-13)
		assert.Equal(t, 0.0, a.SumDifference)
		assert.Equal(t, a.Statistic >= a.CriticalValue, a.Reject)
		assert.LessOrEqual(t, a.CohensW, a.LargestW*(1+1e-12))
		assert.True(t, a.P.Value >= 0 && a.P.Value <= 1)
	}
}
