package exact

import (
	"context"
	"math"
	"math/big"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
)

// The interval of the simulated p holds the exact one.
func TestSimulationComesToTheExactValue(t *testing.T) {
	t.Parallel()
	near := func(t *testing.T, want float64, got Estimate) {
		t.Helper()
		assert.True(t, got.Lower <= want && want <= got.Upper, "%g outside %g to %g", want, got.Lower, got.Upper)
	}
	for _, rung := range ladder[:5] {
		t.Run(rung.name, func(t *testing.T) {
			r, err := Table(context.Background(), rung.table, Effort{})
			require.NoError(t, err)
			s, err := SimulateTable(context.Background(), rung.table, Simulation{Seed: 20})
			require.NoError(t, err)
			near(t, r.P.Value, s.ByProbability)
		})
	}
	observed := []int64{9, 3, 0, 2, 8}
	shares := []float64{0.5, 0.2, 0.05, 0.15, 0.1}
	exactShares := make([]*big.Rat, len(shares))
	for i := range shares {
		exactShares[i] = big.NewRat(int64(math.Round(shares[i]*100)), 100)
	}
	r, err := Multinomial(context.Background(), observed, exactShares, Effort{})
	require.NoError(t, err)
	s, err := SimulateMultinomial(context.Background(), observed, shares, Simulation{Seed: 7})
	require.NoError(t, err)
	near(t, r.P.Value, s.ByProbability)
}

// The drawn cells follow their distribution: counts of a hypergeometric and a binomial
// variable against their probabilities by Pearson's test, which at 1e-6 is no chance.
func TestDrawsFollowTheirDistribution(t *testing.T) {
	t.Parallel()
	const draws = 200_000
	rng := rand.New(rand.NewPCG(3, 9))
	check := func(name string, chance func(x int64) float64, draw func() int64) {
		counts := map[int64]float64{}
		for range draws {
			counts[draw()]++
		}
		chi, df, rest, restChance := 0.0, -1.0, float64(draws), 1.0
		for x := int64(0); x <= 400; x++ {
			if e := draws * chance(x); e > 10 {
				chi, df, rest, restChance = chi+(counts[x]-e)*(counts[x]-e)/e, df+1, rest-counts[x], restChance-chance(x)
			}
		}
		if df > 0 {
			assert.Greater(t, prob.ChiSquareUpper(chi, df).Value, 1e-6, name)
		}
		assert.Less(t, rest/draws, restChance+0.001, name)
	}
	ln := lnFactorials(1000)
	lnChoose := func(n, k int64) float64 {
		if k < 0 || k > n {
			return math.Inf(-1)
		}
		return ln[n] - ln[k] - ln[n-k]
	}
	for _, h := range [][3]int64{{10, 7, 20}, {50, 300, 600}, {5, 5, 0}, {3, 900, 2}, {40, 2, 400}} {
		check("hypergeometric", func(x int64) float64 {
			return math.Exp(lnChoose(h[1], x) + lnChoose(h[2], h[0]-x) - lnChoose(h[1]+h[2], h[0]))
		}, func() int64 { return drawHypergeometric(rng, ln, h[0], h[1], h[2]) })
	}
	for _, p := range []float64{0.001, 0.3, 0.97} {
		check("binomial", func(x int64) float64 { return math.Exp(prob.LnBinomial(x, 300, p)) }, func() int64 { return drawBinomial(rng, 300, p) })
	}
}

func TestSimulationIsTheSameAgain(t *testing.T) {
	t.Parallel()
	table := ladder[0].table
	draw := func(seed uint64) *Simulated {
		s, err := SimulateTable(context.Background(), table, Simulation{Replicates: 5000, Seed: seed})
		require.NoError(t, err)
		return s
	}
	assert.Equal(t, draw(1), draw(1))
	assert.NotEqual(t, draw(1).ByChiSquare.AtLeast, draw(2).ByChiSquare.AtLeast)
}

// Each long computation stops soon after it is told to, tells how far it is, and says
// when a table is beyond its reach.
func TestLongComputationsStop(t *testing.T) {
	t.Parallel()
	big14 := make([][]int64, 14)
	for i := range big14 {
		big14[i] = make([]int64, 14)
		for j := range big14[i] {
			big14[i][j] = int64(1 + (i*j)%4)
		}
	}
	shares := make([]*big.Rat, 12)
	for i := range shares {
		shares[i] = big.NewRat(1, 12)
	}
	for name, run := range map[string]func(context.Context, func(float64)) error{
		"network": func(ctx context.Context, p func(float64)) error {
			_, err := Table(ctx, big14, Effort{Work: 1 << 60, Progress: p})
			return err
		},
		"network, middle column": func(ctx context.Context, p func(float64)) error {
			_, err := Table(ctx, ladder[len(ladder)-1].table, Effort{Work: 1 << 60, Progress: p})
			return err
		},
		"multinomial": func(ctx context.Context, p func(float64)) error {
			_, err := Multinomial(ctx, []int64{9, 5, 7, 9, 4, 6, 3, 8, 5, 7, 6, 9}, shares, Effort{Work: 1 << 60, Progress: p})
			return err
		},
		"simulation": func(ctx context.Context, p func(float64)) error {
			_, err := SimulateTable(ctx, big14, Simulation{Replicates: MaxReplicates, Progress: p})
			return err
		},
	} {
		t.Run(name, func(t *testing.T) {
			ctx, cancel := context.WithTimeout(context.Background(), 150*time.Millisecond)
			defer cancel()
			last := 0.0
			err := run(ctx, func(done float64) {
				assert.True(t, done > last && done <= 1)
				last = done
			})
			assert.ErrorIs(t, err, context.DeadlineExceeded)
			deadline, _ := ctx.Deadline()
			t.Logf("stopped %v after it was told", time.Since(deadline))
		})
	}
	_, err := Table(context.Background(), big14, Effort{Work: 1_000_000})
	assert.ErrorIs(t, err, ErrBeyondReach)
	_, err = Multinomial(context.Background(), []int64{1_000_000, 1_000_000}, shares[:2], Effort{})
	assert.ErrorIs(t, err, ErrBeyondReach)
}

// Fisher's test in integers and in ratios agree where both are used, also at n beyond
// what a list of factorials holds.
func TestFisherIntegersAndRatios(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(5, 8))
	for range 200 {
		size := int64(1) << (2 + rng.IntN(10))
		a, b, c, d := 1+rng.Int64N(size), rng.Int64N(size), rng.Int64N(size), 1+rng.Int64N(size)
		want, got := fisherIntegers(a, b, c, d), fisherRatios(a, b, c, d)
		for _, pair := range [][2]prob.Prob{{want.Less, got.Less}, {want.Greater, got.Greater}, {want.TwoSided, got.TwoSided}} {
			assert.InDelta(t, pair[0].Log10, pair[1].Log10, 2e-12*max(1, -pair[0].Log10), "%d %d %d %d", a, b, c, d)
		}
		table, err := Table(context.Background(), [][]int64{{a, b}, {c, d}}, Effort{})
		if b+d > 0 && a+c > 0 && err == nil {
			assert.InDelta(t, want.TwoSided.Log10, table.P.Log10, 1e-13*max(1, -want.TwoSided.Log10), "as a table")
		}
	}
	_, err := Fisher(3_000_000, 3_000_000, 3_000_000, 3_000_000)
	assert.ErrorIs(t, err, ErrBeyondReach)
}
