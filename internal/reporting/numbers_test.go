package reporting

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/report"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/export"
)

// A number in a report is described, by hand: 2, 4 and 9 have the mean 5 and the standard deviation √13; with
// a design its estimates stand before the respondents, with intervals, and every figure has its base and its
// weight. A text has no table, and says so.
func TestANumberInAReport(t *testing.T) {
	m, c := study(t, 734, 506)
	trips := survey.Question{Name: "trips", Wording: "How many trips?", Kind: survey.Discrete}
	n := tally.Summarise([]survey.Value{{Number: 2, Times: 1}, {Number: 4, Times: 1}, {Number: 9, Times: 1}})
	lower, upper, sd := 3.0, 4.5, 3.25
	estimated := &analysis.EstimatedNumber{Mean: &design.Mean{Mean: 4.8765, SD: &sd}, Interval: &infer.Interval{Lower: 2.5, Upper: 7.25},
		Quartiles: []design.Quantile{{Quantile: 3}, {Quantile: 4, Lower: &lower, Upper: &upper}, {Quantile: 6.5}}}
	number := Tally{Question: trips, Frequency: &tally.Frequency{Missing: 7}, Units: "households", Numeric: n}
	weighted := number
	weighted.EstimatedNumber = estimated
	c.Weighted = "w"
	c.Tallies = map[int]*Tally{1: &number, 2: &weighted, 3: {Question: survey.Question{Name: "why", Wording: "Why?", Kind: survey.Text}, Frequency: &tally.Frequency{}}}
	out, err := m.Make(t.Context(), report.Report{Pieces: []report.Piece{{ID: 1, Question: 1}, {ID: 2, Question: 2}, {ID: 3, Question: 3}, {ID: 4, Prose: "See {trips: table}."}}, Without: report.Parts}, c)
	require.NoError(t, err)
	var tables []*export.Table
	for _, b := range out.Blocks {
		if b.Table != nil {
			tables = append(tables, b.Table)
		}
	}
	require.Len(t, tables, 2)
	rows := func(t *export.Table) string {
		lines := []string{strings.Join(t.Head, ", ")}
		for _, r := range t.Rows {
			var cells []string
			for _, cell := range r {
				cells = append(cells, cell.Text)
			}
			lines = append(lines, strings.Join(cells, ", "))
		}
		return strings.Join(lines, "\n")
	}
	assert.Equal(t, "Figure, Respondents\nn, 3\nMean, 5\nStandard deviation, 3.61\nSmallest, 2\nLower quartile, 3\nMedian, 4\nUpper quartile, 6.5\nLargest, 9", rows(tables[0]))
	assert.Equal(t, "Figure, Estimated, 95\u00a0% interval, Respondents\nn, , , 3\nMean, 4.88, 2.50 to 7.25, 5\nStandard deviation, 3.25, , 3.61\nSmallest, , , 2\nLower quartile, 3, , 3\nMedian, 4, 3 to 4.5, 4\nUpper quartile, 6.5, , 6.5\nLargest, , , 9", rows(tables[1]))
	assert.Equal(t, []string{"Of the 3 households that answered; 7 gave no answer."}, tables[0].Notes)
	weights, of := map[string]int{}, 0
	for _, f := range tables[1].Figures {
		if weights[f.Weight]++; f.Base != nil {
			of += int(*f.Base)
		}
		if f.Row == "Mean" && f.Weight == "w" {
			assert.InDelta(t, 4.8765, *f.Number, 0, "with all its digits")
		}
	}
	assert.Equal(t, map[string]int{"w": 5, "": 8}, weights)
	assert.Equal(t, 5*3, of, "an estimate has its n")
	text := read(out)
	assert.Contains(t, text, "“Why?” has no table: it holds texts, or numbers that nobody gave.")
	assert.Contains(t, text, "See  Table 1 .")
}

// Under a table stand the wordings of its questions in the order of the questionnaire, of how many it speaks,
// and how many gave no answer; a battery says its own.
func TestWhatStandsUnderATable(t *testing.T) {
	m, c := study(t, 734, 506)
	a := c.Analyses[2]
	all := []survey.Question{{Name: "ward", Wording: "Which ward?"}, {Name: "caddy", Wording: "A caddy?"}, {Name: "mode", Wording: "How?"}}
	a.Asked, a.Missing = AskedOf([]survey.Question{{Name: "mode"}, {Name: "ward"}}, all, true), "60"
	assert.Equal(t, []string{"Question 1: “Which ward?” Question 3: “How?”", "1,240 households; 60 gave no answer."}, a.under(m.Words))
	a.Asked, a.Missing = AskedOf([]survey.Question{{Name: "caddy"}}, all, false), ""
	assert.Equal(t, []string{"“A caddy?”", "1,240 households"}, a.under(m.Words))
	a.Asked = make([]Asked, mostWordings+1)
	assert.Equal(t, []string{"1,240 households"}, a.under(m.Words))
}
