package survey

import (
	"regexp"
	"strconv"
	"strings"
)

// MostCount keeps sums of counts exact.
const MostCount = 1e15

var (
	// thousands are groups of three parted by a blank, a comma, a point or an apostrophe.
	thousands = regexp.MustCompile(`^\d{1,3}(?:[ ,.'’]\d{3})+$`)
	// nothingBehind is a whole number with a fraction of zeros, other than three of them,
	// which might be thousands.
	nothingBehind = regexp.MustCompile(`^(\d+)[.,](?:0{1,2}|0{4,})$`)
	eitherCount   = regexp.MustCompile(`^\d{1,3}\.000$`)
)

// ParseCount reads a count as it is written: whole, from 0 to MostCount, with thousands parted
// or not. A blank is 0.
func ParseCount(s string) (n int64, ok bool) {
	text := strings.Map(func(r rune) rune {
		if r == '\u00a0' || r == '\u202f' || r == '\u2009' {
			return ' '
		}
		return r
	}, strings.TrimSpace(s))
	switch {
	case text == "":
		return 0, true
	case nothingBehind.MatchString(text):
		text = nothingBehind.FindStringSubmatch(text)[1]
	case thousands.MatchString(text) && !strings.HasSuffix(text, ".000") || thousands.MatchString(text) && strings.Count(text, ".") > 1:
		text = strings.NewReplacer(" ", "", ",", "", ".", "", "'", "", "’", "").Replace(text)
	}
	if n, err := strconv.ParseInt(text, 10, 64); err == nil {
		return n, n >= 0 && n <= MostCount && text[0] != '+'
	}
	if strings.ContainsAny(text, "%€$£") {
		return 0, false // 12 % are no 12 respondents
	}
	x, isNumber := ParseNumber(text, false)
	if !isNumber || x < 0 || x != float64(int64(x)) || x > MostCount || strings.ContainsAny(text, ".,") {
		return 0, false
	}
	return int64(x), true
}

// EitherCount reports whether a text may be thousands, or a number with three decimals, so that
// it is no count.
func EitherCount(s string) bool { return eitherCount.MatchString(strings.TrimSpace(s)) }
