package export

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"html/template"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"widetally/core/survey"
)

// Table is a table as it leaves: with all that a reader needs who did not make it.
type Table struct {
	Title string
	// Notes are lines on the base, the subgroup, the shares shown, the study and the date.
	Notes []string
	Head  []string
	Rows  [][]Cell
}

// Cell is text as it is shown, and the number behind it where there is one.
type Cell struct {
	Text   string
	Number *float64
	// Decimals is how many of the number are shown; −1 for as many as it takes.
	Decimals int
}

// Column is one column as it is shown, rounding included, a line each with its heading first.
// What a spreadsheet would run is neutralised.
func (t Table) Column(at int) string {
	var out strings.Builder
	line := func(text string) { out.WriteString(survey.Neutral(oneLine(text)) + "\n") }
	line(t.Head[at])
	for _, row := range t.Rows {
		switch {
		case at >= len(row):
			line("")
		case row[at].Number != nil:
			out.WriteString(row[at].Text + "\n")
		default:
			line(row[at].Text)
		}
	}
	return out.String()
}

// TableForm is a form in which a table leaves.
type TableForm string

// The forms: for the clipboard a table and its text, for files two kinds.
const (
	HTMLTable TableForm = "html"
	TSVTable  TableForm = "tsv"
	CSVTable  TableForm = "csv"
	XLSXTable TableForm = "xlsx"
)

// MediaType is that of the form; "" for a form that does not exist.
func (f TableForm) MediaType() string {
	return map[TableForm]string{HTMLTable: "text/html; charset=utf-8", TSVTable: "text/tab-separated-values; charset=utf-8", CSVTable: "text/csv; charset=utf-8",
		XLSXTable: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}[f]
}

// Write writes the table. In HTML figures stand as shown; elsewhere they are numbers, in text
// with the decimals that are shown and no separators of thousands, which a reader elsewhere
// might take for decimals. Texts that a spreadsheet would run are neutralised.
func (t Table) Write(w io.Writer, f TableForm) error {
	switch f {
	case HTMLTable:
		return htmlTable.Execute(w, t)
	case XLSXTable:
		return t.workbook(w)
	}
	out := csv.NewWriter(w)
	shown := func(c Cell) string {
		if c.Number != nil {
			return strconv.FormatFloat(*c.Number, 'f', c.Decimals, 64)
		}
		return survey.Neutral(oneLine(c.Text))
	}
	if f == TSVTable {
		out.Comma = '\t'
	}
	width := len(t.Head)
	put := func(cells []string) error {
		return out.Write(append(cells, make([]string, max(0, width-len(cells)))...))
	}
	// Text for the clipboard is the table alone, its title in the corner, so that cells which
	// are pasted as text can be read again; the rest goes with the HTML beside it.
	lines, notes := [][]string{}, []string{}
	head := append([]string{}, t.Head...)
	if f == TSVTable {
		head[0] = t.Title
	} else {
		lines, notes = append(lines, []string{t.Title}), t.Notes
	}
	lines = append(lines, head)
	for _, l := range lines {
		for i, text := range l {
			l[i] = survey.Neutral(oneLine(text))
		}
	}
	for _, row := range t.Rows {
		cells := make([]string, len(row))
		for i, c := range row {
			cells[i] = shown(c)
		}
		lines = append(lines, cells)
	}
	for _, n := range notes {
		lines = append(lines, []string{survey.Neutral(oneLine(n))})
	}
	for _, l := range lines {
		if err := put(l); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// oneLine keeps a text within its cell.
func oneLine(s string) string {
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == '\t' || r == '\r' || r == '\n' }), " ")
}

var htmlTable = template.Must(template.New("").Parse(`<table><caption>{{.Title}}</caption><thead><tr>{{range .Head}}<th>{{.}}</th>{{end}}</tr></thead><tbody>` +
	`{{range .Rows}}<tr>{{range $i, $c := .}}{{if $i}}<td align="right">{{$c.Text}}</td>{{else}}<th align="left">{{$c.Text}}</th>{{end}}{{end}}</tr>{{end}}</tbody></table>` +
	`{{range .Notes}}<p>{{.}}</p>{{end}}`))

// workbook writes one sheet; a number has the format in which it is shown.
func (t Table) workbook(w io.Writer) error {
	f := excelize.NewFile()
	defer f.Close()
	const sheet = "Sheet1"
	var failed error
	put := func(column, row int, v any, style int) {
		at, err := excelize.CoordinatesToCellName(column, row)
		if err == nil {
			err = f.SetCellValue(sheet, at, v)
		}
		if err == nil && style > 0 {
			err = f.SetCellStyle(sheet, at, at, style)
		}
		if failed == nil {
			failed = err
		}
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	formats := map[int]int{-1: 0}
	formatOf := func(decimals int) int {
		if style, ok := formats[decimals]; ok {
			return style
		}
		pattern := "#,##0"
		if decimals > 0 {
			pattern += "." + strings.Repeat("0", decimals)
		}
		style, err := f.NewStyle(&excelize.Style{CustomNumFmt: &pattern})
		if failed == nil {
			failed = err
		}
		formats[decimals] = style
		return style
	}
	put(1, 1, t.Title, bold)
	for i, h := range t.Head {
		put(i+1, 2, h, bold)
	}
	for r, row := range t.Rows {
		for i, c := range row {
			if c.Number != nil {
				put(i+1, r+3, *c.Number, formatOf(c.Decimals))
			} else {
				put(i+1, r+3, c.Text, 0)
			}
		}
	}
	for i, n := range t.Notes {
		put(1, len(t.Rows)+4+i, n, 0)
	}
	if failed != nil {
		return fmt.Errorf("export: %w", failed)
	}
	if err := f.SetColWidth(sheet, "A", "A", 34); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	var buffer bytes.Buffer
	if _, err := f.WriteTo(&buffer); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	_, err = buffer.WriteTo(w)
	return err
}
