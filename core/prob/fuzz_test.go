package prob

import (
	"math"
	"testing"
)

// FuzzTails asks every distribution for both tails at any point with any parameters:
// inside the domain they are probabilities that add to 1, fall or rise with the point,
// and invert; outside they are NaN.
func FuzzTails(f *testing.F) {
	for _, seed := range [][4]float64{{3.84, 1, 2, 0.5}, {1e-300, 1e-3, 5, 1e-9}, {1e15, 9801, 40, 0.999}, {0, 2, 2, 0.5}, {700, 30, 1e6, 1e-40}} {
		f.Add(seed[0], seed[1], seed[2], seed[3])
	}
	f.Fuzz(func(t *testing.T, x, a, b, alpha float64) {
		if !(math.Abs(x) < 1e9 && a > 0 && b > 0) {
			return
		}
		// Parameters from 10⁻³ to 10⁴, wherever they come from.
		a, b = math.Exp(math.Mod(math.Log(a), 8)+1), math.Exp(math.Mod(math.Log(b), 8)+1)
		if !(a > 1e-3 && b > 1e-3) {
			return
		}
		n := int64(a) + 1
		for name, tails := range map[string]func(x float64) (lower, upper Prob){
			"normal":     func(x float64) (Prob, Prob) { return NormalLower(x), NormalUpper(x) },
			"t":          func(x float64) (Prob, Prob) { return StudentLower(x, a), StudentUpper(x, a) },
			"chi-square": func(x float64) (Prob, Prob) { return ChiSquareLower(x, a), ChiSquareUpper(x, a) },
			"non-central": func(x float64) (Prob, Prob) {
				return NoncentralChiSquareLower(x, a, b), NoncentralChiSquareUpper(x, a, b)
			},
			"F":    func(x float64) (Prob, Prob) { return FLower(x, a, b), FUpper(x, a, b) },
			"beta": func(x float64) (Prob, Prob) { return BetaLower(x, a, b), BetaUpper(x, a, b) },
		} {
			lower, upper := tails(x)
			further, _ := tails(x + 1e-3*math.Abs(x))
			for _, p := range []Prob{lower, upper, further} {
				if !(p.Value >= 0 && p.Value <= 1 && p.Log10 <= 0) {
					t.Fatalf("%s at %g, %g and %g: %+v", name, x, a, b, p)
				}
			}
			if math.Abs(lower.Value+upper.Value-1) > 1e-11 {
				t.Fatalf("%s at %g, %g and %g: tails add to %g", name, x, a, b, lower.Value+upper.Value)
			}
			if further.Value < lower.Value*(1-1e-11) {
				t.Fatalf("%s falls from %g to %g after %g, %g and %g", name, lower.Value, further.Value, x, a, b)
			}
		}
		if alpha > 1e-300 && alpha < 1 {
			for name, got := range map[string]float64{
				"normal": NormalUpper(NormalUpperQuantile(alpha)).Log10, "t": StudentLower(StudentLowerQuantile(alpha, a), a).Log10,
				"chi-square": ChiSquareUpper(ChiSquareUpperQuantile(alpha, a), a).Log10, "non-central": NoncentralChiSquareUpper(NoncentralChiSquareUpperQuantile(alpha, a, b), a, b).Log10,
			} {
				// Where the quantile itself underflows, or stands at 0, there is no inverse.
				if a < 1 || b < 1 {
					continue
				}
				if want := math.Log10(alpha); math.Abs(got-want) > 1e-9*math.Max(1, -want) {
					t.Fatalf("%s: the quantile of %g with %g and %g has %g", name, alpha, a, b, math.Pow(10, got))
				}
			}
			k := BinomialUpperQuantile(alpha, n, 0.3)
			if !BinomialUpper(k, n, 0.3).AtMost(alpha) {
				t.Fatalf("binomial of %d: %d exceeds %g", n, k, alpha)
			}
		}
		if !math.IsNaN(ChiSquareUpper(x, -a).Value) || !math.IsNaN(FLower(x, a, -b).Value) || !math.IsNaN(NoncentralChiSquareUpper(x, a, -b).Value) {
			t.Fatal("a negative parameter is taken")
		}
	})
}
