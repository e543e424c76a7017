package simultaneousintervals

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the shares of a population with intervals that hold together: each at the confidence
// 1 − α/k (Bonferroni), so that all k do at 1 − α at least.
type Estimate struct {
	*design.Shares
	Confidence, Each float64
	Intervals        []*infer.Interval
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Shares: c.Cells.Shares(), Confidence: s.Confidence}
	e.Each = 1 - (1-s.Confidence)/float64(len(e.Share))
	for j := range e.Share {
		e.Intervals = append(e.Intervals, e.One(j).Uncertainty(e.Each).Beta)
		if e.Intervals[j] == nil {
			return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, infer.NoDesignVariance, -1)}, nil
		}
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return ShareIntervals{About: about, Labels: analysis.LabelsOf(o.Counted.Questions[0])}.
		estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

func (c ShareIntervals) estimated(e *Estimate, by claim.Sampled) document.Document {
	first := 0
	w := &document.Whiskers{}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	v := document.Values{
		"units": c.Units, "confidence": document.Of(document.Level, e.Confidence), "answers": document.N(int64(len(e.Share))),
		"n": document.N(e.N), "each": document.Of(document.Level, e.Each),
	}
	t := &document.Table{
		Caption: document.Say("caption.simultaneous_intervals", v),
		Stub:    head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("n"), head("estimated"), document.Say("column.interval", v), head("standard_error")},
	}
	var each []document.Message
	for j, label := range c.Labels {
		if e.Share[j] > e.Share[first] {
			first = j
		}
		i := e.Intervals[j]
		w.Rows = append(w.Rows, claim.WhiskerOf(claim.Plain(document.Text(label)), e.Share[j], i))
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(label)), Cells: []document.Cell{
			document.One(document.N(e.Count[j])), document.One(document.Of(document.Percent, 100*e.Share[j])),
			document.One(claim.RangeOf(i)), document.One(document.Of(document.Points, 100*e.SE(j))),
		}})
		each = append(each, say.WriteUpInterval(label, 100*e.Share[j], claim.RangeOf(i)))
	}
	v["answer"] = document.Text(c.Labels[first])
	v["lower"], v["upper"] = document.Of(document.Percent, 100*e.Intervals[first].Lower), document.Of(document.Percent, 100*e.Intervals[first].Upper)
	said := document.Say("finding.simultaneous_intervals", v)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.One(first).Uncertainty(e.Confidence).DesignEffect)
	notes.Add(document.Chart, "designed.together", v)
	notes.Add(document.Chart, "simultaneous_intervals.overlap", nil)
	return document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Choices, Choices: c.confidences(&infer.Simultaneous{Confidence: e.Confidence})},
		{Kind: document.Sentence, Said: []document.Message{said}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Chart, Chart: &document.Picture{
			Kind: document.WhiskersPicture, Whiskers: claim.Fitted(w),
			Alt: document.Say("chart.whiskers.alt_answers", v), Axis: document.Say("chart.whiskers.axis_answers", v),
		}},
		{Kind: document.Working, Said: []document.Message{by.Variance(), document.Say("working.designed.each_at", v)}},
		{Kind: document.WriteUp, Said: append(append([]document.Message{said}, each...), document.Say("write_up.intervals_designed", v))},
	}}
}
