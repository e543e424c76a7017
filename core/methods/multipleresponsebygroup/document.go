package multipleresponsebygroup

import (
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/crosstabs"
	"widetally/core/say"
	"widetally/core/tally"
)

// ResponsesBy is a choose-all question crossed with another one: of the respondents in each
// group, how many chose each answer. Respondents stand in several rows, so no test of
// separate people is offered.
type ResponsesBy struct {
	claim.About
	Question, Groups    claim.Question
	Labels, GroupLabels []string
	Counts              [][]int64        // of each group, by answer
	Reading             crosstab.Reading // OfEachColumn or AsCounts
	Picture             crosstab.CrossingPicture
	Frame               *claim.Frame
}

// Statement says with what the question is crossed.
func (c ResponsesBy) Statement() document.Message {
	return say.ClaimCrosstabDescribed(c.Groups.Groups())
}

// ResponsesPictures are the ways to draw it.
var ResponsesPictures = []crosstab.CrossingPicture{crosstab.NoPicture, crosstab.SideBySide}

// Document shows the answers down and the groups across.
func (c ResponsesBy) Document(s *tally.RespondentShares) document.Document {
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"groups":   c.Groups.Groups(),
		"n":        document.N(s.All),
		"left":     document.N(c.Everyone - s.All),
		"rows":     c.Groups.Groups(),
		"columns":  c.Question.Called(),
	}
	basis := "basis.crossing"
	if c.Everyone == s.All {
		basis = "basis.crossing_all"
	}
	role := document.ColumnPercent
	if c.Reading == crosstab.AsCounts {
		role = document.Observed
	}
	t := &document.Table{
		Caption: document.Say("caption.multiple_response_by_group", v),
		Stub:    claim.Plain(c.Question.Called()),
		Shown:   []document.Role{role},
	}
	for _, l := range c.GroupLabels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(l)))
	}
	t.Columns = append(t.Columns, say.ColumnAll())
	cell := func(group string, answer string, n, base int64) document.Cell {
		out := document.Cell{Figures: []document.Figure{{Role: document.Observed, Value: document.N(n)}}}
		v := document.Values{
			"units":  c.Units,
			"group":  document.Text(group),
			"of":     c.Groups.Groups(),
			"answer": document.Text(answer),
			"what":   c.Question.Called(),
			"count":  document.N(n),
			"base":   document.N(base),
		}
		id := "read.multiple_response_by_group.nobody"
		if base > 0 {
			id = "read.multiple_response_by_group.cell"
			if group == "" {
				id = "read.multiple_response_by_group.all"
			}
			v["percent"] = document.Of(document.Percent, claim.Percent(n, base))
			out.Figures = append(
				out.Figures,
				document.Figure{Role: document.ColumnPercent, Value: document.Of(document.Bare, claim.Percent(n, base))},
			)
		}
		out.Said = document.Say(id, v)
		return out
	}
	high, low, answer, apart := 0, 0, 0, -1.0
	for a, label := range c.Labels {
		row := document.Row{Name: claim.Plain(document.Text(label))}
		all, h, l := int64(0), -1, -1
		for g, group := range c.GroupLabels {
			n := c.Counts[g][a]
			all += n
			row.Cells = append(row.Cells, cell(group, label, n, s.Bases[g]))
			if s.Shares[g] == nil {
				continue
			}
			if h < 0 || s.Shares[g][a] > s.Shares[h][a] {
				h = g
			}
			if l < 0 || s.Shares[g][a] < s.Shares[l][a] {
				l = g
			}
		}
		if d := s.Shares[h][a] - s.Shares[l][a]; d > apart {
			high, low, answer, apart = h, l, a, d
		}
		row.Cells = append(row.Cells, cell("", label, all, s.All))
		t.Rows = append(t.Rows, row)
	}
	base := document.Row{Name: say.ColumnRespondents(), Total: true}
	few := false
	for _, n := range append(append([]int64{}, s.Bases...), s.All) {
		few = few || n > 0 && n < claim.FewInGroup
		base.Cells = append(base.Cells, document.Cell{Figures: []document.Figure{{Role: role, Value: document.N(n)}}})
	}
	t.Rows = append(t.Rows, base)
	v["answer"], v["group"], v["base"], v["percent"] = document.Text(
		c.Labels[answer],
	), document.Text(
		c.GroupLabels[high],
	), document.N(
		s.Bases[high],
	), document.Of(
		document.Percent,
		100*s.Shares[high][answer],
	)
	v["group2"], v["base2"], v["percent2"] = document.Text(
		c.GroupLabels[low],
	), document.N(
		s.Bases[low],
	), document.Of(
		document.Percent,
		100*s.Shares[low][answer],
	)
	id := "read.multiple_response_by_group.groups"
	if high == low {
		id = "read.multiple_response_by_group.one_group"
	}
	sentence := document.Say(id, v)
	d := document.Document{Blocks: []document.Block{{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}},
		{
			Kind: document.Choices,
			Choices: claim.Choice(
				"reading",
				"reading",
				crosstabs.CrossingsReadings,
				c.Reading,
				func(r crosstab.Reading) document.Message {
					return document.Say("choice.read_groups."+string(r), v)
				},
			),
		},
		{Kind: document.Sentence, Said: []document.Message{sentence}}, {Kind: document.Figures, Table: t},
		{Kind: document.Choices, Choices: claim.Choice("drawing", "picture", ResponsesPictures, c.Picture, crosstab.Drawn)}}}
	kind := document.Bare
	if c.Reading == crosstab.AsCounts {
		kind = document.Count
	}
	if c.Picture == crosstab.SideBySide {
		d.Blocks = append(
			d.Blocks,
			c.Frame.Drawn(
				crosstab.GroupedBars{
					Groups:  c.GroupLabels,
					Answers: c.Labels,
					Of:      c.Groups,
					What:    c.Question,
					N:       s.All,
					Counts:  c.Reading == crosstab.AsCounts,
					At: func(g, a int) float64 {
						if c.Reading == crosstab.AsCounts {
							return float64(c.Counts[g][a])
						}
						return claim.Percent(c.Counts[g][a], s.Bases[g])
					},
				}.Picture(),
				kind,
			)...)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: []document.Message{sentence}})
	var notes claim.NotesOf
	notes.Add(document.Figures, "multiple_response_by_group.several", v)
	if few {
		notes.Caution(document.Figures, "crosstabs.few", document.Values{"few": document.N(claim.FewInGroup), "units": c.Units})
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}
