package tally

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
	"widetally/internal/workedcases"
)

func floats(t *testing.T, raw []json.RawMessage) (out []float64) {
	for _, r := range raw {
		f, _ := workedcases.Rat(t, r).Float64()
		out = append(out, f)
	}
	return out
}

func TestSummariesReference(t *testing.T) {
	t.Parallel()
	for _, c := range workedcases.Load(t, "numeric_summary") {
		in := NumbersInput{Values: floats(t, workedcases.In[[]json.RawMessage](t, c, "values")), Counts: workedcases.In[[]int64](t, c, "frequency"), Confidence: 0.95}
		if c.Input["level"] != nil {
			in.Confidence = workedcases.Float(t, c, "level")
		}
		in.Percents = []float64{10, 25, 50, 75, 90} // where a case names none
		if c.Input["percentiles"] != nil {
			in.Percents = floats(t, workedcases.In[[]json.RawMessage](t, c, "percentiles"))
		}
		r, err := SummariseNumbers(in)
		require.NoError(t, err)
		for name, got := range map[string]float64{"n": float64(r.N), "sum": r.Sum, "mean": r.Mean, "median": r.Median, "min": r.Smallest, "max": r.Largest,
			"range": r.Range, "variance": *r.Variance, "sd": *r.SD, "se_mean": *r.StandardError} {
			assert.True(t, c.Near(t, name, got), name)
		}
		i := c.Within("mean_interval")
		assert.True(t, i.Near(t, "lower", r.MeanInterval.Lower) && i.Near(t, "upper", r.MeanInterval.Upper))
		c.NearEach(t, "modes", r.Modes)
		c.NearEach(t, "percentile_n_minus_1", r.PercentilesAtNMinus1)
		c.NearEach(t, "percentile_n_plus_1", r.PercentilesAtNPlus1)
		var value, count, cumulative, share, shares []float64
		for _, row := range r.Rows {
			value, count, cumulative = append(value, row.Value), append(count, float64(row.Count)), append(cumulative, float64(row.CumulativeCount))
			share, shares = append(share, row.Share), append(shares, row.CumulativeShare)
		}
		for name, got := range map[string][]float64{"value": value, "count": count, "cumulative_count": cumulative, "relative": share, "cumulative_relative": shares} {
			require.NotNil(t, c.Expect[name], name)
			c.NearEach(t, name, got)
		}
	}
	for _, c := range workedcases.Load(t, "grouped_summary") {
		var classes [][2]float64
		for _, raw := range workedcases.In[[][]json.RawMessage](t, c, "classes") {
			f := floats(t, raw)
			classes = append(classes, [2]float64{f[0], f[1]})
		}
		r, err := SummariseClasses(classes, workedcases.In[[]int64](t, c, "frequency"))
		require.NoError(t, err)
		assert.True(t, c.Near(t, "mean", r.Mean) && c.Near(t, "variance", *r.Variance) && c.Near(t, "sd", *r.SD) && c.Near(t, "median", r.Median))
		var midpoint, share []float64
		for _, k := range r.Classes {
			midpoint, share = append(midpoint, k.Midpoint), append(share, k.CumulativeShare)
		}
		c.NearEach(t, "midpoint", midpoint)
		c.NearEach(t, "cumulative_relative", share)
	}
}

func TestSummaryEdges(t *testing.T) {
	t.Parallel()
	one, err := SummariseNumbers(NumbersInput{Values: []float64{7}, Percents: []float64{0, 50, 100}, Confidence: 0.9})
	require.NoError(t, err)
	assert.Nil(t, one.SD)
	assert.Equal(t, []float64{7, 7, 7}, one.PercentilesAtNPlus1)
	// A large mean costs no digits: variance of 1, 2, 3 shifted by 10⁹ is 1.
	far, err := SummariseNumbers(NumbersInput{Values: []float64{1e9 + 1, 1e9 + 2, 1e9 + 3}, Confidence: 0.9})
	require.NoError(t, err)
	assert.Equal(t, 1.0, *far.Variance)
	alike, err := SummariseNumbers(NumbersInput{Values: []float64{4, 4}, Counts: []int64{3, 2}, Confidence: 0.9})
	require.NoError(t, err)
	assert.Equal(t, infer.Interval{Lower: 4, Upper: 4}, *alike.MeanInterval)
	assert.Len(t, alike.Rows, 1)
	numbers := func(in NumbersInput) error { _, err := SummariseNumbers(in); return err }
	grouped := func(c [][2]float64, n []int64) error { _, err := SummariseClasses(c, n); return err }
	for name, c := range map[string]struct {
		err error
		why infer.Reason
	}{
		"nobody":             {numbers(NumbersInput{Confidence: 0.9}), infer.NoObservations},
		"counts missing":     {numbers(NumbersInput{Values: []float64{1, 2}, Counts: []int64{1}, Confidence: 0.9}), CountsLength},
		"not a number":       {numbers(NumbersInput{Values: []float64{math.NaN()}, Confidence: 0.9}), infer.NotFinite},
		"beyond 100 percent": {numbers(NumbersInput{Values: []float64{1}, Percents: []float64{101}, Confidence: 0.9}), PercentRange},
		"overlapping":        {grouped([][2]float64{{1, 3}, {2, 4}}, []int64{1, 1}), ClassesOrder},
		"an empty class":     {grouped([][2]float64{{1, 1}}, []int64{1}), ClassesOrder},
		"nobody in a class":  {grouped([][2]float64{{1, 2}}, []int64{0}), infer.NoObservations},
	} {
		var bad *infer.InputError
		require.ErrorAs(t, c.err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
	}
}

// Where exactly half lie up to the end of a class and the next classes are empty, every number up
// to the next one with anybody in it is a median, and that is told.
func TestAMedianBetweenClasses(t *testing.T) {
	t.Parallel()
	classes := [][2]float64{{0, 10}, {10, 20}, {20, 30}, {40, 50}}
	for _, k := range []struct {
		counts []int64
		to     *float64
	}{{[]int64{4, 0, 0, 4}, ptr(40.0)}, {[]int64{4, 0, 4, 0}, ptr(20.0)}, {[]int64{2, 2, 4, 0}, nil}, {[]int64{4, 0, 0, 5}, nil}, {[]int64{4, 0, 0, 0}, nil}} {
		g, err := SummariseClasses(classes, k.counts)
		require.NoError(t, err)
		assert.Equal(t, k.to, g.MedianTo, k.counts)
	}
}

// Of 1, 2, 6 the central moments are m₂ = 14/3 and m₃ = 6; the interval of the median holds the
// k-th numbers from both ends, 2 and 9 of ten at 95 %, none of five.
func TestShapeAndMedianOfNumbers(t *testing.T) {
	t.Parallel()
	s, err := SummariseNumbers(NumbersInput{Values: []float64{1, 2, 6}, Confidence: 0.95})
	require.NoError(t, err)
	assert.InDelta(t, 6/math.Pow(14.0/3, 1.5), *s.Skewness, 1e-12)
	assert.Nil(t, s.MedianInterval)
	s, err = SummariseNumbers(NumbersInput{Values: []float64{10, 1, 9, 2, 8, 3, 7, 4, 6, 5}, Confidence: 0.95})
	require.NoError(t, err)
	assert.InDelta(t, 0, *s.Skewness, 1e-12)
	assert.Equal(t, infer.Interval{Lower: 2, Upper: 9}, *s.MedianInterval)
	s, err = SummariseNumbers(NumbersInput{Values: []float64{4, 4}, Confidence: 0.95})
	require.NoError(t, err)
	assert.Nil(t, s.Skewness)
}

func ptr[T any](x T) *T { return &x }
