package prob

import "math"

// ChiSquareUpper returns P(X ≥ x) for a chi-square variable with df degrees of
// freedom (df > 0, not necessarily whole): Q(df/2, x/2). It is 1 for x ≤ 0 and
// NaN for df ≤ 0. At least 12 significant digits hold in the value down to
// 1e-30 and in the logarithm beyond.
func ChiSquareUpper(x, df float64) Prob {
	if !(df > 0) || math.IsNaN(x) {
		return none
	}
	if x <= 0 {
		return one
	}
	_, ln := incompleteGamma(df/2, x/2)
	return fromLog(ln)
}

// ChiSquareLower returns P(X ≤ x), the other tail of ChiSquareUpper.
func ChiSquareLower(x, df float64) Prob {
	if !(df > 0) || math.IsNaN(x) {
		return none
	}
	if x <= 0 {
		return zero
	}
	ln, _ := incompleteGamma(df/2, x/2)
	return fromLog(ln)
}

// ChiSquareDensity returns the density at x; +Inf at 0 for df < 2.
func ChiSquareDensity(x, df float64) float64 {
	switch {
	case x < 0:
		return 0
	case x == 0 && df < 2:
		return math.Inf(1)
	case x == 0 && df == 2:
		return 0.5
	case x == 0:
		return 0
	}
	return math.Exp(lnChiSquareDensity(x, df))
}

func lnChiSquareDensity(x, df float64) float64 {
	return lnPoisson(df/2, x/2) + math.Log(df/(2*x))
}

// ChiSquareUpperQuantile returns the x with P(X ≥ x) = alpha, the critical value
// of a test at level alpha. alpha may be as small as 1e-300; it is 0 for
// alpha = 1, +Inf for alpha = 0 and NaN outside [0, 1].
func ChiSquareUpperQuantile(alpha, df float64) float64 {
	if alpha > 0.5 && alpha <= 1 {
		return ChiSquareLowerQuantile(1-alpha, df)
	}
	if !(alpha >= 0 && alpha <= 0.5) || !(df > 0) {
		return math.NaN()
	}
	if alpha == 0 {
		return math.Inf(1)
	}
	target := math.Log(alpha)
	return solveIncreasing(wilsonHilferty(NormalUpperQuantile(alpha), df), func(x float64) (value, slope float64) {
		_, lnQ := incompleteGamma(df/2, x/2)
		return target - lnQ, math.Exp(lnChiSquareDensity(x, df) - lnQ)
	})
}

// ChiSquareLowerQuantile returns the x with P(X ≤ x) = alpha; see
// ChiSquareUpperQuantile for the range. Near 0 the quantile goes like
// alpha^(2/df), which for df < 2 leaves the range of a float64 before alpha does.
func ChiSquareLowerQuantile(alpha, df float64) float64 {
	if alpha > 0.5 && alpha <= 1 {
		return ChiSquareUpperQuantile(1-alpha, df)
	}
	if !(alpha >= 0 && alpha <= 0.5) || !(df > 0) {
		return math.NaN()
	}
	if alpha == 0 {
		return 0
	}
	target := math.Log(alpha)
	return solveIncreasing(wilsonHilferty(-NormalUpperQuantile(alpha), df), func(x float64) (value, slope float64) {
		lnP, _ := incompleteGamma(df/2, x/2)
		return lnP - target, math.Exp(lnChiSquareDensity(x, df) - lnP)
	})
}

// wilsonHilferty is the cube-root approximation of a chi-square quantile from
// the normal one (Wilson and Hilferty 1931), used only as a starting point.
func wilsonHilferty(z, df float64) float64 {
	c := 2 / (9 * df)
	x := df * math.Pow(1-c+z*math.Sqrt(c), 3)
	if x > 1e-8*df {
		return x
	}
	return 1e-8 * df
}

// solveIncreasing finds the positive root of an increasing function on (0, ∞)
// given its value and slope: Newton steps from start, replaced by halving (in
// ratio) whenever a step leaves the bracket found so far.
func solveIncreasing(start float64, f func(x float64) (value, slope float64)) float64 {
	lo, hi := 0.0, math.Inf(1)
	x := start
	for range 400 {
		v, s := f(x)
		if math.IsNaN(v) {
			return math.NaN()
		}
		if v == 0 {
			return x
		}
		if v < 0 {
			lo = x
		} else {
			hi = x
		}
		next := x - v/s
		if !(next > lo && next < hi) {
			switch {
			case lo == 0:
				next = hi / 16
			case math.IsInf(hi, 1):
				next = lo * 2
			default:
				next = math.Sqrt(lo) * math.Sqrt(hi)
			}
		}
		if math.Abs(next-x) <= 2e-16*x {
			return next
		}
		x = next
	}
	return x
}

// FDensity is the density of F at x > 0, to about six digits: enough to draw it.
func FDensity(x, df1, df2 float64) float64 {
	if !(x > 0) {
		return 0
	}
	whole, _ := math.Lgamma((df1 + df2) / 2)
	first, _ := math.Lgamma(df1 / 2)
	second, _ := math.Lgamma(df2 / 2)
	return math.Exp(whole - first - second + df1/2*math.Log(df1/df2) + (df1/2-1)*math.Log(x) - (df1+df2)/2*math.Log1p(df1*x/df2))
}
