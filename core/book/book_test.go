package book

import (
	"fmt"
	"math"
	"math/bits"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/survey"
)

// single is a question with so many answers, 1, 2, 3 …, and a blank.
func single(name string, kind survey.Kind, answers int, slots []uint8) survey.Source {
	q := survey.Question{Name: name, Kind: kind, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}
	for i := range answers {
		q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(i + 1), Code: fmt.Sprint(i + 1), Label: fmt.Sprintf("%s %d", name, i+1)})
	}
	return survey.Source{Question: q, Column: survey.Column{U8: slots}}
}

// from is a source of some questions and one subgroup, "half": the even rows.
func from(t *testing.T, rows int, sources ...survey.Source) From {
	t.Helper()
	of, err := analysis.NewTable(sources, "")
	require.NoError(t, err)
	half := survey.NewSet(rows)
	for row := 0; row < rows; row += 2 {
		half.Add(row)
	}
	of.Sample = func(key analysis.Key) (survey.Sample, error) {
		if key == "half" {
			return survey.Sample{Subset: half}, nil
		}
		return survey.Sample{}, nil
	}
	return From{Columns: of, Rows: rows, SubgroupName: func(key analysis.Key) string { return string(key) }}
}

func make1(t *testing.T, b Book, banner Banner, of From, key analysis.Key, nets ...Net) (*Made, *Layout) {
	t.Helper()
	l, err := Lay(banner, of)
	require.NoError(t, err)
	s, err := of.Get(key)
	require.NoError(t, err)
	made, err := Make(t.Context(), b, l, []Table{{Questions: []Listed{{key, s.Question}}}}, func(analysis.Key) []Net { return nets }, of)
	require.NoError(t, err)
	return made[0], l
}

// counts lays a table of counts out as respondents.
func counts(table [][]int64) (rows, columns []uint8) {
	for i, row := range table {
		for j, n := range row {
			for range n {
				rows, columns = append(rows, uint8(i+1)), append(columns, uint8(j+1))
			}
		}
	}
	return rows, columns
}

// Letters, their statistics and their adjustments are those worked out elsewhere, from the definitions.
func TestLettersWorkedOutElsewhere(t *testing.T) {
	t.Parallel()
	rows, columns := counts([][]int64{{60, 45, 80, 10}, {30, 60, 70, 25}, {10, 25, 30, 20}})
	of := from(t, len(rows), single("q", survey.Single, 3, rows), single("by", survey.Single, 4, columns))
	banner := Banner{[]Break{{}, {Questions: []analysis.Key{"by"}}}}
	for adjust, want := range map[Adjust][3]string{
		ByHolm:              {"bD . d .", ". . . .", ". . . ac"},
		ByBenjaminiHochberg: {"BcD . d .", ". a . .", ". . . Abc"},
		NotAdjusted:         {"BcD d D .", ". a . .", ". . . Abc"},
	} {
		b := Book{Few: 30, Differences: Differences{Against: EachOther, Levels: []float64{0.05, 0.001}, Adjust: adjust}}
		made, l := make1(t, b, banner, of, "q")
		assert.Equal(t, 18, made.Tests)
		assert.Zero(t, made.Untested)
		for i, row := range made.Document(b, l, "homes", "", disclosure.Rule{}).Table.Rows[:3] {
			assert.Empty(t, figureOf(row.Cells[0], document.Above), "everyone is compared with nobody")
			var letters []string
			for _, c := range row.Cells[1:] {
				f := figureOf(c, document.Above)
				if f == "" {
					f = "."
				}
				letters = append(letters, f)
			}
			assert.Equal(t, want[i], strings.Join(letters, " "), "%s, row %d", adjust, i)
		}
		if adjust == ByHolm {
			c := made.Rows[2].Cells[4].Compared[1] // the fourth column against the second
			assert.Equal(t, 2, c.Other)
			assert.InDelta(t, 2.48255373317, c.Statistic, 1e-10)
			assert.InDelta(t, 0.0130444392744, c.P.Value, 1e-12)
			assert.InDelta(t, 0.164003673883, c.Adjusted.Value, 1e-11)
			assert.InDelta(t, 20.0/55-25.0/130, c.Difference, 1e-15)
		}
	}
}

func figureOf(c document.Cell, role document.Role) string {
	for _, f := range c.Figures {
		if f.Role == role {
			return f.Value.Text
		}
	}
	return ""
}

// world is a random file: two questions of answers, a choose-all question, a number and a whole number, weights,
// strata and clusters.
func world(t *testing.T, rows int, seed uint64) (From, map[string][]float64, []uint64) {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 1))
	plain := map[string][]float64{}
	slots := func(name string, answers int) []uint8 {
		out := make([]uint8, rows)
		for i := range out {
			if r.IntN(12) > 0 {
				out[i] = uint8(1 + r.IntN(answers))
			}
			plain[name] = append(plain[name], float64(out[i]))
		}
		return out
	}
	a, b, size := single("a", survey.Single, 4, slots("a", 4)), single("b", survey.Single, 3, slots("b", 3)), single("size", survey.Discrete, 5, slots("size", 5))
	// 4 is another spelling of 2
	b.Question.Answers = append(b.Question.Answers, survey.Answer{Slot: 4, Code: "two", SameAs: &b.Question.Answers[2].Slot})
	for i := range b.Column.U8 {
		if b.Column.U8[i] == 2 && i%3 == 0 {
			b.Column.U8[i] = 4
		}
	}
	set := single("set", survey.ChooseAll, 4, nil)
	sets := make([]uint64, rows)
	for i := range sets {
		if sets[i] = 1; r.IntN(10) > 0 { // else missing
			sets[i] = uint64(r.IntN(16)) << 1
		}
	}
	set.Column = survey.Column{Sets: sets}
	number := survey.Source{Question: survey.Question{Name: "income", Kind: survey.Continuous, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}}
	weight := survey.Source{Question: survey.Question{Name: "w", Kind: survey.Weight, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "blank"}}}}
	for i := range rows {
		x := 10 + 3*r.NormFloat64() + plain["a"][i]
		if r.IntN(9) == 0 {
			x = survey.MissingNumber(survey.Blank)
		}
		number.Column.F64, weight.Column.F64 = append(number.Column.F64, x), append(weight.Column.F64, 0.5+r.Float64())
	}
	cluster := single("cluster", survey.Single, 40, nil)
	for i := range rows {
		cluster.Column.U8 = append(cluster.Column.U8, uint8(1+i%40))
	}
	plain["income"] = number.Column.F64
	return from(t, rows, a, b, size, set, number, weight, cluster), plain, sets
}

// Whatever a column is made of, its figures are those of the respondents who are in it, counted one by one.
func TestColumnsHoldWhoTheySay(t *testing.T) {
	t.Parallel()
	const rows = 70_000 // more than the fast way of counting begins with
	of, plain, sets := world(t, rows, 7)
	banner := Banner{[]Break{
		{}, {Questions: []analysis.Key{"a"}}, {Subgroup: "half"}, {Questions: []analysis.Key{"set"}, Answers: [][]string{{"1", "3"}}},
		{Questions: []analysis.Key{"b", "a"}, Answers: [][]string{{"1", "2"}}, Label: "Wards"}, {Questions: []analysis.Key{"b", "set"}},
	}}
	require.Empty(t, banner.Check(func(key analysis.Key) (survey.Question, bool) {
		s, err := of.Get(key)
		return s.Question, err == nil
	}, func(analysis.Key) bool { return true }))
	l, err := Lay(banner, of)
	require.NoError(t, err)
	in := []func(row int) bool{func(int) bool { return true }}
	for a := range 4 {
		in = append(in, func(row int) bool { return plain["a"][row] == float64(a+1) })
	}
	in = append(in, func(row int) bool { return row%2 == 0 })
	for _, item := range []int{1, 3} {
		in = append(in, func(row int) bool { return sets[row]>>item&1 == 1 })
	}
	for b := range 2 {
		for a := range 4 {
			in = append(in, func(row int) bool { return plain["b"][row] == float64(b+1) && plain["a"][row] == float64(a+1) })
		}
	}
	for b := range 3 {
		for item := range 4 {
			in = append(in, func(row int) bool { return plain["b"][row] == float64(b+1) && sets[row]>>(item+1)&1 == 1 })
		}
	}
	require.Len(t, l.Columns, len(in))
	assert.Equal(t, "Wards/b 2/a/a 3", path(l.Columns[8+6]))
	assert.Less(t, len(l.packs), len(l.parts), "small partitions are counted together")
	made := map[string]*Made{}
	for _, key := range []analysis.Key{"b", "set", "size", "income"} {
		made[string(key)], _ = make1(t, Book{}, banner, of, key, Net{"some", []string{"1", "3"}})
	}
	for column, is := range in {
		for r, row := range made["b"].Rows {
			answers := [][]float64{{1}, {2}, {3}, {1, 3}}[r]
			n, hits := 0, 0
			for i, x := range plain["b"] {
				if is(i) && x > 0 {
					n++
					hits += boolInt(slices.Contains(answers, x))
				}
			}
			assert.Equal(t, []int64{int64(n), int64(hits)}, []int64{row.Cells[column].N, row.Cells[column].Count}, "column %d, row %d", column, r)
		}
		for r, row := range made["set"].Rows {
			mask := []uint64{2, 4, 8, 16, 2 | 8}[r]
			n, hits := 0, 0
			for i, x := range sets {
				if is(i) && x&1 == 0 {
					n++
					hits += boolInt(bits.OnesCount64(x&mask) > 0)
				}
			}
			assert.Equal(t, []int64{int64(n), int64(hits)}, []int64{row.Cells[column].N, row.Cells[column].Count}, "column %d, item %d", column, r)
		}
		for name, at := range map[string]int{"size": 6, "income": 0} {
			var numbers []float64
			for i, x := range plain[name] {
				if is(i) && !math.IsNaN(x) && (name != "size" || x > 0) {
					numbers = append(numbers, x)
				}
			}
			slices.Sort(numbers)
			sum := 0.0
			for _, x := range numbers {
				sum += x
			}
			mean, median := made[name].Rows[at], made[name].Rows[at+1]
			require.Equal(t, []RowKind{MeanRow, MedianRow}, []RowKind{mean.Kind, median.Kind})
			k := len(numbers)
			assert.InDelta(t, sum/float64(k), *mean.Cells[column].Value, 1e-9, "%s in column %d", name, column)
			assert.InDelta(t, (numbers[(k-1)/2]+numbers[k/2])/2, *median.Cells[column].Value, 1e-12)
		}
	}
}

func boolInt(is bool) int {
	if is {
		return 1
	}
	return 0
}

func path(c Column) string {
	var parts []string
	for _, m := range append(slices.Clone(c.Over), c.Label) {
		parts = append(parts, m.Values["value"].Text)
	}
	return strings.Join(parts, "/")
}

// By a design, the figures and tests of columns are those of the comparison of two shares or means that stands
// against references, also against all others.
func TestEstimatesOfColumns(t *testing.T) {
	t.Parallel()
	of, _, _ := world(t, 4000, 11)
	of.Design = &analysis.Drawn{Weight: "w", Cluster: "cluster"}
	banner := Banner{[]Break{{}, {Questions: []analysis.Key{"a"}}, {Questions: []analysis.Key{"set"}}}}
	for _, against := range []Against{EachOther, AllOthers} {
		b := Book{Differences: Differences{Against: against, Adjust: NotAdjusted}}
		made, _ := make1(t, b, banner, of, "b")
		cells, err := of.Cells(t.Context(), []analysis.Key{"b", "a"}, "")
		require.NoError(t, err)
		row := made.Rows[1]
		in := func(group int, not bool) func(cell int) (bool, bool) {
			return func(cell int) (counts, in bool) { return cell/4 == 1, (cell%4 == group) != not }
		}
		whole, err := of.Cells(t.Context(), []analysis.Key{"b"}, "")
		require.NoError(t, err)
		assert.InDelta(t, whole.Shares().Share[1], *row.Cells[0].Value, 1e-14)
		if against == EachOther {
			two, err := cells.Compare(in(0, false), in(2, false))
			require.NoError(t, err)
			c := row.Cells[1].Compared[1]
			require.Equal(t, 3, c.Other)
			assert.InDelta(t, two.A.Mean, *row.Cells[1].Value, 1e-14)
			assert.InDelta(t, two.A.SE(), *row.Cells[1].SE, 1e-14)
			assert.InDelta(t, two.Difference.Value/two.Difference.SE(), c.Statistic, 1e-9)
			assert.InDelta(t, float64(two.DF), c.DF, 0)
			numbers, _ := make1(t, b, banner, of, "income")
			d, err := of.Drawing(t.Context(), "income", "a", "")
			require.NoError(t, err)
			means, err := d.Sample.Two(d.Part(0), d.Part(2))
			require.NoError(t, err)
			assert.InDelta(t, means.Difference.Value/means.Difference.SE(), numbers.Rows[0].Cells[1].Compared[1].Statistic, 1e-9)
			for _, cell := range row.Cells[5:] {
				assert.Empty(t, cell.Compared, "columns that overlap are not compared with each other")
			}
		} else {
			c := row.Cells[1].Compared[0]
			require.Equal(t, Others, c.Other)
			// All others are those who answered b but gave no 1 to a, also those who gave a no answer.
			sum, hits := 0.0, 0.0
			as, _ := of.Get("a")
			bs, _ := of.Get("b")
			ws, _ := of.Get("w")
			for i, w := range ws.Column.F64 {
				if x := bs.Column.U8[i]; x > 0 && as.Column.U8[i] != 1 {
					sum += w
					if x == 2 || x == 4 {
						hits += w
					}
				}
			}
			assert.InDelta(t, *row.Cells[1].Value-hits/sum, c.Difference, 1e-12)
			assert.NotEmpty(t, row.Cells[5].Compared, "an answer of several is compared with all who did not choose it")
		}
	}
}

// Columns that are made of the question itself, that rest on too few, or whose counts are small are not compared,
// and what is hidden or bracketed is said.
func TestWhatIsNotCompared(t *testing.T) {
	t.Parallel()
	rows, columns := counts([][]int64{{60, 20, 3, 1}, {40, 30, 97, 1}})
	of := from(t, len(rows), single("q", survey.Single, 2, rows), single("by", survey.Single, 4, columns))
	banner := Banner{[]Break{{Questions: []analysis.Key{"by"}}, {Questions: []analysis.Key{"q"}}}}
	b := Book{Few: 60, Least: 5, Differences: Differences{Against: EachOther}}
	made, l := make1(t, b, banner, of, "q")
	assert.Equal(t, 2, made.Tests, "the first against the third column, in both rows")
	assert.Equal(t, 10, made.Untested)
	assert.Equal(t, []int{1}, made.Own)
	shown := made.Document(b, l, "homes", "", disclosure.Rule{})
	first := shown.Table.Rows[0].Cells
	assert.Equal(t, []bool{false, true, false, false}, []bool{first[0].Few, first[1].Few, first[2].Few, first[3].Few})
	assert.Equal(t, "book.hidden", first[3].Figures[0].Value.Message.ID)
	var ids []string
	for _, n := range shown.Notes {
		ids = append(ids, strings.TrimPrefix(n.ID, "book.note."))
	}
	assert.Equal(t, []string{"answered", "columns", "test", "untested", "own", "hidden", "few"}, ids)
	assert.Equal(t, Chance{Tables: 1, Tests: 2, Standing: 2, Level: 0.05, Adjust: ByHolm}, b.ChanceOf([]*Made{made}))
}

// A banner and a book say what is wrong with them, and where.
func TestChecks(t *testing.T) {
	t.Parallel()
	of, _, _ := world(t, 100, 3)
	question := func(key analysis.Key) (survey.Question, bool) {
		s, err := of.Get(key)
		return s.Question, err == nil
	}
	subgroup := func(key analysis.Key) bool { return key == "half" }
	for want, b := range map[string]Break{
		"banner.question /breaks/0/questions/0":      {Questions: []analysis.Key{"gone"}},
		"banner.same_question /breaks/0/questions/1": {Questions: []analysis.Key{"a", "a"}},
		"banner.kind /breaks/0/questions/0":          {Questions: []analysis.Key{"set", "a"}},
		"banner.no_answer /breaks/0/questions/0":     {Questions: []analysis.Key{"a"}, Answers: [][]string{{"9"}}},
		"banner.subgroup /breaks/0/subgroup":         {Subgroup: "other"},
		"banner.nested /breaks/0/questions":          {Questions: []analysis.Key{"a", "b", "size", "set"}},
		"banner.label /breaks/0/label":               {Label: strings.Repeat("x", MostLabel+1)},
		"banner.columns /breaks":                     {Questions: []analysis.Key{"cluster", "a"}},
	} {
		p := Banner{[]Break{b}}.Check(question, subgroup)
		require.Len(t, p, 1, want)
		assert.Equal(t, want, p[0].Code+" "+p[0].Pointer)
	}
	all := Choice{Which: AllQuestions}
	two := []analysis.Key{"a", "b"}
	for want, b := range map[string]Book{
		"book.choice /choice/which":           {},
		"book.question /choice/questions/0":   {Choice: Choice{Which: Picked, Questions: []analysis.Key{"gone"}}},
		"book.levels /differences/levels":     {Choice: all, Differences: Differences{Levels: []float64{0.01, 0.05}}},
		"book.figures /figures/1":             {Choice: all, Figures: []document.Role{document.Observed, document.Observed}},
		"book.battery_answers /batteries/0":   {Choice: all, Batteries: []Battery{{Questions: two, Shows: FirstAnswers, Boxes: 1}}},
		"book.battery_scores /batteries/0":    {Choice: all, Batteries: []Battery{{Questions: two, Shows: MeanScores}}},
		"book.battery_questions /batteries/0": {Choice: all, Batteries: []Battery{{Questions: two[:1], Shows: MeanScores}}},
		"book.subgroup /subgroup":             {Choice: all, Subgroup: "gone"},
		"book.bases /few":                     {Choice: all, Few: -1},
		"book.adjust /differences/adjust":     {Choice: all, Differences: Differences{Adjust: "so"}},
		"book.against /differences/against":   {Choice: all, Differences: Differences{Against: "so"}},
		"book.order /order":                   {Choice: all, Order: "so"},
		"book.title /title":                   {Choice: all, Title: strings.Repeat("x", MostLabel+1)},
	} {
		p := b.Check(question, subgroup)
		require.Len(t, p, 1, want)
		assert.Equal(t, want, p[0].Code+" "+p[0].Pointer)
	}
}
