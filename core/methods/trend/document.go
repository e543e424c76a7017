package trend

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
)

// Trend is a question over waves.
type Trend struct {
	claim.About
	Question, Waves    claim.Question
	Labels, WaveLabels []string
	// Together are the answers that are counted together, nil for none.
	Together []string
	Level    float64
	// Break is the place of the wave from which on the question was another one, −1 for none; Why says what was
	// changed, "" for nothing said.
	Break int
	Why   string
	// Noted is what was noted of the question, such as how a wave asked it; "" for nothing.
	Noted string
	// Rolling is of how many waves a rolling average is; 0 for none.
	Rolling int
	// Identifier recognises respondents in several waves.
	Identifier claim.Question
}

func (t Trend) values() document.Values {
	return document.Values{
		"question": t.Question.Called(), "waves": t.Waves.Called(),
		"units": t.Units, "level": document.Of(document.Level, t.Level),
		"confidence": document.Of(document.Level, 1-t.Level), "together": document.Quotes(document.AnyOf, t.Together),
		"rolling": document.N(int64(t.Rolling)),
	}
}

// Statement says what is shown.
func (t Trend) Statement() document.Message { return document.Say("claim.trend.described", t.values()) }

// name is what a row is called.
func (t Trend) name(row int) document.Value {
	if len(t.Together) > 1 {
		if row == 0 {
			return document.Saying(document.Say("trend.together", t.values()))
		}
		row--
	}
	return document.Text(t.Labels[row])
}

// told is the row that sentence and picture are about: the answers that are counted together, or the commonest in the
// last wave.
func (t Trend) told(r *Result) int {
	switch {
	case len(t.Together) > 1:
		return 0
	case len(t.Together) == 1:
		return slices.Index(t.Labels, t.Together[0])
	}
	best, last := 0, len(r.N)-1
	for i, row := range r.Rows {
		if row.Counts[last] > r.Rows[best].Counts[last] {
			best = i
		}
	}
	return best
}

// across reports whether a change goes over the break.
func (t Trend) across(c Change) bool { return t.Break >= 0 && c.Since < t.Break && c.Wave >= t.Break }

// Document says what a result means; by is the design by which it estimates, nil where respondents are counted.
func (t Trend) Document(r *Result, overlap [][]int64, by *claim.Sampled) document.Document {
	v := t.values()
	row := t.told(r)
	basis := document.Block{Kind: document.Basis, Said: []document.Message{document.Say("basis.trend", document.Values{
		"units": t.Units, "n": document.N(sum(r.N)), "waves": document.N(int64(len(r.N))), "question": t.Question.Called(),
	})}}
	if by != nil {
		basis = by.Basis(t.About)
	}
	reading := t.reading(r, row)
	blocks := []document.Block{
		basis,
		{Kind: document.Sentence, Said: reading},
		{Kind: document.Figures, Table: t.shares(r)},
		{Kind: document.Figures, Table: t.changes(r)},
	}
	if rolled := t.rolled(r); rolled != nil {
		blocks = append(blocks, document.Block{Kind: document.Figures, Table: rolled})
	}
	blocks = append(
		blocks, document.Block{Kind: document.Chart, Chart: t.picture(r, row)},
		document.Block{Kind: document.WriteUp, Said: reading},
	)
	var notes claim.NotesOf
	v["tests"] = document.N(int64(r.Tests))
	id := "trend.tested"
	if by != nil || overlap != nil {
		id = "trend.tested_design"
	}
	notes.Add(document.Figures, id, v)
	if t.Noted != "" {
		of := document.Values{"question": t.Question.Called(), "note": document.Text(t.Noted)}
		notes.Add(document.Figures, "trend.noted", of)
	}
	if t.Rolling > 1 {
		notes.Add(document.Figures, "trend.rolling", v)
	}
	t.lacking(r, &notes)
	if t.Break >= 0 {
		why := document.Values{"wave": document.Text(t.WaveLabels[t.Break]), "why": document.Text(t.Why)}
		if t.Why == "" {
			notes.Caution(document.Figures, "trend.broken", why)
		} else {
			notes.Caution(document.Figures, "trend.broken_since", why)
		}
	}
	if overlap != nil {
		last := len(r.N) - 1
		of := document.Values{
			"units": t.Units, "identifier": t.Identifier.Called(), "n": document.N(overlap[last][last-1]),
			"wave": document.Text(t.WaveLabels[last]), "before": document.Text(t.WaveLabels[last-1]),
			"first": document.Text(t.WaveLabels[0]), "m": document.N(overlap[last][0]),
		}
		if last > 1 {
			notes.Add(document.Figures, "trend.panel", of)
		} else {
			notes.Add(document.Figures, "trend.panel_two", of)
		}
	} else {
		notes.Add(document.Conditions, "trend.apart", v)
	}
	if by != nil {
		by.Notes(&notes, claim.About{Units: t.Units, Everyone: by.Base.N}, nil)
	} else {
		notes.Unweighted(t.About)
	}
	return document.Document{Blocks: blocks, Notes: notes}
}

func sum(list []int64) (n int64) {
	for _, x := range list {
		n += x
	}
	return n
}

// reading tells a row: where it began, where it stands, and its changes.
func (t Trend) reading(r *Result, row int) (out []document.Message) {
	of := r.Rows[row]
	last := len(r.N) - 1
	v := t.values()
	v["answer"] = t.name(row)
	first := 0
	for first < last && of.Waves[first] == nil {
		first++
	}
	if of.Waves[last] == nil || of.Waves[first] == nil || first == last {
		return []document.Message{document.Say("read.trend.nothing", v)}
	}
	v["first"], v["last"] = document.Text(t.WaveLabels[first]), document.Text(t.WaveLabels[last])
	v["from"], v["to"] = document.Of(
		document.Percent, 100*of.Waves[first].Share,
	), document.Of(document.Percent, 100*of.Waves[last].Share)
	out = append(out, document.Say("read.trend.shares", v))
	for _, c := range of.Changes {
		if c.Wave == last {
			out = append(out, t.change(c))
		}
	}
	if len(of.Rolling) > 0 && of.Rolling[last] != nil {
		out = append(out, t.average(row, last, of.Rolling[last]))
	}
	return out
}

// change says one change.
func (t Trend) change(c Change) document.Message {
	v := document.Values{
		"wave": document.Text(t.WaveLabels[c.Wave]), "since": document.Text(t.WaveLabels[c.Since]), "difference": document.Of(
			document.Difference, 100*c.Difference,
		),
	}
	if t.across(c) {
		return document.Say("read.trend.broken", v)
	}
	if c.Interval != nil {
		v["lower"], v["upper"] = document.Of(
			document.Difference, 100*c.Interval.Lower,
		), document.Of(document.Difference, 100*c.Interval.Upper)
		v["confidence"] = document.Of(document.Level, 1-t.Level)
	}
	switch {
	case c.Adjusted == nil || c.Interval == nil:
		return document.Say("read.trend.untested", v)
	case c.Adjusted.Value < t.Level:
		v["p"] = document.P(document.PEqual, *c.Adjusted, t.Level)
		return document.Say("read.trend.shown", v)
	}
	v["p"] = document.P(document.PEqual, *c.Adjusted, t.Level)
	return document.Say("read.trend.not_shown", v)
}

// lacks reports whether an answer was given by nobody in a wave, and by somebody in another one: it may not have been
// offered then.
func lacks(row Row, n []int64, wave int) bool {
	return n[wave] > 0 && row.Counts[wave] == 0 && sum(row.Counts) > 0
}

func (t Trend) lacking(r *Result, notes *claim.NotesOf) {
	from := len(r.Rows) - len(t.Labels)
	for i, row := range r.Rows[from:] {
		var waves []string
		for w := range r.N {
			if lacks(row, r.N, w) {
				waves = append(waves, t.WaveLabels[w])
			}
		}
		if len(waves) > 0 {
			notes.Caution(
				document.Figures, "trend.lacking", document.Values{
					"answer": document.Text(t.Labels[i]), "waves": document.Quotes(document.Listed, waves),
				},
			)
		}
	}
	for w, n := range r.N {
		if n == 0 {
			notes.Caution(document.Figures, "trend.nobody", document.Values{"wave": document.Text(t.WaveLabels[w])})
		}
	}
}

// shares is the percents of the answers, wave by wave.
func (t Trend) shares(r *Result) *document.Table {
	v := t.values()
	out := &document.Table{
		Caption: document.Say("caption.trend", v), Stub: document.Say("column.answer", nil),
		Shown: []document.Role{document.ColumnPercent},
	}
	for _, l := range t.WaveLabels {
		out.Columns = append(out.Columns, claim.Plain(document.Text(l)))
	}
	for i, row := range r.Rows {
		line := document.Row{Name: claim.Plain(t.name(i))}
		for w, p := range row.Waves {
			switch {
			case p == nil:
				line.Cells = append(line.Cells, document.Cell{Faint: true})
			case i >= len(r.Rows)-len(t.Labels) && lacks(row, r.N, w):
				line.Cells = append(line.Cells, document.Cell{Faint: true, Said: document.Say(
					"read.trend.lacking", document.Values{"wave": document.Text(t.WaveLabels[w])},
				),
					Figures: []document.Figure{{Role: document.ColumnPercent, Value: document.Term("trend.lacks")}}})
			default:
				of := document.Values{
					"wave": document.Text(t.WaveLabels[w]), "answer": t.name(i), "percent": document.Of(document.Percent, 100*p.Share),
					"n": document.N(r.N[w]), "units": t.Units, "confidence": v["confidence"],
				}
				id := "read.trend.cell"
				if p.Interval != nil {
					id = "read.trend.cell_interval"
					of["lower"], of["upper"] = document.Of(
						document.Percent, 100*p.Interval.Lower,
					), document.Of(document.Percent, 100*p.Interval.Upper)
				}
				line.Cells = append(line.Cells, document.Cell{Said: document.Say(id, of), Figures: []document.Figure{
					{Role: document.ColumnPercent, Value: document.Of(document.Bare, 100*p.Share)}, {Role: document.Observed, Value: document.N(row.Counts[w])}, {Role: document.StandardError, Value: document.Of(
						document.Bare, 100*p.StandardError,
					)},
				}})
			}
		}
		out.Rows = append(out.Rows, line)
	}
	base := document.Row{Name: document.Say("column.n", nil), Faint: true, Total: true}
	for _, n := range r.N {
		base.Cells = append(
			base.Cells, document.Cell{
				Faint: true, Figures: []document.Figure{
					{Role: document.ColumnPercent, Value: document.N(n)}, {Role: document.Observed, Value: document.N(n)},
				},
			},
		)
	}
	out.Rows = append(out.Rows, base)
	return out
}

// changes is the differences in percentage points, those that stand out marked.
func (t Trend) changes(r *Result) *document.Table {
	out := &document.Table{
		Caption: document.Say(
			"caption.trend_changes", t.values(),
		), Stub: document.Say("column.answer", nil), Shown: []document.Role{document.Main},
	}
	at := map[[2]int]int{}
	pairs(len(r.N), func(wave, since int) {
		at[[2]int{wave, since}] = len(out.Columns)
		out.Columns = append(
			out.Columns, document.Say(
				"column.trend_change", document.Values{
					"wave": document.Text(t.WaveLabels[wave]), "since": document.Text(t.WaveLabels[since]),
				},
			),
		)
	})
	for i, row := range r.Rows {
		line := document.Row{Name: claim.Plain(t.name(i)), Cells: make([]document.Cell, len(out.Columns))}
		for _, c := range row.Changes {
			cell := document.One(document.Of(document.Difference, 100*c.Difference))
			cell.Said = t.change(c)
			lacking := i >= len(r.Rows)-len(t.Labels) && (lacks(row, r.N, c.Wave) || lacks(row, r.N, c.Since))
			switch {
			case t.across(c):
				cell = document.Cell{
					Faint: true, Said: t.change(c), Figures: []document.Figure{
						{Role: document.Main, Value: document.Term("trend.broken")},
					},
				}
			case lacking:
				cell = document.Cell{
					Faint: true, Figures: []document.Figure{{Role: document.Main, Value: document.Term("trend.lacks")}},
				}
			case c.Adjusted == nil || c.Adjusted.Value >= t.Level:
			case c.Difference > 0:
				cell.Mark = document.More
			default:
				cell.Mark = document.Fewer
			}
			line.Cells[at[[2]int{c.Wave, c.Since}]] = cell
		}
		out.Rows = append(out.Rows, line)
	}
	return out
}

// picture is a line over the waves with intervals, broken where the question changed or a wave is missing.
func (t Trend) picture(r *Result, row int) *document.Picture {
	of := r.Rows[row]
	d := &document.Plot{To: float64(len(r.N)), Up: document.Say("chart.plot.up_share", nil)}
	var line []document.Point
	end := func() {
		if len(line) > 1 {
			d.Lines = append(d.Lines, document.PlotLine{Points: line})
		}
		line = nil
	}
	joined := of.Waves
	if t.Rolling > 1 { // the line is that of the averages, each over its last wave
		joined = of.Rolling
	}
	for w, p := range of.Waves {
		x := float64(w) + 0.5
		d.Names = append(d.Names, document.Line{At: x, Label: claim.Plain(document.Text(t.WaveLabels[w]))})
		on := joined[w]
		if on == nil || w == t.Break {
			end()
		}
		if on != nil {
			line = append(line, document.Point{X: x, Y: 100 * on.Share})
		}
		if p == nil {
			continue
		}
		here := document.Point{X: x, Y: 100 * p.Share}
		d.Points = append(d.Points, here)
		d.Top = math.Max(d.Top, here.Y)
		if p.Interval != nil {
			lower, upper := 100*p.Interval.Lower, 100*p.Interval.Upper
			for _, l := range [][]document.Point{
				{{X: x, Y: lower}, {X: x, Y: upper}}, {{X: x - 0.04, Y: lower}, {X: x + 0.04, Y: lower}},
				{{X: x - 0.04, Y: upper}, {X: x + 0.04, Y: upper}},
			} {
				d.Lines = append(d.Lines, document.PlotLine{Points: l, Thin: true})
			}
			d.Top = math.Max(d.Top, upper)
		}
	}
	end()
	v := t.values()
	v["answer"] = t.name(row)
	alt, axis := "chart.plot.alt_trend", "chart.plot.axis_trend"
	if t.Rolling > 1 {
		alt, axis = alt+"_rolling", axis+"_rolling"
	}
	return &document.Picture{Kind: document.PlotPicture, Alt: document.Say(alt, v), Axis: document.Say(axis, v), Plot: d}
}
