package intake

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"io"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// The namespaces of OpenDocument 1.2 that matter here.
const (
	tableNS  = "urn:oasis:names:tc:opendocument:xmlns:table:1.0"
	officeNS = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"
	textNS   = "urn:oasis:names:tc:opendocument:xmlns:text:1.0"
)

// openODS opens a sheet of an OpenDocument spreadsheet; "" is the first one that
// holds anything. It streams the sheet from its XML, since there is no established
// library for it. Cells come as in openXLSX.
func openODS(f File, part string) (*source, error) {
	if f.Size > maxWorkbook {
		return nil, &Problem{Code: BadWorkbook, Text: "it is too large"}
	}
	archive, err := zip.NewReader(f.R, f.Size)
	if err != nil {
		return nil, &Problem{Code: BadWorkbook, Text: "it is damaged"}
	}
	if part == "" {
		if part, err = odsFirstFilled(archive, workbookMost(f.Size)); err != nil {
			return nil, asProblem(err, 0)
		}
	}
	o, err := odsContent(archive, workbookMost(f.Size))
	if err != nil {
		return nil, asProblem(err, 0)
	}
	for {
		name, err := o.sheet()
		if err != nil {
			o.close()
			if errors.Is(err, io.EOF) {
				return nil, &Problem{Code: NoPart, Text: part}
			}
			return nil, asProblem(err, 0)
		}
		if name == part {
			return &source{rows: o, part: part, parts: o.allNames, padShort: true}, nil
		}
		if err := o.xml.skip(); err != nil {
			o.close()
			return nil, asProblem(err, 0)
		}
	}
}

func odsContent(archive *zip.Reader, most int64) (*odsRows, error) {
	body, size, err := openMember(archive, "content.xml", most)
	if err != nil {
		return nil, err
	}
	read := &counting{r: body}
	return &odsRows{body: body, in: read, size: size, xml: newXMLReader(read, false)}, nil
}

// odsFirstFilled names the first sheet that holds two filled rows, or the first.
func odsFirstFilled(archive *zip.Reader, most int64) (string, error) {
	o, err := odsContent(archive, most)
	if err != nil {
		return "", err
	}
	defer o.close()
	for {
		name, err := o.sheet()
		if errors.Is(err, io.EOF) && len(o.names) > 0 {
			return o.names[0], nil
		}
		if err != nil {
			return "", err
		}
		o.ended, o.at, o.repeat, o.filled = false, 0, 0, 0
		if holdsTwoRows(o) {
			return name, nil
		}
		if !o.ended { // a row that cannot be read is said when the sheet is
			return name, nil
		}
	}
}

// sheet finds the next sheet and notes its name.
func (o *odsRows) sheet() (string, error) {
	for {
		e, err := o.xml.start()
		if err != nil {
			return "", err
		}
		if e.Name.Local == "table" && e.Name.Space == tableNS {
			name := attribute(e, tableNS, "name")
			if len(o.names) < mostSheets {
				o.names = append(o.names, name)
			}
			return name, nil
		}
	}
}

// allNames lists the sheets, for which it runs through the rest of the file.
func (o *odsRows) allNames() []string {
	for {
		if _, err := o.sheet(); err != nil || o.xml.skip() != nil {
			return o.names
		}
	}
}

func attribute(e xml.StartElement, space, name string) string {
	for _, a := range e.Attr {
		if a.Name.Space == space && a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// repeated reads how often a row or cell stands, at least once.
func repeated(e xml.StartElement, name string) int {
	n, err := strconv.Atoi(attribute(e, tableNS, name))
	if err != nil || n < 1 {
		return 1
	}
	return min(n, maxRepeated)
}

// Bounds of what repeated rows may grow to.
const (
	mostBlankRows = 10_000
	maxRepeated   = 50_000_000
)

type odsRows struct {
	body   io.ReadCloser
	in     *counting
	size   int64
	xml    *xmlReader
	names  []string // of the sheets met so far
	at     int
	row    [][]byte
	repeat int // times that row still stands
	filled int // cells so far
	ended  bool
}

func (o *odsRows) next() ([][]byte, error) {
	for o.repeat == 0 {
		if o.ended {
			return nil, io.EOF
		}
		if err := o.read(); err != nil {
			return nil, err
		}
	}
	o.repeat--
	o.at++
	out := make([][]byte, len(o.row)) // the caller may shorten its own
	copy(out, o.row)
	return out, nil
}

// read takes the next row of the sheet, or notes its end.
func (o *odsRows) read() error {
	damaged := func(err error) error { return asProblem(err, o.at+1) }
	for {
		t, err := o.xml.token()
		if err != nil {
			return damaged(err)
		}
		switch e := t.(type) {
		case xml.EndElement:
			if e.Name.Local == "table" && e.Name.Space == tableNS {
				o.ended = true
				return nil
			}
		case xml.StartElement:
			if e.Name.Local != "table-row" || e.Name.Space != tableNS {
				continue
			}
			if err := o.cells(); err != nil {
				return damaged(err)
			}
			o.repeat = repeated(e, "number-rows-repeated")
			switch {
			case len(o.row) == 1 && len(o.row[0]) == 0:
				o.repeat = min(o.repeat, mostBlankRows) // more are the empty rest of the sheet
			case o.filled > maxRepeated/o.repeat/len(o.row):
				return &Problem{Code: TooManyRows, Line: o.at + 1, Wanted: maxRepeated}
			default:
				o.filled += o.repeat * len(o.row)
			}
			return nil
		}
	}
}

// cells reads the cells of a row up to its end. Empty cells at its end are dropped.
func (o *odsRows) cells() error {
	o.row = nil
	blanks, bytes := 0, 0
	for {
		t, err := o.xml.token()
		if err != nil {
			return err
		}
		switch e := t.(type) {
		case xml.EndElement:
			if e.Name.Local == "table-row" {
				if len(o.row) == 0 {
					o.row = [][]byte{nil}
				}
				return nil
			}
		case xml.StartElement:
			if e.Name.Local != "table-cell" && e.Name.Local != "covered-table-cell" {
				if err := o.xml.skip(); err != nil {
					return err
				}
				continue
			}
			text, err := o.cell(e)
			if err != nil {
				return err
			}
			times := repeated(e, "number-columns-repeated")
			if text == "" {
				blanks = min(blanks+times, maxRepeated)
				continue
			}
			if len(o.row)+blanks+times > MaxColumns {
				return &Problem{Code: TooManyCells, Line: o.at + 1, Wanted: MaxColumns}
			}
			if bytes += times * len(text); bytes > mostRowBytes {
				return errXMLBounds
			}
			for ; blanks > 0; blanks-- {
				o.row = append(o.row, nil)
			}
			cell := []byte(text)
			for range times {
				o.row = append(o.row, cell)
			}
		}
	}
}

// cell reads a cell to its end and gives what it holds.
func (o *odsRows) cell(e xml.StartElement) (string, error) {
	var text strings.Builder
	paragraphs := 0
	for depth := 1; depth > 0; {
		t, err := o.xml.token()
		if err != nil {
			return "", err
		}
		switch c := t.(type) {
		case xml.StartElement:
			switch {
			case c.Name.Local == "annotation" && c.Name.Space == officeNS:
				if err := o.xml.skip(); err != nil {
					return "", err
				}
				continue
			case c.Name.Local == "p" && c.Name.Space == textNS:
				if paragraphs > 0 {
					text.WriteByte('\n')
				}
				paragraphs++
			case c.Name.Local == "s" && c.Name.Space == textNS:
				n, _ := strconv.Atoi(attribute(c, textNS, "c"))
				text.WriteString(strings.Repeat(" ", min(max(1, n), 1000)))
			case c.Name.Local == "tab" && c.Name.Space == textNS:
				text.WriteByte('\t')
			case c.Name.Local == "line-break" && c.Name.Space == textNS:
				text.WriteByte('\n')
			}
			depth++
		case xml.EndElement:
			depth--
		case xml.CharData:
			if paragraphs > 0 {
				text.Write(c)
			}
		}
		if text.Len() > MaxCell {
			return "", &Problem{Code: LongCell, Line: o.at + 1, Wanted: MaxCell}
		}
	}
	switch attribute(e, officeNS, "value-type") {
	case "float", "percentage", "currency":
		if x, err := strconv.ParseFloat(attribute(e, officeNS, "value"), 64); err == nil {
			return survey.FormatNumber(x), nil
		}
	case "date":
		return isoDate(attribute(e, officeNS, "date-value")), nil
	case "boolean":
		return strings.ToUpper(attribute(e, officeNS, "boolean-value")), nil
	}
	return text.String(), nil
}

func (o *odsRows) place() int    { return o.at }
func (o *odsRows) done() float64 { return min(1, float64(o.in.n)/float64(max(1, o.size))) }
func (o *odsRows) close()        { o.body.Close() }
