package export

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// spanned is a table with headings over its columns, a figure that stands out and one that rests on few.
func spanned(columns int) Table {
	x := 41.25
	t := Table{Title: "Use", Head: []string{"Answer", "All"}, Over: [][]Spanning{{{"", 1}, {"Ward", columns}}}, Notes: []string{"of all"}}
	row := []Cell{{Text: "yes"}, {Text: "41.3", Number: &x, Decimals: 1}}
	for range columns {
		t.Head = append(t.Head, "Fenside by the water")
		row = append(row, Cell{Text: "41.3", Number: &x, Decimals: 1, Above: "BC", Few: true})
	}
	t.Rows = [][]Cell{row}
	return t
}

// A heading spans the columns that lie beside each other under it, also in a part of a table alone; a form without such
// headings has it before each.
func TestHeadingsOverColumns(t *testing.T) {
	t.Parallel()
	table := spanned(3)
	assert.Equal(t, [][]Spanning{{{"", 1}, {"", 1}, {"Ward", 3}}}, table.Spans())
	assert.Equal(t, [][]Spanning{{{"", 1}, {"Ward", 2}}}, table.over([]int{0, 3, 4}))
	assert.Equal(t, []string{"Answer", "All", "Ward: Fenside by the water", "Ward: Fenside by the water", "Ward: Fenside by the water"}, table.flatHead())
	two := Table{Head: []string{"", "a", "b"}, Over: [][]Spanning{{{"x", 1}, {"x", 1}}}}
	assert.Equal(t, [][]Spanning{{{"", 1}, {"x", 1}, {"x", 1}}}, two.Spans(), "two headings that are called alike stay two")
	assert.Empty(t, Table{Head: []string{"a"}}.Spans())
}

// Every form shows the headings, the letters and the brackets; a workbook keeps the numbers as such.
func TestATableOfABookInEveryForm(t *testing.T) {
	t.Parallel()
	table := spanned(2)
	table.Number, table.Label = 1, "Table 1"
	r := Report{Title: "Book", Of: "of a study", Blocks: []Block{{Kind: TableBlock, Table: &table, Anchor: "table-1"}}}
	written := func(f ReportForm) string {
		var out bytes.Buffer
		require.NoError(t, r.Write(&out, f))
		return out.String()
	}
	part := func(f ReportForm, name string) string {
		raw := written(f)
		z, err := zip.NewReader(strings.NewReader(raw), int64(len(raw)))
		require.NoError(t, err)
		file, err := z.Open(name)
		require.NoError(t, err)
		all, err := io.ReadAll(file)
		require.NoError(t, err)
		return string(all)
	}
	assert.Contains(t, part(DOCXReport, "word/document.xml"), `<w:gridSpan w:val="2"`)
	assert.Contains(t, part(DOCXReport, "word/document.xml"), "[41.3]\u00a0BC")
	assert.Contains(t, part(ODTReport, "content.xml"), `table:number-columns-spanned="2"`)
	assert.Contains(t, part(ODSReport, "content.xml"), `<number:text>]`+"\u00a0"+`BC</number:text>`)
	assert.Contains(t, written(HTMLReport), `<th scope="colgroup" colspan="2">Ward</th>`)
	assert.Contains(t, written(LaTeXReport), `\multicolumn{2}{c}{\textbf{Ward}}`)
	assert.Contains(t, written(MarkdownReport), "Ward: Fenside by the water")
	for one, sheet := range map[bool]string{false: "Table 1 Use", true: "Tables"} {
		r.OneSheet = one
		f, err := excelize.OpenReader(strings.NewReader(written(XLSXReport)))
		require.NoError(t, err)
		shown, err := f.GetCellValue(sheet, "C4")
		require.NoError(t, err)
		assert.Equal(t, "[41.3]\u00a0BC", shown)
		raw, err := f.GetCellValue(sheet, "C4", excelize.Options{RawCellValue: true})
		require.NoError(t, err)
		assert.Equal(t, "41.25", raw)
		merged, err := f.GetMergeCells(sheet)
		require.NoError(t, err)
		assert.Equal(t, "C2:D2", merged[0][0])
	}
}

// Pages lie on their side as long as tables need it, with no empty page between two of them, and where all shall.
func TestPagesThatLie(t *testing.T) {
	t.Parallel()
	wide, narrow := spanned(16), spanned(1)
	r := Report{Blocks: []Block{
		{Kind: ParagraphBlock}, {Kind: HeadingBlock}, {Kind: TableBlock, Table: &wide}, {Kind: TableBlock, Table: &wide}, {Kind: TableBlock, Table: &narrow}, {Kind: HeadingBlock},
	}}
	lies := func() (out []bool) {
		for i := range r.Blocks {
			out = append(out, r.lies(i, r.rooms(usualRooms)))
		}
		return out
	}
	assert.Equal(t, []bool{false, true, true, true, false, false}, lies())
	var out bytes.Buffer
	require.NoError(t, r.Write(&out, DOCXReport))
	z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	file, err := z.Open("word/document.xml")
	require.NoError(t, err)
	document, err := io.ReadAll(file)
	require.NoError(t, err)
	assert.Equal(t, 3, strings.Count(string(document), "<w:sectPr"), "before, on its side, and behind")
	assert.Equal(t, 1, strings.Count(string(document), `w:orient="landscape"`))
	r.Sideways = true
	assert.Equal(t, []bool{false, true, true, true, true, false}, lies())
}
