package prob

import "math"

// The Poisson mixture takes time in proportion to the root of the noncentrality λ.
// Where ξ = √(xλ) is large the tails come from an expansion in 1/ξ instead, which gets
// better as ξ grows (Temme 1993, Asymptotic and numerical aspects of the noncentral
// chi-square distribution; Gil, Segura and Temme 2014, Algorithm 939). With μ = df/2,
// ρ = √(x/λ) and s = (√x − √λ)²/2, for x ≥ λ
//
//	Q = ρ^(μ−½) Φ(−√2s) + Σ_{n≥1} (−1)ⁿ ρ^μ/(2√(2π)) (A_n(μ−1) − A_n(μ)/ρ) ξ^(½−n) E_{n+½}(s)
//
// with A_n the coefficients of Hankel's expansion of the modified Bessel function I and
// E_p the exponential integral. Below λ the same with the terms' signs turned gives P.

// isLarge reports whether each term is at most about a quarter of the one before, so
// that they vanish long before the expansion begins to diverge.
func isLarge(x, df, noncentrality float64) bool {
	return math.Sqrt(x)*math.Sqrt(noncentrality) >= math.Max(200, df*df/2)
}

// noncentralLarge returns the smaller tail, and whether that is the upper one.
func noncentralLarge(x, df, noncentrality float64) (p Prob, upper bool) {
	rootX, rootN := math.Sqrt(x), math.Sqrt(noncentrality)
	xi, mu := rootX*rootN, df/2
	apart := math.Abs(x-noncentrality) / (rootX + rootN)
	s := apart * apart / 2
	sign := -1.0
	if upper = x >= noncentrality; !upper {
		sign = 1
	}
	lnRho := math.Log1p((x-noncentrality)/noncentrality) / 2
	lnFirst := (mu-0.5)*lnRho + NormalUpper(apart).Log10*math.Ln10
	// The sum is kept relative to the first term.
	front := math.Exp(mu*lnRho - lnSqrt2Pi - math.Ln2 - s - lnFirst + 0.5*math.Log(xi))
	total, before, own := 1.0, 1.0, 1.0
	e := 2 * (1 - math.Sqrt(math.Pi*s)*erfcx(s)) // e^s·E_{3/2}(s), from E_{1/2}
	for n := 1.0; n < 60; n++ {
		odd := (2*n - 1) * (2*n - 1)
		before *= (4*(mu-1)*(mu-1) - odd) / (8 * n)
		own *= (4*mu*mu - odd) / (8 * n)
		front /= xi
		if s >= 1 {
			e = scaledExponentialIntegral(n+0.5, s)
		}
		back := own * math.Exp(-lnRho)
		total += sign * front * (before - back) * e
		if front*(math.Abs(before)+math.Abs(back))*e < 1e-17*math.Abs(total) { // a single term may be 0 by chance
			break
		}
		sign = -sign
		e = (1 - s*e) / (n + 0.5)
	}
	return FromLog(lnFirst + math.Log(total)), upper
}

// erfcx is e^s·erfc(√s) for s < 1; the caller does not use it beyond.
func erfcx(s float64) float64 { return math.Exp(math.Min(1, s)) * math.Erfc(math.Sqrt(s)) }

// scaledExponentialIntegral is e^s·E_p(s) for s ≥ 1 and p > 1, by the continued fraction
// 1/(s + p − 1·p/(s + p + 2 − 2(p+1)/(s + p + 4 − …))) (Abramowitz and Stegun 1964,
// 5.1.22 in its even form).
func scaledExponentialIntegral(p, s float64) float64 {
	b := s + p
	d := 1 / b
	h, step := d, d
	for k := 1.0; k < 1000; k++ {
		b += 2
		a := -k * (p + k - 1)
		d = 1 / (a*d + b)
		step *= b*d - 1
		h += step
		if math.Abs(step) < 1e-17*h {
			break
		}
	}
	return h
}

// lnNoncentralDensityLarge is the same expansion of the density,
// ½ e^{−(√x−√λ)²/2} ρ^(μ−1) e^{−ξ} I_{μ−1}(ξ).
func lnNoncentralDensityLarge(x, df, noncentrality float64) float64 {
	rootX, rootN := math.Sqrt(x), math.Sqrt(noncentrality)
	xi, nu := rootX*rootN, df/2-1
	apart := (x - noncentrality) / (rootX + rootN)
	sum, term := 1.0, 1.0
	for n := 1.0; n < 60; n++ {
		term *= -(4*nu*nu - (2*n-1)*(2*n-1)) / (8 * n * xi)
		sum += term
		if math.Abs(term) < 1e-17 {
			break
		}
	}
	return -apart*apart/2 + nu*math.Log1p(
		(x-noncentrality)/noncentrality,
	)/2 - 0.5*math.Log(
		xi,
	) - lnSqrt2Pi - math.Ln2 + math.Log(
		sum,
	)
}
