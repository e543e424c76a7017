package statistics

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"math/big"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Columns of SDMX-CSV (SDMX 2.1 and 3.0) that are no dimensions: what the table is called, its
// figures, by what power of ten these are multiplied, what is said of each, and what a row is of.
const (
	nameColumn   = "STRUCTURE_NAME"
	valueColumn  = "OBS_VALUE"
	powerColumn  = "UNIT_MULT"
	statusColumn = "OBS_STATUS"
)

var besides = []string{"DATAFLOW", "LAST UPDATE", "STRUCTURE", "STRUCTURE_ID", nameColumn, "ACTION", "SERIES_KEY", "OBS_KEY", powerColumn, statusColumn, "OBS_FLAG", "CONF_STATUS", "COMMENT_OBS", "DECIMALS"}

// idName is how the columns of SDMX-CSV are called; a column called otherwise holds the names of
// the codes in the one before it, where labels are given in columns of their own.
var idName = regexp.MustCompile(`^([A-Z][A-Z0-9_]*|[a-z][a-z0-9_]*)$`)

// sdmxHead is what the columns of a file hold; −1 for none.
type sdmxHead struct {
	value, title, power, status int
	// dims are the columns of the dimensions, labels those with the names of their codes.
	dims, labels []int
}

func readHead(head []string) (h sdmxHead, dims []Dim) {
	find := func(id string) int {
		return slices.IndexFunc(head, func(text string) bool { code, _ := parted(text); return code == id })
	}
	h = sdmxHead{value: find(valueColumn), title: find(nameColumn), power: find(powerColumn), status: find(statusColumn)}
	for i, text := range head {
		id, label := parted(text)
		last := len(h.dims) - 1
		switch before := i - 1; {
		case i == h.value || slices.Contains(besides, id):
		case i > 0 && !idName.MatchString(id) && id == label && idName.MatchString(firstPart(head[before])):
			if last >= 0 && h.dims[last] == before {
				h.labels[last], dims[last].Label = i, text
			} // else the name of an attribute
		default:
			h.dims, h.labels, dims = append(h.dims, i), append(h.labels, -1), append(dims, Dim{ID: id, Label: label})
		}
	}
	return h, dims
}

func firstPart(s string) string { code, _ := parted(s); return code }

// ParseSDMXCSV reads SDMX-CSV: a column for each dimension and one with the figures. A name
// such as "F: Female" is read as its code and its label; a column behind a dimension's that is not
// called as these are holds the labels of its codes (SDMX-CSV 2.0). Figures are multiplied by the
// power of ten that a row names.
func ParseSDMXCSV(raw []byte) (*Cube, error) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(raw, []byte("\ufeff"))))
	r.ReuseRecord = true
	if first, _, _ := bytes.Cut(raw, []byte("\n")); bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		r.Comma = ';'
	}
	first, err := r.Read()
	if err != nil {
		return nil, unreadable("csv", "why", err.Error())
	}
	head, dims := readHead(slices.Clone(first))
	if head.value < 0 {
		return nil, unreadable("no_values")
	}
	c := &Cube{Dims: dims, status: map[int]string{}}
	places := make([]map[string]int, len(dims))
	for k := range places {
		places[k] = map[string]int{}
	}
	var at []uint16 // the categories of each row, one behind the other
	var figures, statuses []string
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, unreadable("csv", "why", err.Error())
		}
		figure := strings.TrimSpace(row[head.value])
		if head.power >= 0 && figure != "" {
			if figure, err = multiplied(figure, firstPart(row[head.power])); err != nil {
				return nil, err
			}
		}
		if head.title >= 0 && c.Title == "" {
			c.Title = strings.TrimSpace(row[head.title])
		}
		status := ""
		if head.status >= 0 {
			status = firstPart(row[head.status])
		}
		figures, statuses = append(figures, strings.Clone(figure)), append(statuses, strings.Clone(status))
		for k, i := range head.dims {
			code, label := parted(row[i])
			if head.labels[k] >= 0 {
				label = strings.TrimSpace(row[head.labels[k]])
			}
			place, known := places[k][code]
			if !known {
				if place = len(c.Dims[k].Categories); place >= maxPerDim {
					return nil, unreadable("size", "name", c.Dims[k].ID, "n", strconv.Itoa(place+1), "most", strconv.Itoa(maxPerDim))
				}
				code = strings.Clone(code)
				places[k][code] = place
				c.Dims[k].Categories = append(c.Dims[k].Categories, Category{Code: code, Label: strings.Clone(label)})
			}
			at = append(at, uint16(place))
		}
	}
	ids, sizes := make([]string, len(dims)), make([]int, len(dims))
	for i, d := range c.Dims {
		ids[i], sizes[i] = d.ID, len(d.Categories)
	}
	if err := checkSizes(ids, sizes); err != nil {
		return nil, err
	}
	return c, c.place(at, figures, statuses)
}

// place puts the figures of the rows where they belong.
func (c *Cube) place(at []uint16, figures, statuses []string) error {
	c.values = make([]string, c.cells())
	for i, figure := range figures {
		place := 0
		for k, d := range c.Dims {
			place = place*len(d.Categories) + int(at[i*len(c.Dims)+k])
		}
		if c.values[place] != "" && c.values[place] != figure {
			return unreadable("row_twice", "row", strconv.Itoa(i+2))
		}
		if c.values[place] = figure; statuses[i] != "" && statuses[i] != usualStatus {
			c.status[place] = statuses[i]
		}
	}
	return nil
}

// usualStatus is that of a figure of which nothing is said, by the cross-domain code list of SDMX.
const usualStatus = "A"

// multiplied is a figure times a power of ten, digit by digit.
func multiplied(figure, power string) (string, error) {
	if power == "" || power == "0" {
		return figure, nil
	}
	const most = 15
	n, err := strconv.Atoi(power)
	x, ok := new(big.Rat).SetString(figure)
	if err != nil || n < -most || n > most || !ok {
		return "", unreadable("power", "text", power)
	}
	factor := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(max(n, -n))), nil))
	if n < 0 {
		factor.Inv(factor)
	}
	text := x.Mul(x, factor).FloatString(most + 15)
	return strings.TrimSuffix(strings.TrimRight(text, "0"), "."), nil
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
