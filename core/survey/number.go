package survey

import (
	"math"
	"regexp"
	"strconv"
	"strings"
)

var commaThousands = regexp.MustCompile(`^[+-]?\d{1,3}(?:,\d{3})+(?:\.\d+)?$`)

// ParseNumber reads a finite decimal number, with a percent or currency sign or without.
// With decimalComma a single comma is read as the decimal mark, otherwise commas before
// groups of three digits part thousands.
func ParseNumber(s string, decimalComma bool) (float64, bool) {
	if len(s) > 1 {
		if rest := strings.TrimRight(s, "%€$£"); rest != s {
			s = strings.TrimSpace(rest)
		} else if rest := strings.TrimLeft(s, "€$£"); rest != s {
			s = strings.TrimSpace(rest)
		}
	}
	if !decimalComma && strings.Contains(s, ",") && commaThousands.MatchString(s) {
		s = strings.ReplaceAll(s, ",", "")
	}
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

// commaIsDecimal tells from a column's codes whether a comma in them is a decimal mark: it
// is not where it only ever stands before three digits.
func commaIsDecimal(answers []Answer) bool {
	grouped := false
	for _, a := range answers {
		code := strings.TrimSpace(a.Code)
		if !strings.Contains(code, ",") {
			continue
		}
		if !commaThousands.MatchString(code) {
			return true
		}
		grouped = true
	}
	return !grouped
}

// FormatNumber writes a number in the fewest digits that read back, without an exponent
// from a millionth up to 10¹⁵.
func FormatNumber(x float64) string {
	if a := math.Abs(x); x != 0 && (a < 1e-6 || a >= 1e15) {
		return strconv.FormatFloat(x, 'g', -1, 64)
	}
	return strconv.FormatFloat(x, 'f', -1, 64)
}
