package prob

import "math"

// NoncentralChiSquareUpper returns P(X ≥ x) for a non-central chi-square
// variable with df > 0 degrees of freedom and noncentrality ≥ 0: the power of a
// chi-square test whose critical value is x. It is the Poisson mixture
// Σ w_j·Q(df/2 + j, x/2) with mean noncentrality/2 (Patnaik 1949), summed
// upwards, in which direction the recurrence of Q only adds; for a large √(x·noncentrality)
// by Temme's expansion.
func NoncentralChiSquareUpper(x, df, noncentrality float64) Prob {
	return noncentral(x, df, noncentrality, true)
}

// NoncentralChiSquareLower returns P(X ≤ x), summed downwards, in which
// direction the recurrence of P only adds.
func NoncentralChiSquareLower(x, df, noncentrality float64) Prob {
	return noncentral(x, df, noncentrality, false)
}

func noncentral(x, df, noncentrality float64, upper bool) Prob {
	if !(df > 0) || !(noncentrality >= 0) || math.IsNaN(x) || math.IsInf(noncentrality, 1) {
		return none
	}
	if noncentrality == 0 || x <= 0 {
		if upper {
			return ChiSquareUpper(x, df)
		}
		return ChiSquareLower(x, df)
	}
	if math.IsInf(x, 1) {
		if upper {
			return zero
		}
		return one
	}
	if isLarge(x, df, noncentrality) {
		p, isUpper := noncentralLarge(x, df, noncentrality)
		if isUpper != upper {
			p = complement(p.Value)
		}
		return p
	}
	mean, half, a := noncentrality/2, x/2, df/2
	// Poisson weights more than 10 standard deviations from the mean hold less than
	// 1e-20 of the total. On the side where the tail function is smaller than at the
	// mean they cannot matter; on the other side the sum goes on until its terms vanish.
	spread := 10*math.Sqrt(mean) + 60
	if upper {
		j := math.Max(0, math.Floor(mean-spread))
		_, lnTail := incompleteGamma(a+j, half)
		m := mixture{weight: 1, tail: 1, step: math.Exp(lnPoisson(a+j, half) - lnTail), ln: lnPoisson(j, mean) + lnTail}
		for ; ; j++ {
			if m.add() && j > mean {
				break
			}
			m.tail += m.step
			m.step *= half / (a + j + 1)
			m.weight *= mean / (j + 1)
		}
		return fromLog(math.Min(0, m.total()))
	}
	if mean*half <= 1e-18*a { // all terms but the first vanish
		lnTail, _ := incompleteGamma(a, half)
		return fromLog(lnTail - mean)
	}
	// Beyond the j at which the ratio of two terms, at most mean·half/((j+1)(a+j)), falls
	// below 1 they vanish too, and for a small x that is far below the mean.
	root := (math.Sqrt(a*a+4*mean*half) - a) / 2
	j := math.Ceil(math.Min(mean+spread, root+10*math.Sqrt(root)+60))
	lnTail, _ := incompleteGamma(a+j, half)
	m := mixture{weight: 1, tail: 1, step: math.Exp(lnPoisson(a+j, half) - lnTail), ln: lnPoisson(j, mean) + lnTail}
	for ; j >= 0; j-- {
		if m.add() && j < math.Min(mean, root) {
			break
		}
		m.step *= (a + j) / half
		m.tail += m.step
		m.weight *= j / mean
	}
	return fromLog(math.Min(0, m.total()))
}

// mixture adds weight·tail, all measured against e^ln, which follows when they grow out
// of the range of a float64.
type mixture struct {
	weight, tail, step, sum, last, ln float64
}

// add reports whether the terms are vanishing.
func (m *mixture) add() (vanishing bool) {
	const large = 1e100
	for m.tail > large {
		m.tail, m.step = m.tail/large, m.step/large
		m.rescale(1 / large)
	}
	for m.weight > large {
		m.weight /= large
		m.rescale(1 / large)
	}
	for m.weight < 1/large {
		m.weight *= large
		m.rescale(large)
	}
	term := m.weight * m.tail
	m.sum += term
	vanishing = term < m.last && term < 1e-17*m.sum
	m.last = term
	return vanishing
}

func (m *mixture) rescale(by float64) {
	m.sum, m.last = m.sum*by, m.last*by
	m.ln -= math.Log(by)
}

func (m *mixture) total() float64 { return m.ln + math.Log(m.sum) }

// lnNoncentralDensity is the logarithm of the density, for x > 0.
func lnNoncentralDensity(x, df, noncentrality float64) float64 {
	mean := noncentrality / 2
	if mean == 0 {
		return lnChiSquareDensity(x, df)
	}
	if isLarge(x, df, noncentrality) {
		return lnNoncentralDensityLarge(x, df, noncentrality)
	}
	// The terms rise to about j = √(mean·x/2) and fall from there.
	peak := math.Floor(math.Sqrt(mean * x / 2))
	a, half := df/2, x/2
	sum := 1.0
	for j, t := peak, 1.0; j >= 1 && t > 1e-17*sum; j-- {
		t *= j / mean * ((a + j - 1) / half)
		sum += t
	}
	for j, t := peak, 1.0; t > 1e-17*sum; j++ {
		t *= mean / (j + 1) * (half / (a + j))
		sum += t
	}
	return lnPoisson(peak, mean) + lnChiSquareDensity(x, df+2*peak) + math.Log(sum)
}

// NoncentralChiSquareUpperQuantile returns the x with P(X ≥ x) = alpha, for alpha down
// to 1e-300; 0 and +Inf at the ends, NaN outside.
func NoncentralChiSquareUpperQuantile(alpha, df, noncentrality float64) float64 {
	return noncentralQuantile(alpha, df, noncentrality, true)
}

// NoncentralChiSquareLowerQuantile returns the x with P(X ≤ x) = alpha.
func NoncentralChiSquareLowerQuantile(alpha, df, noncentrality float64) float64 {
	return noncentralQuantile(alpha, df, noncentrality, false)
}

func noncentralQuantile(alpha, df, noncentrality float64, upper bool) float64 {
	switch {
	case !(alpha >= 0 && alpha <= 1) || !(df > 0) || !(noncentrality >= 0) || math.IsInf(noncentrality, 1):
		return math.NaN()
	case alpha == 0 && upper || alpha == 1 && !upper:
		return math.Inf(1)
	case alpha == 0 || alpha == 1:
		return 0
	}
	target := math.Log(alpha)
	return solveIncreasing(df+noncentrality, func(x float64) (value, slope float64) {
		lnTail := noncentral(x, df, noncentrality, upper).Log10 * math.Ln10
		value, slope = lnTail-target, math.Exp(lnNoncentralDensity(x, df, noncentrality)-lnTail)
		if upper {
			value = -value
		}
		return value, slope
	})
}

// NoncentralityForUpper returns the noncentrality at which P(X ≥ x) = alpha, the end of
// a confidence interval of the noncentrality when x was observed; 0 when the central
// distribution already has a tail as large.
func NoncentralityForUpper(alpha, x, df float64) float64 {
	if !(alpha > 0 && alpha < 1) || !(df > 0) || !(x >= 0) || math.IsInf(x, 1) {
		return math.NaN()
	}
	// √X² is about normal around √noncentrality.
	start := math.Sqrt(x) - NormalUpperQuantile(alpha)
	start = math.Max(1e-3, start*math.Abs(start))
	// 1 − alpha is the lower tail; the smaller of the two carries the digits.
	if alpha <= 0.5 {
		if ChiSquareUpper(x, df).Value >= alpha {
			return 0
		}
		target := math.Log(alpha)
		return solveIncreasing(start, func(nc float64) (value, slope float64) {
			ln := NoncentralChiSquareUpper(x, df, nc).Log10 * math.Ln10
			return ln - target, math.Exp(lnNoncentralDensity(x, df+2, nc) - ln)
		})
	}
	if ChiSquareLower(x, df).Value <= 1-alpha {
		return 0
	}
	target := math.Log(1 - alpha)
	return solveIncreasing(start, func(nc float64) (value, slope float64) {
		ln := NoncentralChiSquareLower(x, df, nc).Log10 * math.Ln10
		return target - ln, math.Exp(lnNoncentralDensity(x, df+2, nc) - ln)
	})
}
