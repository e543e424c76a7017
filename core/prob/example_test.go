package prob_test

import (
	"fmt"

	"widetally/core/prob"
)

// Each tail is computed as that tail, and carries its logarithm: what is too small for a number
// is still known.
func ExampleChiSquareUpper() {
	fmt.Printf("%.4f\n", prob.ChiSquareUpper(14.802, 3).Value)
	far := prob.ChiSquareUpper(2500, 10)
	fmt.Printf("%g, its logarithm %.1f\n", far.Value, far.Log10)
	// Output:
	// 0.0020
	// 0, its logarithm -531.9
}

// A critical value is the quantile of the upper tail.
func ExampleChiSquareUpperQuantile() {
	fmt.Printf("%.3f\n", prob.ChiSquareUpperQuantile(0.05, 3))
	// Output: 7.815
}

// The two-sided exact binomial p adds up all outcomes that are no more likely than the one observed.
func ExampleBinomialTwoSided() {
	fmt.Printf("%.6f\n", prob.BinomialTwoSided(8, 10, 0.5).Value) // 112 ÷ 1024
	// Output: 0.109375
}
