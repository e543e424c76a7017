package export

import (
	"cmp"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
)

// workbookWriter writes a workbook: numbers as numbers in the format in which they are shown, and texts that a
// spreadsheet might run neutralised. Its first error is kept.
type workbookWriter struct {
	f      *excelize.File
	err    error
	styles map[string]int
	first  bool // no sheet has been made yet
}

// A sheet is set in letters that every spreadsheet has.
const (
	sheetFace   = "Arial"
	sheetPoints = 10
)

func newBook() *workbookWriter {
	b := &workbookWriter{f: excelize.NewFile(), styles: map[string]int{}, first: true}
	b.do(b.f.SetDefaultFont(sheetFace))
	return b
}

func (b *workbookWriter) do(err error) {
	if b.err == nil {
		b.err = err
	}
}

// style is that of a name, made once.
func (b *workbookWriter) style(name string, make func() *excelize.Style) int {
	if id, known := b.styles[name]; known {
		return id
	}
	id, err := b.f.NewStyle(make())
	b.do(err)
	b.styles[name] = id
	return id
}

// lines is a text in several lines, spanning a heading over several columns, headOfFigures one over figures.
const (
	lines         = "lines"
	spanning      = "spanning"
	headOfFigures = "head"
)

func (b *workbookWriter) look(bold bool, pattern string, edge string) int {
	return b.style(fmt.Sprint(bold, pattern, edge), func() *excelize.Style {
		s := &excelize.Style{Font: &excelize.Font{Bold: bold, Family: sheetFace, Size: sheetPoints}, Alignment: &excelize.Alignment{Vertical: "top"}}
		if pattern != "" {
			s.CustomNumFmt = &pattern
		}
		if edge != "" {
			s.Border = []excelize.Border{{Type: strings.Replace(edge, spanning, "bottom", 1), Style: 1, Color: "20262B"}}
		}
		switch edge {
		case "bottom": // a heading
			s.Alignment.WrapText, s.Alignment.Vertical = true, "bottom"
		case spanning:
			s.Alignment.Horizontal, s.Alignment.WrapText, s.Alignment.Vertical = "center", true, "bottom"
		case lines:
			s.Border, s.Alignment.WrapText = nil, true
		}
		if pattern == headOfFigures {
			s.CustomNumFmt, s.Alignment.Horizontal = nil, "right"
		}
		return s
	})
}

// pattern is how a workbook shows a number.
func (l numberLook) pattern() string {
	before, behind := "", ""
	if l.few {
		before, behind = `\[`, `\]`
	}
	if l.above != "" {
		behind += "\"\u00a0" + strings.TrimSpace(l.above) + `"`
	}
	parts := strings.Split(l.plain(), ";")
	for i := range parts {
		parts[i] = before + parts[i] + behind
	}
	return strings.Join(parts, ";")
}

func (l numberLook) plain() string {
	zeros := ""
	if l.decimals > 0 {
		zeros = "." + strings.Repeat("0", l.decimals)
	}
	switch l.kind {
	case scientificLook:
		return "0" + zeros + "E+00"
	case percentLook:
		return "0" + zeros + "\"\u00a0%\""
	case signedLook:
		return "+#,##0" + zeros + ";\u2212#,##0" + zeros + ";0" + zeros
	case generalLook:
		return "General"
	case plainLook:
		return "0" + zeros
	}
	return "#,##0" + zeros
}

func (b *workbookWriter) sheet(name string) {
	if b.first {
		b.first = false
		b.do(b.f.SetSheetName("Sheet1", name))
		return
	}
	_, err := b.f.NewSheet(name)
	b.do(err)
}

func at(column, row int) string {
	name, _ := excelize.CoordinatesToCellName(column, row) // ours are within a sheet
	return name
}

func (b *workbookWriter) text(sheet string, column, row int, text string, style int) {
	b.do(b.f.SetCellStr(sheet, at(column, row), neutral(text)))
	b.do(b.f.SetCellStyle(sheet, at(column, row), at(column, row), style))
}

// link makes a cell lead to a sheet.
func (b *workbookWriter) link(sheet string, column, row int, to string) {
	b.do(b.f.SetCellHyperLink(sheet, at(column, row), "'"+strings.ReplaceAll(to, "'", "''")+"'!A1", "Location"))
	b.do(b.f.SetCellStyle(sheet, at(column, row), at(column, row), b.style("link", func() *excelize.Style {
		return &excelize.Style{Font: &excelize.Font{Color: "0B5A5E", Underline: "single", Family: sheetFace, Size: sheetPoints}}
	})))
}

// table writes a table from the top of a sheet: its caption, its head, its rows and its notes; the head
// stays when it is scrolled, and is repeated on each page of paper, which lies on its side where the table is
// wide or something stands beside it. It returns the next free row.
func (b *workbookWriter) table(sheet string, t *Table, beside bool) int {
	widths := t.characters()
	sum := b.widths(sheet, widths)
	row := b.rows(sheet, t, 1, widths)
	headRow := 2 + len(t.Over)
	b.do(b.f.SetPanes(sheet, &excelize.Panes{Freeze: true, XSplit: 1, YSplit: headRow, TopLeftCell: at(2, headRow+1), ActivePane: "bottomRight"}))
	b.print(sheet, beside || sum > landscapeFrom, fmt.Sprintf("$1:$%d", headRow))
	return row
}

// widths sets the columns of a sheet, in characters, and gives their sum.
func (b *workbookWriter) widths(sheet string, widths []int) (sum int) {
	for i, n := range widths {
		column, err := excelize.ColumnNumberToName(i + 1)
		b.do(err)
		b.do(b.f.SetColWidth(sheet, column, column, float64(n)))
		sum += n
	}
	return sum
}

// rows writes a table from a row of a sheet on, whose columns are so wide, and returns the next free row.
func (b *workbookWriter) rows(sheet string, t *Table, from int, widths []int) int {
	head, sum := b.look(true, "", "bottom"), 0
	for _, n := range widths[:len(t.Head)] {
		sum += n
	}
	b.text(sheet, 1, from, t.caption(), b.look(true, "", ""))
	headRow := from + 1
	for _, line := range t.Spans() {
		column, high := 1, 1
		for _, s := range line {
			if s.Text != "" {
				room := 0
				for _, n := range widths[column-1 : column-1+s.Columns] {
					room += n
				}
				high = max(high, linesOf(s.Text, room))
				b.text(sheet, column, headRow, s.Text, b.look(true, "", spanning))
				if s.Columns > 1 {
					b.do(b.f.SetCellStyle(sheet, at(column, headRow), at(column+s.Columns-1, headRow), b.look(true, "", spanning)))
					b.do(b.f.MergeCell(sheet, at(column, headRow), at(column+s.Columns-1, headRow)))
				}
			}
			column += s.Columns
		}
		b.do(b.f.SetRowHeight(sheet, headRow, linePoints*float64(high)))
		headRow++
	}
	high := 1
	for i, h := range t.Head {
		style := head
		if i > 0 && !t.wordy(i) {
			style = b.look(true, headOfFigures, "bottom")
		}
		b.text(sheet, i+1, headRow, h, style)
		high = max(high, linesOf(h, widths[i]))
	}
	b.do(b.f.SetRowHeight(sheet, headRow, linePoints*float64(high)))
	row := headRow + 1
	for k, cells := range t.Rows {
		foot := t.Foot > 0 && k >= len(t.Rows)-t.Foot
		edge := ""
		if foot && k == len(t.Rows)-t.Foot {
			edge = "top"
		}
		for i := range t.Head {
			var c Cell
			if i < len(cells) {
				c = cells[i]
			}
			if c.Number == nil {
				style := b.look(foot, "", edge)
				if i > 0 && !t.wordy(i) {
					style = b.look(foot, headOfFigures, edge)
				}
				b.text(sheet, i+1, row, c.shown(), style)
				continue
			}
			b.do(b.f.SetCellFloat(sheet, at(i+1, row), *c.Number, -1, 64))
			b.do(b.f.SetCellStyle(sheet, at(i+1, row), at(i+1, row), b.look(foot, c.look().pattern(), edge)))
		}
		row++
	}
	row++
	for _, note := range t.Notes {
		b.text(sheet, 1, row, note, b.look(false, "", lines))
		if len(t.Head) > 1 {
			b.do(b.f.MergeCell(sheet, at(1, row), at(len(t.Head), row)))
		}
		b.do(b.f.SetRowHeight(sheet, row, linePoints*float64(linesOf(note, sum))))
		row++
	}
	return row
}

// linePoints is how high a line of a cell is.
const linePoints = 13.5

// linesOf is how many lines a text takes in so many characters.
func linesOf(text string, width int) int {
	n, used := 1, 0
	for _, word := range strings.Fields(text) {
		if size := utf8.RuneCountInString(word); used > 0 && used+1+size > width {
			n, used = n+1, size
		} else {
			used += 1 + size
		}
	}
	return n
}

// print lays a sheet out for paper: A4, one page wide, its first rows on each.
func (b *workbookWriter) print(sheet string, landscape bool, titles string) {
	fit, wide, high, paper, orientation := true, 1, 0, 9, "portrait"
	if landscape {
		orientation = "landscape"
	}
	b.do(b.f.SetSheetProps(sheet, &excelize.SheetPropsOptions{FitToPage: &fit}))
	b.do(b.f.SetPageLayout(sheet, &excelize.PageLayoutOptions{Size: &paper, Orientation: &orientation, FitToWidth: &wide, FitToHeight: &high}))
	b.do(b.f.SetDefinedName(&excelize.DefinedName{Name: "_xlnm.Print_Titles", RefersTo: "'" + strings.ReplaceAll(sheet, "'", "''") + "'!" + titles, Scope: sheet}))
}

// write writes the workbook with what tells of it.
func (b *workbookWriter) write(w io.Writer, r Report) error {
	defer b.f.Close()
	if !r.At.IsZero() {
		moment := r.At.UTC().Format("2006-01-02T15:04:05Z")
		b.do(b.f.SetDocProps(&excelize.DocProperties{Title: r.Title, Subject: r.Study, Creator: r.Author, LastModifiedBy: r.Author, Description: r.Of, Language: r.Lang, Created: moment, Modified: moment}))
		b.do(b.f.SetAppProps(&excelize.AppProperties{Application: r.Author}))
	}
	if b.err == nil {
		_, b.err = b.f.WriteTo(w)
	}
	if b.err != nil {
		return fmt.Errorf("export: %w", b.err)
	}
	return nil
}

// workbook writes one table as a workbook.
func workbook(w io.Writer, t *Table, name string) error {
	b := newBook()
	b.sheet(name)
	b.table(name, t, false)
	return b.write(w, Report{})
}

// workbook writes a report as a workbook: its contents, a sheet for each table with the pictures of the
// same piece beside it, and all figures one by one.
func (r Report) workbook(w io.Writer) error {
	b := newBook()
	tables := r.signed()
	reserved := []string{r.Words.contents(), r.Words.figures()}
	names := sheetNames(tables, reserved...)
	contents, bold := reserved[0], b.look(true, "", "")
	if r.OneSheet {
		b.together(cmp.Or(r.Words.Tables, r.Words.Table, "Tables"), tables)
		b.figures(reserved[1], r)
		return b.write(w, r)
	}
	b.sheet(contents)
	b.do(b.f.SetColWidth(contents, "A", "A", 12))
	b.do(b.f.SetColWidth(contents, "B", "B", 90))
	b.text(contents, 1, 1, r.Title, bold)
	b.text(contents, 1, 2, r.Of, b.look(false, "", ""))
	beside := r.beside()
	for i, t := range tables {
		b.text(contents, 1, 4+i, t.Label, 0)
		b.link(contents, 1, 4+i, names[i])
		b.text(contents, 2, 4+i, t.Title, b.look(false, "", ""))
		b.sheet(names[i])
		row := b.table(names[i], t, beside[t.Number] != nil)
		b.text(names[i], 1, row+1, contents, 0)
		b.link(names[i], 1, row+1, contents)
		b.pictures(names[i], len(t.Head)+2, beside[t.Number])
	}
	b.text(contents, 1, 4+len(tables), reserved[1], 0)
	b.link(contents, 1, 4+len(tables), reserved[1])
	b.print(contents, false, "$1:$1")
	b.figures(reserved[1], r)
	return b.write(w, r)
}

// together writes tables one below the other on a sheet, whose first column is as wide as the widest of theirs.
func (b *workbookWriter) together(sheet string, tables []*Table) {
	b.sheet(sheet)
	var widths []int
	row, wide := 1, 0
	for _, t := range tables {
		sum := 0
		for i, n := range t.characters() {
			if i == len(widths) {
				widths = append(widths, 0)
			}
			widths[i] = max(widths[i], n)
			sum += n
		}
		wide = max(wide, sum)
	}
	b.widths(sheet, widths)
	for _, t := range tables {
		row = b.rows(sheet, t, row, widths) + 1
	}
	b.do(b.f.SetPanes(sheet, &excelize.Panes{Freeze: true, XSplit: 1, TopLeftCell: "B1", ActivePane: "topRight"}))
	b.print(sheet, wide > landscapeFrom, "$1:$1")
}

// pictures puts pictures beside a table, one below the other.
func (b *workbookWriter) pictures(sheet string, column int, list []*Picture) {
	const rowPixels = 20.0
	row := 2
	for _, p := range list {
		b.text(sheet, column, row, p.Label+". "+p.Caption, b.look(true, "", ""))
		scale := 1 / DotsPerPixel
		b.do(b.f.AddPictureFromBytes(sheet, at(column, row+1), &excelize.Picture{Extension: ".png", File: p.PNG, Format: &excelize.GraphicOptions{AltText: p.Alt, ScaleX: scale, ScaleY: scale, LockAspectRatio: true}}))
		row += 4 + int(p.Height/rowPixels)
	}
}

// figures lists all figures of a report, a row each.
func (b *workbookWriter) figures(sheet string, r Report) {
	b.sheet(sheet)
	head, plain := b.look(true, "", "bottom"), b.look(false, "General", "")
	for i, h := range r.Words.heads() {
		b.text(sheet, i+1, 1, h, head)
	}
	for i, line := range r.tidy() {
		for k, c := range line {
			if c.Number == nil {
				b.text(sheet, k+1, i+2, c.Text, 0)
				continue
			}
			b.do(b.f.SetCellFloat(sheet, at(k+1, i+2), *c.Number, -1, 64))
			b.do(b.f.SetCellStyle(sheet, at(k+1, i+2), at(k+1, i+2), plain))
		}
	}
	b.do(b.f.SetColWidth(sheet, "A", "H", 18))
	b.do(b.f.SetPanes(sheet, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}))
	b.print(sheet, true, "$1:$1")
}
