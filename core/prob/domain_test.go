package prob

import (
	"fmt"
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/workedcases"
)

func near(t *testing.T, name string, want *big.Float, got Prob) {
	t.Helper()
	ln := workedcases.Ln(want)
	if ln > -30*math.Ln10 {
		assert.GreaterOrEqual(t, workedcases.Digits(got.Value, want), 12.0, "%s: got %.17g", name, got.Value)
	}
	assert.InDelta(t, ln, got.Log10*math.Ln10, 1e-12*math.Max(1, math.Abs(ln)), name)
}

// few is Σ_{j≤k} C(n, j)pʲ(1−p)ⁿ⁻ʲ for a small k and an n of any size.
func few(k, n int64, p float64) *big.Float {
	const bits = 400
	share := new(big.Float).SetPrec(bits).SetFloat64(p)
	rest := new(big.Float).SetPrec(bits).Sub(big.NewFloat(1), share)
	term, square := big.NewFloat(1).SetPrec(bits), new(big.Float).Copy(rest)
	for e := n; e > 0; e >>= 1 { // (1−p)ⁿ
		if e&1 == 1 {
			term.Mul(term, square)
		}
		square.Mul(square, square)
	}
	sum := new(big.Float).SetPrec(bits)
	odds := new(big.Float).Quo(share, rest)
	for j := int64(0); j <= k; j++ {
		sum.Add(sum, term)
		term.Mul(term, odds).Mul(term, new(big.Float).SetInt64(n-j)).Quo(term, new(big.Float).SetInt64(j+1))
	}
	return sum
}

// Twelve digits at the far ends of the parameters too: closed forms for few successes
// among very many, the normal limit of Student's t, and the middle of even binomials.
func TestTwelveDigitsOverTheWholeDomain(t *testing.T) {
	t.Parallel()
	for _, n := range []int64{1000, 1_000_000, 1_000_000_000, 10_000_000_000_000} {
		for _, mean := range []float64{0.01, 0.7, 3, 40, 600} {
			p := mean / float64(n)
			for k := int64(0); k <= 4; k++ {
				name := fmt.Sprintf("%d of %d, p %g", k, n, p)
				want := few(k, n, p)
				near(t, name, want, BinomialLower(k, n, p))
				if v, _ := want.Float64(); v < 0.9 { // where 1 − p itself has digits
					upper := new(big.Float).Sub(big.NewFloat(1).SetPrec(400), want)
					near(t, "upper "+name, upper, BinomialUpper(k+1, n, p))
				}
			}
		}
		// The middle: ½ + ½·C(n, n/2)/2ⁿ, by the series of the central coefficient.
		m := float64(n / 2)
		central := (1 - 1/(8*m) + 1/(128*m*m) + 5/(1024*m*m*m)) / math.Sqrt(math.Pi*m)
		assert.InEpsilon(t, 0.5+central/2, BinomialUpper(n/2, n, 0.5).Value, 1e-12, "n %d", n)
		assert.InEpsilon(t, math.Log(central), LnBinomial(n/2, n, 0.5), 1e-12)
		// Nobody among n: the upper end of the exact interval is 1 − α^(1/n).
		for _, alpha := range []float64{0.025, 1e-8} {
			assert.InEpsilon(t, -math.Expm1(math.Log(alpha)/float64(n)), BetaUpperQuantile(alpha, 1, float64(n)), 1e-12, "0 of %d", n)
			lower := math.Exp(math.Log(alpha) / float64(n))
			assert.InEpsilon(t, lower, BetaLowerQuantile(alpha, float64(n), 1), 1e-12, "%d of %d", n, n)
		}
	}
	near(t, "t 2, df 100000", workedcases.StudentUpper(2, 100_000), StudentUpper(2, 100_000))
	for _, x := range []float64{0.001, 0.7, 1.96, 5, 9} {
		// Beyond the normal tail come φ(x)(x³ + x)/(4 df) and terms of 1/df² (Fisher 1925).
		density := math.Exp(-x*x/2) / math.Sqrt(2*math.Pi)
		for _, df := range []float64{1e10, 1e12, 1e15} {
			want := new(big.Float).Add(workedcases.NormalUpper(x), big.NewFloat(density*(x*x*x+x)/(4*df)))
			near(t, fmt.Sprintf("t %g, df %g", x, df), want, StudentUpper(x, df))
		}
	}
	// Quantiles there lead back.
	for _, df := range []float64{1e6, 1e10, 1e15} {
		for _, alpha := range []float64{0.4, 0.025, 1e-9} {
			assert.InDelta(t, math.Log10(alpha), StudentUpper(StudentUpperQuantile(alpha, df), df).Log10, 1e-11, "df %g", df)
		}
	}
}
