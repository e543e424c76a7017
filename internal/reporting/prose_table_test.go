package reporting

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/report"
	"widetally/internal/export"
)

// A table that is written in the prose is one, its figures follow their sources, it takes no number from the
// others, and every form bears it.
func TestATableInTheProse(t *testing.T) {
	m, c := study(t, 734, 506)
	r := report.Report{Title: "T", Without: report.Parts, Pieces: []report.Piece{
		{ID: 3, Prose: "| of | n |\n|---|--:|\n| all \\| some | {caddy: n} |\n| **two** | |"},
		{ID: 1, Question: 9},
	}}
	out, err := m.Make(t.Context(), r, c)
	require.NoError(t, err)
	require.Len(t, out.Blocks, 2)
	written, counted := out.Blocks[0].Table, out.Blocks[1].Table
	assert.Equal(t, []string{"of", "n"}, written.Head)
	assert.Equal(t, [][]export.Cell{{{Text: "all | some"}, {Text: "1,240"}}, {{Text: "two"}, {}}}, written.Rows)
	assert.Equal(t, []int{0, 1}, []int{written.Number, counted.Number})
	for form, want := range map[export.ReportForm]string{
		export.MarkdownReport: "| of | n |\n|---|---:|\n| all \\| some | 1,240 |", export.HTMLReport: `<table><thead><tr><th scope="col">of</th>`,
		export.LaTeXReport: `\begin{longtable*}`, export.CSVReport: "Table 1. Does your household use the food caddy?",
	} {
		var text bytes.Buffer
		require.NoError(t, out.Write(&text, form))
		assert.Contains(t, text.String(), want, form)
		assert.NotContains(t, text.String(), "****")
	}
	for _, form := range export.ReportForms {
		assert.NoError(t, out.Write(&bytes.Buffer{}, form), form)
	}
}
