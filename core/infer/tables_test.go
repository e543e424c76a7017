package infer

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

func nearInterval(t *testing.T, c workedcases.Case, name string, got Interval) bool {
	t.Helper()
	in := c.Within(name)
	return in.Near(t, "lower", got.Lower) && in.Near(t, "upper", got.Upper)
}

func nearTails(t *testing.T, c workedcases.Case, prefix string, got Tails) {
	t.Helper()
	for name, p := range map[string]prob.Prob{"less": got.Less, "greater": got.Greater, "two_sided": got.TwoSided} {
		assert.True(t, c.NearProb(t, prefix+name+"_p_value", p.Value, p.Log10), prefix+name)
	}
}

func TestIndependenceReference(t *testing.T) {
	small := 0
	for _, c := range workedcases.Load(t, "independence") {
		t.Run(c.ID, func(t *testing.T) {
			table := workedcases.In[[][]int64](t, c, "table")
			level := 0.05
			if c.Input["alpha"] != nil {
				level = workedcases.Float(t, c, "alpha")
			}
			r, err := ComputeIndependence(table, level)
			require.NoError(t, err)
			cells := func(f func(Cell) float64) (out [][]float64) {
				for _, row := range r.Cells {
					var line []float64
					for _, cell := range row {
						line = append(line, f(cell))
					}
					out = append(out, line)
				}
				return out
			}
			for name, f := range map[string]func(Cell) float64{
				"row_percent": func(c Cell) float64 { return c.RowPercent }, "column_percent": func(c Cell) float64 { return c.ColumnPercent },
				"total_percent": func(c Cell) float64 { return c.TotalPercent }, "expected": func(c Cell) float64 { return c.Expected },
				"residual": func(c Cell) float64 { return c.Difference }, "contribution": func(c Cell) float64 { return c.Contribution },
				"pearson_residual": func(c Cell) float64 { return c.Pearson }, "adjusted_residual": func(c Cell) float64 { return c.Adjusted },
				"cell_p_value": func(c Cell) float64 { return c.AdjustedP.Value }, "cell_holm_p_value": func(c Cell) float64 { return c.HolmP.Value },
			} {
				c.NearTable(t, name, cells(f))
			}
			for name, got := range map[string]float64{
				"n": float64(r.N), "statistic": r.Statistic, "df": float64(r.DF), "critical_value": r.CriticalValue, "g_statistic": r.G, "cohens_w": r.CohensW,
				"cramers_v": r.CramersV, "cramers_v_bias_corrected": r.CramersVCorrected, "contingency_coefficient": r.Contingency,
				"contingency_coefficient_adjusted": r.ContingencyScaled, "count_expected_below_5": float64(r.LowCells),
				"percent_expected_below_5": r.LowPercent, "min_expected": r.SmallestExpected,
			} {
				assert.True(t, c.Near(t, name, got), "%s was not compared", name)
			}
			assert.True(t, c.NearProb(t, "p_value", r.P.Value, r.P.Log10))
			assert.True(t, c.NearProb(t, "g_p_value", r.GP.Value, r.GP.Log10))
			assert.Equal(t, c.Expect["reject"], r.Reject)
			if c.Input["exact"] != nil {
				e, err := ComputeExactIndependence(context.Background(), table, level, ExactOptions{})
				require.NoError(t, err)
				assert.True(t, c.NearProb(t, "exact_p_value", e.Exact.P.Value, e.Exact.P.Log10))
			}
			if len(table) == 2 && len(table[0]) == 2 {
				small++
				confidence := 0.95
				if c.Input["level"] != nil {
					confidence = workedcases.Float(t, c, "level")
				}
				checkTwoByTwo(t, c, [2][2]int64{{table[0][0], table[0][1]}, {table[1][0], table[1][1]}}, confidence)
			}
		})
	}
	assert.Positive(t, small)
}

func checkTwoByTwo(t *testing.T, c workedcases.Case, table [2][2]int64, confidence float64) {
	t.Helper()
	r, err := ComputeTwoByTwo(table, confidence)
	require.NoError(t, err)
	c.Near(t, "yates_statistic", r.Yates)
	c.NearProb(t, "yates_p_value", r.YatesP.Value, r.YatesP.Log10)
	nearTails(t, c, "fisher_", r.Fisher.Tails)
	c.Near(t, "phi", r.Phi)
	c.Near(t, "difference", r.Shares.Difference)
	nearInterval(t, c, "difference_wald", r.Shares.Wald)
	assert.True(t, nearInterval(t, c, "difference_newcombe", r.Shares.Newcombe))
	for _, e := range r.Effects {
		if e.Name == ConditionalOddsRatio && e.Value != nil {
			c.Near(t, "conditional_odds_ratio", *e.Value)
		}
	}
	if r.Shares.OddsRatioInterval != nil {
		c.Near(t, "odds_ratio", *r.Shares.OddsRatio)
		nearInterval(t, c, "odds_ratio_woolf", *r.Shares.OddsRatioInterval)
	}
	if r.Shares.RelativeRiskInterval != nil {
		c.Near(t, "relative_risk", *r.Shares.RelativeRisk)
		nearInterval(t, c, "relative_risk_log", *r.Shares.RelativeRiskInterval)
	}
}

func TestProportionReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "one_proportion") {
		t.Run(c.ID, func(t *testing.T) {
			r, err := ComputeProportion(ProportionInput{int64(workedcases.Float(t, c, "successes")), int64(workedcases.Float(t, c, "n")), workedcases.Float(t, c, "p0"), workedcases.Float(t, c, "level")})
			require.NoError(t, err)
			assert.True(t, c.Near(t, "estimate", r.Estimate) && c.Near(t, "se_null", r.StandardErrorNull) && c.Near(t, "z", r.Z))
			nearTails(t, c, "", r.Score)
			nearTails(t, c, "exact_", r.Exact)
			assert.True(t, c.Near(t, "z_cc", r.ZCorrected) && c.NearProb(t, "z_cc_two_sided_p_value", r.ZCorrectedP.Value, r.ZCorrectedP.Log10))
			in := c.Within("interval")
			for name, got := range map[string]Interval{"wald": r.Intervals.Wald, "agresti_coull": r.Intervals.AgrestiCoull, "wilson": r.Intervals.Wilson,
				"wilson_cc": r.Intervals.WilsonCorrected, "clopper_pearson": r.Intervals.ClopperPearson, "jeffreys": r.Intervals.Jeffreys} {
				assert.True(t, nearInterval(t, in, name, got), name)
			}
			for name, got := range map[string]Interval{"wald": r.Intervals.WaldUncut, "agresti_coull": r.Intervals.AgrestiCoullUncut} {
				assert.True(t, in.Within(name).Near(t, "lower_raw", got.Lower) && in.Within(name).Near(t, "upper_raw", got.Upper), name)
			}
		})
	}
}

func TestTwoProportionsReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "two_proportions") {
		t.Run(c.ID, func(t *testing.T) {
			whole := func(name string) int64 { return int64(workedcases.Float(t, c, name)) }
			r, err := ComputeTwoProportions(TwoProportionsInput{whole("x1"), whole("n1"), whole("x2"), whole("n2"), workedcases.Float(t, c, "level")})
			require.NoError(t, err)
			for name, got := range map[string]float64{"estimate_1": r.Estimate1, "estimate_2": r.Estimate2, "difference": r.Difference, "pooled": r.Pooled,
				"se_pooled": r.StandardErrorPooled, "se_unpooled": r.StandardErrorUnpooled} {
				assert.True(t, c.Near(t, name, got), name)
			}
			require.NotNil(t, r.Z)
			assert.True(t, c.Near(t, "z", *r.Z))
			nearTails(t, c, "", *r.Tails)
			assert.True(t, nearInterval(t, c, "wald", r.Wald) && nearInterval(t, c, "newcombe", r.Newcombe))
		})
	}
}

func TestPairedAndSimultaneousReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "mcnemar") {
		r, err := ComputePaired(workedcases.In[[2][2]int64](t, c, "table"))
		require.NoError(t, err)
		assert.True(t, c.Near(t, "statistic", r.Statistic) && c.Near(t, "statistic_cc", r.Corrected))
		for name, p := range map[string]prob.Prob{"p_value": r.P, "cc_p_value": r.CorrectedP, "exact_p_value": r.Exact, "mid_p_value": r.MidP} {
			c.NearProb(t, name, p.Value, p.Log10)
		}
	}
	for _, c := range workedcases.Load(t, "simultaneous") {
		r, err := ComputeSimultaneous(workedcases.In[[]int64](t, c, "observed"), 1-workedcases.Float(t, c, "alpha"))
		require.NoError(t, err)
		require.NotNil(t, r.SisonGlaz)
		assert.True(t, c.Within("sison_glaz").Near(t, "c", float64(r.SisonGlaz.C)))
		for name, got := range map[string][]Interval{"goodman": r.Goodman, "quesenberry_hurst": r.QuesenberryHurst, "sison_glaz": r.SisonGlaz.Intervals} {
			var lower, upper []float64
			for _, i := range got {
				lower, upper = append(lower, i.Lower), append(upper, i.Upper)
			}
			in := c.Within(name)
			require.NotNil(t, in.Expect)
			in.NearEach(t, "lower", lower)
			in.NearEach(t, "upper", upper)
		}
	}
}

func TestTablesRefuse(t *testing.T) {
	proportion := func(x, n int64, p, level float64) error {
		_, err := ComputeProportion(ProportionInput{x, n, p, level})
		return err
	}
	independence := func(table [][]int64, level float64) error { _, err := ComputeIndependence(table, level); return err }
	two := func(x1, n1, x2, n2 int64) error {
		_, err := ComputeTwoProportions(TwoProportionsInput{x1, n1, x2, n2, 0.95})
		return err
	}
	paired := func(table [2][2]int64) error { _, err := ComputePaired(table); return err }
	many := func(counts []int64, level float64) error { _, err := ComputeSimultaneous(counts, level); return err }
	for name, c := range map[string]struct {
		err error
		why Reason
		at  int
	}{
		"nobody asked":           {proportion(0, 0, 0.5, 0.95), NoObservations, -1},
		"more yes than asked":    {proportion(6, 5, 0.5, 0.95), MoreYesThanAsked, -1},
		"a claim of certainty":   {proportion(3, 5, 1, 0.95), ClaimedRange, -1},
		"a confidence of one":    {proportion(3, 5, 0.5, 1), LevelRange, -1},
		"ragged":                 {independence([][]int64{{1, 2}, {3}}, 0.05), RaggedTable, 1},
		"no table":               {independence(nil, 0.05), NoObservations, -1},
		"all zero":               {independence([][]int64{{0, 0}, {0, 0}}, 0.05), NoObservations, -1},
		"one row left":           {independence([][]int64{{1, 2}, {0, 0}}, 0.05), OneRowOrColumn, -1},
		"negative":               {independence([][]int64{{1, 2}, {0, -1}}, 0.05), NegativeCount, 1},
		"too many":               {independence([][]int64{{MaxCount, 2}, {0, 1}}, 0.05), CountTooLarge, 0},
		"level of zero":          {independence([][]int64{{1, 2}, {3, 4}}, 0), LevelRange, -1},
		"second group not asked": {two(1, 2, 0, 0), NoObservations, 1},
		"second group too many":  {two(1, 2, 4, 3), MoreYesThanAsked, 1},
		"nobody changed":         {paired([2][2]int64{{9, 0}, {0, 9}}), NobodyChanged, -1},
		"negative change":        {paired([2][2]int64{{9, 0}, {-1, 9}}), NegativeCount, 1},
		"one answer":             {many([]int64{3}, 0.95), OneAnswer, -1},
		"nobody gave any answer": {many([]int64{0, 0}, 0.95), NoObservations, -1},
	} {
		t.Run(name, func(t *testing.T) {
			var bad *InputError
			require.ErrorAs(t, c.err, &bad)
			assert.Equal(t, c.why, bad.Reason)
			assert.Equal(t, c.at, bad.Index)
		})
	}
}

// Laws of tables: turning rows into columns changes nothing, margins of the differences
// vanish, an empty row or column leaves, huge counts keep their digits.
func TestIndependenceLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 3))
	for range 200 {
		rows, columns := 2+rng.IntN(5), 2+rng.IntN(5)
		table, turned := make([][]int64, rows+1), make([][]int64, columns)
		for j := range columns {
			turned[j] = make([]int64, rows)
		}
		for i := range rows {
			table[i] = make([]int64, columns)
			for j := range columns {
				table[i][j] = 1 + rng.Int64N(90)
				turned[j][i] = table[i][j]
			}
		}
		table[rows] = make([]int64, columns)
		a, err := ComputeIndependence(table, 0.05)
		require.NoError(t, err)
		b, err := ComputeIndependence(turned, 0.05)
		require.NoError(t, err)
		assert.InEpsilon(t, 1+a.Statistic, 1+b.Statistic, 1e-12)
		assert.Equal(t, (rows-1)*(columns-1), a.DF, "the empty row left")
		assert.Len(t, a.RowsUsed, rows)
		// Three times the respondents: three times X² and G, the same sizes, residuals √3 times.
		for i := range rows {
			for j := range columns {
				turned[j][i] *= 3
			}
		}
		thrice, err := ComputeIndependence(turned, 0.05)
		require.NoError(t, err)
		assert.InEpsilon(t, 1+3*a.Statistic, 1+thrice.Statistic, 1e-12)
		assert.InDelta(t, a.CohensW, thrice.CohensW, 1e-12)
		assert.InDelta(t, math.Sqrt(3)*a.Cells[1][0].Adjusted, thrice.Cells[0][1].Adjusted, 1e-10)
		assert.LessOrEqual(t, a.CramersV, 1.0)
		assert.LessOrEqual(t, a.CramersVCorrected, a.CramersV+1e-12)
		for _, row := range a.Cells {
			sum := 0.0
			for _, cell := range row {
				sum += cell.Difference
			}
			assert.InDelta(t, 0, sum, 1e-10)
		}
	}
	const big = 250_000_000_000
	r, err := ComputeIndependence([][]int64{{big + 3, big - 3}, {big - 3, big + 3}}, 0.05)
	require.NoError(t, err)
	assert.InEpsilon(t, 4*9.0/big, r.Statistic, 1e-12)
}

func TestProportionEdgesAndDuality(t *testing.T) {
	for _, x := range []int64{0, 1, 7, 19, 20} {
		r, err := ComputeProportion(ProportionInput{x, 20, 0.3, 0.95})
		require.NoError(t, err)
		for _, i := range []Interval{r.Intervals.Wald, r.Intervals.AgrestiCoull, r.Intervals.Wilson, r.Intervals.WilsonCorrected, r.Intervals.ClopperPearson, r.Intervals.Jeffreys} {
			assert.True(t, i.Lower >= 0 && i.Upper <= 1 && i.Lower <= i.Upper, "%d of 20: %v", x, i)
		}
		// Wilson's interval holds exactly the claims that the score test keeps.
		for claimed := 0.01; claimed < 1; claimed += 0.07 {
			s, err := ComputeProportion(ProportionInput{x, 20, claimed, 0.95})
			require.NoError(t, err)
			assert.Equal(t, !s.Score.TwoSided.AtMost(0.05), r.Intervals.Wilson.Contains(claimed), "%d of 20 against %g", x, claimed)
		}
	}
	nobody, err := ComputeTwoProportions(TwoProportionsInput{0, 9, 0, 12, 0.95})
	require.NoError(t, err)
	assert.Nil(t, nobody.Z, "no z where the pooled standard error is 0")
	assert.Nil(t, nobody.RelativeRisk)
	assert.Nil(t, nobody.OddsRatio)
	assert.False(t, math.IsNaN(nobody.Newcombe.Lower+nobody.Newcombe.Upper))
}
