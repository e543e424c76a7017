package survey

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Lookalike is a pair of answers that are probably one: Rare is written like
// Common but for letter case, blanks, accents or one slip of the finger.
type Lookalike struct {
	Rare, Common Slot
	// CaseOrBlanks tells the first two apart from a slip.
	CaseOrBlanks bool
}

// Bounds within which one slip of the finger is suspected: short words differ by
// a letter for good reason, and so do numbers and answers that many gave.
const (
	shortestSlip   = 5
	rareShare      = 0.1
	mostLookalikes = 400 // questions with more answers are not searched
)

// Lookalikes finds answers that are probably the same, given their counts by
// slot. Answers that are missing or already counted under another are left out.
// A pair that differs only in letter case, blanks and accents is always reported; one that
// differs by one letter inserted, dropped, changed or swapped (Damerau 1964) only
// when the rarer one has at most a tenth of the other's count.
func Lookalikes(answers []Answer, counts []int64) []Lookalike {
	if len(answers) > mostLookalikes {
		return nil
	}
	var out []Lookalike
	for i, a := range answers {
		for _, b := range answers[i+1:] {
			if a.Missing != "" || b.Missing != "" || a.SameAs != nil || b.SameAs != nil {
				continue
			}
			rare, common := a, b
			if counts[rare.Slot] > counts[common.Slot] {
				rare, common = common, rare
			}
			fa, fb := folded(a.Code), folded(b.Code)
			switch {
			case fa == fb:
				out = append(out, Lookalike{rare.Slot, common.Slot, true})
			case counts[rare.Slot] > 0 && float64(counts[rare.Slot]) <= rareShare*float64(counts[common.Slot]) && oneSlip(fa, fb):
				out = append(out, Lookalike{rare.Slot, common.Slot, false})
			}
		}
	}
	return out
}

// accented lists lower-case Latin letters with marks (Unicode 15, U+00E0 to U+024F),
// plain the letter below each, from the canonical decompositions.
const (
	accented = "àáâãäåçèéêëìíîïñòóôõöùúûüýÿāăąćĉċčďēĕėęěĝğġģĥĩīĭįĵķĺļľńņňōŏőŕŗřśŝşšţťũūŭůűųŵŷźżžơưǎǐǒǔǖǘǚǜǟǡǧǩǫǭǰǵǹǻȁȃȅȇȉȋȍȏȑȓȕȗșțȟȧȩȫȭȯȱȳ"
	plain    = "aaaaaaceeeeiiiinooooouuuuyyaaaccccdeeeeegggghiiiijklllnnnooorrrssssttuuuuuuwyzzzouaiouuuuuaagkoojgnaaaeeiioorruusthaeooooy"
)

var plainOf = func() map[rune]rune {
	m, letters := map[rune]rune{}, []rune(plain)
	for i, r := range []rune(accented) {
		m[r] = letters[i]
	}
	return m
}()

// folded drops letter case, superfluous blanks and accents.
func folded(s string) string {
	return strings.Map(func(r rune) rune {
		if p, ok := plainOf[r]; ok {
			return p
		}
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return r
	}, strings.ToLower(strings.Join(strings.Fields(s), " ")))
}

// oneSlip reports whether two texts without digits are one edit apart.
func oneSlip(a, b string) bool {
	if utf8.RuneCountInString(a) < shortestSlip || utf8.RuneCountInString(b) < shortestSlip || strings.ContainsAny(a+b, "0123456789") {
		return false
	}
	x, y := []rune(a), []rune(b)
	if len(x) > len(y) {
		x, y = y, x
	}
	if len(y)-len(x) > 1 {
		return false
	}
	i := 0
	for i < len(x) && x[i] == y[i] {
		i++
	}
	same := func(p, q []rune) bool { return string(p) == string(q) }
	if len(x) < len(y) {
		return same(x[i:], y[i+1:])
	}
	if i == len(x) {
		return false
	}
	if same(x[i+1:], y[i+1:]) {
		return true
	}
	return i+1 < len(x) && x[i] == y[i+1] && x[i+1] == y[i] && same(x[i+2:], y[i+2:])
}
