package book

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize/convex/lp"

	"widetally/core/analysis"
	"widetally/core/disclosure"
	"widetally/core/survey"
)

// attack is what somebody knows who has the published counts of a table: sums of how many respondents there are of
// each kind, which are unknown and not negative.
type attack struct {
	rows  [][]float64
	right []float64
}

func (a *attack) knows(of []float64, n int64) {
	a.rows, a.right = append(a.rows, append([]float64{}, of...)), append(a.right, float64(n))
}

// independent leaves out what follows from the rest, which the solver cannot take.
func (a *attack) independent() {
	var kept attack
	var reduced [][]float64
	for i, row := range a.rows {
		r := append([]float64{}, row...)
		for _, other := range reduced {
			lead := 0
			for other[lead] == 0 {
				lead++
			}
			if f := r[lead] / other[lead]; f != 0 {
				for k := range r {
					if r[k] -= f * other[k]; math.Abs(r[k]) < 1e-9 {
						r[k] = 0
					}
				}
			}
		}
		for _, x := range r {
			if x != 0 {
				reduced = append(reduced, r)
				kept.knows(row, int64(a.right[i]))
				break
			}
		}
	}
	*a = kept
}

// least is the smallest that a sum of kinds can be.
func (a *attack) least(t *testing.T, of []float64, sign float64) float64 {
	t.Helper()
	var c []float64
	columns := make([][]float64, len(a.rows))
	for i, x := range of {
		free := true // nothing is known of it
		for _, row := range a.rows {
			free = free && row[i] == 0
		}
		if !free {
			c = append(c, sign*x)
			for k, row := range a.rows {
				columns[k] = append(columns[k], row[i])
			}
		} else if sign*x < 0 {
			return math.Inf(-1)
		}
	}
	flat := []float64{}
	for _, row := range columns {
		flat = append(flat, row...)
	}
	value, _, err := lp.Simplex(c, mat.NewDense(len(a.rows), len(c), flat), append([]float64{}, a.right...), 1e-9, nil)
	if err == lp.ErrUnbounded {
		return math.Inf(-1)
	}
	require.NoError(t, err)
	return value
}

// Whoever knows all published counts of a table, over breaks, a nested one and a subgroup, can tell none of the
// others more closely than the rule says: the counts of all kinds of respondents that there could be, by a
// solver that the implementation does not use.
func TestABookTellsNobody(t *testing.T) {
	t.Parallel()
	banner := Banner{[]Break{{}, {Questions: []analysis.Key{"a"}}, {Questions: []analysis.Key{"b"}}, {Questions: []analysis.Key{"b", "a"}, Answers: [][]string{{"1", "2"}}}}}
	rule := disclosure.Rule{Fewest: 5, Least: 8}
	withheld, told := 0, 0
	for seed := range uint64(3) {
		of, plain, _ := world(t, 260+120*int(seed), 100+seed)
		made, l := make1(t, Book{}, banner, of, "size")
		made.Rows = made.Rows[:5] // the answers
		made.Protect(rule, l)
		// A kind of respondents is an answer, and one of each question of the banner, 0 for none.
		const kinds = 5 * 5 * 4
		index := func(size, a, b int) int { return ((size-1)*5+a)*4 + b }
		kind := func(row, column int) []float64 {
			out := make([]float64, kinds)
			for size := 1; size <= 5; size++ {
				for a := range 5 {
					for b := range 4 {
						in := row == 5 || size == row+1
						switch {
						case column == 0:
						case column <= 4:
							in = in && a == column
						case column <= 7:
							in = in && b == column-4
						default:
							in = in && b == 1+(column-8)/4 && a == 1+(column-8)%4
						}
						if in {
							out[index(size, a, b)] = 1
						}
					}
				}
			}
			return out
		}
		var known attack
		type place struct{ row, column int }
		var open []place
		for row := range 6 {
			for column := range l.Columns {
				n, why := made.Bases[column].N, made.WithheldBases[column]
				if row < 5 {
					n, why = made.Rows[row].Cells[column].Count, made.Rows[row].Cells[column].Withheld
				}
				counted := int64(0)
				for i, size := range plain["size"] {
					if k := kind(row, column); size > 0 && k[index(int(size), int(plain["a"][i]), int(plain["b"][i]))] == 1 {
						counted++
					}
				}
				require.Equal(t, counted, n, "the column holds whom this test takes it to hold")
				if why != "" {
					open = append(open, place{row, column})
					continue
				}
				told++
				require.False(t, row < 5 && n > 0 && n < rule.Fewest, "%d is told", n)
				known.knows(kind(row, column), n)
			}
			// How many are in no column is taken to be known.
			for _, none := range [][2]int{{0, -1}, {-1, 0}} {
				of, n := make([]float64, kinds), int64(0)
				for size := 1; size <= 5; size++ {
					for a := range 5 {
						for b := range 4 {
							if (row == 5 || size == row+1) && (none[0] != 0 || a == 0) && (none[1] != 0 || b == 0) {
								of[index(size, a, b)] = 1
							}
						}
					}
				}
				for i, size := range plain["size"] {
					if size > 0 && of[index(int(size), int(plain["a"][i]), int(plain["b"][i]))] == 1 {
						n++
					}
				}
				known.knows(of, n)
			}
		}
		known.independent()
		for _, p := range open {
			withheld++
			of := kind(p.row, p.column)
			lower, upper := known.least(t, of, 1), -known.least(t, of, -1)
			assert.GreaterOrEqual(t, upper-lower, float64(rule.Width())-1e-6, "world %d, row %d, column %d: from %v to %v", seed, p.row, p.column, lower, upper)
		}
	}
	assert.Greater(t, withheld, 80)
	assert.Greater(t, told, withheld)
}

// A rule rounds counts and the percents that are made of them, and tells no counts where it says so; what is withheld
// bears its reason, and nothing is compared with it.
func TestARuleOfWhatLeaves(t *testing.T) {
	t.Parallel()
	rows, columns := counts([][]int64{{61, 2, 33}, {44, 41, 27}})
	of := from(t, len(rows), single("q", survey.Single, 2, rows), single("by", survey.Single, 3, columns))
	b := Book{Figures: Figures, Differences: Differences{Against: EachOther}}
	made, l := make1(t, b, Banner{[]Break{{}, {Questions: []analysis.Key{"by"}}}}, of, "q")
	rule := disclosure.Rule{Fewest: 5, Rounding: 5}
	made.Protect(rule, l)
	shown := made.Document(b, l, "homes", "", rule)
	first := shown.Table.Rows[0].Cells
	assert.Equal(t, "book.hidden", first[2].Figures[0].Value.Message.ID)
	assert.Equal(t, "book.withheld.small", first[2].Said.ID)
	held := 0
	for _, row := range shown.Table.Rows {
		for _, c := range row.Cells {
			if c.Said.ID == "book.withheld.others" {
				held++
			}
		}
	}
	assert.Equal(t, 3, held, "a rectangle")
	assert.Equal(t, SmallCount, made.Rows[0].Cells[2].Withheld)
	for _, c := range made.Rows[0].Cells[1].Compared {
		assert.NotEqual(t, 2, c.Other)
	}
	all := first[0] // 96 of 208: 95 of 210
	assert.InDelta(t, 100*95.0/210, all.Figures[0].Value.Number, 1e-12)
	assert.InDelta(t, 95, all.Figures[2].Value.Number, 0)
	for _, f := range made.Document(b, l, "homes", "", disclosure.Rule{PercentsOnly: true}).Table.Rows[0].Cells[0].Figures {
		assert.NotEqual(t, "observed", string(f.Role))
	}
	assert.Equal(t, int64(0), rule.Rounded(2))
	assert.Equal(t, int64(5), rule.Rounded(3))
	assert.Len(t, disclosure.Rule{Least: -1, Fewest: 20_000, Rounding: 4}.Check(), 3)
}

// The rare ends of a number stand in one row each, the same for all columns, counted and by a design; a net that holds
// one whole is added up from it, and one that cuts an end apart keeps the values as they are.
func TestTheEndsOfNumbersInABook(t *testing.T) {
	t.Parallel()
	var people, ward []uint8
	for i, n := range []int{2, 1, 30, 40, 3, 1, 2} { // 1 to 7
		for k := range n {
			people, ward = append(people, uint8(i+1)), append(ward, uint8(1+k%2))
		}
	}
	numbers := single("people", survey.Discrete, 7, people)
	weight := survey.Source{Question: survey.Question{Name: "w", Kind: survey.Weight, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}}
	for range people {
		weight.Column.F64 = append(weight.Column.F64, 2)
	}
	of := from(t, len(people), numbers, single("ward", survey.Single, 2, ward), weight)
	of.Rule = disclosure.Rule{Fewest: 5, CodeEnds: true}
	shown := func(of From, nets ...Net) (labels []string, all []int64, made *Made) {
		made, l := make1(t, Book{}, Banner{Breaks: []Break{{}, {Questions: []analysis.Key{"ward"}}}}, of, "people", nets...)
		for _, row := range made.Rows {
			if row.Kind.Shares() {
				labels, all = append(labels, row.Label), append(all, row.All.Count)
			}
		}
		made.Protect(of.Rule, l)
		return labels, all, made
	}
	designed := of
	designed.Design = &analysis.Drawn{Weight: "w"}
	for what, from := range map[string]From{"counted": of, "by a design": designed} {
		labels, all, _ := shown(from)
		assert.Equal(t, []string{"≤\u00a03", "people 4", "≥\u00a05"}, labels, what)
		assert.Equal(t, []int64{33, 40, 6}, all, what)
	}
	labels, all, made := shown(of, Net{"Five or more", []string{"5", "6", "7"}})
	assert.Equal(t, []string{"≤\u00a03", "people 4", "≥\u00a05", "Five or more"}, labels)
	assert.Equal(t, []int64{33, 40, 6, 6}, all)
	for row := range 2 { // the end of three in a ward is withheld, and with it the net that is the same
		assert.Equal(t, made.Rows[2].Cells[1+row].Withheld != "", made.Rows[3].Cells[1+row].Withheld != "", row)
	}
	labels, _, _ = shown(of, Net{"Six or seven", []string{"6", "7"}})
	assert.Len(t, labels, 8, "a net cuts the end apart")
	of.Rule = disclosure.Rule{Fewest: 5}
	labels, _, _ = shown(of)
	assert.Len(t, labels, 7)
}

// A cell that is withheld says what could still be told of it: the least and the largest count of all tables that have
// the figures that are told, which are gone through here one by one.
func TestWhatCouldStillBeTold(t *testing.T) {
	t.Parallel()
	table := [][]int64{{38, 20, 30}, {2, 20, 3}}
	use, ward := counts(table)
	of := from(t, len(use), single("use", survey.Single, 2, use), single("ward", survey.Single, 3, ward))
	rule := disclosure.Rule{Fewest: 5}
	made, l := make1(t, Book{}, Banner{Breaks: []Break{{}, {Questions: []analysis.Key{"ward"}}}}, of, "use")
	made.Protect(rule, l)
	out := func(row, ward int) bool { return made.Rows[row].Cells[1+ward].Withheld != "" }
	var could [2][3]disclosure.Range
	for row := range 2 {
		for w := range 3 {
			could[row][w] = disclosure.Range{Lower: math.Inf(1), Upper: math.Inf(-1)}
		}
	}
	for a := range int64(26) { // the second row holds 25, the wards 40, 40 and 33; all of these are told
		for b := range 26 - a {
			second := [3]int64{a, b, 25 - a - b}
			fits := true
			for w, n := range second {
				base := table[0][w] + table[1][w]
				fits = fits && n <= base && (out(1, w) || n == table[1][w]) && (out(0, w) || base-n == table[0][w])
			}
			for w, n := range second {
				for row, n := range []int64{table[0][w] + table[1][w] - n, n} {
					if r := &could[row][w]; fits {
						r.Lower, r.Upper = math.Min(r.Lower, float64(n)), math.Max(r.Upper, float64(n))
					}
				}
			}
		}
	}
	withheld := 0
	for row := range 2 {
		assert.Empty(t, made.Rows[row].Cells[0].Withheld)
		for w := range 3 {
			cell := made.Rows[row].Cells[1+w]
			if cell.Withheld == "" {
				assert.Nil(t, cell.Could)
				continue
			}
			withheld++
			assert.Equal(t, could[row][w], *cell.Could, "%d %d", row, w)
			assert.GreaterOrEqual(t, cell.Could.Upper-cell.Could.Lower, 5.0)
		}
	}
	assert.GreaterOrEqual(t, withheld, 4)
	said := made.Document(Book{}, l, "homes", "", rule).Table.Rows[1].Cells[1].Said
	assert.Equal(t, "book.withheld.small_within", said.ID)
	assert.InDelta(t, made.Rows[1].Cells[1].Could.Upper, said.Values["upper"].Number, 0)
}
