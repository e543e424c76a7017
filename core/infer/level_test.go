package infer_test

import (
	"context"
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
)

// chances are those of 0 … n successes, by the recurrence of Pascal's triangle.
func chances(n int, p float64) []float64 {
	out := make([]float64, n+1)
	out[0] = 1
	for trial := 1; trial <= n; trial++ {
		for x := trial; x > 0; x-- {
			out[x] = out[x]*(1-p) + out[x-1]*p
		}
		out[0] *= 1 - p
	}
	return out
}

// An exact test rejects a true null no more often than its level says, and an exact interval
// holds the share at least as often; the others come near, which is all they promise. Every
// outcome is gone through, so that nothing here is left to chance.
func TestExactMethodsHoldTheirLevel(t *testing.T) {
	const slip = 1e-9
	for _, n := range []int{1, 4, 11, 40} {
		near := map[string]float64{} // how often they hold the share, on average
		shares := 0
		for p := 0.02; p < 1; p += 0.031 {
			shares++
			exactly := map[float64]float64{0.01: 0, 0.05: 0, 0.2: 0}
			less, greater, held := 0.0, 0.0, 0.0
			for x, chance := range chances(n, p) {
				r, err := infer.ComputeProportion(infer.ProportionInput{Successes: int64(x), N: int64(n), Claimed: p, Confidence: 0.9})
				require.NoError(t, err)
				for level := range exactly {
					if r.Exact.TwoSided.AtMost(level) {
						exactly[level] += chance
					}
				}
				if r.Exact.Less.AtMost(0.05) {
					less += chance
				}
				if r.Exact.Greater.AtMost(0.05) {
					greater += chance
				}
				for name, i := range map[string]infer.Interval{"exact": r.Intervals.ClopperPearson, "wilson": r.Intervals.Wilson, "jeffreys": r.Intervals.Jeffreys, "agresti": r.Intervals.AgrestiCoull} {
					if i.Lower-slip <= p && p <= i.Upper+slip {
						if near[name] += chance; name == "exact" {
							held += chance
						}
					}
				}
			}
			for level, size := range exactly {
				assert.LessOrEqual(t, size, level+slip, "two-sided, n = %d, share %v", n, p)
			}
			assert.LessOrEqual(t, math.Max(less, greater), 0.05+slip, "one-sided, n = %d, share %v", n, p)
			assert.GreaterOrEqual(t, held, 0.9-slip, "Clopper and Pearson, n = %d, share %v", n, p)
		}
		if n < 11 {
			continue
		}
		for _, name := range []string{"wilson", "jeffreys", "agresti"} {
			assert.InDelta(t, 0.9, near[name]/float64(shares), 0.03, "%s, n = %d", name, n)
		}
	}
}

// Of the tables that share their margins, Fisher's test rejects no more than its level; of all
// respondents that changed, McNemar's; of all samples, the exact test of expected shares.
func TestConditionalTestsHoldTheirLevel(t *testing.T) {
	const slip = 1e-9
	choose := func(n, k int64) float64 {
		x, _ := new(big.Float).SetInt(new(big.Int).Binomial(n, k)).Float64()
		return x
	}
	for _, m := range [][3]int64{{5, 5, 5}, {8, 3, 6}, {12, 15, 9}, {30, 4, 7}} { // two rows and the first column
		rejected := map[float64]float64{0.01: 0, 0.05: 0, 0.2: 0}
		for a := max(0, m[2]-m[1]); a <= min(m[0], m[2]); a++ {
			r, err := infer.ComputeTwoByTwo([2][2]int64{{a, m[0] - a}, {m[2] - a, m[1] - m[2] + a}}, 0.95)
			require.NoError(t, err)
			for level := range rejected {
				if r.Fisher.TwoSided.AtMost(level) {
					rejected[level] += choose(m[0], a) * choose(m[1], m[2]-a) / choose(m[0]+m[1], m[2])
				}
			}
		}
		for level, size := range rejected {
			assert.LessOrEqual(t, size, level+slip, "Fisher, margins %v", m)
		}
	}
	for _, n := range []int{6, 17, 30} {
		exactly, middle := 0.0, 0.0
		for x, chance := range chances(n, 0.5) {
			r, err := infer.ComputePaired([2][2]int64{{9, int64(x)}, {int64(n - x), 9}})
			require.NoError(t, err)
			if r.Exact.AtMost(0.05) {
				exactly += chance
			}
			if r.MidP.AtMost(0.05) {
				middle += chance
			}
		}
		assert.LessOrEqual(t, exactly, 0.05+slip, "McNemar, %d changed", n)
		assert.GreaterOrEqual(t, middle, exactly, "mid-p rejects at least as often")
	}
	for _, shares := range [][]int64{{1, 1, 1}, {1, 2, 5}, {1, 10, 10}} {
		const n = 9
		var in []*big.Rat
		total := shares[0] + shares[1] + shares[2]
		for _, s := range shares {
			in = append(in, big.NewRat(s, total))
		}
		whole, rejected := 0.0, 0.0
		for a := int64(0); a <= n; a++ {
			for b := int64(0); a+b <= n; b++ {
				chance := choose(n, a) * choose(n-a, b)
				for i, k := range []int64{a, b, n - a - b} {
					share, _ := in[i].Float64()
					chance *= math.Pow(share, float64(k))
				}
				r, err := infer.ComputeExactGoodnessOfFit(context.Background(), infer.GoodnessOfFitInput{Observed: []int64{a, b, n - a - b}, Shares: in, Level: 0.05}, infer.ExactOptions{Work: 1_000_000, Replicates: 20})
				require.NoError(t, err)
				require.NotNil(t, r.Reject)
				if whole += chance; *r.Reject {
					rejected += chance
				}
			}
		}
		assert.InDelta(t, 1, whole, 1e-12, "every sample is gone through")
		assert.LessOrEqual(t, rejected, 0.05+slip, "shares %v", shares)
	}
}
