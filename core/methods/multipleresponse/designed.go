package multipleresponse

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the shares of a population that chose each item.
type Estimate struct {
	*design.Items
	Of []infer.ShareUncertainty
	// Chosen is how many were chosen on average, with its interval.
	Interval *infer.Interval
}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Items: c.Items[0]}
	for j := range e.Share {
		e.Of = append(e.Of, e.One(j).Uncertainty(analysis.UsualConfidence))
	}
	e.Interval = infer.TInterval(e.Chosen.Value, e.Chosen.SE(), float64(e.DF), analysis.UsualConfidence)
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (*Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	return Responses{About: about, Question: analysis.Named(q), Labels: analysis.LabelsOf(q)}.
		estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

func (c Responses) estimated(e *Estimate, by claim.Sampled) document.Document {
	first := 0
	for j, p := range e.Share {
		if p > e.Share[first] {
			first = j
		}
	}
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(), "n": document.N(e.N),
		"confidence": document.Of(document.Level, analysis.UsualConfidence),
		"answer":     document.Text(c.Labels[first]), "percent": document.Of(document.Percent, 100*e.Share[first]),
		"interval": claim.RangeOf(e.Of[first].Beta), "mean": document.Of(document.Effect, e.Chosen.Value),
	}
	reading := document.Say("read.multiple_response_estimated.most", v)
	switch {
	case e.Chosen.Value == 0:
		reading = document.Say("read.multiple_response_estimated.none", v)
	case e.Of[first].Beta == nil:
		reading = document.Say("read.multiple_response_estimated.alone", v)
	}
	many := document.Say("read.multiple_response_estimated.mean", v)
	if i := e.Interval; i != nil {
		v["lower"], v["upper"] = document.Of(document.Effect, i.Lower), document.Of(document.Effect, i.Upper)
		many = document.Say("read.multiple_response_estimated.mean_interval", v)
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.multiple_response_estimated", v), Stub: head("answer"),
		Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), document.Say("column.interval", v), head("standard_error"),
			head("design_effect"), head("effective_n"), head("of_responses"),
		},
	}
	for j, label := range c.Labels {
		u, part := e.Of[j], document.One(document.Text(""))
		if e.Chosen.Value > 0 {
			part = document.One(document.Of(document.Percent, 100*e.Share[j]/e.Chosen.Value))
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(label)), Cells: []document.Cell{
			document.One(document.N(e.Count[j])), document.One(document.Of(document.Percent, 100*e.Share[j])),
			document.One(claim.RangeOf(u.Beta)), document.One(document.Of(document.Points, 100*u.StandardError)),
			document.One(claim.OrNothing(document.Effect, u.DesignEffect)),
			document.One(claim.OrNothing(document.Amount, u.EffectiveN)), part,
		}})
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.Of[first].DesignEffect)
	id := "multiple_response.bases"
	if e.Chosen.Value > 1 {
		id = "multiple_response.bases_over"
	}
	notes.Add(document.Figures, id, v)
	notes.Add(document.Figures, "designed.beta", nil)
	working := []document.Message{say.WorkingDesignedWeights(e.Sum, e.N), by.Variance()}
	for j, label := range c.Labels {
		working = append(working, say.WorkingDesignedShare(label, e.Total[j], e.Sum, e.Share[j], e.Of[j].StandardError))
	}
	return document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: []document.Message{reading, many}},
	}}
}
