package battery

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// Battery describes several questions with the same answers, a row each.
type Battery struct {
	claim.About
	Questions []claim.Question
	Labels    []string
	// Turned, unless nil, marks questions whose answers come the other way round than those of the first.
	Turned []bool
	// By tells the design by which the shares are estimated; nil for those of respondents.
	By *claim.Sampled
}

// Statement says what is described.
func (c Battery) Statement() document.Message {
	return say.ClaimBatteryDescribed(int64(len(c.Questions)))
}

// Document shows the questions as rows that make up 100 % each, with the first two and the
// last two answers together where they have an order. The sentence names the questions that
// lie furthest apart: in the last two answers, else in the first one.
func (c Battery) Document(b *tally.Battery, counts [][]int64) document.Document {
	nets := false
	for _, x := range b.TopTwo {
		nets = nets || x != nil
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	strips := say.ColumnStripQuestion()
	t := &document.Table{
		Caption: say.CaptionBattery(int64(len(c.Questions))),
		Stub:    head("question"),
		Strips:  &strips,
		Shown:   []document.Role{document.Main},
	}
	for _, l := range c.Labels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(l)))
	}
	last, first := c.Labels[max(0, len(c.Labels)-2):], c.Labels[:min(2, len(c.Labels))]
	if nets {
		t.Columns = append(t.Columns, say.ColumnNet(first[0], first[1]),
			say.ColumnNet(last[0], last[1]))
	}
	t.Columns = append(t.Columns, head("n"))
	high, low, turned := -1, -1, false
	measureOf := func(i int) float64 {
		if b.TopTwo[i] != nil {
			return *b.TopTwo[i]
		}
		return b.Shares[i][0]
	}
	one := func(share *float64) document.Cell {
		if share == nil {
			return document.Cell{}
		}
		return document.One(document.Of(document.Bare, 100**share))
	}
	for i, q := range c.Questions {
		row := document.Row{Name: claim.Plain(q.Called())}
		if c.Turned != nil && c.Turned[i] {
			turned = true
			row.Name = say.ColumnTurned(q.Called())
		}
		for j := range c.Labels {
			cell := document.Cell{}
			if b.Shares[i] != nil {
				cell = document.One(document.Of(document.Bare, 100*b.Shares[i][j]))
				cell.Said = say.ReadBatteryCell(b.N[i], c.Units, q.Called(), counts[i][j], c.Labels[j], 100*b.Shares[i][j])
				if c.By != nil {
					cell.Said = say.ReadBatteryEstimated(q.Called(), counts[i][j], b.N[i], c.Labels[j], 100*b.Shares[i][j])
				}
				row.Strip = append(row.Strip, 100*b.Shares[i][j])
			}
			row.Cells = append(row.Cells, cell)
		}
		if nets {
			row.Cells = append(row.Cells, one(b.BottomTwo[i]), one(b.TopTwo[i]))
		}
		row.Cells = append(row.Cells, document.One(document.N(b.N[i])))
		t.Rows = append(t.Rows, row)
		if b.Shares[i] == nil {
			continue
		}
		if high < 0 || measureOf(i) > measureOf(high) {
			high = i
		}
		if low < 0 || measureOf(i) < measureOf(low) {
			low = i
		}
	}
	sentence := say.ReadBatteryNobody()
	if high >= 0 {
		answers := say.ReadBatteryOne(first[0])
		if nets {
			answers = say.ReadBatteryTwo(last[0], last[1])
		}
		id := "read.battery.apart"
		if measureOf(high) == measureOf(low) {
			id = "read.battery.alike"
		}
		if c.By != nil {
			id += "_estimated"
		}
		sentence = document.Say(
			id,
			document.Values{
				"answers": {Kind: document.Said, Message: &answers},
				"high":    c.Questions[high].Called(),
				"low":     c.Questions[low].Called(),
				"percent": document.Of(
					document.Percent,
					100*measureOf(high),
				),
				"percent2": document.Of(document.Percent, 100*measureOf(low)),
			},
		)
	}
	var notes claim.NotesOf
	notes.Add(document.Figures, "battery.bases", nil)
	if turned {
		notes.Add(document.Figures, "battery.turned", nil)
	}
	var basis []document.Block
	if c.By == nil {
		notes.Unweighted(c.About)
	} else {
		basis = append(basis, c.By.Basis(c.About))
		c.By.Notes(&notes, claim.About{Units: c.Units, Everyone: c.By.Base.N}, nil)
	}
	return document.Document{
		Blocks: append(basis, []document.Block{
			{Kind: document.Sentence, Said: []document.Message{sentence}},
			{Kind: document.Figures, Table: t},
			{Kind: document.WriteUp, Said: []document.Message{sentence}},
		}...),
		Notes: notes,
	}
}
