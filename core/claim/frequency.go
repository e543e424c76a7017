package claim

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/tally"
)

// Order is the order of the answers in a table or a picture.
type Order string

// The orders.
const (
	AsAsked Order = "asked" // that of the questionnaire
	BySize  Order = "size"  // the commonest first
	ByLabel Order = "label"
)

// Orders lists the orders in the order in which they are offered.
var Orders = []Order{AsAsked, BySize, ByLabel}

// Arranged gives the places of answers in an order; ties stay as in the questionnaire.
func Arranged(order Order, labels []string, counts []int64) []int {
	at := make([]int, len(labels))
	for i := range at {
		at[i] = i
	}
	switch order {
	case BySize:
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(counts[b], counts[a]) })
	case ByLabel:
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(strings.ToLower(labels[a]), strings.ToLower(labels[b])) })
	}
	return at
}

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
	About
	Question Question
	Labels   []string
	// Ranked says that the answers have an order of their own, so that sums mean something.
	Ranked  bool
	Order   Order
	Picture BarsPicture
	Height  Height // count or share
	// Intervals are simultaneous ones of each answer's share, drawn on bars of shares, by the
	// method of Together; nil for none, also where the method gives none.
	Intervals []infer.Interval
	Together  Together
	Frame     *Frame
}

// Statement says what is shown.
func (Frequency) Statement() document.Message { return document.Say("claim.frequency.described", nil) }

// Document shows the relative frequencies as a table and as a picture.
func (c Frequency) Document(r *tally.Relative) document.Document {
	v := document.Values{"units": c.Units, "question": c.Question.called(), "n": document.N(r.N)}
	at := Arranged(c.Order, c.Labels, r.Counts)
	sentence := commonest(v, c.Labels, r)
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: []document.Message{sentence}},
		{Kind: document.Choices, Choices: choice("drawing", "picture", BarsPictures, c.Picture, func(p BarsPicture) document.Message { return document.Say("choice.draw."+string(p), nil) })},
		{Kind: document.Choices, Choices: orders(c.Order)}}}
	kind, picture := document.Bare, c.strip(r, at, v)
	if c.Picture == UprightBars {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: Numbers{Height: c.Height}.heights([]Height{AsCount, AsShare}, false)})
		if picture = c.bars(r, at, v); c.Height == AsCount {
			kind = document.Count
		} else if len(c.Labels) > 1 {
			d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: choice("intervals", "intervals", Togethers, c.Together, func(t Together) document.Message { return document.Say("choice.together."+string(t), nil) })})
		}
	}
	d.Blocks = append(d.Blocks, c.Frame.drawn(picture, kind)...)
	d.Blocks = append(d.Blocks, document.Block{Kind: document.Figures, Table: c.table(r, at, v)}, document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}})
	var notes notesOf
	notes.leftOut(c.About, r.N)
	if c.Picture == UprightBars && c.Height == AsShare && c.Together != Apart && len(c.Labels) > 1 {
		if c.Intervals != nil {
			few := c.Together == SisonGlaz && r.N < infer.SisonGlazFewest
			if note := notes.add(document.Chart, "frequency."+string(c.Together)+map[bool]string{true: "_few"}[few], document.Values{"few": document.N(infer.SisonGlazFewest)}); few {
				note.Caution, note.Remedy = true, &document.Remedy{Label: document.Say("remedy.goodman", nil), Change: patch(map[string]any{"intervals": Goodman})}
			}
		} else {
			notes.add(document.Chart, "frequency.no_intervals", nil)
		}
	}
	notes.unweighted(c.About)
	d.Notes = notes
	return d
}

// commonest says which answer was given most; of several with as many, that it is several.
func commonest(v document.Values, labels []string, r *tally.Relative) document.Message {
	first, times := 0, 0
	for i, n := range r.Counts {
		switch {
		case n > r.Counts[first]:
			first, times = i, 1
		case n == r.Counts[first]:
			times++
		}
	}
	v["answer"], v["count"], v["percent"], v["times"] = document.Text(labels[first]), document.N(r.Counts[first]), document.Of(document.Percent, 100*r.Shares[first]), document.N(int64(times))
	if times > 1 {
		return document.Say("read.frequency.several", v)
	}
	return document.Say("read.frequency.most", v)
}

func orders(chosen Order) *document.Choice {
	return choice("order", "order", Orders, chosen, func(o Order) document.Message { return document.Say("choice.ordered."+string(o), nil) })
}

func (c Frequency) bars(r *tally.Relative, at []int, v document.Values) *document.Picture {
	d := &document.Plot{To: float64(len(at)), Up: document.Say("chart.plot.up_"+string(c.Height), nil)}
	for k, i := range at {
		height := float64(r.Counts[i])
		if c.Height == AsShare {
			height = 100 * r.Shares[i]
		}
		d.Bars = append(d.Bars, document.Bar{From: float64(k) + 0.15, To: float64(k) + 0.85, Height: height})
		d.Names = append(d.Names, document.Line{At: float64(k) + 0.5, Label: plain(document.Text(c.Labels[i]))})
		d.Top = math.Max(d.Top, height)
		if c.Height == AsShare && c.Intervals != nil {
			x, lower, upper := float64(k)+0.5, 100*c.Intervals[i].Lower, 100*c.Intervals[i].Upper
			for _, line := range [][]document.Point{{{X: x, Y: lower}, {X: x, Y: upper}}, {{X: x - 0.06, Y: lower}, {X: x + 0.06, Y: lower}}, {{X: x - 0.06, Y: upper}, {X: x + 0.06, Y: upper}}} {
				d.Lines = append(d.Lines, document.PlotLine{Points: line, Thin: true})
			}
			d.Top = math.Max(d.Top, upper)
		}
	}
	return &document.Picture{Kind: document.PlotPicture, Alt: document.Say("chart.plot.alt_answers", v), Axis: document.Say("chart.plot.axis", v), Plot: d}
}

// strip lays the answers side by side along 100 %.
func (c Frequency) strip(r *tally.Relative, at []int, v document.Values) *document.Picture {
	d := &document.Plot{To: 100, Top: 1, Flat: true}
	so := 0.0
	for k, i := range at {
		share := 100 * r.Shares[i]
		d.Bars = append(d.Bars, document.Bar{From: so, To: so + share, Height: 1, Tone: k})
		d.Legend = append(d.Legend, document.Say("chart.plot.part", document.Values{"answer": document.Text(c.Labels[i]), "percent": document.Of(document.Percent, share)}))
		so += share
	}
	return &document.Picture{Kind: document.PlotPicture, Alt: document.Say("chart.plot.alt_strip", v), Axis: document.Say("chart.plot.axis_strip", v), Plot: d}
}

func (c Frequency) table(r *tally.Relative, at []int, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: document.Say("caption.frequency", v), Stub: head("answer"), Shown: []document.Role{document.Main}, Columns: []document.Message{head("count"), head("relative")}}
	running := c.Ranked && c.Order == AsAsked
	if running {
		t.Columns = append(t.Columns, head("cumulative"), head("cumulative_relative"))
	}
	for _, i := range at {
		row := document.Row{Name: plain(document.Text(c.Labels[i])), Cells: []document.Cell{document.One(document.N(r.Counts[i])), document.One(document.Of(document.Percent, 100*r.Shares[i]))}}
		if running {
			row.Cells = append(row.Cells, document.One(document.N(r.Cumulative[i])), document.One(document.Of(document.Percent, 100*r.CumulativeOf[i])))
		}
		t.Rows = append(t.Rows, row)
	}
	total := document.Row{Name: head("total"), Total: true, Cells: []document.Cell{document.One(document.N(r.N)), document.One(document.Of(document.Percent, 100))}}
	if running {
		total.Cells = append(total.Cells, document.Cell{}, document.Cell{})
	}
	t.Rows = append(t.Rows, total)
	return t
}

// Frequencies tabulates several questions in one table.
type Frequencies struct {
	About
	Questions []Question
	Labels    [][]string
	Order     Order
	// Ranked tells of each question whether its answers have an order of their own, which
	// then stays.
	Ranked []bool
}

// Statement says what is shown.
func (c Frequencies) Statement() document.Message {
	return document.Say("claim.frequencies.described", document.Values{"n": document.N(int64(len(c.Questions)))})
}

// Document shows the questions one under the other. Percents are of those who answered each;
// a question that nobody answered says so.
func (c Frequencies) Document(each []*tally.Relative, everyone []int64) document.Document {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: document.Say("caption.frequencies", document.Values{"n": document.N(int64(len(c.Questions)))}), Stub: head("question_answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("of_answered")}}
	var said []document.Message
	for i, q := range c.Questions {
		v := document.Values{"units": c.Units, "question": q.called(), "n": document.N(0), "missing": document.N(everyone[i])}
		r := each[i]
		if r == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.frequencies.nobody", v), Head: true})
			continue
		}
		v["n"], v["missing"] = document.N(r.N), document.N(everyone[i]-r.N)
		id := "read.frequencies.head"
		if everyone[i] == r.N {
			id = "read.frequencies.head_all"
		}
		t.Rows = append(t.Rows, document.Row{Name: document.Say(id, v), Head: true})
		said = append(said, commonest(v, c.Labels[i], r))
		order := c.Order
		if c.Ranked[i] {
			order = AsAsked
		}
		for _, k := range Arranged(order, c.Labels[i], r.Counts) {
			t.Rows = append(t.Rows, document.Row{Name: plain(document.Text(c.Labels[i][k])), Cells: []document.Cell{document.One(document.N(r.Counts[k])), document.One(document.Of(document.Bare, 100*r.Shares[k]))}})
		}
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Choices, Choices: orders(c.Order)}, {Kind: document.Figures, Table: t}, {Kind: document.WriteUp, Said: said}}}
	var notes notesOf
	notes.add(document.Figures, "frequencies.bases", nil)
	if c.Order != AsAsked && slices.Contains(c.Ranked, true) {
		notes.add(document.Figures, "frequencies.ranked", nil)
	}
	notes.unweighted(c.About)
	d.Notes = notes
	return d
}
