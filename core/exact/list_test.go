package exact

import (
	"context"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Lists longer than a run are merged from several; the totals are those of the entries,
// equal ones joined.
func TestLongListsAreSorted(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(1, 4))
	for _, n := range []int{0, 1, run - 1, run, run + 1, 2 * run, 3*run + 17, 5 * run} {
		entries, want := make([]entry, n), make([]float64, n)
		for i := range entries {
			each := float64(1 + rng.IntN(2*n))
			entries[i], want[i] = entry{each, 1}, each
		}
		slices.Sort(want)
		l, err := newList(entries, newMeter(context.Background(), Effort{}))
		require.NoError(t, err)
		assert.Equal(t, float64(n), l.total(), "%d entries", n)
		assert.Equal(t, slices.Compact(slices.Clone(want)), append([]float64{}, l.each...), "%d entries", n)
		for range 20 {
			x := float64(rng.IntN(2*n + 2))
			at, _ := slices.BinarySearch(want, x+0.5)
			assert.Equal(t, float64(at), l.atMost(x))
		}
	}
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	entries := make([]entry, 4*run)
	for i := range entries {
		entries[i] = entry{float64(i), 1}
	}
	_, err := newList(entries, newMeter(gone, Effort{}))
	assert.ErrorIs(t, err, context.Canceled)
}

// Two hands walking in opposite directions find what going through all pairs finds,
// whether the lists are alike in length or not.
func TestPairsAtMost(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(2, 8))
	for _, size := range [][2]int{{1, 1}, {3, 400}, {400, 3}, {60, 80}, {9, 90}, {200, 200}} {
		var entries [2][]entry
		var lists [2]list
		for k, n := range size {
			for range n {
				entries[k] = append(entries[k], entry{float64(1 + rng.IntN(1000)), float64(rng.IntN(9))})
			}
			var err error
			lists[k], err = newList(slices.Clone(entries[k]), newMeter(context.Background(), Effort{}))
			require.NoError(t, err)
		}
		for _, limit := range []float64{0, 1, 5_000, 250_000, 999_999, 1e6} {
			want := 0.0
			for _, a := range entries[0] {
				for _, b := range entries[1] {
					if a.each*b.each <= limit {
						want += a.all * b.all
					}
				}
			}
			got, _ := pairsAtMost(lists[0], lists[1], limit)
			assert.Equal(t, want, got, "%v up to %g", size, limit)
		}
	}
}
