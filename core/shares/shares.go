// Package shares reads expected shares as people type them, matches them to the
// answers of a question by name, and says exactly whether they add up.
package shares

import (
	"math/big"
	"strconv"
	"strings"
)

// Scale says what the typed figures are.
type Scale string

// The modes. Percents must add to 100 and proportions to 1; a ratio and the
// counts of a group have no total of their own and are always divided by their
// sum; equal shares need no figures.
const (
	Percents    Scale = "percents"
	Proportions Scale = "proportions"
	Ratio       Scale = "ratio"
	Counts      Scale = "counts"
	Equal       Scale = "equal"
)

// Scales lists the modes in the order in which they are offered.
var Scales = []Scale{Percents, Proportions, Ratio, Counts, Equal}

// target is what the figures must add to; nil where any positive sum will do.
func (m Scale) target() *big.Rat {
	switch m {
	case Percents:
		return big.NewRat(100, 1)
	case Proportions:
		return big.NewRat(1, 1)
	}
	return nil
}

// Entry is one typed line: the name of an answer and a figure, both as typed.
type Entry struct{ Name, Figure string }

// maxFigure bounds the text of a figure; nothing a person types is longer.
const maxFigure = 40

// ParseFigure reads a figure exactly: 12.5, "12,5", 12.5 %, 1/3, or a whole
// number with thousands separated by blanks. A comma followed by exactly three
// digits is refused as ambiguous. The mark % is allowed for percents alone.
func ParseFigure(text string, m Scale) (*big.Rat, Problem) {
	s := strings.TrimSpace(strings.ReplaceAll(text, "\u00a0", " "))
	bad := Problem{Kind: NotANumber, Text: text}
	if s == "" || len(s) > maxFigure {
		return nil, bad
	}
	if rest, ok := strings.CutSuffix(s, "%"); ok {
		if m != Percents {
			return nil, Problem{Kind: PercentMark, Text: text}
		}
		s = strings.TrimSpace(rest)
	}
	s = strings.ReplaceAll(s, " ", "")
	s = strings.Replace(s, "−", "-", 1)
	if strings.Count(s, ",") == 1 {
		_, after, _ := strings.Cut(s, ",")
		if len(after) == 3 && !strings.HasPrefix(s, "0,") {
			return nil, Problem{Kind: AmbiguousComma, Text: text}
		}
		s = strings.Replace(s, ",", ".", 1)
	}
	// Only digits, one point, one slash and a leading sign: SetString alone would
	// also take exponents and other bases.
	if strings.Trim(s, "0123456789./-+") != "" || strings.ContainsAny(strings.TrimLeft(s, "+-"), "+-") {
		return nil, bad
	}
	if top, bottom, isFraction := strings.Cut(s, "/"); isFraction && strings.Trim(bottom, "0") == "" || top == "" {
		return nil, bad
	}
	r, ok := new(big.Rat).SetString(s)
	if !ok {
		return nil, bad
	}
	if r.Sign() < 0 {
		return nil, Problem{Kind: Negative, Text: text}
	}
	return r, Problem{}
}

// ParseLines reads pasted lines "answer<tab>share". Without a tab the last blank,
// semicolon or comma-and-blank before the figure parts them. Empty lines are
// skipped. A line without a figure gives an entry with an empty figure, which
// Align then reports by its name.
func ParseLines(text string) []Entry {
	var out []Entry
	for _, line := range strings.Split(strings.ReplaceAll(text, "\r", "\n"), "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if name, figure, ok := strings.Cut(line, "\t"); ok {
			out = append(out, Entry{strings.TrimSpace(name), strings.TrimSpace(figure)})
			continue
		}
		out = append(out, splitAtFigure(line))
	}
	return out
}

func splitAtFigure(line string) Entry {
	body := line
	mark := ""
	if rest, ok := strings.CutSuffix(body, "%"); ok {
		body, mark = strings.TrimSpace(rest), "%"
	}
	at := strings.LastIndexAny(body, " ;")
	if at < 0 || at+1 >= len(body) || !strings.ContainsAny(body[at+1:], "0123456789") {
		return Entry{Name: line}
	}
	return Entry{strings.TrimRight(body[:at], " ;,:"), body[at+1:] + mark}
}

// Format prints an exact figure for a message: as a decimal where that is short,
// else rounded to six decimals, or to three digits where these would all be 0.
func Format(r *big.Rat) string {
	if r.IsInt() {
		return r.Num().String()
	}
	s := strings.TrimRight(r.FloatString(6), "0")
	if strings.Trim(s, "-0.") == "" {
		x, _ := r.Float64()
		return strconv.FormatFloat(x, 'g', 3, 64)
	}
	return strings.TrimSuffix(s, ".")
}
