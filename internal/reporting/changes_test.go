package reporting

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/disclosure"
	"widetally/core/report"
)

// What changed since another wave stands number by number: what is told of one wave alone has no change, p-values
// and withheld counts have none, and nothing is said where no wave is compared or the part is left out.
func TestWhatChangedSinceAnotherWave(t *testing.T) {
	t.Parallel()
	m, now := study(t, 734, 506)
	_, then := study(t, 600, 400)
	now.Since = &Since{Content: then, Wave: "2026", Before: "2025"}
	r := report.Report{Pieces: []report.Piece{{ID: 1, Question: 1}, {ID: 2, Analysis: 2}, {ID: 3, Prose: "Prose."}}, Without: []report.Part{report.Facts, report.Methods, report.Claims}}
	rows := func(r report.Report, c Content) (out []string) {
		made, err := m.Make(t.Context(), r, c)
		require.NoError(t, err)
		for _, b := range made.Blocks {
			if b.Part != string(report.Changes) {
				continue
			}
			for _, run := range b.Runs {
				out = append(out, run.Text)
			}
			if b.Table == nil {
				continue
			}
			out = append(out, b.Table.Title, strings.Join(b.Table.Head, "|"))
			for _, row := range b.Table.Rows {
				var cells []string
				for _, c := range row {
					cells = append(cells, c.Text)
				}
				out = append(out, strings.Join(cells, "|"))
			}
		}
		return out
	}
	got := rows(r, now)
	for _, want := range []string{
		"What changed in 2026 since 2025", "Row|Figure|2025|2026|Change",
		"Yes, we do|Count|600|734|+134", "Yes, we do|% of answered|60.0|59.2|−0.8", "No|% of answered|40.0|40.8|+0.8", "Total|% of answered|100.0|100.0|0.0",
	} {
		assert.Contains(t, got, want)
	}
	all := strings.Join(got, "\n")
	assert.Contains(t, all, "Share found||60.0\u00a0% (600 of 1,000)|59.2\u00a0% (734 of 1,240)|", "figures without a table")
	assert.Contains(t, all, "What came out||")
	assert.NotContains(t, all, "\u2003", "a further figure is called after its row")
	assert.NotContains(t, all, "Prose")

	// An answer that the other wave lacked, and one that is not told of it.
	lacking := then
	of := *then.Tallies[1]
	f := *of.Frequency
	f.Rows = f.Rows[:1]
	of.Frequency = &f
	lacking.Tallies = map[int]*Tally{1: &of}
	now.Since = &Since{Content: lacking, Wave: "2026", Before: "2025"}
	assert.Contains(t, rows(r, now), "No|Count||506|")
	few := now
	withheld := *now.Tallies[1]
	withheld.Rule = disclosure.Rule{Fewest: 550}
	few.Tallies = map[int]*Tally{1: &withheld}
	few.Since = &Since{Content: then, Wave: "2026", Before: "2025"}
	assert.Contains(t, rows(r, few), "No|Count|400|–|")

	assert.Empty(t, rows(report.Report{Pieces: r.Pieces, Without: report.Parts}, now), "left out")
	now.Since = nil
	assert.Empty(t, rows(r, now), "nothing is compared")
	now.Since = &Since{Content: Content{Study: "Kerbside"}, Wave: "2026", Before: "2025"}
	assert.Equal(t, []string{"What changed in 2026 since 2025", "Nothing above is about 2026 alone, so nothing is compared."}, rows(r, now))
}
