package export

import (
	"slices"
	"strings"
)

// Spanning is a heading over so many columns; "" is none.
type Spanning struct {
	Text    string `json:"text"`
	Columns int    `json:"columns"`
}

// over are the headings over some columns of the table, line by line: those that lie beside each other under
// one heading share it. The first column has none.
func (t Table) over(columns []int) (out [][]Spanning) {
	for _, line := range t.Over {
		of := []int{-1} // the heading over each column
		for i, s := range line {
			for range s.Columns {
				of = append(of, i)
			}
		}
		var spans []Spanning
		last := -2
		for _, at := range columns {
			here := -1
			if at < len(of) {
				here = of[at]
			}
			if here == last && here >= 0 && line[here].Text != "" {
				spans[len(spans)-1].Columns++
				continue
			}
			one := Spanning{Columns: 1}
			if here >= 0 {
				one.Text = line[here].Text
			}
			spans, last = append(spans, one), here
		}
		out = append(out, spans)
	}
	return out
}

// Spans are the headings over all columns, the first one's among them.
func (t Table) Spans() [][]Spanning {
	all := make([]int, len(t.Head))
	for i := range all {
		all[i] = i
	}
	return t.over(all)
}

// flatHead is the head in one line, for forms that know no headings over others.
func (t Table) flatHead() []string {
	out := slices.Clone(t.Head)
	for i := range out {
		var path []string
		for _, line := range t.over([]int{i}) {
			if line[0].Text != "" {
				path = append(path, line[0].Text)
			}
		}
		out[i] = strings.Join(append(path, out[i]), ": ")
	}
	return out
}
