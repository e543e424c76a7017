package frequency

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/numericsummary"
	"widetally/core/say"
	"widetally/core/tally"
)

// BarsPicture is a way to draw the answers to one question.
type BarsPicture string

// The pictures.
const (
	UprightBars BarsPicture = "upright"
	OneStrip    BarsPicture = "strip"
)

// Together is the method of the simultaneous intervals of the shares of all answers.
type Together string

// The methods: Goodman (1965), Sison and Glaz (1995), Quesenberry and Hurst (1964).
const (
	Apart            Together = "none"
	Goodman          Together = "goodman"
	SisonGlaz        Together = "sison_glaz"
	QuesenberryHurst Together = "quesenberry_hurst"
)

// Togethers lists the methods in the order in which they are offered.
var Togethers = []Together{Apart, Goodman, SisonGlaz, QuesenberryHurst}

// Of gives the intervals by the method; nil for none.
func (t Together) Of(r *infer.Simultaneous) []infer.Interval {
	switch {
	case t == Goodman:
		return r.Goodman
	case t == QuesenberryHurst:
		return r.QuesenberryHurst
	case t == SisonGlaz && r.SisonGlaz != nil:
		return r.SisonGlaz.Intervals
	}
	return nil
}

// BarsPictures lists the pictures in the order in which they are offered.
var BarsPictures = []BarsPicture{UprightBars, OneStrip}

// Frequency draws the answers to one question, with the table that the picture shows.
type Frequency struct {
	claim.About
	Question claim.Question
	Labels   []string
	// Ranked says that the answers have an order of their own, so that sums mean something.
	Ranked  bool
	Order   claim.Order
	Picture BarsPicture
	Height  claim.Height // count or share
	// Intervals are simultaneous ones of each answer's share, drawn on bars of shares, by the
	// method of Together; nil for none, also where the method gives none.
	Intervals []infer.Interval
	Together  Together
	// Kind and Weighted say how estimates are shown.
	Kind     IntervalKind
	Weighted bool
	Frame    *claim.Frame
}

// Statement says what is shown.
func (Frequency) Statement() document.Message { return say.ClaimFrequencyDescribed() }

// Document shows the relative frequencies as a table and as a picture.
func (c Frequency) Document(r *tally.Relative) document.Document {
	v := document.Values{"units": c.Units, "question": c.Question.Called(), "n": document.N(r.N)}
	at := claim.Arranged(c.Order, c.Labels, r.Counts)
	sentence := Commonest(v, c.Labels, r)
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: []document.Message{sentence}},
		{
			Kind: document.Choices,
			Choices: claim.Choice(
				"drawing",
				"picture",
				BarsPictures,
				c.Picture,
				func(p BarsPicture) document.Message { return document.Say("choice.draw."+string(p), nil) },
			),
		},
		{Kind: document.Choices, Choices: claim.OrderChoice(c.Order)}}}
	kind, picture := document.Bare, c.strip(r, at, v)
	if c.Picture == UprightBars {
		d.Blocks = append(
			d.Blocks,
			document.Block{
				Kind:    document.Choices,
				Choices: numericsummary.Numbers{Height: c.Height}.Heights([]claim.Height{claim.AsCount, claim.AsShare}, false),
			},
		)
		if picture = c.bars(r, at, v); c.Height == claim.AsCount {
			kind = document.Count
		} else if len(c.Labels) > 1 {
			d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: claim.Choice("intervals", "intervals", Togethers, c.Together, func(t Together) document.Message { return document.Say("choice.together."+string(t), nil) })})
		}
	}
	d.Blocks = append(d.Blocks, c.Frame.Drawn(picture, kind)...)
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Figures, Table: c.table(r, at, v)},
		document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}},
	)
	var notes claim.NotesOf
	notes.LeftOut(c.About, r.N)
	if c.Picture == UprightBars && c.Height == claim.AsShare && c.Together != Apart && len(c.Labels) > 1 {
		if c.Intervals != nil {
			few := c.Together == SisonGlaz && r.N < infer.SisonGlazFewest
			if note := notes.Add(document.Chart, "frequency."+string(c.Together)+map[bool]string{true: "_few"}[few], document.Values{"few": document.N(infer.SisonGlazFewest)}); few {
				note.Caution, note.Remedy = true, &document.Remedy{
					Label:  say.RemedyGoodman(),
					Change: claim.Patch(map[string]any{"intervals": Goodman}),
				}
			}
		} else {
			notes.Add(document.Chart, "frequency.no_intervals", nil)
		}
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// Commonest says which answer was given most; of several with as many, that it is several.
func Commonest(v document.Values, labels []string, r *tally.Relative) document.Message {
	first, times := 0, 0
	for i, n := range r.Counts {
		switch {
		case n > r.Counts[first]:
			first, times = i, 1
		case n == r.Counts[first]:
			times++
		}
	}
	v["answer"], v["count"], v["percent"], v["times"] = document.Text(
		labels[first],
	), document.N(
		r.Counts[first],
	), document.Of(
		document.Percent,
		100*r.Shares[first],
	), document.N(
		int64(times),
	)
	if times > 1 {
		return document.Say("read.frequency.several", v)
	}
	return document.Say("read.frequency.most", v)
}

func (c Frequency) bars(r *tally.Relative, at []int, v document.Values) *document.Picture {
	d := &document.Plot{To: float64(len(at)), Up: document.Say("chart.plot.up_"+string(c.Height), nil)}
	for k, i := range at {
		height := float64(r.Counts[i])
		if c.Height == claim.AsShare {
			height = 100 * r.Shares[i]
		}
		d.Bars = append(d.Bars, document.Bar{From: float64(k) + 0.15, To: float64(k) + 0.85, Height: height})
		d.Names = append(d.Names, document.Line{At: float64(k) + 0.5, Label: claim.Plain(document.Text(c.Labels[i]))})
		d.Top = math.Max(d.Top, height)
		if c.Height == claim.AsShare && c.Intervals != nil {
			x, lower, upper := float64(k)+0.5, 100*c.Intervals[i].Lower, 100*c.Intervals[i].Upper
			for _, line := range [][]document.Point{{{X: x, Y: lower}, {X: x, Y: upper}}, {{X: x - 0.06, Y: lower}, {X: x + 0.06, Y: lower}}, {{X: x - 0.06, Y: upper}, {X: x + 0.06, Y: upper}}} {
				d.Lines = append(d.Lines, document.PlotLine{Points: line, Thin: true})
			}
			d.Top = math.Max(d.Top, upper)
		}
	}
	return &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_answers", v),
		Axis: document.Say("chart.plot.axis", v),
		Plot: d,
	}
}

// strip lays the answers side by side along 100 %.
func (c Frequency) strip(r *tally.Relative, at []int, v document.Values) *document.Picture {
	d := &document.Plot{To: 100, Top: 1, Flat: true}
	so := 0.0
	for k, i := range at {
		share := 100 * r.Shares[i]
		d.Bars = append(d.Bars, document.Bar{From: so, To: so + share, Height: 1, Tone: k})
		d.Legend = append(d.Legend, say.ChartPlotPart(c.Labels[i], share))
		so += share
	}
	return &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_strip", v),
		Axis: document.Say("chart.plot.axis_strip", v),
		Plot: d,
	}
}

func (c Frequency) table(r *tally.Relative, at []int, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.frequency", v),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("relative")},
	}
	running := c.Ranked && c.Order == claim.AsAsked
	if running {
		t.Columns = append(t.Columns, head("cumulative"), head("cumulative_relative"))
	}
	for _, i := range at {
		row := document.Row{
			Name: claim.Plain(document.Text(c.Labels[i])),
			Cells: []document.Cell{
				document.One(document.N(r.Counts[i])),
				document.One(document.Of(document.Percent, 100*r.Shares[i])),
			},
		}
		if running {
			row.Cells = append(
				row.Cells,
				document.One(document.N(r.Cumulative[i])),
				document.One(document.Of(document.Percent, 100*r.CumulativeOf[i])),
			)
		}
		t.Rows = append(t.Rows, row)
	}
	total := document.Row{
		Name:  head("total"),
		Total: true,
		Cells: []document.Cell{document.One(document.N(r.N)), document.One(document.Of(document.Percent, 100))},
	}
	if running {
		total.Cells = append(total.Cells, document.Cell{}, document.Cell{})
	}
	t.Rows = append(t.Rows, total)
	return t
}
