package crosstabs

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/say"
)

// Estimate is the tables of a population, row by row, one for each question; nil for one that nobody
// answered together with the groups'.
type Estimate []*design.Cells

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return &analysis.Outcome{Result: Estimate(c.EachCells)}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	return s.claim(o.Counted.Questions, about).estimated(o.Result.(Estimate), o.Counted.Sampled)
}

func (c Crossings) estimated(e Estimate, by claim.Sampled) document.Document {
	v := document.Values{"groups": c.Groups.Groups(), "units": c.Units, "n": document.N(int64(len(c.Questions)))}
	groups := len(c.GroupLabels)
	role := document.ColumnPercent
	if c.Reading == crosstab.AsCounts {
		role = document.Observed
	}
	t := &document.Table{
		Caption: document.Say("caption.crosstabs", v), Stub: say.ColumnQuestionAnswer(), Shown: []document.Role{role},
	}
	for _, l := range c.GroupLabels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(l)))
	}
	t.Columns = append(t.Columns, say.ColumnAll())
	few := false
	for i, q := range c.Questions {
		of := document.Values{"question": q.Called()}
		cells := e[i]
		if cells == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.crosstabs.nobody", of), Head: true})
			continue
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(q.Called()), Head: true})
		_, down := cells.Within(groups)
		all := cells.Merged(len(c.Labels[i]), func(cell int) int { return cell / groups }).Shares()
		across := cells.Merged(groups, func(cell int) int { return cell % groups })
		for r, label := range c.Labels[i] {
			row := document.Row{Name: claim.Plain(document.Text(label))}
			one := func(group string, count, base int64, p float64) document.Cell {
				return document.Cell{Said: say.ReadEstimatedShare(group, label, count, base, 100*p), Figures: []document.Figure{
					{Role: document.Observed, Value: document.N(count)},
					{Role: document.ColumnPercent, Value: document.Of(document.Bare, 100*p)},
				}}
			}
			for g, group := range c.GroupLabels {
				if p := down[r][g]; p != nil {
					row.Cells = append(row.Cells, one(group, cells.Count[r*groups+g], across.Count[g], *p))
				} else {
					row.Cells = append(row.Cells, document.Cell{})
				}
			}
			total := one("", all.Count[r], all.N, all.Share[r])
			total.Said = document.Message{}
			row.Cells = append(row.Cells, total)
			t.Rows = append(t.Rows, row)
		}
		base := document.Row{Name: say.ColumnN(), Faint: true}
		for _, n := range append(append([]int64{}, across.Count...), cells.N) {
			few = few || n > 0 && n < claim.FewInGroup
			base.Cells = append(base.Cells, document.Cell{Faint: true, Figures: []document.Figure{{Role: role, Value: document.N(n)}}})
		}
		t.Rows = append(t.Rows, base)
	}
	var notes claim.NotesOf
	notes.Add(document.Figures, "crosstabs.bases", v)
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	by.Notes(&notes, claim.About{Units: c.Units, Everyone: by.Base.N}, nil)
	reading := document.Say("read.crosstabs.estimated_"+string(c.Reading), v)
	return document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Choices, Choices: claim.Choice("reading", "reading", CrossingsReadings, c.Reading, func(r crosstab.Reading) document.Message {
			return document.Say("choice.read_groups."+string(r), v)
		})},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.WriteUp, Said: []document.Message{reading}},
	}}
}
