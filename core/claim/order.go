package claim

import (
	"cmp"
	"slices"
	"strings"

	"widetally/core/document"
)

// Order is the order of the answers in a table or a picture.
type Order string

// The orders.
const (
	AsAsked Order = "asked" // that of the questionnaire
	BySize  Order = "size"  // the commonest first
	ByLabel Order = "label"
)

// Orders lists the orders in the order in which they are offered.
var Orders = []Order{AsAsked, BySize, ByLabel}

// Arranged gives the places of answers in an order; ties stay as in the questionnaire.
func Arranged(order Order, labels []string, counts []int64) []int {
	at := make([]int, len(labels))
	for i := range at {
		at[i] = i
	}
	switch order {
	case BySize:
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(counts[b], counts[a]) })
	case ByLabel:
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(strings.ToLower(labels[a]), strings.ToLower(labels[b])) })
	}
	return at
}

// OrderChoice offers the orders of the answers.
func OrderChoice(chosen Order) *document.Choice {
	return Choice(
		"order",
		"order",
		Orders,
		chosen,
		func(o Order) document.Message { return document.Say("choice.ordered."+string(o), nil) },
	)
}
