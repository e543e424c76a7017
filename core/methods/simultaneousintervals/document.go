package simultaneousintervals

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// ShareIntervals describes the shares of all answers to a question by intervals that hold
// together; nothing is tested.
type ShareIntervals struct {
	claim.About
	Labels []string
}

// Confidences are offered, 0–1.
var Confidences = []float64{0.9, 0.95, 0.99}

// Statement says what is described.
func (ShareIntervals) Statement() document.Message {
	return say.ClaimSimultaneousIntervalsDescribed()
}

func (c ShareIntervals) values(r *infer.Simultaneous) document.Values {
	return document.Values{
		"units":      c.Units,
		"confidence": document.Of(document.Level, r.Confidence),
		"answers":    document.N(int64(len(r.Observed))),
		"n":          document.N(r.N),
	}
}

func rangeOf(i infer.Interval) document.Value {
	return document.Value{Kind: document.Range, Number: 100 * i.Lower, Upper: 100 * i.Upper}
}

// Document shows the intervals of Goodman (1965), and beside them those of Sison and Glaz
// (1995), where there are any, and of Quesenberry and Hurst (1964). The sentence speaks of the most frequent answer, of several
// the first.
func (c ShareIntervals) Document(r *infer.Simultaneous) document.Document {
	first := 0
	for i, x := range r.Observed {
		if x > r.Observed[first] {
			first = i
		}
	}
	v := c.values(r)
	v["answer"], v["lower"], v["upper"] = document.Text(
		c.Labels[first],
	), document.Of(
		document.Percent,
		100*r.Goodman[first].Lower,
	), document.Of(
		document.Percent,
		100*r.Goodman[first].Upper,
	)
	said := document.Say("finding.simultaneous_intervals", v)
	writeUp := []document.Message{said}
	for i, label := range c.Labels {
		writeUp = append(writeUp, say.WriteUpInterval(label, 100*r.Estimates[i], rangeOf(r.Goodman[i])))
	}
	return document.Document{
		Blocks: []document.Block{
			{Kind: document.Choices, Choices: c.confidences(r)},
			{Kind: document.Sentence, Said: []document.Message{said}},
			{Kind: document.Figures, Table: c.table(r)},
			{Kind: document.Chart, Chart: c.whiskers(r)},
			{Kind: document.Working, Said: c.working(r)},
			{Kind: document.WriteUp, Said: append(writeUp, document.Say("write_up.intervals", c.values(r)))},
		},
		Notes: c.notes(r),
	}
}

func (c ShareIntervals) confidences(r *infer.Simultaneous) *document.Choice {
	return claim.Choice(
		"confidence",
		"confidence",
		Confidences,
		r.Confidence,
		func(x float64) document.Message { return claim.Plain(document.Of(document.Level, x)) },
	)
}

func (c ShareIntervals) table(r *infer.Simultaneous) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.simultaneous_intervals", c.values(r)),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("share"), head("goodman")},
	}
	if r.SisonGlaz != nil {
		t.Columns = append(t.Columns, head("sison_glaz"))
	}
	t.Columns = append(t.Columns, head("quesenberry_hurst"))
	for i, label := range c.Labels {
		row := document.Row{
			Name: claim.Plain(document.Text(label)),
			Cells: []document.Cell{
				document.One(document.N(r.Observed[i])),
				document.One(document.Of(document.Percent, 100*r.Estimates[i])),
				document.One(rangeOf(r.Goodman[i])),
			},
		}
		if r.SisonGlaz != nil {
			row.Cells = append(row.Cells, document.One(rangeOf(r.SisonGlaz.Intervals[i])))
		}
		row.Cells = append(row.Cells, document.One(rangeOf(r.QuesenberryHurst[i])))
		t.Rows = append(t.Rows, row)
	}
	return t
}

func (c ShareIntervals) whiskers(r *infer.Simultaneous) *document.Picture {
	w := &document.Whiskers{From: 100, To: 0}
	for i, label := range c.Labels {
		lower, upper := 100*r.Goodman[i].Lower, 100*r.Goodman[i].Upper
		w.From, w.To = math.Min(w.From, lower), math.Max(w.To, upper)
		w.Rows = append(
			w.Rows,
			document.Whisker{
				Name:     claim.Plain(document.Text(label)),
				Lower:    lower,
				Estimate: 100 * r.Estimates[i],
				Upper:    upper,
				Text:     claim.Plain(rangeOf(r.Goodman[i])),
			},
		)
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	return &document.Picture{
		Kind:     document.WhiskersPicture,
		Alt:      document.Say("chart.whiskers.alt_answers", c.values(r)),
		Axis:     document.Say("chart.whiskers.axis_answers", c.values(r)),
		Whiskers: w,
	}
}

func (c ShareIntervals) working(r *infer.Simultaneous) []document.Message {
	v := c.values(r)
	v["tail"], v["quantile"] = document.Of(
		document.Exact,
		(1-r.Confidence)/float64(len(r.Observed)),
	), document.Of(
		document.Exact,
		r.GoodmanQuantile,
	)
	out := []document.Message{document.Say("working.simultaneous_intervals.quantile", v), say.WorkingSimultaneousIntervalsFormula()}
	for i, label := range c.Labels {
		out = append(
			out,
			say.WorkingSimultaneousIntervalsRow(label, r.Observed[i], r.N, r.Estimates[i], r.Goodman[i].Lower, r.Goodman[i].Upper),
		)
	}
	return out
}

func (c ShareIntervals) notes(r *infer.Simultaneous) []document.Note {
	var out claim.NotesOf
	out.LeftOut(c.About, r.N)
	v := c.values(r)
	v["smallest"] = document.N(int64(r.Conditions[0].Found))
	if r.Conditions[0].Met {
		out.Add(document.Figures, "simultaneous_intervals.good", v)
	} else {
		out.Caution(document.Figures, "simultaneous_intervals.poor", v)
	}
	switch {
	case r.SisonGlaz != nil && r.N < infer.SisonGlazFewest:
		v["few"] = document.N(infer.SisonGlazFewest)
		out.Caution(document.Figures, "simultaneous_intervals.sison_glaz_few", v)
	case r.SisonGlaz == nil:
		out.Add(document.Figures, "simultaneous_intervals.no_sison_glaz", v)
	}
	out.Add(document.Chart, "simultaneous_intervals.together", v)
	out.Add(document.Chart, "simultaneous_intervals.overlap", nil)
	out.Unweighted(c.About)
	return out
}
