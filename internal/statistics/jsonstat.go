package statistics

import (
	"bytes"
	"encoding/json"
	"io"
	"sort"
	"strconv"
	"strings"
)

// dataset is JSON-stat 2.0 (json-stat.org/full), as far as it is read. What can be large is
// decoded once the head is known to be one that can be.
type dataset struct {
	Class     string                     `json:"class"`
	Label     string                     `json:"label"`
	Source    string                     `json:"source"`
	Updated   string                     `json:"updated"`
	Note      []string                   `json:"note"`
	ID        []string                   `json:"id"`
	Size      []int                      `json:"size"`
	Dimension map[string]json.RawMessage `json:"dimension"`
	Value     json.RawMessage            `json:"value"`
	Status    json.RawMessage            `json:"status"`
	Link      struct {
		Item []json.RawMessage `json:"item"`
	} `json:"link"`
}

type jsonDimension struct {
	Label    string `json:"label"`
	Category struct {
		Index json.RawMessage `json:"index"`
		Label json.RawMessage `json:"label"`
		Child json.RawMessage `json:"child"`
	} `json:"category"`
}

// ParseJSONStat reads a data set of JSON-stat 2.0, or the only one that a collection holds whole.
// Figures keep their digits. What is said twice, or not in any order, is refused: nothing is
// assigned to a category by chance.
func ParseJSONStat(raw []byte) (*Cube, error) {
	var in dataset
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, unreadable("json", "why", err.Error())
	}
	if in.Class == "collection" {
		return in.only()
	}
	switch {
	case in.Class != "dataset":
		return nil, unreadable("class", "class", in.Class)
	case len(in.ID) != len(in.Size):
		return nil, unreadable("sizes", "dimensions", strconv.Itoa(len(in.ID)), "sizes", strconv.Itoa(len(in.Size)))
	}
	if twice := repeatedIn(in.ID); twice != "" {
		return nil, unreadable("dimension_twice", "name", twice)
	}
	if err := checkSizes(in.ID, in.Size); err != nil {
		return nil, err
	}
	if twice, err := keysTwice(raw, "dimension"); err != nil || twice != "" {
		return nil, unreadable("dimension_twice", "name", twice)
	}
	c := &Cube{Title: in.Label, Publisher: in.Source, Updated: in.Updated, Note: strings.Join(in.Note, " ")}
	for i, id := range in.ID {
		of, ok := in.Dimension[id]
		if !ok {
			return nil, unreadable("dimension_lacking", "name", id)
		}
		dim, err := readDimension(id, of, in.Size[i])
		if err != nil {
			return nil, err
		}
		c.Dims = append(c.Dims, dim)
	}
	if err := c.readValues(in.Value); err != nil {
		return nil, err
	}
	return c, c.readStatus(in.Status)
}

// only is the data set of a collection that holds one; of several it names them.
func (in dataset) only() (*Cube, error) {
	var whole []json.RawMessage
	var names []string
	for _, item := range in.Link.Item {
		var head struct {
			Class, Label, Href string
			ID                 []string
		}
		if json.Unmarshal(item, &head) != nil || head.Class != "dataset" {
			continue
		}
		if head.ID != nil {
			whole = append(whole, item)
		}
		if head.Label == "" {
			head.Label = head.Href
		}
		names = append(names, head.Label)
	}
	const most = 8
	if len(names) > most {
		names = append(names[:most], "…")
	}
	switch {
	case len(whole) == 1:
		return ParseJSONStat(whole[0])
	case len(names) == 0:
		return nil, unreadable("collection_empty")
	}
	return nil, unreadable("collection", "names", strings.Join(names, "; "))
}

// readDimension reads a dimension of so many categories.
func readDimension(id string, raw json.RawMessage, size int) (Dim, error) {
	var in jsonDimension
	if err := json.Unmarshal(raw, &in); err != nil {
		return Dim{}, unreadable("json", "why", err.Error())
	}
	dim := Dim{ID: id, Label: in.Label}
	if dim.Label == "" {
		dim.Label = id
	}
	labels, err := in.labels(id, size)
	if err != nil {
		return dim, err
	}
	codes, err := in.codes(id, size, labels)
	if err != nil {
		return dim, err
	}
	if len(codes) != size {
		return dim, unreadable("categories", "name", id, "found", strconv.Itoa(len(codes)), "wanted", strconv.Itoa(size))
	}
	if twice := repeatedIn(codes); twice != "" {
		return dim, unreadable("code_twice", "name", id, "code", twice)
	}
	var children map[string][]string
	if len(in.Category.Child) > 0 {
		if err := json.Unmarshal(in.Category.Child, &children); err != nil {
			return dim, unreadable("json", "why", err.Error())
		}
	}
	for _, code := range codes {
		label := labels[code]
		if label == "" {
			label = code
		}
		dim.Categories = append(dim.Categories, Category{Code: code, Label: label, Parent: len(children[code]) > 0})
	}
	return dim, nil
}

// labels are those of the categories by code, of which there are at most as many as categories.
func (d jsonDimension) labels(id string, size int) (map[string]string, error) {
	out := map[string]string{}
	err := members(d.Category.Label, func(code string, dec *json.Decoder) error {
		var label string
		if err := dec.Decode(&label); err != nil {
			return unreadable("json", "why", err.Error())
		}
		if _, twice := out[code]; twice {
			return unreadable("code_twice", "name", id, "code", code)
		}
		if out[code] = label; len(out) > size {
			return unreadable("categories", "name", id, "found", strconv.Itoa(len(out)), "wanted", strconv.Itoa(size))
		}
		return nil
	})
	return out, err
}

// codes are the categories in their order: a list, an object of places, or, of a single category
// alone, its label.
func (d jsonDimension) codes(id string, size int, labels map[string]string) (out []string, err error) {
	raw := bytes.TrimSpace(d.Category.Index)
	switch {
	case len(raw) == 0 && size > 1:
		return nil, unreadable("no_order", "name", id, "n", strconv.Itoa(size))
	case len(raw) == 0:
		for code := range labels {
			out = append(out, code)
		}
		return out, nil
	case raw[0] == '[':
		if err := json.Unmarshal(raw, &out); err != nil {
			return nil, unreadable("json", "why", err.Error())
		}
		return out, nil
	}
	places := map[string]int{}
	err = members(raw, func(code string, dec *json.Decoder) error {
		var at int
		if err := dec.Decode(&at); err != nil {
			return unreadable("json", "why", err.Error())
		}
		if _, twice := places[code]; twice {
			return unreadable("code_twice", "name", id, "code", code)
		}
		places[code] = at
		if out = append(out, code); len(out) > size {
			return unreadable("categories", "name", id, "found", strconv.Itoa(len(out)), "wanted", strconv.Itoa(size))
		}
		return nil
	})
	sort.Slice(out, func(i, j int) bool { return places[out[i]] < places[out[j]] })
	for i, code := range out {
		if places[code] != i {
			return nil, unreadable("places", "name", id)
		}
	}
	return out, err
}

// members goes through the members of an object, each of which tell has to decode; nothing is
// none.
func members(raw json.RawMessage, tell func(key string, dec *json.Decoder) error) error {
	if len(bytes.TrimSpace(raw)) == 0 {
		return nil
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	if first, err := dec.Token(); err != nil || first != json.Delim('{') {
		return unreadable("json", "why", "an object was expected")
	}
	for dec.More() {
		key, err := dec.Token()
		if err != nil {
			return unreadable("json", "why", err.Error())
		}
		if err := tell(key.(string), dec); err != nil {
			return err
		}
	}
	return nil
}

// keysTwice finds a key that an object, a member of the document, has twice; "" for none.
func keysTwice(raw []byte, member string) (twice string, err error) {
	err = members(raw, func(key string, dec *json.Decoder) error {
		var value json.RawMessage
		if err := dec.Decode(&value); err != nil || key != member {
			return err
		}
		seen := map[string]bool{}
		return members(value, func(key string, dec *json.Decoder) error {
			if seen[key] {
				twice = key
			}
			seen[key] = true
			var skipped json.RawMessage
			return dec.Decode(&skipped)
		})
	})
	return twice, err
}

// repeatedIn gives the first text that a list holds twice; "" for none.
func repeatedIn(list []string) string {
	seen := map[string]bool{}
	for _, s := range list {
		if seen[s] {
			return s
		}
		seen[s] = true
	}
	return ""
}

// readValues reads the figures: a list of one for each cell, or an object by place.
func (c *Cube) readValues(raw json.RawMessage) error {
	cells := c.cells()
	c.values = make([]string, cells)
	n := 0
	return c.eachValue(raw, func(at int, dec *json.Decoder) error {
		var figure *json.Number
		switch err := dec.Decode(&figure); {
		case err != nil:
			return unreadable("json", "why", err.Error())
		case at >= cells:
			return unreadable("figures", "wanted", strconv.Itoa(cells))
		case c.values[at] != "":
			return unreadable("figure_twice", "place", strconv.Itoa(at))
		case figure != nil:
			c.values[at] = figure.String()
		}
		n++
		return nil
	}, func() error {
		if n != cells {
			return unreadable("figures", "wanted", strconv.Itoa(cells))
		}
		return nil
	})
}

// readStatus reads what is said of the figures: of all the same, a list, or an object by place.
func (c *Cube) readStatus(raw json.RawMessage) error {
	c.status = map[int]string{}
	raw = bytes.TrimSpace(raw)
	if len(raw) == 0 || string(raw) == "null" {
		return nil
	}
	if raw[0] == '"' {
		return json.Unmarshal(raw, &c.allStatus)
	}
	return c.eachValue(raw, func(at int, dec *json.Decoder) error {
		var status *string
		switch err := dec.Decode(&status); {
		case err != nil:
			return unreadable("json", "why", err.Error())
		case at < len(c.values) && status != nil && *status != "":
			c.status[at] = *status
		}
		return nil
	}, func() error { return nil })
}

// eachValue goes through a list or an object by place; atEnd is told the end of a list.
func (c *Cube) eachValue(raw json.RawMessage, tell func(at int, dec *json.Decoder) error, atEnd func() error) error {
	if raw = bytes.TrimSpace(raw); len(raw) == 0 || raw[0] != '[' {
		return members(raw, func(place string, dec *json.Decoder) error {
			at, err := strconv.Atoi(place)
			if err != nil || at < 0 {
				return unreadable("place", "text", place)
			}
			return tell(at, dec)
		})
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	if _, err := dec.Token(); err != nil {
		return unreadable("json", "why", err.Error())
	}
	for at := 0; dec.More(); at++ {
		if err := tell(at, dec); err != nil {
			return err
		}
	}
	if _, err := dec.Token(); err != nil && err != io.EOF {
		return unreadable("json", "why", err.Error())
	}
	return atEnd()
}
