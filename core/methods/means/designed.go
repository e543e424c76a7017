package means

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the means of two groups of a population and their difference.
type Estimate struct {
	*design.Two
	Test     infer.TTest
	Interval infer.Interval // of the difference
	Means    [2]infer.Interval
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	refused := func(why infer.Reason) (*analysis.Outcome, error) {
		return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, why, -1)}, nil
	}
	two, err := c.Drawing.Sample.Two(c.Drawing.Part(0), c.Drawing.Part(1))
	if err != nil {
		return refused(infer.NoObservations)
	}
	df, confidence := float64(two.DF), 1-float64(s.Level)
	e := &Estimate{Two: two, Test: infer.ComputeTTest(two.Difference.Value, two.Difference.SE(), df)}
	if e.Test.T == nil {
		return refused(infer.NoDesignVariance)
	}
	e.Interval = *infer.TInterval(two.Difference.Value, two.Difference.SE(), df, confidence)
	for i, d := range []design.Domain{two.A, two.B} {
		e.Means[i] = *infer.TInterval(d.Mean, d.SE(), df, confidence)
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	if o.Counted.Frequency != nil {
		about.Everyone = o.Counted.Frequency.Everyone
	}
	c := s.claim(o.Counted.Questions, about)
	return c.estimated(o.Result.(*Estimate), about, o.Counted.Sampled)
}

// estimated says what the estimate means: it goes by t on the degrees of freedom of the design.
func (c Claim) estimated(e *Estimate, about claim.About, by claim.Sampled) document.Document {
	d := e.Difference
	m := claim.MeanByDesign{
		Stated:   c.Stated,
		Estimate: d.Value,
		SE:       d.SE(),
		DF:       e.DF,
		Test:     e.Test,
		Interval: e.Interval,
	}
	decided := m.Verdict()
	v := m.Values(c.Clauses(texts, c.values()))
	v["mean"], v["mean2"], v["about"], v["about2"] = claim.Rounded(
		e.A.Mean,
	), claim.Rounded(
		e.B.Mean,
	), claim.Rounded(
		e.A.Mean,
	), claim.Rounded(
		e.B.Mean,
	)
	v["n"], v["n2"] = document.N(e.A.N), document.N(e.B.N)
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say("read.means_estimated."+[]string{"same", "higher", "lower"}[claim.Sign(d.Value)], v)
	var notes claim.NotesOf
	by.Notes(&notes, about, nil)
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	table := &document.Table{
		Caption: document.Say(
			"caption.numeric_by_group",
			v,
		), Stub: claim.GroupsHead(c.Groups), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("respondents"),
			head("estimated_mean"),
			document.Say("column.interval_plain", v),
			head("standard_error_plain"),
		},
	}
	for i, of := range []design.Domain{e.A, e.B} {
		between := say.FactFromTo(claim.Rounded(e.Means[i].Lower), claim.Rounded(e.Means[i].Upper))
		table.Rows = append(
			table.Rows,
			document.Row{Name: claim.Plain(document.Text([]string{c.First, c.Second}[i])), Cells: []document.Cell{
				document.One(document.N(of.N)), document.One(claim.Rounded(of.Mean)),
				document.One(
					document.Value{Kind: document.Said, Message: &between},
				), document.One(claim.Rounded(of.SE())),
			}},
		)
	}
	return document.Document{
		Blocks: []document.Block{
			by.Basis(about),
			c.Hypotheses(texts, v),
			{Kind: document.Sentence, Said: []document.Message{finding}},
			{Kind: document.Sentence, Said: []document.Message{reading}},
			{Kind: document.Figures, Table: table},
			{Kind: document.Facts, Facts: m.Facts("difference_interval", v)},
			decided.Block(),
			{Kind: document.Working, Said: []document.Message{
				by.Variance(),
				say.WorkingDesignedDifference(e.A.Mean, e.B.Mean, d.SE(), *e.Test.T, int64(e.DF), v["p"]),
			}},
			{
				Kind: document.WriteUp,
				Said: []document.Message{finding, reading, document.Say("finding.designed.means", v)},
			},
		},
		Notes: notes, Outcome: decided.Outcome("null"),
	}
}
