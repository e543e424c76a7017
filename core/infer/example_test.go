package infer_test

import (
	"fmt"

	"widetally/core/infer"
)

// 734 of 1,240 households use the food caddy; the council claims 62 %.
func ExampleComputeProportion() {
	r, err := infer.ComputeProportion(infer.ProportionInput{Successes: 734, N: 1240, Claimed: 0.62, Confidence: 0.95})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("share %.4f, z %.3f\n", r.Estimate, r.Z)
	// Output: share 0.5919, z -2.036
}

// A table of two groups by two answers, worked by hand: 100 × (30 × 30 − 20 × 20)² ÷ 50⁴.
func ExampleComputeIndependence() {
	r, err := infer.ComputeIndependence([][]int64{{30, 20}, {20, 30}}, 0.05)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("χ² = %.3f, df %d\n", r.Statistic, r.DF)
	// Output: χ² = 4.000, df 1
}

// What cannot be computed is refused with a reason.
func ExampleInputError() {
	_, err := infer.ComputeIndependence([][]int64{{30, 20}}, 0.05)
	fmt.Println(err != nil)
	// Output: true
}
