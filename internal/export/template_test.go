package export

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// house is a document of a house with styles in its own words: those by which others know them, with
// ids of its language.
func house(t *testing.T, styles, body string) *bytes.Reader {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, content := range map[string]string{"word/styles.xml": styles, "word/document.xml": body} {
		if content != "" {
			require.NoError(t, text(z, name, content))
		}
	}
	require.NoError(t, z.Close())
	return bytes.NewReader(out.Bytes())
}

const (
	houseStyles = `<?xml version="1.0"?><w:styles xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main">` +
		`<w:style w:type="paragraph" w:styleId="berschrift1"><w:name w:val="heading 1"/><w:rPr><w:color w:val="AA0000"/></w:rPr></w:style>` +
		`<w:style w:type="paragraph" w:styleId="Beschriftung"><w:name w:val="caption"/></w:style></w:styles>`
	houseBody = `<w:document><w:body><w:sectPr><w:pgSz w:w="15840" w:h="12240" w:orient="landscape"/><w:pgMar w:top="720" w:right="1440" w:bottom="720" w:left="1440" w:header="0" w:footer="0" w:gutter="0"/></w:sectPr></w:body></w:document>`
)

// A document takes the styles of a house by their names, keeps ours where the house has none, and lies
// on its pages.
func TestADocumentInTheStylesOfAHouse(t *testing.T) {
	t.Parallel()
	r := hostile()
	file := house(t, houseStyles, houseBody)
	var err error
	r.Template, err = ReadTemplate(file, file.Size())
	require.NoError(t, err)
	got := parts(t, written(t, r, DOCXReport))
	for _, want := range []string{`<w:pStyle w:val="berschrift1"/>`, `<w:pStyle w:val="Beschriftung"/>`, `<w:pStyle w:val="Title"/>`, `<w:pgSz w:w="12240" w:h="15840"/>`, `w:left="1440"`} {
		assert.Contains(t, got["word/document.xml"], want)
	}
	assert.NotContains(t, got["word/document.xml"], `w:val="Heading1"`)
	assert.Contains(t, got["word/styles.xml"], `w:val="AA0000"`)
	assert.Equal(t, 1, strings.Count(got["word/styles.xml"], `w:val="heading 1"`))
	assert.Equal(t, 1, strings.Count(got["word/styles.xml"], `w:styleId="Figures"`))

	for about, bad := range map[string]*bytes.Reader{
		"no archive": bytes.NewReader([]byte("words")), "no styles": house(t, "", houseBody), "no document": house(t, houseStyles, ""),
		"no styles within": house(t, "<w:styles/>", houseBody), "broken": house(t, "<w:styles></w:styles><", houseBody), "too long": house(t, strings.Repeat(" ", mostTemplate+1), houseBody),
	} {
		_, err := ReadTemplate(bad, bad.Size())
		assert.ErrorIs(t, err, ErrTemplate, about)
	}
	for _, page := range []string{"", `<w:pgSz w:w="100" w:h="100"/><w:pgMar w:left="90" w:right="90"/>`, `<w:pgSz w:w="x"/>`} {
		file := house(t, houseStyles, "<w:document>"+page+"</w:document>")
		got, err := ReadTemplate(file, file.Size())
		require.NoError(t, err)
		assert.Equal(t, usualRooms, got.rooms, page)
	}
}

// A table is as wide as what it holds; a wider one has smaller letters, lies on its side, and at last
// stands in parts that each begin with its first column. No figure is wider than its column.
func TestTablesFitTheirPage(t *testing.T) {
	t.Parallel()
	wide := func(columns int, figure string) Table {
		table := Table{Head: []string{"Answer"}, Rows: [][]Cell{{{Text: "a rather long answer that is broken into lines where it has to be"}}}}
		for i := range columns {
			table.Head = append(table.Head, fmt.Sprintf("Column %d", i+1))
			x := 1.0
			table.Rows[0] = append(table.Rows[0], Cell{Text: figure, Number: &x})
		}
		return table
	}
	for _, c := range []struct {
		columns, parts int
		figure         string
		landscape      bool
		points         float64
	}{{2, 1, "12.5", false, 10}, {7, 1, "12.5", false, 10}, {9, 1, "12.5", false, 8}, {12, 1, "12.5", true, 8}, {40, 3, "12.5", true, 9}, {3, 1, "1,234,567 to 2,345,678", false, 8}} {
		got := wide(c.columns, c.figure).parts(usualRooms)
		require.Len(t, got, c.parts, "%d columns", c.columns)
		seen := map[int]bool{}
		for _, p := range got {
			assert.Equal(t, []any{c.landscape, c.points}, []any{p.landscape, p.points}, "%d columns", c.columns)
			assert.Equal(t, 0, p.columns[0])
			assert.LessOrEqual(t, p.width(), map[bool]int{false: portraitTwips, true: landscapeTwips}[p.landscape])
			for k, at := range p.columns {
				seen[at] = true
				if at > 0 {
					assert.GreaterOrEqual(t, float64(p.widths[k]), float64(len(c.figure)*charTwips)*p.points/usualPoints)
				}
			}
		}
		assert.Len(t, seen, c.columns+1, "no column is lost")
	}
	assert.Nil(t, Table{}.parts(usualRooms))
	assert.True(t, kept(0, 40) && kept(38, 40) && !kept(20, 40) && !kept(39, 40) && kept(7, 14))
}
