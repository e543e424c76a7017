package distribution

import (
	"maps"
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/prob"
	"widetally/core/say"
)

// TailFind is what is asked of a distribution.
type TailFind string

// What is asked.
const (
	TailsAt   TailFind = "tails" // both tails at a point
	LowerTail TailFind = "lower" // the point with a lower tail
	UpperTail TailFind = "upper" // the point with an upper tail
)

// TailFinds lists them in the order in which they are offered.
var TailFinds = []TailFind{TailsAt, LowerTail, UpperTail}

// Tails is a point of a distribution with both tails, which include it.
type Tails struct {
	Name         string
	Find         TailFind
	X, Tail      float64
	Lower, Upper prob.Prob
	DF, DF2      float64
	N            int64
	Share        float64
	Symmetric    bool
}

// Document says both tails in a sentence and draws them. density is that of the distribution,
// of binomial the chance of a count; from and to bound the drawing.
func (c Tails) Document(density func(x float64) float64, from, to float64) document.Document {
	p := func(x prob.Prob) document.Value { return document.P(document.PExact, x, 0.5) }
	v := document.Values{
		"x":     claim.Measure(c.X),
		"lower": p(c.Lower),
		"upper": p(c.Upper),
		"tail":  claim.Measure(c.Tail),
		"df":    claim.Measure(c.DF),
		"df2":   claim.Measure(c.DF2),
		"n":     document.N(c.N),
		"share": claim.PercentOf(c.Share),
	}
	name := document.Say("tails.name."+c.Name, maps.Clone(v)) // its own, for it becomes one of them
	v["distribution"] = document.Value{Kind: document.Said, Message: &name}
	id := "tails." + string(c.Find)
	if c.N > 0 && c.Find != TailsAt {
		id += "_count"
	}
	said := document.Say(id, v)
	facts := []document.Fact{
		claim.Fact("x", "point", nil, claim.Plain(v["x"])),
		claim.Fact("lower", "lower_tail", nil, claim.Plain(v["lower"])),
		claim.Fact("upper", "upper_tail", nil, claim.Plain(v["upper"])),
	}
	if c.Symmetric {
		smaller := c.Lower
		if c.Upper.Less(c.Lower) {
			smaller = c.Upper
		}
		facts = append(facts, claim.Fact("both", "both_tails", nil, claim.Plain(p(smaller.Times(2)))))
	}
	var notes claim.NotesOf
	if c.N > 0 {
		notes.Add(document.Facts, "tails.count", nil)
	}
	return document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: []document.Message{said}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Chart, Chart: c.picture(density, from, to, v)},
		{Kind: document.WriteUp, Said: []document.Message{said}},
	}, Notes: notes}
}

func (c Tails) picture(density func(x float64) float64, from, to float64, v document.Values) *document.Picture {
	from, to = math.Min(from, c.X), math.Max(to, c.X)
	label := document.Say("chart.curve.point", v)
	shaded, rest := document.Span{From: c.X, To: math.Inf(1)}, document.Span{From: math.Inf(-1), To: c.X}
	if c.Find == LowerTail || c.Find == TailsAt && c.Lower.Less(c.Upper) {
		shaded = rest
	}
	out := &document.Picture{
		Kind: document.CurvePicture,
		Alt:  document.Say("chart.curve.alt_tails", v),
		Axis: *v["distribution"].Message,
	}
	if c.N > 0 {
		return c.bars(out, density, from, to)
	}
	const points = 200
	curve := &document.Curve{Statistic: c.X, Label: label, Tails: []document.Span{shaded}}
	for i := range points + 1 {
		x := from + (to-from)*float64(i)/points
		y := density(x)
		if math.IsInf(y, 1) || math.IsNaN(y) {
			y = density(from + (to-from)/points/4)
		}
		curve.X, curve.Density = append(curve.X, x), append(curve.Density, y)
		if i > points/50 {
			curve.Top = math.Max(curve.Top, y)
		}
	}
	for i, y := range curve.Density { // a density without a greatest value is cut
		curve.Density[i] = math.Min(y, 1.5*curve.Top)
		curve.Top = math.Max(curve.Top, math.Min(y, 1.2*curve.Top))
	}
	out.Curve = curve
	return out
}

// mostBars bounds the counts that are drawn.
const mostBars = 160

// bars draws the chances of counts around the point.
func (c Tails) bars(out *document.Picture, chance func(x float64) float64, from, to float64) *document.Picture {
	step := math.Max(1, math.Ceil((to-from+1)/mostBars))
	d := &document.Plot{From: from - 0.5, To: from - 0.5, Up: say.ChartPlotUpChance()}
	for x := from; x <= to; x += step {
		sum := 0.0
		for k := x; k < x+step; k++ {
			sum += 100 * chance(k)
		}
		d.Bars = append(d.Bars, document.Bar{From: x - 0.5, To: x + step - 0.5, Height: sum})
		d.To, d.Top = x+step-0.5, math.Max(d.Top, sum)
	}
	d.Points = []document.Point{{X: c.X, Y: 0}}
	out.Kind, out.Plot = document.PlotPicture, d
	return out
}
