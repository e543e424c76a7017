package statistics

import (
	"math"
	"regexp"
	"strconv"

	"widetally/core/shares"
)

// totalCode is that of a total by the cross-domain code lists of SDMX.
const totalCode = "_T"

var (
	totalName = regexp.MustCompile(`(?i)^(all|total|both)\b`)
	// totalSlack is how far a total may lie from the sum of the rest, as a share of it:
	// published figures are rounded.
	totalSlack = 0.01
)

// withoutTotals parts the categories from those that are a total of them: by its code, as the
// parent of others at any depth, or called one and about as large as the rest together, so that
// “All-electric heating” stays.
func withoutTotals(all []shares.SetAnswer, parents map[string]bool) (answers, totals []shares.SetAnswer) {
	named := make([]bool, len(all))
	rest := 0.0
	for i, a := range all {
		if named[i] = a.Code == totalCode || totalName.MatchString(a.Label); !named[i] && !parents[a.Code] {
			rest += figure(a)
		}
	}
	answers = []shares.SetAnswer{}
	for i, a := range all {
		if parents[a.Code] || named[i] && (a.Code == totalCode || math.Abs(figure(a)-rest) <= totalSlack*rest) {
			totals = append(totals, a)
		} else {
			answers = append(answers, a)
		}
	}
	return answers, totals
}

// figure is 0 where it cannot be read; the check of a set says so.
func figure(a shares.SetAnswer) float64 {
	x, _ := strconv.ParseFloat(a.Figure, 64)
	return x
}
