package export

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"regexp"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"widetally/internal/intake"
)

func figure(text string, x float64, decimals int) Cell {
	return Cell{Text: text, Number: &x, Decimals: decimals}
}

func dots() []byte {
	var out bytes.Buffer
	_ = png.Encode(&out, image.NewGray(image.Rect(0, 0, 25, 12))) // a buffer takes all
	return out.Bytes()
}

func hostile() Report {
	table := Table{Number: 1, Label: "Table 1", Title: "=cmd() & <b>", Head: []string{"Answer", "Count", "%"}, Notes: []string{"@note"},
		Rows: [][]Cell{{{Text: "+1 <i>"}, figure("1,024", 1024, 0), figure("83.6", 83.5918367346939, 1)}, {{Text: "tab\there\x00\x0b"}, figure("−2", -2, 0), {Text: "–", Mark: "more"}}}}
	again := table
	again.Number, again.Label, again.Title = 2, "Table 2", strings.Repeat("long ", 20)
	table.Foot = 1
	x := 83.5918367346939
	table.Figures = []Figure{{Row: "+1 <i>", Column: "%", What: "", Text: "83.6", Number: &x}}
	return Report{Title: "Bins & <caddies>", Lang: "en", Study: "Fernmouth", Author: "Wide Tally", Of: "Fernmouth, unweighted", At: time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC), Blocks: []Block{
		{Kind: HeadingBlock, Level: 1, Runs: []Run{{Text: "A_heading* {x}"}}, Anchor: "part-1"},
		{Kind: ParagraphBlock, Runs: []Run{{Text: "plain "}, {Text: "bold", Bold: true}, {Text: "code & <x>", Code: true}, {Text: "Table 1", Link: "#table-1"}, {Text: "out", Link: "https://example.org/?a=1&b=\"2\""}, {Text: "0.02", Source: "claim 1: p", Stale: "was 0.01"}}},
		{Kind: ListBlock, Numbered: true, Items: [][]Run{{{Text: "one"}}, {{Text: "two"}}}},
		{Kind: QuoteBlock, Runs: []Run{{Text: "said"}}},
		{Kind: TableBlock, Table: &table, Anchor: "table-1"}, {Kind: TableBlock, Table: &again, Anchor: "table-2"},
		{Kind: PictureBlock, Anchor: "figure-1", Picture: &Picture{Number: 1, Label: "Figure 1", Caption: "Bars <&>", Alt: "Bars \"of\" <it>", SVG: `<svg width="10" height="5" xmlns="http://www.w3.org/2000/svg"></svg>`, PNG: dots(), Width: 10, Height: 5}},
	}}
}

func written(t *testing.T, r Report, f ReportForm) []byte {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, r.Write(&out, f))
	return out.Bytes()
}

// parts unpacks a zip and holds each of its XML parts well formed.
func parts(t *testing.T, raw []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		content, err := io.ReadAll(r)
		require.NoError(t, err)
		out[f.Name] = string(content)
		if strings.HasSuffix(f.Name, ".xml") || strings.HasSuffix(f.Name, ".rels") {
			wellFormed(t, f.Name, string(content))
		}
	}
	return out
}

func wellFormed(t *testing.T, name, content string) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(content))
	for {
		_, err := d.Token()
		if errors.Is(err, io.EOF) {
			return
		}
		require.NoError(t, err, name)
	}
}

// Every form holds what the report says, whatever signs are in it, and nothing of it is run.
func TestTheFormsOfAReport(t *testing.T) {
	t.Parallel()
	r := hostile()
	docx := parts(t, written(t, r, DOCXReport))
	for _, want := range []string{`w:val="Heading1"`, "A_heading* {x}", "&lt;i&gt;", "<w:tblHeader/>", " REF table_1 \\h ", `w:name="table_1"`, " SEQ Table \\* ARABIC ", "<w:keepNext/>", "<w:b/>", "was 0.01", `descr="Bars &#34;of&#34; &lt;it&gt;"`, "– ↑"} {
		assert.Contains(t, docx["word/document.xml"], want)
	}
	ids := regexp.MustCompile(`r:(?:id|embed)="([^"]+)"`).FindAllStringSubmatch(docx["word/document.xml"], -1)
	require.Len(t, ids, 4)
	assert.Contains(t, docx["word/footer1.xml"], " NUMPAGES ")
	assert.Contains(t, docx["docProps/core.xml"], "<dc:creator>Wide Tally</dc:creator>")
	for _, id := range ids {
		assert.Contains(t, docx["word/_rels/document.xml.rels"], fmt.Sprintf(`Id="%s"`, id[1]))
	}
	assert.Equal(t, string(dots()), docx["word/media/picture-1.png"])

	odt := parts(t, written(t, r, ODTReport))
	for _, want := range []string{`text:outline-level="1"`, "&lt;i&gt;", "<table:table-header-rows>", `office:value="83.5918367346939"`, `text:ref-name="table-1"`, `text:formula="ooow:Table+1"`, "<svg:desc>Bars"} {
		assert.Contains(t, odt["content.xml"], want)
	}
	assert.Contains(t, odt["META-INF/manifest.xml"], "Pictures/picture-1.svg")
	ods := parts(t, written(t, r, ODSReport))
	assert.Contains(t, ods["content.xml"], `office:value="83.5918367346939" table:style-name="Cgrouped1"`)
	assert.Contains(t, ods["content.xml"], "&#39;+1 &lt;i&gt;")
	for _, f := range []ReportForm{ODTReport, ODSReport} {
		raw := written(t, r, f)
		assert.Equal(t, "mimetype"+f.MediaType(), string(raw[30:38+len(f.MediaType())]), "the media type stands first, not compressed")
	}

	book, err := excelize.OpenReader(bytes.NewReader(written(t, r, XLSXReport)))
	require.NoError(t, err)
	defer book.Close()
	require.Len(t, book.GetSheetList(), 4)
	sheet := book.GetSheetList()[1]
	leads, to, err := book.GetCellHyperLink("Contents", "A4")
	require.NoError(t, err)
	assert.Equal(t, []any{true, "'" + sheet + "'!A1"}, []any{leads, to})
	panes, err := book.GetPanes(sheet)
	require.NoError(t, err)
	assert.Equal(t, []any{true, 1, 2}, []any{panes.Freeze, panes.XSplit, panes.YSplit})
	props, err := book.GetDocProps()
	require.NoError(t, err)
	assert.Equal(t, []string{"Wide Tally", "2026-11-26T12:00:00Z", r.Title}, []string{props.Creator, props.Created, props.Title})
	every, err := book.GetRows("Figures", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	assert.Equal(t, []string{"Table 1", "'+1 <i>", "%", "", "83.5918367346939", "", "", "83.6"}, every[1])
	for cell, want := range map[string]string{"A1": "Table 1. =cmd() & <b>", "A3": "'+1 <i>", "B3": "1,024", "C3": "83.6", "A6": "'@note", "A7": r.Of} {
		got, err := book.GetCellValue(sheet, cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}

	lines := csv.NewReader(bytes.NewReader(written(t, r, CSVReport)))
	lines.FieldsPerRecord = -1
	rows, err := lines.ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"'+1 <i>", "1024", "83.6"}, rows[2])

	html := string(written(t, r, HTMLReport))
	assert.Contains(t, html, `<th scope="row">&#43;1 &lt;i&gt;</th><td>1,024</td>`)
	assert.Contains(t, html, `<a href="#table-1">Table 1</a>`)
	assert.Empty(t, regexp.MustCompile(`(?i)(<link|<script|@import|src=|url\(http)`).FindString(html), "nothing outside is asked for")
	assert.NotContains(t, html, "<i>")

	md := string(written(t, r, MarkdownReport))
	assert.Contains(t, md, `## A\_heading\* \{x\}`)
	assert.Contains(t, md, `| +1 \<i\> | 1,024 | 83.6 |`)
	tex := string(written(t, r, LaTeXReport))
	assert.Contains(t, tex, `\section*{A\_heading* \{x\}}`)
	assert.Contains(t, tex, `+1 \textless{}i\textgreater{} & 1,024 & 83.6 \\`)
	var back Report
	require.NoError(t, json.Unmarshal(written(t, r, JSONReport), &back))
	assert.Equal(t, r.Blocks[4].Table.Rows[0][2].Number, back.Blocks[4].Table.Rows[0][2].Number, "to the last bit")
	assert.Equal(t, ReportVersion, back.Version)
	for _, f := range ReportForms {
		assert.NotEmpty(t, f.MediaType())
		assert.NotEmpty(t, written(t, Report{Title: "Empty"}, f), "a report without anything, as %s", f)
	}
	assert.Empty(t, ReportForm("exe").MediaType())
}

// The sheets are read back by a reader that shares nothing with their writers, numbers to the last bit.
func TestSheetsAreReadByAnother(t *testing.T) {
	t.Parallel()
	r := hostile()
	for _, f := range []ReportForm{XLSXReport, ODSReport} {
		raw := written(t, r, f)
		file := intake.File{R: bytes.NewReader(raw), Size: int64(len(raw))}
		settings, err := intake.Sniff(t.Context(), file)
		require.NoError(t, err)
		settings.Part = "Table 1 =cmd() & <b>" // behind the contents, before all figures
		settings.HeaderRow, settings.PadShort, settings.HeaderSaid, settings.FixNames = 2, true, true, true
		table, err := intake.Read(t.Context(), file, settings, nil)
		require.NoError(t, err)
		require.Empty(t, table.Problems, f)
		assert.Equal(t, []string{"Answer", "Count", "%"}, table.Names, f)
		assert.Equal(t, []string{"'+1 <i>", "1024", "83.5918367346939"}, table.First[0], f)
		assert.Len(t, table.Parts, 4)
	}
}

func TestSheetsHaveNamesOfTheirOwn(t *testing.T) {
	t.Parallel()
	var tables []*Table
	for _, title := range []string{"a/b: c?", "A/B: C?", "", "", strings.Repeat("x", 60), strings.Repeat("x", 60)} {
		tables = append(tables, &Table{Title: title})
	}
	names, known := sheetNames(tables), map[string]bool{}
	for _, n := range names {
		assert.LessOrEqual(t, len(n), 31)
		assert.NotContains(t, n, "/")
		assert.False(t, known[strings.ToLower(n)], n)
		known[strings.ToLower(n)] = true
	}
}

// A report of 500 tables is written block by block: what it takes beyond the report itself stays small.
func TestFiveHundredTables(t *testing.T) {
	t.Parallel()
	r := Report{Title: "Many", Lang: "en"}
	for i := range 500 {
		table := Table{Number: i + 1, Label: fmt.Sprintf("Table %d", i+1), Title: fmt.Sprintf("Question %d", i+1), Head: []string{"Answer", "Count", "%"}}
		for k := range 40 {
			table.Rows = append(table.Rows, []Cell{{Text: fmt.Sprintf("Answer %d", k)}, figure("12", 12, 0), figure("2.5", 2.5, 1)})
		}
		r.Blocks = append(r.Blocks, Block{Kind: TableBlock, Table: &table})
	}
	for _, f := range []ReportForm{DOCXReport, ODTReport, HTMLReport, ODSReport, MarkdownReport, LaTeXReport} {
		var before, peak runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		most := uint64(0)
		require.NoError(t, r.Write(watching(func() {
			runtime.ReadMemStats(&peak)
			most = max(most, peak.HeapAlloc-min(peak.HeapAlloc, before.HeapAlloc))
		}), f))
		assert.Less(t, most, uint64(64<<20), f)
	}
}

// watching looks at every 64th write.
func watching(look func()) io.Writer {
	n := 0
	return writer(func(p []byte) (int, error) {
		if n++; n%64 == 0 {
			look()
		}
		return len(p), nil
	})
}

type writer func(p []byte) (int, error)

func (w writer) Write(p []byte) (int, error) { return w(p) }
