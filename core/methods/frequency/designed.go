package frequency

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the shares of the answers in a population.
type Estimate struct {
	Shares *design.Shares
	Of     []infer.ShareUncertainty
}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Shares: c.Cells.Shares()}
	for j := range e.Shares.Share {
		e.Of = append(e.Of, e.Shares.One(j).Uncertainty(analysis.UsualConfidence))
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	c := Frequency{
		About:    about,
		Question: analysis.Named(q),
		Labels:   analysis.LabelsOf(q),
		Order:    s.Order,
		Frame:    s.Frame,
	}
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated shows the shares with their intervals as a table and as a picture.
func (c Frequency) estimated(e *Estimate, by claim.Sampled) document.Document {
	first, tied := 0, false
	for j, p := range e.Shares.Share {
		if p > e.Shares.Share[first] {
			first, tied = j, false
		} else if j != first && p == e.Shares.Share[first] {
			tied = true
		}
	}
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(), "n": document.N(by.Base.N), "answer": document.Text(c.Labels[first]),
		"percent": document.Of(document.Percent, 100*e.Shares.Share[first]),
		"confidence": document.Of(
			document.Level,
			analysis.UsualConfidence,
		), "interval": claim.RangeOf(e.Of[first].Beta),
	}
	id := "read.frequency.estimated"
	if tied {
		id += "_tied"
	}
	if e.Of[first].Beta == nil {
		id += "_alone"
	}
	sentence := document.Say(id, v)
	at := claim.Arranged(c.Order, c.Labels, e.Shares.Count)
	d := document.Document{Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Sentence, Said: []document.Message{sentence}},
		{Kind: document.Choices, Choices: claim.OrderChoice(c.Order)},
		{Kind: document.Figures, Table: c.estimates(e, at, v)},
	}}
	if w := c.whiskers(e, at, v); w != nil {
		d.Blocks = append(d.Blocks, c.Frame.Drawn(w, document.Bare)...)
	}
	d.Blocks = append(d.Blocks,
		document.Block{Kind: document.Working, Said: append(working(e, c.Labels, by), by.ByStratum(
			e.Shares.Cells, say.WorkingDesignedOfShare(c.Labels[first]), e.Shares.ShareSlope(first),
		)...)},
		document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}},
	)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.Of[first].DesignEffect)
	notes.Add(document.Figures, "designed.beta", nil)
	d.Notes = notes
	return d
}

func (c Frequency) estimates(e *Estimate, at []int, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say(
			"caption.frequency_estimated",
			v,
		), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), document.Say("column.interval", v), head("standard_error"),
			head("design_effect"), head("effective_n"),
		},
	}
	for _, j := range at {
		u := e.Of[j]
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(c.Labels[j])), Cells: []document.Cell{
			document.One(document.N(e.Shares.Count[j])),
			document.One(document.Of(document.Percent, 100*e.Shares.Share[j])),
			document.One(claim.RangeOf(u.Beta)),
			document.One(document.Of(document.Points, 100*u.StandardError)),
			document.One(claim.OrNothing(document.Effect, u.DesignEffect)),
			document.One(claim.OrNothing(document.Amount, u.EffectiveN)),
		}})
	}
	none := document.One(document.Text(""))
	t.Rows = append(t.Rows, document.Row{Name: head("total"), Total: true, Cells: []document.Cell{
		document.One(document.N(e.Shares.N)), document.One(document.Of(document.Percent, 100)), none, none, none,
		none,
	}})
	return t
}

// whiskers are the intervals one under the other; nil without degrees of freedom.
func (c Frequency) whiskers(e *Estimate, at []int, v document.Values) *document.Picture {
	w := &document.Whiskers{From: 100, To: 0}
	for _, j := range at {
		i := e.Of[j].Beta
		if i == nil {
			return nil
		}
		w.From, w.To = math.Min(w.From, 100*i.Lower), math.Max(w.To, 100*i.Upper)
		w.Rows = append(w.Rows, document.Whisker{
			Name: claim.Plain(
				document.Text(c.Labels[j]),
			), Lower: 100 * i.Lower, Estimate: 100 * e.Shares.Share[j], Upper: 100 * i.Upper,
			Text: claim.Plain(claim.RangeOf(i)),
		})
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	return &document.Picture{
		Kind: document.WhiskersPicture, Whiskers: w,
		Alt: document.Say("chart.whiskers.alt_estimated", v), Axis: document.Say("chart.whiskers.axis_estimated", v),
	}
}

// working shows where a share and its standard error come from.
func working(e *Estimate, labels []string, by claim.Sampled) []document.Message {
	s := e.Shares
	out := []document.Message{
		say.WorkingDesignedWeights(s.Sum, s.N),
		by.Variance(),
	}
	for j, label := range labels {
		out = append(out, say.WorkingDesignedShare(label, s.Total[j], s.Sum, s.Share[j], s.SE(j)))
	}
	return out
}
