package printedresult

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/printed"
	"widetally/core/say"
)

// Printed is a result as it was printed somewhere.
type Printed struct {
	claim.About
	Kind         printed.Kind
	Statistic, P string
	Level        float64
}

// Document says whether the figures can all be true, and which known slip explains it where
// they cannot.
func (c Printed) Document(r *printed.Result) document.Document {
	v := document.Values{
		"statistic": document.Text(c.Statistic),
		"p":         document.Text(c.P),
		"kind":      document.Term("printed.kind." + string(c.Kind)),
		"level":     document.Of(document.Level, c.Level),
	}
	id := "printed.holds"
	switch {
	case !r.Holds && len(r.Slips) > 0:
		id = "printed.explained"
	case !r.Holds:
		id = "printed.unexplained"
	}
	said := []document.Message{document.Say(id, v)}
	var lines []document.Message
	for _, s := range r.Slips {
		lines = append(
			lines,
			document.Say(
				"printed.slip."+string(s.Name),
				document.Values{"value": claim.Measure(s.Value), "statistic": v["statistic"], "p": v["p"]},
			),
		)
	}
	if len(lines) > 0 {
		said = append(said, lines[0])
	}
	if r.DecisionChanges {
		said = append(said, document.Say("printed.decision", v))
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionPrintedResult(),
		Stub:    head("check"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("should_be"), head("says")},
	}
	for _, k := range r.Checks {
		verdict := "printed.differs"
		if k.Holds {
			verdict = "printed.fits"
		}
		t.Rows = append(
			t.Rows,
			document.Row{
				Name:  document.Say("printed.check."+string(k.Name), nil),
				Cells: []document.Cell{document.One(between(k.Range.Lower, k.Range.Upper)), document.One(document.Term(verdict))},
			},
		)
	}
	var facts []document.Fact
	if f := r.Fitted; f != nil {
		facts = append(
			facts,
			claim.Fact(
				"fitted",
				"computed_again",
				nil,
				say.FactFitted(int64(f.DF), f.N, f.Statistic, document.P(document.PEqual, f.P, c.Level)),
			),
		)
	}
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: said},
		{Kind: document.Figures, Table: t},
		{Kind: document.WriteUp, Said: said},
	}}
	if facts != nil {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: facts})
	}
	var notes claim.NotesOf
	for _, line := range lines[min(1, len(lines)):] {
		notes = append(notes, document.Note{Message: line, Beside: document.Sentence})
	}
	d.Notes = notes
	return d
}

// between says a range of which an end may be infinite.
func between(lower, upper float64) document.Value {
	id := "fact.from_to"
	switch {
	case math.IsInf(lower, -1) && math.IsInf(upper, 1):
		return document.Text("")
	case math.IsInf(lower, -1):
		id = "fact.at_most"
	case math.IsInf(upper, 1):
		id = "fact.at_least"
	}
	v := document.Values{}
	if !math.IsInf(lower, 0) {
		v["lower"] = claim.Measure(lower)
	}
	if !math.IsInf(upper, 0) {
		v["upper"] = claim.Measure(upper)
	}
	said := document.Say(id, v)
	return document.Value{Kind: document.Said, Message: &said}
}
