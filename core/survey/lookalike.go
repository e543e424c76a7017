package survey

import (
	"slices"
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
	type spelling struct {
		slot   Slot
		text   string
		runes  []rune // nil where no slip is looked for
		number int64
	}
	list := make([]spelling, 0, len(answers))
	for _, a := range answers {
		if !a.Proper() {
			continue
		}
		s := spelling{slot: a.Slot, text: folded(a.Code), number: counts[a.Slot]}
		if utf8.RuneCountInString(s.text) >= shortestSlip && !strings.ContainsAny(s.text, "0123456789") {
			s.runes = []rune(s.text)
		}
		list = append(list, s)
	}
	var out []Lookalike
	for i, a := range list {
		for _, b := range list[i+1:] {
			rare, common := a, b
			if rare.number > common.number {
				rare, common = common, rare
			}
			switch {
			case a.text == b.text:
				out = append(out, Lookalike{rare.slot, common.slot, true})
			case rare.number > 0 && float64(rare.number) <= rareShare*float64(common.number) && oneSlip(a.runes, b.runes) && !toldApart(a.text, b.text):
				out = append(out, Lookalike{rare.slot, common.slot, false})
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

// opposites are words, or their beginnings, that are one slip apart and mean the contrary.
var opposites = [][2]string{{"ever", "never"}, {"either", "neither"}, {"or", "nor"}, {"one", "none"}, {"he", "she"}, {"now", "not"},
	{"in", "on"}, {"moral", "amoral"}, {"typical", "atypical"}, {"political", "apolitical"}}

// toldApart reports whether two texts differ in a part that is there to tell them apart: a last
// part of one or two letters behind a mark, as in Leek_y and Leek_n, a letter that stands alone, or
// a word against its opposite.
func toldApart(a, b string) bool {
	x, y := strings.FieldsFunc(a, isMark), strings.FieldsFunc(b, isMark)
	if len(x) != len(y) {
		return min(len(x), len(y)) > 0 && len(x)+len(y) > 2 // a part more
	}
	for i := range x {
		if x[i] == y[i] {
			continue
		}
		if len(x) > 1 && utf8.RuneCountInString(x[i]) <= 2 && utf8.RuneCountInString(y[i]) <= 2 {
			return true
		}
		for _, o := range opposites {
			if x[i] == o[0] && y[i] == o[1] || x[i] == o[1] && y[i] == o[0] {
				return true
			}
		}
	}
	return false
}

// isMark reports whether a character parts the words of an answer.
func isMark(r rune) bool {
	return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' && r != '’'
}

// oneSlip reports whether two texts are one edit apart; nil is apart from everything.
func oneSlip(x, y []rune) bool {
	if len(x) > len(y) {
		x, y = y, x
	}
	if x == nil || len(y)-len(x) > 1 {
		return false
	}
	i := 0
	for i < len(x) && x[i] == y[i] {
		i++
	}
	same := slices.Equal[[]rune]
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
