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
	sheets, filled, err := odsSheets(archive)
	if err != nil {
		return nil, err
	}
	if part == "" {
		part = filled
	}
	o := &odsRows{sheet: part}
	if o.body, o.xml, err = odsContent(archive); err != nil {
		return nil, err
	}
	for {
		start, err := o.element()
		if err != nil {
			o.close()
			return nil, &Problem{Code: NoPart, Text: part}
		}
		if start.Name.Local == "table" && start.Name.Space == tableNS && attribute(start, tableNS, "name") == part {
			return &source{rows: o, parts: sheets, padShort: true}, nil
		}
	}
}

func odsContent(archive *zip.Reader) (io.ReadCloser, *xml.Decoder, error) {
	body, err := archive.Open("content.xml")
	if err != nil {
		return nil, nil, &Problem{Code: BadWorkbook, Text: "it is damaged or protected by a password"}
	}
	d := xml.NewDecoder(io.LimitReader(body, maxUnpacked))
	d.Strict = true
	return body, d, nil
}

// odsSheets lists the sheets and the first that holds two filled rows.
func odsSheets(archive *zip.Reader) (names []string, filled string, err error) {
	body, d, err := odsContent(archive)
	if err != nil {
		return nil, "", err
	}
	defer body.Close()
	rows := &odsRows{xml: d, body: body}
	for {
		start, err := rows.element()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, "", &Problem{Code: BadWorkbook, Text: "it is damaged"}
		}
		if start.Name.Local != "table" || start.Name.Space != tableNS {
			continue
		}
		name := attribute(start, tableNS, "name")
		names = append(names, name)
		if filled != "" {
			if err := d.Skip(); err != nil {
				return nil, "", &Problem{Code: BadWorkbook, Text: "it is damaged"}
			}
			continue
		}
		rows.ended, rows.at, rows.repeat = false, 0, 0
		for n := 0; ; {
			cells, err := rows.next()
			if err != nil {
				break
			}
			if len(cells) > 1 || len(cells[0]) > 0 {
				n++
			}
			if n == 2 {
				filled = name
			}
		}
	}
	if filled == "" && len(names) > 0 {
		filled = names[0]
	}
	return names, filled, nil
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
	return n
}

// Bounds of what repeated rows may grow to.
const (
	mostBlankRows = 10_000
	maxRepeated   = 50_000_000
)

type odsRows struct {
	body   io.ReadCloser
	xml    *xml.Decoder
	sheet  string
	at     int
	row    [][]byte
	repeat int // times that row still stands
	filled int // cells so far
	ended  bool
}

// element returns the next start of an element.
func (o *odsRows) element() (xml.StartElement, error) {
	for {
		t, err := o.xml.Token()
		if err != nil {
			return xml.StartElement{}, err
		}
		if start, ok := t.(xml.StartElement); ok {
			return start, nil
		}
	}
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
	damaged := func(err error) error {
		var p *Problem
		if errors.As(err, &p) {
			return err
		}
		return &Problem{Code: BadWorkbook, Line: o.at + 1, Text: "it is damaged"}
	}
	for {
		t, err := o.xml.Token()
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
	blanks := 0
	for {
		t, err := o.xml.Token()
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
				if err := o.xml.Skip(); err != nil {
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
				blanks += times
				continue
			}
			if len(o.row)+blanks+times > MaxColumns {
				return &Problem{Code: TooManyCells, Line: o.at + 1, Wanted: MaxColumns}
			}
			for ; blanks > 0; blanks-- {
				o.row = append(o.row, nil)
			}
			for range times {
				o.row = append(o.row, []byte(text))
			}
		}
	}
}

// cell reads a cell to its end and gives what it holds.
func (o *odsRows) cell(e xml.StartElement) (string, error) {
	var text strings.Builder
	paragraphs := 0
	for depth := 1; depth > 0; {
		t, err := o.xml.Token()
		if err != nil {
			return "", err
		}
		switch c := t.(type) {
		case xml.StartElement:
			switch {
			case c.Name.Local == "annotation" && c.Name.Space == officeNS:
				if err := o.xml.Skip(); err != nil {
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
func (o *odsRows) done() float64 { return 0.5 }
func (o *odsRows) close()        { o.body.Close() }
