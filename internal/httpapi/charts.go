package httpapi

import (
	"math"

	"widetally/core/document"
)

type lineDTO struct {
	At   float64 `json:"at"`
	Text string  `json:"text"`
}

type spanDTO struct {
	// From and To are null where the span reaches to the end of the drawing.
	From *float64 `json:"from"`
	To   *float64 `json:"to"`
}

type curveDTO struct {
	X         []float64 `json:"x"`
	Density   []float64 `json:"density"`
	Top       float64   `json:"top"`
	Statistic float64   `json:"statistic"`
	Outside   bool      `json:"outside"`
	Label     string    `json:"label"`
	Critical  []lineDTO `json:"critical"`
	Tails     []spanDTO `json:"tails"`
	Rejection []spanDTO `json:"rejection"`
}

type whiskerDTO struct {
	Name     string  `json:"name"`
	Lower    float64 `json:"lower"`
	Estimate float64 `json:"estimate"`
	Upper    float64 `json:"upper"`
	Text     string  `json:"text"`
}

type whiskersDTO struct {
	Rows      []whiskerDTO `json:"rows"`
	Reference *lineDTO     `json:"reference"`
	From      float64      `json:"from"`
	To        float64      `json:"to"`
}

type barDTO struct {
	From   float64 `json:"from"`
	To     float64 `json:"to"`
	Base   float64 `json:"base"`
	Height float64 `json:"height"`
	Tone   int     `json:"tone"`
	Text   string  `json:"text"`
}

type tickLineDTO struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
	At   float64 `json:"at"`
}

type plotLineDTO struct {
	Points [][2]float64 `json:"points"`
	Thin   bool         `json:"thin"`
}

type boxDTO struct {
	At        float64 `json:"at"`
	Lower     float64 `json:"lower"`
	Quartile1 float64 `json:"quartile1"`
	Median    float64 `json:"median"`
	Quartile3 float64 `json:"quartile3"`
	Upper     float64 `json:"upper"`
}

type plotDTO struct {
	From   float64       `json:"from"`
	To     float64       `json:"to"`
	Top    float64       `json:"top"`
	Up     string        `json:"up"`
	Bars   []barDTO      `json:"bars"`
	Names  []lineDTO     `json:"names"`
	Legend []string      `json:"legend"`
	Lines  []plotLineDTO `json:"lines"`
	Points [][2]float64  `json:"points"`
	Boxes  []boxDTO      `json:"boxes"`
	// Rows name the boxes where they stand one under the other.
	Rows []string `json:"rows"`
	// Flat says that the bars stand along the axis across.
	Flat  bool          `json:"flat"`
	Ticks []tickLineDTO `json:"ticks"`
	Tick  string        `json:"tick"`
}

func (s *server) toPlot(p *document.Plot) *plotDTO {
	if p == nil {
		return nil
	}
	out := &plotDTO{From: p.From, To: p.To, Top: p.Top, Up: s.say(p.Up), Bars: []barDTO{}, Names: []lineDTO{}, Legend: s.sayAll(p.Legend), Lines: []plotLineDTO{}, Points: toPoints(p.Points), Boxes: []boxDTO{}, Rows: s.sayAll(p.Rows), Flat: p.Flat, Ticks: []tickLineDTO{}, Tick: s.say(p.Tick)}
	for _, n := range p.Names {
		out.Names = append(out.Names, lineDTO{n.At, s.say(n.Label)})
	}
	for _, b := range p.Bars {
		out.Bars = append(out.Bars, barDTO{b.From, b.To, b.Base, b.Height, b.Tone, s.say(b.Label)})
	}
	for _, b := range p.Boxes {
		out.Boxes = append(out.Boxes, boxDTO(b))
	}
	for _, t := range p.Ticks {
		out.Ticks = append(out.Ticks, tickLineDTO(t))
	}
	for _, l := range p.Lines {
		out.Lines = append(out.Lines, plotLineDTO{toPoints(l.Points), l.Thin})
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

type chartDTO struct {
	Kind  document.PictureKind `json:"kind"`
	Alt   string               `json:"alt"`
	Axis  string               `json:"axis"`
	Title string               `json:"title"`
	// Size is how large it is drawn, 1 for the usual.
	Size float64 `json:"size"`
	// Notes stand under a picture that leaves: its base, the study, the date.
	Notes    []string     `json:"notes"`
	Curve    *curveDTO    `json:"curve"`
	Whiskers *whiskersDTO `json:"whiskers"`
	Plot     *plotDTO     `json:"plot"`
}

// finite is nil for a number without bound.
func finite(x float64) *float64 {
	if math.IsInf(x, 0) || math.IsNaN(x) {
		return nil
	}
	return &x
}

func toSpans(list []document.Span) []spanDTO {
	out := make([]spanDTO, len(list))
	for i, span := range list {
		out[i] = spanDTO{finite(span.From), finite(span.To)}
	}
	return out
}

func (s *server) toChart(p *document.Picture) *chartDTO {
	if p == nil {
		return nil
	}
	out := &chartDTO{Kind: p.Kind, Alt: s.say(p.Alt), Axis: s.say(p.Axis), Title: s.say(p.Title), Size: p.Size, Notes: []string{}, Plot: s.toPlot(p.Plot)}
	if out.Size == 0 {
		out.Size = 1
	}
	if c := p.Curve; c != nil {
		out.Curve = &curveDTO{X: c.X, Density: c.Density, Top: c.Top, Statistic: c.Statistic, Outside: c.Outside, Label: s.say(c.Label), Critical: []lineDTO{}, Tails: toSpans(c.Tails), Rejection: toSpans(c.Rejection)}
		for _, l := range c.Critical {
			out.Curve.Critical = append(out.Curve.Critical, lineDTO{l.At, s.say(l.Label)})
		}
	}
	if w := p.Whiskers; w != nil {
		out.Whiskers = &whiskersDTO{Rows: []whiskerDTO{}, From: w.From, To: w.To}
		if w.Reference != nil {
			out.Whiskers.Reference = &lineDTO{w.Reference.At, s.say(w.Reference.Label)}
		}
		for _, r := range w.Rows {
			out.Whiskers.Rows = append(out.Whiskers.Rows, whiskerDTO{s.say(r.Name), r.Lower, r.Estimate, r.Upper, s.say(r.Text)})
		}
	}
	return out
}
