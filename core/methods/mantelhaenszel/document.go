package mantelhaenszel

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/prob"
	"widetally/core/say"
)

// Claim is two questions crossed within the answers of a third: described, and tested where
// a claim is made and both have two answers.
type Claim struct {
	// Crossing says how each table is read; its counts are those of all layers together.
	crosstab.Crossing
	Layers      claim.Question
	LayerLabels []string
	// Tables holds the counts of each layer, row by row.
	Tables [][][]int64
	// Claim is that the two go together, or that they do not, also within the layers; nil for none.
	Claim *claim.Stated
}

// Statement says with what the question is crossed, and within what.
func (c Claim) Statement() document.Message {
	with := c.Rows
	if c.Swapped {
		with = c.Columns
	}
	if c.Claim != nil {
		return claim.StatementOf(c.Claim.Clauses("mantel_haenszel", c.layered()))
	}
	return say.ClaimMantelHaenszelDescribed(with.Called(), c.Layers.Called())
}

// layered are the values of the sentences.
func (c Claim) layered() document.Values {
	v := c.Values()
	v["layers"] = c.Layers.Called()
	return v
}

// test are the blocks of the claim, with its way into the write-up: Cochran's test (1954) and
// Mantel and Haenszel's (1959) without correction decides; Tarone's (1985) asks beside it
// whether one odds ratio fits all layers.
func (c Claim) test(r *infer.MantelHaenszel, d *document.Document, notes *claim.NotesOf) (said []document.Message) {
	v := c.Claim.Clauses("mantel_haenszel", c.layered())
	rejected, critical := r.P.AtMost(c.Claim.Level), prob.ChiSquareUpperQuantile(c.Claim.Level, 1)
	v["statistic"], v["p"], v["critical"] = document.Of(
		document.Statistic,
		r.Statistic,
	), document.P(
		document.PEqual,
		r.P,
		c.Claim.Level,
	), document.Of(
		document.Statistic,
		critical,
	)
	finding := []document.Message{c.Claim.Finding(rejected, v)}
	facts := []document.Fact{
		claim.Fact("statistic", "statistic", nil, say.FactChiSquareMh(v["statistic"])),
		claim.Fact("df", "df", nil, claim.Plain(document.N(1))),
		claim.Fact("p", "p", nil, claim.Plain(document.P(document.PExact, r.P, c.Claim.Level))),
		claim.Fact("critical", "critical", document.Values{"level": v["level"]}, claim.Plain(v["critical"])),
		claim.Fact("corrected", "p_corrected", nil, claim.Plain(document.P(document.PExact, r.CorrectedP, c.Claim.Level))),
	}
	if r.CommonOddsRatio != nil {
		facts = append(facts, c.odds(r))
	}
	decided, _ := claim.ChiSquareVerdict(r.Statistic, critical, r.P, c.Claim.Level, infer.Advice{}, nil)
	if r.Interval != nil {
		said := say.FactFromTo(document.Of(document.Statistic, r.Interval.Lower), document.Of(document.Statistic, r.Interval.Upper))
		decided.Ways = append(
			decided.Ways,
			claim.By("odds_interval", document.Value{Kind: document.Said, Message: &said}, document.N(1), !r.Interval.Contains(1)),
		)
		v["odds"], v["lower"], v["upper"], v["confidence"] = document.Of(
			document.Statistic,
			*r.CommonOddsRatio,
		), document.Of(
			document.Statistic,
			r.Interval.Lower,
		), document.Of(
			document.Statistic,
			r.Interval.Upper,
		), document.Of(
			document.Level,
			r.Confidence,
		)
	}
	journal := "finding.mantel_haenszel.journal_alone"
	if r.Interval != nil {
		journal = "finding.mantel_haenszel.journal"
	}
	working := []document.Message{
		document.Say("working.mantel_haenszel.statistic", v),
		document.Say("working.mantel_haenszel."+claim.Outcome(rejected), v),
	}
	if h := r.Homogeneity; h != nil {
		v["tarone"], v["df"], v["tarone_p"] = document.Of(
			document.Statistic,
			h.Tarone,
		), document.N(
			int64(h.DF),
		), document.P(
			document.PEqual,
			h.TaroneP,
			c.Claim.Level,
		)
		facts = append(
			facts,
			claim.Fact("breslow_day", "homogeneity", nil, say.FactSymmetryOf(v["tarone"], v["df"], v["tarone_p"])),
		)
		working = append(working, document.Say("working.mantel_haenszel.homogeneity", v))
		if h.TaroneP.AtMost(c.Claim.Level) {
			// What cancels over the layers must not read as nothing.
			finding = append(finding, document.Say("finding.mantel_haenszel.differ_"+claim.Outcome(rejected), v))
			notes.Caution(document.Facts, "mantel_haenszel.differ", v)
		} else {
			notes.Add(document.Facts, "mantel_haenszel.not_differ", v)
		}
	}
	for _, k := range r.Conditions {
		if !k.Met {
			finding = append(finding, document.Say("finding.doubt.mantel_haenszel", v))
			notes.Caution(
				document.Conditions,
				"mantel_haenszel.room",
				document.Values{"found": document.Of(document.Amount, k.Found)},
			)
		}
	}
	if rejected {
		notes.Add(document.Decision, "mantel_haenszel.size", nil)
	} else {
		notes.Add(document.Decision, "mantel_haenszel.not_proving", v)
	}
	decided.Differ(notes, "mantel_haenszel")
	d.Blocks = append(
		d.Blocks,
		c.Claim.Hypotheses("mantel_haenszel", v),
		document.Block{Kind: document.Sentence, Said: finding},
		document.Block{
			Kind:  document.Facts,
			Facts: facts,
		},
		decided.BlockAt(r.Confidence),
		document.Block{Kind: document.Working, Said: working},
	)
	d.Outcome = decided.Outcome("null")
	return append(slices.Clone(finding), document.Say(journal, v))
}

// odds is the common odds ratio, with what it compares.
func (c Claim) odds(r *infer.MantelHaenszel) document.Fact {
	out := claim.EffectFact("common_odds", infer.Effect{Value: r.CommonOddsRatio, Interval: r.Interval}, r.Confidence)
	out.Name.Values = document.Values{
		"answer": document.Text(c.ColumnLabels[0]),
		"group":  document.Text(c.RowLabels[0]),
		"other":  document.Text(c.RowLabels[1]),
	}
	return out
}

// Document shows a table for each layer and one for all together; r is what two groups with
// two answers give, nil elsewhere.
func (c Claim) Document(r *infer.MantelHaenszel) document.Document {
	all := crosstab.AddUp(c.Counts, len(c.ColumnLabels))
	v := c.Values()
	v["n"], v["left"], v["layers"] = document.N(all.N), document.N(c.Everyone-all.N), c.Layers.Called()
	v["everyone"] = document.N(c.Everyone)
	basis := "basis.layers"
	if c.Everyone == all.N {
		basis = "basis.layers_all"
	}
	d := document.Document{Blocks: []document.Block{{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}}}}
	var notes claim.NotesOf
	var readings []document.Message
	if c.Claim != nil && r != nil {
		readings = c.test(r, &d, &notes)
	}
	d.Blocks = append(
		d.Blocks,
		document.Block{Kind: document.Choices, Choices: c.Readings()},
		document.Block{Kind: document.Choices, Choices: c.Swap()},
	)
	said := c.saidOfEach()
	table := func(heading document.Message, within crosstab.Crossing) {
		t := crosstab.AddUp(within.Counts, len(within.ColumnLabels))
		heading.Values["n"], heading.Values["units"] = document.N(t.N), c.Units
		reading := within.Sentence(t, said)
		readings = append(readings, heading, reading)
		d.Blocks = append(
			d.Blocks,
			document.Block{Kind: document.Heading, Said: []document.Message{heading}},
			document.Block{Kind: document.Sentence, Said: []document.Message{reading}},
			document.Block{Kind: document.Figures, Table: within.Table(t, nil, claim.Verdict{})},
		)
	}
	for k, label := range c.LayerLabels {
		within := c.Crossing
		within.Counts = c.Tables[k]
		table(document.Say("read.layer", document.Values{"layer": document.Text(label)}), within)
	}
	table(document.Say("read.layers_together", document.Values{}), c.Crossing)
	if r != nil && r.CommonOddsRatio != nil && c.Claim == nil {
		d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: []document.Fact{c.odds(r)}})
		notes.Add(document.Facts, "mantel_haenszel.common_odds", nil)
	}
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: readings})
	if c.Everyone > all.N {
		notes.Add(document.Basis, "mantel_haenszel.left_out", v)
	}
	notes.Add(document.Figures, "mantel_haenszel.pooled", v)
	if i := slices.IndexFunc(c.Tables, func(t [][]int64) bool {
		n := crosstab.AddUp(t, len(c.ColumnLabels)).N
		return n > 0 && n < claim.FewInGroup
	}); i >= 0 {
		notes.Caution(
			document.Figures,
			"mantel_haenszel.few",
			document.Values{"layer": document.Text(c.LayerLabels[i]), "few": document.N(claim.FewInGroup), "units": c.Units},
		)
	}
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// saidOfEach is what the sentence of every layer speaks of: the answer and the groups that lie
// furthest apart in one of them. The same of each, so that a reversal can be read off.
func (c Claim) saidOfEach() (most *crosstab.Extremes) {
	for _, counts := range c.Tables {
		if e := c.Extremes(crosstab.AddUp(counts, len(c.ColumnLabels))); e != nil && (most == nil || e.Apart > most.Apart) {
			most = e
		}
	}
	return most
}
