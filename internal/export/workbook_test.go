package export

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// A cell holds the number itself and shows it as the page does.
func TestNumbersInTheirFormats(t *testing.T) {
	t.Parallel()
	cell := func(x float64, decimals int, format Format) Cell {
		return Cell{Number: &x, Decimals: decimals, Format: format}
	}
	table := Table{Title: "Numbers", Head: []string{"What", "Figure"}}
	cases := []struct {
		cell  Cell
		shown string
	}{
		{cell(1234.5678, 1, PlainNumber), "1,234.6"}, {cell(1240, 0, PlainNumber), "1,240"}, {cell(49.53, 1, PercentSign), "49.5\u00a0%"},
		{cell(-3.6, 1, Signed), "\u22123.6"}, {cell(3.6, 1, Signed), "+3.6"}, {cell(0.0209, -1, PValue), "0.0209"}, {cell(7.06e-20, -1, PValue), "7.06E-20"},
		{cell(2.33496, -1, PlainNumber), "2.335"}, {cell(0.083140, -1, PlainNumber), "0.08314"}, {cell(87.661, -1, PlainNumber), "87.66"}, {cell(12, -1, PlainNumber), "12"},
	}
	for _, c := range cases {
		table.Rows = append(table.Rows, []Cell{{Text: c.shown}, c.cell})
	}
	var out bytes.Buffer
	require.NoError(t, table.Write(&out, XLSXTable))
	f, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	defer f.Close()
	for i, c := range cases {
		got, err := f.GetCellValue("Table", at(2, 3+i))
		require.NoError(t, err)
		assert.Equal(t, c.shown, got)
		kind, err := f.GetCellType("Table", at(2, 3+i))
		require.NoError(t, err)
		assert.NotEqual(t, excelize.CellTypeSharedString, kind, c.shown)
	}
	names := f.GetDefinedName()
	require.Len(t, names, 1)
	assert.Equal(t, "'Table'!$1:$2", names[0].RefersTo, "its head is repeated on paper")
}
