package dissimilarity

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
)

func request(table [][]int64) *Request {
	return &Request{Table: table, Confidence: 0.95, Replicates: 400, Seed: 1}
}

// By hand: ½(|30/40 − 10/40| + |10/40 − 30/40|) = 0.5; of three groups the first is held against
// the other two together, ½(|0.5 − 0.25| · 2) = 0.25. An empty group and an empty answer change nothing.
func TestTheIndexByHand(t *testing.T) {
	t.Parallel()
	for name, k := range map[string]struct {
		table [][]int64
		want  []float64
	}{
		"two groups":      {[][]int64{{30, 10}, {10, 30}}, []float64{0.5}},
		"the same":        {[][]int64{{2, 4, 6}, {1, 2, 3}}, []float64{0}},
		"nothing shared":  {[][]int64{{7, 0}, {0, 3}}, []float64{1}},
		"three":           {[][]int64{{20, 20}, {10, 30}, {10, 30}}, []float64{0.25, 0.125, 0.125}},
		"an empty group":  {[][]int64{{30, 10}, {0, 0}, {10, 30}}, []float64{0.5}},
		"an empty answer": {[][]int64{{30, 0, 10}, {10, 0, 30}}, []float64{0.5}},
	} {
		r, err := compute(t.Context(), request(k.table))
		require.NoError(t, err, name)
		require.Len(t, r.Indices, len(k.want), name)
		for i, want := range k.want {
			x := r.Indices[i]
			assert.InDelta(t, want, x.Estimate, 1e-15, name)
			assert.True(t, x.Interval.Contains(x.Estimate) && x.Interval.Lower >= 0 && x.Interval.Upper <= 1, "%s: %+v", name, x)
			assert.LessOrEqual(t, x.Corrected, x.Estimate+1e-12, name)
		}
		again, err := compute(t.Context(), request(k.table))
		require.NoError(t, err)
		assert.Equal(t, r, again, "the draws begin with the seed")
	}
	for name, k := range map[string]struct {
		table  [][]int64
		reason infer.Reason
	}{
		"one group":  {[][]int64{{3, 4}}, infer.OneRowOrColumn},
		"one answer": {[][]int64{{3}, {4}}, infer.OneRowOrColumn},
		"nobody":     {[][]int64{{0, 0}, {0, 0}}, infer.NoObservations},
		"ragged":     {[][]int64{{1, 2}, {1}}, infer.RaggedTable},
		"below 0":    {[][]int64{{1, -2}, {1, 3}}, infer.NegativeCount},
	} {
		_, err := compute(t.Context(), request(k.table))
		var refused *infer.InputError
		require.ErrorAs(t, err, &refused, name)
		assert.Equal(t, k.reason, refused.Reason, name)
	}
}

// The interval holds the index of the population at least as often as it says, where the estimate
// itself is far too large: in samples of 30 from groups that do not differ it is 0.18 on average.
func TestTheIntervalHolds(t *testing.T) {
	t.Parallel()
	const samples = 200
	for _, k := range []struct {
		here, there []float64
		n           int64
		index       float64
	}{
		{[]float64{.25, .25, .25, .25}, []float64{.25, .25, .25, .25}, 30, 0},
		{[]float64{.4, .3, .2, .1}, []float64{.25, .25, .25, .25}, 100, 0.2},
		{[]float64{.6, .2, .1, .1}, []float64{.1, .2, .3, .4}, 100, 0.5},
	} {
		groups := &table{groups: []int{0, 1}, totals: []int64{k.n, k.n}, n: 2 * k.n}
		random := rand.NewPCG(3, uint64(k.n))
		held, estimate, corrected := 0, 0.0, 0.0
		for range samples {
			in := request(groups.draw(random, [][]float64{k.here, k.there}))
			in.Replicates = 200
			r, err := compute(t.Context(), in)
			require.NoError(t, err)
			x := r.Indices[0]
			if x.Interval.Contains(k.index) {
				held++
			}
			estimate, corrected = estimate+x.Estimate/samples, corrected+x.Corrected/samples
			if k.index == 0 {
				assert.InDelta(t, 0.18, x.ByChance, 0.04)
			}
		}
		assert.GreaterOrEqual(t, float64(held)/samples, 0.94, "%+v", k)
		assert.Less(t, corrected-k.index, estimate-k.index, "the correction takes bias off")
	}
}
