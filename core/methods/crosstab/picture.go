package crosstab

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// CrossingPicture is a way to draw a crossing.
type CrossingPicture string

// The pictures; "" is none.
const (
	NoPicture  CrossingPicture = ""
	SideBySide CrossingPicture = "bars"
	Mosaic     CrossingPicture = "mosaic"
)

// CrossingPictures lists the pictures in the order in which they are offered.
var CrossingPictures = []CrossingPicture{NoPicture, SideBySide, Mosaic}

func (c Crossing) pictures() *document.Choice {
	return claim.Choice("drawing", "picture", CrossingPictures, c.Picture, Drawn)
}

// Drawn names a picture.
func Drawn(p CrossingPicture) document.Message {
	if p == NoPicture {
		return say.ChoiceDrawNone()
	}
	return document.Say("choice.draw."+string(p), nil)
}

// GroupedBars draws the answers of groups beside each other.
type GroupedBars struct {
	Groups, Answers []string
	Of, What        claim.Question
	N               int64
	Counts          bool                   // heights are counts, not percents
	At              func(g, a int) float64 // the height of a bar
	// Within is the interval of a bar, drawn as a line; nil for none, also for one of them.
	Within func(g, a int) *infer.Interval
}

// Picture draws the groups side by side.
func (s GroupedBars) Picture() *document.Picture {
	v := document.Values{"groups": s.Of.Called(), "answers": s.What.Called(), "n": document.N(s.N)}
	d := &document.Plot{To: float64(len(s.Groups)), Up: say.ChartPlotUpShare()}
	if s.Counts {
		d.Up = say.ChartPlotUpCount()
	}
	for _, a := range s.Answers {
		d.Legend = append(d.Legend, claim.Plain(document.Text(a)))
	}
	width := 0.8 / float64(len(s.Answers))
	for g, label := range s.Groups {
		for a := range s.Answers {
			height := s.At(g, a)
			from := float64(g) + 0.1 + width*float64(a)
			d.Bars = append(d.Bars, document.Bar{From: from, To: from + width, Height: height, Tone: a})
			d.Top = math.Max(d.Top, height)
			if s.Within == nil {
				continue
			}
			if i := s.Within(g, a); i != nil {
				x := from + width/2
				d.Lines = append(d.Lines, document.PlotLine{Thin: true, Points: []document.Point{{X: x, Y: 100 * i.Lower}, {X: x, Y: 100 * i.Upper}}})
				d.Top = math.Max(d.Top, 100*i.Upper)
			}
		}
		d.Names = append(d.Names, document.Line{At: float64(g) + 0.5, Label: claim.Plain(document.Text(label))})
	}
	return &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_bars", v),
		Axis: document.Say("chart.plot.axis_bars", v),
		Plot: d,
	}
}

// picture draws the table in the reading that is chosen: the groups side by side, in a
// mosaic as wide as they are large. Nil for none, and where nobody answered.
func (c Crossing) picture(t Crossed) *document.Picture {
	if c.Picture == NoPicture || t.N == 0 {
		return nil
	}
	groups, answers, of, what, base := c.RowLabels, c.ColumnLabels, c.Rows, c.Columns, t.RowSum
	at := func(g, a int) int64 { return t.counts[g][a] }
	if c.Reading == OfEachColumn {
		groups, answers, of, what, base = answers, groups, what, of, t.ColumnSum
		at = func(g, a int) int64 { return t.counts[a][g] }
	}
	v := document.Values{"groups": of.Called(), "answers": what.Called(), "n": document.N(t.N)}
	d := &document.Plot{Up: say.ChartPlotUpShare()}
	for _, a := range answers {
		d.Legend = append(d.Legend, claim.Plain(document.Text(a)))
	}
	if c.Picture == Mosaic {
		so := 0.0
		for g, label := range groups {
			width := 100 * float64(base[g]) / float64(t.N)
			height := 0.0
			for a := range answers {
				share := claim.Percent(at(g, a), base[g])
				if share > 0 {
					d.Bars = append(d.Bars, document.Bar{From: so, To: so + width, Base: height, Height: share, Tone: a})
				}
				height += share
			}
			if width > 0 {
				d.Names = append(d.Names, document.Line{At: so + width/2, Label: claim.Plain(document.Text(label))})
			}
			so += width
		}
		d.To, d.Top = 100, 100
		return &document.Picture{
			Kind: document.PlotPicture,
			Alt:  document.Say("chart.plot.alt_mosaic", v),
			Axis: document.Say("chart.plot.axis_mosaic", v),
			Plot: d,
		}
	}
	return GroupedBars{Groups: groups, Answers: answers, Of: of, What: what, N: t.N, Counts: c.Reading == AsCounts, At: func(g, a int) float64 {
		switch c.Reading {
		case OfEachRow, OfEachColumn:
			return claim.Percent(at(g, a), base[g])
		case OfEveryone:
			return claim.Percent(at(g, a), t.N)
		}
		return float64(at(g, a))
	}}.Picture()
}
