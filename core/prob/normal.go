package prob

import "math"

// NormalUpper returns P(Z ≥ z) of the standard normal distribution. Values come
// from the complementary error function; from z = 10 on the logarithm comes
// from the continued fraction of Mills' ratio (Laplace 1812), so that it stays
// exact where the value underflows.
func NormalUpper(z float64) Prob {
	switch {
	case math.IsNaN(z):
		return none
	case z < 0:
		return complement(NormalUpper(-z).Value)
	case z < 10:
		v := 0.5 * math.Erfc(z/math.Sqrt2)
		return Prob{Value: v, Log10: math.Log10(v)}
	case math.IsInf(z, 1):
		return zero
	}
	fraction := 0.0
	for k := 60.0; k >= 1; k-- {
		fraction = k / (z + fraction)
	}
	return fromLog(-z*z/2 - lnSqrt2Pi - math.Log(z+fraction))
}

// NormalLower returns P(Z ≤ z).
func NormalLower(z float64) Prob { return NormalUpper(-z) }

// NormalTwoSided returns P(|Z| ≥ |z|), twice the smaller tail.
func NormalTwoSided(z float64) Prob { return NormalUpper(math.Abs(z)).Times(2) }

// NormalUpperQuantile returns the z with P(Z ≥ z) = alpha, for alpha down to
// 1e-300; ±Inf at 0 and 1, NaN outside.
func NormalUpperQuantile(alpha float64) float64 {
	switch {
	case !(alpha >= 0 && alpha <= 1):
		return math.NaN()
	case alpha == 0:
		return math.Inf(1)
	case alpha > 0.5:
		return -NormalUpperQuantile(1 - alpha)
	case alpha == 0.5:
		return 0
	}
	target := math.Log(alpha)
	start := math.Sqrt(-2 * target) // above the root for small alpha, never far
	if alpha > 0.01 {
		start = math.Max(1e-3, math.Sqrt2*math.Erfinv(1-2*alpha))
	}
	return solveIncreasing(start, func(z float64) (value, slope float64) {
		lnQ := NormalUpper(z).Log10 * math.Ln10
		return target - lnQ, math.Exp(-z*z/2 - lnSqrt2Pi - lnQ)
	})
}

// NormalLowerQuantile returns the z with P(Z ≤ z) = alpha.
func NormalLowerQuantile(alpha float64) float64 { return -NormalUpperQuantile(alpha) }

// NormalDensity returns the density of the standard normal distribution at z.
func NormalDensity(z float64) float64 { return math.Exp(-z*z/2) / math.Sqrt(2*math.Pi) }

// StudentDensity is the density of Student's t with df degrees of freedom, df > 0, to about six
// digits: enough to draw it. Beyond ten million degrees of freedom it is the normal one.
func StudentDensity(t, df float64) float64 {
	if df > 1e7 {
		return NormalDensity(t)
	}
	above, _ := math.Lgamma((df + 1) / 2)
	below, _ := math.Lgamma(df / 2)
	return math.Exp(above - below - math.Log(df*math.Pi)/2 - (df+1)/2*math.Log1p(t/df*t))
}
