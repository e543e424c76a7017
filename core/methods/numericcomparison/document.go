package numericcomparison

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// Statistic is a figure of a summary that a table of several can show.
type Statistic string

// The statistics.
const (
	StatMissing   Statistic = "missing"
	StatMean      Statistic = "mean"
	StatInterval  Statistic = "interval"
	StatSD        Statistic = "sd"
	StatVariance  Statistic = "variance"
	StatError     Statistic = "se"
	StatSmallest  Statistic = "smallest"
	StatQuartile1 Statistic = "q1"
	StatMedian    Statistic = "median"
	StatQuartile3 Statistic = "q3"
	StatLargest   Statistic = "largest"
	StatRange     Statistic = "range"
	StatMode      Statistic = "mode"
	StatSum       Statistic = "sum"
)

// Statistics lists them in the order of the columns; UsualStatistics are shown where nobody
// chose.
var (
	Statistics = []Statistic{
		StatMissing,
		StatMean,
		StatInterval,
		StatSD,
		StatVariance,
		StatError,
		StatSmallest,
		StatQuartile1,
		StatMedian,
		StatQuartile3,
		StatLargest,
		StatRange,
		StatMode,
		StatSum,
	}
	UsualStatistics = []Statistic{StatMissing, StatMean, StatSD, StatSmallest, StatMedian, StatLargest}
)

// Summaries describes numbers side by side: those of several questions, or those of one
// question in groups.
type Summaries struct {
	claim.About
	// Question is that of the groups' numbers, and Groups what parts them; both are empty where
	// each row is a question of its own.
	Question, Groups claim.Question
	ByGroup          bool
	Names            []document.Message
	// Everyone holds of each row how many were asked, so that the missing can be told; nil
	// where nobody knows.
	Everyones []int64
	Show      []Statistic
	Frame     *claim.Frame
}

// Statement says what is shown.
func (c Summaries) Statement() document.Message {
	if c.ByGroup {
		return say.ClaimNumericComparisonByGroup(c.Groups.Groups())
	}
	return say.ClaimNumericComparisonDescribed(int64(len(c.Names)))
}

func (c Summaries) value(k Statistic, s *tally.Summary, row int) document.Cell {
	optional := func(x *float64) document.Cell {
		if x == nil {
			return document.Cell{}
		}
		return document.One(claim.Rounded(*x))
	}
	switch k {
	case StatMissing:
		if c.Everyones == nil {
			return document.Cell{}
		}
		return document.One(document.N(c.Everyones[row] - s.N))
	case StatMean:
		return document.One(claim.Rounded(s.Mean))
	case StatInterval:
		if s.MeanInterval == nil {
			return document.Cell{}
		}
		said := say.FactFromTo(claim.Rounded(s.MeanInterval.Lower), claim.Rounded(s.MeanInterval.Upper))
		return document.One(document.Value{Kind: document.Said, Message: &said})
	case StatSD:
		return optional(s.SD)
	case StatVariance:
		return optional(s.Variance)
	case StatError:
		return optional(s.StandardError)
	case StatMode:
		if len(s.Modes) != 1 {
			return document.One(document.Term("column.modes_several"))
		}
		return document.One(claim.Measure(s.Modes[0]))
	}
	return document.One(
		claim.Measure(
			map[Statistic]float64{StatSmallest: s.Smallest, StatQuartile1: s.PercentilesAtNMinus1[0], StatMedian: s.Median, StatQuartile3: s.PercentilesAtNMinus1[2],
				StatLargest: s.Largest, StatRange: s.Range, StatSum: s.Sum}[k],
		),
	)
}

// Document shows a row for each summary; nil is one in which nobody gave a number. Groups
// have a last row for all in them together, and their box plots one under the other.
func (c Summaries) Document(list []*tally.Summary) document.Document {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"groups":   c.Groups.Groups(),
		"n":        document.N(int64(len(c.Names))),
	}
	t := &document.Table{
		Caption: document.Say("caption.numeric_comparison", v),
		Stub:    head("question"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("n")},
	}
	if c.ByGroup {
		t.Caption, t.Stub = document.Say("caption.numeric_by_group", v), claim.Plain(c.Groups.Groups())
	}
	show := slices.DeleteFunc(slices.Clone(Statistics), func(k Statistic) bool {
		return !slices.Contains(c.Show, k) || k == StatMissing && c.Everyones == nil
	})
	for _, k := range show {
		t.Columns = append(
			t.Columns,
			document.Say("column.stat."+string(k), document.Values{"confidence": document.Of(document.Level, 0.95)}),
		)
	}
	high, low, few := -1, -1, false
	for i, name := range c.Names {
		row := document.Row{Name: name, Total: c.ByGroup && i == len(c.Names)-1}
		s := list[i]
		if s == nil {
			row.Faint, row.Cells = true, append(row.Cells, document.One(document.N(0)))
			for _, k := range show {
				cell := document.Cell{}
				if k == StatMissing {
					cell = document.One(document.N(c.Everyones[i]))
				}
				row.Cells = append(row.Cells, cell)
			}
			t.Rows = append(t.Rows, row)
			continue
		}
		row.Cells = append(row.Cells, document.One(document.N(s.N)))
		few = few || s.N < claim.FewInGroup
		for _, k := range show {
			row.Cells = append(row.Cells, c.value(k, s, i))
		}
		t.Rows = append(t.Rows, row)
		if row.Total {
			continue
		}
		if high < 0 || s.Median > list[high].Median {
			high = i
		}
		if low < 0 || s.Median < list[low].Median {
			low = i
		}
	}
	d := document.Document{}
	var sentence document.Message
	if c.ByGroup && high >= 0 {
		name := func(i int) document.Value { m := c.Names[i]; return document.Value{Kind: document.Said, Message: &m} }
		v["group"], v["median"], v["base"] = name(high), claim.Measure(list[high].Median), document.N(list[high].N)
		v["group2"], v["median2"], v["base2"] = name(low), claim.Measure(list[low].Median), document.N(list[low].N)
		sentence = document.Say("read.numeric_comparison.apart", v)
		if list[high].Median == list[low].Median {
			sentence = document.Say("read.numeric_comparison.alike", v)
		}
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Sentence, Said: []document.Message{sentence}})
	}
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Choices, Choices: c.statistics()},
		document.Block{Kind: document.Figures, Table: t},
	)
	if c.ByGroup {
		d.Blocks = append(d.Blocks, c.Frame.Drawn(c.boxes(list, v), document.Measure)...)
	}
	if sentence.ID != "" {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}})
	}
	var notes claim.NotesOf
	if c.ByGroup {
		notes.Add(document.Chart, "numeric_summary.box", nil)
		notes.Add(document.Figures, "numeric_comparison.groups", v)
		if all := list[len(list)-1]; all != nil {
			notes.LeftOut(c.About, all.N)
		}
	}
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// statistics offers the columns, each to be shown or not.
func (c Summaries) statistics() *document.Choice {
	out := &document.Choice{Label: say.ChoiceStatistics()}
	for _, k := range Statistics {
		if k == StatMissing && c.Everyones == nil {
			continue
		}
		on := slices.Contains(c.Show, k)
		next := []Statistic{}
		for _, other := range Statistics {
			if slices.Contains(c.Show, other) != (other == k) {
				next = append(next, other)
			}
		}
		out.Options = append(
			out.Options,
			document.Option{
				Label:  document.Say("column.stat."+string(k), document.Values{"confidence": document.Of(document.Level, 0.95)}),
				Chosen: on,
				Change: claim.Patch(map[string]any{"show": next}),
			},
		)
	}
	return out
}

// boxes draws the groups one under the other, all in them together last.
func (c Summaries) boxes(list []*tally.Summary, v document.Values) *document.Picture {
	d := &document.Plot{From: math.Inf(1), To: math.Inf(-1)}
	var rows []int
	for i, s := range list {
		if s != nil {
			rows = append(rows, i)
			d.From, d.To = math.Min(d.From, s.Smallest), math.Max(d.To, s.Largest)
		}
	}
	if len(rows) == 0 {
		return nil
	}
	d.Top = float64(len(rows))
	room := 0.03 * (d.To - d.From)
	if room == 0 {
		room = 0.5
	}
	d.From, d.To = d.From-room, d.To+room
	for k, i := range rows {
		at := float64(len(rows)-k) - 0.5 // the first one on top
		b := list[i].Box()
		d.Boxes = append(
			d.Boxes,
			document.PlotBox{
				At:        at,
				Lower:     b.Lower,
				Quartile1: b.Quartile1,
				Median:    b.Median,
				Quartile3: b.Quartile3,
				Upper:     b.Upper,
			},
		)
		for _, row := range b.Beyond[:min(len(b.Beyond), mostBeyond)] {
			d.Points = append(d.Points, document.Point{X: row.Value, Y: at})
		}
		d.Rows = append(d.Rows, c.Names[i])
	}
	return &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_boxes", v),
		Axis: document.Say("chart.plot.axis", v),
		Plot: d,
	}
}

// mostBeyond bounds the points drawn beyond the whiskers of a box.
const mostBeyond = 400
