package shares_test

import (
	"fmt"

	"widetally/core/shares"
)

// A published list is matched by the names of the answers, whatever its order, and normalised
// exactly.
func ExampleAlign() {
	answers := []shares.Name{{Label: "Owns it", Code: "1"}, {Label: "Rents it", Code: "2"}}
	a := shares.Align(answers, shares.ParseLines("rents it 42\nOwns it 58"), shares.Percents, false)
	for i, share := range a.Shares {
		fmt.Println(answers[i].Label, share)
	}
	// Output:
	// Owns it 29/50
	// Rents it 21/50
}
