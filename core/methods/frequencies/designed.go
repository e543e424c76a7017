package frequencies

import (
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/say"
)

// Estimate is the shares of a population for each question; nil for one that nobody answered.
type Estimate []*design.Shares

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := make(Estimate, len(c.EachCells))
	for i, cells := range c.EachCells {
		if cells != nil {
			e[i] = cells.Shares()
		}
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	var everyone []int64
	for _, f := range o.Counted.Each {
		everyone = append(everyone, f.Everyone)
	}
	return s.claim(o.Counted.Questions, about).estimated(o.Result.(Estimate), everyone, o.Counted.Sampled)
}

func (c Frequencies) estimated(e Estimate, everyone []int64, by claim.Sampled) document.Document {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	level := document.Values{"confidence": document.Of(document.Level, analysis.UsualConfidence)}
	t := &document.Table{
		Caption: say.CaptionFrequencies(int64(len(c.Questions))), Stub: head("question_answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("n"), head("estimated"), document.Say("column.interval", level), head("standard_error")},
	}
	var said []document.Message
	for i, q := range c.Questions {
		v := document.Values{"units": c.Units, "question": q.Called(), "n": document.N(0), "missing": document.N(everyone[i])}
		s := e[i]
		if s == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.frequencies.nobody", v), Head: true})
			continue
		}
		v["n"], v["missing"] = document.N(s.N), document.N(everyone[i]-s.N)
		id := "read.frequencies.head"
		if everyone[i] == s.N {
			id = "read.frequencies.head_all"
		}
		t.Rows = append(t.Rows, document.Row{Name: document.Say(id, v), Head: true})
		first := 0
		for j, p := range s.Share {
			if p > s.Share[first] {
				first = j
			}
		}
		v["answer"], v["percent"] = document.Text(c.Labels[i][first]), document.Of(document.Percent, 100*s.Share[first])
		said = append(said, document.Say("read.frequencies.estimated", v))
		order := c.Order
		if c.Ranked[i] {
			order = claim.AsAsked
		}
		for _, k := range claim.Arranged(order, c.Labels[i], s.Count) {
			u := s.One(k).Uncertainty(analysis.UsualConfidence)
			t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(c.Labels[i][k])), Cells: []document.Cell{
				document.One(document.N(s.Count[k])), document.One(document.Of(document.Bare, 100*s.Share[k])),
				document.One(claim.RangeOf(u.Beta)), document.One(document.Of(document.Points, 100*u.StandardError)),
			}})
		}
	}
	var notes claim.NotesOf
	notes.Add(document.Figures, "frequencies.bases", nil)
	notes.Add(document.Figures, "designed.beta", nil)
	if c.Order != claim.AsAsked && slices.Contains(c.Ranked, true) {
		notes.Add(document.Figures, "frequencies.ranked", nil)
	}
	by.Notes(&notes, claim.About{Units: c.Units, Everyone: by.Base.N}, nil)
	return document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Choices, Choices: claim.OrderChoice(c.Order)},
		{Kind: document.Figures, Table: t},
		{Kind: document.WriteUp, Said: said},
	}}
}
