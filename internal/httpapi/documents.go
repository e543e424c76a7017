package httpapi

import (
	"encoding/json"
	"math"
	"strings"

	"widetally/core/document"
)

// documentDTO is a document with its messages said.
type documentDTO struct {
	Blocks  []blockDTO  `json:"blocks"`
	Notes   []noteDTO   `json:"notes"`
	Outcome *outcomeDTO `json:"outcome"`
	Ticks   *ticksDTO   `json:"ticks"`
}

type blockDTO struct {
	Kind document.Place `json:"kind"`
	// Lines are the texts of the block: those of a sentence are read as one.
	Lines   []string    `json:"lines"`
	Facts   []factDTO   `json:"facts"`
	Table   *tableDTO   `json:"table"`
	Chart   *chartDTO   `json:"chart"`
	Choices *choicesDTO `json:"choices"`
}

type factDTO struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

type figureDTO struct {
	Role   document.Role `json:"role"`
	Text   string        `json:"text"`
	Number *float64      `json:"number"`
}

type cellDTO struct {
	Figures []figureDTO   `json:"figures"`
	Mark    document.Mark `json:"mark"`
	// MarkText says the mark in words, for who does not see it.
	MarkText string `json:"markText"`
	// Said is what the cell means, as a sentence; "" where nothing is said.
	Said  string `json:"said"`
	Faint bool   `json:"faint"`
}

type tableRowDTO struct {
	Name  string    `json:"name"`
	Cells []cellDTO `json:"cells"`
	Total bool      `json:"total"`
	Faint bool      `json:"faint"`
	Strip []float64 `json:"strip"`
}

type tableDTO struct {
	Caption string          `json:"caption"`
	Stub    string          `json:"stub"`
	Columns []string        `json:"columns"`
	Rows    []tableRowDTO   `json:"rows"`
	Strips  *string         `json:"strips"`
	Shown   []document.Role `json:"shown"`
}

type choicesDTO struct {
	Label   string      `json:"label"`
	Options []optionDTO `json:"options"`
}

type optionDTO struct {
	Label  string          `json:"label"`
	Chosen bool            `json:"chosen"`
	Change json.RawMessage `json:"change"`
}

type outcomeDTO struct {
	Text string `json:"text"`
	P    string `json:"p"`
}

type tickDTO struct {
	Code   string  `json:"code"`
	Share  float64 `json:"share"`
	Points float64 `json:"points"`
}

type ticksDTO struct {
	Source string    `json:"source"`
	Shares []tickDTO `json:"shares"`
	Sum    float64   `json:"sum"`
}

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
}

type plotLineDTO struct {
	Points [][2]float64 `json:"points"`
	Thin   bool         `json:"thin"`
}

type boxDTO struct {
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
	Box    *boxDTO       `json:"box"`
}

func (s *server) toPlot(p *document.Plot) *plotDTO {
	if p == nil {
		return nil
	}
	out := &plotDTO{From: p.From, To: p.To, Top: p.Top, Up: s.say(p.Up), Bars: []barDTO{}, Names: []lineDTO{}, Legend: s.sayAll(p.Legend), Lines: []plotLineDTO{}, Points: toPoints(p.Points), Box: (*boxDTO)(p.Box)}
	for _, n := range p.Names {
		out.Names = append(out.Names, lineDTO{n.At, s.say(n.Label)})
	}
	for _, b := range p.Bars {
		out.Bars = append(out.Bars, barDTO(b))
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
	Kind     document.PictureKind `json:"kind"`
	Alt      string               `json:"alt"`
	Axis     string               `json:"axis"`
	Curve    *curveDTO            `json:"curve"`
	Whiskers *whiskersDTO         `json:"whiskers"`
	Plot     *plotDTO             `json:"plot"`
}

func (s *server) say(m document.Message) string {
	if m.ID == "" {
		return ""
	}
	return s.study.Words().Say(m)
}

func (s *server) sayAll(list []document.Message) []string {
	out := make([]string, len(list))
	for i, m := range list {
		out[i] = s.say(m)
	}
	return out
}

func (s *server) toDocument(d *document.Document) *documentDTO {
	if d == nil {
		return nil
	}
	out := &documentDTO{Blocks: make([]blockDTO, len(d.Blocks)), Notes: []noteDTO{}}
	for i, b := range d.Blocks {
		out.Blocks[i] = s.toBlock(b)
	}
	for _, n := range d.Notes {
		out.Notes = append(out.Notes, s.toNote(n))
	}
	if d.Outcome != nil {
		out.Outcome = &outcomeDTO{s.say(d.Outcome.Text), s.study.Words().Write(d.Outcome.P)}
	}
	if d.Ticks != nil {
		out.Ticks = &ticksDTO{Source: d.Ticks.Source, Shares: []tickDTO{}, Sum: d.Ticks.Sum}
		for _, t := range d.Ticks.Shares {
			out.Ticks.Shares = append(out.Ticks.Shares, tickDTO(t))
		}
	}
	return out
}

func (s *server) toBlock(b document.Block) blockDTO {
	out := blockDTO{Kind: b.Kind, Lines: s.sayAll(b.Said), Facts: []factDTO{}, Table: s.toTable(b.Table), Chart: s.toChart(b.Chart)}
	if b.Kind == document.Sentence {
		out.Lines = []string{strings.Join(out.Lines, " ")}
	}
	for _, f := range b.Facts {
		out.Facts = append(out.Facts, factDTO{f.Key, s.say(f.Name), s.say(f.Value)})
	}
	if c := b.Choices; c != nil {
		out.Choices = &choicesDTO{Label: s.say(c.Label), Options: []optionDTO{}}
		for _, o := range c.Options {
			out.Choices.Options = append(out.Choices.Options, optionDTO{s.say(o.Label), o.Chosen, o.Change})
		}
	}
	return out
}

func (s *server) toTable(t *document.Table) *tableDTO {
	if t == nil {
		return nil
	}
	out := &tableDTO{Caption: s.say(t.Caption), Stub: s.say(t.Stub), Columns: s.sayAll(t.Columns), Rows: make([]tableRowDTO, len(t.Rows)), Shown: t.Shown}
	if t.Strips != nil {
		text := s.say(*t.Strips)
		out.Strips = &text
	}
	for i, r := range t.Rows {
		row := tableRowDTO{Name: s.say(r.Name), Cells: make([]cellDTO, len(r.Cells)), Total: r.Total, Faint: r.Faint, Strip: append([]float64{}, r.Strip...)}
		for k, c := range r.Cells {
			row.Cells[k] = s.toCell(c)
		}
		out.Rows[i] = row
	}
	return out
}

func (s *server) toCell(c document.Cell) cellDTO {
	out := cellDTO{Figures: []figureDTO{}, Mark: c.Mark, Said: s.say(c.Said), Faint: c.Faint}
	if c.Mark != "" {
		out.MarkText = s.study.Words().Text("mark."+string(c.Mark), nil)
	}
	for _, f := range c.Figures {
		figure := figureDTO{Role: f.Role, Text: s.study.Words().Write(f.Value)}
		if f.Value.Kind != document.Words && f.Value.Kind != document.Said {
			figure.Number = finite(f.Value.Number)
		}
		out.Figures = append(out.Figures, figure)
	}
	return out
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
	out := &chartDTO{Kind: p.Kind, Alt: s.say(p.Alt), Axis: s.say(p.Axis), Plot: s.toPlot(p.Plot)}
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
