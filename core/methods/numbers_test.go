package methods_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/numericsummary"
	"widetally/core/tally"
)

func plotOf(t *testing.T, d document.Document) *document.Plot {
	t.Helper()
	return blockOf(t, d, document.Chart).Chart.Plot
}

// cellsOf are the numbers of the last table, which is that of the picture.
func cellsOf(d document.Document) (out [][]float64) {
	for _, b := range d.Blocks {
		if b.Table == nil {
			continue
		}
		out = nil
		for _, r := range b.Table.Rows {
			var row []float64
			for _, c := range r.Cells {
				row = append(row, c.Figures[0].Value.Number)
			}
			out = append(out, row)
		}
	}
	return out
}

// Ten trips of 0–10, 20 of 10–20, 15 of 20–30 and 5 of 30–40 minutes: a polygon over the
// midpoints that is closed to zero a class before and after, an ogive at the upper limits;
// mean (10·5 + 20·15 + 15·25 + 5·35) ÷ 50 = 18, median 10 + (25 − 10) ÷ 20 · 10 = 17.5.
func TestClassesAreDrawn(t *testing.T) {
	t.Parallel()
	g, err := tally.SummariseClasses([][2]float64{{0, 10}, {10, 20}, {20, 30}, {30, 40}}, []int64{10, 20, 15, 5})
	require.NoError(t, err)
	c := numericsummary.Numbers{About: claim.About{Units: document.Text("trips"), Everyone: 53}, Drawing: numericsummary.Polygon, Height: claim.AsCount}
	d := c.Classes(g)
	assert.Equal(t, []document.Point{{X: -5}, {X: 5, Y: 10}, {X: 15, Y: 20}, {X: 25, Y: 15}, {X: 35, Y: 5}, {X: 45}}, plotOf(t, d).Lines[0].Points)
	facts := map[string]float64{}
	for _, f := range blockOf(t, d, document.Facts).Facts {
		facts[f.Key] = f.Value.Values["value"].Number
	}
	assert.Equal(t, []float64{50, 18, 17.5}, []float64{facts["n"], facts["mean"], facts["median"]})
	assert.Equal(t, [][]float64{{10, 20, 10, 20, 5}, {20, 40, 30, 60, 15}, {15, 30, 45, 90, 25}, {5, 10, 50, 100, 35}}, cellsOf(d))
	c.Drawing = numericsummary.Ogive
	assert.Equal(t, []document.Point{{}, {X: 10, Y: 20}, {X: 20, Y: 60}, {X: 30, Y: 90}, {X: 40, Y: 100}}, plotOf(t, c.Classes(g)).Lines[0].Points)

	// Unequal classes are drawn as densities: 10 of 40 in a class 10 wide, 30 in one 60 wide.
	g, err = tally.SummariseClasses([][2]float64{{0, 10}, {10, 70}}, []int64{10, 30})
	require.NoError(t, err)
	c.Drawing = numericsummary.Histogram
	assert.Equal(t, []document.Bar{{From: 0, To: 10, Height: 0.025}, {From: 10, To: 70, Height: 0.0125}}, plotOf(t, c.Classes(g)).Bars)
}

func TestNumbersAreDrawn(t *testing.T) {
	t.Parallel()
	s, err := tally.SummariseNumbers(tally.NumbersInput{Values: []float64{1, 2, 4}, Counts: []int64{3, 82, 15}, Percents: []float64{50}, Confidence: 0.95})
	require.NoError(t, err)
	c := numericsummary.Numbers{Drawing: numericsummary.Histogram, Height: claim.AsShare, Normal: true, Parts: 4}
	p := plotOf(t, c.Document(s))
	assert.Equal(t, []document.Bar{{From: 0.5, To: 1.5, Height: 3}, {From: 1.5, To: 2.5, Height: 82}, {From: 2.5, To: 3.5}, {From: 3.5, To: 4.5, Height: 15}}, p.Bars, "whole numbers stand in the middle of their bars, an empty place stays empty")
	area := 0.0
	for i, to := range p.Lines[0].Points[1:] {
		from := p.Lines[0].Points[i]
		area += (from.Y + to.Y) / 2 * (to.X - from.X)
	}
	assert.InDelta(t, 100, area, 1.5, "the normal curve has the area of the bars")

	c.Drawing = numericsummary.DotPlot // a dot for three: 1, 27 and 5 of them
	dots := map[float64]int{}
	for _, at := range plotOf(t, c.Document(s)).Points {
		dots[at.X]++
	}
	assert.Equal(t, map[float64]int{1: 1, 2: 27, 4: 5}, dots)
	c.Drawing, c.Width = numericsummary.Histogram, 1e-9
	assert.Len(t, plotOf(t, c.Document(s)).Bars, 4, "classes that cannot be are those that suit the numbers")

	// All numbers the same, and nothing to divide by.
	s, err = tally.SummariseNumbers(tally.NumbersInput{Values: []float64{7}, Percents: []float64{50}, Confidence: 0.95})
	require.NoError(t, err)
	for _, c.Drawing = range numericsummary.Drawings {
		c.Width, c.Height = 0, claim.AsDensity
		p := plotOf(t, c.Document(s))
		assert.Less(t, p.From, p.To, c.Drawing)
	}
}
