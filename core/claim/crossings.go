package claim

import (
	"widetally/core/document"
	"widetally/core/tally"
)

// Crossings is several questions crossed with one in one table: the groups are its columns,
// each with its percents of those in the group who answered.
type Crossings struct {
	About
	Groups      Question
	GroupLabels []string
	Questions   []Question
	Labels      [][]string
	Counts      [][][]int64 // of each question, row by row
	Reading     Reading     // OfEachColumn or AsCounts
}

// CrossingsReadings are the ways to read the table.
var CrossingsReadings = []Reading{OfEachColumn, AsCounts}

// Statement says what is shown.
func (c Crossings) Statement() document.Message {
	return document.Say("claim.crossings.described", document.Values{"n": document.N(int64(len(c.Questions)))})
}

// Document shows the questions one under the other. each is nil for a question that nobody
// answered together with the groups'.
func (c Crossings) Document(each []*tally.TableShares) document.Document {
	v := document.Values{"groups": c.Groups.groups(), "units": c.Units, "n": document.N(int64(len(c.Questions)))}
	t := &document.Table{Caption: document.Say("caption.crossings", v), Stub: document.Say("column.question_answer", nil), Shown: []document.Role{document.ColumnPercent}}
	if c.Reading == AsCounts {
		t.Shown = []document.Role{document.Observed}
	}
	for _, l := range c.GroupLabels {
		t.Columns = append(t.Columns, plain(document.Text(l)))
	}
	t.Columns = append(t.Columns, document.Say("column.all", nil))
	few := false
	var said []document.Message
	for i, q := range c.Questions {
		v := document.Values{"question": q.called()}
		if each[i] == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.crossings.nobody", v), Head: true})
			continue
		}
		t.Rows = append(t.Rows, document.Row{Name: plain(q.called()), Head: true})
		x := Crossing{About: c.About, Rows: q, Columns: c.Groups, RowLabels: c.Labels[i], ColumnLabels: c.GroupLabels, Counts: c.Counts[i], Reading: c.Reading}
		sums := addUp(c.Counts[i], len(c.GroupLabels))
		said = append(said, x.sentence(sums, nil))
		for r, label := range c.Labels[i] {
			row := document.Row{Name: plain(document.Text(label))}
			for k, o := range c.Counts[i][r] {
				cell := cellOf(o, sums.rowSum[r], sums.columnSum[k], sums.n)
				cell.Said = x.meaning(sums, r, k)
				row.Cells = append(row.Cells, cell)
			}
			all := cellOf(sums.rowSum[r], sums.rowSum[r], sums.n, sums.n)
			all.Said = x.margin(sums, sums.rowSum[r], label, q)
			row.Cells = append(row.Cells, all)
			t.Rows = append(t.Rows, row)
		}
		base := document.Row{Name: document.Say("column.n", nil), Faint: true}
		for _, n := range append(append([]int64{}, sums.columnSum...), sums.n) {
			few = few || n > 0 && n < fewInGroup
			base.Cells = append(base.Cells, document.Cell{Faint: true, Figures: []document.Figure{{Role: t.Shown[0], Value: document.N(n)}}})
		}
		t.Rows = append(t.Rows, base)
	}
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Choices, Choices: choice("reading", "reading", CrossingsReadings, c.Reading, func(r Reading) document.Message {
			return document.Say("choice.read_groups."+string(r), v)
		})},
		{Kind: document.Sentence, Said: []document.Message{document.Say("read.crossings."+string(c.Reading), v)}},
		{Kind: document.Figures, Table: t}, {Kind: document.WriteUp, Said: said}}}
	var notes notesOf
	notes.add(document.Figures, "crossings.bases", v)
	if few {
		notes.caution(document.Figures, "crossings.few", document.Values{"few": document.N(fewInGroup), "units": c.Units})
	}
	notes.unweighted(c.About)
	d.Notes = notes
	return d
}
