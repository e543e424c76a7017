package intake

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"widetally/core/survey"
)

// row is a row of a small table, with where it stood.
type row struct {
	place int
	cells []string
}

// whole reads a table that is a summary itself: a grid, two numbers, classes.
func (t *Table) whole(ctx context.Context, src *source) error {
	rows, err := gather(ctx, src.rows, t.Settings.HeaderRow)
	if err != nil {
		return err
	}
	for _, r := range rows[:min(len(rows), previewRows)] {
		t.First = append(t.First, r.cells)
	}
	switch t.Settings.Shape {
	case Grid:
		return t.grid(rows)
	case Two:
		return t.two(rows)
	}
	return t.classes(rows)
}

// gather holds all rows that are not empty, from the header on.
func gather(ctx context.Context, src records, from int) ([]row, error) {
	var rows []row
	cells := 0
	for {
		got, err := src.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
		r := row{place: src.place()}
		for _, c := range got {
			r.cells = append(r.cells, strings.Join(strings.Fields(strings.ToValidUTF8(string(c), "�")), " "))
		}
		if r.place < from || strings.Join(r.cells, "") == "" {
			continue
		}
		if cells += len(r.cells); cells > maxGridCells || ctx.Err() != nil {
			return nil, &Problem{Code: TooManyRows, Line: r.place, Wanted: maxGridCells}
		}
		rows = append(rows, r)
	}
	if len(rows) == 0 {
		return nil, &Problem{Code: Empty}
	}
	return rows, nil
}

// combinations makes the columns of summarised data: one builder a question, and the
// counts behind them.
type combinations struct {
	questions []*survey.Builder
	counts    *survey.Builder
	n         int
}

func newCombinations(questions int) *combinations {
	c := &combinations{counts: survey.NewBuilder(false)}
	for range questions {
		c.questions = append(c.questions, survey.NewBuilder(false))
	}
	return c
}

func (c *combinations) add(count int64, answers ...string) {
	for i, a := range answers {
		c.questions[i].Add([]byte(a))
	}
	c.counts.Add(fmt.Append(nil, count))
	c.n++
}

// keep puts the columns into the table. The answers stand in the order in which they
// came, not the alphabet's.
func (t *Table) keep(c *combinations, names ...string) {
	for i, b := range c.questions {
		if !b.Fits(survey.Single) {
			t.report(Problem{Code: ManyAnswers, Text: names[i], Wanted: mostNamed})
			return
		}
		col := b.As(names[i], survey.Single)
		survey.AsArrived(col.Answers)
		col.Reason = survey.FromForm
		t.Columns = append(t.Columns, col)
	}
	counts := c.counts.As(countName(names), survey.Count)
	counts.Reason = survey.FromForm
	t.CountColumn, t.Rows = len(t.Columns), c.n
	t.Columns = append(t.Columns, counts)
}

// mostNamed is how many answers a question has at most beside the blank one.
const mostNamed = survey.MostAnswers - 1

func countName(taken []string) string {
	name := "count"
	for slices.ContainsFunc(taken, func(s string) bool { return strings.EqualFold(s, name) }) {
		name += " of rows"
	}
	return name
}

// grid reads one question's answers down and another's across. A row or column that is called
// a total, or the last one without a name, is checked against the sum and left out.
func (t *Table) grid(rows []row) error {
	head := rows[0].cells
	if len(rows) < 2 || len(head) < 2 {
		return &Problem{Code: TooSmall, Line: rows[0].place}
	}
	width := len(head)
	for width > 2 && head[width-1] == "" && !slices.ContainsFunc(rows, func(r row) bool { return len(r.cells) >= width && r.cells[width-1] != "" }) {
		width--
	}
	down, across := rows[1:], head[1:width]
	labels := make([]string, len(down))
	for i, r := range down {
		labels[i] = first(r.cells)
	}
	isTotal, isTotalDown := areTotals(across), areTotals(labels)
	counts := make([][]int64, len(down))
	for i, r := range down {
		counts[i] = make([]int64, width-1)
		for len(r.cells) > width && r.cells[len(r.cells)-1] == "" {
			r.cells = r.cells[:len(r.cells)-1]
		}
		if len(r.cells) > width {
			t.Ragged++
			t.report(Problem{Code: LongLine, Line: r.place, Found: len(r.cells), Wanted: width, Text: r.cells[width]})
		}
		for j := 1; j < min(width, len(r.cells)); j++ {
			n, ok := survey.ParseCount(r.cells[j])
			if !ok {
				t.report(Problem{Code: BadCount, Line: r.place, Column: j + 1, Text: r.cells[j]})
			}
			counts[i][j-1] = n
		}
		for j := 1; j < width && !t.Settings.BlankIsZero; j++ {
			if j < len(r.cells) && r.cells[j] != "" {
				continue
			}
			if isTotalDown[i] || isTotal[j-1] {
				counts[i][j-1] = unsaid
				continue
			}
			t.report(Problem{Code: BlankCount, Line: r.place, Column: j + 1})
		}
	}
	below := make([]int64, len(across)) // the sums of the columns
	for j := range across {
		below[j] = sum(those(isTotalDown, false, column(counts, j)))
	}
	for i := range down {
		beside := int64(unsaid)
		if slices.Contains(isTotal, true) {
			beside = sum(those(isTotal, false, counts[i]))
		}
		for j := range across {
			if isTotal[j] {
				t.checkTotal(counts[i][j], beside, down[i].place, j+2)
			} else if isTotalDown[i] {
				t.checkTotal(counts[i][j], below[j], down[i].place, j+2)
			}
		}
	}
	for _, name := range slices.Concat(those(isTotal, true, across), those(isTotalDown, true, labels)) {
		t.leave(name)
	}
	down, labels, counts = those(isTotalDown, false, down), those(isTotalDown, false, labels), those(isTotalDown, false, counts)
	for i := range counts {
		counts[i] = those(isTotal, false, counts[i])
	}
	across = those(isTotal, false, across)
	t.unique(across, func(int) int { return rows[0].place })
	t.unique(labels, func(i int) int { return down[i].place })
	c := newCombinations(2)
	for i := range down {
		for j := range across {
			c.add(counts[i][j], labels[i], across[j])
		}
	}
	name := cleanName(head[0])
	if name == "" {
		name = "rows"
	}
	// "ward × tenure" or "ward / tenure" in the corner names both questions.
	for _, mark := range []string{" × ", " x ", " by ", " / ", "\\"} {
		if a, b, ok := strings.Cut(name, mark); ok && strings.TrimSpace(a) != "" && strings.TrimSpace(b) != "" && !strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b)) {
			t.Names = []string{strings.TrimSpace(a), strings.TrimSpace(b)}
		}
	}
	if t.Names == nil {
		across := "columns"
		if strings.EqualFold(name, across) {
			across = "across"
		}
		t.Names = []string{name, across}
	}
	t.keep(c, t.Names...)
	return nil
}

func first(cells []string) string {
	if len(cells) == 0 {
		return ""
	}
	return cells[0]
}

// unique reports names that are lacking or given twice.
func (t *Table) unique(names []string, place func(i int) int) {
	seen := map[string]bool{"": true}
	for i, n := range names {
		if seen[n] {
			t.report(Problem{Code: AnswerTwice, Line: place(i), Text: n})
		}
		seen[n] = true
	}
}

// two reads how many said yes, and how many were asked or said no.
func (t *Table) two(rows []row) error {
	names := []string{"yes", "no"}
	var figures []int64
	var place int
	for i, r := range rows {
		place = r.place
		var words []string
		for j, cell := range r.cells {
			n, ok := survey.ParseCount(cell)
			switch {
			case cell == "":
			case ok:
				figures = append(figures, n)
			case strings.Trim(cell, "0123456789.,+-%€$£ ") == "":
				return &Problem{Code: BadCount, Line: place, Column: j + 1, Text: cell}
			default:
				words = append(words, cell)
			}
		}
		if i == 0 && len(words) > 0 && len(figures) == 0 {
			copy(names, words)
		}
	}
	if len(figures) != 2 {
		return &Problem{Code: NotTwo, Line: place, Found: len(figures)}
	}
	yes, no := figures[0], figures[1]
	if t.Settings.Second == SecondIsAsked {
		if yes > no {
			return &Problem{Code: MoreYes, Line: place, Found: int(yes), Wanted: int(no)}
		}
		no -= yes
		names[1] = "no"
	}
	if strings.EqualFold(names[0], names[1]) {
		names = []string{"yes", "no"}
	}
	c := newCombinations(1)
	c.add(yes, names[0])
	c.add(no, names[1])
	t.Names = []string{"answer"}
	t.keep(c, t.Names...)
	return nil
}

// offers lists other shapes that the table seems to have.
func offers(t *Table) []Offer {
	if t.Settings.Shape != Rows || t.Rows < 2 || t.Rows > 5000 {
		return nil
	}
	var out []Offer
	if looksLikeClasses(t) {
		out = append(out, Offer{Shape: Classes})
	}
	whole := make([]bool, len(t.Columns))
	for i, c := range t.Columns {
		whole[i] = holdsCounts(c)
	}
	n := len(t.Columns)
	isGrid := n >= 3 && !whole[0] && !slices.Contains(whole[1:], false) && distinct(t, 0) && t.Settings.HeaderRow > 0
	withShares := offerShares(t, whole)
	out = append(out, withShares...)
	if isBare(t, whole) {
		out = append(out, Offer{Shape: Counts, CountColumn: t.Columns[0].Name, Bare: true})
	}
	if n >= 2 && n <= 6 && withShares == nil {
		for i := n - 1; i >= 0; i-- {
			if isGrid && survey.IsTotalName(t.Columns[i].Name) {
				continue // it adds up the others
			}
			if whole[i] && distinctBeside(t, i) && (n == 2 && !numbered(t.Columns[1-i], t.Rows) || survey.NamesCount(t.Columns[i].Name) || !anyDistinct(t, i)) {
				out = append(out, Offer{Shape: Counts, CountColumn: t.Columns[i].Name})
				break
			}
		}
	}
	if isGrid {
		out = append(out, Offer{Shape: Grid})
	}
	return out
}

// numbered reports whether a column holds the numbers of respondents: called so, or one after the
// other.
func numbered(c survey.Built, rows int) bool {
	if c.Kind == survey.Identifier || survey.NamesIdentifier(c.Name) {
		return true
	}
	first, _ := survey.ParseNumber(strings.TrimSpace(c.Code(c.Data, 0)), true)
	for i := range rows {
		x, ok := survey.ParseNumber(strings.TrimSpace(c.Code(c.Data, i)), true)
		if !ok || x != first+float64(i) {
			return false
		}
	}
	return rows > fewestNumbered
}

// fewestNumbered is from how many numbers one after the other on they number respondents; fewer
// may be answers.
const fewestNumbered = 12

// anyDistinct reports whether a column other than this one has another cell in every
// row, as the numbers of respondents have.
func anyDistinct(t *Table, but int) bool {
	for j := range t.Columns {
		if j != but && distinct(t, j) {
			return true
		}
	}
	return false
}

// holdsCounts reports whether every cell of a column is a count.
func holdsCounts(c survey.Built) bool {
	for i := range c.Data.Rows() {
		code := strings.TrimSpace(c.Code(c.Data, i))
		if n, ok := survey.ParseCount(code); !ok || code == "" && n == 0 {
			return false
		}
	}
	return true
}

func distinct(t *Table, column int) bool {
	seen := map[string]bool{}
	for i := range t.Rows {
		code := t.Columns[column].Code(t.Columns[column].Data, i)
		if code == "" || seen[code] {
			return false
		}
		seen[code] = true
	}
	return true
}

// distinctBeside reports whether the cells beside a column are a different
// combination in every row, with at least one column of words among them.
func distinctBeside(t *Table, column int) bool {
	seen := map[string]bool{}
	for i := range t.Rows {
		var cells []string
		for j, c := range t.Columns {
			if j != column {
				cells = append(cells, c.Code(c.Data, i))
			}
		}
		key := strings.Join(cells, "\x00")
		if seen[key] {
			return false
		}
		seen[key] = true
	}
	return true
}
