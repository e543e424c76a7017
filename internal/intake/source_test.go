package intake

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
	"widetally/internal/sourcetest"
)

func tableOf(t *testing.T, text string, change func(*Settings)) *Table {
	t.Helper()
	f := File{R: strings.NewReader(text), Size: int64(len(text))}
	s, err := Sniff(t.Context(), f)
	require.NoError(t, err)
	if change != nil {
		change(&s)
	}
	table, err := Read(t.Context(), f, s, nil)
	require.NoError(t, err)
	return table
}

// A file that was read is a source like any other, with no database.
func TestAFileIsASource(t *testing.T) {
	t.Parallel()
	table := tableOf(t, sourcetest.CSV, nil)
	for _, c := range table.Columns {
		if c.Name != "reasons" {
			continue
		}
		of := survey.Derivation{Rule: survey.Parts, Sources: []uint64{1}, Separator: ";"}
		kind, answers, column, err := survey.Derive(of, []survey.Source{{Question: c.Question, Column: c.Data}}, survey.Sample{})
		require.NoError(t, err)
		table.Columns = append(table.Columns, survey.Built{Question: survey.Question{Name: "each", Kind: kind, Answers: answers}, Data: column})
		break
	}
	from, err := table.Source()
	require.NoError(t, err)
	sourcetest.Run(t, sourcetest.Source{Source: from, Ward: "ward", Before: "before", After: "after", Reasons: "each", Years: "years"})
}

// A column of counts multiplies what a file counts; a file that cannot be kept is no source.
func TestCountsOfAFile(t *testing.T) {
	t.Parallel()
	from, err := tableOf(t, "ward,caddy,n\na,yes,30\na,no,10\nb,yes,5\n", func(s *Settings) { s.Shape, s.CountColumn = Counts, "n" }).Source()
	require.NoError(t, err)
	f, err := from.Frequencies(t.Context(), "ward", "")
	require.NoError(t, err)
	assert.Equal(t, []int64{45, 40}, []int64{f.Everyone, f.Rows[0].Count})
	_, err = tableOf(t, "ward,caddy\na,yes\nb\n", nil).Source()
	var problem *Problem
	assert.ErrorAs(t, err, &problem)
	_, err = analysis.NewTable([]survey.Source{{Question: survey.Question{Name: "a"}}, {Question: survey.Question{Name: "a"}}}, "")
	assert.ErrorContains(t, err, `"a"`)
}
