package prob

import (
	"fmt"
	"math"
	"math/big"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/workedcases"
)

// soaking has the grids gone through whole; else every third point of them is.
var soaking = os.Getenv("WIDETALLY_SOAK") != ""

func sampled() func() bool {
	n := -1
	return func() bool { n++; return soaking || n%3 == 0 }
}

// Twelve digits in every tail down to 1e-30, and twelve of the logarithm beyond, against
// sums in 1600-bit arithmetic.
func TestTwelveDigits(t *testing.T) {
	t.Parallel()
	far, taken := 0, sampled()
	check := func(name string, got Prob, want *big.Float) {
		t.Helper()
		ln := workedcases.Ln(want)
		if ln > -30*math.Ln10 {
			assert.GreaterOrEqual(t, workedcases.Digits(got.Value, want), 12.0, "%s: got %.17g", name, got.Value)
		} else {
			far++
		}
		// A logarithm near 0 is as good as the last digits of p.
		assert.InDelta(t, ln, got.Log10*math.Ln10, 1e-12*math.Max(1, math.Abs(ln)), name)
	}
	for _, df := range []int{2, 4, 10, 48, 200, 1000, 9802} {
		for _, ratio := range []float64{0.1, 0.5, 0.9, 1, 1.1, 1.5, 3, 20} {
			x := math.Max(1, math.Round(float64(df)*ratio))
			check(fmt.Sprintf("chi-square %g, df %d", x, df), ChiSquareUpper(x, float64(df)), workedcases.ChiSquareUpper(x, df))
		}
		for _, z := range []float64{-3, 0, 2, 6, 11} { // about that many standard deviations out
			x := math.Max(0.5, math.Round(float64(df)+z*math.Sqrt(2*float64(df))))
			check(fmt.Sprintf("chi-square %g, df %d", x, df), ChiSquareUpper(x, float64(df)), workedcases.ChiSquareUpper(x, df))
		}
	}
	for _, z := range []float64{0.001, 0.5, 1.96, 5, 8, 9.99, 10.01, 11, 20} {
		check(fmt.Sprintf("normal %g", z), NormalUpper(z), workedcases.NormalUpper(z))
	}
	for _, df := range []int{2, 4, 6, 30, 120, 1000} {
		for _, x := range []float64{0.01, 0.7, 2, 6, 15, 60} {
			check(fmt.Sprintf("t %g, df %d", x, df), StudentUpper(x, float64(df)), workedcases.StudentUpper(x, df))
		}
		for _, d2 := range []int{2, 8, 60, 500} {
			for _, f := range []float64{0.03, 0.5, 1, 1.5, 4, 30, 300} {
				if !taken() {
					continue
				}
				check(fmt.Sprintf("F %g, df %d and %d", f, df, d2), FUpper(f, float64(df), float64(d2)), workedcases.FUpper(f, df, d2))
				check(fmt.Sprintf("lower F %g, df %d and %d", 1/f, d2, df), FLower(1/f, float64(d2), float64(df)), workedcases.FUpper(1/(1/f), df, d2))
			}
		}
	}
	for _, n := range []int{1, 20, 400, 3000} {
		for _, p := range []*big.Rat{big.NewRat(1, 2), big.NewRat(1, 8), big.NewRat(1023, 1024)} {
			share, _ := p.Float64()
			for k := 1; k <= n; k += 1 + n/7 {
				if !taken() {
					continue
				}
				want := workedcases.BinomialUpper(k, n, p)
				check(fmt.Sprintf("binomial %d of %d, %g", k, n, share), BinomialUpper(int64(k), int64(n), share), want)
				check(fmt.Sprintf("beta %d of %d, %g", k, n, share), BetaLower(share, float64(k), float64(n-k+1)), want)
			}
		}
	}
	for _, df := range []int{2, 4, 12, 60} {
		for _, lambda := range []float64{0.25, 3, 40, 500, 3000} {
			for _, z := range []float64{-6, -2, 0, 1, 4, 10} {
				if !taken() {
					continue
				}
				mean, sd := float64(df)+lambda, math.Sqrt(2*(float64(df)+2*lambda))
				x := math.Max(0.25, math.Round(4*(mean+z*sd))/4)
				check(fmt.Sprintf("non-central %g, df %d, λ %g", x, df, lambda), NoncentralChiSquareUpper(x, float64(df), lambda), workedcases.NoncentralUpper(x, df, lambda))
			}
		}
	}
	assert.Greater(t, far, map[bool]int{true: 40, false: 20}[soaking], "tails beyond 1e-30 tried")
}

// Both tails of every quantile, from near 1 to 1e-300: the tail at the quantile is the
// one asked for, and quantiles by the lower and the upper tail meet in the middle.
func TestQuantilesOfBothTails(t *testing.T) {
	t.Parallel()
	type family struct {
		lower, upper                 func(x float64) Prob
		lowerQuantile, upperQuantile func(alpha float64) float64
	}
	families := map[string]family{"normal": {NormalLower, NormalUpper, NormalLowerQuantile, NormalUpperQuantile}}
	for _, df := range []float64{1, 2, 5, 30, 1000} {
		families[fmt.Sprintf("t %g", df)] = family{func(x float64) Prob { return StudentLower(x, df) }, func(x float64) Prob { return StudentUpper(x, df) },
			func(a float64) float64 { return StudentLowerQuantile(a, df) }, func(a float64) float64 { return StudentUpperQuantile(a, df) }}
		for _, d2 := range []float64{4, 40} {
			families[fmt.Sprintf("F %g %g", df, d2)] = family{func(x float64) Prob { return FLower(x, df, d2) }, func(x float64) Prob { return FUpper(x, df, d2) },
				func(a float64) float64 { return FLowerQuantile(a, df, d2) }, func(a float64) float64 { return FUpperQuantile(a, df, d2) }}
		}
		for _, lambda := range []float64{0.5, 20, 900, 1e6} {
			families[fmt.Sprintf("non-central %g %g", df, lambda)] = family{func(x float64) Prob { return NoncentralChiSquareLower(x, df, lambda) }, func(x float64) Prob { return NoncentralChiSquareUpper(x, df, lambda) },
				func(a float64) float64 { return NoncentralChiSquareLowerQuantile(a, df, lambda) }, func(a float64) float64 { return NoncentralChiSquareUpperQuantile(a, df, lambda) }}
		}
	}
	for name, f := range families {
		for _, alpha := range []float64{0.999, 0.6, 0.4, 0.05, 1e-5, 1e-30, 1e-120, 1e-300} {
			want := math.Log10(alpha)
			tolerance := 2e-11*math.Abs(want) + 1e-12
			for side, x := range map[string]float64{"lower": f.lowerQuantile(alpha), "upper": f.upperQuantile(alpha)} {
				if x == 0 || math.IsInf(x, 0) || math.Abs(x) < 1e-290 || math.Abs(x) > 1e290 {
					continue // the quantile itself lies beyond a float64
				}
				got := f.lower(x).Log10
				if side == "upper" {
					got = f.upper(x).Log10
				}
				assert.InDelta(t, want, got, tolerance, "%s, %s tail %g at %g", name, side, alpha, x)
			}
		}
		lower, upper := f.lowerQuantile(0.4), f.upperQuantile(0.6)
		assert.InDelta(t, lower, upper, 1e-11*(1+math.Abs(lower)), name)
	}
	for _, n := range []int64{1, 17, 900} {
		for _, p := range []float64{0.02, 0.5, 0.93} {
			for _, alpha := range []float64{0.9, 0.3, 0.01, 1e-8} {
				up, down := BinomialUpperQuantile(alpha, n, p), BinomialLowerQuantile(alpha, n, p)
				assert.True(t, BinomialUpper(up, n, p).AtMost(alpha) && (up == 0 || !BinomialUpper(up-1, n, p).AtMost(alpha)), "n %d p %g upper %g", n, p, alpha)
				assert.True(t, (down < 0 || BinomialLower(down, n, p).AtMost(alpha)) && !BinomialLower(down+1, n, p).AtMost(alpha), "n %d p %g lower %g", n, p, alpha)
			}
		}
	}
}

// Temme's expansion and the mixture agree where both can be had; the density is the
// slope of the tail; far beyond the mixture's reach normal limits hold.
func TestNoncentralLarge(t *testing.T) {
	t.Parallel()
	taken := sampled()
	for _, df := range []int{2, 4, 20} {
		for _, lambda := range []float64{400, 2000, 8000} {
			for _, part := range []float64{0.3, 0.8, 0.97, 1, 1.0001, 1.05, 1.5, 4} {
				x := math.Round(16*lambda*part) / 16
				if !isLarge(x, float64(df), lambda) || !taken() {
					continue
				}
				want := workedcases.NoncentralUpper(x, df, lambda)
				got := NoncentralChiSquareUpper(x, float64(df), lambda)
				if ln := workedcases.Ln(want); ln < -1e-3 {
					assert.InDelta(t, ln, got.Log10*math.Ln10, 1e-12*math.Max(1, -ln), "df %d λ %g x %g", df, lambda, x)
				}
				const h = 1e-3
				slope := (NoncentralChiSquareLower(x+h, float64(df), lambda).Value - NoncentralChiSquareLower(x-h, float64(df), lambda).Value) / (2 * h)
				assert.InDelta(t, slope, math.Exp(lnNoncentralDensity(x, float64(df), lambda)), 1e-6*(1e-3+slope))
			}
		}
	}
	// √X is nearly normal around √λ: at λ = 10¹² to about 1e-6.
	z := NormalUpperQuantile(0.025)
	assert.InEpsilon(t, (1e6-z)*(1e6-z), NoncentralityForUpper(0.025, 1e12, 3), 1e-9)
	assert.InEpsilon(t, (1e6+z)*(1e6+z), NoncentralityForUpper(0.975, 1e12, 3), 1e-9)
	// A small x far below a large noncentrality: (x/2)·e^(−λ/2) to first order for df = 2.
	assert.InEpsilon(t, (math.Log(5e-13)-5e11)/math.Ln10, NoncentralChiSquareLower(1e-12, 2, 1e12).Log10, 1e-9)
}
