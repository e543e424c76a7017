package export

import (
	"encoding/csv"
	"encoding/json"
	"html/template"
	"io"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Table is a table as it leaves: with all that a reader needs who did not make it.
type Table struct {
	Title string `json:"title"`
	// Number counts the tables of a report from 1, and Label says it, as in “Table 3”; 0 for one
	// that leaves alone.
	Number int    `json:"number,omitempty"`
	Label  string `json:"label,omitempty"`
	// Notes are lines on the base, the subgroup, the shares shown, the study and the date.
	Notes []string `json:"notes"`
	Head  []string `json:"head"`
	// Over are headings over several columns but the first, line by line from the top.
	Over [][]Spanning `json:"over,omitempty"`
	Rows [][]Cell     `json:"rows"`
	// Foot is how many rows at the end are totals.
	Foot int `json:"foot,omitempty"`
	// Words says of each column whether it holds words, so that who shows it need not find out; it is told as
	// the table is written as JSON.
	Words []bool `json:"words"`
	// Figures are all of it one by one, for who computes on.
	Figures []Figure `json:"-"`
}

// Figure is one figure of a table with all that tells what it is.
type Figure struct {
	Row, Column string
	// What says what it is where a cell holds several, such as “expected”; "" for the only one.
	What   string
	Text   string
	Number *float64
	// Base is the number of respondents of whom a percent is; nil for what is none.
	Base *float64
	// Weight names the weights by which it is estimated; "" for what counts respondents.
	Weight string
}

// Mark is the sign of a mark.
func Mark[M ~string](mark M) string { return strings.TrimSpace(marks[string(mark)]) }

// Cell is text as it is shown, and the number behind it where there is one.
type Cell struct {
	Text   string   `json:"text"`
	Number *float64 `json:"number,omitempty"`
	// Decimals is how many of the number are shown; −1 for as many as it takes.
	Decimals int `json:"decimals,omitempty"`
	// Format says how the number is shown where that is not plain.
	Format Format `json:"format,omitempty"`
	// Mark says that the cell stands out: “more” or “fewer”.
	Mark string `json:"mark,omitempty"`
	// Above are the letters of the columns over which it stands out, and Few says that it rests on few
	// respondents, so that it stands in brackets.
	Above string `json:"above,omitempty"`
	Few   bool   `json:"few,omitempty"`
	// Shown is the text with its mark, letters and brackets where there are any; it is told as the cell is written as JSON.
	Shown string `json:"shown,omitempty"`
}

// Format is how a number is shown.
type Format string

// The formats: a plain number is one of so many decimals.
const (
	PlainNumber Format = ""
	PValue      Format = "p"
	PercentSign Format = "percent" // 49.5 stands for 49.5 %
	Signed      Format = "signed"
)

// DotsPerPixel is how many dots of a picture stand for a CSS pixel: fine enough for print.
const DotsPerPixel = 2.5

// marks are what stands behind a figure that stands out.
var marks = map[string]string{"more": " ↑", "fewer": " ↓"}

func (c Cell) shown() string {
	text := c.Text
	if c.Few && text != "" {
		text = "[" + text + "]"
	}
	if c.Above != "" {
		text += "\u00a0" + c.Above
	}
	return text + marks[c.Mark]
}

// Column is one column as it is shown, rounding included, a line each with its heading first.
// What a spreadsheet would run is neutralised.
func (t Table) Column(at int) string {
	var out strings.Builder
	line := func(text string) { out.WriteString(neutral(text) + "\n") }
	line(t.flatHead()[at])
	for _, row := range t.Rows {
		switch {
		case at >= len(row):
			line("")
		case row[at].Number != nil:
			out.WriteString(row[at].Text + "\n")
		default:
			line(row[at].Text)
		}
	}
	return out.String()
}

// TableForm is a form in which a table leaves.
type TableForm string

// The forms: for the clipboard a table and its text, for files two kinds.
const (
	HTMLTable TableForm = "html"
	TSVTable  TableForm = "tsv"
	CSVTable  TableForm = "csv"
	XLSXTable TableForm = "xlsx"
)

// MediaType is that of the form; "" for a form that does not exist.
func (f TableForm) MediaType() string {
	return map[TableForm]string{HTMLTable: "text/html; charset=utf-8", TSVTable: "text/tab-separated-values; charset=utf-8", CSVTable: "text/csv; charset=utf-8",
		XLSXTable: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}[f]
}

// Write writes the table. In HTML figures stand as shown; elsewhere they are numbers, in text
// with the decimals that are shown and no separators of thousands, which a reader elsewhere
// might take for decimals. In every form texts that a spreadsheet would run are neutralised.
func (t Table) Write(w io.Writer, f TableForm) error {
	switch f {
	case HTMLTable:
		return htmlTable.Execute(w, t)
	case XLSXTable:
		return workbook(w, &t, "Table")
	}
	out := csv.NewWriter(w)
	if f == TSVTable {
		out.Comma = '\t'
	}
	if err := t.rows(out, f); err != nil {
		return err
	}
	out.Flush()
	return out.Error()
}

// rows writes the lines of the table as text.
func (t Table) rows(out *csv.Writer, f TableForm) error {
	shown := func(c Cell) string {
		if c.Number != nil {
			return strconv.FormatFloat(*c.Number, 'f', c.Decimals, 64)
		}
		return neutral(c.Text)
	}
	width := len(t.Head)
	put := func(cells []string) error {
		return out.Write(append(cells, make([]string, max(0, width-len(cells)))...))
	}
	// Text for the clipboard is the table alone, its title in the corner, so that cells which
	// are pasted as text can be read again; the rest goes with the HTML beside it.
	lines, notes := [][]string{}, []string{}
	head := t.flatHead()
	if f == TSVTable {
		head[0] = t.Title
	} else {
		lines, notes = append(lines, []string{t.Title}), t.Notes
	}
	lines = append(lines, head)
	for _, l := range lines {
		for i, text := range l {
			l[i] = neutral(text)
		}
	}
	for _, row := range t.Rows {
		cells := make([]string, len(row))
		for i, c := range row {
			cells[i] = shown(c)
		}
		lines = append(lines, cells)
	}
	for _, n := range notes {
		lines = append(lines, []string{neutral(n)})
	}
	for _, l := range lines {
		if err := put(l); err != nil {
			return err
		}
	}
	return nil
}

// oneLine keeps a text within its cell.
func oneLine(s string) string {
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == '\t' || r == '\r' || r == '\n' }), " ")
}

// htmlTable goes over the clipboard into documents, and into sheets, which would run a cell.
var htmlTable = template.Must(template.New("").Funcs(template.FuncMap{"neutral": neutral, "shown": func(c Cell) string {
	if c.Number != nil {
		return c.shown()
	}
	return neutral(c.shown())
}}).Parse(`<table><caption>{{neutral .Title}}</caption><thead>{{range .Spans}}<tr>{{range .}}<th colspan="{{.Columns}}">{{neutral .Text}}</th>{{end}}</tr>{{end}}<tr>{{range .Head}}<th>{{neutral .}}</th>{{end}}</tr></thead><tbody>` +
	`{{range .Rows}}<tr>{{range $i, $c := .}}{{if $i}}<td align="right">{{shown $c}}</td>{{else}}<th align="left">{{shown $c}}</th>{{end}}{{end}}</tr>{{end}}</tbody></table>` +
	`{{range .Notes}}<p>{{neutral .}}</p>{{end}}`))

// MarshalJSON tells which columns hold words, and lists that are empty as such.
func (t Table) MarshalJSON() ([]byte, error) {
	type plain Table
	t.Words = make([]bool, len(t.Head))
	for at := range t.Words {
		t.Words[at] = t.wordy(at)
	}
	t.Notes, t.Head, t.Rows = listed(t.Notes), listed(t.Head), listed(t.Rows)
	return json.Marshal(plain(t))
}

// listed is a list that is written as such when it is empty.
func listed[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// MarshalJSON tells a cell that stands out as it is shown, too.
func (c Cell) MarshalJSON() ([]byte, error) {
	type plain Cell
	if c.Shown = ""; c.shown() != c.Text {
		c.Shown = c.shown()
	}
	return json.Marshal(plain(c))
}

// wordyFrom is how many characters make a cell of words rather than a figure.
const wordyFrom = 22

// wordy says that a column holds words, which are read from the left.
func (t Table) wordy(at int) bool {
	texts, numbers := map[string]bool{}, false
	for _, row := range t.Rows {
		switch {
		case at >= len(row) || row[at].Text == "":
		case row[at].Number == nil && utf8.RuneCountInString(row[at].Text) >= wordyFrom:
			return true
		case row[at].Number != nil || !strings.ContainsFunc(row[at].Text, unicode.IsLetter) || strings.ContainsFunc(row[at].Text, unicode.IsDigit):
			numbers = true // or an interval, or “3 of 10”
		default:
			texts[row[at].Text] = true
		}
	}
	return len(texts) > 1 && !numbers // different words and nothing else
}

// characters are how wide the columns of a sheet or a page have to be, each as its longest word
// and its text ask for.
func (t Table) characters() []int {
	const least, most, bold = 6, 56, 2
	out := make([]int, len(t.Head))
	for i := range out {
		longest, whole := 0, 0
		measure := func(text string) {
			for _, word := range strings.Fields(text) {
				longest = max(longest, utf8.RuneCountInString(word)+1)
			}
		}
		measure(t.Head[i])
		longest += bold
		for _, row := range t.Rows {
			if i < len(row) {
				measure(row[i].shown())
				whole = max(whole, utf8.RuneCountInString(row[i].shown()))
			}
		}
		out[i] = min(max(least, longest, whole), most)
	}
	return out
}
