package methods_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/frequency"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/methods/numericcomparison"
	"widetally/core/methods/numericsummary"
	"widetally/core/shares"
	"widetally/core/tally"
)

func plotIn(t *testing.T, d document.Document, place int) *document.Picture {
	t.Helper()
	for _, b := range d.Blocks {
		if b.Chart == nil || b.Chart.Plot == nil {
			continue
		}
		if place--; place == 0 {
			return b.Chart
		}
	}
	t.Fatal("no plot")
	return nil
}

// The bars of a question stand in the order that is asked for, as counts or percents, and bear
// their figures where the researcher wants them.
func TestBarsOfAQuestion(t *testing.T) {
	t.Parallel()
	r, err := tally.RelativeFrequencies([]int64{10, 40, 30, 20}, 0)
	require.NoError(t, err)
	labels := []string{"beta", "Alpha", "delta", "gamma"}
	for _, k := range []struct {
		order   claim.Order
		height  claim.Height
		heights []float64
		names   []string
	}{
		{claim.AsAsked, claim.AsCount, []float64{10, 40, 30, 20}, labels},
		{claim.BySize, claim.AsShare, []float64{40, 30, 20, 10}, []string{"Alpha", "delta", "gamma", "beta"}},
		{claim.ByLabel, claim.AsCount, []float64{40, 10, 30, 20}, []string{"Alpha", "beta", "delta", "gamma"}},
	} {
		p := plotIn(t, frequency.Frequency{Labels: labels, Order: k.order, Picture: frequency.UprightBars, Height: k.height, Frame: &claim.Frame{Title: "Four", Values: true, Size: claim.LargeSize}}.Document(r), 1)
		var heights []float64
		var names []string
		for i, b := range p.Plot.Bars {
			heights, names = append(heights, b.Height), append(names, p.Plot.Names[i].Label.Values["value"].Text)
			assert.Equal(t, b.Height, b.Label.Values["value"].Number)
			assert.InDelta(t, float64(i)+0.5, (b.From+b.To)/2, 1e-12, "in the middle of its name")
		}
		assert.Equal(t, k.heights, heights, k.order)
		assert.Equal(t, k.names, names, k.order)
		assert.Equal(t, "Four", p.Title.Values["value"].Text)
		assert.Equal(t, 1.35, p.Size)
	}
	// Simultaneous intervals stand on the bars of shares, by the answers' order: where the first
	// begins and ends for 43, 61, 27 and 19 is a worked case.
	in, err := infer.ComputeSimultaneous([]int64{43, 61, 27, 19}, 0.95)
	require.NoError(t, err)
	four, err := tally.RelativeFrequencies([]int64{43, 61, 27, 19}, 0)
	require.NoError(t, err)
	for _, k := range []struct {
		method       frequency.Together
		lower, upper float64
	}{
		{frequency.Goodman, 20.4423144923266937, 38.594679186606038269},
		{frequency.SisonGlaz, 20.666666666666666667, 37.384127783976149069},
		{frequency.QuesenberryHurst, 19.604979369639083938, 39.841137700476575219},
	} {
		d := frequency.Frequency{Labels: labels, Order: claim.BySize, Picture: frequency.UprightBars, Height: claim.AsShare, Together: k.method, Intervals: k.method.Of(in)}.Document(four)
		lines := plotIn(t, d, 1).Plot.Lines
		require.Len(t, lines, 12)
		assert.Equal(t, 1.5, lines[3].Points[0].X, "the second bar is that of the first answer")
		assert.InDelta(t, k.lower, lines[3].Points[0].Y, 1e-10, k.method)
		assert.InDelta(t, k.upper, lines[3].Points[1].Y, 1e-10, k.method)
		assert.Equal(t, "note.frequency."+string(k.method), d.Notes[0].ID)
	}
	// Of counts to which a method gives no intervals nothing is drawn, and it is said.
	in.SisonGlaz = nil
	none := frequency.Frequency{Labels: labels, Order: claim.BySize, Picture: frequency.UprightBars, Height: claim.AsShare, Together: frequency.SisonGlaz, Intervals: frequency.SisonGlaz.Of(in)}.Document(four)
	assert.Empty(t, plotIn(t, none, 1).Plot.Lines)
	assert.Equal(t, "note.frequency.no_intervals", none.Notes[0].ID)
	// A strip is 100 % long, part after part.
	strip := plotIn(t, frequency.Frequency{Labels: labels, Order: claim.BySize, Picture: frequency.OneStrip}.Document(r), 1).Plot
	assert.True(t, strip.Flat)
	end := 0.0
	for _, b := range strip.Bars {
		assert.InDelta(t, end, b.From, 1e-12)
		end = b.To
	}
	assert.InDelta(t, 100, end, 1e-12)
	// Two answers that were given most are not one.
	r, err = tally.RelativeFrequencies([]int64{7, 7, 1}, 2)
	require.NoError(t, err)
	d := frequency.Frequency{About: claim.About{Everyone: 17}, Labels: labels[:3], Picture: frequency.OneStrip}.Document(r)
	assert.Equal(t, "read.frequency.several", blockOf(t, d, document.Sentence).Said[0].ID)
	assert.Contains(t, notesIn(d), "note.missing_left_out")
}

// Each bar has a tick at its expected share; that a picture is drawn adds no other figure.
func TestTicksOfExpectedShares(t *testing.T) {
	t.Parallel()
	c := goodnessoffit.Claim{Picture: goodnessoffit.SharesTicks, Codes: []string{"h", "f", "s"}, Source: "the register"}
	d, r := readShares(t, []int64{50, 30, 20}, "40, 40, 20", shares.Percents, c)
	p := plotIn(t, d, 1).Plot
	for i, row := range r.Rows {
		assert.InDelta(t, 100*row.ObservedShare, p.Bars[i].Height, 1e-12)
		assert.InDelta(t, 100*row.Share, p.Ticks[i].At, 1e-12)
		assert.Less(t, p.Ticks[i].From, p.Bars[i].From)
		assert.Greater(t, p.Ticks[i].To, p.Bars[i].To)
	}
	c.Picture = goodnessoffit.NoShares
	without, _ := readShares(t, []int64{50, 30, 20}, "40, 40, 20", shares.Percents, c)
	assert.Len(t, d.Blocks, len(without.Blocks)+2)
}

// Boxes stand one under the other, the first group on top; a group in which nobody gave a
// number has a row in the table and none in the picture.
func TestBoxesByGroup(t *testing.T) {
	t.Parallel()
	summary := func(values ...float64) *tally.Summary {
		s, err := tally.SummariseNumbers(tally.NumbersInput{Values: values, Percents: []float64{25, 50, 75}, Confidence: 0.95})
		require.NoError(t, err)
		return s
	}
	name := func(s string) document.Message { return claim.Plain(document.Text(s)) }
	c := numericcomparison.Summaries{Question: claim.Question{Short: "years"}, Groups: claim.Question{Short: "ward"}, ByGroup: true, Names: []document.Message{name("Harbour"), name("Fenside"), name("Saltings"), document.Say("column.all", nil)}, Show: []numericcomparison.Statistic{numericcomparison.StatMedian, numericcomparison.StatSD}}
	d := c.Document([]*tally.Summary{summary(1, 2, 3, 4, 5), nil, summary(7), summary(1, 2, 3, 4, 5, 7)})
	p := plotIn(t, d, 1).Plot
	require.Len(t, p.Boxes, 3)
	assert.Equal(t, []float64{2.5, 1.5, 0.5}, []float64{p.Boxes[0].At, p.Boxes[1].At, p.Boxes[2].At})
	assert.Equal(t, document.PlotBox{At: 2.5, Lower: 1, Quartile1: 2, Median: 3, Quartile3: 4, Upper: 5}, p.Boxes[0])
	rows := blockOf(t, d, document.Figures).Table.Rows
	require.Len(t, rows, 4)
	assert.True(t, rows[1].Faint)
	assert.Equal(t, 0.0, rows[1].Cells[0].Figures[0].Value.Number)
	assert.Empty(t, rows[2].Cells[1].Figures, "one number has no spread")
	said := blockOf(t, d, document.Sentence).Said[0]
	assert.Equal(t, "read.numeric_comparison.apart", said.ID)
	assert.Equal(t, 7.0, said.Values["median"].Number)
	assert.Equal(t, 3.0, said.Values["median2"].Number)
	assert.Equal(t, "read.numeric_comparison.alike", blockOf(t, c.Document([]*tally.Summary{summary(2), nil, summary(2), summary(2, 2)}), document.Sentence).Said[0].ID)
}

// The missing stand behind the sums, which do not hold them; a cell knows who is in it, and the
// sums can be taken up among those who answered both.
func TestACrossingWithItsMissing(t *testing.T) {
	t.Parallel()
	c := crosstab.Crossing{About: claim.About{Everyone: 25}, Rows: claim.Question{Short: "ward"}, Columns: claim.Question{Short: "caddy"}, RowLabels: []string{"Harbour", "Fenside"}, ColumnLabels: []string{"yes", "no"},
		RowCodes: []string{"h", "f"}, ColumnCodes: []string{"y", "n"}, Counts: [][]int64{{8, 2}, {0, 10}}, Reading: crosstab.OfEachRow, ShowMissing: true,
		Missing: &crosstab.CrossingMissing{RowLabels: []string{"refused"}, ColumnLabels: []string{"no answer"}, Rows: [][]int64{{1, 2, 1}}, Columns: [][]int64{{1}, {0}}}}
	r, err := infer.ComputeIndependence(c.Counts, 0.05)
	require.NoError(t, err)
	d := c.Document(r)
	table := blockOf(t, d, document.Figures).Table
	assert.Len(t, table.Columns, 4)
	var got [][]float64
	for _, row := range table.Rows {
		var cells []float64
		for _, cell := range row.Cells {
			for _, f := range cell.Figures {
				if f.Role == document.Observed || cell.Faint {
					cells = append(cells, f.Value.Number)
					break
				}
			}
		}
		got = append(got, cells)
	}
	assert.Equal(t, [][]float64{{8, 2, 10, 1}, {0, 10, 10, 0}, {8, 12, 20, 1}, {1, 2, 3, 1}}, got)
	assert.Equal(t, []document.Who{{Question: 1, Code: "h"}, {Question: 0, Code: "y"}}, table.Rows[0].Cells[0].Who)
	assert.Nil(t, table.Rows[1].Cells[0].Who, "nobody is no subgroup")
	for _, b := range d.Blocks {
		if b.Choices != nil && len(b.Choices.Options) > 0 && b.Choices.Options[0].Ask != nil {
			assert.Equal(t, document.Ask{Method: "goodness-of-fit", Question: 1, Among: []document.Who{{Question: 0}}}, *b.Choices.Options[0].Ask)
			return
		}
	}
	t.Fatal("the sums cannot be taken up")
}

// Limits that somebody set make densities where they are uneven; what does not fit is said and
// drawn as suits the numbers.
func TestClassesAsSet(t *testing.T) {
	t.Parallel()
	var values []float64
	for i := range 60 {
		values = append(values, float64(i))
	}
	s, err := tally.SummariseNumbers(tally.NumbersInput{Values: values, Percents: []float64{25, 50, 75}, Confidence: 0.95})
	require.NoError(t, err)
	start := 100.0
	fives := []float64{5, 5, 5, 5, 5, 5, 5, 5, 5, 5, 5, 5}
	for _, k := range []struct {
		c       numericsummary.Numbers
		heights []float64
		note    string
	}{
		{numericsummary.Numbers{Limits: []float64{0, 10, 60}}, []float64{1.0 / 60, 1.0 / 60}, "note.numeric_summary.uneven"},
		{numericsummary.Numbers{Limits: []float64{0, 30}}, []float64{30, 30}, "note.numeric_summary.added"},
		{numericsummary.Numbers{Number: 3}, []float64{20, 20, 20}, ""},
		{numericsummary.Numbers{Width: 20}, []float64{20, 20, 20}, ""},
		{numericsummary.Numbers{Width: 1e-9}, fives, "note.numeric_summary.unfit"},
		{numericsummary.Numbers{Start: &start}, fives, "note.numeric_summary.unfit"},
	} {
		k.c.Drawing, k.c.Height, k.c.Parts = numericsummary.Histogram, claim.AsCount, 4
		d := k.c.Document(s)
		var heights []float64
		for _, b := range plotIn(t, d, 1).Plot.Bars {
			heights = append(heights, b.Height)
		}
		if k.note == "note.numeric_summary.added" {
			assert.Len(t, heights, 2)
		} else {
			assert.InDeltaSlice(t, k.heights, heights, 1e-12, "%+v", k.c)
		}
		for _, note := range []string{"note.numeric_summary.uneven", "note.numeric_summary.added", "note.numeric_summary.unfit"} {
			if note != k.note && !(note == "note.numeric_summary.uneven" && k.note == "note.numeric_summary.added") {
				assert.NotContains(t, notesIn(d), note)
			}
		}
		if k.note != "" {
			assert.Contains(t, notesIn(d), k.note)
		}
	}
}
