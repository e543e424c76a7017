package chart

import (
	"widetally/core/document"
	"widetally/internal/i18n"
)

// Line is a labelled line at a value.
type Line struct {
	At   float64 `json:"at"`
	Text string  `json:"text"`
}

// Span is a piece of an axis.
type Span struct {
	// From and To are null where the span reaches to the end of the drawing.
	From *float64 `json:"from"`
	To   *float64 `json:"to"`
}

// Curve is a density with a statistic, critical values and tails.
type Curve struct {
	X         []float64 `json:"x"`
	Density   []float64 `json:"density"`
	Top       float64   `json:"top"`
	Statistic float64   `json:"statistic"`
	Outside   bool      `json:"outside"`
	Label     string    `json:"label"`
	Critical  []Line    `json:"critical"`
	Tails     []Span    `json:"tails"`
	Rejection []Span    `json:"rejection"`
}

// Whisker is one interval.
type Whisker struct {
	Name     string  `json:"name"`
	Lower    float64 `json:"lower"`
	Estimate float64 `json:"estimate"`
	Upper    float64 `json:"upper"`
	Text     string  `json:"text"`
}

// Whiskers are intervals one under the other.
type Whiskers struct {
	Rows      []Whisker `json:"rows"`
	Reference *Line     `json:"reference"`
	From      float64   `json:"from"`
	To        float64   `json:"to"`
}

// Bar stands on its base.
type Bar struct {
	From   float64 `json:"from"`
	To     float64 `json:"to"`
	Base   float64 `json:"base"`
	Height float64 `json:"height"`
	Tone   int     `json:"tone"`
	Text   string  `json:"text"`
}

// TickLine is a line across a bar.
type TickLine struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
	At   float64 `json:"at"`
}

// PlotLine joins its points.
type PlotLine struct {
	Points [][2]float64 `json:"points"`
	Thin   bool         `json:"thin"`
}

// Box is a box with its median and whiskers.
type Box struct {
	At        float64 `json:"at"`
	Lower     float64 `json:"lower"`
	Quartile1 float64 `json:"quartile1"`
	Median    float64 `json:"median"`
	Quartile3 float64 `json:"quartile3"`
	Upper     float64 `json:"upper"`
}

// Plot is bars, lines, points and boxes over an axis of numbers.
type Plot struct {
	From   float64      `json:"from"`
	To     float64      `json:"to"`
	Top    float64      `json:"top"`
	Up     string       `json:"up"`
	Bars   []Bar        `json:"bars"`
	Names  []Line       `json:"names"`
	Legend []string     `json:"legend"`
	Lines  []PlotLine   `json:"lines"`
	Points [][2]float64 `json:"points"`
	Boxes  []Box        `json:"boxes"`
	// Rows name the boxes where they stand one under the other.
	Rows []string `json:"rows"`
	// Flat says that the bars stand along the axis across.
	Flat  bool       `json:"flat"`
	Ticks []TickLine `json:"ticks"`
	Tick  string     `json:"tick"`
}

func plotOf(p *document.Plot, words *i18n.Catalogue) *Plot {
	if p == nil {
		return nil
	}
	out := &Plot{From: p.From, To: p.To, Top: p.Top, Up: words.Say(p.Up), Bars: []Bar{}, Names: []Line{}, Legend: words.SayAll(p.Legend), Lines: []PlotLine{}, Points: toPoints(p.Points), Boxes: []Box{}, Rows: words.SayAll(p.Rows), Flat: p.Flat, Ticks: []TickLine{}, Tick: words.Say(p.Tick)}
	for _, n := range p.Names {
		out.Names = append(out.Names, Line{n.At, words.Say(n.Label)})
	}
	for _, b := range p.Bars {
		out.Bars = append(out.Bars, Bar{b.From, b.To, b.Base, b.Height, b.Tone, words.Say(b.Label)})
	}
	for _, b := range p.Boxes {
		out.Boxes = append(out.Boxes, Box(b))
	}
	for _, t := range p.Ticks {
		out.Ticks = append(out.Ticks, TickLine(t))
	}
	for _, l := range p.Lines {
		out.Lines = append(out.Lines, PlotLine{toPoints(l.Points), l.Thin})
	}
	return out
}

func toPoints(list []document.Point) [][2]float64 {
	out := make([][2]float64, len(list))
	for i, p := range list {
		out[i] = [2]float64{p.X, p.Y}
	}
	return out
}

// Data is a chart with its words said, as the page and the drawing module take it.
type Data struct {
	Kind  document.PictureKind `json:"kind"`
	Alt   string               `json:"alt"`
	Axis  string               `json:"axis"`
	Title string               `json:"title"`
	// Size is how large it is drawn, 1 for the usual.
	Size float64 `json:"size"`
	// Notes stand under a picture that leaves: its base, the study, the date.
	Notes    []string  `json:"notes"`
	Curve    *Curve    `json:"curve"`
	Whiskers *Whiskers `json:"whiskers"`
	Plot     *Plot     `json:"plot"`
}

func toSpans(list []document.Span) []Span {
	out := make([]Span, len(list))
	for i, span := range list {
		out[i] = Span{document.Finite(span.From), document.Finite(span.To)}
	}
	return out
}

// Of says a picture: what the drawing module and the page take; nil of none.
func Of(p *document.Picture, words *i18n.Catalogue) *Data {
	if p == nil {
		return nil
	}
	out := &Data{Kind: p.Kind, Alt: words.Say(p.Alt), Axis: words.Say(p.Axis), Title: words.Say(p.Title), Size: p.Size, Notes: []string{}, Plot: plotOf(p.Plot, words)}
	if out.Size == 0 {
		out.Size = 1
	}
	if c := p.Curve; c != nil {
		out.Curve = &Curve{X: c.X, Density: c.Density, Top: c.Top, Statistic: c.Statistic, Outside: c.Outside, Label: words.Say(c.Label), Critical: []Line{}, Tails: toSpans(c.Tails), Rejection: toSpans(c.Rejection)}
		for _, l := range c.Critical {
			out.Curve.Critical = append(out.Curve.Critical, Line{l.At, words.Say(l.Label)})
		}
	}
	if w := p.Whiskers; w != nil {
		out.Whiskers = &Whiskers{Rows: []Whisker{}, From: w.From, To: w.To}
		if w.Reference != nil {
			out.Whiskers.Reference = &Line{w.Reference.At, words.Say(w.Reference.Label)}
		}
		for _, r := range w.Rows {
			out.Whiskers.Rows = append(out.Whiskers.Rows, Whisker{words.Say(r.Name), r.Lower, r.Estimate, r.Upper, words.Say(r.Text)})
		}
	}
	return out
}
