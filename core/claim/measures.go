package claim

import (
	"math"
	"math/big"
	"strings"

	"widetally/core/document"
)

// Percent is a count in percent of its base; 0 of an empty one.
func Percent(count, base int64) float64 {
	if base == 0 {
		return 0
	}
	return 100 * float64(count) / float64(base)
}

// Height is what the axis up of a histogram or a polygon counts.
type Height string

// The heights.
const (
	AsCount   Height = "count"
	AsShare   Height = "share"
	AsDensity Height = "density" // of the share, for a unit of the axis across
)

// Heights lists the heights in the order in which they are offered.
var Heights = []Height{AsCount, AsShare, AsDensity}

// Measure is a number as precise as it was given.
func Measure(x float64) document.Value { return document.Of(document.Measure, x) }

// Rounded is a computed number, shown with a few digits.
func Rounded(x float64) document.Value { return document.Of(document.Rounded, x) }

// PercentText writes an exact share as a percent without needless zeros, with at most
// four decimals.
func PercentText(share *big.Rat) string {
	text := new(big.Rat).Mul(share, big.NewRat(100, 1)).FloatString(4)
	return strings.TrimSuffix(strings.TrimRight(text, "0"), ".") + "\u00a0%"
}

// Tiny names the texts of a departure that Cohen (1988) would not call small, by the digits that
// are shown.
func Tiny(h float64) string {
	if math.Round(100*math.Abs(h))/100 < 0.2 {
		return "_tiny"
	}
	return ""
}

// PercentOf is a share in percent.
func PercentOf(x float64) document.Value { return document.Of(document.Percent, 100*x) }

// Sign is 0 for nothing, 1 for more and 2 for less.
func Sign(x float64) int {
	switch {
	case x > 0:
		return 1
	case x < 0:
		return 2
	}
	return 0
}
