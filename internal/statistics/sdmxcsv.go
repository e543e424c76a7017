package statistics

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strings"
)

// nameColumn says what the table is called; valueColumn holds the figures of SDMX-CSV (SDMX 2.1 and 3.0); besides say what a row is of.
const (
	nameColumn  = "STRUCTURE_NAME"
	valueColumn = "OBS_VALUE"
)

var besides = []string{"DATAFLOW", "STRUCTURE", "STRUCTURE_ID", nameColumn, "ACTION", "OBS_STATUS", "OBS_FLAG", "CONF_STATUS", "COMMENT_OBS", "DECIMALS"}

// ParseSDMXCSV reads SDMX-CSV: a column for each dimension and one with the figures. A name
// such as "F: Female" is read as its code and its label.
func ParseSDMXCSV(raw []byte) (*Cube, error) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(raw, []byte("\ufeff"))))
	r.ReuseRecord = false
	if first, _, _ := bytes.Cut(raw, []byte("\n")); bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		r.Comma = ';'
	}
	head, err := r.Read()
	if err != nil {
		return nil, unreadable("%s", err)
	}
	value := slices.IndexFunc(head, func(h string) bool { id, _ := parted(h); return id == valueColumn })
	if value < 0 {
		return nil, unreadable("it has no column OBS_VALUE")
	}
	title := slices.IndexFunc(head, func(h string) bool { id, _ := parted(h); return id == nameColumn })
	c := &Cube{values: map[int]string{}}
	var columns []int
	for i, h := range head {
		id, label := parted(h)
		if i == value || slices.Contains(besides, id) {
			continue
		}
		columns, c.Dims = append(columns, i), append(c.Dims, Dim{ID: id, Label: label})
	}
	places := make([]map[string]int, len(columns))
	for k := range places {
		places[k] = map[string]int{}
	}
	type cell struct {
		at     []int
		figure string
	}
	var cells []cell
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, unreadable("%s", err)
		}
		one := cell{figure: strings.TrimSpace(row[value])}
		if title >= 0 {
			c.Title = strings.TrimSpace(row[title])
		}
		for k, i := range columns {
			code, label := parted(row[i])
			at, known := places[k][code]
			if !known {
				at = len(c.Dims[k].Categories)
				if at >= maxPerDim {
					return nil, unreadable("the column %q has too many different values", c.Dims[k].ID)
				}
				places[k][code] = at
				c.Dims[k].Categories = append(c.Dims[k].Categories, Category{code, label})
			}
			one.at = append(one.at, at)
		}
		cells = append(cells, one)
	}
	if err := c.check(); err != nil {
		return nil, err
	}
	for _, one := range cells {
		place := 0
		for k, at := range one.at {
			place = place*len(c.Dims[k].Categories) + at
		}
		if c.values[place] != "" && c.values[place] != one.figure {
			return nil, unreadable("two rows give the same cell different figures")
		}
		c.values[place] = one.figure
	}
	return c, nil
}

// parted reads "F: Female" as a code and its label.
func parted(s string) (code, label string) {
	s = strings.TrimSpace(s)
	if code, label, found := strings.Cut(s, ": "); found {
		return strings.TrimSpace(code), strings.TrimSpace(label)
	}
	return s, s
}

// Parse reads either form, by how it begins.
func Parse(raw []byte) (*Cube, error) {
	if trimmed := bytes.TrimSpace(bytes.TrimPrefix(raw, []byte("\ufeff"))); len(trimmed) > 0 && trimmed[0] == '{' {
		return ParseJSONStat(trimmed)
	}
	return ParseSDMXCSV(raw)
}
