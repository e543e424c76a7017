package methods_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/battery"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/mantelhaenszel"
	"widetally/core/methods/multipleresponse"
	"widetally/core/tally"
)

// notesIn are the ids of a document's notes.
func notesIn(d document.Document) (out []string) {
	for _, n := range d.Notes {
		out = append(out, n.ID)
	}
	return out
}

// Nine respondents, of whom one chose nothing, four one answer and four two: twelve answers.
func TestResponsesOverBothBases(t *testing.T) {
	t.Parallel()
	s, err := tally.ShareResponses([]int64{5, 7, 0}, []int64{1, 4, 4})
	require.NoError(t, err)
	d := multipleresponse.Responses{About: claim.About{Units: document.Text("households"), Everyone: 11}, Labels: []string{"smell", "time", "flies"}}.Document(s, []int64{5, 7, 0})
	said := blockOf(t, d, document.Sentence).Said[0].Values
	assert.Equal(t, "time", said["answer"].Text)
	assert.InDelta(t, 700.0/9, said["share"].Number, 1e-12)
	assert.InDelta(t, 700.0/12, said["of_responses"].Number, 1e-12)
	assert.Equal(t, [][]float64{{1, 100.0 / 9}, {4, 400.0 / 9}, {4, 400.0 / 9}}, cellsOf(d), "how many chose 0, 1 and 2")
	assert.Equal(t, []string{"note.missing_left_out", "note.multiple_response.bases_over"}, notesIn(d))

	// Nobody chose anything: no percent of responses is made up.
	s, err = tally.ShareResponses([]int64{0, 0}, []int64{4})
	require.NoError(t, err)
	d = multipleresponse.Responses{Labels: []string{"smell", "time"}}.Document(s, []int64{0, 0})
	assert.Equal(t, "read.multiple_response.none", blockOf(t, d, document.Sentence).Said[0].ID)
	for _, row := range blockOf(t, d, document.Figures).Table.Rows {
		assert.Empty(t, row.Cells[2].Figures)
	}
}

// Of questions that are answered alike none is most or least.
func TestABatteryAnsweredAlike(t *testing.T) {
	t.Parallel()
	c := battery.Battery{Questions: []claim.Question{{Short: "bins"}, {Short: "crews"}, {Short: "letters"}}, Labels: []string{"1", "2", "3", "4"}}
	for want, counts := range map[string][][]int64{
		"read.battery.alike":  {{1, 1, 1, 1}, {2, 2, 2, 2}, {0, 0, 0, 0}},
		"read.battery.apart":  {{1, 1, 1, 1}, {2, 2, 2, 3}, {0, 0, 0, 0}},
		"read.battery.nobody": {{0, 0, 0, 0}, {0, 0, 0, 0}, {0, 0, 0, 0}},
	} {
		b, err := tally.ShareRows(counts, true)
		require.NoError(t, err)
		assert.Equal(t, want, blockOf(t, c.Document(b, counts), document.Sentence).Said[0].ID)
	}
}

// In each layer the second group says yes more often, together the first: who reads the sum
// alone reads the opposite. Every sentence speaks of the same answer and groups, in one order.
func TestLayersCanTurnASumRound(t *testing.T) {
	t.Parallel()
	c := mantelhaenszel.Claim{Crossing: crosstab.Crossing{About: claim.About{Units: document.Text("households"), Weights: "w", Everyone: 230}, Rows: claim.Question{Short: "ward"}, Columns: claim.Question{Short: "caddy use"},
		RowLabels: []string{"Harbour", "Fenside"}, ColumnLabels: []string{"yes", "no"}, Counts: [][]int64{{82, 28}, {27, 83}}, Reading: crosstab.OfEachRow},
		Layers: claim.Question{Short: "tenure"}, LayerLabels: []string{"owns", "rents"}, Tables: [][][]int64{{{80, 20}, {9, 1}}, {{2, 8}, {18, 82}}}}
	r, err := infer.ComputeMantelHaenszel([][2][2]int64{{{80, 20}, {9, 1}}, {{2, 8}, {18, 82}}}, 0.95)
	require.NoError(t, err)
	d := c.Document(r)
	var headings, readings []document.Message
	var tables []*document.Table
	for _, b := range d.Blocks {
		switch {
		case b.Kind == document.Heading:
			headings = append(headings, b.Said[0])
		case b.Kind == document.Sentence:
			readings = append(readings, b.Said[0])
		case b.Table != nil:
			tables = append(tables, b.Table)
		}
	}
	for i, want := range []struct {
		id         string
		n          float64
		high       string
		first, two float64
	}{{"read.layer", 110, "Fenside", 90, 80}, {"read.layer", 110, "Fenside", 18, 20}, {"read.layers_together", 220, "Fenside", 2700.0 / 110, 8200.0 / 110}} {
		assert.Equal(t, want.id, headings[i].ID)
		assert.Equal(t, want.n, headings[i].Values["n"].Number)
		assert.Equal(t, want.high, readings[i].Values["group"].Text)
		assert.InDelta(t, want.first, readings[i].Values["percent"].Number, 1e-9)
		assert.InDelta(t, want.two, readings[i].Values["percent2"].Number, 1e-9)
	}
	assert.Len(t, tables, 3)
	// (80·1/110 + 2·82/110) ÷ (20·9/110 + 8·18/110) = 244 ÷ 324
	common := blockOf(t, d, document.Facts).Facts[0].Value.Values["value"].Number
	assert.InDelta(t, 244.0/324, common, 1e-12)
	assert.Equal(t, []string{"note.mantel_haenszel.common_odds", "note.mantel_haenszel.left_out", "note.mantel_haenszel.pooled", "note.conditions.unweighted"}, notesIn(d))
}

// What a cell means follows the reading, and a sum means the same in each.
func TestCellsSayWhatTheyMean(t *testing.T) {
	t.Parallel()
	c := crosstab.Crossing{About: claim.About{Units: document.Text("households")}, Rows: claim.Question{Short: "ward"}, Columns: claim.Question{Short: "caddy use"}, RowLabels: []string{"Harbour", "Fenside"}, ColumnLabels: []string{"yes", "no"},
		Counts: [][]int64{{30, 10}, {0, 0}}}
	for reading, want := range map[crosstab.Reading]struct {
		id, group, answer string
		base, percent     float64
	}{
		crosstab.OfEachRow:    {"read.cell.group", "Harbour", "no", 40, 25},
		crosstab.OfEachColumn: {"read.cell.group", "no", "Harbour", 10, 100},
		crosstab.OfEveryone:   {"read.cell.total", "Harbour", "no", 40, 25},
		crosstab.AsCounts:     {"read.cell.count", "Harbour", "no", 40, 25},
	} {
		c.Reading = reading
		table := blockOf(t, c.Document(nil), document.Figures).Table
		said := table.Rows[0].Cells[1].Said
		assert.Equal(t, want.id, said.ID, reading)
		assert.Equal(t, []string{want.group, want.answer}, []string{said.Values["group"].Text, said.Values["answer"].Text}, reading)
		assert.Equal(t, []float64{want.base, 10, want.percent}, []float64{said.Values["base"].Number, said.Values["count"].Number, said.Values["percent"].Number}, reading)
		sum := table.Rows[2].Cells[0].Said
		assert.Equal(t, []any{"read.cell.margin", "yes", 30.0, 75.0}, []any{sum.ID, sum.Values["answer"].Text, sum.Values["count"].Number, sum.Values["percent"].Number}, reading)
	}
	c.Reading = crosstab.OfEachRow
	assert.Equal(t, "read.cell.nobody", blockOf(t, c.Document(nil), document.Figures).Table.Rows[1].Cells[0].Said.ID, "of nobody there is no percent")
}

// Rows and columns in which nobody is can be left out of sight; the sums stay what they are.
func TestEmptyRowsAndColumnsHide(t *testing.T) {
	t.Parallel()
	c := crosstab.Crossing{RowLabels: []string{"Harbour", "Fenside", "Saltings"}, ColumnLabels: []string{"yes", "unsure", "no"}, Counts: [][]int64{{3, 0, 1}, {0, 0, 0}, {2, 0, 2}}, Reading: crosstab.OfEachRow}
	option := func() document.Option {
		for _, b := range c.Document(nil).Blocks {
			if b.Choices != nil {
				for _, o := range b.Choices.Options {
					if o.Label.ID == "choice.hide_empty" {
						return o
					}
				}
			}
		}
		return document.Option{}
	}
	assert.JSONEq(t, `{"hideEmpty":true}`, string(option().Change))
	c.HideEmpty = true
	assert.True(t, option().Chosen)
	table := blockOf(t, c.Document(nil), document.Figures).Table
	var rows, columns []string
	var counts []float64
	for _, r := range table.Rows {
		if !r.Total {
			rows = append(rows, r.Name.Values["value"].Text)
			assert.Len(t, r.Strip, 2)
		}
		for _, cell := range r.Cells {
			counts = append(counts, cell.Figures[0].Value.Number)
		}
	}
	for _, column := range table.Columns[:2] {
		columns = append(columns, column.Values["value"].Text)
	}
	assert.Equal(t, [][]string{{"Harbour", "Saltings"}, {"yes", "no"}}, [][]string{rows, columns})
	assert.Equal(t, []float64{3, 1, 4, 2, 2, 4, 5, 3, 8}, counts)
	c.Counts = [][]int64{{3, 1, 1}, {1, 1, 1}, {2, 2, 2}}
	assert.Empty(t, option().Label.ID, "nothing is offered where nothing is empty")
}

// Side by side the bars are as high as the reading says; in a mosaic a group is as wide as it
// is large, and its answers fill it.
func TestCrossingsAreDrawn(t *testing.T) {
	t.Parallel()
	c := crosstab.Crossing{Rows: claim.Question{Short: "ward"}, Columns: claim.Question{Short: "caddy use"}, RowLabels: []string{"Harbour", "Fenside"}, ColumnLabels: []string{"yes", "no"}, Counts: [][]int64{{30, 10}, {10, 50}}}
	for reading, want := range map[crosstab.Reading][]float64{crosstab.OfEachRow: {75, 25, 100.0 / 6, 500.0 / 6}, crosstab.OfEachColumn: {75, 25, 100.0 / 6, 500.0 / 6}, crosstab.OfEveryone: {30, 10, 10, 50}, crosstab.AsCounts: {30, 10, 10, 50}} {
		c.Picture, c.Reading = crosstab.SideBySide, reading
		var heights []float64
		for _, b := range plotOf(t, c.Document(nil)).Bars {
			heights = append(heights, b.Height)
		}
		assert.InDeltaSlice(t, want, heights, 1e-9, reading)
	}
	c.Picture, c.Reading = crosstab.Mosaic, crosstab.OfEachRow
	area := 0.0
	p := plotOf(t, c.Document(nil))
	for _, b := range p.Bars {
		area += (b.To - b.From) * b.Height
	}
	assert.InDelta(t, 100*100, area, 1e-6, "nothing is left empty")
	assert.Equal(t, document.Bar{From: 40, To: 100, Base: 100.0 / 6, Height: 500.0 / 6, Tone: 1}, p.Bars[3])
	assert.Equal(t, []float64{20, 70}, []float64{p.Names[0].At, p.Names[1].At})

	c.Counts = [][]int64{{0, 0}, {0, 0}}
	for _, b := range c.Document(nil).Blocks {
		assert.Nil(t, b.Chart, "of nobody there is no picture")
	}
	c.Picture, c.Counts = crosstab.NoPicture, [][]int64{{1, 2}, {3, 4}}
	for _, b := range c.Document(nil).Blocks {
		assert.Nil(t, b.Chart)
	}
}
