package export

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

func number(text string, x float64, decimals int) Cell {
	return Cell{Text: text, Number: &x, Decimals: decimals}
}

// One table in each form: as shown for the clipboard, as numbers in files; a text that a
// spreadsheet would run, or a page would take for markup, is harmless in each.
func TestATableLeaves(t *testing.T) {
	t.Parallel()
	table := Table{Title: "=cmd()", Notes: []string{"Of the 1,225\nhouseholds <b>"}, Head: []string{"Answer", "Count", "%"},
		Rows: [][]Cell{{{Text: "+1 & <i>"}, number("1,024", 1024, 0), number("83.6", 83.5918, 1)}, {{Text: "a\tb"}, number("−201", -201, 0), {Text: "–"}}}}
	write := func(f TableForm) string {
		var out bytes.Buffer
		require.NoError(t, table.Write(&out, f))
		return out.String()
	}
	assert.Equal(t, "'=cmd()\tCount\t%\n'+1 & <i>\t1024\t83.6\na b\t-201\t–\n", write(TSVTable))
	assert.Equal(t, "'=cmd(),,\nAnswer,Count,%\n'+1 & <i>,1024,83.6\na b,-201,–\n\"Of the 1,225 households <b>\",,\n", write(CSVTable))
	html := write(HTMLTable)
	assert.Contains(t, html, `<caption>&#39;=cmd()</caption>`)
	assert.Contains(t, html, `<th align="left">&#39;&#43;1 &amp; &lt;i&gt;</th><td align="right">1,024</td>`)
	assert.Contains(t, html, `<td align="right">−201</td>`)
	assert.NotContains(t, html, "<b>")

	book, err := excelize.OpenReader(strings.NewReader(write(XLSXTable)))
	require.NoError(t, err)
	defer book.Close()
	for cell, want := range map[string]string{"A1": "'=cmd()", "B2": "Count", "A3": "'+1 & <i>", "B3": "1,024", "C3": "83.6", "B4": "-201", "A6": "Of the 1,225 households <b>"} {
		got, err := book.GetCellValue("Table", cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}
	formula, err := book.GetCellFormula("Table", "A1")
	require.NoError(t, err)
	assert.Empty(t, formula, "a title is a text, whatever it begins with")
	raw, err := book.GetCellValue("Table", "C3", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	assert.Equal(t, "83.5918", raw, "all digits are there")
	assert.Empty(t, TableForm("exe").MediaType())
}
