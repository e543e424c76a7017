package survey

import (
	"strings"
	"unicode/utf8"
)

// The longest texts of a codebook, in characters. They hold on every way in: typed,
// pasted, from a file's own description, from a codebook.
const (
	MaxName    = 200 // of a question
	MaxSection = 120
	MaxShort   = 60
	MaxWording = 5000 // notes too
	MaxLabel   = 500  // codes that no respondent gave too
	MaxMissing = 120  // the reason of a missing answer
)

// LengthError says that a text of a question is too long. Part is name, wording, note,
// section, label or missing; Code is that of the answer, if it is one's.
type LengthError struct {
	Name, Part, Code string
	Most, Found      int
}

func (e *LengthError) Error() string {
	return "survey: the " + e.Part + " of " + e.Name + " is too long"
}

// CheckLengths reports the first text of a question that is too long, as a
// *LengthError. A label that only repeats the answer as it was given is no text that
// somebody wrote and may be as long as the answer.
func CheckLengths(q Question) error {
	for _, p := range []struct {
		part, text string
		most       int
	}{{"name", q.Name, MaxName}, {"wording", q.Wording, MaxWording}, {"short", q.Short, MaxShort}, {"note", q.Note, MaxWording}, {"section", q.Section, MaxSection}} {
		if n := utf8.RuneCountInString(p.text); n > p.most {
			return &LengthError{Name: q.Name, Part: p.part, Most: p.most, Found: n}
		}
	}
	for _, a := range q.Answers {
		if n := utf8.RuneCountInString(a.Label); n > MaxLabel && a.Label != strings.TrimSpace(a.Code) {
			return &LengthError{Name: q.Name, Part: "label", Code: a.Code, Most: MaxLabel, Found: n}
		}
		if n := utf8.RuneCountInString(a.Missing); n > MaxMissing {
			return &LengthError{Name: q.Name, Part: "missing", Code: a.Code, Most: MaxMissing, Found: n}
		}
	}
	return nil
}

// CleanText is a text that came with a file as it may be kept: one line, without
// control characters or bytes that are no characters.
func CleanText(s string) string {
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return ' '
		case r < ' ' || r == 0x7f || r >= 0x80 && r < 0xa0 || r == utf8.RuneError:
			return -1
		}
		return r
	}, s)
	return strings.Join(strings.Fields(s), " ")
}
