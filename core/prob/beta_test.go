package prob

import (
	"fmt"
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Binomial tails in exact integers: P(X ≥ k) with p = a/b is
// Σ C(n,j) a^j (b−a)^(n−j) / b^n.
func TestBinomialAgainstExactArithmetic(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ n, a, b int64 }{{1, 1, 2}, {10, 1, 3}, {57, 9, 10}, {140, 1, 2}, {300, 1, 100}, {400, 31, 50}} {
		p := float64(c.a) / float64(c.b)
		total := new(big.Int).Exp(big.NewInt(c.b), big.NewInt(c.n), nil)
		exact := func(from, to int64) float64 {
			sum := new(big.Int)
			for j := from; j <= to; j++ {
				term := new(big.Int).Binomial(c.n, j)
				term.Mul(term, new(big.Int).Exp(big.NewInt(c.a), big.NewInt(j), nil))
				sum.Add(sum, term.Mul(term, new(big.Int).Exp(big.NewInt(c.b-c.a), big.NewInt(c.n-j), nil)))
			}
			f, _ := new(big.Float).SetPrec(200).Quo(new(big.Float).SetInt(sum), new(big.Float).SetInt(total)).Float64()
			return f
		}
		for k := int64(0); k <= c.n; k += 1 + c.n/17 {
			name := fmt.Sprintf("n %d p %d/%d k %d", c.n, c.a, c.b, k)
			if want := exact(k, c.n); want > 1e-290 {
				assert.InEpsilon(t, want, BinomialUpper(k, c.n, p).Value, 2e-12, name)
			}
			if want := exact(0, k); want > 1e-290 {
				assert.InEpsilon(t, want, BinomialLower(k, c.n, p).Value, 2e-12, name)
			}
		}
	}
}

func TestStudentClosedForms(t *testing.T) {
	t.Parallel()
	for _, x := range []float64{0, 0.3, 1, 2.5, 40, 1e6, 1e12} {
		// df = 1: ½ − atan(t)/π = atan(1/t)/π; df = 2: ½(1 − t/√(2+t²)).
		if x > 0 {
			assert.InEpsilon(t, math.Atan(1/x)/math.Pi, StudentUpper(x, 1).Value, 1e-13)
			root := math.Sqrt(2 + x*x)
			assert.InEpsilon(t, 1/(root*(root+x)), StudentUpper(x, 2).Value, 1e-13)
		}
		assert.InDelta(t, 1, StudentUpper(x, 3).Value+StudentLower(x, 3).Value, 1e-15)
		// t² is F with 1 and df degrees of freedom.
		assert.InEpsilon(t, StudentTwoSided(x, 7).Value, FUpper(x*x, 1, 7).Value, 1e-12)
	}
	// With many degrees of freedom t goes over into the normal distribution.
	assert.InEpsilon(t, NormalUpper(3).Value, StudentUpper(3, 1e9).Value, 1e-7)
}

func TestBetaFamilyQuantilesInvertTails(t *testing.T) {
	t.Parallel()
	for _, alpha := range []float64{0.999, 0.7, 0.5, 0.05, 1e-3, 1e-9, 1e-40} {
		for _, df := range []float64{1, 2, 5, 30, 1000} {
			got := StudentUpper(StudentUpperQuantile(alpha, df), df)
			assert.InDelta(t, math.Log10(alpha), got.Log10, 1e-11*math.Abs(math.Log10(alpha))+1e-12, "t, df %g", df)
		}
		for _, ab := range [][2]float64{{0.5, 0.5}, {1, 9}, {57.5, 83.5}, {3, 4000}} {
			x := BetaLowerQuantile(alpha, ab[0], ab[1])
			ln, _ := incompleteBeta(ab[0], ab[1], x, 1-x)
			if x > 1e-300 && x < 1-1e-6 {
				assert.InDelta(t, math.Log(alpha), ln, 1e-10*math.Abs(math.Log(alpha))+1e-11, "beta %v alpha %g", ab, alpha)
			}
		}
	}
}

func TestBetaFamilyOutsideTheDomain(t *testing.T) {
	t.Parallel()
	for name, got := range map[string]float64{
		"t without df":      StudentUpper(1, 0).Value,
		"f without df":      FUpper(1, 3, 0).Value,
		"p above one":       BinomialUpper(1, 2, 1.5).Value,
		"k beyond n":        BinomialTwoSided(5, 4, 0.5).Value,
		"beta without a":    BetaLowerQuantile(0.5, 0, 1),
		"t level above one": StudentUpperQuantile(2, 3),
	} {
		assert.True(t, math.IsNaN(got), name)
	}
	assert.Equal(t, one, BinomialUpper(0, 10, 0.3))
	assert.Equal(t, zero, BinomialUpper(11, 10, 0.3))
	assert.Equal(t, one, BinomialTwoSided(5, 10, 0.5), "the likeliest outcome")
	assert.Equal(t, one, BinomialTwoSided(0, 10, 0))
	assert.Equal(t, zero, BinomialTwoSided(1, 10, 0))
	assert.Equal(t, 0.0, FUpper(math.Inf(1), 2, 3).Value)
}
