package numericsummary

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e, err := c.Drawing.EstimatedNumber()
	if err != nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("numeric summary", infer.NoObservations, -1)}, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (*Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	if o.Counted.Frequency != nil {
		about.Everyone = o.Counted.Frequency.Everyone
	}
	e, by := o.Result.(*analysis.EstimatedNumber), o.Counted.Sampled
	between := func(lower, upper *float64, as func(float64) document.Value) document.Value {
		if lower == nil || upper == nil {
			return document.Text("")
		}
		said := say.FactFromTo(as(*lower), as(*upper))
		return document.Value{Kind: document.Said, Message: &said}
	}
	v := document.Values{
		"units": about.Units, "question": analysis.Named(o.Counted.Questions[0]).Called(), "mean": claim.Rounded(e.Mean.Mean),
		"confidence": document.Of(document.Level, analysis.UsualConfidence), "se": claim.Rounded(e.SE()),
	}
	reading := document.Say("read.numeric_estimated_alone", v)
	row := document.Row{Name: document.Say("column.stat.mean", nil), Cells: []document.Cell{
		document.One(v["mean"]), document.One(document.Text("")), document.One(claim.Rounded(e.SE())),
	}}
	if e.Interval != nil {
		v["interval"] = between(&e.Interval.Lower, &e.Interval.Upper, claim.Rounded)
		reading, row.Cells[1] = document.Say("read.numeric_estimated", v), document.One(v["interval"])
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	table := &document.Table{
		Caption: document.Say(
			"caption.numeric_estimated",
			v,
		), Stub: head("number"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("estimated_plain"),
			document.Say("column.interval_plain", v),
			head("standard_error_plain"),
		},
		Rows: []document.Row{row},
	}
	for i, q := range e.Quartiles {
		table.Rows = append(
			table.Rows,
			document.Row{Name: head("stat." + []string{"q1", "median", "q3"}[i]), Cells: []document.Cell{
				document.One(
					claim.Measure(q.Quantile),
				), document.One(between(q.Lower, q.Upper, claim.Measure)), document.One(claim.OrNothing(document.Rounded, q.StandardError)),
			}},
		)
	}
	if e.SD != nil {
		none := document.One(document.Text(""))
		table.Rows = append(
			table.Rows,
			document.Row{Name: head("stat.sd"), Cells: []document.Cell{document.One(claim.Rounded(*e.SD)), none, none}},
		)
	}
	var notes claim.NotesOf
	by.Notes(&notes, about, e.DesignEffect)
	notes.Add(document.Figures, "designed.quartiles", nil)
	d := document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(about),
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: table},
	}}
	if e.DesignEffect != nil {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: []document.Fact{
			claim.Fact(
				"design_effect",
				"design_effect",
				nil,
				claim.Plain(document.Of(document.Effect, *e.DesignEffect)),
			),
		}})
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: []document.Message{reading}})
	return d
}
