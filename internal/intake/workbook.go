package intake

import (
	"errors"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"widetally/core/survey"
)

// openXLSX opens a sheet of a workbook; "" is the first one that holds anything.
// Cells come as what they hold: text, the shortest number that reads back, dates in
// ISO 8601, TRUE and FALSE, and of a formula its stored value.
func openXLSX(f File, part string) (*source, error) {
	if f.Size > maxWorkbook {
		return nil, &Problem{Code: BadWorkbook, Text: "it is too large"}
	}
	book, err := excelize.OpenReader(f.reader(), excelize.Options{RawCellValue: true, UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: maxUnpacked})
	if err != nil {
		return nil, &Problem{Code: BadWorkbook, Text: plainReason(err)}
	}
	sheets := book.GetSheetList()
	if part == "" {
		part = firstFilled(book, sheets)
	}
	rows, err := book.Rows(part)
	if err != nil {
		book.Close()
		return nil, &Problem{Code: NoPart, Text: part}
	}
	x := &xlsxRows{book: book, sheet: part, rows: rows, dated: map[int]dateStyle{}}
	if dim, err := book.GetSheetDimension(part); err == nil {
		if _, last, ok := strings.Cut(dim, ":"); ok {
			_, x.most, _ = excelize.CellNameToCoordinates(last)
		}
	}
	return &source{rows: x, parts: sheets, padShort: true}, nil
}

// plainReason keeps the message of a library from leaking anything but its gist.
func plainReason(err error) string {
	if errors.Is(err, excelize.ErrWorkbookFileFormat) || strings.Contains(err.Error(), "zip") {
		return "it is damaged or protected by a password"
	}
	return "it is damaged or too large"
}

func firstFilled(book *excelize.File, sheets []string) string {
	for _, name := range sheets {
		rows, err := book.Rows(name)
		if err != nil {
			continue
		}
		filled := 0
		for rows.Next() && filled < 2 {
			if cells, err := rows.Columns(); err == nil && strings.Join(cells, "") != "" {
				filled++
			}
		}
		rows.Close()
		if filled == 2 {
			return name
		}
	}
	if len(sheets) > 0 {
		return sheets[0]
	}
	return ""
}

type dateStyle int

const (
	noDate dateStyle = iota
	dateOnly
	dateAndTime
	timeOnly
)

type xlsxRows struct {
	book  *excelize.File
	sheet string
	rows  *excelize.Rows
	dated map[int]dateStyle // by style
	at    int
	most  int
	out   [][]byte
}

func (x *xlsxRows) next() ([][]byte, error) {
	if !x.rows.Next() {
		if err := x.rows.Error(); err != nil {
			return nil, &Problem{Code: BadWorkbook, Text: plainReason(err)}
		}
		return nil, io.EOF
	}
	x.at++
	cells, err := x.rows.Columns()
	if err != nil {
		return nil, &Problem{Code: BadWorkbook, Line: x.at, Text: plainReason(err)}
	}
	if len(cells) > MaxColumns {
		return nil, &Problem{Code: TooManyCells, Line: x.at, Wanted: MaxColumns}
	}
	x.out = x.out[:0]
	for i, raw := range cells {
		text, err := x.cell(i+1, raw)
		if err != nil {
			return nil, &Problem{Code: BadWorkbook, Line: x.at, Column: i + 1, Text: plainReason(err)}
		}
		if len(text) > MaxCell {
			return nil, &Problem{Code: LongCell, Line: x.at, Column: i + 1, Wanted: MaxCell}
		}
		x.out = append(x.out, []byte(text))
	}
	x.out = trimRight(x.out)
	if len(x.out) == 0 {
		x.out = append(x.out, nil)
	}
	return x.out, nil
}

func (x *xlsxRows) cell(column int, raw string) (string, error) {
	if raw == "" {
		return "", nil
	}
	name, err := excelize.CoordinatesToCellName(column, x.at)
	if err != nil {
		return "", err
	}
	kind, err := x.book.GetCellType(x.sheet, name)
	if err != nil {
		return "", err
	}
	switch kind {
	case excelize.CellTypeBool:
		return map[string]string{"1": "TRUE", "0": "FALSE"}[raw], nil
	case excelize.CellTypeSharedString, excelize.CellTypeInlineString, excelize.CellTypeFormula, excelize.CellTypeError:
		return raw, nil // the library calls the text that a formula gave a formula
	case excelize.CellTypeDate:
		return isoDate(raw), nil
	}
	number, err := strconv.ParseFloat(raw, 64)
	if err != nil {
		return raw, nil
	}
	style, err := x.style(name)
	if err != nil {
		return "", err
	}
	if style != noDate && number >= 0 && number < 2_958_466 {
		return x.date(number, style)
	}
	return survey.FormatNumber(number), nil
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
	props, err := x.book.GetWorkbookProps()
	if err != nil {
		return "", err
	}
	at, err := excelize.ExcelDateToTime(number, props.Date1904 != nil && *props.Date1904)
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

var quotedFormat = regexp.MustCompile(`"[^"]*"|\\.|\[[^\]]*\]`)

// style tells whether a cell's number format is a date's.
func (x *xlsxRows) style(cell string) (dateStyle, error) {
	id, err := x.book.GetCellStyle(x.sheet, cell)
	if err != nil || id == 0 {
		return noDate, err
	}
	if known, ok := x.dated[id]; ok {
		return known, nil
	}
	s, err := x.book.GetStyle(id)
	if err != nil {
		return noDate, err
	}
	found, custom := noDate, s.CustomNumFmt
	if sheet := x.book.Styles; custom == nil && sheet != nil && sheet.NumFmts != nil {
		for _, f := range sheet.NumFmts.NumFmt { // the library only looks there from 164 on
			if f.NumFmtID == s.NumFmt {
				custom = &f.FormatCode
			}
		}
	}
	switch n := s.NumFmt; {
	case custom != nil:
		code := strings.ToLower(quotedFormat.ReplaceAllString(*custom, ""))
		hasDate, hasTime := strings.ContainsAny(code, "yd"), strings.ContainsAny(code, "hs")
		switch {
		case hasDate && hasTime:
			found = dateAndTime
		case hasDate:
			found = dateOnly
		case hasTime:
			found = timeOnly
		}
	case n >= 14 && n <= 17 || n >= 27 && n <= 36 || n >= 50 && n <= 58:
		found = dateOnly
	case n == 22:
		found = dateAndTime
	case n >= 18 && n <= 21 || n >= 45 && n <= 47:
		found = timeOnly
	}
	x.dated[id] = found
	return found, nil
}

func (x *xlsxRows) place() int    { return x.at }
func (x *xlsxRows) done() float64 { return min(1, float64(x.at)/float64(max(1, x.most))) }
func (x *xlsxRows) close() {
	x.rows.Close()
	x.book.Close()
}
