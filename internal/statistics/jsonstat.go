package statistics

import (
	"bytes"
	"encoding/json"
	"sort"
	"strconv"
)

// dataset is JSON-stat 2.0 (json-stat.org/full), as far as it is read.
type dataset struct {
	Version   string                     `json:"version"`
	Class     string                     `json:"class"`
	Label     string                     `json:"label"`
	Source    string                     `json:"source"`
	Updated   string                     `json:"updated"`
	Note      []string                   `json:"note"`
	ID        []string                   `json:"id"`
	Size      []int                      `json:"size"`
	Dimension map[string]jsonDimension   `json:"dimension"`
	Value     json.RawMessage            `json:"value"`
	Extension map[string]json.RawMessage `json:"extension"`
}

type jsonDimension struct {
	Label    string `json:"label"`
	Category struct {
		Index json.RawMessage   `json:"index"`
		Label map[string]string `json:"label"`
	} `json:"category"`
}

// ParseJSONStat reads a data set of JSON-stat 2.0. Figures keep their digits.
func ParseJSONStat(raw []byte) (*Cube, error) {
	var in dataset
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, unreadable("%s", err)
	}
	switch {
	case in.Class != "dataset":
		return nil, unreadable("its class is %q, not “dataset”", in.Class)
	case len(in.ID) != len(in.Size):
		return nil, unreadable("it names %d dimensions and %d sizes", len(in.ID), len(in.Size))
	}
	c := &Cube{Title: in.Label, Publisher: in.Source, Updated: in.Updated, values: map[int]string{}}
	for _, n := range in.Note {
		c.Note += n + " "
	}
	for i, id := range in.ID {
		d, ok := in.Dimension[id]
		if !ok {
			return nil, unreadable("the dimension %q is not described", id)
		}
		dim := Dim{ID: id, Label: d.Label}
		if dim.Label == "" {
			dim.Label = id
		}
		codes, err := d.codes()
		if err != nil || len(codes) != in.Size[i] {
			return nil, unreadable("the dimension %q has %d categories, and %d are announced", id, len(codes), in.Size[i])
		}
		for _, code := range codes {
			label := d.Category.Label[code]
			if label == "" {
				label = code
			}
			dim.Categories = append(dim.Categories, Category{code, label})
		}
		c.Dims = append(c.Dims, dim)
	}
	if err := c.check(); err != nil {
		return nil, err
	}
	return c, c.readValues(in.Value)
}

// codes are the categories in their order: a list, an object of places, or, of a single one, its
// label alone.
func (d jsonDimension) codes() (out []string, err error) {
	raw := bytes.TrimSpace(d.Category.Index)
	switch {
	case len(raw) == 0:
		for code := range d.Category.Label {
			out = append(out, code)
		}
		return out, nil
	case raw[0] == '[':
		return out, json.Unmarshal(raw, &out)
	}
	var places map[string]int
	if err := json.Unmarshal(raw, &places); err != nil {
		return nil, err
	}
	for code := range places {
		out = append(out, code)
	}
	sort.Slice(out, func(i, j int) bool { return places[out[i]] < places[out[j]] })
	for i, code := range out {
		if places[code] != i {
			return nil, unreadable("its places have gaps")
		}
	}
	return out, nil
}

// readValues reads the figures: a list, or an object by place.
func (c *Cube) readValues(raw json.RawMessage) error {
	put := func(at int, n *json.Number) {
		if n != nil && *n != "" {
			c.values[at] = n.String()
		}
	}
	if raw = bytes.TrimSpace(raw); len(raw) > 0 && raw[0] == '[' {
		var list []*json.Number
		if err := json.Unmarshal(raw, &list); err != nil {
			return unreadable("%s", err)
		}
		for i, n := range list {
			put(i, n)
		}
		return nil
	}
	var sparse map[string]*json.Number
	if err := json.Unmarshal(raw, &sparse); err != nil {
		return unreadable("%s", err)
	}
	for place, n := range sparse {
		at, err := strconv.Atoi(place)
		if err != nil || at < 0 {
			return unreadable("a figure stands at %q", place)
		}
		put(at, n)
	}
	return nil
}
