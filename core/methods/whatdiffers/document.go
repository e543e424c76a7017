package whatdiffers

import (
	"encoding/json"

	"widetally/core/claim"
	"widetally/core/document"
)

// List is the crossings of a question in their order.
type List struct {
	claim.About
	Question claim.Question
	Others   []claim.Question
	Level    float64
}

func (l List) values() document.Values {
	return document.Values{
		"question": l.Question.Called(), "n": document.N(int64(len(l.Others))), "level": document.Of(document.Level, l.Level),
		"confidence": document.Of(document.Level, 1-l.Level), "units": l.Units,
	}
}

// Statement says what is shown.
func (l List) Statement() document.Message {
	return document.Say("claim.what_differs.described", l.values())
}

// offered is how many crossings can be opened from the list.
const offered = 3

// Document says what a result means; by is the design by which it estimates, nil where respondents are counted.
func (l List) Document(list []Crossing, by *claim.Sampled) document.Document {
	v := l.values()
	standing := 0
	for _, c := range list {
		if c.Adjusted != nil && c.Adjusted.Value < l.Level {
			standing++
		}
	}
	v["standing"] = document.N(int64(standing))
	reading := document.Say("read.what_differs.none", v)
	if standing > 0 {
		first := list[0]
		v["first"], v["v"] = l.Others[first.At].Called(), document.Of(document.Effect, first.CramersV)
		reading = document.Say("read.what_differs.some", v)
	}
	head := func(id string) document.Message { return document.Say("column."+id, v) }
	t := &document.Table{
		Caption: document.Say("caption.what_differs", v), Stub: head("question"), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("cramers_v"), head("interval_plain"), head("p"), head("holm_p"), head("n")},
	}
	if by != nil {
		t.Columns = append(t.Columns[:1], t.Columns[2:]...)
	}
	rough := false
	for _, c := range list {
		row := document.Row{Name: claim.Plain(l.Others[c.At].Called())}
		if c.P == nil {
			row.Cells, row.Faint = make([]document.Cell, len(t.Columns)), true
			row.Cells[0] = document.One(document.Term("what_differs.untested"))
			t.Rows = append(t.Rows, row)
			continue
		}
		rough = rough || c.Rough
		between := document.Text("")
		if c.Interval != nil {
			between = document.Saying(document.Say("fact.from_to", document.Values{
				"lower": document.Of(document.Effect, c.Interval.Lower), "upper": document.Of(document.Effect, c.Interval.Upper),
			}))
		}
		size := document.One(document.Of(document.Effect, c.CramersV))
		if c.Adjusted.Value < l.Level {
			size.Mark = document.More
		}
		row.Cells = []document.Cell{
			size, document.One(between), document.One(document.P(document.PExact, *c.P, l.Level)), document.One(
				document.P(document.PExact, *c.Adjusted, l.Level),
			), document.One(document.N(c.N)),
		}
		if by != nil {
			row.Cells = append(row.Cells[:1], row.Cells[2:]...)
		}
		t.Rows = append(t.Rows, row)
	}
	blocks := []document.Block{
		{Kind: document.Sentence, Said: []document.Message{reading}}, {Kind: document.Figures, Table: t},
	}
	if by != nil {
		blocks = append([]document.Block{by.Basis(l.About)}, blocks...)
	}
	if c := l.crossings(list); c != nil {
		blocks = append(blocks, document.Block{Kind: document.Choices, Choices: c})
	}
	blocks = append(blocks, document.Block{Kind: document.WriteUp, Said: []document.Message{reading}})
	var notes claim.NotesOf
	notes.Add(document.Figures, "what_differs.looked", v)
	if rough {
		notes.Caution(document.Figures, "what_differs.rough", v)
	}
	if by != nil {
		by.Notes(&notes, claim.About{Units: l.Units, Everyone: by.Base.N}, nil)
	} else {
		notes.Unweighted(l.About)
	}
	return document.Document{Blocks: blocks, Notes: notes}
}

// crossings offers to open those that tell most.
func (l List) crossings(list []Crossing) *document.Choice {
	out := &document.Choice{Label: document.Say("choice.what_differs", nil)}
	for _, c := range list[:min(offered, len(list))] {
		if c.P != nil {
			out.Options = append(out.Options, document.Option{
				Label: claim.Plain(l.Others[c.At].Called()), Change: json.RawMessage("{}"),
				Ask: &document.Ask{Method: "crosstab", Others: []int{c.At + 1}},
			})
		}
	}
	if len(out.Options) == 0 {
		return nil
	}
	return out
}
