package intake

import (
	"slices"

	"widetally/core/survey"
)

// below is what stands below a first cell in its column, as far as it was looked at.
type below struct {
	comesBack bool // the first cell is among it
	numbers   bool // all that is not blank is a number, and something is
}

// names says whether the first line of a table holds the names of its columns.
type names string

const (
	areNames    names = "names"
	mayBeNames  names = "perhaps" // asked before anything else
	areNotNames names = "answers"
)

// judgeHeader holds the first line for names when none of its cells is a number and none comes
// back as an answer in its own column. A name can come back by chance, such as “yes” over yes and
// no; then what is unlike its column speaks for names: words over numbers, or a cell that is called
// as identifiers, weights, counts and sizes are. Where only some cells come back, and all of the
// line are different, it is for a person to say. Empty cells do not speak against it: a name that
// is lacking is reported.
func judgeHeader(first []string, column func(i int) below) names {
	back, stay, different, unlike := 0, 0, map[string]bool{}, false
	for i, name := range first {
		if _, isNumber := survey.ParseNumber(name, true); isNumber {
			return areNotNames
		}
		if name == "" {
			continue
		}
		different[name] = true
		c := column(i)
		if c.comesBack {
			back++
			continue
		}
		stay++
		unlike = unlike || c.numbers || survey.NamesIdentifier(name) || survey.NamesWeight(name) || survey.NamesCount(name)
	}
	switch {
	case back == 0 || unlike:
		return areNames
	case stay > 0 && back <= stay && len(different) == back+stay:
		return mayBeNames
	}
	return areNotNames
}

// guessHeader judges from the first rows of a table.
func guessHeader(rows [][]string) names {
	if len(rows) == 0 {
		return areNotNames
	}
	return judgeHeader(rows[0], func(i int) (b below) {
		name, any := rows[0][i], false
		b.numbers = true
		for _, r := range rows[1:] {
			if i >= len(r) || r[i] == "" {
				continue
			}
			any = true
			b.comesBack = b.comesBack || r[i] == name
			if _, isNumber := survey.ParseNumber(r[i], true); !isNumber {
				b.numbers = false
			}
		}
		b.numbers = b.numbers && any
		return b
	})
}

// askHeader asks whether the first line of a table of several columns holds their names, where
// the whole file leaves that open and nobody has said it.
func (t *Table) askHeader(builders []*survey.Builder) {
	s := t.Settings
	if len(builders) < 2 || s.HeaderRow == 0 || s.HeaderSaid || s.Format == DataPackage || s.Shape != Rows && s.Shape != Counts {
		return
	}
	back := ""
	is := judgeHeader(t.Names, func(i int) below {
		b := below{comesBack: builders[i].Holds(t.Names[i]), numbers: builders[i].NumbersOnly()}
		if b.comesBack && back == "" {
			back = t.Names[i]
		}
		return b
	})
	if is != areNames {
		t.report(Problem{Code: AskNames, Line: s.HeaderRow, Text: back})
	}
}

// Known says that somebody calls a column so. Where the first line, of which it was open whether it
// holds names, has that name, it does.
func (t *Table) Known(name string) {
	if slices.Contains(t.Names, name) {
		t.Problems = slices.DeleteFunc(t.Problems, func(p Problem) bool { return p.Code == AskNames || p.Code == AskHeader })
	}
}
