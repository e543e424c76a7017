package claim

import (
	"math"

	"widetally/core/document"
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
	return choice("drawing", "picture", CrossingPictures, c.Picture, drawn)
}

func drawn(p CrossingPicture) document.Message {
	if p == NoPicture {
		return document.Say("choice.draw.none", nil)
	}
	return document.Say("choice.draw."+string(p), nil)
}

// sideBySide draws the answers of groups beside each other.
type sideBySide struct {
	groups, answers []string
	of, what        Question
	n               int64
	counts          bool                   // heights are counts, not percents
	at              func(g, a int) float64 // the height of a bar
}

func (s sideBySide) picture() *document.Picture {
	v := document.Values{"groups": s.of.called(), "answers": s.what.called(), "n": document.N(s.n)}
	d := &document.Plot{To: float64(len(s.groups)), Up: document.Say("chart.plot.up_share", nil)}
	if s.counts {
		d.Up = document.Say("chart.plot.up_count", nil)
	}
	for _, a := range s.answers {
		d.Legend = append(d.Legend, plain(document.Text(a)))
	}
	width := 0.8 / float64(len(s.answers))
	for g, label := range s.groups {
		for a := range s.answers {
			height := s.at(g, a)
			from := float64(g) + 0.1 + width*float64(a)
			d.Bars = append(d.Bars, document.Bar{From: from, To: from + width, Height: height, Tone: a})
			d.Top = math.Max(d.Top, height)
		}
		d.Names = append(d.Names, document.Line{At: float64(g) + 0.5, Label: plain(document.Text(label))})
	}
	return &document.Picture{Kind: document.PlotPicture, Alt: document.Say("chart.plot.alt_bars", v), Axis: document.Say("chart.plot.axis_bars", v), Plot: d}
}

// picture draws the table in the reading that is chosen: the groups side by side, in a
// mosaic as wide as they are large. Nil for none, and where nobody answered.
func (c Crossing) picture(t crossed) *document.Picture {
	if c.Picture == NoPicture || t.n == 0 {
		return nil
	}
	groups, answers, of, what, base := c.RowLabels, c.ColumnLabels, c.Rows, c.Columns, t.rowSum
	at := func(g, a int) int64 { return t.counts[g][a] }
	if c.Reading == OfEachColumn {
		groups, answers, of, what, base = answers, groups, what, of, t.columnSum
		at = func(g, a int) int64 { return t.counts[a][g] }
	}
	v := document.Values{"groups": of.called(), "answers": what.called(), "n": document.N(t.n)}
	d := &document.Plot{Up: document.Say("chart.plot.up_share", nil)}
	for _, a := range answers {
		d.Legend = append(d.Legend, plain(document.Text(a)))
	}
	if c.Picture == Mosaic {
		so := 0.0
		for g, label := range groups {
			width := 100 * float64(base[g]) / float64(t.n)
			height := 0.0
			for a := range answers {
				share := percent(at(g, a), base[g])
				if share > 0 {
					d.Bars = append(d.Bars, document.Bar{From: so, To: so + width, Base: height, Height: share, Tone: a})
				}
				height += share
			}
			if width > 0 {
				d.Names = append(d.Names, document.Line{At: so + width/2, Label: plain(document.Text(label))})
			}
			so += width
		}
		d.To, d.Top = 100, 100
		return &document.Picture{Kind: document.PlotPicture, Alt: document.Say("chart.plot.alt_mosaic", v), Axis: document.Say("chart.plot.axis_mosaic", v), Plot: d}
	}
	return sideBySide{groups, answers, of, what, t.n, c.Reading == AsCounts, func(g, a int) float64 {
		switch c.Reading {
		case OfEachRow, OfEachColumn:
			return percent(at(g, a), base[g])
		case OfEveryone:
			return percent(at(g, a), t.n)
		}
		return float64(at(g, a))
	}}.picture()
}
