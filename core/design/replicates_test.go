package design

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// replicated is a file with weights, and twelve replicates of them of which some rows have 0.
func replicated(r *rand.Rand, n int) Replicates {
	in := Replicates{Rows: n, Weights: make([]float64, n), Method: Bootstrap}
	for i := range n {
		in.Weights[i] = 0.5 + r.Float64()
	}
	for range 12 {
		own := make([]float64, n)
		for i, w := range in.Weights {
			own[i] = w * float64(r.IntN(3))
		}
		in.Replicate = append(in.Replicate, own)
	}
	return in
}

// Whatever is estimated, its variance by replicates is that of the same estimate computed with the weights
// of each replicate alone.
func TestReplicatesOfEveryEstimate(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(12, 1))
	const n = 150
	in := replicated(r, n)
	s, err := NewReplicated(in)
	require.NoError(t, err)
	y, x, group := make([]float64, n), make([]float64, n), make([]int, n)
	for i := range n {
		y[i], x[i], group[i] = math.Round(10*r.Float64()), 1+r.Float64(), r.IntN(3)
	}
	alone := func(weights []float64) *Sample { // rows of weight 0 are no part of it
		s, err := New(Columns{Rows: n, Weights: weights})
		require.NoError(t, err)
		return s
	}
	answered := func(row int) bool { return row%7 != 0 }
	numbers := func(row int) (float64, bool) { return y[row], answered(row) }
	share := func(k int) func(row int) (float64, bool) {
		return func(row int) (float64, bool) { return Indicator(y[row] > 5), group[row] == k }
	}
	scores := []float64{1, 2, 4}
	median := func(row int) (float64, bool) { return y[row], true }
	_, q, err := s.Quantiles(s.Of(median), []float64{0.5}, 0.95)
	require.NoError(t, err)
	at := q[0].Quantile
	for name, estimate := range map[string]func(s *Sample) (value, variance float64){
		"mean": func(s *Sample) (float64, float64) {
			m, err := s.Mean(s.Of(numbers))
			require.NoError(t, err)
			return m.Mean, m.Variance
		},
		"ratio": func(s *Sample) (float64, float64) {
			m, err := s.Ratio(func(row int) (float64, float64, bool) { return y[row], x[row], answered(row) })
			require.NoError(t, err)
			return m.Ratio, m.Variance
		},
		"difference": func(s *Sample) (float64, float64) {
			m, err := s.Two(s.Of(share(0)), s.Of(share(1)))
			require.NoError(t, err)
			return m.Difference.Value, m.Difference.Variance
		},
		"log odds ratio": func(s *Sample) (float64, float64) {
			m, err := s.Two(s.Of(share(0)), s.Of(share(1)))
			require.NoError(t, err)
			return m.LogOdds.Value, m.LogOdds.Variance
		},
		"slope": func(s *Sample) (float64, float64) {
			m, err := s.Trend(func(row int) (float64, int, bool) { return y[row], group[row], true }, scores)
			require.NoError(t, err)
			return m.Slope.Value, m.Slope.Variance
		},
		"contrast": func(s *Sample) (float64, float64) {
			m, err := s.Trend(func(row int) (float64, int, bool) { return y[row], group[row], true }, scores)
			require.NoError(t, err)
			return m.Contrast.Value, m.Contrast.Variance
		},
		"share up to the median": func(s *Sample) (float64, float64) {
			m, err := s.Mean(s.Of(func(row int) (float64, bool) { return Indicator(y[row] <= at), true }))
			require.NoError(t, err)
			return m.Mean, m.Variance
		},
		"item": func(s *Sample) (float64, float64) {
			m, err := s.Items(2, func(row int) (uint64, bool) { return uint64(group[row]), answered(row) })
			require.NoError(t, err)
			return m.Share[1], m.Covariance[1][1]
		},
		"cell": func(s *Sample) (float64, float64) {
			c, err := s.Cells(3, func(row int) int { return group[row] })
			require.NoError(t, err)
			m := c.Shares()
			return m.Share[2], m.Covariance[2][2]
		},
		"slope of cells": func(s *Sample) (float64, float64) {
			c, err := s.Cells(33, func(row int) int { return 3*int(y[row]) + group[row] })
			require.NoError(t, err)
			m, _, err := c.Slope(func(cell int) float64 { return float64(cell / 3) }, func(cell int) float64 { return scores[cell%3] })
			require.NoError(t, err)
			return m.Value, m.Variance
		},
		"departure within layers": func(s *Sample) (float64, float64) {
			c, err := s.Cells(12, func(row int) int { return 4*group[row] + 2*int(Indicator(y[row] > 5)) + int(Indicator(x[row] > 1.5)) })
			require.NoError(t, err)
			m := c.Layered(2, 2)
			return m.Departure[0], m.Covariance[0][0]
		},
	} {
		theta, variance := estimate(s)
		want := 0.0
		for _, weights := range in.Replicate {
			own, _ := estimate(alone(weights))
			want += (own - theta) * (own - theta) / float64(len(in.Replicate))
		}
		near(t, want, variance, 1e-9, name)
	}
	near(t, q[0].CDFStandardError*q[0].CDFStandardError, func() float64 {
		m, err := s.Mean(s.Of(func(row int) (float64, bool) { return Indicator(y[row] <= at), true }))
		require.NoError(t, err)
		return m.Variance
	}(), 1e-12, "Woodruff by replicates")
	c, err := s.Cells(3, func(row int) int { return group[row] })
	require.NoError(t, err)
	assert.Nil(t, c.ByStratum(c.ShareSlope(0)), "replicates know no strata")
	assert.Equal(t, 12, c.Replicates)
	assert.Equal(t, 11, c.DF)
}

// A base that a replicate gives no weight is refused with its place, whatever is estimated.
func TestEmptyReplicates(t *testing.T) {
	t.Parallel()
	s, err := NewReplicated(Replicates{Rows: 4, Method: Bootstrap, Replicate: [][]float64{{1, 1, 1, 1}, {0, 0, 2, 2}}})
	require.NoError(t, err)
	first := s.Of(func(row int) (float64, bool) { return float64(row), row < 2 })
	for name, estimate := range map[string]func() error{
		"mean":      func() error { _, err := s.Mean(first); return err },
		"quantiles": func() error { _, _, err := s.Quantiles(first, []float64{0.5}, 0.95); return err },
		"two":       func() error { _, err := s.Two(first, first); return err },
		"ratio": func() error {
			_, err := s.Ratio(func(row int) (float64, float64, bool) { return 1, 1, row < 2 })
			return err
		},
		"items": func() error { _, err := s.Items(1, func(row int) (uint64, bool) { return 1, row < 2 }); return err },
		"cells": func() error {
			_, err := s.Cells(1, func(row int) int { return []int{0, 0, None, None}[row] })
			return err
		},
	} {
		assert.ErrorContains(t, estimate(), string(EmptyReplicate), name)
	}
}

// Rows and columns that nobody is in, within a layer, are left out of the test of all layers; layers that
// hold no table too.
func TestLayersWithoutATable(t *testing.T) {
	t.Parallel()
	// Layer 0 has two rows and two of three columns, layer 1 a single row, layer 2 all.
	counts := [][]int{{1, 2, 0}, {3, 1, 0}, {2, 2, 2}, {0, 0, 0}, {1, 1, 2}, {2, 1, 1}}
	var cell []int
	for row, line := range counts {
		for column, n := range line {
			for range n {
				cell = append(cell, 3*row+column)
			}
		}
	}
	s, err := New(Columns{Rows: len(cell)})
	require.NoError(t, err)
	c, err := s.Cells(18, func(row int) int { return cell[row] })
	require.NoError(t, err)
	l := c.Layered(2, 3)
	assert.Equal(t, []int{0, 1, 3, 4, 12, 13, 14, 15, 16, 17}, l.At)
	assert.Len(t, l.Free, 1+2)
	for _, k := range []int{0, 4} { // the departures of a row, and of a column, add up to nothing
		near(t, 0, l.Departure[k]+l.Departure[k+1]+map[bool]float64{true: l.Departure[k+2]}[k == 4], 1e-12, "a row")
	}
	empty, err := s.Cells(6, func(row int) int { return cell[row] % 3 }) // one row only
	require.NoError(t, err)
	assert.Empty(t, empty.Layered(2, 3).Free)
	_, _, err = empty.Slope(func(int) float64 { return 1 }, func(int) float64 { return 2 })
	assert.ErrorContains(t, err, string(OneGroup))
	assert.Nil(t, c.Part(2, func(int) (int, bool) { return 0, false }))
}

// Numbers of the population that cannot be are refused with a row of the stratum; whole weights are told.
func TestPopulationsRefused(t *testing.T) {
	t.Parallel()
	c := Columns{Rows: 4, Strata: []int{0, 0, 1, 1}, Populations: []float64{9, 1}}
	_, err := New(c)
	assert.ErrorContains(t, err, string(PopulationTooSmall))
	for weights, whole := range map[[4]float64]bool{{1, 2, 3, 1}: true, {1, 1, 1, 1}: false, {1, 2.5, 3, 1}: false, {0, 2, 3, 2}: true} {
		s, err := New(Columns{Rows: 4, Weights: weights[:]})
		require.NoError(t, err)
		m, err := s.Mean(s.Of(func(int) (float64, bool) { return 1, true }))
		require.NoError(t, err)
		assert.Equal(t, whole, m.WholeWeights, "%v", weights)
	}
}
