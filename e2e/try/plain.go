package main

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// settings are how a file was read, as far as they bear on who counts it plainly.
type settings struct {
	Encoding  string `json:"encoding"`
	Delimiter string `json:"delimiter"`
	HeaderRow int    `json:"headerRow"`
	LastRow   string `json:"lastRow"`
}

// plainly reads a file of respondents with the standard library alone: the names of its columns
// and its rows. A byte-order mark and a first line that names the delimiter
// are no cells.
func plainly(raw []byte, s settings) (names []string, rows [][]string, err error) {
	coding := map[string]encoding.Encoding{"utf-8": unicode.UTF8BOM, "windows-1252": charmap.Windows1252, "utf-16le": unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), "utf-16be": unicode.UTF16(unicode.BigEndian, unicode.UseBOM)}[s.Encoding]
	if coding == nil || len(s.Delimiter) != 1 {
		return nil, nil, fmt.Errorf("%s with %q between the cells is not counted here", s.Encoding, s.Delimiter)
	}
	text, err := coding.NewDecoder().Bytes(raw)
	if err != nil {
		return nil, nil, err
	}
	text = bytes.ReplaceAll(text, []byte("\r\n"), []byte("\n"))
	text = bytes.ReplaceAll(text, []byte("\r"), []byte("\n"))
	r := csv.NewReader(bytes.NewReader(text))
	r.Comma, r.FieldsPerRecord = rune(s.Delimiter[0]), -1
	width := 0
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, err
		}
		line, _ := r.FieldPos(0)
		switch {
		case line < s.HeaderRow || line == 1 && len(cells) > 0 && strings.HasPrefix(strings.ToLower(cells[0]), "sep="):
			continue
		case line == s.HeaderRow:
			names = cells
		default:
			rows = append(rows, cells)
		}
		width = max(width, len(cells))
	}
	if s.LastRow == "total" && len(rows) > 0 {
		rows = rows[:len(rows)-1]
	}
	for len(names) < width {
		names = append(names, "")
	}
	return names, rows, nil
}

// cell is what stands in a row.
func cell(row []string, i int) string {
	if i >= len(row) {
		return ""
	}
	return plain(row[i])
}

// plain is a text without the blanks about it, on one line.
func plain(text string) string { return strings.Join(strings.Fields(text), " ") }

// tally counts a column.
func tally(rows [][]string, i int) map[string]int {
	out := map[string]int{}
	for _, row := range rows {
		out[cell(row, i)]++
	}
	return out
}

// cross counts two columns together, of the rows that have both.
func cross(rows [][]string, a, b int) map[[2]string]int {
	out := map[[2]string]int{}
	for _, row := range rows {
		out[[2]string{cell(row, a), cell(row, b)}]++
	}
	return out
}
