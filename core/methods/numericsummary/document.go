package numericsummary

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// Drawing is a way to draw numbers.
type Drawing string

// The drawings.
const (
	Histogram Drawing = "histogram"
	DotPlot   Drawing = "dots"
	Polygon   Drawing = "polygon"
	Ogive     Drawing = "ogive"
	BoxPlot   Drawing = "box"
)

// Drawings lists the drawings in the order in which they are offered. Of classes only the
// first, the third and the fourth can be drawn.
var Drawings = []Drawing{Histogram, DotPlot, Polygon, Ogive, BoxPlot}

// Parts lists into how many equal-sized groups percentiles may cut.
var Parts = []int{4, 5, 10}

// Numbers describes the numbers that were given to a question, or classes of them; nothing
// is tested.
type Numbers struct {
	claim.About
	Question claim.Question
	Drawing  Drawing
	Height   claim.Height
	// Width is that of the classes; 0 for the one that suits the numbers.
	Width float64
	Start *float64
	// Number of classes of equal width, and their limits; they go before Width and Start.
	Number int
	Limits []float64
	Frame  *claim.Frame
	// Normal draws the normal curve of the same mean and standard deviation.
	Normal bool
	Parts  int
}

// Statement says what is described.
func (Numbers) Statement() document.Message {
	return say.ClaimNumericSummaryDescribed()
}

// mayBeCodes reports whether numbers look like the codes of answers: whole ones from 1 up to at
// most 7, nothing left out between.
func mayBeCodes(rows []tally.SummaryRow) bool {
	if len(rows) < 3 || len(rows) > 7 {
		return false
	}
	for i, r := range rows {
		if r.Value != float64(i+1) {
			return false
		}
	}
	return true
}

// class is a class of numbers as a table and a picture need it.
type class struct {
	from, to        float64
	count, so       int64
	share, shareSo  float64
	one             bool // stands for a single number
	middle, density float64
}

func classesOf(list []tally.Class, n int64, one bool) (out []class) {
	so := int64(0)
	for _, c := range list {
		so += c.Count
		k := class{
			from:    c.From,
			to:      c.To,
			count:   c.Count,
			so:      so,
			one:     one,
			share:   float64(c.Count) / float64(n),
			shareSo: float64(so) / float64(n),
			middle:  c.From + (c.To-c.From)/2,
		}
		k.density = k.share / (c.To - c.From)
		out = append(out, k)
	}
	return out
}

// Document shows the summary of numbers. Classes that cannot be cut as asked are cut as
// suits the numbers.
func (c Numbers) Document(s *tally.Summary) document.Document {
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"n":        document.N(s.N),
		"mean":     claim.Rounded(s.Mean),
		"median":   claim.Measure(s.Median),
		"smallest": claim.Measure(s.Smallest),
		"largest":  claim.Measure(s.Largest),
	}
	sentence := []document.Message{document.Say("read.numeric_summary.median", v)}
	if s.MeanInterval != nil {
		v["lower"], v["upper"], v["confidence"] = claim.Rounded(
			s.MeanInterval.Lower,
		), claim.Rounded(
			s.MeanInterval.Upper,
		), document.Of(
			document.Level,
			s.Confidence,
		)
		sentence = append(sentence, document.Say("read.numeric_summary.mean", v))
	} else {
		sentence = append(sentence, document.Say("read.numeric_summary.one", v))
	}
	cut := c.classes(s)
	width, one := cut.width, cut.one
	p := plot{Numbers: c, classes: classesOf(cut.list, s.N, one), width: width, summary: s, n: s.N}
	uneven := p.uneven()
	if uneven && c.Drawing != Ogive {
		p.Height = claim.AsDensity // an area is what stands for a share
	}
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: sentence},
		{Kind: document.Facts, Facts: c.facts(s)},
		{Kind: document.Choices, Choices: claim.Choice("parts", "parts", Parts, c.Parts, func(k int) document.Message {
			return say.ChoicePart(int64(k))
		})},
		{Kind: document.Figures, Table: c.percentiles(s)},
		{Kind: document.Choices, Choices: c.drawings(Drawings)},
	}}
	if c.Drawing != BoxPlot && c.Drawing != DotPlot {
		if widths := s.NiceWidths(); widths != nil {
			d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: c.widths(s, widths, width, one)})
		}
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: c.cuts()})
	}
	if (c.Drawing == Histogram || c.Drawing == Polygon) && !uneven {
		d.Blocks = append(
			d.Blocks,
			document.Block{
				Kind:    document.Choices,
				Choices: c.Heights(claim.Heights, c.Drawing == Histogram && s.SD != nil && *s.SD > 0),
			},
		)
	}
	d.Blocks = append(d.Blocks, c.Frame.Drawn(p.picture(), p.kind())...)
	d.Blocks = append(d.Blocks, document.Block{Kind: document.Figures, Table: p.table()},
		document.Block{Kind: document.Working, Said: c.working(s)}, document.Block{Kind: document.WriteUp, Said: sentence})
	var notes claim.NotesOf
	notes.LeftOut(c.About, s.N)
	if mayBeCodes(s.Rows) {
		notes.Add(document.Facts, "numeric_summary.codes", document.Values{"last": document.N(int64(len(s.Rows)))})
	}
	if len(s.Modes) == len(s.Rows) && len(s.Rows) > 1 {
		notes.Add(document.Facts, "numeric_summary.no_mode", nil)
	}
	notes.Add(document.Facts, "numeric_summary.percentiles", nil)
	if c.Drawing != BoxPlot && c.Drawing != DotPlot {
		if cut.unfit {
			notes.Caution(document.Chart, "numeric_summary.unfit", nil)
		}
		if cut.added {
			notes.Add(document.Chart, "numeric_summary.added", nil)
		}
		if uneven && c.Drawing != Ogive {
			notes.Add(document.Chart, "numeric_summary.uneven", nil)
		}
	}
	p.notes(&notes)
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// Classes shows what is known of numbers that are given in classes.
func (c Numbers) Classes(g *tally.Grouped) document.Document {
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"n":        document.N(g.N),
		"mean":     claim.Rounded(g.Mean),
		"median":   claim.Rounded(g.Median),
	}
	at := g.Classes[g.MedianAt]
	v["from"], v["to"] = claim.Measure(at.From), claim.Measure(at.To)
	sentence := []document.Message{document.Say("read.numeric_summary.classes", v)}
	var list []tally.Class
	for _, k := range g.Classes {
		list = append(list, tally.Class{From: k.From, To: k.To, Count: k.Count})
	}
	if c.Drawing == DotPlot || c.Drawing == BoxPlot {
		c.Drawing = Histogram
	}
	p := plot{Numbers: c, classes: classesOf(list, g.N, false), n: g.N, grouped: true}
	uneven := p.uneven()
	if uneven && c.Drawing != Ogive {
		p.Height = claim.AsDensity
	}
	facts := []document.Fact{
		claim.Fact("n", "n", nil, claim.Plain(document.N(g.N))),
		claim.Fact("mean", "mean_classes", nil, claim.Plain(claim.Rounded(g.Mean))),
		claim.Fact("median", "median_classes", nil, claim.Plain(claim.Rounded(g.Median))),
	}
	if g.SD != nil {
		facts = append(
			facts,
			claim.Fact("sd", "sd_classes", nil, claim.Plain(claim.Rounded(*g.SD))),
			claim.Fact("variance", "variance_classes", nil, claim.Plain(claim.Rounded(*g.Variance))),
		)
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Sentence, Said: sentence}, {Kind: document.Facts, Facts: facts},
		{Kind: document.Choices, Choices: c.drawings([]Drawing{Histogram, Polygon, Ogive})}}}
	if !uneven && c.Drawing != Ogive {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: c.Heights(claim.Heights, false)})
	}
	d.Blocks = append(d.Blocks, c.Frame.Drawn(p.picture(), p.kind())...)
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Figures, Table: p.table()},
		document.Block{Kind: document.WriteUp, Said: sentence},
	)
	var notes claim.NotesOf
	notes.LeftOut(c.About, g.N)
	notes.Add(document.Facts, "numeric_summary.estimates", nil)
	if g.MedianTo != nil {
		v["beyond"] = claim.Measure(*g.MedianTo)
		notes.Add(document.Facts, "numeric_summary.median_between", v)
	}
	if uneven && c.Drawing != Ogive {
		notes.Add(document.Chart, "numeric_summary.uneven", nil)
	}
	p.notes(&notes)
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// cut is how numbers were cut into classes.
type cut struct {
	list  []tally.Class
	width float64 // 0 where they have none in common
	one   bool    // each class is a whole number
	// unfit says that they could not be cut as asked, added that a class was added for
	// numbers outside the limits.
	unfit, added bool
}

// classes cuts the numbers as asked, or as suits them: each whole number for itself where
// they are few, else at round limits.
func (c Numbers) classes(s *tally.Summary) cut {
	unfit := false
	switch {
	case len(c.Limits) > 0:
		list, added, err := s.BinsAt(c.Limits)
		if err == nil {
			return cut{list: list, added: added}
		}
		unfit = true
	case c.Number > 0 && s.Range > 0:
		start, width := s.Smallest, s.Range/float64(c.Number)
		if c.Start != nil && *c.Start < s.Largest {
			start, width = *c.Start, (s.Largest-*c.Start)/float64(c.Number)
		}
		limits := make([]float64, c.Number+1)
		for i := range limits {
			limits[i] = start + float64(i)*width
		}
		limits[c.Number] = s.Largest
		if list, added, err := s.BinsAt(limits); err == nil {
			return cut{list: list, width: width, added: added}
		}
		unfit = true
	case c.Width > 0:
		if list, err := s.Bins(c.Width, c.Start); err == nil {
			return cut{list: list, width: c.Width}
		}
		unfit = true
	}
	if s.Discrete() {
		start := s.Smallest - 0.5
		if list, err := s.Bins(1, &start); err == nil {
			return cut{list: list, one: true, unfit: unfit}
		}
	}
	if widths := s.NiceWidths(); widths != nil {
		width := widths[min(1, len(widths)-1)]
		if list, err := s.Bins(width, c.Start); err == nil {
			return cut{list: list, width: width, unfit: unfit}
		}
		if list, err := s.Bins(width, nil); err == nil {
			return cut{list: list, width: width, unfit: true}
		}
	}
	// All numbers are the same, or lie too far apart for any class.
	return cut{list: []tally.Class{{From: s.Smallest - 0.5, To: s.Largest + 0.5, Count: s.N}}, one: s.Range == 0, unfit: unfit}
}

func (c Numbers) facts(s *tally.Summary) []document.Fact {
	out := []document.Fact{claim.Fact("n", "n", nil, claim.Plain(document.N(s.N)))}
	add := func(key string, x float64, value func(float64) document.Value) {
		out = append(out, claim.Fact(key, key, nil, claim.Plain(value(x))))
	}
	add("mean", s.Mean, claim.Rounded)
	if s.MeanInterval != nil {
		out = append(
			out,
			claim.Fact("mean_interval", "mean_interval", document.Values{"confidence": document.Of(document.Level, s.Confidence)},
				say.FactFromTo(claim.Rounded(s.MeanInterval.Lower), claim.Rounded(s.MeanInterval.Upper))),
		)
	}
	add("median", s.Median, claim.Measure)
	if len(s.Modes) == 1 {
		add("mode", s.Modes[0], claim.Measure)
	} else if len(s.Modes) < len(s.Rows) {
		out = append(out, claim.Fact("mode", "modes", nil, say.FactModesSeveral(int64(len(s.Modes)), claim.Measure(s.Modes[0]), claim.Measure(s.Modes[len(s.Modes)-1]))))
	}
	if s.SD != nil {
		add("sd", *s.SD, claim.Rounded)
		add("variance", *s.Variance, claim.Rounded)
		add("se", *s.StandardError, claim.Rounded)
	}
	for _, x := range []struct {
		key   string
		value float64
	}{{"smallest", s.Smallest}, {"largest", s.Largest}, {"range", s.Range}, {"sum", s.Sum}} {
		add(x.key, x.value, claim.Measure)
	}
	return out
}

func (c Numbers) percentiles(s *tally.Summary) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionPercentiles(c.Question.Called()),
		Stub:    head("percentile"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("at_n_minus_1"), head("at_n_plus_1")},
	}
	for i, p := range s.Percents {
		t.Rows = append(t.Rows, document.Row{Name: say.ColumnPercentileOf(claim.Measure(p)),
			Cells: []document.Cell{
				document.One(claim.Measure(s.PercentilesAtNMinus1[i])),
				document.One(claim.Measure(s.PercentilesAtNPlus1[i])),
			}})
	}
	return t
}

func (c Numbers) working(s *tally.Summary) []document.Message {
	v := document.Values{
		"sum":  document.Of(document.Exact, s.Sum),
		"n":    document.N(s.N),
		"mean": document.Of(document.Exact, s.Mean),
	}
	out := []document.Message{document.Say("working.numeric_summary.mean", v)}
	if s.SD == nil {
		return out
	}
	half := s.MeanInterval.Upper - s.Mean
	v["variance"], v["sd"], v["se"] = document.Of(
		document.Exact,
		*s.Variance,
	), document.Of(
		document.Exact,
		*s.SD,
	), document.Of(
		document.Exact,
		*s.StandardError,
	)
	v["df"], v["t"], v["confidence"] = document.N(s.N-1), document.Of(document.Exact, 0), document.Of(document.Level, s.Confidence)
	if *s.StandardError > 0 {
		v["t"] = document.Of(document.Exact, half / *s.StandardError)
	}
	v["lower"], v["upper"] = document.Of(document.Exact, s.MeanInterval.Lower), document.Of(document.Exact, s.MeanInterval.Upper)
	out = append(out, document.Say("working.numeric_summary.sd", v))
	if *s.StandardError > 0 && !math.IsNaN(half) {
		out = append(out, document.Say("working.numeric_summary.interval", v))
	}
	return out
}
