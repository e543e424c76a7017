package claim

import (
	"widetally/core/document"
	"widetally/core/say"
)

// Size is how large a picture is drawn.
type Size string

// The sizes; "" is the usual one.
const (
	UsualSize Size = ""
	SmallSize Size = "small"
	LargeSize Size = "large"
)

// Sizes lists the sizes in the order in which they are offered.
var Sizes = []Size{SmallSize, UsualSize, LargeSize}

// Frame is what a person wants of a picture beyond its figures; nil leaves all as it is.
type Frame struct {
	Title string `json:"title,omitempty"`
	// Across and Up take the place of the names of the axes.
	Across string `json:"across,omitempty"`
	Up     string `json:"up,omitempty"`
	// Values writes its figure at each bar.
	Values bool `json:"values,omitempty"`
	Size   Size `json:"size,omitempty"`
}

// MostFrameText bounds the texts of a frame, in characters.
const MostFrameText = 120

// on frames a picture, whose bars are figures of a kind; nil stays nil.
func (f *Frame) on(p *document.Picture, kind document.ValueKind) *document.Picture {
	if f == nil || p == nil {
		return p
	}
	text := func(s string, m *document.Message) {
		if s != "" {
			*m = Plain(document.Text(s))
		}
	}
	text(f.Title, &p.Title)
	text(f.Across, &p.Axis)
	p.Size = map[Size]float64{SmallSize: 0.7, LargeSize: 1.35}[f.Size]
	if p.Plot == nil {
		return p
	}
	if p.Plot.Up.ID != "" {
		text(f.Up, &p.Plot.Up)
	}
	for i := range p.Plot.Bars {
		if b := &p.Plot.Bars[i]; f.Values {
			b.Label = Plain(document.Of(kind, b.Height))
		}
	}
	return p
}

// choice offers to edit a picture; bars says that it has some, up that it has an axis up.
func (f *Frame) choice(bars, up bool) *document.Choice {
	var is Frame
	if f != nil {
		is = *f
	}
	out := &document.Choice{Label: say.ChoiceFrameLabel(), Folded: true}
	entry := func(member, text string) {
		out.Entries = append(
			out.Entries,
			document.Entry{
				Label:  document.Say("choice.frame."+member, nil),
				Member: "frame." + member,
				Text:   text,
				Most:   MostFrameText,
			},
		)
	}
	entry("title", is.Title)
	entry("across", is.Across)
	if up {
		entry("up", is.Up)
	}
	change := func(member string, value any) []byte {
		return Patch(map[string]any{"frame": map[string]any{member: value}})
	}
	if bars {
		out.Options = append(
			out.Options,
			document.Option{Label: say.ChoiceFrameValues(), Chosen: is.Values, Change: change("values", !is.Values)},
		)
	}
	for _, s := range Sizes {
		id := "choice.frame.size." + string(s)
		if s == UsualSize {
			id += "usual"
		}
		out.Options = append(
			out.Options,
			document.Option{Label: document.Say(id, nil), Chosen: s == is.Size, Change: change("size", s)},
		)
	}
	return out
}

// Drawn is the blocks of a picture: the picture and the ways to edit it; none without it.
func (f *Frame) Drawn(p *document.Picture, kind document.ValueKind) []document.Block {
	if p == nil {
		return nil
	}
	bars, up := p.Plot != nil && len(p.Plot.Bars) > 0, p.Plot != nil && p.Plot.Up.ID != ""
	return []document.Block{{Kind: document.Chart, Chart: f.on(p, kind)}, {Kind: document.Choices, Choices: f.choice(bars, up)}}
}
