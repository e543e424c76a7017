package intake

import (
	"fmt"
	"regexp"
	"strings"

	"widetally/core/survey"
)

const numberPattern = `([+-]?\d+(?:[.,]\d+)?)`

var (
	betweenClass = regexp.MustCompile(`^[\[(]?\s*` + numberPattern + `\s*(?:-|–|—|−|to|bis|\.\.|;|<|to under|to below|to less than)\s*` + numberPattern + `\s*[\])]?$`)
	underClass   = regexp.MustCompile(`^(?:under|below|less than|up to|<|≤)\s*` + numberPattern + `$`)
	fromClass    = regexp.MustCompile(`^(?:over|above|more than|from|>|≥)?\s*` + numberPattern + `\s*(?:\+|plus|and over|and more|and above|or more|or over)?$`)
	openMarks    = regexp.MustCompile(`over|above|more|from|plus|[>≥+]`)
)

// class is an interval as written; nil limits are open.
type class struct{ from, to *float64 }

func parseClass(s string, comma bool) (class, bool) {
	s = strings.ToLower(strings.TrimSpace(s))
	number := func(text string) *float64 {
		if x, ok := survey.ParseNumber(text, comma); ok {
			return &x
		}
		return nil
	}
	if m := betweenClass.FindStringSubmatch(s); m != nil {
		c := class{number(m[1]), number(m[2])}
		return c, c.from != nil && c.to != nil
	}
	if m := underClass.FindStringSubmatch(s); m != nil {
		c := class{to: number(m[1])}
		return c, c.to != nil
	}
	if m := fromClass.FindStringSubmatch(s); m != nil && openMarks.MatchString(s) {
		c := class{from: number(m[1])}
		return c, c.from != nil
	}
	return class{}, false
}

// classes reads class intervals with frequencies: a class and a count, or a lower
// limit, an upper limit and a count.
func (t *Table) classes(rows []row) error {
	comma := t.Settings.decimalComma()
	name := "class"
	if _, ok := readClassRow(rows[0].cells, comma); !ok && !survey.IsTotalName(first(rows[0].cells)) {
		if first(rows[0].cells) != "" {
			name = cleanName(first(rows[0].cells))
		}
		rows = rows[1:]
	}
	var list []classCount
	var totals []row
	for i, r := range rows {
		c, ok := readClassRow(r.cells, comma)
		if !ok {
			if survey.IsTotalName(first(r.cells)) || i == len(rows)-1 && looseName(first(r.cells)) {
				totals = append(totals, r)
				continue
			}
			return &Problem{Code: BadClass, Line: r.place, Text: strings.Join(r.cells, " ")}
		}
		if c.bad != "" {
			return &Problem{Code: BadCount, Line: r.place, Column: len(r.cells), Text: c.bad}
		}
		c.place = r.place
		list = append(list, c)
	}
	if len(list) < 2 {
		return &Problem{Code: TooSmall, Line: max(1, t.Settings.HeaderRow)}
	}
	for _, r := range totals {
		t.classTotal(list, r)
	}
	t.Names = []string{name}
	if err := t.limit(list); err != nil {
		return err
	}
	b, counts := survey.NewBuilder(false), newCombinations(0)
	for _, c := range list {
		b.Add([]byte(c.label))
		counts.add(c.count)
	}
	if !b.Fits(survey.Ordered) {
		return &Problem{Code: ManyAnswers, Text: name, Wanted: mostNamed}
	}
	col := b.As(name, survey.Ordered)
	col.Reason = survey.FromForm
	said := survey.Question{}
	for _, c := range list {
		said.Answers = append(said.Answers, survey.Answer{Code: c.label, Label: c.label, From: c.from, To: c.to})
	}
	col.Question = survey.Describe(col.Question, said)
	t.Columns = append(t.Columns, col)
	t.keep(counts)
	t.Rows = len(list)
	return nil
}

type classCount struct {
	class
	label string
	count int64
	bad   string // a count that cannot be read
	place int
}

func readClassRow(cells []string, comma bool) (classCount, bool) {
	for len(cells) > 2 && cells[len(cells)-1] == "" {
		cells = cells[:len(cells)-1]
	}
	var c classCount
	ok := false
	switch len(cells) {
	case 2:
		c.label = cells[0]
		c.class, ok = parseClass(cells[0], comma)
	case 3:
		lower, isLower := survey.ParseNumber(cells[0], comma)
		upper, isUpper := survey.ParseNumber(cells[1], comma)
		ok = (isLower || cells[0] == "") && (isUpper || cells[1] == "") && (isLower || isUpper)
		if isLower {
			c.from = &lower
		}
		if isUpper {
			c.to = &upper
		}
		switch {
		case !isLower:
			c.label = "< " + cells[1]
		case !isUpper:
			c.label = "≥ " + cells[0]
		default:
			c.label = cells[0] + "–" + cells[1]
		}
	}
	if !ok {
		return c, false
	}
	count := cells[len(cells)-1]
	n, isCount := survey.ParseCount(count)
	if !isCount || count == "" {
		c.bad = count
		if count == "" {
			c.bad = "(blank)"
		}
	}
	c.count = n
	return c, true
}

func (t *Table) classTotal(list []classCount, r row) {
	var total int64
	for _, c := range list {
		total += c.count
	}
	if said, ok := survey.ParseCount(r.cells[len(r.cells)-1]); ok {
		t.checkTotal(said, total, r.place, len(r.cells))
	}
	t.leave(first(r.cells))
}

// limit settles the limits of the classes as the person has said: how far a written
// upper limit goes, and what to assume for open ends.
func (t *Table) limit(list []classCount) error {
	s := t.Settings
	gap := 0.0
	for i := range list[:len(list)-1] {
		a, b := list[i], list[i+1]
		if a.from != nil && a.to != nil && *a.from >= *a.to {
			return &Problem{Code: ClassOrder, Line: a.place, Text: a.label}
		}
		if a.to == nil || b.from == nil || *b.from < *a.to {
			return &Problem{Code: ClassOrder, Line: b.place, Text: b.label}
		}
		if gap == 0 {
			gap = *b.from - *a.to
		}
	}
	last := &list[len(list)-1]
	if last.from != nil && last.to != nil && *last.from >= *last.to {
		return &Problem{Code: ClassOrder, Line: last.place, Text: last.label}
	}
	// Where each class begins at the number at which the one before it ends, there
	// is nothing to ask.
	if gap > 0 && s.UpTo == "" {
		return &Problem{Code: AskUpTo, Line: list[0].place, Text: list[0].label}
	}
	if gap > 0 && s.UpTo == UpToNext {
		for i := range list {
			switch {
			case i+1 < len(list):
				list[i].to = list[i+1].from
			case list[i].to != nil:
				to := *list[i].to + gap
				list[i].to = &to
			}
		}
	}
	if list[0].from == nil {
		list[0].from = s.OpenFrom
	}
	if last.to == nil {
		last.to = s.OpenTo
	}
	for _, c := range []classCount{list[0], *last} {
		if c.from != nil && c.to != nil && *c.from >= *c.to {
			return &Problem{Code: ClassOrder, Line: c.place, Text: fmt.Sprintf("%s (%g to %g)", c.label, *c.from, *c.to)}
		}
	}
	return nil
}

// looksLikeClasses reports whether the first column, or the first two, hold class
// intervals beside a count.
func looksLikeClasses(t *Table) bool {
	if n := len(t.Columns); n < 2 || n > 3 || t.Rows > 200 {
		return false
	}
	for i := range t.Rows {
		cells := make([]string, len(t.Columns))
		for j, c := range t.Columns {
			cells[j] = c.Code(c.Data, i)
		}
		c, ok := readClassRow(cells, t.Settings.decimalComma())
		if !ok && i == t.Rows-1 && i > 0 && isTotalName(cells[0]) {
			continue
		}
		if !ok || c.bad != "" || len(cells) == 3 && c.from != nil && c.to != nil && *c.from >= *c.to {
			return false
		}
	}
	return true
}
