package infer

import (
	"math"

	"widetally/core/prob"
)

// ChiSquarePower is the chance that a chi-square test with df degrees of freedom
// at this level rejects when the true departure is Cohen's w: the upper tail of
// the non-central chi-square with noncentrality n·w² beyond the critical value
// (Cohen 1988, chapter 7).
func ChiSquarePower(w, n, df, level float64) float64 {
	return prob.NoncentralChiSquareUpper(prob.ChiSquareUpperQuantile(level, df), df, n*w*w).Value
}

// DetectableW is the smallest Cohen's w whose power reaches the one given, for
// 0 < level < power < 1. Found by bisection of the increasing power function to
// 12 digits.
func DetectableW(n, df, level, power float64) float64 {
	critical := prob.ChiSquareUpperQuantile(level, df)
	found := func(noncentrality float64) bool {
		return prob.NoncentralChiSquareUpper(critical, df, noncentrality).Value >= power
	}
	lo, hi := 0.0, 1.0
	for !found(hi) {
		lo, hi = hi, hi*2
	}
	for range 60 {
		mid := (lo + hi) / 2
		if found(mid) {
			hi = mid
		} else {
			lo = mid
		}
		if hi-lo < 1e-13*hi {
			break
		}
	}
	return math.Sqrt(hi / n)
}
