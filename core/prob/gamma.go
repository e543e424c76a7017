package prob

import "math"

// lnSqrt2Pi is ln √(2π), 20 digits.
const lnSqrt2Pi = 0.91893853320467274178

// maxTerms bounds every series and continued fraction here. They need about
// 8·√a terms at worst, so the bound is reached only for a beyond 1e12, where
// the result is NaN rather than a number with an unknown error.
const maxTerms = 10_000_000

// stepEnd ends a continued fraction: a factor may stand one rounding off 1 for ever.
const stepEnd = 2.5e-16

// stirlingError returns ln Γ(a+1) − [½ ln(2πa) + a ln a − a], the error of
// Stirling's formula, for a > 0.
//
// From a = 16 on by the asymptotic series (Abramowitz and Stegun 1964, 6.1.41),
// whose next term is below 1e-17 there; below that from math.Lgamma.
func stirlingError(a float64) float64 {
	if a < 16 {
		g, _ := math.Lgamma(a + 1)
		return g - (a+0.5)*math.Log(a) + a - lnSqrt2Pi
	}
	b := 1 / (a * a)
	return (1.0/12 - b*(1.0/360-b*(1.0/1260-b*(1.0/1680-b*(1.0/1188-b*691.0/360360))))) / a
}

// Deviance returns x·ln(x/m) + m − x, half of one answer's share in the
// likelihood-ratio statistic, for x ≥ 0 and m > 0, given d = x − m as exactly
// as the caller knows it. It never cancels: near x = m a series in d/(x+m) is
// used (Loader 2000, Fast and accurate computation of binomial probabilities).
// Deviance(0, m, −m) is m.
func Deviance(x, m, d float64) float64 {
	if x == 0 {
		return m
	}
	if math.Abs(d) >= 0.1*(x+m) {
		return x*math.Log(x/m) - d
	}
	v := d / (x + m)
	sum := d * v
	term := 2 * x * v
	for j := 3.0; ; j += 2 {
		term *= v * v
		next := sum + term/j
		if next == sum {
			return next
		}
		sum = next
	}
}

// lnPoisson returns ln[ xᵃ e⁻ˣ / Γ(a+1) ], for a ≥ 0 and x > 0, by the
// saddle-point form of Loader (2000), which keeps its digits for large a.
func lnPoisson(a, x float64) float64 {
	if a == 0 {
		return -x
	}
	return -stirlingError(a) - Deviance(a, x, a-x) - 0.5*math.Log(a) - lnSqrt2Pi
}

// incompleteGamma returns the natural logarithms of the regularised lower and
// upper incomplete gamma functions P(a, x) and Q(a, x), for a > 0 and x ≥ 0.
//
// The smaller one is computed by itself: P by its power series for x < a + 1, Q
// by its continued fraction otherwise (Gautschi 1979, A computational procedure
// for incomplete gamma functions; evaluated after Lentz 1976). The other follows
// by log1p. Both are NaN if the expansion does not converge.
func incompleteGamma(a, x float64) (lnP, lnQ float64) {
	switch {
	case x == 0:
		return math.Inf(-1), 0
	case math.IsInf(x, 1):
		return 0, math.Inf(-1)
	case x < a+1:
		sum, term := 1.0, 1.0
		for k := 1; k < maxTerms; k++ {
			term *= x / (a + float64(k))
			sum += term
			if term < sum*1e-17 {
				lnP = lnPoisson(a, x) + math.Log(sum)
				return lnP, math.Log1p(-math.Exp(lnP))
			}
		}
		return math.NaN(), math.NaN()
	}
	const tiny = 1e-300
	b := x + 1 - a
	c := 1 / tiny
	d := 1 / b
	h := d
	for i := 1; i < maxTerms; i++ {
		an := -float64(i) * (float64(i) - a)
		b += 2
		d = an*d + b
		if math.Abs(d) < tiny {
			d = tiny
		}
		c = b + an/c
		if math.Abs(c) < tiny {
			c = tiny
		}
		d = 1 / d
		step := d * c
		h *= step
		if math.Abs(step-1) < stepEnd {
			lnQ = lnPoisson(a, x) + math.Log(a*h)
			return math.Log1p(-math.Exp(lnQ)), lnQ
		}
	}
	return math.NaN(), math.NaN()
}

// LnPoisson returns ln of the Poisson probability of x at this mean, for x ≥ 0, not
// necessarily whole, and mean > 0.
func LnPoisson(x, mean float64) float64 { return lnPoisson(x, mean) }
