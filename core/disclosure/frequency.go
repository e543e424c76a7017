package disclosure

import (
	"widetally/core/survey"
	"widetally/core/tally"
)

// Frequency tells which answers of a frequency table are withheld, all of them where too few respondents stand
// behind it. exclusive says that each respondent gave one answer, so that the counts add up. How many gave no answer,
// and why, is told.
func Frequency(f *tally.Frequency, exclusive bool, r Rule) (withheld map[survey.Slot]bool, all bool) {
	withheld = map[survey.Slot]bool{}
	if r.Least <= 1 && r.Fewest <= 1 {
		return withheld, false
	}
	c := Counts{N: []int64{f.Answered}, Margin: []bool{true}}
	answered := Sum{Whole: 0}
	for i, row := range f.Rows {
		answered.Parts = append(answered.Parts, i+1)
		c.N, c.Margin = append(c.N, row.Count), append(c.Margin, false)
	}
	if exclusive && len(f.Rows) > 0 {
		c.Sums = append(c.Sums, answered)
	}
	s := Suppress(c, c.Small(r.Fewest), r.Width())
	for i, row := range f.Rows {
		withheld[row.Slot] = s.Out(i + 1)
	}
	return withheld, f.Answered > 0 && f.Answered < r.Least || s.Out(0)
}
