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
// 0 < level < power < 1.
func DetectableW(n, df, level, power float64) float64 {
	return math.Sqrt(prob.NoncentralityForUpper(power, prob.ChiSquareUpperQuantile(level, df), df) / n)
}
