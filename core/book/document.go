package book

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"

	"widetally/core/claim"
	"widetally/core/disclosure"
	"widetally/core/document"
)

// Shown is a table as it may be shown: its figures, and what is to be known of them.
type Shown struct {
	Table document.Table
	Notes []document.Message
}

// Document shows a table of a book by a banner's columns, as a rule lets it leave. among names the subgroup that
// it is about, "" for everyone.
func (t *Made) Document(b Book, l *Layout, units, among string, r disclosure.Rule) Shown {
	if r.PercentsOnly {
		b.Figures = slices.DeleteFunc(slices.Clone(b.Figures), func(f document.Role) bool { return f == document.Observed })
	}
	s := shower{t, b, l, document.Text(units), r}
	out := document.Table{Caption: t.Caption(), Stub: document.Say("column.answer", nil), Shown: b.shown(), Over: l.over()}
	for _, c := range l.Columns {
		label := c.Label
		if c.Letter != "" && b.Differences.Against == EachOther {
			label = document.Say(
				"book.lettered", document.Values{"label": document.Saying(c.Label), "letter": document.Text(c.Letter)},
			)
		}
		out.Columns = append(out.Columns, label)
	}
	rows := slices.Clone(t.Rows)
	if t.Battery != nil {
		out.Stub = document.Say("column.question", nil)
	} else {
		s.order(rows)
	}
	for _, r := range rows {
		out.Rows = append(out.Rows, s.row(r))
	}
	out.Rows = append(out.Rows, s.bases()...)
	return Shown{out, s.notes(among)}
}

// Caption is what a table is called.
func (t *Made) Caption() document.Message {
	q := t.Questions[0]
	switch {
	case t.Battery == nil:
		return textOf(cmp.Or(q.Wording, q.Short, q.Name))
	case t.Battery.Label != "":
		return textOf(t.Battery.Label)
	}
	return document.Say("book.battery", document.Values{"n": document.N(int64(len(t.Questions)))})
}

// over are the headings over the columns.
func (l *Layout) over() (out [][]document.Spanning) {
	lines := 0
	for _, c := range l.Columns {
		lines = max(lines, len(c.Over))
	}
	for line := range lines {
		var of []document.Spanning
		last := ""
		for i, c := range l.Columns {
			// Headings stand right over their columns: a column with fewer of them has none at the top.
			at := line - (lines - len(c.Over))
			one, path := document.Spanning{Columns: 1}, "none "+strconv.Itoa(i)
			if at >= 0 {
				one.Label, path = c.Over[at], pathOf(c, at)
			}
			if path == last {
				of[len(of)-1].Columns++
				continue
			}
			of, last = append(of, one), path
		}
		out = append(out, of)
	}
	return out
}

// pathOf tells headings apart by their break and by all that stands over them.
func pathOf(c Column, upTo int) string {
	parts := []string{strconv.Itoa(c.Break)}
	for _, m := range c.Over[:upTo+1] {
		parts = append(parts, m.Values["value"].Text)
	}
	return strings.Join(parts, "\x00")
}

type shower struct {
	made   *Made
	book   Book
	layout *Layout
	units  document.Value
	rule   disclosure.Rule
}

// order puts the answers in the order of the book; nets and numbers stay below.
func (s shower) order(rows []Row) {
	var labels []string
	var counts []int64
	q := s.made.Questions[0]
	for _, r := range rows {
		if r.Kind == AnswerRow {
			labels, counts = append(labels, r.Label), append(counts, r.All.Count)
		}
	}
	if q.Kind.Ranked() || s.book.Order == "" {
		return
	}
	before := slices.Clone(rows[:len(labels)])
	for i, at := range claim.Arranged(s.book.Order, labels, counts) {
		rows[i] = before[at]
	}
}

func (s shower) row(r Row) document.Row {
	name := textOf(r.Label)
	switch {
	case r.Kind == NetRow:
		name = document.Say("book.net", document.Values{"label": document.Text(r.Label)})
	case !r.Kind.Shares() && s.made.Battery == nil:
		name = document.Say("book.row."+string(r.Kind), nil)
	}
	out := document.Row{Name: name}
	for i, c := range r.Cells {
		out.Cells = append(out.Cells, s.cell(r, i, c))
	}
	return out
}

// cell shows a figure of a column.
func (s shower) cell(r Row, column int, c Cell) document.Cell {
	out := document.Cell{}
	if c.Withheld != "" {
		return s.withheld(c.Withheld, c.Could)
	}
	hidden := c.Base.N < s.book.Least
	if c.Value == nil || hidden {
		out.Faint = true
		if hidden && c.Base.N > 0 {
			out.Figures = []document.Figure{{Role: s.book.shown()[0], Value: document.Term("book.hidden")}}
			out.Said = document.Say("book.hidden_since", document.Values{"least": document.N(s.book.Least)})
		}
		return out
	}
	roles := slices.Clone(s.book.shown())
	if !s.rule.PercentsOnly {
		roles = append(roles, document.Observed)
	}
	for _, role := range roles {
		if v, is := s.figure(r, c, role); is && !slices.ContainsFunc(
			out.Figures, func(f document.Figure) bool { return f.Role == role },
		) {
			out.Figures = append(out.Figures, document.Figure{Role: role, Value: v})
		}
	}
	if !r.Kind.Shares() && !slices.ContainsFunc(
		out.Figures, func(f document.Figure) bool { return f.Role == s.book.shown()[0] },
	) {
		v := document.Of(document.Rounded, *c.Value)
		out.Figures = append([]document.Figure{{Role: s.book.shown()[0], Value: v}}, out.Figures...)
	}
	if letters := s.letters(c); letters != "" {
		out.Figures = append(out.Figures, document.Figure{Role: document.Above, Value: document.Text(letters)})
	}
	out.Few = c.Base.N < s.book.Few
	out.Mark = c.Mark()
	out.Said = s.meaning(r, column, c)
	return out
}

// figure is a figure of a cell by its role; false where a row has none of it.
func (s shower) figure(r Row, c Cell, role document.Role) (document.Value, bool) {
	switch {
	case s.rule.Rounding > 1 && role == document.StandardError && r.Kind.Shares(): // of counts that are not told
	case role == document.StandardError && c.SE == nil:
	case role == document.StandardError && r.Kind.Shares():
		return document.Of(document.Bare, 100**c.SE), true
	case role == document.StandardError:
		return document.Of(document.Rounded, *c.SE), true
	case !r.Kind.Shares():
	case role == document.ColumnPercent:
		return s.percent(c.Count, c.Base.N, 100**c.Value, document.Bare)
	case role == document.Observed:
		return document.N(s.rule.Rounded(c.Count)), true
	case role == document.RowPercent && r.All.Count > 0 && r.All.Withheld == "":
		part, whole := float64(c.Count), float64(r.All.Count)
		if r.All.Sum > 0 {
			part, whole = c.Total, r.All.Total
		}
		return s.percent(c.Count, r.All.Count, 100*part/whole, document.Bare)
	}
	return document.Value{}, false
}

// percent is a percent as the rule lets it be told: of estimates to the whole percent where counts are rounded.
func (s shower) percent(part, whole int64, exact float64, kind document.ValueKind) (document.Value, bool) {
	if s.rule.Rounding > 1 && s.made.Sampled != nil {
		return document.Of(kind, math.Round(exact)), true
	}
	p, is := s.rule.Percent(part, whole, exact)
	return document.Of(kind, p), is
}

// withheld is the sign of a figure that is not told, with its reason.
// Beside it stands what could still be told of it.
func (s shower) withheld(why Withheld, could *disclosure.Range) document.Cell {
	sign, v := "book.hidden", document.Values{"least": document.N(s.rule.Least), "fewest": document.N(s.rule.Fewest)}
	if why == ByTheOthers {
		sign = "book.held"
	}
	said := "book.withheld." + string(why)
	if could != nil && why != FewBehind && !math.IsInf(could.Upper, 1) {
		said += "_within"
		v["lower"], v["upper"] = document.N(int64(could.Lower)), document.N(int64(could.Upper))
	}
	return document.Cell{
		Faint: true, Said: document.Say(said, v),
		Figures: []document.Figure{{Role: s.book.shown()[0], Value: document.Term(sign)}},
	}
}

// letters are those of the columns over which a cell stands out: capital ones by the strictest of two
// levels, or by the only one.
func (s shower) letters(c Cell) string {
	columns, strictly := c.Above()
	two := len(s.book.Differences.levels()) > 1
	var out []string
	separator := ""
	for i, at := range columns {
		letter := s.layout.Columns[at].Letter
		if two && !strictly[i] {
			letter = strings.ToLower(letter)
		}
		if len(letter) > 1 {
			separator = "\u2009"
		}
		out = append(out, letter)
	}
	return strings.Join(out, separator)
}

// meaning says in words what a cell holds, and how it compares.
func (s shower) meaning(r Row, column int, c Cell) document.Message {
	v := document.Values{
		"column": document.Saying(s.named(column)),
		"base":   document.N(s.rule.Rounded(c.Base.N)), "answer": document.Text(r.Label),
		"count": document.N(s.rule.Rounded(c.Count)), "units": s.units,
	}
	id := "book.means." + string(r.Kind)
	if r.Kind.Shares() {
		id = "book.means.share"
		if v["percent"], _ = s.percent(c.Count, c.Base.N, 100**c.Value, document.Percent); s.rule.PercentsOnly {
			id = "book.means.percent"
		}
		if s.made.Sampled != nil && !s.rule.PercentsOnly {
			id = "book.means.estimated"
		}
	} else {
		v["value"] = document.Of(document.Rounded, *c.Value)
	}
	said := []document.Value{document.Saying(document.Say(id, v))}
	for _, one := range c.Compared {
		if s.rule.Rounding > 1 { // a difference would tell more than what is rounded
			break
		}
		said = append(said, document.Saying(s.compared(r, one)))
	}
	if len(said) == 1 {
		return document.Say(id, v)
	}
	id = "book.means.and"
	if !r.Kind.Shares() {
		id += "_mean"
	}
	return document.Say(id, document.Values{"first": said[0], "list": {Kind: document.Listed, List: said[1:]}})
}

// compared says one comparison.
func (s shower) compared(r Row, c Comparison) document.Message {
	v := document.Values{"p": document.P(document.PEqual, c.Adjusted, s.book.Differences.levels()[0])}
	id := "book.compared."
	if c.Other == Others {
		id += "others"
	} else {
		id += "column"
		v["column"] = document.Saying(s.named(c.Other))
	}
	if r.Kind.Shares() {
		v["difference"] = document.Of(document.Difference, 100*c.Difference)
	} else {
		id += "_mean"
		v["difference"] = document.Of(document.Rounded, c.Difference)
	}
	return document.Say(id, v)
}

// named is a column with all that stands over it.
func (s shower) named(column int) document.Message {
	c := s.layout.Columns[column]
	if len(c.Over) == 0 {
		return c.Label
	}
	list := make([]document.Value, 0, len(c.Over)+1)
	for _, m := range append(slices.Clone(c.Over), c.Label) {
		list = append(list, document.Saying(m))
	}
	return document.Say("book.column", document.Values{"list": {Kind: document.Listed, List: list}})
}

// bases are the rows of the respondents, and of their weights where these count.
func (s shower) bases() []document.Row {
	main := s.book.shown()[0]
	row := func(id string, value func(Base) document.Value) document.Row {
		out := document.Row{Name: document.Say("book.row."+id, nil), Total: true, Faint: true}
		for i, base := range s.made.Bases {
			if s.made.WithheldBases != nil && s.made.WithheldBases[i] != "" {
				out.Cells = append(out.Cells, s.withheld(s.made.WithheldBases[i], nil))
				continue
			}
			c := document.Cell{Faint: true}
			if base.N >= s.book.Least {
				c.Figures = []document.Figure{{Role: main, Value: value(base)}}
				if main != document.Observed && id != "weighted" {
					c.Figures = append(c.Figures, document.Figure{Role: document.Observed, Value: value(base)})
				}
			} else if base.N > 0 {
				c = document.Cell{Faint: true, Figures: []document.Figure{{Role: main, Value: document.Term("book.hidden")}}}
				c.Said = document.Say("book.hidden_since", document.Values{"least": document.N(s.book.Least)})
			}
			out.Cells = append(out.Cells, c)
		}
		return out
	}
	id := "n"
	if s.made.Battery != nil {
		id = "n_least"
	}
	out := []document.Row{row(id, func(b Base) document.Value { return document.N(s.rule.Rounded(b.N)) })}
	if s.made.Sampled != nil {
		out = append(out, row("weighted", func(b Base) document.Value { return document.Of(document.Amount, b.Sum) }))
	}
	return out
}
