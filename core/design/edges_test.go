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

// Sums are the same in any order, to 12 digits and better.
func TestSumsInAnyOrder(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(11, 12))
	x := make([]float64, 100_000)
	for i := range x {
		x[i] = math.Exp(8 * r.NormFloat64())
	}
	first := total(x)
	for range 5 {
		r.Shuffle(len(x), func(i, j int) { x[i], x[j] = x[j], x[i] })
		assert.InEpsilon(t, first, total(x), 1e-14)
	}
	assert.Equal(t, 2.0, total([]float64{1, 1e100, 1, -1e100}))
}

// A stratum of one cluster: as the definitions say by hand, centred or taken to add nothing.
func TestStrataOfOneCluster(t *testing.T) {
	t.Parallel()
	of := func(single SinglePSU) Matrix {
		s, err := New(Columns{Rows: 4, Strata: []int{0, 0, 0, 1}, Clusters: []int{0, 1, 1, 0}, Single: single})
		require.NoError(t, err)
		assert.Equal(t, 1, s.DF(), "it stays one PSU and one stratum")
		return s.Variance(1, func(k int, z []float64) { z[0] = []float64{3, 1, 1, 5}[k] })
	}
	assert.Equal(t, 2*(0.5*0.5+0.5*0.5), of(ZeroSingle)[0][0])
	third := 5 - 10.0/3
	assert.InDelta(t, 1+third*third, of(CentreSingle)[0][0], 1e-14)
}

func TestQuantilesAtTheEdges(t *testing.T) {
	t.Parallel()
	s, err := New(Columns{Rows: 10})
	require.NoError(t, err)
	y := func(row int) (float64, bool) { return float64(row + 1), true }
	_, q, err := s.Quantiles(s.Of(y), []float64{0.3, 0.99, 0.05}, 0.95)
	require.NoError(t, err)
	assert.Equal(t, 3.0, q[0].Quantile, "0.1 + 0.1 + 0.1 is not below 0.3")
	assert.Equal(t, 10.0, q[1].Quantile)
	assert.Nil(t, q[1].Lower, "everybody lies below it")
	assert.True(t, q[2].LowerOpen)
	assert.Nil(t, q[2].StandardError)
	_, _, err = s.Quantiles(s.Of(func(int) (float64, bool) { return 0, false }), []float64{0.5}, 0.95)
	assert.ErrorContains(t, err, string(EmptyBase))
}

// What replicates cannot be is refused with its reason.
func TestDamagedReplicates(t *testing.T) {
	t.Parallel()
	nan := math.NaN()
	two := [][]float64{{1, 2}, {2, 1}}
	for _, c := range []struct {
		in  Replicates
		why infer.Reason
	}{
		{Replicates{Rows: 2, Method: Bootstrap}, FactorsNeeded},
		{Replicates{Rows: 2, Method: JackknifeStrata, Replicate: two}, FactorsNeeded},
		{Replicates{Rows: 2, Method: GivenFactors, Replicate: two, Factors: []float64{1}}, FactorsNeeded},
		{Replicates{Rows: 2, Method: "halves", Replicate: two}, UnknownMethod},
		{Replicates{Rows: 2, Method: FayHalves, Fay: 1, Replicate: two}, FayOutOfRange},
		{Replicates{Rows: 2, Method: JackknifeOne, Fraction: -0.1, Replicate: two}, FractionOutOfRange},
		{Replicates{Rows: 2, Method: Bootstrap, Replicate: [][]float64{{1}}}, ReplicateLength},
		{Replicates{Rows: 2, Method: Bootstrap, Replicate: [][]float64{{1, -1}}}, NegativeWeight},
		{Replicates{Rows: 2, Method: Bootstrap, Replicate: [][]float64{{nan, 1}}}, MissingWeight},
		{Replicates{Rows: 2, Method: Bootstrap, Weights: []float64{0, 0}, Replicate: two}, NoRespondents},
	} {
		_, err := NewReplicated(c.in)
		var input *infer.InputError
		require.True(t, errors.As(err, &input), "%s: %v", c.why, err)
		assert.Equal(t, c.why, input.Reason)
	}
	r, err := NewReplicated(Replicates{Rows: 2, Method: Bootstrap, Replicate: [][]float64{{1, 1}, {0, 2}}})
	require.NoError(t, err)
	_, err = r.Cells(2, func(row int) int { return []int{0, None}[row] })
	assert.ErrorContains(t, err, string(EmptyReplicate))
	_, err = r.Mean(r.Of(func(row int) (float64, bool) { return 1, row == 0 }))
	assert.ErrorContains(t, err, string(EmptyReplicate))
	// Departures from the mean of the replicates, where that is asked for.
	centred, err := NewReplicated(
		Replicates{Rows: 2, Method: Bootstrap, AroundMean: true, Replicate: [][]float64{{1, 3}, {3, 1}}},
	)
	require.NoError(t, err)
	c, err := centred.Cells(2, func(row int) int { return row })
	require.NoError(t, err)
	assert.InDelta(t, 1.0/16, c.Shares().Covariance[0][0], 1e-15)
}

// A mean and quartiles of few, or of numbers that are all alike, say no more than is known; by rows and by
// cells they say the same.
func TestNumbersOfFewOrAlike(t *testing.T) {
	t.Parallel()
	numbers := []float64{3, 7}
	for name, c := range map[string]struct {
		cells          []int
		mean, variance float64
		spread, effect bool // are told
		upper, none    bool // a limit of the median is told, or it is the largest number
	}{
		"one":          {cells: []int{1, None}, mean: 7, none: true},
		"two":          {cells: []int{0, 1}, mean: 5, variance: 4, spread: true, effect: true, upper: true},
		"two alike":    {cells: []int{0, 0}, mean: 3, spread: true, none: true},
		"thirty alike": {cells: make([]int, 30), mean: 3, spread: true, none: true},
	} {
		s, err := New(Columns{Rows: len(c.cells)})
		require.NoError(t, err, name)
		cells, err := s.Cells(len(numbers), func(row int) int { return c.cells[row] })
		require.NoError(t, err, name)
		of := s.Of(func(row int) (float64, bool) {
			if c.cells[row] == None {
				return 0, false
			}
			return numbers[c.cells[row]], true
		})
		byRows, err := s.Mean(of)
		require.NoError(t, err, name)
		_, quantiles, err := s.Quantiles(of, []float64{0.5}, 0.95)
		require.NoError(t, err, name)
		for _, m := range []*Mean{byRows, cells.Mean(numbers)} {
			assert.Equal(t, c.mean, m.Mean, name)
			assert.InDelta(t, c.variance, m.Variance, 1e-12, name)
			assert.Equal(t, c.spread, m.SD != nil, name)
			assert.Equal(t, c.effect, m.DesignEffect != nil, name)
		}
		for _, q := range []Quantile{quantiles[0], cells.Quantiles(numbers, []float64{0.5}, 0.95)[0]} {
			assert.Equal(t, c.none, q.Lower == nil, name)
			assert.Equal(t, c.upper, q.Upper != nil, name)
			assert.Nil(t, q.StandardError, name)
		}
	}
}
