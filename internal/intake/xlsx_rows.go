package intake

import (
	"context"
	"encoding/xml"
	"errors"
	"io"
	"math"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"widetally/core/survey"
)

// openXLSX opens a sheet of a workbook; "" is the first one that holds anything.
// Cells come as what they hold: text, the shortest number that reads back, dates in
// ISO 8601, TRUE and FALSE, and of a formula its stored value.
func openXLSX(f File, part string, m *memory) (*source, error) {
	if f.Size > maxWorkbook {
		return nil, &Problem{Code: BadWorkbook, Text: "it is too large"}
	}
	book, err := openXLSXBook(f, m)
	if err != nil {
		return nil, asProblem(err, 0)
	}
	var names []string
	for _, s := range book.sheets {
		names = append(names, s.name)
	}
	if part == "" {
		part = book.firstFilled()
	}
	for _, s := range book.sheets {
		if s.name == part {
			rows, err := book.rows(s)
			if err != nil {
				return nil, asProblem(err, 0)
			}
			return &source{rows: rows, part: part, parts: func() []string { return names }, padShort: true}, nil
		}
	}
	return nil, &Problem{Code: NoPart, Text: part}
}

// endOnly lets the orderly end of a part pass.
func endOnly(err error) error {
	if errors.Is(err, io.EOF) {
		return nil
	}
	return err
}

// asProblem makes what keeps a workbook from being read a problem at this row.
func asProblem(err error, row int) error {
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	why := "it is damaged or protected by a password"
	if errors.Is(err, errXMLBounds) {
		why = "it holds more in one place than a sheet can"
	}
	return &Problem{Code: BadWorkbook, Line: row, Text: why}
}

// firstFilled names the first sheet with two rows that hold something, or the first.
func (b *xlsxBook) firstFilled() string {
	for _, s := range b.sheets {
		rows, err := b.rows(s)
		if err != nil {
			continue
		}
		filled := holdsTwoRows(rows)
		rows.body.Close()
		if filled {
			return s.name
		}
	}
	return b.sheets[0].name
}

func holdsTwoRows(r records) bool {
	for n := 0; n < 2; {
		cells, err := r.next()
		if err != nil {
			return false
		}
		if len(cells) > 1 || len(cells[0]) > 0 {
			n++
		}
	}
	return true
}

// Bounds of a row, and the last row that the format knows.
const (
	mostRowBytes = 16 << 20
	lastXLSXRow  = 1 << 20
)

type xlsxRows struct {
	book *xlsxBook
	body io.Closer
	read *counting
	size int64
	xml  *xmlReader
	at   int // row that next gave last
	row  int // row that was read last, which may lie ahead of at
	text []byte
	ends []int // of the cells of that row in text
	out  [][]byte
	end  bool
}

func (b *xlsxBook) rows(s xlsxSheet) (*xlsxRows, error) {
	body, size, err := openMember(b.archive, s.member, b.most)
	if err != nil {
		return nil, err
	}
	read := &counting{r: body}
	return &xlsxRows{book: b, body: body, read: read, size: size, xml: newXMLReader(read, true)}, nil
}

func (x *xlsxRows) next() ([][]byte, error) {
	if x.at == x.row {
		if err := x.readRow(); err != nil {
			return nil, asProblem(err, x.at+1)
		}
		if x.end {
			return nil, io.EOF
		}
	}
	x.at++
	x.out = x.out[:0]
	if x.at == x.row {
		from := 0
		for _, to := range x.ends {
			x.out = append(x.out, x.text[from:to])
			from = to
		}
	}
	if len(x.out) == 0 {
		x.out = append(x.out, nil)
	}
	return x.out, nil
}

// readRow reads up to the end of the next row that stands in the sheet; rows between
// are empty.
func (x *xlsxRows) readRow() error {
	for !x.end {
		t, err := x.xml.token()
		if err != nil {
			if errors.Is(err, io.EOF) {
				return io.ErrUnexpectedEOF
			}
			return err
		}
		switch e := t.(type) {
		case xml.EndElement:
			x.end = e.Name.Local == "sheetData"
		case xml.StartElement:
			if e.Name.Local != "row" {
				continue
			}
			row := x.row + 1
			if r := attr(e, "r"); r != "" {
				row, err = strconv.Atoi(r)
			}
			if err != nil || row <= x.row || row > lastXLSXRow {
				return errors.New("intake: rows out of order")
			}
			if err := x.cells(row); err != nil {
				return err
			}
			x.row = row
			return nil
		}
	}
	return nil
}

// cells reads the cells of the row that has just started. Empty cells at its end are
// dropped.
func (x *xlsxRows) cells(row int) error {
	x.text, x.ends = x.text[:0], x.ends[:0]
	column := 0
	for end := x.xml.depth - 1; x.xml.depth > end; {
		t, err := x.xml.token()
		if err != nil {
			return err
		}
		e, ok := t.(xml.StartElement)
		if !ok || e.Name.Local != "c" {
			continue
		}
		column++
		if ref := attr(e, "r"); ref != "" {
			if column = columnOf(ref); column <= 0 {
				return errors.New("intake: no reference of a cell")
			}
		}
		from := len(x.text)
		if err := x.cell(e); err != nil {
			return err
		}
		length := len(x.text) - from
		switch {
		case length == 0:
			continue
		case column > MaxColumns:
			return &Problem{Code: TooManyCells, Line: row, Wanted: MaxColumns}
		case column <= len(x.ends):
			return errors.New("intake: cells out of order")
		case length > MaxCell:
			return &Problem{Code: LongCell, Line: row, Column: column, Wanted: MaxCell}
		case len(x.text) > mostRowBytes:
			return errXMLBounds
		}
		for len(x.ends) < column-1 {
			x.ends = append(x.ends, from)
		}
		x.ends = append(x.ends, len(x.text))
	}
	return nil
}

// columnOf reads the letters of a reference such as AB12.
func columnOf(ref string) int {
	n := 0
	for i := range len(ref) {
		c := ref[i] &^ 0x20
		if c < 'A' || c > 'Z' || i > 3 {
			return n
		}
		n = 26*n + int(c-'A') + 1
	}
	return n
}

// cell reads the cell that has just started and appends what it holds.
func (x *xlsxRows) cell(e xml.StartElement) error {
	kind, style := "", ""
	for _, a := range e.Attr {
		switch a.Name.Local {
		case "t":
			kind = a.Value
		case "s":
			style = a.Value
		}
	}
	for end := x.xml.depth - 1; x.xml.depth > end; {
		t, err := x.xml.token()
		if err != nil {
			return err
		}
		start, ok := t.(xml.StartElement)
		switch {
		case !ok:
		case start.Name.Local == "is":
			if x.text, err = richText(x.xml, x.text); err != nil {
				return err
			}
		case start.Name.Local == "v":
			raw, err := x.xml.text(mostToken)
			if err != nil {
				return err
			}
			if err := x.value(kind, style, raw); err != nil {
				return err
			}
		default:
			if err := x.xml.skip(); err != nil {
				return err
			}
		}
	}
	return nil
}

func (x *xlsxRows) value(kind, style string, raw []byte) error {
	switch kind {
	case "s":
		n, err := strconv.Atoi(strings.TrimSpace(string(raw)))
		if err != nil || x.book.shared == nil {
			return errors.New("intake: no such text")
		}
		text, ok, err := x.book.shared.get(n)
		if err == nil && !ok {
			err = errors.New("intake: no such text")
		}
		x.text = append(x.text, text...)
		return err
	case "b":
		word := "FALSE"
		if strings.TrimSpace(string(raw)) == "1" {
			word = "TRUE"
		}
		x.text = append(x.text, word...)
		return nil
	case "str", "e", "inlineStr":
		x.text = append(x.text, unescaped(raw)...)
		return nil
	case "d":
		x.text = append(x.text, isoDate(string(raw))...)
		return nil
	}
	shown := noDate
	if n, err := strconv.Atoi(style); err == nil && n >= 0 && n < len(x.book.styles) {
		shown = x.book.styles[n]
	}
	if shown == noDate && isPlainWhole(raw) {
		x.text = append(x.text, raw...)
		return nil
	}
	number, err := strconv.ParseFloat(strings.TrimSpace(string(raw)), 64)
	switch {
	case err != nil:
		x.text = append(x.text, raw...)
	case shown != noDate && number >= 0 && number < 2_958_466:
		text, err := x.date(number, shown)
		if err != nil {
			return err
		}
		x.text = append(x.text, text...)
	default:
		x.text = append(x.text, survey.FormatNumber(number)...)
	}
	return nil
}

// isPlainWhole reports whether a number stands already as it is written here.
func isPlainWhole(raw []byte) bool {
	if len(raw) == 0 || len(raw) > 6 || raw[0] == '0' && len(raw) > 1 {
		return false
	}
	for _, c := range raw {
		if c < '0' || c > '9' {
			return false
		}
	}
	return true
}

// isoDate drops from a moment what says nothing: a zone at zero, seconds' fractions at
// zero, midnight.
func isoDate(s string) string {
	s = strings.TrimSuffix(s, "Z")
	if at := strings.IndexByte(s, '.'); at > 0 && strings.Trim(s[at:], ".0") == "" {
		s = s[:at]
	}
	return strings.TrimSuffix(s, "T00:00:00")
}

func (x *xlsxRows) date(number float64, style dateStyle) (string, error) {
	at, err := excelize.ExcelDateToTime(number, x.book.date1904)
	if err != nil {
		return "", err
	}
	switch {
	case style == timeOnly && number < 1:
		return at.Format("15:04:05"), nil
	case style == dateAndTime && number != math.Trunc(number):
		return at.Format("2006-01-02T15:04:05"), nil
	}
	return at.Format("2006-01-02"), nil
}

func (x *xlsxRows) place() int    { return x.at }
func (x *xlsxRows) done() float64 { return min(1, float64(x.read.n)/float64(max(1, x.size))) }
func (x *xlsxRows) close() {
	x.body.Close()
	x.book.shared.close()
}
