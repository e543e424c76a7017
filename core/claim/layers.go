package claim

import (
	"slices"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Layers is two questions crossed within the answers of a third: described, and tested where
// a claim is made and both have two answers.
type Layers struct {
	// Crossing says how each table is read; its counts are those of all layers together.
	Crossing
	Layers      Question
	LayerLabels []string
	// Tables holds the counts of each layer, row by row.
	Tables [][][]int64
	// Claim is that the two go together, or that they do not, also within the layers; nil for none.
	Claim *Stated
}

// Statement says with what the question is crossed, and within what.
func (c Layers) Statement() document.Message {
	with := c.Rows
	if c.Swapped {
		with = c.Columns
	}
	if c.Claim != nil {
		return stated(c.Claim.clauses("layers", c.layered()))
	}
	return document.Say("claim.layers.described", document.Values{"other": with.called(), "layers": c.Layers.called()})
}

// layered are the values of the sentences.
func (c Layers) layered() document.Values {
	v := c.values()
	v["layers"] = c.Layers.called()
	return v
}

// test are the blocks of the claim, with its way into the write-up: Cochran's test (1954) and
// Mantel and Haenszel's (1959) without correction decides; Tarone's (1985) asks beside it
// whether one odds ratio fits all layers.
func (c Layers) test(r *infer.MantelHaenszel, d *document.Document, notes *notesOf) (said []document.Message) {
	v := c.Claim.clauses("layers", c.layered())
	rejected, critical := r.P.AtMost(c.Claim.Level), prob.ChiSquareUpperQuantile(c.Claim.Level, 1)
	v["statistic"], v["p"], v["critical"] = document.Of(document.Statistic, r.Statistic), document.P(document.PEqual, r.P, c.Claim.Level), document.Of(document.Statistic, critical)
	finding := []document.Message{c.Claim.finding(rejected, v)}
	facts := []document.Fact{
		fact("statistic", "statistic", nil, document.Say("fact.chi_square_mh", document.Values{"x": v["statistic"]})),
		fact("df", "df", nil, plain(document.N(1))),
		fact("p", "p", nil, plain(document.P(document.PExact, r.P, c.Claim.Level))),
		fact("critical", "critical", document.Values{"level": v["level"]}, plain(v["critical"])),
		fact("corrected", "p_corrected", nil, plain(document.P(document.PExact, r.CorrectedP, c.Claim.Level))),
	}
	if r.CommonOddsRatio != nil {
		facts = append(facts, c.odds(r))
	}
	decided, _ := chiSquareVerdict(r.Statistic, critical, r.P, c.Claim.Level, infer.Advice{}, nil)
	if r.Interval != nil {
		said := document.Say("fact.from_to", document.Values{"lower": document.Of(document.Statistic, r.Interval.Lower), "upper": document.Of(document.Statistic, r.Interval.Upper)})
		decided.ways = append(decided.ways, by("odds_interval", document.Value{Kind: document.Said, Message: &said}, document.N(1), !r.Interval.Contains(1)))
		v["odds"], v["lower"], v["upper"], v["confidence"] = document.Of(document.Statistic, *r.CommonOddsRatio), document.Of(document.Statistic, r.Interval.Lower), document.Of(document.Statistic, r.Interval.Upper), document.Of(document.Level, r.Confidence)
	}
	journal := "finding.layers.journal_alone"
	if r.Interval != nil {
		journal = "finding.layers.journal"
	}
	working := []document.Message{document.Say("working.layers.statistic", v), document.Say("working.layers."+outcome(rejected), v)}
	if h := r.Homogeneity; h != nil {
		v["tarone"], v["df"], v["tarone_p"] = document.Of(document.Statistic, h.Tarone), document.N(int64(h.DF)), document.P(document.PEqual, h.TaroneP, c.Claim.Level)
		facts = append(facts, fact("breslow_day", "homogeneity", nil, document.Say("fact.symmetry_of", document.Values{"x": v["tarone"], "df": v["df"], "p": v["tarone_p"]})))
		working = append(working, document.Say("working.layers.homogeneity", v))
		if h.TaroneP.AtMost(c.Claim.Level) {
			// What cancels over the layers must not read as nothing.
			finding = append(finding, document.Say("finding.layers.differ_"+outcome(rejected), v))
			notes.caution(document.Facts, "layers.differ", v)
		} else {
			notes.add(document.Facts, "layers.not_differ", v)
		}
	}
	for _, k := range r.Conditions {
		if !k.Met {
			finding = append(finding, document.Say("finding.doubt.layers", v))
			notes.caution(document.Conditions, "layers.room", document.Values{"found": document.Of(document.Amount, k.Found)})
		}
	}
	if rejected {
		notes.add(document.Decision, "layers.size", nil)
	} else {
		notes.add(document.Decision, "layers.not_proving", v)
	}
	decided.differ(notes, "layers")
	d.Blocks = append(d.Blocks, c.Claim.hypotheses("layers", v), document.Block{Kind: document.Sentence, Said: finding},
		document.Block{Kind: document.Facts, Facts: facts}, document.Block{Kind: document.Figures, Table: decided.table(r.Confidence)}, document.Block{Kind: document.Working, Said: working})
	d.Outcome = decided.outcome("null")
	return append(slices.Clone(finding), document.Say(journal, v))
}

// odds is the common odds ratio, with what it compares.
func (c Layers) odds(r *infer.MantelHaenszel) document.Fact {
	out := effectFact("common_odds", infer.Effect{Value: r.CommonOddsRatio, Interval: r.Interval}, r.Confidence)
	out.Name.Values = document.Values{"answer": document.Text(c.ColumnLabels[0]), "group": document.Text(c.RowLabels[0]), "other": document.Text(c.RowLabels[1])}
	return out
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
	d := document.Document{Blocks: []document.Block{{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}}}}
	var notes notesOf
	var readings []document.Message
	if c.Claim != nil && r != nil {
		readings = c.test(r, &d, &notes)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.Choices, Choices: c.readings()}, document.Block{Kind: document.Choices, Choices: c.swap()})
	said := c.saidOfEach()
	table := func(heading document.Message, within Crossing) {
		t := addUp(within.Counts, len(within.ColumnLabels))
		heading.Values["n"], heading.Values["units"] = document.N(t.n), c.Units
		reading := within.sentence(t, said)
		readings = append(readings, heading, reading)
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Heading, Said: []document.Message{heading}}, document.Block{Kind: document.Sentence, Said: []document.Message{reading}}, document.Block{Kind: document.Figures, Table: within.table(t, nil, verdict{})})
	}
	for k, label := range c.LayerLabels {
		within := c.Crossing
		within.Counts = c.Tables[k]
		table(document.Say("read.layer", document.Values{"layer": document.Text(label)}), within)
	}
	table(document.Say("read.layers_together", document.Values{}), c.Crossing)
	if r != nil && r.CommonOddsRatio != nil && c.Claim == nil {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: []document.Fact{c.odds(r)}})
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

// saidOfEach is what the sentence of every layer speaks of: the answer and the groups that lie
// furthest apart in one of them. The same of each, so that a reversal can be read off.
func (c Layers) saidOfEach() (most *extremes) {
	for _, counts := range c.Tables {
		if e := c.extremes(addUp(counts, len(c.ColumnLabels))); e != nil && (most == nil || e.apart > most.apart) {
			most = e
		}
	}
	return most
}

func (c Crossing) swap() *document.Choice {
	return &document.Choice{Label: document.Say("choice.also", nil), Options: []document.Option{{Label: document.Say("choice.swap", nil), Change: patch(map[string]any{"swapped": !c.Swapped})}}}
}
