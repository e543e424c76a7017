package design

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
)

// drawnAtRandom is an invented survey: clusters within strata, unequal weights, answers that clusters
// share, some of them missing.
type drawnAtRandom struct {
	Columns
	answer []int
	domain []bool
	number []float64
}

func draw(r *rand.Rand) (d drawnAtRandom) {
	strata := 2 + r.IntN(3)
	for h := range strata {
		for u := range 4 + r.IntN(6) {
			lean := r.Float64()
			for range 2 + r.IntN(9) {
				d.Strata, d.Clusters = append(d.Strata, h), append(d.Clusters, u)
				d.Weights = append(d.Weights, 0.2+2*r.Float64())
				answer := r.IntN(3)
				if r.Float64() < lean {
					answer = h % 3
				}
				if r.Float64() < 0.1 {
					answer = None
				}
				d.answer, d.domain = append(d.answer, answer), append(d.domain, r.Float64() < 0.6)
				d.number = append(d.number, float64(answer)*3+r.NormFloat64())
			}
		}
		d.Fractions = append(d.Fractions, 0.3*r.Float64())
	}
	d.Rows = len(d.Weights)
	return d
}

// in gives the rows in another order.
func (d drawnAtRandom) in(order []int) drawnAtRandom {
	out := drawnAtRandom{Columns: Columns{Rows: d.Rows, Fractions: d.Fractions}}
	for _, i := range order {
		out.Strata, out.Clusters, out.Weights = append(
			out.Strata,
			d.Strata[i],
		), append(
			out.Clusters,
			d.Clusters[i],
		), append(
			out.Weights,
			d.Weights[i],
		)
		out.answer, out.domain = append(out.answer, d.answer[i]), append(out.domain, d.domain[i])
	}
	return out
}

func (d drawnAtRandom) shares(t *testing.T) *Shares {
	t.Helper()
	s, err := New(d.Columns)
	require.NoError(t, err)
	c, err := s.Cells(3, func(row int) int { return d.answer[row] })
	require.NoError(t, err)
	return c.Shares()
}

func near(t *testing.T, want, got, slack float64, what string) {
	t.Helper()
	assert.InDelta(t, want, got, slack*math.Max(math.Abs(want), 1e-9), what)
}

func TestLawsOnRandomDesigns(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(7, 25))
	for range 200 {
		d := draw(r)
		s := d.shares(t)
		// The scale of the weights and the order of the rows change nothing.
		scaled := d
		scaled.Weights = nil
		for _, w := range d.Weights {
			scaled.Weights = append(scaled.Weights, w*37.5)
		}
		for what, other := range map[string]*Shares{"scale": scaled.shares(t), "order": d.in(r.Perm(d.Rows)).shares(t)} {
			for j := range s.Share {
				near(t, s.Share[j], other.Share[j], 1e-12, what)
				for k := range s.Share {
					near(t, s.Covariance[j][k], other.Covariance[j][k], 1e-9, what)
				}
			}
		}
		// Shares add to 1, so that rows of their covariance add to 0.
		for j := range s.Share {
			near(t, 0, s.Covariance[j][0]+s.Covariance[j][1]+s.Covariance[j][2], 1e-6, "rows of the covariance")
		}
		d.domains(t)
		d.compared(t)
		d.jackknife(t, s)
	}
}

// domains estimates a share of a subgroup as a share and as a ratio of two sums of the whole sample.
func (d drawnAtRandom) domains(t *testing.T) {
	t.Helper()
	s, err := New(d.Columns)
	require.NoError(t, err)
	in := func(row int) (float64, bool) {
		return Indicator(d.answer[row] == 1), d.domain[row] && d.answer[row] >= 0
	}
	m, err := s.Mean(s.Of(in))
	require.NoError(t, err)
	ratio, err := s.Ratio(func(row int) (y, x float64, all bool) {
		share, member := in(row)
		return share * Indicator(member), Indicator(member), true
	})
	require.NoError(t, err)
	near(t, ratio.Ratio, m.Mean, 1e-12, "domain")
	near(t, ratio.Variance, m.Variance, 1e-10, "variance of a domain")
	assert.Equal(t, s.DF(), m.DF, "degrees of freedom are those of the whole design")
}

// compared compares two overlapping parts row by row and by cells.
func (d drawnAtRandom) compared(t *testing.T) {
	t.Helper()
	s, err := New(d.Columns)
	require.NoError(t, err)
	yes := func(row int) (float64, bool) { return Indicator(d.answer[row] == 1), d.answer[row] >= 0 }
	in := func(row int) (float64, bool) {
		return Indicator(d.answer[row] == 1), d.domain[row] && d.answer[row] >= 0
	}
	rows, err := s.Two(s.Of(in), s.Of(yes))
	require.NoError(t, err)
	c, err := s.Cells(6, func(row int) int {
		if d.answer[row] < 0 {
			return None
		}
		return d.answer[row]*2 + int(Indicator(d.domain[row]))
	})
	require.NoError(t, err)
	cells, err := c.Compare(
		func(cell int) (bool, bool) { return cell/2 == 1, cell%2 == 1 },
		func(cell int) (bool, bool) { return cell/2 == 1, true },
	)
	require.NoError(t, err)
	assert.Equal(t, rows.A.N, cells.A.N)
	near(t, rows.A.KishN, cells.A.KishN, 1e-12, "weights of a part")
	near(t, rows.Difference.Value, cells.Difference.Value, 1e-10, "difference")
	near(t, rows.Difference.Variance, cells.Difference.Variance, 1e-9, "its variance")
	near(t, rows.Covariance, cells.Covariance, 1e-9, "covariance")
	if rows.LogOdds != nil {
		near(t, rows.LogRisk.Variance, cells.LogRisk.Variance, 1e-9, "relative risk")
		near(t, rows.LogOdds.Variance, cells.LogOdds.Variance, 1e-9, "odds ratio")
	}
}

// jackknife leaves out one cluster at a time, by replicate weights.
func (d drawnAtRandom) jackknife(t *testing.T, want *Shares) {
	t.Helper()
	type psu struct{ h, u int }
	seen, n := map[psu]bool{}, map[int]float64{}
	var all []psu
	for i := range d.Rows {
		if p := (psu{d.Strata[i], d.Clusters[i]}); !seen[p] {
			seen[p], all = true, append(all, p)
			n[p.h]++
		}
	}
	in := Replicates{Rows: d.Rows, Weights: d.Weights, Method: JackknifeStrata, Fractions: d.Fractions}
	for _, out := range all {
		weights := make([]float64, d.Rows)
		for i, w := range d.Weights {
			switch {
			case d.Strata[i] != out.h:
				weights[i] = w
			case d.Clusters[i] != out.u:
				weights[i] = w * n[out.h] / (n[out.h] - 1)
			}
		}
		in.Replicate, in.Strata = append(in.Replicate, weights), append(in.Strata, out.h)
	}
	r, err := NewReplicated(in)
	require.NoError(t, err)
	assert.Equal(t, want.DF, r.DF())
	c, err := r.Cells(3, func(row int) int { return d.answer[row] })
	require.NoError(t, err)
	got := c.Shares()
	for j := range got.Share {
		near(t, want.Share[j], got.Share[j], 1e-14, "share")
		near(t, math.Sqrt(want.Covariance[j][j]), math.Sqrt(got.Covariance[j][j]), 0.15, "jackknife")
	}
}

// Equal weights without strata and clusters are a simple random sample with divisor n − 1, and whole
// numbers as weights give the shares that as many respondents give.
func TestAgainstCounts(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(1, 2))
	for range 50 {
		n := 5 + r.IntN(60)
		equal, times := drawnAtRandom{Columns: Columns{Rows: n}}, drawnAtRandom{Columns: Columns{Rows: n}}
		var counts [3]float64
		whole := 0.0
		for range n {
			answer, w := r.IntN(3), float64(1+r.IntN(5))
			equal.answer, times.answer, times.Weights = append(
				equal.answer,
				answer,
			), append(
				times.answer,
				answer,
			), append(
				times.Weights,
				w,
			)
			counts[answer] += w
			whole += w
		}
		s := equal.shares(t)
		for j, p := range s.Share {
			near(t, float64(s.Count[j])/float64(n), p, 1e-15, "share")
			near(t, p*(1-p)/float64(n-1), s.Covariance[j][j], 1e-12, "variance")
		}
		assert.Equal(t, float64(n), s.KishN)
		for j, p := range times.shares(t).Share {
			near(t, counts[j]/whole, p, 1e-15, "whole numbers")
		}
	}
}

// What is damaged is refused, in the order of the checks, with its row.
func TestDamagedDesigns(t *testing.T) {
	t.Parallel()
	nan := math.NaN()
	for _, c := range []struct {
		name string
		in   Columns
		why  infer.Reason
		at   int
	}{
		{"missing weight first", Columns{Rows: 2, Weights: []float64{nan, -1}, Strata: []int{None, 0}}, MissingWeight, 0},
		{"negative", Columns{Rows: 2, Weights: []float64{1, -0.5}}, NegativeWeight, 1},
		{"all zero", Columns{Rows: 2, Weights: []float64{0, 0}, Strata: []int{None, None}}, NoRespondents, -1},
		{"no rows", Columns{}, NoRespondents, -1},
		{"missing stratum", Columns{Rows: 3, Strata: []int{0, 0, None}, Clusters: []int{None, 0, 1}}, MissingCluster, 0},
		{"a stratum is missing where a weight is", Columns{Rows: 3, Weights: []float64{0, 1, 1}, Strata: []int{None, 0, None}}, MissingStratum, 2},
		{"fraction", Columns{Rows: 2, Fractions: []float64{1.01}}, FractionOutOfRange, -1},
		{"one PSU", Columns{Rows: 3, Strata: []int{0, 1, 1}, Clusters: []int{0, 0, 1}}, OneCluster, 0},
		{"one PSU once who has no weight is left out", Columns{Rows: 3, Weights: []float64{1, 0, 1}, Strata: []int{0, 1, 1}, Fractions: []float64{1}}, OneCluster, 2},
		{"lengths", Columns{Rows: 3, Clusters: []int{0}}, ColumnLength, -1},
	} {
		_, err := New(c.in)
		var input *infer.InputError
		require.True(t, errors.As(err, &input), c.name)
		assert.Equal(t, c.why, input.Reason, c.name)
		assert.Equal(t, c.at, input.Index, c.name)
	}
	// The same cluster in two strata is two PSUs; a stratum that is sampled whole adds nothing.
	s, err := New(Columns{Rows: 4, Strata: []int{0, 0, 1, 1}, Clusters: []int{0, 1, 1, 0}, Fractions: []float64{1, 1}})
	require.NoError(t, err)
	assert.Equal(t, 4, s.PSUs())
	c, err := s.Cells(2, func(row int) int { return row % 2 })
	require.NoError(t, err)
	assert.Zero(t, c.Shares().Covariance[0][0])
}

// Strata that hold one answer each leave no variance, whatever rounding does to their weights.
func TestNoVarianceIsNone(t *testing.T) {
	t.Parallel()
	var c Columns
	for i := range 90 {
		c.Weights, c.Strata = append(c.Weights, 0.1+0.7*float64(i%3)), append(c.Strata, i%3)
	}
	c.Rows = len(c.Weights)
	s, err := New(c)
	require.NoError(t, err)
	cells, err := s.Cells(3, func(row int) int { return row % 3 })
	require.NoError(t, err)
	for j := range 3 {
		assert.Zero(t, cells.Shares().Covariance[j][j])
	}
}
