package prob

import (
	"fmt"
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/workedcases"
)

func TestReferenceDistributions(t *testing.T) {
	t.Parallel()
	compared := 0
	check := func(done bool) {
		if done {
			compared++
		}
	}
	for _, c := range workedcases.Load(t, "distribution") {
		switch name := workedcases.In[string](t, c, "name"); name {
		case "chi_square":
			x, df := workedcases.Float(t, c, "x"), workedcases.Float(t, c, "df")
			u, l := ChiSquareUpper(x, df), ChiSquareLower(x, df)
			check(c.NearProb(t, "upper_p_value", u.Value, u.Log10))
			check(c.NearProb(t, "lower_p_value", l.Value, l.Log10))
		case "chi_square_quantile":
			check(c.Near(t, "critical_value", ChiSquareUpperQuantile(workedcases.Float(t, c, "alpha"), workedcases.Float(t, c, "df"))))
		case "normal":
			z := workedcases.Float(t, c, "z")
			l, g, two := NormalLower(z), NormalUpper(z), NormalTwoSided(z)
			check(c.NearProb(t, "less_p_value", l.Value, l.Log10))
			check(c.NearProb(t, "greater_p_value", g.Value, g.Log10))
			check(c.NearProb(t, "two_sided_p_value", two.Value, two.Log10))
		case "normal_quantile":
			alpha := workedcases.Float(t, c, "alpha")
			check(c.Near(t, "critical_value", NormalUpperQuantile(alpha)))
			check(c.Near(t, "critical_value_two_sided", NormalUpperQuantile(alpha/2)))
		case "t":
			x, df := workedcases.Float(t, c, "t"), workedcases.Float(t, c, "df")
			l, g, two := StudentLower(x, df), StudentUpper(x, df), StudentTwoSided(x, df)
			check(c.NearProb(t, "less_p_value", l.Value, l.Log10))
			check(c.NearProb(t, "greater_p_value", g.Value, g.Log10))
			check(c.NearProb(t, "two_sided_p_value", two.Value, two.Log10))
		case "binomial":
			n, k, p := int64(workedcases.Float(t, c, "n")), int64(workedcases.Float(t, c, "k")), workedcases.Float(t, c, "p")
			l, g, two := BinomialLower(k, n, p), BinomialUpper(k, n, p), BinomialTwoSided(k, n, p)
			check(c.NearProb(t, "less_p_value", l.Value, l.Log10))
			check(c.NearProb(t, "greater_p_value", g.Value, g.Log10))
			check(c.NearProb(t, "two_sided_p_value", two.Value, two.Log10))
		case "noncentral_chi_square":
			x, df, nc := workedcases.Float(t, c, "x"), workedcases.Float(t, c, "df"), workedcases.Float(t, c, "noncentrality")
			u, l := NoncentralChiSquareUpper(x, df, nc), NoncentralChiSquareLower(x, df, nc)
			check(c.NearProb(t, "upper_p_value", u.Value, u.Log10))
			check(c.NearProb(t, "lower_p_value", l.Value, l.Log10))
		}
	}
	require.GreaterOrEqual(t, compared, 15)
}

// For an even df the upper tail is e^(−x/2)·Σ_{k<df/2} (x/2)^k/k!: the sum in
// exact rationals, the logarithm of e^(−x/2) known exactly.
func TestChiSquareUpperAgainstFiniteSum(t *testing.T) {
	t.Parallel()
	for _, df := range []int64{2, 4, 10, 48, 200, 1000, 9800} {
		for _, ratio := range []float64{0.1, 0.5, 0.9, 1, 1.1, 1.5, 3, 20} {
			x := math.Max(1, math.Round(float64(df)*ratio))
			half := big.NewRat(int64(x), 2)
			h := new(big.Float).SetPrec(400).SetRat(half)
			sum, term := big.NewFloat(1).SetPrec(400), big.NewFloat(1).SetPrec(400)
			for k := int64(1); k < df/2; k++ {
				term.Mul(term, h).Quo(term, big.NewFloat(float64(k)))
				sum.Add(sum, term)
			}
			mantissa, exponent := new(big.Float), 0
			exponent = sum.MantExp(mantissa)
			m, _ := mantissa.Float64()
			lnWant := math.Log(m) + float64(exponent)*math.Ln2 - x/2
			got := ChiSquareUpper(x, float64(df))
			// m·2^e·e^(−x/2) loses about |ln| · 1e-16 in the difference of two
			// large logarithms, which is the reference's own error here.
			tolerance := 1e-12*math.Abs(lnWant) + 4e-16*x + 1e-13
			if lnWant < -1e-3 {
				assert.InDelta(t, lnWant, got.Log10*math.Ln10, tolerance, "df %d x %g", df, x)
			}
			both := got.Value + ChiSquareLower(x, float64(df)).Value
			assert.InDelta(t, 1, both, 1e-14, "tails of df %d x %g", df, x)
		}
	}
}

func TestFarTails(t *testing.T) {
	t.Parallel()
	// df = 2 has the closed form e^(−x/2): 1e-400 is a number here.
	p := ChiSquareUpper(800*math.Ln10, 2)
	assert.Equal(t, 0.0, p.Value)
	assert.InDelta(t, -400, p.Log10, 1e-11)
	// So far out that each factor of the continued fraction is 1 but for rounding: the
	// leading term (x/2)^(a−1)·e^(−x/2)/Γ(a).
	for _, x := range []float64{1e12, 1e20, 2.5e87} {
		g, _ := math.Lgamma(79.5)
		assert.InEpsilon(t, (78.5*math.Log(x/2)-x/2-g)/math.Ln10, ChiSquareUpper(x, 159).Log10, 1e-12)
	}
	// z = 40: log10 of the upper tail by Mills' ratio with 50-digit arithmetic.
	assert.InEpsilon(t, -349.43700645934584, NormalUpper(40).Log10, 1e-12)
	// The lower tail of a normal at +40 is one less than anything a float shows.
	assert.Equal(t, 1.0, NormalLower(40).Value)
}

func TestQuantilesInvertTails(t *testing.T) {
	t.Parallel()
	alphas := []float64{0.999, 0.9, 0.5, 0.1, 0.05, 0.01, 1e-4, 1e-12, 1e-30, 1e-100, 1e-300}
	for _, alpha := range alphas {
		t.Run(fmt.Sprint(alpha), func(t *testing.T) {
			want := math.Log10(alpha)
			tolerance := 1e-11*math.Abs(want) + 1e-12
			assert.InDelta(t, want, NormalUpper(NormalUpperQuantile(alpha)).Log10, tolerance)
			for _, df := range []float64{0.5, 1, 2, 3, 7, 30, 500, 9801} {
				assert.InDelta(t, want, ChiSquareUpper(ChiSquareUpperQuantile(alpha, df), df).Log10, tolerance, "upper, df %g", df)
				if want/df < -140 {
					continue // the quantile itself, near alpha^(2/df), is below the range of a float
				}
				assert.InDelta(t, want, ChiSquareLower(ChiSquareLowerQuantile(alpha, df), df).Log10, tolerance, "lower, df %g", df)
			}
		})
	}
}

func TestNoncentralLimits(t *testing.T) {
	t.Parallel()
	for _, nc := range []float64{1e-9, 0.3, 12, 500, 40000} {
		// df = 1: (Z+δ)² ≥ x, two normal tails, an independent closed form.
		for _, x := range []float64{0.5, 3.84, 50, nc, 2 * nc} {
			d := math.Sqrt(nc)
			lo, hi := NormalUpper(math.Sqrt(x)-d), NormalUpper(math.Sqrt(x)+d)
			want := math.Log10(hi.Value + lo.Value)
			got := NoncentralChiSquareUpper(x, 1, nc)
			if want > -280 {
				assert.InDelta(t, want, got.Log10, 1e-11*math.Abs(want)+1e-12, "nc %g x %g", nc, x)
			}
			assert.InDelta(t, 1, got.Value+NoncentralChiSquareLower(x, 1, nc).Value, 1e-12)
		}
	}
}

func TestOutsideTheDomain(t *testing.T) {
	t.Parallel()
	for name, got := range map[string]float64{
		"df 0":            ChiSquareUpper(1, 0).Value,
		"df NaN":          ChiSquareLower(1, math.NaN()).Value,
		"alpha above one": ChiSquareUpperQuantile(1.5, 3),
		"negative alpha":  NormalUpperQuantile(-0.1),
		"negative nc":     NoncentralChiSquareUpper(1, 2, -1).Value,
	} {
		assert.True(t, math.IsNaN(got), name)
	}
	assert.Equal(t, 1.0, ChiSquareUpper(-3, 4).Value)
	assert.Equal(t, math.Inf(-1), ChiSquareLower(0, 4).Log10)
	assert.Equal(t, math.Inf(1), ChiSquareUpperQuantile(0, 4))
}
