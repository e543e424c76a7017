package export

import (
	"cmp"
	"fmt"
	"math"
	"strings"
)

// What workbooks of both kinds have in common: how their numbers look, what their sheets are called, and
// the sheet of all figures.

// numberLook is how a spreadsheet shows a number.
type numberLook struct {
	kind     lookKind
	decimals int
	// few puts it in brackets, and above are the letters behind it.
	few   bool
	above string
}

// around is what stands before and behind the number.
func (l numberLook) around() (before, behind string) {
	if l.few {
		before, behind = "[", "]"
	}
	if l.above != "" {
		behind += "\u00a0" + strings.TrimSpace(l.above)
	}
	return before, behind
}

type lookKind string

const (
	groupedLook    lookKind = "grouped" // with signs between thousands
	plainLook      lookKind = "plain"
	percentLook    lookKind = "percent"
	signedLook     lookKind = "signed"
	scientificLook lookKind = "scientific"
	generalLook    lookKind = "general"
)

// look is how the number of a cell is shown; the cell holds all of its digits.
func (c Cell) look() numberLook {
	l := c.plainLook()
	l.few, l.above = c.Few, c.Above+marks[c.Mark]
	return l
}

func (c Cell) plainLook() numberLook {
	const smallP, decimalsOfP = 0.0001, 4
	switch c.Format {
	case PValue:
		if *c.Number < smallP && *c.Number > 0 {
			return numberLook{kind: scientificLook, decimals: 2}
		}
		return numberLook{kind: plainLook, decimals: decimalsOfP}
	case PercentSign:
		return numberLook{kind: percentLook, decimals: c.Decimals}
	case Signed:
		return numberLook{kind: signedLook, decimals: c.Decimals}
	}
	if c.Decimals >= 0 {
		return numberLook{kind: groupedLook, decimals: c.Decimals}
	}
	const count, most = 4, 8 // digits that count, where a number may have any
	x := *c.Number
	if x == math.Trunc(x) || math.IsNaN(x) {
		return numberLook{kind: generalLook}
	}
	return numberLook{kind: groupedLook, decimals: min(max(1, count-1-int(math.Floor(math.Log10(math.Abs(x))))), most)}
}

// sheetNames names the sheets by their tables: no longer than 31 characters, without the signs
// that a name may not hold, each once.
func sheetNames(tables []*Table, reserved ...string) []string {
	out, known := make([]string, len(tables)), map[string]bool{}
	for _, name := range reserved {
		known[strings.ToLower(name)] = true
	}
	for i, t := range tables {
		name := strings.Map(func(r rune) rune {
			if strings.ContainsRune(`[]:*?/\'`, r) || r < 0x20 {
				return ' '
			}
			return r
		}, strings.TrimSpace(t.Label+" "+t.Title))
		runes := []rune(strings.Join(strings.Fields(name), " "))
		name = strings.TrimSpace(string(runes[:min(len(runes), 31)]))
		for n := 2; name == "" || known[strings.ToLower(name)]; n++ {
			tail := fmt.Sprintf(" (%d)", n)
			name = string(runes[:min(len(runes), 31-len(tail))]) + tail
		}
		known[strings.ToLower(name)] = true
		out[i] = name
	}
	return out
}

// heads are those of the columns of all figures.
func (w Words) heads() []string {
	return []string{cmp.Or(w.Table, "Table"), cmp.Or(w.Row, "Row"), cmp.Or(w.Column, "Column"), cmp.Or(w.Figure, "Figure"),
		cmp.Or(w.Value, "Value"), cmp.Or(w.Base, "Base"), cmp.Or(w.Weight, "Weight"), cmp.Or(w.Printed, "As printed")}
}

// tidy are all figures of a report, a row each under its heads.
func (r Report) tidy() (out [][]Cell) {
	for _, t := range r.tables() {
		for _, f := range t.Figures {
			out = append(out, []Cell{{Text: cmp.Or(t.Label, t.Title)}, {Text: f.Row}, {Text: f.Column}, {Text: f.What},
				{Number: f.Number, Decimals: -1}, {Number: f.Base, Decimals: -1}, {Text: f.Weight}, {Text: f.Text}})
		}
	}
	return out
}

// landscapeFrom is how many characters across make a sheet that is printed on its side.
const landscapeFrom = 90

// beside are the pictures of a report by the number of the table beside which they stand: the last one
// before them.
func (r Report) beside() map[int][]*Picture {
	out, last := map[int][]*Picture{}, 1
	for _, block := range r.Blocks {
		switch {
		case block.Table != nil:
			last = block.Table.Number
		case block.Picture != nil && block.Picture.PNG != nil:
			out[last] = append(out[last], block.Picture)
		}
	}
	return out
}
