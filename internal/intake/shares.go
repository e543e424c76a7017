package intake

import (
	"math/big"
	"strings"

	"widetally/core/shares"
	"widetally/core/survey"
)

// TypedShares are the figures of a column beside answers and their counts, by code.
type TypedShares struct {
	Column, Question string // the names of both columns
	Scale            shares.Scale
	Figures          []TypedShare
}

// TypedShare is one figure as it is written, without its sign.
type TypedShare struct{ Code, Figure string }

// sharesScale says whether figures are shares of a whole, percents or proportions, as they add up
// within what rounding allows; "" where they are none.
func sharesScale(n int, cell func(i int) string) shares.Scale {
	sum, places := new(big.Rat), 0
	for i := range n {
		text := cell(i)
		x, p := shares.ParseFigure(text, shares.Percents)
		if p.Kind != "" {
			return ""
		}
		sum.Add(sum, x)
		text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%"))
		if at := strings.LastIndexAny(text, ".,"); at >= 0 {
			places = max(places, len(text)-at-1)
		}
	}
	// Half a unit of the last place for each.
	rounding := new(big.Rat).SetFrac(big.NewInt(int64(n)), new(big.Int).Mul(big.NewInt(2), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)))
	for _, whole := range []struct {
		scale shares.Scale
		of    int64
	}{{shares.Percents, 100}, {shares.Proportions, 1}} {
		gap, most := new(big.Rat).Sub(sum, big.NewRat(whole.of, 1)), big.NewRat(3*whole.of, 100)
		if rounding.Cmp(most) < 0 {
			most = rounding
		}
		if gap.Abs(gap).Cmp(most) <= 0 {
			return whole.scale
		}
	}
	return ""
}

// takeShares takes the column of shares out of a table of answers with counts. The figures are no
// question; they go to the answers beside them.
func (t *Table) takeShares(at int, cell func(row int) string) error {
	other := -1
	for i := range t.Columns {
		if i == at || i == t.CountColumn {
			continue
		}
		if other >= 0 {
			return &Problem{Code: BadSettings}
		}
		other = i
	}
	if other < 0 || !t.Columns[other].Kind.Coded() {
		return &Problem{Code: BadSettings}
	}
	of := t.Columns[other]
	s := &TypedShares{Column: t.Columns[at].Name, Question: of.Name, Scale: sharesScale(t.Rows, cell)}
	if s.Scale == "" {
		s.Scale = shares.Percents // what is wrong with them is said where they are compared
	}
	for row := range t.Rows {
		s.Figures = append(s.Figures, TypedShare{of.Code(of.Data, row), strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(cell(row)), "%"))})
	}
	t.Shares = s
	t.Columns = append(t.Columns[:at:at], t.Columns[at+1:]...)
	if t.CountColumn > at {
		t.CountColumn--
	}
	return nil
}

// offerShares finds answers with counts and with shares beside them: last year's percents, or a
// register's. What holds the counts is a column of whole numbers, what holds the shares one that
// adds up as shares do, and the answers are all different.
func offerShares(t *Table, whole []bool) (out []Offer) {
	if len(t.Columns) != 3 {
		return nil
	}
	answers := -1
	for i, c := range t.Columns {
		if !c.Kind.Numeric() && c.Kind != survey.Identifier && distinct(t, i) && !whole[i] && answers < 0 {
			answers = i
		}
	}
	if answers < 0 {
		return nil
	}
	for i, c := range t.Columns {
		k := 3 - answers - i // the third
		if i == answers || k == i || !whole[k] {
			continue
		}
		if sharesScale(t.Rows, func(row int) string { return c.Code(c.Data, row) }) != "" && !(whole[i] && i > k) {
			return []Offer{{Shape: Counts, CountColumn: t.Columns[k].Name, SharesColumn: c.Name}}
		}
	}
	return nil
}

// bareCounts makes answers of a list of counts that nothing stands beside: 1, 2, 3, … as they came.
func (t *Table) bareCounts() {
	b := survey.NewBuilder(false)
	for i := range t.Rows {
		b.Add([]byte(big.NewInt(int64(i + 1)).String()))
	}
	name := "answer"
	if t.Columns[0].Name == name {
		name = "answer no."
	}
	c := b.As(name, survey.Single)
	survey.AsArrived(c.Answers)
	c.Reason = survey.FromForm
	t.Columns, t.CountColumn = []survey.Built{c, t.Columns[0]}, 1
}

// mostBare bounds a list of counts that is offered as one.
const mostBare = 60

// isBare reports whether a single column of numbers may be the counts of answers that are not
// named: whole, few, mostly different, and larger than codes are.
func isBare(t *Table, whole []bool) bool {
	if len(t.Columns) != 1 || !whole[0] || t.Rows > mostBare {
		return false
	}
	seen, largest := map[string]bool{}, 0
	for i := range t.Rows {
		code := strings.TrimSpace(t.Columns[0].Code(t.Columns[0].Data, i))
		seen[code] = true
		largest = max(largest, len(code))
	}
	return 3*len(seen) > 2*t.Rows && largest > 1
}
