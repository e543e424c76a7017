package export

import (
	"fmt"
	"io"
	"strconv"
	"strings"
)

// ods writes the tables of a report, a sheet each, numbers as numbers as they are shown.
func (r Report) ods(w io.Writer) error {
	return r.openDocument(w, odsMedia, func(m *markup) {
		m.start("office:automatic-styles")
		m.start("style:style", "style:name", "Head", "style:family", "table-cell")
		m.empty("style:text-properties", "fo:font-weight", "bold")
		m.end()
		tables := r.signed()
		for k, t := range tables {
			for i, n := range t.characters() {
				m.start("style:style", "style:name", fmt.Sprintf("T%dC%d", k+1, i+1), "style:family", "table-column")
				m.empty("style:table-column-properties", "style:column-width", strconv.FormatFloat(0.22*float64(n)+0.3, 'f', 2, 64)+"cm")
				m.end()
			}
		}
		for _, n := range decimalsOf(r.tables()) {
			name := strconv.Itoa(n)
			m.start("number:number-style", "style:name", "N"+name)
			m.empty("number:number", "number:decimal-places", name, "number:min-decimal-places", name, "number:min-integer-digits", "1", "number:grouping", "true")
			m.end()
			m.empty("style:style", "style:name", "D"+name, "style:family", "table-cell", "style:data-style-name", "N"+name)
		}
		m.end()
		m.start("office:body")
		m.start("office:spreadsheet")
		for i, name := range sheetNames(tables) {
			t := tables[i]
			m.start("table:table", "table:name", name)
			for k := range t.Head {
				m.empty("table:table-column", "table:style-name", fmt.Sprintf("T%dC%d", i+1, k+1))
			}
			text := func(style string, cells ...string) {
				m.start("table:table-row")
				for _, c := range cells {
					attributes := []string{"office:value-type", "string"}
					if style != "" {
						attributes = append(attributes, "table:style-name", style)
					}
					m.start("table:table-cell", attributes...)
					m.leaf("text:p", neutral(c))
					m.end()
				}
				m.end()
			}
			text("Head", t.caption())
			text("Head", t.Head...)
			for _, row := range t.Rows {
				m.start("table:table-row")
				for _, c := range row {
					if c.Number == nil {
						m.start("table:table-cell", "office:value-type", "string")
					} else {
						attributes := []string{"office:value-type", "float", "office:value", exact(*c.Number)}
						if c.Decimals >= 0 {
							attributes = append(attributes, "table:style-name", "D"+strconv.Itoa(c.Decimals))
						}
						m.start("table:table-cell", attributes...)
					}
					if c.Number == nil {
						c.Text = neutral(c.Text)
					}
					m.leaf("text:p", c.Text)
					m.end()
				}
				m.end()
			}
			for _, n := range t.Notes {
				text("", n)
			}
			m.end()
		}
	})
}

// decimalsOf lists how many decimals the numbers of tables are shown with.
func decimalsOf(tables []*Table) (out []int) {
	known := map[int]bool{}
	for _, t := range tables {
		for _, row := range t.Rows {
			for _, c := range row {
				if c.Number != nil && c.Decimals >= 0 && !known[c.Decimals] {
					known[c.Decimals] = true
					out = append(out, c.Decimals)
				}
			}
		}
	}
	return out
}

// sheetNames names the sheets by their tables: no longer than 31 characters, without the signs
// that a name may not hold, each once.
func sheetNames(tables []*Table, reserved ...string) []string {
	out, known := make([]string, len(tables)), map[string]bool{}
	for _, name := range reserved {
		known[strings.ToLower(name)] = true
	}
	for i, t := range tables {
		name := strings.Map(func(r rune) rune {
			if strings.ContainsRune(`[]:*?/\'`, r) || r < 0x20 {
				return ' '
			}
			return r
		}, strings.TrimSpace(t.Label+" "+t.Title))
		runes := []rune(strings.Join(strings.Fields(name), " "))
		name = strings.TrimSpace(string(runes[:min(len(runes), 31)]))
		for n := 2; name == "" || known[strings.ToLower(name)]; n++ {
			tail := fmt.Sprintf(" (%d)", n)
			name = string(runes[:min(len(runes), 31-len(tail))]) + tail
		}
		known[strings.ToLower(name)] = true
		out[i] = name
	}
	return out
}
