package intake

import (
	"fmt"
	"unicode/utf8"

	"widetally/core/survey"
)

// names takes the column names from the header's cells and reports those that are
// lacking or given twice.
func (t *Table) names(cells [][]byte, place int) {
	s := t.Settings
	t.headers = map[int]string{}
	taken := map[string]int{}
	for i, c := range cells {
		name := ""
		if s.HeaderRow > 0 {
			name = cleanName(string(c))
			if full := survey.CleanText(string(c)); utf8.RuneCountInString(full) > survey.MaxWording {
				t.report(Problem{Code: LongWording, Line: place, Column: i + 1, Text: excerpt(c), Found: utf8.RuneCountInString(full), Wanted: survey.MaxWording})
			} else if full != name {
				t.headers[i] = full
			}
		}
		if name == "" {
			// The corner of a sheet is left blank over the names of its rows, or over their numbers.
			if corner := i == 0 && len(cells) > 1; s.HeaderRow > 0 && !s.FixNames && !corner {
				t.report(Problem{Code: EmptyName, Line: place, Column: i + 1})
			}
			name = fmt.Sprintf("column %d", i+1)
		}
		if first, again := taken[name]; again {
			if !s.FixNames {
				t.report(Problem{Code: DuplicateName, Line: place, Column: i + 1, Found: first + 1, Text: name})
			}
			plain := name
			for n := 2; again; n++ {
				name = fmt.Sprintf("%s (%d)", plain, n)
				_, again = taken[name]
			}
		}
		taken[name] = i
		t.Names = append(t.Names, name)
	}
}

// cleanName is the name of a column, of bounded length.
func cleanName(s string) string {
	s = survey.CleanText(s)
	if r := []rune(s); len(r) > survey.MaxName {
		s = string(r[:survey.MaxName])
	}
	return s
}
