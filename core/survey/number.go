package survey

import (
	"math"
	"strconv"
	"strings"
)

// ParseNumber reads a finite decimal number. With decimalComma a single comma is
// read as the decimal mark; files parted by commas cannot use it.
func ParseNumber(s string, decimalComma bool) (float64, bool) {
	if s == "" || len(s) > 40 || strings.Trim(s, "0123456789.,+-eE") != "" {
		return 0, false
	}
	if decimalComma && strings.Count(s, ",") == 1 && !strings.Contains(s, ".") {
		s = strings.Replace(s, ",", ".", 1)
	}
	x, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsInf(x, 0) || math.IsNaN(x) {
		return 0, false
	}
	return x, true
}

// FormatNumber writes a number in the fewest digits that read back, without an exponent
// from a millionth up to 10¹⁵.
func FormatNumber(x float64) string {
	if a := math.Abs(x); x != 0 && (a < 1e-6 || a >= 1e15) {
		return strconv.FormatFloat(x, 'g', -1, 64)
	}
	return strconv.FormatFloat(x, 'f', -1, 64)
}
