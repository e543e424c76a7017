package prob

import "math"

// lnBinomialTerm returns ln[ Γ(a+b+1)/(Γ(a+1)Γ(b+1)) · xᵃ yᵇ ] for a, b ≥ 0 and
// x + y = 1, the binomial probability when a and b are whole, by the saddle-point
// form of Loader (2000), which keeps its digits for large a and b.
func lnBinomialTerm(a, b, x, y float64) float64 {
	switch {
	case x == 0 && a > 0, y == 0 && b > 0:
		return math.Inf(-1)
	case a == 0:
		return b * math.Log1p(-x)
	case b == 0:
		return a * math.Log1p(-y)
	}
	n, d := a+b, above(a, b, x, y)
	return stirlingError(n) - stirlingError(a) - stirlingError(b) - Deviance(a, n*x, d) - Deviance(b, n*y, -d) +
		0.5*(math.Log(n)-math.Log(a)-math.Log(b)) - lnSqrt2Pi
}

// above returns a − (a+b)·x = (a+b)·y − b with one rounding, from the smaller of x and y,
// which is the one that carries its digits.
func above(a, b, x, y float64) float64 {
	if x <= y {
		return math.FMA(-(a + b), x, a)
	}
	return math.FMA(a+b, y, -b)
}

// incompleteBeta returns the natural logarithms of the regularised incomplete beta
// function I_x(a, b) and of its complement I_y(b, a), for a, b > 0 and x + y = 1,
// both given so that the smaller one carries its digits. The side of the smaller tail is
// computed by a continued fraction in λ = (a+b)y − b, in which nothing cancels (DiDonato
// and Morris 1992, Algorithm 708: significant digit computation of the incomplete beta
// function ratios, equation 8); the other follows by log1p. Both are NaN if the fraction
// does not converge.
func incompleteBeta(a, b, x, y float64) (ln, lnComplement float64) {
	switch {
	case x <= 0:
		return math.Inf(-1), 0
	case y <= 0:
		return 0, math.Inf(-1)
	}
	lambda := above(a, b, x, y)
	if lambda < 0 {
		ln, lnComplement = incompleteBeta(b, a, y, x)
		return lnComplement, ln
	}
	ln = math.Min(0, lnBinomialTerm(a, b, x, y)+math.Log(a*b/(a+b)*betaFraction(a, b, x, y, lambda)))
	return ln, math.Log1p(-math.Exp(ln))
}

// betaFraction is I_x(a, b)·B(a, b)/(xᵃyᵇ) for λ = (a+b)y − b ≥ 0.
func betaFraction(a, b, x, y, lambda float64) float64 {
	c, c0, c1, y1 := 1+lambda, b/a, 1+1/a, y+1
	p, s := 1.0, a+1
	an, bn, an1, bn1 := 0.0, 1.0, 1.0, c/c1
	r := c1 / c
	for n := 1.0; n < maxTerms; n++ {
		t := n / a
		w := n * (b - n) * x
		e := a / s
		alpha := p * (p + c0) * e * e * (w * x)
		e = (1 + t) / (c1 + t + t)
		beta := n + w/s + e*(c+n*y1)
		p, s = 1+t, s+2
		an, an1 = an1, alpha*an+beta*an1
		bn, bn1 = bn1, alpha*bn+beta*bn1
		before := r
		r = an1 / bn1
		if math.Abs(r-before) <= stepEnd*r {
			return r
		}
		an, bn, an1, bn1 = an/bn1, bn/bn1, r, 1
	}
	return math.NaN()
}

// BetaLower returns P(X ≤ x) of the beta distribution, I_x(a, b), for a, b > 0.
func BetaLower(x, a, b float64) Prob {
	if !(a > 0) || !(b > 0) || math.IsNaN(x) {
		return none
	}
	ln, _ := incompleteBeta(a, b, x, 1-x)
	return fromLog(ln)
}

// BetaUpper returns P(X ≥ x).
func BetaUpper(x, a, b float64) Prob {
	if !(a > 0) || !(b > 0) || math.IsNaN(x) {
		return none
	}
	_, ln := incompleteBeta(a, b, x, 1-x)
	return fromLog(ln)
}

// betaOdds returns the odds x/(1−x) of the x with I_x(a, b) = alpha, for a, b > 0; 0
// and +Inf at the ends, NaN outside. The odds range over (0, ∞), so both ends of x keep
// their digits.
func betaOdds(alpha, a, b float64) float64 {
	switch {
	case !(a > 0) || !(b > 0) || !(alpha >= 0 && alpha <= 1):
		return math.NaN()
	case alpha == 0:
		return 0
	case alpha == 1:
		return math.Inf(1)
	case alpha > 0.5:
		return 1 / betaOdds(1-alpha, b, a)
	}
	target := math.Log(alpha)
	return solveIncreasing(a/b, func(o float64) (value, slope float64) {
		x, y := o/(1+o), 1/(1+o)
		ln, _ := incompleteBeta(a, b, x, y)
		lnDensity := lnBinomialTerm(a, b, x, y) + math.Log(a*b/((a+b)*x*y))
		return ln - target, math.Exp(lnDensity + 2*math.Log(y) - ln)
	})
}

// BetaLowerQuantile returns the x with P(X ≤ x) = alpha, for a, b > 0; 0 and 1 at the
// ends, NaN outside.
func BetaLowerQuantile(alpha, a, b float64) float64 {
	o := betaOdds(alpha, a, b)
	if math.IsInf(o, 1) {
		return 1
	}
	return o / (1 + o)
}

// BetaUpperQuantile returns the x with P(X ≥ x) = alpha.
func BetaUpperQuantile(alpha, a, b float64) float64 { return 1 / (1 + betaOdds(alpha, b, a)) }

// StudentUpper returns P(T ≥ t) of Student's t distribution with df > 0 degrees of
// freedom (Student 1908): ½·I_{df/(df+t²)}(df/2, ½) for t ≥ 0.
func StudentUpper(t, df float64) Prob {
	switch {
	case !(df > 0) || math.IsNaN(t):
		return none
	case math.IsInf(t, 1):
		return zero
	case math.IsInf(t, -1):
		return one
	case t < 0:
		return complement(StudentUpper(-t, df).Value)
	}
	// With r = t²/df the arguments are 1/(1+r) and r/(1+r).
	r := t / df * t
	if r > studentFar {
		a := df / 2
		ga, _ := math.Lgamma(a + 0.5)
		gb, _ := math.Lgamma(a + 1)
		return fromLog(a*(math.Log(df)-2*math.Log(t)) + ga - gb - math.Log(math.Pi)/2 - math.Ln2)
	}
	ln, _ := incompleteBeta(df/2, 0.5, 1/(1+r), r/(1+r))
	return fromLog(ln - math.Ln2)
}

// studentFar is the t²/df from which on the tail is its leading term,
// (df/t²)^(df/2)·Γ(df/2+½)/(Γ(df/2+1)·2√π), to more digits than there are, and t² may not
// be a float64.
const studentFar = 1e200

// StudentLower returns P(T ≤ t).
func StudentLower(t, df float64) Prob { return StudentUpper(-t, df) }

// StudentTwoSided returns P(|T| ≥ |t|).
func StudentTwoSided(t, df float64) Prob { return StudentUpper(math.Abs(t), df).Times(2) }

// StudentUpperQuantile returns the t with P(T ≥ t) = alpha; ±Inf at 0 and 1, NaN
// outside.
func StudentUpperQuantile(alpha, df float64) float64 {
	switch {
	case !(alpha >= 0 && alpha <= 1) || !(df > 0):
		return math.NaN()
	case alpha == 0:
		return math.Inf(1)
	case alpha > 0.5:
		return -StudentUpperQuantile(1-alpha, df)
	case alpha == 0.5:
		return 0
	}
	target := math.Log(alpha)
	return solveIncreasing(math.Max(1e-3, NormalUpperQuantile(alpha)), func(t float64) (value, slope float64) {
		lnTail := StudentUpper(t, df).Log10 * math.Ln10
		r := t / df * t
		if r > studentFar {
			return target - lnTail, df / t
		}
		// density = term(df/2, ½)·… /t, from d/dt of the incomplete beta function
		lnDensity := lnBinomialTerm(df/2, 0.5, 1/(1+r), r/(1+r)) + math.Log(df/(df+1)/t) - math.Ln2
		return target - lnTail, math.Exp(lnDensity - lnTail)
	})
}

// StudentLowerQuantile returns the t with P(T ≤ t) = alpha.
func StudentLowerQuantile(alpha, df float64) float64 { return -StudentUpperQuantile(alpha, df) }

// FUpper returns P(F ≥ f) of the F distribution with d1 and d2 degrees of freedom
// (Snedecor 1934): I_{d2/(d2+d1·f)}(d2/2, d1/2).
func FUpper(f, d1, d2 float64) Prob { return fTail(f, d1, d2, true) }

// FLower returns P(F ≤ f).
func FLower(f, d1, d2 float64) Prob { return fTail(f, d1, d2, false) }

func fTail(f, d1, d2 float64, upper bool) Prob {
	if !(d1 > 0) || !(d2 > 0) || math.IsNaN(f) {
		return none
	}
	r := math.Max(0, f) / d2 * d1
	x, y := 1/(1+r), r/(1+r)
	if math.IsInf(r, 1) {
		x, y = 0, 1
	}
	lnUpper, lnLower := incompleteBeta(d2/2, d1/2, x, y)
	if upper {
		return fromLog(lnUpper)
	}
	return fromLog(lnLower)
}

// FUpperQuantile returns the f with P(F ≥ f) = alpha, for d1, d2 > 0; +Inf and 0 at the
// ends, NaN outside.
func FUpperQuantile(alpha, d1, d2 float64) float64 { return d2 / d1 / betaOdds(alpha, d2/2, d1/2) }

// FLowerQuantile returns the f with P(F ≤ f) = alpha.
func FLowerQuantile(alpha, d1, d2 float64) float64 { return d2 / d1 * betaOdds(alpha, d1/2, d2/2) }
