package numericcomparison

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is numbers of a population, of a question or of a group.
type Estimate struct {
	*design.Mean
	Interval  *infer.Interval
	Quantiles []design.Quantile // the quartiles
	// Smallest and Largest are those of the sample.
	Smallest, Largest float64
}

// EstimateOf describes the numbers of a part; nil for one that nobody is in.
func EstimateOf(s *design.Sample, of design.Part) (*Estimate, error) {
	m, err := s.Mean(of)
	if analysis.Empty(err) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	e := &Estimate{Mean: m, Interval: analysis.MeanInterval(m)}
	_, e.Quantiles, err = s.Quantiles(of, []float64{0.25, 0.5, 0.75}, analysis.UsualConfidence)
	first := true
	for k := range s.Rows {
		if y, in := of(k); in {
			if first || y < e.Smallest {
				e.Smallest = y
			}
			if first || y > e.Largest {
				e.Largest = y
			}
			first = false
		}
	}
	return e, err
}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	var out []*Estimate
	for _, d := range c.Drawings {
		if d == nil {
			out = append(out, nil)
			continue
		}
		e, err := EstimateOf(d.Sample, d.All())
		if err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return &analysis.Outcome{Result: out}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	for _, f := range o.Counted.Each {
		c.Everyones = append(c.Everyones, f.Everyone)
	}
	return c.Estimated(o.Result.([]*Estimate), o.Counted.Sampled)
}

// estimated are the statistics that a population has; the others are of the sample, or of counts.
var estimated = []Statistic{
	StatMissing, StatMean, StatInterval, StatSD, StatError, StatSmallest,
	StatQuartile1, StatMedian, StatQuartile3, StatLargest,
}

func (c Summaries) estimate(k Statistic, e *Estimate, row int) document.Cell {
	switch k {
	case StatMissing:
		if c.Everyones == nil {
			return document.Cell{}
		}
		return document.One(document.N(c.Everyones[row] - e.N))
	case StatMean:
		return document.One(claim.Rounded(e.Mean.Mean))
	case StatInterval:
		if e.Interval == nil {
			return document.Cell{}
		}
		said := say.FactFromTo(claim.Rounded(e.Interval.Lower), claim.Rounded(e.Interval.Upper))
		return document.One(document.Value{Kind: document.Said, Message: &said})
	case StatSD:
		return document.One(claim.OrNothing(document.Rounded, e.SD))
	case StatError:
		return document.One(claim.Rounded(e.SE()))
	case StatSmallest:
		return document.One(claim.Measure(e.Smallest))
	case StatLargest:
		return document.One(claim.Measure(e.Largest))
	}
	at := slices.Index([]Statistic{StatQuartile1, StatMedian, StatQuartile3}, k)
	return document.One(claim.Measure(e.Quantiles[at].Quantile))
}

// Estimated shows a row for each estimate; nil is one in which nobody gave a number.
func (c Summaries) Estimated(list []*Estimate, by claim.Sampled) document.Document {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(), "groups": c.Groups.Groups(), "n": document.N(int64(len(c.Names))),
	}
	t := &document.Table{
		Caption: document.Say("caption.numeric_comparison_estimated", v), Stub: head("question"),
		Shown: []document.Role{document.Main}, Columns: []document.Message{head("n")},
	}
	if c.ByGroup {
		t.Caption, t.Stub = document.Say("caption.numeric_by_group_estimated", v), claim.Plain(c.Groups.Groups())
	}
	show := []Statistic{StatError}
	for _, k := range estimated {
		if slices.Contains(c.Show, k) && k != StatError && (k != StatMissing || c.Everyones != nil) {
			show = append(show, k)
		}
	}
	slices.SortFunc(show, func(a, b Statistic) int { return slices.Index(estimated, a) - slices.Index(estimated, b) })
	for _, k := range show {
		t.Columns = append(t.Columns, document.Say("column.stat."+string(k), document.Values{"confidence": document.Of(document.Level, 0.95)}))
	}
	high, low, few := -1, -1, false
	for i, name := range c.Names {
		row, e := document.Row{Name: name, Total: c.ByGroup && i == len(c.Names)-1}, list[i]
		if e == nil {
			row.Faint, row.Cells = true, append(row.Cells, document.One(document.N(0)))
			for range show {
				row.Cells = append(row.Cells, document.Cell{})
			}
			t.Rows = append(t.Rows, row)
			continue
		}
		row.Cells = append(row.Cells, document.One(document.N(e.N)))
		few = few || e.N < claim.FewInGroup
		for _, k := range show {
			row.Cells = append(row.Cells, c.estimate(k, e, i))
		}
		t.Rows = append(t.Rows, row)
		if row.Total {
			continue
		}
		if high < 0 || e.Mean.Mean > list[high].Mean.Mean {
			high = i
		}
		if low < 0 || e.Mean.Mean < list[low].Mean.Mean {
			low = i
		}
	}
	var notes claim.NotesOf
	by.Several = by.Several || c.ByGroup
	by.Notes(&notes, claim.About{Units: c.Units, Everyone: by.Base.N}, nil)
	notes.Add(document.Figures, "designed.of_sample", nil)
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	d := document.Document{Notes: notes, Blocks: []document.Block{by.Basis(c.About)}}
	if c.ByGroup && high >= 0 {
		name := func(i int) document.Value { m := c.Names[i]; return document.Value{Kind: document.Said, Message: &m} }
		v["group"], v["mean"] = name(high), claim.Rounded(list[high].Mean.Mean)
		v["group2"], v["mean2"] = name(low), claim.Rounded(list[low].Mean.Mean)
		reading := document.Say("read.numeric_by_group_estimated", v)
		d.Blocks = append(d.Blocks,
			document.Block{Kind: document.Sentence, Said: []document.Message{reading}},
			document.Block{Kind: document.WriteUp, Said: []document.Message{reading}})
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.Figures, Table: t})
	if n := len(d.Blocks); n == 4 { // the write-up stands last
		d.Blocks[2], d.Blocks[3] = d.Blocks[3], d.Blocks[2]
	}
	return d
}
