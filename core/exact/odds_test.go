package exact

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The conditional estimate makes the expected first cell the observed one, its interval's
// ends give the observed cell or one further out a chance of α/2; turning the table round
// inverts all three. Lower ends above 1 exactly when Fisher's one-sided test at α/2 rejects.
func TestConditionalOddsRatio(t *testing.T) {
	t.Parallel()
	const alpha = 0.05
	for _, c := range [][4]int64{{34, 21, 18, 40}, {5, 1, 2, 7}, {300, 20, 10, 900}, {1, 1, 1, 1}, {7, 3, 2, 8}} {
		o, err := ConditionalOddsRatio(c[0], c[1], c[2], c[3], 1-alpha)
		require.NoError(t, err)
		turned, err := ConditionalOddsRatio(c[2], c[3], c[0], c[1], 1-alpha)
		require.NoError(t, err)
		assert.InEpsilon(t, 1, o.Estimate*turned.Estimate, 1e-12)
		assert.InEpsilon(t, 1, o.Lower*turned.Upper, 1e-12)
		sums := func(psi float64) (all, mean, atLeast, atMost float64) {
			for x := c[0] - min(c[0], c[3]); x <= c[0]+min(c[1], c[2]); x++ {
				w := new(big.Float).SetInt(new(big.Int).Mul(new(big.Int).Binomial(c[0]+c[1], x), new(big.Int).Binomial(c[2]+c[3], c[0]+c[2]-x)))
				f, _ := w.Mul(w, big.NewFloat(math.Pow(psi, float64(x-c[0])))).Float64()
				all, mean = all+f, mean+f*float64(x)
				if x >= c[0] {
					atLeast += f
				}
				if x <= c[0] {
					atMost += f
				}
			}
			return all, mean / all, atLeast / all, atMost / all
		}
		_, mean, _, _ := sums(o.Estimate)
		assert.InEpsilon(t, float64(c[0]), mean, 1e-11)
		_, _, atLeast, _ := sums(o.Lower)
		_, _, _, atMost := sums(o.Upper)
		assert.InEpsilon(t, alpha/2, atLeast, 1e-11)
		assert.InEpsilon(t, alpha/2, atMost, 1e-11)
		f, err := Fisher(c[0], c[1], c[2], c[3])
		require.NoError(t, err)
		assert.Equal(t, f.Greater.AtMost(alpha/2), o.Lower >= 1, "%v", c)
	}
	o, err := ConditionalOddsRatio(5, 0, 2, 7, 1-alpha)
	require.NoError(t, err)
	assert.True(t, math.IsInf(o.Estimate, 1) && math.IsInf(o.Upper, 1) && o.Lower > 0)
	o, err = ConditionalOddsRatio(0, 5, 7, 2, 1-alpha)
	require.NoError(t, err)
	assert.True(t, o.Estimate == 0 && o.Lower == 0 && o.Upper > 0)
	// Of a large table the three are near those of the plain odds ratio and Woolf's interval.
	o, err = ConditionalOddsRatio(20_000, 30_000, 25_000, 40_000, 1-alpha)
	require.NoError(t, err)
	plain := 20_000.0 * 40_000 / (30_000 * 25_000)
	half := 1.959963984540054 * math.Sqrt(1/2e4+1/3e4+1/2.5e4+1/4e4)
	assert.InEpsilon(t, plain, o.Estimate, 1e-4)
	assert.InEpsilon(t, plain*math.Exp(-half), o.Lower, 1e-3)
	assert.InEpsilon(t, plain*math.Exp(half), o.Upper, 1e-3)
}
