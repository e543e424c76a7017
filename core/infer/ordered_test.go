package infer

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

func named(effects []Effect) map[EffectName]Effect {
	m := map[EffectName]Effect{}
	for _, e := range effects {
		m[e.Name] = e
	}
	return m
}

func TestAssociationReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "association") {
		t.Run(c.ID, func(t *testing.T) {
			table := workedcases.In[[][]int64](t, c, "table")
			r, err := ComputeOrdered(OrderedInput{Table: table, Level: 0.05})
			require.NoError(t, err)
			full, err := ComputeIndependence(table, 0.05)
			require.NoError(t, err)
			effects := named(append(r.Effects, full.Effects...))
			for name, effect := range map[string]EffectName{"gamma": Gamma, "kendall_tau_b": TauB, "stuart_tau_c": TauC, "somers_d_columns_given_rows": SomersColumns,
				"somers_d_rows_given_columns": SomersRows, "somers_d_symmetric": SomersSymmetric, "lambda_columns_given_rows": LambdaColumns,
				"lambda_rows_given_columns": LambdaRows, "lambda_symmetric": LambdaSymmetric} {
				require.NotNil(t, effects[effect].Value, name)
				assert.True(t, c.Near(t, name, *effects[effect].Value), name)
			}
			assert.True(t, c.Near(t, "concordant", r.Concordant) && c.Near(t, "discordant", r.Discordant))
			assert.True(t, c.Near(t, "score_correlation", r.Trend.Correlation) && c.Near(t, "linear_by_linear_statistic", r.Trend.Statistic))
			assert.True(t, c.NearProb(t, "linear_by_linear_p_value", r.Trend.P.Value, r.Trend.P.Log10))
			if len(table) == 2 {
				assert.True(t, c.Near(t, "trend_z", r.Proportions.Z) && c.Near(t, "trend_statistic", r.Proportions.Statistic))
				c.NearProb(t, "trend_two_sided_p_value", r.Proportions.Tails.TwoSided.Value, r.Proportions.Tails.TwoSided.Log10)
			}
		})
	}
}

func randomTable(rng *rand.Rand, rows, columns int, upTo int64) [][]int64 {
	table := make([][]int64, rows)
	for i := range table {
		for range columns {
			table[i] = append(table[i], rng.Int64N(upTo))
		}
		table[i][rng.IntN(columns)]++
	}
	return table
}

// The standard errors come from derivatives written out by hand; here each measure is
// differentiated numerically instead, by adding and taking away a little of each cell.
func TestDeltaMethodAgainstNumericalDerivatives(t *testing.T) {
	measures := map[EffectName]func(n [][]float64) float64{
		Gamma: func(n [][]float64) float64 { p, q, _, _, _ := pairCounts(n); return (p - q) / (p + q) },
		TauB: func(n [][]float64) float64 {
			p, q, dr, dc, _ := pairCounts(n)
			return (p - q) / math.Sqrt(dr*dc)
		},
		TauC:          func(n [][]float64) float64 { p, q, _, _, all := pairCounts(n); return (p - q) / (all * all) * 3 / 2 },
		SomersColumns: func(n [][]float64) float64 { p, q, dr, _, _ := pairCounts(n); return (p - q) / dr },
		SomersRows:    func(n [][]float64) float64 { p, q, _, dc, _ := pairCounts(n); return (p - q) / dc },
		SomersSymmetric: func(n [][]float64) float64 {
			p, q, dr, dc, _ := pairCounts(n)
			return (p - q) / ((dr + dc) / 2)
		},
		UncertaintyColumns: func(n [][]float64) float64 { r, c, rc := entropies(n); return (r + c - rc) / c },
		UncertaintyRows:    func(n [][]float64) float64 { r, c, rc := entropies(n); return (r + c - rc) / r },
		UncertaintySymmetric: func(n [][]float64) float64 {
			r, c, rc := entropies(n)
			return 2 * (r + c - rc) / (r + c)
		},
		LambdaColumns: func(n [][]float64) float64 {
			sum, best, all := bestGuess(n)
			return (sum - best) / (all - best)
		},
	}
	table := [][]int64{{20, 14, 6, 9}, {11, 17, 13, 2}, {4, 12, 25, 21}}
	full, err := ComputeIndependence(table, 0.05)
	require.NoError(t, err)
	ordered, err := ComputeOrdered(OrderedInput{Table: table, Level: 0.05})
	require.NoError(t, err)
	effects := named(append(full.Effects, ordered.Effects...))
	z := prob.NormalUpperQuantile(0.025)
	for name, f := range measures {
		n := make([][]float64, len(table))
		for i, row := range table {
			for _, o := range row {
				n[i] = append(n[i], float64(o))
			}
		}
		const h = 1e-4
		variance := 0.0
		for i := range n {
			for j, o := range n[i] {
				n[i][j] = o + h
				up := f(n)
				n[i][j] = o - h
				down := f(n)
				n[i][j] = o
				variance += o * (up - down) / (2 * h) * (up - down) / (2 * h)
			}
		}
		e := effects[name]
		require.NotNil(t, e.Interval, name)
		assert.InEpsilon(t, f(n), *e.Value, 1e-12, name)
		assert.InEpsilon(t, math.Sqrt(variance), (e.Interval.Upper-e.Interval.Lower)/2/z, 1e-6, name)
	}
}

// pairCounts goes through all pairs of cells.
func pairCounts(n [][]float64) (p, q, dr, dc, all float64) {
	for i := range n {
		for j := range n[i] {
			all += n[i][j]
			for k := range n {
				for l := range n[k] {
					pair := n[i][j] * n[k][l]
					if (i-k)*(j-l) > 0 {
						p += pair
					} else if (i-k)*(j-l) < 0 {
						q += pair
					}
					if i != k {
						dr += pair
					}
					if j != l {
						dc += pair
					}
				}
			}
		}
	}
	return
}

func entropies(n [][]float64) (r, c, rc float64) {
	all, columns := 0.0, make([]float64, len(n[0]))
	for _, row := range n {
		for j, o := range row {
			all, columns[j] = all+o, columns[j]+o
		}
	}
	h := func(x float64) float64 { return -x / all * math.Log(x/all) }
	for _, row := range n {
		sum := 0.0
		for _, o := range row {
			sum, rc = sum+o, rc+h(o)
		}
		r += h(sum)
	}
	for _, x := range columns {
		c += h(x)
	}
	return
}

func bestGuess(n [][]float64) (sum, best, all float64) {
	columns := make([]float64, len(n[0]))
	for _, row := range n {
		own := 0.0
		for j, o := range row {
			own, all, columns[j] = math.Max(own, o), all+o, columns[j]+o
		}
		sum += own
	}
	for _, x := range columns {
		best = math.Max(best, x)
	}
	return
}

// Laws: turning the order of the answers round turns the sign of every measure; two
// groups ranked by Kruskal and Wallis give the square of the rank test's z; the chance of
// standing higher is U over the pairs; two columns make H the trend on ranks.
func TestOrderedLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	for range 150 {
		table := randomTable(rng, 2+rng.IntN(3), 2+rng.IntN(4), 25)
		flipped := make([][]int64, len(table))
		for i, row := range table {
			for j := range row {
				flipped[i] = append(flipped[i], row[len(row)-1-j])
			}
		}
		a, err := ComputeOrdered(OrderedInput{Table: table, Level: 0.05})
		if err != nil {
			continue // all answers alike
		}
		b, err := ComputeOrdered(OrderedInput{Table: flipped, Level: 0.05})
		require.NoError(t, err)
		assert.InDelta(t, a.Trend.Correlation, -b.Trend.Correlation, 1e-12)
		assert.InDelta(t, a.Ranks.H, b.Ranks.H, 1e-9*(1+a.Ranks.H))
		turned := named(b.Effects)
		for _, e := range a.Effects {
			if e.Value != nil {
				require.NotNil(t, turned[e.Name].Value)
				assert.InDelta(t, *e.Value, -*turned[e.Name].Value, 1e-12)
				assert.True(t, math.Abs(*e.Value) <= 1+1e-12, "%s %v", e.Name, *e.Value)
			}
		}
		if len(table) == 2 {
			p := a.Ranks.Pair
			assert.InDelta(t, a.Ranks.H, p.Z*p.Z, 1e-9*(1+a.Ranks.H))
			if v := p.Superiority.Value; v != nil {
				pairs := p.Mean * 2
				assert.InDelta(t, p.U/pairs, *v, 1e-12)
			}
			assert.InDelta(t, a.Proportions.Z, math.Sqrt(float64(a.N))*a.Trend.Correlation, 1e-9)
		}
	}
}

// Without ties, by hand: groups {1, 2, 4} and {3, 5, 6} have rank sums 7 and 14, so
// H = 12/(6·7)·(49/3 + 196/3) − 3·7 = 7/3, U of the second 14 − 6 = 8 of 9 pairs.
func TestRanksByHand(t *testing.T) {
	r, err := ComputeOrdered(OrderedInput{Table: [][]int64{{1, 1, 0, 1, 0, 0}, {0, 0, 1, 0, 1, 1}}, Level: 0.05})
	require.NoError(t, err)
	assert.InEpsilon(t, 7.0/3, r.Ranks.H, 1e-14)
	assert.Equal(t, 8.0, r.Ranks.Pair.U)
	assert.InEpsilon(t, 3.5/math.Sqrt(5.25), r.Ranks.Pair.Z, 1e-14)
	assert.InEpsilon(t, 3.0/math.Sqrt(5.25), r.Ranks.Pair.Corrected.Z, 1e-14)
	assert.InDeltaSlice(t, []float64{7.0 / 3, 14.0 / 3}, r.Ranks.MeanRanks, 1e-14)
}

func TestOrderedRefuses(t *testing.T) {
	for name, c := range map[string]struct {
		in  OrderedInput
		why Reason
	}{
		"scores of another length": {OrderedInput{Table: [][]int64{{1, 2}, {3, 4}}, ColumnScores: []float64{1}, Level: 0.05}, ScoresLength},
		"a score that is none":     {OrderedInput{Table: [][]int64{{1, 2}, {3, 4}}, RowScores: []float64{1, math.Inf(1)}, Level: 0.05}, ScoresNotFinite},
		"one row":                  {OrderedInput{Table: [][]int64{{1, 2}}, Level: 0.05}, OneRowOrColumn},
	} {
		_, err := ComputeOrdered(c.in)
		var bad *InputError
		require.ErrorAs(t, err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
	}
	r, err := ComputeOrdered(OrderedInput{Table: [][]int64{{1, 2}, {3, 4}}, ColumnScores: []float64{2, 2}, Level: 0.05})
	require.NoError(t, err)
	assert.Nil(t, r.Trend)
	assert.Equal(t, ScoresEqual, r.WhyNoTrend)
}
