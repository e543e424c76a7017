package prob

import "math"

// BinomialUpper returns P(X ≥ k) of n trials with success probability p, for
// 0 ≤ p ≤ 1: I_p(k, n−k+1).
func BinomialUpper(k, n int64, p float64) Prob {
	switch {
	case n < 0 || !(p >= 0 && p <= 1):
		return none
	case k <= 0:
		return one
	case k > n:
		return zero
	}
	ln, _ := incompleteBeta(float64(k), float64(n-k)+1, p, 1-p)
	return fromLog(ln)
}

// BinomialLower returns P(X ≤ k): I_{1−p}(n−k, k+1).
func BinomialLower(k, n int64, p float64) Prob {
	switch {
	case n < 0 || !(p >= 0 && p <= 1):
		return none
	case k < 0:
		return zero
	case k >= n:
		return one
	}
	ln, _ := incompleteBeta(float64(n-k), float64(k)+1, 1-p, p)
	return fromLog(ln)
}

// BinomialChance is the chance of exactly k of n.
func BinomialChance(k, n int64, p float64) float64 {
	if k < 0 || k > n {
		return 0
	}
	return math.Exp(LnBinomial(k, n, p))
}

// LnBinomial returns the natural logarithm of P(X = k), −Inf outside 0 … n.
func LnBinomial(k, n int64, p float64) float64 {
	if k < 0 || k > n {
		return math.Inf(-1)
	}
	return lnBinomialTerm(float64(k), float64(n-k), p, 1-p)
}

// relativeSlack is the relative margin within which two outcomes count as equally
// likely when the outcomes no likelier than the observed one are added up.
const relativeSlack = 1e-7

// BinomialTwoSided returns the chance of all outcomes that are no likelier than k
// (the convention "small probabilities"), counted as equal within a factor of
// 1 + 1e-7. The far boundary is found by bisection of the falling side, so that n
// may be large.
func BinomialTwoSided(k, n int64, p float64) Prob {
	switch {
	case n < 0 || k < 0 || k > n || !(p >= 0 && p <= 1):
		return none
	case p == 0 || p == 1:
		if k == int64(p)*n {
			return one
		}
		return zero
	}
	limit := LnBinomial(k, n, p) + math.Log1p(relativeSlack)
	mode := int64(math.Floor(float64(n+1) * p))
	mode = min(mode, n)
	if LnBinomial(mode, n, p) <= limit {
		return one
	}
	if k < mode {
		lo, hi := mode, n+1 // first value above the mode that is no likelier
		for hi-lo > 1 {
			if mid := lo + (hi-lo)/2; LnBinomial(mid, n, p) <= limit {
				hi = mid
			} else {
				lo = mid
			}
		}
		return either(BinomialLower(k, n, p), BinomialUpper(hi, n, p))
	}
	lo, hi := int64(-1), mode // last value below the mode that is no likelier
	for hi-lo > 1 {
		if mid := lo + (hi-lo)/2; LnBinomial(mid, n, p) <= limit {
			lo = mid
		} else {
			hi = mid
		}
	}
	return either(BinomialLower(lo, n, p), BinomialUpper(k, n, p))
}

// either adds the chances of two events that exclude each other.
func either(p, q Prob) Prob {
	return fromLog(math.Min(0, logAdd(p.Log10*math.Ln10, q.Log10*math.Ln10)))
}

// BinomialUpperQuantile returns the smallest k with P(X ≥ k) ≤ alpha, the critical
// value of a test that rejects for large k; n + 1 when even P(X ≥ n) is larger, −1
// outside the domain.
func BinomialUpperQuantile(alpha float64, n int64, p float64) int64 {
	if n < 0 || !(p >= 0 && p <= 1) || !(alpha >= 0 && alpha <= 1) {
		return -1
	}
	lo, hi := int64(-1), n+1 // the tail above lo is too large, that from hi on is not
	for hi-lo > 1 {
		if mid := lo + (hi-lo)/2; BinomialUpper(mid, n, p).AtMost(alpha) {
			hi = mid
		} else {
			lo = mid
		}
	}
	return hi
}

// BinomialLowerQuantile returns the largest k with P(X ≤ k) ≤ alpha; −1 when even
// P(X = 0) is larger, n + 1 outside the domain.
func BinomialLowerQuantile(alpha float64, n int64, p float64) int64 {
	if n < 0 || !(p >= 0 && p <= 1) || !(alpha >= 0 && alpha <= 1) {
		return n + 1
	}
	return n - BinomialUpperQuantile(alpha, n, 1-p)
}
