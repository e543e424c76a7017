package intake

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// TestMain reads one file as a child process would, when it is named, so that what
// reading takes can be measured and bounded; else it runs the tests.
func TestMain(m *testing.M) {
	path := os.Getenv("INTAKE_FILE")
	if path == "" {
		os.Exit(m.Run())
	}
	limit := uint64(6 << 30)
	_ = syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: limit, Max: limit})
	f, err := os.Open(path)
	if err != nil {
		panic(err)
	}
	info, err := f.Stat()
	if err != nil {
		panic(err)
	}
	memory, err := strconv.ParseInt(os.Getenv("INTAKE_MEMORY"), 10, 64)
	if err != nil {
		panic(err)
	}
	said := childResult{}
	in := File{R: f, Size: info.Size(), Memory: memory << 20}
	s, err := Sniff(ctx, in)
	if err == nil {
		var t *Table
		if t, err = Read(ctx, in, s, nil); err == nil {
			said.Rows, said.Columns = t.Rows, len(t.Columns)
		}
	}
	var p *Problem
	if errors.As(err, &p) {
		said.Code = string(p.Code)
	} else if err != nil {
		panic(err)
	}
	raw, _ := json.Marshal(said)
	os.Stdout.Write(raw)
}

type childResult struct {
	Code          string
	Rows, Columns int
}

// inChild reads a file in a process of its own and returns what came of it and the
// memory that the process held at most, in MB.
func inChild(t *testing.T, path string, memory int) (childResult, int64) {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), os.Args[0])
	cmd.Env = append(os.Environ(), "INTAKE_FILE="+path, fmt.Sprint("INTAKE_MEMORY=", memory))
	var errs strings.Builder
	cmd.Stderr = &errs
	out, err := cmd.Output()
	require.NoError(t, err, "%.2000s", errs.String())
	var said childResult
	require.NoError(t, json.Unmarshal(out, &said))
	return said, cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss >> 10
}

// packed writes an archive with members written by functions.
func packed(t testing.TB, members map[string]func(w io.Writer)) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "file")
	f, err := os.Create(path)
	require.NoError(t, err)
	z := zip.NewWriter(f)
	for name, write := range members {
		w, err := z.Create(name)
		require.NoError(t, err)
		b := bufio.NewWriter(w)
		write(b)
		require.NoError(t, b.Flush())
	}
	require.NoError(t, z.Close())
	require.NoError(t, f.Close())
	return path
}

func text(s string) func(io.Writer) { return func(w io.Writer) { io.WriteString(w, s) } }

func times(n int, s string) func(io.Writer) {
	return func(w io.Writer) {
		for range n {
			io.WriteString(w, s)
		}
	}
}

func inTurn(all ...func(io.Writer)) func(io.Writer) {
	return func(w io.Writer) {
		for _, f := range all {
			f(w)
		}
	}
}

// workbook is a workbook of one sheet with this content, and these shared texts.
func workbook(t testing.TB, sheet, shared func(io.Writer)) string {
	return packed(t, map[string]func(io.Writer){
		"xl/workbook.xml":            text(`<workbook xmlns:r="r"><sheets><sheet name="A" r:id="r1"/></sheets></workbook>`),
		"xl/_rels/workbook.xml.rels": text(`<Relationships><Relationship Id="r1" Type="x/worksheet" Target="worksheets/a.xml"/><Relationship Id="r2" Type="x/sharedStrings" Target="s.xml"/></Relationships>`),
		"xl/worksheets/a.xml":        inTurn(text(`<worksheet><sheetData>`), sheet, text(`</sheetData></worksheet>`)),
		"xl/s.xml":                   inTurn(text(`<sst>`), shared, text(`</sst>`)),
	})
}

func ods(t testing.TB, rows func(io.Writer)) string {
	return packed(t, map[string]func(io.Writer){"content.xml": inTurn(
		text(`<office:document-content xmlns:office="`+officeNS+`" xmlns:table="`+tableNS+`" xmlns:text="`+textNS+`"><table:table table:name="a">`), rows, text(`</table:table></office:document-content>`))})
}

const (
	firstCell = `<row><c t="s"><v>0</v></c></row>`
	mega      = 1 << 20
	page      = "                                                                                                                                "
)

// However small a file is and whatever it says of itself, reading it takes bounded
// memory and ends: with the answers, or with what is wrong in words.
func TestBombsAreDefused(t *testing.T) {
	t.Parallel()
	odsCell := func(attributes string) string {
		return `<table:table-cell ` + attributes + `><text:p>x</text:p></table:table-cell>`
	}
	for name, c := range map[string]struct {
		path string
		code Code
	}{
		"a column repeated 2^63 times":   {ods(t, text(`<table:table-row>`+odsCell("")+`<table:table-cell table:number-columns-repeated="9223372036854775807"/>`+odsCell("")+`</table:table-row>`)), TooManyCells},
		"a cell repeated 2^63 times":     {ods(t, text(`<table:table-row>`+odsCell(`table:number-columns-repeated="9223372036854775800"`)+odsCell("")+`</table:table-row>`)), TooManyCells},
		"blanks repeated twice 2^62":     {ods(t, text(`<table:table-row><table:table-cell table:number-columns-repeated="4611686018427387904"/><table:table-cell table:number-columns-repeated="4611686018427387904"/>`+odsCell("")+`</table:table-row>`)), TooManyCells},
		"a row repeated 2^63 times":      {ods(t, text(`<table:table-row>`+odsCell("")+`</table:table-row><table:table-row table:number-rows-repeated="9223372036854775807">`+odsCell("")+`</table:table-row>`)), TooManyRows},
		"long cells repeated":            {ods(t, text(`<table:table-row><table:table-cell table:number-columns-repeated="5000"><text:p>`+strings.Repeat("x", 60000)+`</text:p></table:table-cell></table:table-row>`)), BadWorkbook},
		"nested beyond any sheet":        {ods(t, times(mega, `<a>`)), BadWorkbook},
		"an endless text in a cell":      {workbook(t, inTurn(text(`<row><c t="inlineStr"><is><t>`), times(mega, page), text(`</t></is></c></row>`)), text("")), BadWorkbook},
		"an endless comment":             {workbook(t, inTurn(text(`<!--`), times(mega, page+"<"), text(`-->`+firstCell)), text("")), BadWorkbook},
		"an endless shared text":         {workbook(t, text(firstCell+firstCell), inTurn(text(`<si><t>`), times(mega, page), text(`</t></si>`))), BadWorkbook},
		"more shared texts than allowed": {workbook(t, text(`<row><c t="s"><v>3</v></c></row><row><c t="s"><v>500000</v></c></row>`), times(mega/2, `<si><t>`+strings.Repeat("some words that are shared", 3)+`</t></si>`)), TooMuchMemory},
		"shared texts never asked for":   {workbook(t, text(`<row><c t="s"><v>0</v></c></row><row><c t="s"><v>1</v></c></row><row><c t="s"><v>0</v></c></row>`), times(mega, `<si><t>x</t></si>`)), ""},
		"empty rows without end":         {workbook(t, inTurn(text(firstCell), times(mega, `<row/>`)), text(`<si><t>x</t></si>`)), BadWorkbook},
		"far more cells than fit":        {workbook(t, times(200, `<row>`+strings.Repeat(`<c><v>7</v></c>`, 5000)+`</row>`), text("")), ""},
		"more different cells than fit": {workbook(t, func(w io.Writer) {
			for i := range 10_000 {
				fmt.Fprint(w, `<row>`)
				for k := range 50 {
					fmt.Fprintf(w, `<c t="str"><v>the answer that respondent %d gave to question %d, at length</v></c>`, i, k)
				}
				fmt.Fprint(w, `</row>`)
			}
		}, text("")), TooMuchMemory},
		"the last row of all": {workbook(t, text(firstCell+`<row r="9223372036854775807"><c><v>1</v></c></row>`), text(`<si><t>x</t></si>`)), BadWorkbook},
		"no end":              {packed(t, map[string]func(io.Writer){"xl/workbook.xml": text(`<workbook><sheets>`)}), BadWorkbook},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			said, peak := inChild(t, c.path, 24)
			assert.Equal(t, string(c.code), said.Code)
			assert.Less(t, peak, int64(200), "MB")
		})
	}
}

// A large workbook is read in less than 200 MB, whether its answers repeat or are all
// different. With WIDETALLY_SOAK it has 65,000 rows of 50 cells.
func TestALargeWorkbookTakesLittle(t *testing.T) {
	t.Parallel()
	rows := 8_000
	if os.Getenv("WIDETALLY_SOAK") != "" {
		rows = 65_000
	}
	for name, different := range map[string]int{"repeated": 1000, "all different": 1 << 40} {
		said, peak := inChild(t, largeWorkbook(t, rows, 50, different), 128)
		t.Logf("%s: %d rows, %d MB", name, said.Rows, peak)
		assert.Equal(t, childResult{"", rows, 50}, said, name)
		assert.Less(t, peak, int64(200), "MB")
	}
}

func largeWorkbook(t testing.TB, rows, columns, different int) string {
	return workbook(t, func(w io.Writer) {
		for i := range rows + 1 {
			fmt.Fprintf(w, `<row r="%d">`, i+1)
			for k := range columns {
				name, _ := excelize.CoordinatesToCellName(k+1, i+1)
				if i == 0 {
					fmt.Fprintf(w, `<c r="%s" t="inlineStr"><is><t>q%d</t></is></c>`, name, k)
				} else {
					fmt.Fprintf(w, `<c r="%s"><v>%d</v></c>`, name, (i*7919+k*104729+i*i*31)%different)
				}
			}
			fmt.Fprint(w, `</row>`)
		}
	}, text(""))
}

// A member of an archive over the limit is refused, never cut.
func TestWhatUnpacksToTooMuchIsRefused(t *testing.T) {
	t.Parallel()
	for name, rows := range map[string]int{"within": 40_000, "beyond": 60_000} {
		f := archive(t, map[string]string{"datapackage.json": `{"resources":[{"name":"a","path":"a.csv"}]}`, "a.csv": "ward\n" + strings.Repeat("1\n", rows)})
		f.Unpacked = 100_000
		table, err := Read(ctx, f, Settings{Format: DataPackage, Shape: Rows, HeaderRow: 1}, nil)
		if name == "within" {
			require.NoError(t, err)
			assert.Equal(t, rows, table.Rows)
			continue
		}
		var p *Problem
		require.ErrorAs(t, err, &p)
		assert.Equal(t, TooMuchUnpacked, p.Code)
	}
}

// Reading a sheet ends soon after it is cancelled, wherever it is: here in a row that
// never ends.
func TestReadingASheetIsCancelled(t *testing.T) {
	t.Parallel()
	path := workbook(t, inTurn(text(firstCell+`<row>`), times(4*mega, `<c/>`), text(`</row>`)), text(`<si><t>x</t></si>`))
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	info, err := f.Stat()
	require.NoError(t, err)
	within, cancel := context.WithCancel(ctx)
	cut := &cutShort{File: f, at: info.Size() / 10, then: cancel}
	_, err = Read(within, File{R: cut, Size: info.Size()}, Settings{Format: XLSX, Part: "A", Shape: Rows, HeaderRow: 1}, nil)
	require.ErrorIs(t, err, context.Canceled)
	require.True(t, cut.done.Load())
}

// cutShort is a file with which something happens once its byte at a place is read.
type cutShort struct {
	*os.File
	at   int64
	done atomic.Bool
	then func()
}

func (c *cutShort) ReadAt(p []byte, from int64) (int, error) {
	n, err := c.File.ReadAt(p, from)
	if from <= c.at && c.at < from+int64(n) && !c.done.Swap(true) {
		c.then()
	}
	return n, err
}

// BenchmarkWorkbook sets reading a sheet into columns against the library's streaming of
// the same rows and nothing else.
func BenchmarkWorkbook(b *testing.B) {
	path := filepath.Join(b.TempDir(), "a.xlsx")
	made := excelize.NewFile()
	out, err := made.NewStreamWriter("Sheet1")
	require.NoError(b, err)
	row := make([]any, 50)
	for i := range 20_000 {
		for k := range row {
			row[k] = (i*7919 + k*104729) % 1000
			if k%5 == 0 {
				row[k] = fmt.Sprint("answer ", i%7)
			}
		}
		name, _ := excelize.CoordinatesToCellName(1, i+1)
		require.NoError(b, out.SetRow(name, row))
	}
	require.NoError(b, out.Flush())
	require.NoError(b, made.SaveAs(path))
	require.NoError(b, made.Close())
	f, err := os.Open(path)
	require.NoError(b, err)
	defer f.Close()
	info, err := f.Stat()
	require.NoError(b, err)
	var ours, library time.Duration
	for b.Loop() {
		start := time.Now()
		_, err := Read(ctx, File{R: f, Size: info.Size()}, Settings{Format: XLSX, Part: "Sheet1", Shape: Rows, FixNames: true, HeaderRow: 1}, nil)
		require.NoError(b, err)
		ours += time.Since(start)
		start = time.Now()
		book, err := excelize.OpenFile(path, excelize.Options{RawCellValue: true, UnzipXMLSizeLimit: 1 << 20})
		require.NoError(b, err)
		rows, err := book.Rows("Sheet1")
		require.NoError(b, err)
		for rows.Next() {
			_, err := rows.Columns()
			require.NoError(b, err)
		}
		require.NoError(b, rows.Close())
		require.NoError(b, book.Close())
		library += time.Since(start)
	}
	b.ReportMetric(float64(ours)/float64(library), "ours/library")
}

// A workbook is unpacked in proportion to its size: what a few bytes stand for takes no minutes.
func TestAWorkbookIsUnpackedInProportion(t *testing.T) {
	t.Parallel()
	for size, most := range map[int64]int64{1000: 64 << 20, 2 << 20: 200 << 20, 1 << 30: maxUnpacked} {
		assert.Equal(t, most, workbookMost(size), size)
	}
	path := workbook(t, inTurn(text(firstCell+firstCell), times(65*17, "<!--"+strings.Repeat(" ", 64000)+"-->")), text(`<si><t>x</t></si>`))
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	info, err := f.Stat()
	require.NoError(t, err)
	_, err = Read(ctx, File{R: f, Size: info.Size()}, Settings{Format: XLSX, Shape: Rows}, nil)
	var p *Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, TooMuchUnpacked, p.Code)
	assert.Equal(t, 64, p.Wanted)
}
