package words

import (
	"math"
	"strconv"
	"strings"

	"golang.org/x/text/number"

	"widetally/core/claim"
)

// percentSign stays on the line of its number.
const percentSign = "\u00a0%"

// minus is the sign that is as wide as a plus.
const minus = "−"

// Write returns a value as text, by its kind. This is the one home of the rules
// for numbers in sentences.
func (c *Catalogue) Write(v claim.Value) string {
	switch v.Kind {
	case claim.Words:
		return v.Text
	case claim.Count:
		return c.fixed(v.Number, 0)
	case claim.Amount, claim.Points:
		return c.fixed(v.Number, 1)
	case claim.Percent:
		return c.fixed(v.Number, 1) + percentSign
	case claim.Level:
		return Level(v.Number)
	case claim.Statistic:
		return c.fixed(v.Number, 3)
	case claim.Effect:
		if v.Number > 0 && v.Number < 0.005 {
			return "less than 0.01"
		}
		return c.fixed(v.Number, 2)
	case claim.PValue:
		return P(v.Number, v.Log10, v.Level)
	case claim.PEqual:
		p := P(v.Number, v.Log10, v.Level)
		if strings.HasPrefix(p, "<") || strings.HasPrefix(p, ">") {
			return p
		}
		return "= " + p
	case claim.Exact:
		return strconv.FormatFloat(v.Number, 'g', 6, 64)
	}
	return "[" + string(v.Kind) + "]"
}

func (c *Catalogue) fixed(x float64, decimals int) string {
	s := c.printer.Sprint(number.Decimal(x, number.Scale(decimals)))
	if strings.Trim(s, "-0.,") == "" {
		s = strings.TrimPrefix(s, "-")
	}
	return strings.Replace(s, "-", minus, 1)
}

// Level writes a level such as 0.05 or 0.025 as a percent without needless zeros.
func Level(unit float64) string {
	return strconv.FormatFloat(math.Round(unit*1e12)/1e10, 'f', -1, 64) + percentSign
}

// P writes a p-value for prose: three decimals, four below 0.1, "< 0.001" for
// less and "> 0.999" above. When rounding would put it on the other side of the
// level, or on it, more digits are shown until it does not.
func P(p, log10, level float64) string {
	switch {
	case log10 < -3:
		return "< 0.001"
	case p > 0.9995:
		return "> 0.999"
	}
	decimals := 3
	if p < 0.1 {
		decimals = 4
	}
	for ; decimals < 15; decimals++ {
		shown, _ := strconv.ParseFloat(strconv.FormatFloat(p, 'f', decimals, 64), 64)
		if p == level || (shown < level) == (p < level) && shown != level {
			break
		}
	}
	return strconv.FormatFloat(p, 'f', decimals, 64)
}

// PExact writes a p-value for a table: as P, but with three significant digits in
// scientific notation below 0.001, from the logarithm, so that it is never 0.
func PExact(p, log10, level float64) string {
	if log10 >= -3 {
		return P(p, log10, level)
	}
	exponent := math.Floor(log10)
	mantissa := math.Pow(10, log10-exponent)
	if mantissa >= 9.995 {
		mantissa, exponent = 1, exponent+1
	}
	return strconv.FormatFloat(mantissa, 'f', 2, 64) + " × 10" + superscript(int(exponent))
}

func superscript(n int) string {
	var b strings.Builder
	for _, r := range strconv.Itoa(n) {
		if r == '-' {
			b.WriteRune('⁻')
			continue
		}
		b.WriteRune([]rune("⁰¹²³⁴⁵⁶⁷⁸⁹")[r-'0'])
	}
	return b.String()
}
