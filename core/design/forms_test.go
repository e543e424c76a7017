package design

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// village is a random design of clusters in strata, with an answer of four and a group of three.
func village(r *rand.Rand, n int) (c Columns, answer, group []int) {
	c = Columns{Rows: n, Weights: make([]float64, n), Strata: make([]int, n), Clusters: make([]int, n)}
	for i := range n {
		c.Clusters[i] = i % 30
		c.Strata[i] = c.Clusters[i] % 5
		c.Weights[i] = 0.5 + 2*r.Float64()
		answer, group = append(answer, (r.IntN(4)+r.IntN(2)*c.Clusters[i])%4), append(group, r.IntN(3))
	}
	return c, answer, group
}

// What is made of the totals of cells is what is made respondent by respondent: ratios, means of groups,
// slopes, items; for clusters and for respondents who were drawn alone.
func TestCellsAgainstRows(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(3, 5))
	for range 20 {
		c, answer, group := village(r, 300)
		if r.IntN(2) == 0 {
			c.Clusters = nil
		}
		s, err := New(c)
		require.NoError(t, err)
		cells, err := s.Cells(12, func(row int) int { return answer[row]*3 + group[row] })
		require.NoError(t, err)
		score := func(cell int) float64 { return float64(cell / 3) }
		at := func(cell int) int { return cell % 3 }
		g := cells.Groups(3, score, at)
		for i := range 3 {
			m, err := s.Mean(s.Of(func(row int) (float64, bool) { return float64(answer[row]), group[row] == i }))
			require.NoError(t, err)
			near(t, m.Mean, g.Value[i], 1e-12, "mean of a group")
			near(t, m.Variance, g.Covariance[i][i], 1e-10, "its variance")
		}
		slope, _, err := cells.Slope(score, func(cell int) float64 { return float64(cell % 3) })
		require.NoError(t, err)
		trend, err := s.Trend(func(row int) (float64, int, bool) { return float64(answer[row]), group[row], true }, []float64{0, 1, 2})
		require.NoError(t, err)
		near(t, trend.Slope.Value, slope.Value, 1e-10, "slope")
		near(t, trend.Slope.Variance, slope.Variance, 1e-10, "its variance")
		items, err := s.Items(2, func(row int) (uint64, bool) {
			set := uint64(0)
			if answer[row] == 1 {
				set |= 1
			}
			if group[row] == 2 {
				set |= 2
			}
			return set, true
		})
		require.NoError(t, err)
		two, err := cells.Compare(
			func(cell int) (bool, bool) { return cell/3 == 1, true }, func(cell int) (bool, bool) { return cell%3 == 2, true },
		)
		require.NoError(t, err)
		near(t, two.A.Mean, items.Share[0], 1e-12, "share of an item")
		d, v, _ := items.Apart()
		near(t, two.Difference.Value, d[0], 1e-10, "difference of items")
		near(t, two.Difference.Variance, v[0][0], 1e-10, "its variance")
		slopes, total := cells.ShareSlope(4), 0.0
		for _, part := range cells.ByStratum(slopes) {
			total += part.Variance
		}
		near(t, cells.Shares().Covariance[4][4], total, 1e-10, "the strata add up")
		part := cells.Part(4, func(cell int) (int, bool) { return cell / 3, cell%3 == 1 }).Shares()
		alone, err := s.Cells(4, func(row int) int {
			if group[row] != 1 {
				return None
			}
			return answer[row]
		})
		require.NoError(t, err)
		scores := []float64{2, 3, 5, 9}
		scored := s.Of(func(row int) (float64, bool) { return scores[answer[row]], group[row] == 1 })
		byRows, err := s.Mean(scored)
		require.NoError(t, err)
		byCells := alone.Mean(scores)
		near(t, byRows.Variance, byCells.Variance, 1e-10, "variance of a mean")
		near(t, *byRows.SD, *byCells.SD, 1e-12, "spread")
		near(t, *byRows.DesignEffect, *byCells.DesignEffect, 1e-9, "its effect")
		_, quartiles, err := s.Quantiles(scored, []float64{0.25, 0.5, 0.75}, 0.95)
		require.NoError(t, err)
		for i, q := range alone.Quantiles(scores, []float64{0.25, 0.5, 0.75}, 0.95) {
			near(t, quartiles[i].CDFStandardError, q.CDFStandardError, 1e-10, "share up to a quartile")
			assert.Equal(t, []any{quartiles[i].Quantile, quartiles[i].Lower, quartiles[i].Upper}, []any{q.Quantile, q.Lower, q.Upper})
		}
		for j, p := range alone.Shares().Share {
			near(t, p, part.Share[j], 1e-12, "a part of cells")
			near(t, alone.Shares().Covariance[j][j], part.Covariance[j][j], 1e-10, "its variance")
		}
	}
}

// Counts with a design effect have the variance of a simple random sample times it.
func TestCountsWithAnEffect(t *testing.T) {
	t.Parallel()
	c, err := Counted([]int64{30, 50, 20}, 2.5)
	require.NoError(t, err)
	s := c.Shares()
	near(t, 2.5*0.3*0.7/99, s.Covariance[0][0], 1e-12, "variance")
	near(t, -2.5*0.3*0.5/99, s.Covariance[0][1], 1e-12, "covariance")
	near(t, 2.5, *s.One(0).Uncertainty(0.95).DesignEffect, 1e-12, "effect")
	assert.Equal(t, 99, c.DF)
	_, err = Counted([]int64{0, 0}, 2)
	assert.ErrorContains(t, err, string(EmptyBase))
}

// The numbers of a population give the fractions that they come to.
func TestPopulationsAreFractions(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(9, 9))
	c, answer, _ := village(r, 300)
	shares := func(change func(*Columns)) Matrix {
		d := c
		change(&d)
		s, err := New(d)
		require.NoError(t, err)
		cells, err := s.Cells(4, func(row int) int { return answer[row] })
		require.NoError(t, err)
		return cells.Shares().Covariance
	}
	// Six clusters in each stratum.
	of := shares(func(c *Columns) { c.Populations = []float64{12, 24, 60, 6, 600} })
	by := shares(func(c *Columns) { c.Fractions = []float64{0.5, 0.25, 0.1, 1, 0.01} })
	for j := range of {
		near(t, by[j][j], of[j][j], 1e-12, "variance")
	}
}

// Rows are counted in parts whose sums are the same however many processors there are, and as one after
// the other; the middle of ranks is a half.
func TestPartsAddUp(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(1, 8))
	const n = 5 * fewestRows
	c := Columns{Rows: n, Weights: make([]float64, n), Strata: make([]int, n)}
	answer := make([]int, n)
	var plain [3]Sum
	for i := range n {
		c.Weights[i], c.Strata[i], answer[i] = math.Exp(3*r.NormFloat64()), r.IntN(4), r.IntN(3)
		plain[answer[i]].Add(c.Weights[i])
	}
	clustered := c
	clustered.Clusters = make([]int, n)
	for i := range n {
		clustered.Clusters[i] = r.IntN(1000)
	}
	for _, columns := range []Columns{c, clustered} {
		s, err := New(columns)
		require.NoError(t, err)
		first, err := s.Cells(3, func(row int) int { return answer[row] })
		require.NoError(t, err)
		again, err := s.Cells(3, func(row int) int { return answer[row] })
		require.NoError(t, err)
		assert.Equal(t, first.Digest(), again.Digest())
		for j, total := range first.Total {
			near(t, plain[j].Value(), total, 1e-12, "sum of weights")
		}
		shares := first.Shares().Share
		ranks, middle := MidRanks(shares), 0.0
		for j, p := range shares {
			middle += p * ranks[j]
		}
		near(t, 0.5, middle, 1e-12, "mean rank")
	}
}
