package disclosure

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// crosstab is a document of a table with its sums, a sentence, a statistic and a picture.
func crosstab(counts [][]int64) document.Document {
	cell := func(n int64) document.Cell {
		return document.Cell{Figures: []document.Figure{{Role: document.ColumnPercent, Value: document.Of(document.Bare, float64(n))}, {Role: document.Observed, Value: document.N(n)}}}
	}
	t := &document.Table{Shown: []document.Role{document.ColumnPercent, document.Observed}}
	sums := make([]int64, len(counts[0])+1)
	for range counts[0] {
		t.Columns = append(t.Columns, document.Say("value", nil))
	}
	t.Columns = append(t.Columns, document.Say("column.all", nil))
	for _, line := range counts {
		row, all := document.Row{Strip: []float64{50, 50}}, int64(0)
		for j, n := range line {
			row.Cells = append(row.Cells, cell(n))
			all, sums[j] = all+n, sums[j]+n
		}
		sums[len(line)] += all
		row.Cells = append(row.Cells, cell(all))
		t.Rows = append(t.Rows, row)
	}
	total := document.Row{Total: true}
	for _, n := range sums {
		total.Cells = append(total.Cells, cell(n))
	}
	t.Rows = append(t.Rows, total)
	return document.Document{
		Blocks: []document.Block{
			{Kind: document.Sentence, Said: []document.Message{document.Say("finding", document.Values{"n": document.N(43), "percent": document.Of(document.Percent, 41.3)})}},
			{Kind: document.Figures, Table: t}, {Kind: document.Facts, Facts: []document.Fact{{Key: "statistic", Value: document.Say("value", nil)}}},
			{Kind: document.Chart, Chart: &document.Picture{}}, {Kind: document.Working, Said: []document.Message{document.Say("working", nil)}},
		},
		Notes:   []document.Note{{Message: document.Say("note", document.Values{"n": document.N(7)})}},
		Outcome: &document.Outcome{},
	}
}

func kinds(d document.Document) (out []document.Place) {
	for _, b := range d.Blocks {
		out = append(out, b.Kind)
	}
	return out
}

func withheld(t document.Table) (out [][2]int) {
	for i, row := range t.Rows {
		for j, c := range row.Cells {
			if c.Said.ID == "disclosure.not_told" {
				out = append(out, [2]int{i, j})
			}
		}
	}
	return out
}

// A document with a small count keeps its table, without the small one and what would tell it, and nothing that is
// computed from all counts; one without keeps everything; one of few respondents keeps nothing.
func TestDocumentsThatLeave(t *testing.T) {
	t.Parallel()
	d := crosstab([][]int64{{41, 2}, {36, 33}, {27, 29}})
	rule := Rule{Fewest: 5, Least: 10}
	out := Document(d, rule, 168)
	assert.Equal(t, []document.Place{document.Sentence, document.Figures}, kinds(out))
	assert.Equal(t, "disclosure.with_small", out.Blocks[0].Said[0].ID)
	assert.Nil(t, out.Outcome)
	assert.Nil(t, out.Notes)
	cells := withheld(*out.Blocks[1].Table)
	assert.Contains(t, cells, [2]int{0, 1})
	assert.Len(t, cells, 4, "a rectangle: %v", cells)
	assert.Nil(t, out.Blocks[1].Table.Rows[0].Strip, "a strip would draw what is not told")
	assert.NotNil(t, d.Blocks[1].Table.Rows[0].Strip, "the document itself stays as it is")

	large := crosstab([][]int64{{41, 22}, {36, 33}})
	assert.Equal(t, kinds(large), kinds(Document(large, rule, 132)))
	assert.Equal(t, []document.Place{document.Sentence}, kinds(Document(large, rule, 9)))
	same := Document(d, Rule{}, 168)
	assert.Equal(t, d, same)

	// A column whose base is too small is withheld as a whole.
	few := Document(crosstab([][]int64{{41, 3, 20}, {36, 4, 18}}), Rule{Least: 10}, 122)
	cells = withheld(*few.Blocks[1].Table)
	assert.Subset(t, cells, [][2]int{{2, 1}}, "%v", cells)
}

// Where counts are rounded those in tables, sentences and notes are, and percents are whole; counts that are not told
// beside percents go, those of totals stay.
func TestRoundedDocuments(t *testing.T) {
	t.Parallel()
	d := Document(crosstab([][]int64{{41, 22}, {36, 33}}), Rule{Rounding: 5}, 132)
	said := d.Blocks[0].Said[0].Values
	assert.InDelta(t, 45, said["n"].Number, 0)
	assert.InDelta(t, 41, said["percent"].Number, 0)
	assert.InDelta(t, 5, d.Notes[0].Values["n"].Number, 0)
	assert.InDelta(t, 40, d.Blocks[1].Table.Rows[0].Cells[0].Figures[1].Value.Number, 0)

	p := Document(crosstab([][]int64{{41, 22}, {36, 33}}), Rule{PercentsOnly: true}, 132)
	assert.Len(t, p.Blocks[1].Table.Rows[0].Cells[0].Figures, 1)
	assert.Len(t, p.Blocks[1].Table.Rows[2].Cells[0].Figures, 2)
}

// The smallest and the largest number are those of single respondents, wherever they stand.
func TestExtremesAreNotTold(t *testing.T) {
	t.Parallel()
	one := func(id string, x float64) document.Row {
		return document.Row{Name: document.Say(id, nil), Cells: []document.Cell{document.One(document.Of(document.Measure, x))}}
	}
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: []document.Message{
			document.Say("read.range", document.Values{"smallest": document.Of(document.Measure, 1), "largest": document.Of(document.Measure, 99)}),
			document.Say("read.mean", document.Values{"mean": document.Of(document.Measure, 4)}),
		}},
		{Kind: document.Figures, Table: &document.Table{Columns: []document.Message{document.Say("value", nil)}, Rows: []document.Row{one("column.stat.mean", 4), one("column.stat.smallest", 1), one("column.stat.largest", 99)}}},
		{Kind: document.Facts, Facts: []document.Fact{{Key: "mean"}, {Key: "largest"}}},
	}}
	out := Document(d, Rule{Least: 10}, 200)
	assert.Len(t, out.Blocks[0].Said, 1)
	assert.Len(t, out.Blocks[1].Table.Rows, 1)
	assert.Len(t, out.Blocks[2].Facts, 1)
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	assert.NotContains(t, string(raw), "99")
	assert.Len(t, Document(d, Rule{Fewest: 5}, 200).Blocks[1].Table.Rows, 3)
}

// Of a frequency table the answers that are withheld cannot be had from the sum, except where several can be chosen,
// whose counts do not add up.
func TestFrequenciesThatLeave(t *testing.T) {
	t.Parallel()
	f := &tally.Frequency{Everyone: 120, Answered: 117, Missing: 3}
	for i, n := range []int64{60, 2, 35, 20} {
		f.Rows = append(f.Rows, tally.Row{Slot: survey.Slot(i + 1), Count: n})
	}
	out, all := Frequency(f, true, Rule{Fewest: 5})
	assert.False(t, all)
	assert.Equal(t, map[survey.Slot]bool{1: false, 2: true, 3: false, 4: true}, out, "the smallest of the others goes with it")
	out, _ = Frequency(f, false, Rule{Fewest: 5})
	assert.Equal(t, map[survey.Slot]bool{1: false, 2: true, 3: false, 4: false}, out)
	_, all = Frequency(f, true, Rule{Least: 200})
	assert.True(t, all)
	out, all = Frequency(f, true, Rule{Rounding: 5})
	assert.Empty(t, out)
	assert.False(t, all)
}

// What is computed from a count that is withheld stands in its row, or in a table of such figures alone: neither is
// told. A median and quartiles need as many on either side as may be told of.
func TestWhatIsComputedFromCounts(t *testing.T) {
	t.Parallel()
	column := func(ids ...string) (out []document.Message) {
		for _, id := range ids {
			out = append(out, document.Say("column."+id, nil))
		}
		return out
	}
	row := func(n int64, mean float64, total bool) document.Row {
		of := func(x float64) document.Cell { return document.One(document.Of(document.Rounded, x)) }
		return document.Row{Total: total, Cells: []document.Cell{document.One(document.N(n)), of(mean), of(2), of(3), of(4)}}
	}
	groups := document.Table{
		Shown: []document.Role{document.Main}, Columns: column("n", "stat.mean", "stat.sd", "stat.q1", "stat.median"),
		Rows: []document.Row{row(40, 6, false), row(25, 7, false), row(2, 77, false), row(15, 5, false), row(82, 8, true)},
	}
	changes := document.Table{
		Shown: []document.Role{document.Main}, Columns: column("trend_change"),
		Rows: []document.Row{{Cells: []document.Cell{document.One(document.Of(document.Difference, 3))}}},
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Figures, Table: &groups}, {Kind: document.Figures, Table: &changes}}}
	shown := func(r Rule) (lines []string, tables int) {
		for _, b := range Document(d, r, 82).Blocks {
			if tables++; tables > 1 {
				continue
			}
			for _, row := range b.Table.Rows {
				line := ""
				for _, c := range row.Cells {
					sign := "o"
					if c.Faint {
						sign = "–"
					}
					line += sign
				}
				lines = append(lines, line)
			}
		}
		return lines, tables
	}
	lines, tables := shown(Rule{Least: 10, Fewest: 5})
	assert.Equal(t, []string{"ooooo", "ooo–o", "–––––", "–––––", "ooooo"}, lines, "with two goes the next smallest, by which their mean could be had")
	assert.Equal(t, 1, tables, "a table of differences would tell of what is withheld")
	lines, tables = shown(Rule{Fewest: 2})
	assert.Equal(t, []string{"ooooo", "ooooo", "ooooo", "ooooo", "ooooo"}, lines)
	assert.Equal(t, 2, tables)
	lines, _ = shown(Rule{Least: 15})
	assert.Equal(t, "–––––", lines[2], "few respondents are no base of a mean, though their number may be told")
}

// Pictures of numbers show where single respondents stand; those of answers show shares alone.
func TestPicturesOfNumbersDoNotLeave(t *testing.T) {
	t.Parallel()
	answers := document.Picture{Plot: &document.Plot{Names: []document.Line{{}}}}
	numbers := document.Picture{Plot: &document.Plot{Boxes: []document.PlotBox{{}}}}
	strip := document.Picture{Plot: &document.Plot{Flat: true}}
	whiskers := document.Picture{Whiskers: &document.Whiskers{}}
	for rule, want := range map[Rule]int{{}: 4, {Rounding: 5}: 4, {Fewest: 5}: 3, {Least: 10}: 3} {
		d := document.Document{}
		for _, p := range []document.Picture{answers, numbers, strip, whiskers} {
			d.Blocks = append(d.Blocks, document.Block{Kind: document.Chart, Chart: &p})
		}
		assert.Len(t, Document(d, rule, 100).Blocks, want, rule)
	}
}
