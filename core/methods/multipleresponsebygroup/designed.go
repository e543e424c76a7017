package multipleresponsebygroup

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/say"
)

// Estimate is the shares of the groups of a population that chose each item; nil for a group that nobody
// is in.
type Estimate []*design.Items

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return &analysis.Outcome{Result: Estimate(c.Items)}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions, about).estimated(o.Result.(Estimate), o.Counted.Sampled)
}

func (c ResponsesBy) estimated(e Estimate, by claim.Sampled) document.Document {
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(), "groups": c.Groups.Groups(),
		"columns": c.Question.Called(), "rows": c.Groups.Groups(),
	}
	t := &document.Table{
		Caption: document.Say("caption.multiple_response_by_group_estimated", v), Stub: claim.Plain(c.Question.Called()),
		Shown: []document.Role{document.ColumnPercent},
	}
	for _, l := range c.GroupLabels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(l)))
	}
	high, low, answer, apart := -1, -1, 0, -1.0
	for a, label := range c.Labels {
		row, h, l := document.Row{Name: claim.Plain(document.Text(label))}, -1, -1
		for g, of := range e {
			if of == nil {
				row.Cells = append(row.Cells, document.Cell{})
				continue
			}
			cell := document.Cell{Figures: []document.Figure{
				{Role: document.ColumnPercent, Value: document.Of(document.Bare, 100*of.Share[a])},
			}}
			cell.Said = say.ReadEstimatedCell(c.GroupLabels[g], label, of.Count[a], of.N, 100*of.Share[a], 100*of.Covariance.SE(a))
			row.Cells = append(row.Cells, cell)
			if h < 0 || of.Share[a] > e[h].Share[a] {
				h = g
			}
			if l < 0 || of.Share[a] < e[l].Share[a] {
				l = g
			}
		}
		if h >= 0 && e[h].Share[a]-e[l].Share[a] > apart {
			high, low, answer, apart = h, l, a, e[h].Share[a]-e[l].Share[a]
		}
		t.Rows = append(t.Rows, row)
	}
	base := document.Row{Name: say.ColumnRespondents(), Total: true}
	few, counts := false, make([][]float64, 0, len(e))
	for _, of := range e {
		n, shares := int64(0), []float64(nil)
		if of != nil {
			n, shares = of.N, of.Share
		}
		counts = append(counts, shares)
		few = few || n > 0 && n < claim.FewInGroup
		base.Cells = append(base.Cells, document.Cell{Figures: []document.Figure{{Role: document.ColumnPercent, Value: document.N(n)}}})
	}
	t.Rows = append(t.Rows, base)
	v["group"], v["of"], v["answer"], v["what"] = document.Text(c.GroupLabels[high]), v["groups"], document.Text(c.Labels[answer]), v["question"]
	v["group2"] = document.Text(c.GroupLabels[low])
	v["percent"], v["percent2"] = document.Of(document.Percent, 100*e[high].Share[answer]), document.Of(document.Percent, 100*e[low].Share[answer])
	reading := document.Say("read.estimated.groups", v)
	if high == low {
		reading = document.Say("read.estimated.one_group", v)
	}
	var notes claim.NotesOf
	by.Notes(&notes, claim.About{Units: c.Units, Everyone: by.Base.N}, nil)
	notes.Add(document.Figures, "multiple_response_by_group.several", v)
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	by.Several = true
	d := document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Choices, Choices: claim.Choice("drawing", "picture", ResponsesPictures, c.Picture, crosstab.Drawn)},
	}}
	if c.Picture == crosstab.SideBySide {
		d.Blocks = append(d.Blocks, c.Frame.Drawn(crosstab.GroupedBars{
			Groups: c.GroupLabels, Answers: c.Labels, Of: c.Groups, What: c.Question, N: by.Base.N,
			At: func(g, a int) float64 {
				if counts[g] == nil {
					return 0
				}
				return 100 * counts[g][a]
			},
		}.Picture(), document.Bare)...)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: []document.Message{reading}})
	return d
}
