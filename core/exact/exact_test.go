package exact

import (
	"context"
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/workedcases"
)

// to14 compares with an answer from integer arithmetic to 14 significant digits.
func to14(t *testing.T, want *big.Rat, got prob.Prob, what string) {
	t.Helper()
	w := prob.FromCounts(want.Num(), want.Denom())
	if w.Value > 1e-300 {
		assert.InEpsilon(t, w.Value, got.Value, 1e-14, what)
	}
	assert.InDelta(t, w.Log10, got.Log10, 1e-14*max(1, -w.Log10), what)
}

// Every way of spreading n over the answers in exact rationals.
func TestMultinomialAgainstEveryOutcome(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		observed []int64
		shares   []string
	}{
		"two answers":              {[]int64{31, 52}, []string{"0.45", "0.55"}},
		"one of two empty":         {[]int64{0, 7}, []string{"1/3", "2/3"}},
		"three equal":              {[]int64{6, 1, 4}, []string{"1/3", "1/3", "1/3"}},
		"four, one rare":           {[]int64{9, 3, 0, 2}, []string{"0.6", "0.25", "0.149", "0.001"}},
		"five":                     {[]int64{4, 0, 3, 2, 5}, []string{"0.1", "0.2", "0.3", "0.15", "0.25"}},
		"six, as likely as can be": {[]int64{2, 2, 2, 2, 2, 2}, []string{"1/6", "1/6", "1/6", "1/6", "1/6", "1/6"}},
		"nobody where most belong": {[]int64{0, 0, 12}, []string{"0.9", "0.0999", "0.0001"}},
	} {
		t.Run(name, func(t *testing.T) {
			shares := make([]*big.Rat, len(c.shares))
			for i, s := range c.shares {
				shares[i], _ = new(big.Rat).SetString(s)
			}
			var n int64
			for _, o := range c.observed {
				n += o
			}
			chance := func(x []int64) *big.Rat {
				p := new(big.Rat).SetInt(new(big.Int).MulRange(1, n))
				for i, c := range x {
					p.Quo(p, new(big.Rat).SetInt(new(big.Int).MulRange(1, c)))
					for range c {
						p.Mul(p, shares[i])
					}
				}
				return p
			}
			limit := new(big.Rat).Mul(chance(c.observed), big.NewRat(10_000_001, 10_000_000))
			least, outcomes := new(big.Rat), 0.0
			var walk func(x []int64, left int64)
			walk = func(x []int64, left int64) {
				if len(x) == len(shares)-1 {
					outcomes++
					if p := chance(append(x, left)); p.Cmp(limit) <= 0 {
						least.Add(least, p)
					}
					return
				}
				for c := int64(0); c <= left; c++ {
					walk(append(x[:len(x):len(x)], c), left-c)
				}
			}
			walk(nil, n)
			r, err := Multinomial(context.Background(), c.observed, shares, Effort{})
			require.NoError(t, err)
			to14(t, least, r.P, "p")
			to14(t, chance(c.observed), r.Observed, "observed")
			assert.Equal(t, outcomes, r.Outcomes)
		})
	}
}

func TestMultinomialReference(t *testing.T) {
	t.Parallel()
	compared := 0
	for _, c := range workedcases.Load(t, "gof") {
		if c.Input["exact"] == nil {
			continue
		}
		r, err := Multinomial(context.Background(), workedcases.In[[]int64](t, c, "observed"), workedcases.Shares(t, c, "shares"), Effort{})
		require.NoError(t, err)
		if c.NearProb(t, "exact_p_value", r.P.Value, r.P.Log10) {
			compared++
		}
	}
	assert.Positive(t, compared)
}

// Two answers are the binomial test, also where p has left the range of a float64.
func TestMultinomialOfTwoIsBinomial(t *testing.T) {
	t.Parallel()
	for _, n := range []int64{1, 50, 500} {
		for _, k := range []int64{0, 1, n / 3, n / 2, n} {
			r, err := Multinomial(context.Background(), []int64{k, n - k}, []*big.Rat{big.NewRat(3, 10), big.NewRat(7, 10)}, Effort{})
			require.NoError(t, err)
			want := prob.BinomialTwoSided(k, n, 0.3)
			assert.InDelta(t, want.Log10, r.P.Log10, 1e-12*max(1, -want.Log10), "%d of %d", k, n)
		}
	}
}

// everyTable adds up all tables with the margins one by one, in integers.
func everyTable(table [][]int64) (p *big.Rat, outcomes float64) {
	rows, columns := make([]int64, len(table)), make([]int64, len(table[0]))
	for i, row := range table {
		for j, o := range row {
			rows[i], columns[j] = rows[i]+o, columns[j]+o
		}
	}
	// The weight of a row is the multinomial coefficient of its cells.
	ways := func(row []int64) *big.Int {
		w, left := big.NewInt(1), int64(0)
		for _, o := range row {
			left += o
			w.Mul(w, new(big.Int).Binomial(left, o))
		}
		return w
	}
	observed := big.NewInt(1)
	for _, row := range table {
		observed.Mul(observed, ways(row))
	}
	limit := new(big.Int).Add(observed, new(big.Int).Quo(observed, big.NewInt(10_000_000)))
	least, all := new(big.Int), new(big.Int)
	var fill func(i, j int, row []int64, left int64, so *big.Int)
	fill = func(i, j int, row []int64, left int64, so *big.Int) {
		if j == len(columns) {
			if left > 0 {
				return
			}
			w := new(big.Int).Mul(so, ways(row))
			if i+1 == len(rows) {
				outcomes++
				all.Add(all, w)
				if w.Cmp(limit) <= 0 {
					least.Add(least, w)
				}
				return
			}
			fill(i+1, 0, nil, rows[i+1], w)
			return
		}
		for x := int64(0); x <= min(left, columns[j]); x++ {
			if i+1 == len(rows) && x != columns[j] {
				continue
			}
			columns[j] -= x
			fill(i, j+1, append(row[:len(row):len(row)], x), left-x, so)
			columns[j] += x
		}
	}
	fill(0, 0, nil, rows[0], big.NewInt(1))
	return new(big.Rat).SetFrac(least, all), outcomes
}

func TestTableAgainstEveryTable(t *testing.T) {
	t.Parallel()
	for name, table := range map[string][][]int64{
		"2 × 2":                 {{5, 1}, {2, 7}},
		"2 × 3":                 {{3, 1, 4}, {0, 6, 2}},
		"4 × 2":                 {{8, 11}, {13, 7}, {5, 16}, {9, 9}},
		"3 × 3":                 {{2, 0, 1}, {1, 4, 0}, {0, 1, 5}},
		"3 × 3 all alike":       {{2, 2, 2}, {2, 2, 2}, {2, 2, 2}},
		"3 × 4":                 {{3, 0, 2, 1}, {1, 4, 0, 2}, {0, 1, 3, 3}},
		"4 × 4 with ones":       {{1, 0, 0, 2}, {0, 2, 1, 0}, {1, 0, 2, 0}, {0, 1, 0, 2}},
		"2 × 7":                 {{1, 3, 0, 2, 5, 0, 1}, {4, 0, 2, 2, 0, 3, 1}},
		"one person a column":   {{1, 0, 1, 0, 1, 1}, {0, 1, 0, 1, 0, 0}},
		"as unlikely as it can": {{6, 0, 0}, {0, 6, 0}, {0, 0, 6}},
	} {
		t.Run(name, func(t *testing.T) {
			want, outcomes := everyTable(table)
			r, err := Table(context.Background(), table, Effort{})
			require.NoError(t, err)
			to14(t, want, r.P, "p")
			assert.InEpsilon(t, outcomes, r.Outcomes, 1e-12)
			turned := make([][]int64, len(table[0]))
			for j := range turned {
				for i := range table {
					turned[j] = append(turned[j], table[len(table)-1-i][j])
				}
			}
			again, err := Table(context.Background(), turned, Effort{})
			require.NoError(t, err)
			assert.InEpsilon(t, r.P.Value, again.P.Value, 1e-13, "rows and columns exchanged, rows in another order")
		})
	}
}

// The estimated number of tables against the counted one.
func TestEstimateTables(t *testing.T) {
	t.Parallel()
	for _, rung := range append(ladder[:6:6], struct {
		name  string
		table [][]int64
	}{"2x12 unlike", [][]int64{{1, 9, 2, 0, 4, 1, 1, 7, 2, 3, 1, 1}, {2, 30, 1, 1, 3, 2, 6, 9, 2, 1, 1, 5}}}) {
		rows, columns := make([]int64, len(rung.table)), make([]int64, len(rung.table[0]))
		for i, row := range rung.table {
			for j, o := range row {
				rows[i], columns[j] = rows[i]+o, columns[j]+o
			}
		}
		if rung.name == "5x5 n=100" { // takes seconds
			continue
		}
		r, err := Table(context.Background(), rung.table, Effort{Work: 1 << 40})
		require.NoError(t, err)
		assert.InDelta(t, math.Log10(r.Outcomes), EstimateTables(rows, columns), 0.35, rung.name)
	}
	// 2 × 2 tables are as many as the first cell has values.
	assert.InDelta(t, math.Log10(41), EstimateTables([]int64{40, 60}, []int64{50, 50}), 0.2)
}

// The order of rows, columns and answers, and which side is called rows, change nothing;
// with many respondents the exact p comes near that of the chi-square distribution.
func TestRelabellingAndLimit(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(3, 9))
	for range 30 {
		r, c := 2+rng.IntN(2), 2+rng.IntN(3)
		table, shuffled, turned := make([][]int64, r), make([][]int64, r), make([][]int64, c)
		byRow, byColumn := rng.Perm(r), rng.Perm(c)
		for i := range table {
			table[i], shuffled[i] = make([]int64, c), make([]int64, c)
			for j := range c {
				table[i][j] = 1 + rng.Int64N(7)
			}
		}
		for i := range table {
			for j := range c {
				shuffled[i][j] = table[byRow[i]][byColumn[j]]
				turned[j] = append(turned[j], table[i][j])
			}
		}
		want, err := Table(context.Background(), table, Effort{})
		require.NoError(t, err)
		for name, other := range map[string][][]int64{"shuffled": shuffled, "turned": turned} {
			got, err := Table(context.Background(), other, Effort{})
			require.NoError(t, err)
			assert.InEpsilon(t, want.P.Value, got.P.Value, 1e-13, "%s %v", name, table)
			assert.Equal(t, want.Outcomes, got.Outcomes, "%s %v", name, table)
		}
	}
	observed := []int64{1060, 1010, 930}
	thirds := []*big.Rat{big.NewRat(1, 3), big.NewRat(1, 3), big.NewRat(1, 3)}
	exactly, err := Multinomial(context.Background(), observed, thirds, Effort{})
	require.NoError(t, err)
	other, err := Multinomial(context.Background(), []int64{930, 1060, 1010}, thirds, Effort{})
	require.NoError(t, err)
	assert.InEpsilon(t, exactly.P.Value, other.P.Value, 1e-13)
	// X² = (60² + 10² + 70²)/1000 = 8.6, whose upper tail with 2 degrees of freedom is e^(−4.3).
	assert.InEpsilon(t, math.Exp(-4.3), exactly.P.Value, 0.03)
	large, err := Table(context.Background(), [][]int64{{530, 470}, {480, 520}, {500, 500}}, Effort{})
	require.NoError(t, err)
	// In each row O − E is 26⅔, −23⅓ or −3⅓, of 503⅓ and 496⅔ expected; df is 2 again.
	x2 := (26.0 + 2.0/3) * (26.0 + 2.0/3)
	x2 += (23.0+1.0/3)*(23.0+1.0/3) + (3.0+1.0/3)*(3.0+1.0/3)
	x2 *= 1/(1510.0/3) + 1/(1490.0/3)
	assert.InEpsilon(t, math.Exp(-x2/2), large.P.Value, 0.02)
}
