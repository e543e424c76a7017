package numericsummary

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// plot draws numbers, given one by one or in classes.
type plot struct {
	Numbers
	classes []class
	width   float64        // of the classes; 0 where each stands for one number
	summary *tally.Summary // nil for classes
	n       int64
	grouped bool
}

// mostDots is how high dots are stacked at most; beyond, a dot stands for several.
const mostDots = 40

func (p plot) uneven() bool {
	first := p.classes[0].to - p.classes[0].from
	for _, k := range p.classes[1:] {
		if math.Abs(k.to-k.from-first) > 1e-9*first {
			return true
		}
	}
	return false
}

func (p plot) height(k class) float64 {
	switch p.Height {
	case claim.AsShare:
		return 100 * k.share
	case claim.AsDensity:
		return k.density
	}
	return float64(k.count)
}

// perDot is how many respondents a dot stands for.
func (p plot) perDot() int64 {
	most := int64(0)
	for _, k := range p.dots() {
		most = max(most, k.count)
	}
	return (most + mostDots - 1) / mostDots
}

// dots are the places of the dots: the numbers, or the middles of classes where there are
// too many different ones.
func (p plot) dots() []class {
	if len(p.summary.Rows) > 60 {
		return p.classes
	}
	var out []class
	for _, row := range p.summary.Rows {
		out = append(out, class{middle: row.Value, count: row.Count})
	}
	return out
}

// kind is how the figure of a bar is written.
func (p plot) kind() document.ValueKind {
	return map[claim.Height]document.ValueKind{claim.AsCount: document.Count, claim.AsShare: document.Bare, claim.AsDensity: document.Measure}[p.Height]
}

// picture draws. A polygon goes down to zero one class before the first and one after the
// last; an ogive rises from zero at the lower limit of the first.
func (p plot) picture() *document.Picture {
	first, last := p.classes[0], p.classes[len(p.classes)-1]
	v := document.Values{
		"question": p.Question.Called(),
		"n":        document.N(p.n),
		"from":     claim.Measure(first.from),
		"to":       claim.Measure(last.to),
		"classes":  document.N(int64(len(p.classes))),
	}
	d := &document.Plot{From: first.from, To: last.to}
	out := &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_"+string(p.Drawing), v),
		Axis: document.Say("chart.plot.axis", v),
		Plot: d,
	}
	d.Up = document.Say("chart.plot.up_"+string(p.Height), nil)
	switch p.Drawing {
	case Histogram:
		for _, k := range p.classes {
			d.Bars = append(d.Bars, document.Bar{From: k.from, To: k.to, Height: p.height(k)})
			d.Top = math.Max(d.Top, p.height(k))
		}
		p.normal(d)
	case Polygon:
		points := []document.Point{{X: first.middle - (first.to - first.from)}}
		for _, k := range p.classes {
			points = append(points, document.Point{X: k.middle, Y: p.height(k)})
			d.Top = math.Max(d.Top, p.height(k))
		}
		points = append(points, document.Point{X: last.middle + (last.to - last.from)})
		d.From, d.To = points[0].X, points[len(points)-1].X
		d.Lines = []document.PlotLine{{Points: points}}
	case Ogive:
		points := []document.Point{{X: first.from}}
		for _, k := range p.classes {
			points = append(points, document.Point{X: k.to, Y: 100 * k.shareSo})
		}
		d.Up, d.Top = say.ChartPlotUpOgive(), 100
		d.Lines = []document.PlotLine{{Points: points}}
	case DotPlot:
		each := p.perDot()
		for _, k := range p.dots() {
			for i := range (k.count + each/2) / each {
				d.Points = append(d.Points, document.Point{X: k.middle, Y: float64(i) + 0.5})
				d.Top = math.Max(d.Top, float64(i+1))
			}
		}
		d.Up = document.Message{}
	case BoxPlot:
		b := p.summary.Box()
		d.Boxes = []document.PlotBox{
			{At: 0.5, Lower: b.Lower, Quartile1: b.Quartile1, Median: b.Median, Quartile3: b.Quartile3, Upper: b.Upper},
		}
		for _, row := range b.Beyond[:min(len(b.Beyond), 400)] {
			d.Points = append(d.Points, document.Point{X: row.Value, Y: 0.5})
		}
		v["lower"], v["q1"], v["median"], v["q3"], v["upper"], v["beyond"] = claim.Measure(
			b.Lower,
		), claim.Measure(
			b.Quartile1,
		), claim.Measure(
			b.Median,
		), claim.Measure(
			b.Quartile3,
		), claim.Measure(
			b.Upper,
		), document.N(
			int64(len(b.Beyond)),
		)
		d.Up, d.Top = document.Message{}, 1
		room := 0.03 * (p.summary.Range)
		d.From, d.To = p.summary.Smallest-room, p.summary.Largest+room
		if room == 0 {
			d.From, d.To = d.From-0.5, d.To+0.5
		}
	}
	return out
}

// normal draws the curve of the same mean and standard deviation at the height of the bars.
func (p plot) normal(d *document.Plot) {
	if !p.Normal || p.summary == nil || p.summary.SD == nil || *p.summary.SD == 0 {
		return
	}
	mean, sd, width := p.summary.Mean, *p.summary.SD, p.classes[0].to-p.classes[0].from
	scale := map[claim.Height]float64{claim.AsCount: float64(p.n) * width, claim.AsShare: 100 * width, claim.AsDensity: 1}[p.Height]
	line := document.PlotLine{Thin: true}
	const steps = 120
	for i := range steps + 1 {
		x := d.From + (d.To-d.From)*float64(i)/steps
		z := (x - mean) / sd
		y := scale * math.Exp(-z*z/2) / (sd * math.Sqrt(2*math.Pi))
		line.Points = append(line.Points, document.Point{X: x, Y: y})
		d.Top = math.Max(d.Top, y)
	}
	d.Lines = append(d.Lines, line)
}

// table holds what the picture shows: the classes with their counts, and how they add up.
func (p plot) table() *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionClasses(p.Question.Called()),
		Stub:    head("class"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("relative"), head("cumulative"), head("cumulative_relative")},
	}
	between := !p.singles()
	if between {
		t.Columns = append(t.Columns, head("middle"))
	} else {
		t.Stub = head("number")
	}
	for i, k := range p.classes {
		name := claim.Plain(claim.Measure(k.middle))
		if between {
			id := "column.class_of"
			if i == len(p.classes)-1 && !p.grouped && p.summary.Largest == k.to {
				id = "column.class_last"
			}
			name = document.Say(id, document.Values{"from": claim.Measure(k.from), "to": claim.Measure(k.to)})
		}
		row := document.Row{
			Name: name,
			Cells: []document.Cell{
				document.One(document.N(k.count)),
				document.One(document.Of(document.Percent, 100*k.share)),
				document.One(document.N(k.so)),
				document.One(document.Of(document.Percent, 100*k.shareSo)),
			},
		}
		if between {
			row.Cells = append(row.Cells, document.One(claim.Measure(k.middle)))
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

// singles reports whether each class stands for one number.
func (p plot) singles() bool { return p.classes[0].one }

func (p plot) notes(out *claim.NotesOf) {
	switch p.Drawing {
	case DotPlot:
		if each := p.perDot(); each > 1 {
			out.Add(document.Chart, "numeric_summary.dot_for", document.Values{"n": document.N(each), "units": p.Units})
		}
		if len(p.summary.Rows) > 60 {
			out.Add(document.Chart, "numeric_summary.dots_in_classes", nil)
		}
	case BoxPlot:
		out.Add(document.Chart, "numeric_summary.box", nil)
	case Ogive:
		if !p.singles() {
			out.Add(document.Chart, "numeric_summary.ogive", nil)
		}
	case Histogram:
		if p.Normal {
			out.Add(document.Chart, "numeric_summary.normal", nil)
		}
	}
}
