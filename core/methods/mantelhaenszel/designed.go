package mantelhaenszel

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/say"
	"widetally/core/survey"
)

// Estimate is the tables of a population: one for each layer, and that of all together.
type Estimate struct {
	Layers   []*crosstab.Estimate // nil for a layer that nobody is in
	Together *crosstab.Estimate
	// Joint tests that rows and columns go together in no layer; nil where no layer has a table to test.
	Joint *infer.RaoScott
	// In is how many layers are in it.
	In int
}

// CheckDesign implements analysis.DesignChecked: the test of respondents is one of two by two tables.
func (s *Settings) CheckDesign(inForce bool, q []survey.Question) []analysis.Problem {
	if s.Test != nil && !inForce && (len(q[0].Proper()) != 2 || len(q[1].Proper()) != 2) {
		return []analysis.Problem{{Code: "mantel_haenszel.two", Pointer: "/questions"}}
	}
	return nil
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	first, second, layers := len(c.Questions[0].Proper()), len(c.Questions[1].Proper()), len(c.Questions[2].Proper())
	rows, columns := second, first
	if s.Swapped {
		rows, columns = first, second
	}
	// The cells run over the first question, the second and, fastest, the layers.
	place := func(cell int) int {
		i, j := cell/layers%second, cell/(second*layers)
		if s.Swapped {
			i, j = j, i
		}
		return i*columns + j
	}
	size, level := rows*columns, 1-analysis.UsualConfidence
	if s.Test != nil {
		level = float64(s.Test.Level)
	}
	e := &Estimate{Together: crosstab.NewEstimate(c.Cells.Merged(size, place), columns, level)}
	for k := range layers {
		within := c.Cells.Part(size, func(cell int) (int, bool) { return place(cell), cell%layers == k })
		if within == nil {
			e.Layers = append(e.Layers, nil)
			continue
		}
		e.Layers = append(e.Layers, crosstab.NewEstimate(within, columns, level))
	}
	layered := c.Cells.Merged(size*layers, func(cell int) int { return cell%layers*size + place(cell) }).Layered(rows, columns)
	if len(layered.Free) > 0 {
		e.Joint = infer.ComputeRaoScott(layered.RaoScott(c.Cells.N, c.Cells.DF, level))
		if e.Joint.SecondFP == nil {
			e.Joint = nil
		}
		for i, at := range layered.At {
			if i == 0 || at/size != layered.At[i-1]/size {
				e.In++
			}
		}
	}
	if s.Test != nil && e.Joint == nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("crosstab", infer.OneRowOrColumn, -1)}, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated shows the tables of the population; the joint test goes by the second-order F of Rao and
// Scott.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	d := document.Document{Blocks: []document.Block{by.Basis(c.About)}}
	var notes claim.NotesOf
	var effect *float64
	if e.Joint != nil {
		effect = &e.Joint.MeanDesignEffect
	}
	by.Notes(&notes, c.About, effect)
	var writeUp []document.Message
	level := 1 - analysis.UsualConfidence
	if c.Claim != nil {
		level = c.Claim.Level
		decided := claim.RaoScottVerdict(e.Joint, level)
		v := c.layered()
		v["level"] = document.Of(document.Level, level)
		finding := document.Say("finding.layers_designed."+string(c.Claim.Role)+"."+claim.Outcome(decided.Rejected()), v)
		journal := claim.RaoScottJournal(e.Joint, by.Base.N, level, say.FindingDesignedLayers(int64(e.In)))
		writeUp = []document.Message{finding, journal}
		d.Blocks = append(d.Blocks,
			claim.Hypotheses("layers_designed", c.Claim.Role, v),
			document.Block{Kind: document.Sentence, Said: []document.Message{finding}},
			document.Block{Kind: document.Facts, Facts: claim.RaoScottFacts(e.Joint, level)},
			decided.Block(),
			document.Block{Kind: document.Working, Said: claim.RaoScottWorking(e.Joint, by, level)},
		)
		d.Outcome = decided.Outcome("null")
	}
	d.Blocks = append(d.Blocks,
		document.Block{Kind: document.Choices, Choices: c.Readings()},
		document.Block{Kind: document.Choices, Choices: c.Swap()},
	)
	said := crosstab.Apart{Points: -1} // the same of each
	for _, of := range e.Layers {
		if of != nil {
			if apart := c.Furthest(of); apart.Points > said.Points {
				said = apart
			}
		}
	}
	table := func(heading document.Message, of *crosstab.Estimate) {
		heading.Values["n"], heading.Values["units"] = document.N(of.Cells.N), c.Units
		reading := c.ReadPair(of, said)
		writeUp = append(writeUp, heading, reading)
		d.Blocks = append(d.Blocks,
			document.Block{Kind: document.Heading, Said: []document.Message{heading}},
			document.Block{Kind: document.Sentence, Said: []document.Message{reading}},
			document.Block{Kind: document.Figures, Table: c.Estimates(of, level)},
		)
		if of.Test != nil && c.Claim != nil {
			d.Blocks = append(d.Blocks, document.Block{Kind: document.Facts, Facts: []document.Fact{
				claim.Fact("statistic", "rao_scott", nil, claim.Plain(document.Of(document.Statistic, *of.Test.SecondF))),
				claim.Fact("df", "df", nil, say.FactDfTwo(of.Test.SecondFDF[0], of.Test.SecondFDF[1])),
				claim.PFact(*of.Test.SecondFP, level),
			}})
		}
	}
	for k, of := range e.Layers {
		if of != nil {
			table(document.Say("read.layer", document.Values{"layer": document.Text(c.LayerLabels[k])}), of)
			if of.Cells.N < claim.FewInGroup {
				notes.Caution(document.Figures, "mantel_haenszel.few", document.Values{
					"layer": document.Text(c.LayerLabels[k]), "few": document.N(claim.FewInGroup), "units": c.Units,
				})
			}
		}
	}
	table(document.Say("read.layers_together", document.Values{}), e.Together)
	notes.Add(document.Figures, "mantel_haenszel.pooled", nil)
	if c.Claim != nil {
		notes.Add(document.Figures, "designed.each_layer", nil)
	}
	d.Notes = notes
	d.Blocks = append(d.Blocks, document.Block{Kind: document.WriteUp, Said: writeUp})
	return d
}
