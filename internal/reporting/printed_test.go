package reporting

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/document"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/said"
)

// crossed is a table of 30 of 40 and 12 of 60 with percents of each row, column or everyone; the second
// answer of the first group stands out.
func crossed(main, whole document.Role) *said.Table {
	counts := [][]float64{{30, 10, 40}, {12, 48, 60}, {42, 58, 100}}
	t := &said.Table{Caption: "caddy by ward", Stub: "ward", Columns: []string{"yes", "no", "All"}, Shown: []document.Role{main, document.Observed}, Whole: whole}
	for i, name := range []string{"Harbour", "Fenside", "All"} {
		row := said.Row{Name: name, Total: i == 2}
		for k, n := range counts[i] {
			percents := map[document.Role]float64{document.RowPercent: 100 * n / counts[i][2], document.ColumnPercent: 100 * n / counts[2][k], document.TotalPercent: n}
			of := main
			if whole != "" {
				of = whole
			}
			p := percents[of]
			cell := said.Cell{Figures: []said.Figure{{Role: main, Text: "p", Number: &p, Plain: true, Decimals: 1}, {Role: document.Observed, Text: "n", Number: &counts[i][k], Plain: true}}}
			if i == 0 && k == 1 {
				cell.Mark = document.Fewer
			}
			row.Cells = append(row.Cells, cell)
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

func numbers(row []export.Cell) (out []float64) {
	for _, c := range row[1:] {
		if c.Number != nil {
			out = append(out, *c.Number)
		}
	}
	return out
}

// On a page percents stand alone, and each whole has its n once: at the end of a row, or below a column.
// All figures stand beside it one by one, a percent with the number of whom it is.
func TestPercentsWithOneN(t *testing.T) {
	t.Parallel()
	w, err := i18n.Load("en")
	require.NoError(t, err)
	for _, c := range []struct {
		main, whole document.Role
		head        []string
		rows        [][]float64
		foot        int
	}{
		{document.RowPercent, "", []string{"ward", "yes", "no", "All", "n"}, [][]float64{{75, 25, 100, 40}, {20, 80, 100, 60}, {42, 58, 100, 100}}, 1},
		{document.Main, document.RowPercent, []string{"ward", "yes", "no", "All", "n"}, [][]float64{{75, 25, 100, 40}, {20, 80, 100, 60}, {42, 58, 100, 100}}, 1},
		{document.ColumnPercent, "", []string{"ward", "yes", "no", "All"}, [][]float64{{100 * 30. / 42, 100 * 10. / 58, 40}, {100 * 12. / 42, 100 * 48. / 58, 60}, {100, 100, 100}, {42, 58, 100}}, 2},
		{document.TotalPercent, "", []string{"ward", "yes", "no", "All"}, [][]float64{{30, 10, 40}, {12, 48, 60}, {42, 58, 100}}, 1},
	} {
		got := Printed(w, crossed(c.main, c.whole), []string{"100 households"})
		assert.Equal(t, c.head, got.Head, c.main)
		require.Len(t, got.Rows, len(c.rows), c.main)
		for i, want := range c.rows {
			assert.InDeltaSlice(t, want, numbers(got.Rows[i]), 1e-9, "%s, row %d", c.main, i)
		}
		assert.Equal(t, c.foot, got.Foot, c.main)
		assert.Equal(t, []string{"↓ fewer than expected", "100 households"}, got.Notes, "what a mark means is said first")
		assert.Equal(t, "fewer", got.Rows[0][2].Mark)

		require.Len(t, got.Figures, 18)
		first := got.Figures[0] // the percent of Harbour that said yes
		require.NotNil(t, first.Base, c.main)
		base := map[document.Role]float64{document.RowPercent: 40, document.ColumnPercent: 42, document.TotalPercent: 100}
		of := c.main
		if c.whole != "" {
			of = c.whole
		}
		assert.Equal(t, base[of], *first.Base, c.main)
		assert.Nil(t, got.Figures[1].Base, "a count is of nobody")
	}

	// What stands beside a percent has a row of its own; counts alone stay as they are.
	beside := crossed(document.RowPercent, "")
	beside.Shown = append(beside.Shown, document.Expected)
	x := 16.8
	beside.Rows[0].Cells[0].Figures = append(beside.Rows[0].Cells[0].Figures, said.Figure{Role: document.Expected, Text: "16.8", Number: &x, Plain: true, Decimals: 1})
	got := Printed(w, beside, nil)
	require.Len(t, got.Rows, 4)
	assert.Equal(t, "\u2003expected", got.Rows[1][0].Text)
	assert.Equal(t, []float64{16.8}, numbers(got.Rows[1]))
	counts := crossed(document.Observed, "")
	counts.Shown = []document.Role{document.Observed}
	assert.Len(t, Printed(w, counts, nil).Rows, 3)
}

// Numbers stay numbers, whatever they are: a p-value, a percent with its sign, a difference with its own.
func TestFiguresKeepTheirNumbers(t *testing.T) {
	t.Parallel()
	x := 7.06e-20
	for kind, want := range map[document.ValueKind]export.Cell{
		document.PExact:     {Text: "7.06 × 10⁻²⁰", Number: &x, Decimals: -1, Format: export.PValue},
		document.Percent:    {Text: "7.06 × 10⁻²⁰", Number: &x, Decimals: 1, Format: export.PercentSign},
		document.Difference: {Text: "7.06 × 10⁻²⁰", Number: &x, Decimals: 1, Format: export.Signed},
		document.Measure:    {Text: "7.06 × 10⁻²⁰", Number: &x, Decimals: -1},
		document.Range:      {Text: "7.06 × 10⁻²⁰"},
	} {
		c := said.Cell{Figures: []said.Figure{{Role: document.Main, Text: "7.06 × 10⁻²⁰", Number: &x, Kind: kind}}}
		assert.Equal(t, want, cellOf(c, document.Main), kind)
	}
	assert.Equal(t, export.Cell{}, cellOf(said.Cell{}, document.Main))
}
