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

func TestAgreementReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "agreement") {
		confidence := 0.95
		if c.Input["level"] != nil {
			confidence = workedcases.Float(t, c, "level")
		}
		r, err := ComputeAgreement(workedcases.In[[][]int64](t, c, "table"), confidence)
		require.NoError(t, err)
		assert.True(t, c.Near(t, "bowker_statistic", r.Symmetry.Statistic) && c.Near(t, "bowker_df", float64(r.Symmetry.DF)))
		assert.True(t, c.NearProb(t, "bowker_p_value", r.Symmetry.P.Value, r.Symmetry.P.Log10))
		for name, got := range map[string]float64{"observed_agreement": r.Kappa.Observed, "expected_agreement": r.Kappa.Expected, "kappa": r.Kappa.Value,
			"kappa_se": r.Kappa.StandardError, "kappa_se_null": r.Kappa.StandardErrorNull, "kappa_z": *r.Kappa.Z} {
			assert.True(t, c.Near(t, name, got), name)
		}
		assert.True(t, c.NearProb(t, "kappa_two_sided_p_value", r.Kappa.P.Value, r.Kappa.P.Log10))
		assert.True(t, nearInterval(t, c, "kappa_interval", *r.Kappa.Interval))
	}
}

// plainKappa is kappa of shares by its definition, with any weights.
func plainKappa(n [][]float64, weight func(i, j int) float64) float64 {
	k := len(n)
	rows, columns, all := make([]float64, k), make([]float64, k), 0.0
	for i := range n {
		for j, o := range n[i] {
			rows[i], columns[j], all = rows[i]+o, columns[j]+o, all+o
		}
	}
	var observed, expected float64
	for i := range n {
		for j, o := range n[i] {
			observed += weight(i, j) * o / all
			expected += weight(i, j) * rows[i] / all * columns[j] / all
		}
	}
	return (observed - expected) / (1 - expected)
}

// Kappa's standard errors against numerical derivatives; the one with quadratic weights
// is twice the covariance of the answers over their variances and the square of the
// difference of their means (Fleiss and Cohen 1973); for two answers weights change nothing.
func TestKappaAgainstItsDefinitions(t *testing.T) {
	table := [][]int64{{33, 6, 2, 1}, {4, 28, 9, 3}, {1, 7, 25, 4}, {0, 2, 5, 20}}
	r, err := ComputeAgreement(table, 0.95)
	require.NoError(t, err)
	apart := func(i, j int) float64 { return math.Abs(float64(i-j)) / 3 }
	for name, c := range map[string]struct {
		got    *Kappa
		weight func(i, j int) float64
	}{
		"plain": {r.Kappa, func(i, j int) float64 {
			if i == j {
				return 1
			}
			return 0
		}},
		"linear":    {r.KappaLinear, func(i, j int) float64 { return 1 - apart(i, j) }},
		"quadratic": {r.KappaQuadratic, func(i, j int) float64 { return 1 - apart(i, j)*apart(i, j) }},
	} {
		n := make([][]float64, len(table))
		for i, row := range table {
			for _, o := range row {
				n[i] = append(n[i], float64(o))
			}
		}
		assert.InEpsilon(t, plainKappa(n, c.weight), c.got.Value, 1e-12, name)
		const h = 1e-4
		variance := 0.0
		for i := range n {
			for j, o := range n[i] {
				n[i][j] = o + h
				up := plainKappa(n, c.weight)
				n[i][j] = o - h
				g := (up - plainKappa(n, c.weight)) / (2 * h)
				n[i][j] = o
				variance += o * g * g
			}
		}
		assert.InEpsilon(t, math.Sqrt(variance), c.got.StandardError, 1e-6, name)
	}
	var n, x, y, xx, yy, xy float64
	for i, row := range table {
		for j, o := range row {
			w, a, b := float64(o), float64(i), float64(j)
			n, x, y, xx, yy, xy = n+w, x+w*a, y+w*b, xx+w*a*a, yy+w*b*b, xy+w*a*b
		}
	}
	x, y = x/n, y/n
	assert.InEpsilon(t, 2*(xy/n-x*y)/(xx/n-x*x+yy/n-y*y+(x-y)*(x-y)), r.KappaQuadratic.Value, 1e-12)
	two, err := ComputeAgreement([][]int64{{20, 5}, {9, 31}}, 0.95)
	require.NoError(t, err)
	assert.InEpsilon(t, two.Kappa.Value, two.KappaLinear.Value, 1e-13)
	assert.InEpsilon(t, two.Kappa.StandardErrorNull, two.KappaQuadratic.StandardErrorNull, 1e-13)
}

// For two answers Bowker's and Stuart and Maxwell's tests are McNemar's. For three the
// latter has a closed form (Fleiss and Everitt 1971, Comparing the marginal totals of
// square contingency tables). Swapping the two occasions changes nothing.
func TestMarginsLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 1))
	for range 200 {
		b, c := 1+rng.Int64N(30), rng.Int64N(30)
		two, err := ComputeAgreement([][]int64{{rng.Int64N(50), b}, {c, rng.Int64N(50)}}, 0.95)
		require.NoError(t, err)
		for _, got := range []float64{two.Symmetry.Statistic, two.Margins.Statistic} {
			assert.InDelta(t, two.McNemar.Statistic, got, 1e-12*(1+got))
		}
		table := randomTable(rng, 3, 3, 30)
		var d, mean [3]float64 // differences of the margins; halves of the exchanges of the other two
		for i := range 3 {
			for j := range 3 {
				d[i] += float64(table[i][j] - table[j][i])
				if i < j {
					mean[3-i-j] = float64(table[i][j]+table[j][i]) / 2
				}
			}
		}
		turned := [][]int64{{table[0][0], table[1][0], table[2][0]}, {table[0][1], table[1][1], table[2][1]}, {table[0][2], table[1][2], table[2][2]}}
		r, err := ComputeAgreement(table, 0.95)
		require.NoError(t, err)
		if mean[0]*mean[1]*mean[2] == 0 {
			continue
		}
		want := (mean[0]*d[0]*d[0] + mean[1]*d[1]*d[1] + mean[2]*d[2]*d[2]) / (2 * (mean[0]*mean[1] + mean[0]*mean[2] + mean[1]*mean[2]))
		assert.InDelta(t, want, r.Margins.Statistic, 1e-11*(1+want))
		assert.Equal(t, 2, r.Margins.DF)
		back, err := ComputeAgreement(turned, 0.95)
		require.NoError(t, err)
		assert.InDelta(t, r.Margins.Statistic, back.Margins.Statistic, 1e-11*(1+want))
		assert.InDelta(t, r.Symmetry.Statistic, back.Symmetry.Statistic, 1e-11*(1+want))
		assert.InDelta(t, r.KappaLinear.Value, back.KappaLinear.Value, 1e-12)
	}
}

func TestAgreementEdges(t *testing.T) {
	same, err := ComputeAgreement([][]int64{{9, 0}, {0, 5}}, 0.95)
	require.NoError(t, err)
	assert.Nil(t, same.Symmetry)
	assert.Equal(t, NobodyChanged, same.WhyNoMargins)
	assert.Nil(t, same.McNemar)
	assert.Equal(t, 1.0, same.Kappa.Value)
	assert.Nil(t, same.Kappa.Interval, "no interval at the edge")
	one, err := ComputeAgreement([][]int64{{9, 0}, {0, 0}}, 0.95)
	require.NoError(t, err)
	assert.Nil(t, one.Kappa)
	assert.Equal(t, Perfect, one.WhyNoKappa)
	// Answers 1 and 2 change places among themselves, and so do 3 and 4: two groups.
	apart, err := ComputeAgreement([][]int64{{1, 2, 0, 0}, {3, 1, 0, 0}, {0, 0, 1, 4}, {0, 0, 5, 1}}, 0.95)
	require.NoError(t, err)
	assert.Nil(t, apart.Margins)
	assert.Equal(t, NoVariation, apart.WhyNoMargins)
	for name, c := range map[string]struct {
		table [][]int64
		why   Reason
	}{"not square": {[][]int64{{1, 2}, {3, 4}, {5, 6}}, NotSquare}, "one answer": {[][]int64{{4}}, NotSquare}, "nobody": {[][]int64{{0, 0}, {0, 0}}, NoObservations}, "negative": {[][]int64{{0, 1}, {-1, 0}}, NegativeCount}} {
		_, err := ComputeAgreement(c.table, 0.95)
		var bad *InputError
		require.ErrorAs(t, err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
	}
}

// Two items make Cochran's Q McNemar's statistic. By hand: of three items, 4 people chose
// only the first, 2 the first two, 1 only the third: C = (6, 2, 1), T = 9,
// Σ R² = 4 + 8 + 1 = 13, Q = 2(3·41 − 81)/(27 − 13) = 6.
func TestChosenItems(t *testing.T) {
	hand := []ChosenPattern{{[]bool{true, false, false}, 4}, {[]bool{true, true, false}, 2}, {[]bool{false, false, true}, 1}}
	r, err := ComputeCochranQ(hand, 0.05)
	require.NoError(t, err)
	assert.InEpsilon(t, 6.0, r.Statistic, 1e-14)
	assert.Equal(t, []int64{6, 2, 1}, r.Items)
	assert.InEpsilon(t, math.Exp(-3), r.P.Value, 1e-13, "upper tail of 6 with 2 degrees of freedom")
	assert.True(t, r.Reject)
	more, err := ComputeCochranQ(append(hand, ChosenPattern{[]bool{true, true, true}, 900}, ChosenPattern{[]bool{false, false, false}, 50}), 0.05)
	require.NoError(t, err)
	assert.Equal(t, r.Statistic, more.Statistic, "all or nothing says nothing about which")
	assert.Equal(t, int64(7), more.Bearing)
	for _, c := range []struct {
		patterns []ChosenPattern
		why      Reason
	}{
		{nil, NoObservations}, {[]ChosenPattern{{[]bool{true}, 3}}, OneAnswer}, {append(hand, ChosenPattern{[]bool{true}, 1}), RaggedTable},
		{[]ChosenPattern{{[]bool{true, true}, 3}}, NoVariation}, {[]ChosenPattern{{[]bool{true, false}, -3}}, NegativeCount},
	} {
		_, err := ComputeCochranQ(c.patterns, 0.05)
		var bad *InputError
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, c.why, bad.Reason)
	}
}

func TestLayersReference(t *testing.T) {
	for _, c := range workedcases.Load(t, "cmh") {
		confidence := 0.95
		if c.Input["level"] != nil {
			confidence = workedcases.Float(t, c, "level")
		}
		r, err := ComputeMantelHaenszel(workedcases.In[[][2][2]int64](t, c, "strata"), confidence)
		require.NoError(t, err)
		for name, got := range map[string]float64{"statistic": r.Statistic, "statistic_cc": r.Corrected, "common_odds_ratio": *r.CommonOddsRatio, "log_odds_ratio_se": *r.LogStandardError,
			"breslow_day_statistic": r.Homogeneity.Statistic, "breslow_day_df": float64(r.Homogeneity.DF), "tarone_statistic": r.Homogeneity.Tarone} {
			assert.True(t, c.Near(t, name, got), name)
		}
		for name, p := range map[string]prob.Prob{"p_value": r.P, "cc_p_value": r.CorrectedP, "breslow_day_p_value": r.Homogeneity.P, "tarone_p_value": r.Homogeneity.TaroneP} {
			assert.True(t, c.NearProb(t, name, p.Value, p.Log10), name)
		}
		assert.True(t, nearInterval(t, c, "common_odds_ratio_interval", *r.Interval))
	}
}

// One layer alone gives (n − 1)/n of Pearson's statistic and its own odds ratio; layers
// all alike have no heterogeneity; turning the groups round inverts the odds ratio; an
// empty margin leaves its layer out.
func TestLayersLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 2))
	for range 100 {
		var one [2][2]int64
		for i := range 4 {
			one[i/2][i%2] = 1 + rng.Int64N(60)
		}
		r, err := ComputeMantelHaenszel([][2][2]int64{one}, 0.95)
		require.NoError(t, err)
		full, err := ComputeIndependence([][]int64{one[0][:], one[1][:]}, 0.05)
		require.NoError(t, err)
		n := float64(full.N)
		assert.InDelta(t, full.Statistic*(n-1)/n, r.Statistic, 1e-11*(1+full.Statistic))
		assert.InEpsilon(t, *r.Layers[0].OddsRatio, *r.CommonOddsRatio, 1e-13)
		assert.Nil(t, r.Homogeneity)
		three, err := ComputeMantelHaenszel([][2][2]int64{one, one, {{0, 0}, {4, 5}}, one}, 0.95)
		require.NoError(t, err)
		assert.True(t, three.Layers[2].LeftOut)
		assert.Equal(t, 2, three.Homogeneity.DF)
		assert.InDelta(t, 0, three.Homogeneity.Statistic, 1e-9)
		assert.InEpsilon(t, *r.LogStandardError/math.Sqrt(3), *three.LogStandardError, 1e-12)
		turned, err := ComputeMantelHaenszel([][2][2]int64{{one[1], one[0]}}, 0.95)
		require.NoError(t, err)
		assert.InEpsilon(t, 1, *turned.CommonOddsRatio**r.CommonOddsRatio, 1e-12)
	}
	// Margins as unlike as they can be: the fitted cells still have the odds ratio.
	for _, c := range []struct{ psi, row, column, n float64 }{{2.5, 40, 30, 100}, {1e-9, 1e12, 1e12, 1.5e12}, {1e12, 1e9, 7, 1e9 + 30}, {3, 1e9 + 1, 1e9 + 3, 1e9 + 24}, {1, 5, 8, 20}} {
		f := withOddsRatio(c.psi, c.row, c.column, c.n)
		assert.InEpsilon(t, c.psi, f[0]/f[1]*(f[3]/f[2]), 1e-12, "%+v", c)
		assert.InEpsilon(t, c.row, f[0]+f[1], 1e-12)
		assert.InEpsilon(t, c.column, f[0]+f[2], 1e-12)
		assert.InEpsilon(t, c.n, f[0]+f[1]+f[2]+f[3], 1e-12)
	}
	unlike, err := ComputeMantelHaenszel([][2][2]int64{{{1_000_000_000, 1}, {3, 20}}, {{999, 0}, {20, 20}}}, 0.95)
	require.NoError(t, err)
	assert.True(t, unlike.Homogeneity.P.Value >= 0 && unlike.Homogeneity.P.Value <= 1)
	// By hand: E = 4·3/9, least 0 and most 3, so that 4/3 and 5/3 are the ways it could go.
	small, err := ComputeMantelHaenszel([][2][2]int64{{{2, 2}, {1, 4}}}, 0.95)
	require.NoError(t, err)
	assert.Equal(t, RoomAtLeast, small.Conditions[0].Name)
	assert.InEpsilon(t, 4.0/3, small.Conditions[0].Found, 1e-14)
	assert.False(t, small.Conditions[0].Met)
	bare, err := ComputeMantelHaenszel([][2][2]int64{{{5, 0}, {2, 3}}}, 0.95)
	require.NoError(t, err)
	assert.Nil(t, bare.CommonOddsRatio, "nothing against")
	for _, c := range []struct {
		tables [][2][2]int64
		why    Reason
	}{{nil, NoVariation}, {[][2][2]int64{{{0, 0}, {1, 2}}}, NoVariation}, {[][2][2]int64{{{-1, 0}, {1, 2}}}, NegativeCount}} {
		_, err := ComputeMantelHaenszel(c.tables, 0.95)
		var bad *InputError
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, c.why, bad.Reason)
	}
}
