package intake

import (
	"bytes"
	"slices"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// looseName reports whether a total may be called so, and an answer, too.
func looseName(s string) bool {
	return slices.Contains([]string{"", "all", "n"}, strings.ToLower(strings.TrimSpace(s)))
}

func isTotalName(s string) bool { return survey.IsTotalName(s) || looseName(s) }

// leave names a total that is left out, the first ones.
func (t *Table) leave(name string) {
	if len(t.Left) < maxReported {
		t.Left = append(t.Left, name)
	}
}

// sum adds up; what holds an unsaid total is unsaid itself.
func sum(v []int64) (s int64) {
	for _, x := range v {
		if x == unsaid {
			return unsaid
		}
		s += x
	}
	return s
}

// unsaid is a total that was left blank.
const unsaid = -1

func (t *Table) checkTotal(said, is int64, place, column int) {
	if said != is && said != unsaid && is != unsaid {
		t.report(Problem{Code: WrongTotal, Line: place, Column: column, Found: int(said), Wanted: int(is)})
	}
}

// looksTotal reports whether a row of respondents may be a total of those above it: one of its
// cells is called so, and all else in it are numbers or blank.
func looksTotal(row [][]byte) bool {
	named := false
	for _, c := range row {
		cell := string(bytes.TrimSpace(c))
		if survey.IsTotalName(cell) {
			named = true
		} else if _, isNumber := survey.ParseNumber(cell, true); cell != "" && !isNumber {
			return false
		}
	}
	return named && len(row) > 1
}

// inOneLine writes a row for a person.
func inOneLine(row [][]byte) string {
	var cells []string
	for _, c := range row {
		if cell := excerpt(bytes.TrimSpace(c)); cell != "" {
			cells = append(cells, cell)
		}
	}
	return strings.Join(cells[:min(len(cells), mostShown)], " · ")
}

// mostShown is how many cells of a row are shown of it.
const mostShown = 6

func cloneCells(row [][]byte) [][]byte {
	out := make([][]byte, len(row))
	for i, c := range row {
		out[i] = bytes.Clone(c)
	}
	return out
}

// areTotals marks the names of totals: those that nothing else bears, and of those that an answer
// may bear the last. Something else is always left.
func areTotals(names []string) []bool {
	out := make([]bool, len(names))
	for i, n := range names {
		out[i] = survey.IsTotalName(n) || i > 0 && i == len(names)-1 && looseName(n)
	}
	if !slices.Contains(out, false) {
		clear(out)
	}
	return out
}

// those are the members of a list that are marked, or that are not.
func those[T any](marked []bool, are bool, list []T) (out []T) {
	for i, x := range list {
		if marked[i] == are {
			out = append(out, x)
		}
	}
	return out
}

func column(table [][]int64, j int) (out []int64) {
	for _, row := range table {
		out = append(out, row[j])
	}
	return out
}

// totals are the counts of a list while it is read, and its lines that are totals of
// others.
type totals struct {
	rows  []countedRow
	lines []countedRow
	sum   int64 // of the rows
}

type countedRow struct {
	cells []string // without the count
	count int64
	place int
}

// mostListed bounds the lines of a list in which totals are looked for.
const mostListed = 200_000

// counted checks the count of a line of a list and says whether it is one of answers,
// and not a total of others.
func (t *Table) counted(cells [][]byte, counts, place int, sums *totals) bool {
	n, ok := survey.ParseCount(string(cells[counts]))
	switch {
	case !ok:
		t.report(Problem{Code: BadCount, Line: place, Column: counts + 1, Text: excerpt(cells[counts])})
	case len(strings.TrimSpace(string(cells[counts]))) == 0:
		if !t.Settings.BlankIsZero {
			t.report(Problem{Code: BlankCount, Line: place, Column: counts + 1})
		}
	}
	cells[counts] = strconv.AppendInt(nil, n, 10)
	r := countedRow{count: n, place: place}
	for i, c := range cells {
		if i != counts {
			r.cells = append(r.cells, strings.TrimSpace(string(c)))
		}
	}
	isTotal := slices.ContainsFunc(r.cells, survey.IsTotalName)
	if len(sums.rows) >= mostListed {
		if isTotal {
			t.report(Problem{Code: ManyTotals, Line: place})
		}
		return !isTotal
	}
	if isTotal || sums.equals(r) {
		sums.lines = append(sums.lines, r)
		return false
	}
	sums.rows, sums.sum = append(sums.rows, r), sums.sum+n
	return true
}

// equals reports whether a line with nothing but loose names is the sum of those before
// it. Where counts stand alone nothing names one a total.
func (s *totals) equals(r countedRow) bool {
	return len(s.rows) > 1 && len(r.cells) > 0 && !slices.ContainsFunc(r.cells, func(c string) bool { return !looseName(c) }) && r.count == s.sum
}

// mostMasks bounds in how many ways the totals of one list may name what they are totals of.
const mostMasks = 256

// check compares the totals with what they are totals of and leaves them out. A total is that of
// the lines that have its cells wherever it has no total's name; a number that no line has there,
// as 100.0 under percents, names nothing.
func (s *totals) check(t *Table) {
	if len(s.lines) == 0 {
		return
	}
	stands := make([]map[string]bool, len(s.lines[0].cells))
	for i := range stands {
		stands[i] = map[string]bool{}
		for _, r := range s.rows {
			stands[i][r.cells[i]] = true
		}
	}
	sums := map[string]map[string]int64{} // by which cells are named, and then by these
	for _, r := range s.lines {
		mask := make([]byte, len(r.cells))
		for i, c := range r.cells {
			_, isNumber := survey.ParseNumber(c, true)
			mask[i] = 1
			if isTotalName(c) || isNumber && !stands[i][c] {
				mask[i] = 0
			}
		}
		if sums[string(mask)] == nil {
			if len(sums) == mostMasks {
				t.report(Problem{Code: ManyTotals, Line: r.place})
				return
			}
			by := map[string]int64{}
			for _, o := range s.rows {
				by[o.named(mask)] += o.count
			}
			sums[string(mask)] = by
		}
		t.checkTotal(r.count, sums[string(mask)][r.named(mask)], r.place, 0)
		t.leave(strings.TrimSpace(strings.Join(r.cells, " ")))
	}
}

// named are the cells that a mask takes, as one text.
func (r countedRow) named(mask []byte) string {
	var b strings.Builder
	for i, c := range r.cells {
		if mask[i] == 1 {
			b.WriteString(c)
			b.WriteByte(betweenCells)
		}
	}
	return b.String()
}
