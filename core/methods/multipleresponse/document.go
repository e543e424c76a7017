package multipleresponse

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/say"
	"widetally/core/tally"
)

// Responses describes a choose-all question over both its bases; nothing is tested.
type Responses struct {
	claim.About
	Question claim.Question
	Labels   []string
}

// Statement says what is described.
func (Responses) Statement() document.Message {
	return say.ClaimMultipleResponseDescribed()
}

// Document shows the shares of respondents and of responses, and how many answers were
// chosen. The sentence speaks of the answer that was chosen most, of several the first.
func (c Responses) Document(s *tally.ResponseShares, counts []int64) document.Document {
	v := document.Values{
		"units":     c.Units,
		"question":  c.Question.Called(),
		"n":         document.N(s.Respondents),
		"responses": document.N(s.Responses),
		"mean":      document.Of(document.Effect, s.MeanChosen),
	}
	first := 0
	for i, n := range counts {
		if n > counts[first] {
			first = i
		}
	}
	sentence := document.Say("read.multiple_response.none", v)
	if s.Responses > 0 {
		v["answer"], v["share"], v["of_responses"] = document.Text(
			c.Labels[first],
		), document.Of(
			document.Percent,
			100*s.OfRespondents[first],
		), document.Of(
			document.Percent,
			100*s.OfResponses[first],
		)
		sentence = document.Say("read.multiple_response.most", v)
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.multiple_response", v),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("count"), head("of_respondents"), head("of_responses")},
	}
	for i, label := range c.Labels {
		row := document.Row{
			Name: claim.Plain(document.Text(label)),
			Cells: []document.Cell{
				document.One(document.N(counts[i])),
				document.One(document.Of(document.Percent, 100*s.OfRespondents[i])),
			},
		}
		if s.Responses > 0 {
			row.Cells = append(row.Cells, document.One(document.Of(document.Percent, 100*s.OfResponses[i])))
		} else {
			row.Cells = append(row.Cells, document.Cell{})
		}
		t.Rows = append(t.Rows, row)
	}
	all := document.Row{
		Name:  head("responses"),
		Total: true,
		Cells: []document.Cell{
			document.One(document.N(s.Responses)),
			document.One(document.Of(document.Percent, 100*s.MeanChosen)),
			{},
		},
	}
	if s.Responses > 0 {
		all.Cells[2] = document.One(document.Of(document.Percent, 100))
	}
	t.Rows = append(t.Rows, all)
	many := &document.Table{
		Caption: document.Say("caption.how_many", v),
		Stub:    head("how_many"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("respondents"), head("of_respondents")},
	}
	for k, n := range s.Chosen {
		many.Rows = append(
			many.Rows,
			document.Row{
				Name: claim.Plain(document.N(int64(k))),
				Cells: []document.Cell{
					document.One(document.N(n)),
					document.One(document.Of(document.Percent, claim.Percent(n, s.Respondents))),
				},
			},
		)
	}
	d := document.Document{
		Blocks: []document.Block{
			{Kind: document.Sentence, Said: []document.Message{sentence}},
			{Kind: document.Figures, Table: t},
			{Kind: document.Figures, Table: many},
			{Kind: document.WriteUp, Said: []document.Message{sentence, document.Say("read.multiple_response.mean", v)}},
		},
	}
	var notes claim.NotesOf
	notes.LeftOut(c.About, s.Respondents)
	id := "multiple_response.bases"
	if s.MeanChosen > 1 {
		id = "multiple_response.bases_over"
	}
	notes.Add(document.Figures, id, v)
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
