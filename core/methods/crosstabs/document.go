package crosstabs

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/say"
	"widetally/core/tally"
)

// Crossings is several questions crossed with one in one table: the groups are its columns,
// each with its percents of those in the group who answered.
type Crossings struct {
	claim.About
	Groups      claim.Question
	GroupLabels []string
	Questions   []claim.Question
	Labels      [][]string
	Counts      [][][]int64      // of each question, row by row
	Reading     crosstab.Reading // OfEachColumn or AsCounts
}

// CrossingsReadings are the ways to read the table.
var CrossingsReadings = []crosstab.Reading{crosstab.OfEachColumn, crosstab.AsCounts}

// Statement says what is shown.
func (c Crossings) Statement() document.Message {
	return say.ClaimCrosstabsDescribed(int64(len(c.Questions)))
}

// Document shows the questions one under the other. each is nil for a question that nobody
// answered together with the groups'.
func (c Crossings) Document(each []*tally.TableShares) document.Document {
	v := document.Values{"groups": c.Groups.Groups(), "units": c.Units, "n": document.N(int64(len(c.Questions)))}
	t := &document.Table{
		Caption: document.Say("caption.crosstabs", v),
		Stub:    say.ColumnQuestionAnswer(),
		Shown:   []document.Role{document.ColumnPercent},
	}
	if c.Reading == crosstab.AsCounts {
		t.Shown = []document.Role{document.Observed}
	}
	for _, l := range c.GroupLabels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(l)))
	}
	t.Columns = append(t.Columns, say.ColumnAll())
	few := false
	var said []document.Message
	for i, q := range c.Questions {
		v := document.Values{"question": q.Called()}
		if each[i] == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.crosstabs.nobody", v), Head: true})
			continue
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(q.Called()), Head: true})
		x := crosstab.Crossing{
			About:        c.About,
			Rows:         q,
			Columns:      c.Groups,
			RowLabels:    c.Labels[i],
			ColumnLabels: c.GroupLabels,
			Counts:       c.Counts[i],
			Reading:      c.Reading,
		}
		sums := crosstab.AddUp(c.Counts[i], len(c.GroupLabels))
		said = append(said, x.Sentence(sums, nil))
		for r, label := range c.Labels[i] {
			row := document.Row{Name: claim.Plain(document.Text(label))}
			for k, o := range c.Counts[i][r] {
				cell := crosstab.CellOf(o, sums.RowSum[r], sums.ColumnSum[k], sums.N)
				cell.Said = x.Meaning(sums, r, k)
				row.Cells = append(row.Cells, cell)
			}
			all := crosstab.CellOf(sums.RowSum[r], sums.RowSum[r], sums.N, sums.N)
			all.Said = x.Margin(sums, sums.RowSum[r], label, q)
			row.Cells = append(row.Cells, all)
			t.Rows = append(t.Rows, row)
		}
		base := document.Row{Name: say.ColumnN(), Faint: true}
		for _, n := range append(append([]int64{}, sums.ColumnSum...), sums.N) {
			few = few || n > 0 && n < claim.FewInGroup
			base.Cells = append(
				base.Cells,
				document.Cell{Faint: true, Figures: []document.Figure{{Role: t.Shown[0], Value: document.N(n)}}},
			)
		}
		t.Rows = append(t.Rows, base)
	}
	d := document.Document{Blocks: []document.Block{
		{
			Kind: document.Choices,
			Choices: claim.Choice("reading", "reading", CrossingsReadings, c.Reading, func(r crosstab.Reading) document.Message {
				return document.Say("choice.read_groups."+string(r), v)
			}),
		},
		{Kind: document.Sentence, Said: []document.Message{document.Say("read.crosstabs."+string(c.Reading), v)}},
		{Kind: document.Figures, Table: t}, {Kind: document.WriteUp, Said: said}}}
	var notes claim.NotesOf
	notes.Add(document.Figures, "crosstabs.bases", v)
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
