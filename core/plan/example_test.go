package plan_test

import (
	"fmt"

	"widetally/core/plan"
)

// How many to ask for a margin of error of 3 percentage points at 95 %: 1.95996² × ¼ ÷ 0.03².
func ExampleComputeMargin() {
	margin := 0.03
	r, err := plan.ComputeMargin(plan.MarginInput{Margin: &margin, Share: 0.5, Confidence: 0.95})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.2f, so %d\n", *r.NUnrounded, r.N)
	// Output: 1067.07, so 1068
}
