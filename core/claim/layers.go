package claim

import (
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
)

// Layers is two questions crossed within the answers of a third, described and not tested.
type Layers struct {
	// Crossing says how each table is read; its counts are those of all layers together.
	Crossing
	Layers      Question
	LayerLabels []string
	// Tables holds the counts of each layer, row by row.
	Tables [][][]int64
}

// Statement says with what the question is crossed, and within what.
func (c Layers) Statement() document.Message {
	with := c.Rows
	if c.Swapped {
		with = c.Columns
	}
	return document.Say("claim.layers.described", document.Values{"other": with.called(), "layers": c.Layers.called()})
}

// Document shows a table for each layer and one for all together; r is what two groups with
// two answers give, nil elsewhere.
func (c Layers) Document(r *infer.MantelHaenszel) document.Document {
	all := addUp(c.Counts, len(c.ColumnLabels))
	v := c.values()
	v["n"], v["left"], v["layers"] = document.N(all.n), document.N(c.Everyone-all.n), c.Layers.called()
	v["everyone"] = document.N(c.Everyone)
	basis := "basis.layers"
	if c.Everyone == all.n {
		basis = "basis.layers_all"
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}},
		{Kind: document.Choices, Choices: c.readings()}, {Kind: document.Choices, Choices: c.swap()}}}
	var readings []document.Message
	table := func(heading document.Message, within Crossing) {
		t := addUp(within.Counts, len(within.ColumnLabels))
		heading.Values["n"], heading.Values["units"] = document.N(t.n), c.Units
		reading := within.sentence(t)
		readings = append(readings, heading, reading)
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Heading, Said: []document.Message{heading}}, document.Block{Kind: document.Sentence, Said: []document.Message{reading}}, document.Block{Kind: document.Figures, Table: within.table(t, nil)})
	}
	for k, label := range c.LayerLabels {
		within := c.Crossing
		within.Counts = c.Tables[k]
		table(document.Say("read.layer", document.Values{"layer": document.Text(label)}), within)
	}
	table(document.Say("read.layers_together", document.Values{}), c.Crossing)
	var notes notesOf
	if r != nil && r.CommonOddsRatio != nil {
		e := infer.Effect{Value: r.CommonOddsRatio, Interval: r.Interval}
		odds := effectFact("common_odds", e, r.Confidence)
		odds.Name.Values = document.Values{"answer": document.Text(c.ColumnLabels[0]), "group": document.Text(c.RowLabels[0]), "other": document.Text(c.RowLabels[1])}
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: []document.Fact{odds}})
		notes.add(document.Facts, "layers.common_odds", nil)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: readings})
	if c.Everyone > all.n {
		notes.add(document.Basis, "layers.left_out", v)
	}
	notes.add(document.Figures, "layers.pooled", v)
	if i := slices.IndexFunc(c.Tables, func(t [][]int64) bool { n := addUp(t, len(c.ColumnLabels)).n; return n > 0 && n < fewInGroup }); i >= 0 {
		notes.caution(document.Figures, "layers.few", document.Values{"layer": document.Text(c.LayerLabels[i]), "few": document.N(fewInGroup), "units": c.Units})
	}
	notes.unweighted(c.About)
	d.Notes = notes
	return d
}

func (c Crossing) swap() *document.Choice {
	return &document.Choice{Label: document.Say("choice.also", nil), Options: []document.Option{{Label: document.Say("choice.swap", nil), Change: patch(map[string]any{"swapped": !c.Swapped})}}}
}
