package frequencies

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/frequency"
	"widetally/core/say"
	"widetally/core/tally"
)

// Frequencies tabulates several questions in one table.
type Frequencies struct {
	claim.About
	Questions []claim.Question
	Labels    [][]string
	Order     claim.Order
	// Ranked tells of each question whether its answers have an order of their own, which
	// then stays.
	Ranked []bool
}

// Statement says what is shown.
func (c Frequencies) Statement() document.Message {
	return say.ClaimFrequenciesDescribed(int64(len(c.Questions)))
}

// Document shows the questions one under the other. Percents are of those who answered each;
// a question that nobody answered says so.
func (c Frequencies) Document(each []*tally.Relative, everyone []int64) document.Document {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionFrequencies(int64(len(c.Questions))),
		Stub:    head("question_answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("of_answered")},
	}
	var said []document.Message
	for i, q := range c.Questions {
		v := document.Values{"units": c.Units, "question": q.Called(), "n": document.N(0), "missing": document.N(everyone[i])}
		r := each[i]
		if r == nil {
			t.Rows = append(t.Rows, document.Row{Name: document.Say("read.frequencies.nobody", v), Head: true})
			continue
		}
		v["n"], v["missing"] = document.N(r.N), document.N(everyone[i]-r.N)
		id := "read.frequencies.head"
		if everyone[i] == r.N {
			id = "read.frequencies.head_all"
		}
		t.Rows = append(t.Rows, document.Row{Name: document.Say(id, v), Head: true})
		said = append(said, frequency.Commonest(v, c.Labels[i], r))
		order := c.Order
		if c.Ranked[i] {
			order = claim.AsAsked
		}
		for _, k := range claim.Arranged(order, c.Labels[i], r.Counts) {
			t.Rows = append(
				t.Rows,
				document.Row{
					Name: claim.Plain(document.Text(c.Labels[i][k])),
					Cells: []document.Cell{
						document.One(document.N(r.Counts[k])),
						document.One(document.Of(document.Bare, 100*r.Shares[k])),
					},
				},
			)
		}
	}
	d := document.Document{
		Blocks: []document.Block{
			{Kind: document.Choices, Choices: claim.OrderChoice(c.Order)},
			{Kind: document.Figures, Table: t},
			{Kind: document.WriteUp, Said: said},
		},
	}
	var notes claim.NotesOf
	notes.Add(document.Figures, "frequencies.bases", nil)
	if c.Order != claim.AsAsked && slices.Contains(c.Ranked, true) {
		notes.Add(document.Figures, "frequencies.ranked", nil)
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
