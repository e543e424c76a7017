package intake

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// mostCount keeps sums of counts exact.
const mostCount = 1e15

var (
	// thousands are groups of three parted by a blank, a comma, a point or an apostrophe.
	thousands = regexp.MustCompile(`^\d{1,3}(?:[ ,.'’]\d{3})+$`)
	// nothingBehind is a whole number with a fraction of zeros, other than three of them,
	// which might be thousands.
	nothingBehind = regexp.MustCompile(`^(\d+)[.,](?:0{1,2}|0{4,})$`)
)

// wholeCount reads a count: whole, not negative, with thousands parted or not; a blank is
// none.
func wholeCount(cell []byte) (n int64, ok bool) {
	text := strings.Map(func(r rune) rune {
		if r == '\u00a0' || r == '\u202f' || r == '\u2009' {
			return ' '
		}
		return r
	}, strings.TrimSpace(string(cell)))
	switch {
	case text == "":
		return 0, true
	case nothingBehind.MatchString(text):
		text = nothingBehind.FindStringSubmatch(text)[1]
	case thousands.MatchString(text) && !strings.HasSuffix(text, ".000") || thousands.MatchString(text) && strings.Count(text, ".") > 1:
		text = strings.NewReplacer(" ", "", ",", "", ".", "", "'", "", "’", "").Replace(text)
	}
	if n, err := strconv.ParseInt(text, 10, 64); err == nil {
		return n, n >= 0 && n <= mostCount && text[0] != '+'
	}
	if strings.ContainsAny(text, "%€$£") {
		return 0, false // 12 % are no 12 respondents
	}
	x, isNumber := survey.ParseNumber(text, false)
	if !isNumber || x < 0 || x != float64(int64(x)) || x > mostCount || strings.ContainsAny(text, ".,") {
		return 0, false
	}
	return int64(x), true
}

// looseName reports whether a total may be called so, and an answer, too.
func looseName(s string) bool {
	return slices.Contains([]string{"", "all", "n"}, strings.ToLower(strings.TrimSpace(s)))
}

func isTotalName(s string) bool { return survey.IsTotalName(s) || looseName(s) }

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
	n, ok := wholeCount(cells[counts])
	switch {
	case !ok:
		t.report(Problem{Code: BadCount, Line: place, Column: counts + 1, Text: excerpt(cells[counts])})
	case len(strings.TrimSpace(string(cells[counts]))) == 0:
		if !t.Settings.BlankIsZero {
			t.report(Problem{Code: BlankCount, Line: place, Column: counts + 1})
		}
	}
	cells[counts] = strconv.AppendInt(nil, n, 10)
	if len(sums.rows) >= mostListed {
		return true
	}
	r := countedRow{count: n, place: place}
	for i, c := range cells {
		if i != counts {
			r.cells = append(r.cells, strings.TrimSpace(string(c)))
		}
	}
	if slices.ContainsFunc(r.cells, survey.IsTotalName) || sums.equals(r) {
		sums.lines = append(sums.lines, r)
		return false
	}
	sums.rows, sums.sum = append(sums.rows, r), sums.sum+n
	return true
}

// equals reports whether a line with nothing but loose names is the sum of those before
// it.
func (s *totals) equals(r countedRow) bool {
	return len(s.rows) > 1 && !slices.ContainsFunc(r.cells, func(c string) bool { return !looseName(c) }) && r.count == s.sum
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
				t.report(Problem{Code: ManyTotals, Line: r.place, Wanted: mostMasks})
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
