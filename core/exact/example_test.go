package exact_test

import (
	"fmt"

	"widetally/core/exact"
)

// Fisher's table of tea: 3 of 4 cups right, both ways.
func ExampleFisher() {
	r, err := exact.Fisher(3, 1, 1, 3)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.4f\n", r.TwoSided.Value) // 34 ÷ 70
	// Output: 0.4857
}
