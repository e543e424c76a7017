package intake

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// combined lists a summarised table as "answers=count" in its order.
func combined(t *Table) (out []string) {
	for i := range t.Rows {
		var cells []string
		for k, c := range t.Columns {
			if k != t.CountColumn {
				cells = append(cells, c.Code(c.Data, i))
			}
		}
		out = append(out, fmt.Sprintf("%s=%v", strings.Join(cells, "|"), t.Columns[t.CountColumn].Data.F64[i]))
	}
	return out
}

func shaped(shape Shape, change func(*Settings)) Settings {
	s := comma
	s.Shape = shape
	if change != nil {
		change(&s)
	}
	return s
}

func TestSummarisedForms(t *testing.T) {
	t.Parallel()
	noHeader := func(s *Settings) { s.HeaderRow = 0 }
	counts := shaped(Counts, func(s *Settings) { s.CountColumn = "n" })
	asked := shaped(Two, func(s *Settings) { s.Second, s.HeaderRow = SecondIsAsked, 0 })
	no := shaped(Two, func(s *Settings) { s.Second, s.HeaderRow = SecondIsNo, 0 })
	next := shaped(Classes, func(s *Settings) { s.UpTo = UpToNext })
	cases := []struct {
		name, in string
		s        Settings
		want     []string
		left     []string
	}{
		{"answer and count", "ward,n\nHarbour,238\nFenside,0\n", counts, []string{"Harbour=238", "Fenside=0"}, nil},
		{"two answers and a count", "ward,caddy,n\nHarbour,yes,3\nHarbour,no,4\n", counts, []string{"Harbour|yes=3", "Harbour|no=4"}, nil},
		{"grid", "ward × caddy,yes,no\nHarbour,3,4\nFenside,5,\n", shaped(Grid, func(s *Settings) { s.BlankIsZero = true }), []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=5", "Fenside|no=0"}, nil},
		{"grid with a blank corner total", "ward,yes,no,Total\nHarbour,3,4,7\nFenside,5,6,11\nTotal,8,10,\n", shaped(Grid, nil), []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=5", "Fenside|no=6"}, []string{"Total", "Total"}},
		{"a list with its total", "ward,n\nSaltings,3\nHarbour,238\nTotal,241\n", counts, []string{"Saltings=3", "Harbour=238"}, []string{"Total"}},
		{"a list with a nameless total", "ward,n\nSaltings,3\nHarbour,238\n,241\n", counts, []string{"Saltings=3", "Harbour=238"}, []string{""}},
		{"a blank answer that is no total", "ward,n\nSaltings,3\nHarbour,238\n,7\n", counts, []string{"Saltings=3", "Harbour=238", "=7"}, nil},
		{"an answer called all", "said,n\nnone,3\nall,5\n", counts, []string{"none=3", "all=5"}, nil},
		{"subtotals", "ward,caddy,n\nHarbour,yes,3\nHarbour,no,4\nHarbour,Total,7\nFenside,yes,1\nFenside,no,1\nTotal,Total,9\n", counts, []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=1", "Fenside|no=1"}, []string{"Harbour Total", "Total Total"}},
		{"counts as they are printed", "ward,n\nSaltings,\"1,200\"\nHarbour,1 420\nFenside,3.0\nOldgate,2'000\n", counts, []string{"Saltings=1200", "Harbour=1420", "Fenside=3", "Oldgate=2000"}, nil},
		{"grid with totals", "ward,yes,no,Total\nHarbour,3,4,7\nFenside,5,6,11\nsum,8,10,18\n", shaped(Grid, nil), []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=5", "Fenside|no=6"}, []string{"Total", "sum"}},
		{"grid with nameless totals", ",yes,no,\nHarbour,3,4,7\n,3,4,7\n", shaped(Grid, nil), []string{"Harbour|yes=3", "Harbour|no=4"}, nil},
		{"totals that stand first", "ward,Total,yes,no\nTotal:,18,8,10\nHarbour,7,3,4\nFenside,11,5,6\n", shaped(Grid, nil), []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=5", "Fenside|no=6"}, []string{"Total", "Total:"}},
		{"totals without their figures", "ward,yes,no,Total\nHarbour,3,4,\nFenside,5,6,\nTotal,,,18\n", shaped(Grid, nil), []string{"Harbour|yes=3", "Harbour|no=4", "Fenside|yes=5", "Fenside|no=6"}, []string{"Total", "Total"}},
		{"answers called all and n", "ward,all,n,yes\nall,3,4,5\nFenside,5,6,7\n", shaped(Grid, nil), []string{"all|all=3", "all|n=4", "all|yes=5", "Fenside|all=5", "Fenside|n=6", "Fenside|yes=7"}, nil},
		{"nothing but totals", "ward,Total\nTotal,3\n", shaped(Grid, nil), []string{"Total|Total=3"}, nil},
		{"percents beside the counts", "ward,n,%\nSaltings,3,1.2\nHarbour,238,98.8\nTotal,241,100.0\n", counts, []string{"Saltings|1.2=3", "Harbour|98.8=238"}, []string{"Total 100.0"}},
		{"a list with its total first", "ward,n\nTotal,241\nSaltings,3\nHarbour,238\n", counts, []string{"Saltings=3", "Harbour=238"}, []string{"Total"}},
		{"yes and asked", "62,100", asked, []string{"yes=62", "no=38"}, nil},
		{"yes and no", "62\n38\n", no, []string{"yes=62", "no=38"}, nil},
		{"nobody said yes", "0,5", asked, []string{"yes=0", "no=5"}, nil},
		{"classes", "age,n\n18–24,5\n25-34,7\n35+,2\n", next, []string{"18–24=5", "25-34=7", "35+=2"}, nil},
		{"classes with their total first", "age,n\nTotal,12\n18–24,5\n25-34,7\n", next, []string{"18–24=5", "25-34=7"}, []string{"Total"}},
		{"classes by limits", "from,to,n\n0,10,5\n10,20,7\n20,,1\nTotal,,13\n", shaped(Classes, noHeader), []string{"0–10=5", "10–20=7", "≥ 20=1"}, []string{"Total"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			table, err := Read(ctx, file(c.in), c.s, nil)
			require.NoError(t, err)
			require.Empty(t, table.Problems)
			assert.Equal(t, c.want, combined(table))
			if c.left != nil {
				assert.Equal(t, c.left, table.Left)
			}
		})
	}
}

// Long lists and tall grids take the time that their length asks for, and are as right as short
// ones: totals and names are looked for among very many.
func TestVeryManyLines(t *testing.T) {
	t.Parallel()
	counts := shaped(Counts, func(s *Settings) { s.CountColumn = "n" })
	const n = 60_000
	table, err := Read(ctx, file("ward,n\n"+strings.Repeat("Harbour,1\n,2\n", n)+"Harbour,"+fmt.Sprint(n)+"\nTotal,"+fmt.Sprint(4*n)+"\n"), counts, nil)
	require.NoError(t, err)
	assert.Empty(t, table.Problems)
	assert.Equal(t, []string{"Total"}, table.Left)
	assert.Equal(t, 2*n+1, table.Rows)
	table, err = Read(ctx, file("ward,n\n"+strings.Repeat("Harbour,1\nTotal,1\n", n)), counts, nil)
	require.NoError(t, err)
	assert.Len(t, table.Problems, maxReported, "each of the totals says 1 where there are many")
	assert.Len(t, table.Left, maxReported)

	grid := func(rows int) string {
		var b strings.Builder
		b.WriteString("ward,yes,no\n")
		for i := range rows {
			fmt.Fprintf(&b, "r%d,1,2\n", i)
		}
		return b.String()
	}
	const most = mostNamed
	table, err = Read(ctx, file(grid(most)+fmt.Sprintf("Total,%d,%d\n", most, 2*most)), shaped(Grid, nil), nil)
	require.NoError(t, err)
	assert.Empty(t, table.Problems)
	assert.Equal(t, 2*most, table.Rows)
	assert.Len(t, table.Columns[0].Answers, most+1, "and the blank one")
	table, err = Read(ctx, file(grid(n)+"r7,3,4\n"), shaped(Grid, nil), nil)
	require.NoError(t, err)
	assert.Equal(t, []Problem{{Code: AnswerTwice, Line: n + 2, Text: "r7"}, {Code: ManyAnswers, Text: "ward", Wanted: most}}, table.Problems)
	table, err = Read(ctx, file("ward,yes,no\nHarbour,1,2\n"+strings.Repeat("Total,1,2\n", n)+"Total,1,3\n"), shaped(Grid, nil), nil)
	require.NoError(t, err)
	assert.Equal(t, []Problem{{Code: WrongTotal, Line: n + 3, Column: 3, Found: 3, Wanted: 2}}, table.Problems)
	head, lines := strings.Repeat("q,", 12)+"n\n", ""
	for i := range 1 << 9 { // every way to name some of nine questions
		for bit := range 12 {
			lines += map[bool]string{true: "Total,", false: "a,"}[bit == 11 || i>>bit&1 == 1]
		}
		lines += "1\n"
	}
	of := shaped(Counts, func(s *Settings) { s.CountColumn, s.FixNames = "n", true })
	table, err = Read(ctx, file(head+strings.Repeat("a,", 12)+"1\n"+lines), of, nil)
	require.NoError(t, err)
	assert.Equal(t, []Problem{{Code: ManyTotals, Line: 3 + mostMasks}}, table.Problems)
	table, err = Read(ctx, file("ward,n\n"+strings.Repeat("Harbour,1\n", mostListed)+"Fenside,1\nTotal,200001\n"), counts, nil)
	require.NoError(t, err)
	assert.Equal(t, []Problem{{Code: ManyTotals, Line: mostListed + 3}}, table.Problems)
	var classes strings.Builder
	for i := range most + 1 {
		fmt.Fprintf(&classes, "%d-%d,1\n", 2*i, 2*i+2)
	}
	_, err = Read(ctx, file("age,n\n"+classes.String()), shaped(Classes, nil), nil)
	assert.Equal(t, &Problem{Code: ManyAnswers, Text: "age", Wanted: most}, err)
}

func TestLimitsOfClassesAreAskedNotGuessed(t *testing.T) {
	t.Parallel()
	in := "age,n\nunder 18,1\n18–24,5\n25–34,7\n35 and over,2\n"
	p := firstProblem(file(in), shaped(Classes, nil))
	require.NotNil(t, p)
	assert.Equal(t, AskUpTo, p.Code)
	show := func(s Settings) (out []string) {
		table, err := Read(ctx, file(in), s, nil)
		require.NoError(t, err)
		for _, a := range table.Columns[0].Answers {
			if a.Code != "" {
				limit := func(x *float64) string {
					if x == nil {
						return "open"
					}
					return fmt.Sprint(*x)
				}
				out = append(out, limit(a.From)+" "+limit(a.To))
			}
		}
		return out
	}
	low, high := 0.0, 90.0
	assert.Equal(t, []string{"open 18", "18 25", "25 35", "35 open"}, show(shaped(Classes, func(s *Settings) { s.UpTo = UpToNext })))
	assert.Equal(t, []string{"0 18", "18 24", "25 34", "35 90"}, show(shaped(Classes, func(s *Settings) { s.UpTo, s.OpenFrom, s.OpenTo = UpToUpper, &low, &high })))
}

func TestSummarisedFormsRefuse(t *testing.T) {
	t.Parallel()
	two := shaped(Two, func(s *Settings) { s.Second, s.HeaderRow = SecondIsAsked, 0 })
	counts := shaped(Counts, func(s *Settings) { s.CountColumn = "n" })
	upper := shaped(Classes, func(s *Settings) { s.UpTo = UpToUpper })
	cases := []struct {
		name, in string
		s        Settings
		want     Problem
	}{
		{"more yes than asked", "101 100", Settings{Format: Delimited, Encoding: UTF8, Delimiter: " ", Shape: Two, Second: SecondIsAsked}, Problem{Code: MoreYes, Line: 1, Found: 101, Wanted: 100}},
		{"half a respondent", "1.5,3", two, Problem{Code: BadCount, Line: 1, Column: 1, Text: "1.5"}},
		{"three numbers", "1,2,3", two, Problem{Code: NotTwo, Line: 1, Found: 3}},
		{"a negative count", "ward,n\nHarbour,-1\n", counts, Problem{Code: BadCount, Line: 2, Column: 2, Text: "-1"}},
		{"a count in words", "ward,n\nHarbour,1\nFenside,many\n", counts, Problem{Code: BadCount, Line: 3, Column: 2, Text: "many"}},
		{"a percent for a count", "ward,n\nHarbour,12 %\nFenside,88 %\n", counts, Problem{Code: BadCount, Line: 2, Column: 2, Text: "12 %"}},
		{"a percent in a grid", "ward,yes,no\nHarbour,3,4%\n", shaped(Grid, nil), Problem{Code: BadCount, Line: 2, Column: 3, Text: "4%"}},
		{"a percent of those asked", "62 %,100", two, Problem{Code: BadCount, Line: 1, Column: 1, Text: "62 %"}},
		{"a blank count", "ward,n\nHarbour,3\nFenside,\n", counts, Problem{Code: BlankCount, Line: 3, Column: 2}},
		{"a blank count of an answer called all", "ward,all,yes\nHarbour,,4\nFenside,3,4\n", shaped(Grid, nil), Problem{Code: BlankCount, Line: 2, Column: 2}},
		{"a line that is too long", "ward,yes,no\nHarbour,1,2,3\n", shaped(Grid, nil), Problem{Code: LongLine, Line: 2, Found: 4, Wanted: 3, Text: "3"}},
		{"a first total that is not the sum", "ward,Total,yes,no\nHarbour,8,3,4\n", shaped(Grid, nil), Problem{Code: WrongTotal, Line: 2, Column: 2, Found: 8, Wanted: 7}},
		{"a total below that is not the sum", "ward,yes,no,Total\nHarbour,1,2,3\nTotal,1,2,4\n", shaped(Grid, nil), Problem{Code: WrongTotal, Line: 3, Column: 4, Found: 4, Wanted: 3}},
		{"no such column", "ward,m\nHarbour,1\n", counts, Problem{Code: NoCounts, Text: "n"}},
		{"a subtotal that is not the sum", "ward,caddy,n\n1,yes,3\n1,no,4\n2,yes,5\n1,Total,8\n2,Total,5\n", counts, Problem{Code: WrongTotal, Line: 5, Found: 8, Wanted: 7}},
		{"a total that is not the sum", "ward,yes,no,Total\nHarbour,3,4,8\n", shaped(Grid, nil), Problem{Code: WrongTotal, Line: 2, Column: 4, Found: 8, Wanted: 7}},
		{"a name twice", "ward,yes,no\nHarbour,3,4\nHarbour,1,1\n", shaped(Grid, nil), Problem{Code: AnswerTwice, Line: 3, Text: "Harbour"}},
		{"a grid of one cell", "ward\n", shaped(Grid, nil), Problem{Code: TooSmall, Line: 1}},
		{"overlapping classes", "0-10,1\n5-20,2\n", upper, Problem{Code: ClassOrder, Line: 2, Text: "5-20"}},
		{"a class from high to low", "10,5,3\n20,30,1\n", shaped(Classes, func(s *Settings) { s.HeaderRow = 0 }), Problem{Code: ClassOrder, Line: 1, Text: "10–5"}},
		{"a class without its count", "age,n\n0-10,\n10-20,3\n", upper, Problem{Code: BadCount, Line: 2, Column: 2, Text: "(blank)"}},
		{"classes that are no sum", "age,n\n18-24,5\n25-34,7\nTotal,13\n", upper, Problem{Code: WrongTotal, Line: 4, Column: 2, Found: 13, Wanted: 12}},
		{"no class", "age,n\n18–24,5\nold,3\n", upper, Problem{Code: BadClass, Line: 3, Text: "old 3"}},
		{"an open class in the middle", "18+,5\n20-30,3\n", upper, Problem{Code: ClassOrder, Line: 2, Text: "20-30"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			p := firstProblem(file(c.in), c.s)
			require.NotNil(t, p)
			assert.Equal(t, c.want, *p)
		})
	}
}

func TestOtherShapesAreOffered(t *testing.T) {
	t.Parallel()
	cases := []struct {
		name, in string
		want     []Offer
	}{
		{"answer and count", "ward,n\nHarbour,238\nFenside,132\nOldgate,7\n", []Offer{{Shape: Counts, CountColumn: "n"}}},
		{"answer and count with their total", "ward,n\nHarbour,238\nFenside,132\nTotal,370\n", []Offer{{Shape: Counts, CountColumn: "n"}}},
		{"grid with totals", "ward,yes,no,Total\nHarbour,3,4,7\nFenside,5,6,11\nTotal,8,10,18\n", []Offer{{Shape: Grid, CountColumn: ""}}},
		{"combinations with a count", "ward,caddy,n\nHarbour,yes,3\nHarbour,no,4\n", []Offer{{Shape: Counts, CountColumn: "n"}}},
		{"grid", "ward,yes,no,unsure\nHarbour,3,4,1\nFenside,5,6,2\n", []Offer{{Shape: Grid, CountColumn: ""}}},
		{"an identifier beside codes", "id,ward,caddy\nF1,Harbour,1\nF2,Harbour,1\nF3,Fenside,0\n", nil},
		{"classes", "age,n\n18–24,5\n25–34,7\n", []Offer{{Shape: Classes, CountColumn: ""}, {Shape: Counts, CountColumn: "n"}}},
		{"a row per respondent", "ward,size\nHarbour,2\nHarbour,2\nFenside,3\n", nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			table, err := Read(ctx, file(c.in), comma, nil)
			require.NoError(t, err)
			assert.Equal(t, c.want, table.Offers)
		})
	}
}

// A sheet of answers, last year's percents and this year's counts is offered as that; numbers of
// respondents beside a small number are no list of counts, and counts that stand alone are one.
func TestCountsWithSharesAndBareCounts(t *testing.T) {
	t.Parallel()
	for _, k := range []struct {
		what, in string
		want     []Offer
	}{
		{"percents and counts", "answer,last year %,this year\nweekly,40.5,120\nmonthly,35,90\nnever,24.5,61\n", []Offer{{Shape: Counts, CountColumn: "this year", SharesColumn: "last year %"}}},
		{"with signs, rounded", "answer;share;n\nweekly;33 %;120\nmonthly;33 %;90\nnever;33 %;61\n", []Offer{{Shape: Counts, CountColumn: "n", SharesColumn: "share"}}},
		{"proportions behind the counts", "answer,now,then\na,12,0.5\nb,7,0.3\nc,9,0.2\n", []Offer{{Shape: Counts, CountColumn: "now", SharesColumn: "then"}}},
		{"numbers of respondents and visits", "id,visits\n" + numberedLines(30), nil},
		{"counts alone", "120\n90\n61\n7\n", []Offer{{Shape: Counts, CountColumn: "column 1", Bare: true}}},
		{"codes alone", "1\n2\n2\n1\n3\n", nil},
	} {
		t.Run(k.what, func(t *testing.T) {
			s, err := Sniff(ctx, file(k.in))
			require.NoError(t, err)
			table, err := Read(ctx, file(k.in), s, nil)
			require.NoError(t, err)
			assert.Equal(t, k.want, table.Offers)
			if len(k.want) == 0 {
				return
			}
			s.Shape, s.CountColumn, s.SharesColumn = Counts, k.want[0].CountColumn, k.want[0].SharesColumn
			table, err = Read(ctx, file(k.in), s, nil)
			require.NoError(t, err)
			assert.Empty(t, table.Problems)
			require.Len(t, table.Columns, 2)
			assert.Equal(t, 1, table.CountColumn)
		})
	}
	s := comma
	s.Shape, s.CountColumn, s.SharesColumn = Counts, "n", "share"
	table, err := Read(ctx, file("answer,share,n\nweekly,60,12\nnever,40,9\nTotal,100,21\n"), s, nil)
	require.NoError(t, err)
	assert.Equal(t, &TypedShares{Column: "share", Question: "answer", Scale: "percents", Figures: []TypedShare{{"weekly", "60"}, {"never", "40"}}}, table.Shares)
	s.SharesColumn = "gone"
	_, err = Read(ctx, file("answer,share,n\nweekly,60,12\nnever,40,9\n"), s, nil)
	assert.Error(t, err)
}

func numberedLines(n int) (out string) {
	for i := range n {
		out += fmt.Sprintf("%d,%d\n", i+101, i%13)
	}
	return out
}
