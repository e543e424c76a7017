package i18n

import (
	"math"
	"strconv"
	"strings"

	"golang.org/x/text/number"

	"widetally/core/document"
)

// percentSign stays on the line of its number.
const percentSign = "\u00a0%"

// minus is the sign that is as wide as a plus.
const minus = "−"

// decimals is how many are shown of the kinds that are plain numbers; −1 for as many as it
// takes.
var decimals = map[document.ValueKind]int{document.Count: 0, document.Amount: 1, document.Points: 1, document.Bare: 1, document.Percent: 1, document.Difference: 1,
	document.Share: 3, document.Statistic: 3, document.Effect: 2, document.Measure: -1, document.Exact: -1}

// Decimals tells how many decimals of a kind are shown, −1 for as many as it takes, and
// whether it is a plain number at all.
func Decimals(kind document.ValueKind) (n int, is bool) {
	n, is = decimals[kind]
	return n, is
}

// Write returns a value as text, by its kind. This is the one home of the rules
// for numbers in sentences and tables.
func (c *Catalogue) Write(v document.Value) string {
	switch v.Kind {
	case document.Words:
		return v.Text
	case document.Said:
		return c.Say(*v.Message)
	case document.Quoted:
		return c.Text("sign.quoted", map[string]string{"text": v.Text})
	case document.AnyOf:
		return c.joined("sign.or", v.List)
	case document.Listed:
		return c.joined("sign.comma", v.List)
	case document.Count, document.Amount, document.Points, document.Bare, document.Share, document.Statistic:
		if v.Kind == document.Statistic && c.style == JournalStyle {
			return c.fixed(v.Number, 2)
		}
		return c.fixed(v.Number, decimals[v.Kind])
	case document.Percent:
		return c.fixed(v.Number, decimals[v.Kind]) + percentSign
	case document.Difference:
		return c.signed(v.Number, decimals[v.Kind])
	case document.Level:
		return c.Level(v.Number)
	case document.BothSides:
		return "±" + c.fixed(v.Number, 3)
	case document.Range:
		return c.Text("number.range", map[string]string{"lower": c.fixed(v.Number, 2), "upper": c.fixed(v.Upper, 2) + percentSign})
	case document.Effect:
		if tooSmall(v.Number) {
			return c.Text("number.less_than", map[string]string{"x": c.fixed(smallestEffect, decimals[v.Kind])})
		}
		return c.fixed(v.Number, decimals[v.Kind])
	case document.PValue:
		return c.P(v.Number, v.Log10, v.Level)
	case document.PExact:
		return c.PExact(v.Number, v.Log10, v.Level)
	case document.PEqual:
		p := c.P(v.Number, v.Log10, v.Level)
		if strings.HasPrefix(p, "<") || strings.HasPrefix(p, ">") {
			return p
		}
		return "= " + p
	case document.Measure:
		return c.measure(v.Number, 6)
	case document.Rounded:
		return c.rounded(v.Number)
	case document.Exact:
		return c.exact(v.Number)
	}
	return "[" + string(v.Kind) + "]"
}

// joined writes values one after the other, as a message says.
func (c *Catalogue) joined(id string, list []document.Value) (out string) {
	for i, v := range list {
		if text := c.Write(v); i == 0 {
			out = text
		} else {
			out = c.Text(id, map[string]string{"before": out, "last": text})
		}
	}
	return out
}

// smallestEffect is the smallest measure of size that its digits show; what rounds to less is said
// to be less.
const smallestEffect = 0.01

func tooSmall(effect float64) bool { return effect > 0 && effect < smallestEffect/2 }

// measure writes a number with so many digits, or with all before the point, and without
// needless zeros.
func (c *Catalogue) measure(x float64, digits int) string {
	size := math.Abs(x)
	if math.IsInf(x, 0) {
		return c.fixed(x, 0)
	}
	if size >= 1e15 || size != 0 && size < 1e-4 {
		return c.local(strconv.FormatFloat(x, 'g', digits, 64))
	}
	text := strconv.FormatFloat(x, 'g', digits, 64)
	if size >= math.Pow10(digits-1) || x == math.Trunc(x) {
		text = strconv.FormatFloat(x, 'f', 0, 64)
	}
	_, decimals, _ := strings.Cut(text, ".")
	return c.fixed(x, len(decimals))
}

// rounded writes what was computed, such as a mean: two decimals, and more where fewer than three digits
// would count; a whole number without any.
func (c *Catalogue) rounded(x float64) string {
	const least, count = 2, 3
	if size := math.Abs(x); x == math.Trunc(x) || size < 1e-4 || math.IsInf(x, 0) || math.IsNaN(x) {
		return c.measure(x, count)
	}
	return c.fixed(x, max(least, count-1-int(math.Floor(math.Log10(math.Abs(x))))))
}

// Fixed writes a number with so many decimals.
func (c *Catalogue) Fixed(x float64, decimals int) string { return c.fixed(x, decimals) }

// fixed writes a number with so many decimals; one without bound is ∞.
func (c *Catalogue) fixed(x float64, decimals int) string {
	if math.IsInf(x, 0) {
		return strings.Replace(strings.TrimPrefix(strconv.FormatFloat(x, 'g', -1, 64), "+"), "Inf", "∞", 1)
	}
	s := c.printer.Sprint(number.Decimal(x, number.Scale(decimals)))
	if strings.Trim(s, "-0.,") == "" {
		s = strings.TrimPrefix(s, "-")
	}
	return strings.Replace(s, "-", minus, 1)
}

// Signed writes a number with its sign and so many decimals, 0 without one.
func (c *Catalogue) Signed(x float64, decimals int) string { return c.signed(x, decimals) }

func (c *Catalogue) signed(x float64, decimals int) string {
	s := c.fixed(x, decimals)
	if x > 0 && strings.Trim(s, "0.,") != "" {
		return "+" + s
	}
	return s
}

// local gives a decimal as written by machines the language's decimal sign.
// exact writes a figure of the working with six digits.
func (c *Catalogue) exact(x float64) string {
	digits, exponent, isPower := strings.Cut(strconv.FormatFloat(math.Abs(x), 'g', 6, 64), "e")
	out := c.local(digits)
	if n, err := strconv.Atoi(exponent); isPower && err == nil {
		out += " × 10" + superscript(n)
	}
	if x < 0 {
		return "−" + out
	}
	return out
}

func (c *Catalogue) local(s string) string { return strings.Replace(s, ".", c.point, 1) }

// Level writes a level such as 0.05 or 0.025 as a percent without needless zeros.
func (c *Catalogue) Level(unit float64) string {
	return c.local(strconv.FormatFloat(math.Round(unit*1e12)/1e10, 'f', -1, 64)) + percentSign
}

// P writes a p-value for prose: three decimals, four below 0.1, "< 0.001" for
// less and "> 0.999" above. When rounding would put it on the other side of the
// level, or on it, more digits are shown until it does not.
func (c *Catalogue) P(p, log10, level float64) string {
	switch {
	case log10 < -3:
		return c.withoutZero(c.local("< 0.001"))
	case p > 0.9995:
		return c.withoutZero(c.local("> 0.999"))
	}
	decimals := 3
	if p < 0.1 && c.style != JournalStyle {
		decimals = 4
	}
	for ; decimals < 15; decimals++ {
		shown, _ := strconv.ParseFloat(strconv.FormatFloat(p, 'f', decimals, 64), 64)
		if p == level || (shown < level) == (p < level) && shown != level {
			break
		}
	}
	return c.withoutZero(c.local(strconv.FormatFloat(p, 'f', decimals, 64)))
}

// withoutZero drops the zero before the point where the style asks for it, of what cannot be
// above 1.
func (c *Catalogue) withoutZero(text string) string {
	if c.style != JournalStyle {
		return text
	}
	return strings.Replace(text, "0"+c.point, c.point, 1)
}

// PExact writes a p-value for a table: as P, but with three significant digits in
// scientific notation below 0.001, from the logarithm, so that it is never 0.
func (c *Catalogue) PExact(p, log10, level float64) string {
	if log10 >= -3 {
		return c.P(p, log10, level)
	}
	exponent := math.Floor(log10)
	mantissa := math.Pow(10, log10-exponent)
	if mantissa >= 9.995 {
		mantissa, exponent = 1, exponent+1
	}
	return c.local(strconv.FormatFloat(mantissa, 'f', 2, 64)) + " × 10" + superscript(int(exponent))
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
