package homogeneity

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
	"widetally/core/survey"
)

// Estimate is the shares of two populations, the first by the design of this sample, the second by the
// counts of another one with a design effect, and how far they lie apart.
type Estimate struct {
	Shares *design.Shares
	There  []float64
	M      int64 // respondents of the other sample
	Effect float64
	SE     []float64
	HolmP  []*prob.Prob
	Test   *infer.RaoScott
}

// CheckDesign implements analysis.DesignChecked: estimates need the design effect of the other sample, and
// respondents that are counted have none.
func (s *Settings) CheckDesign(inForce bool, _ []survey.Question) []analysis.Problem {
	x, _ := s.effect()
	switch {
	case inForce && x == 0:
		return []analysis.Problem{{Code: "homogeneity.effect_needed", Pointer: "/settings/effect"}}
	case !inForce && x != 0 && x != 1:
		return []analysis.Problem{{Code: "homogeneity.effect_alone", Pointer: "/settings/effect"}}
	}
	return nil
}

// RunDesigned implements analysis.Designed: the samples are taken to be independent, and the degrees of
// freedom to be those of this one, for those of the other are not known.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	effect, _ := s.effect()
	refused := func(why infer.Reason) (*analysis.Outcome, error) {
		return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, why, -1)}, nil
	}
	published, _ := s.published(c.Questions[0])
	e := &Estimate{Shares: c.Cells.Shares(), M: analysis.Total(published), Effect: effect}
	if e.M < 2 {
		return refused(infer.NoObservations)
	}
	m, n := float64(e.M), float64(e.Shares.N)
	var used []int
	for j, x := range published {
		if e.There = append(e.There, float64(x)/m); x > 0 || e.Shares.Count[j] > 0 {
			used = append(used, j)
		}
	}
	if len(used) < 2 {
		return refused(infer.OneRowOrColumn)
	}
	delta := func(i, j int) float64 {
		if i == j {
			return 1
		}
		return 0
	}
	v := func(i, j int) float64 {
		there := effect * e.There[i] * (delta(i, j) - e.There[j]) / (m - 1)
		return e.Shares.Covariance[i][j] + there
	}
	pooled := func(j int) float64 { return (n*e.Shares.Share[j] + m*e.There[j]) / (n + m) }
	var d []float64
	var full, simple [][]float64
	for _, i := range used[:len(used)-1] {
		d = append(d, e.Shares.Share[i]-e.There[i])
		var row, alone []float64
		for _, j := range used[:len(used)-1] {
			row = append(row, v(i, j))
			alone = append(alone, pooled(i)*(delta(i, j)-pooled(j))*(1/n+1/m))
		}
		full, simple = append(full, row), append(simple, alone)
	}
	e.Test = infer.ComputeCorrected(d, full, simple, e.Shares.DF, float64(s.Level))
	if e.Test == nil || e.Test.SecondFP == nil {
		return refused(infer.NoDesignVariance)
	}
	e.HolmP = make([]*prob.Prob, len(published))
	var at []int
	var tails []prob.Prob
	for j := range published {
		e.SE = append(e.SE, math.Sqrt(v(j, j)))
		if t := infer.ComputeTTest(e.Shares.Share[j]-e.There[j], e.SE[j], float64(e.Shares.DF)); t.TwoSided != nil {
			at, tails = append(at, j), append(tails, *t.TwoSided)
		}
	}
	for i, p := range infer.Holm(tails) {
		e.HolmP[at[i]] = &p
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	published, _ := s.published(o.Counted.Questions[0])
	return s.claim(o.Counted.Questions[0], about).estimated(o.Result.(*Estimate), published, o.Counted.Sampled)
}

func (c Claim) estimated(e *Estimate, published []int64, by claim.Sampled) document.Document {
	decided := claim.RaoScottVerdict(e.Test, c.Level)
	v := c.Clauses(texts, c.values())
	v["n"], v["m"], v["effect"] = document.N(e.Shares.N), document.N(e.M), document.Of(document.Effect, e.Effect)
	head := func(id string) document.Message { return document.Say("column."+id, v) }
	table := &document.Table{
		Caption: document.Say("caption.homogeneity", v), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), head("there"), head("there_percent"), head("points_from"), head("standard_error"),
		},
	}
	furthest, away := 0, 0.0
	for j, label := range c.Labels {
		points := 100 * (e.Shares.Share[j] - e.There[j])
		if math.Abs(points) > math.Abs(away) {
			furthest, away = j, points
		}
		departure := document.One(document.Of(document.Difference, points))
		if p := e.HolmP[j]; p != nil && e.Test.DF > 1 {
			departure.Mark = claim.MarkOfEstimate(p.AtMost(c.Level), points)
		}
		table.Rows = append(table.Rows, document.Row{Name: claim.Plain(document.Text(label)), Cells: []document.Cell{
			document.One(document.N(e.Shares.Count[j])), document.One(document.Of(document.Percent, 100*e.Shares.Share[j])),
			document.One(document.N(published[j])), document.One(document.Of(document.Percent, 100*e.There[j])),
			departure, document.One(document.Of(document.Points, 100*e.SE[j])),
		}})
	}
	v["answer"], v["points"] = document.Text(c.Labels[furthest]), document.Of(document.Points, math.Abs(away))
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say("read.homogeneity_estimated."+[]string{"same", "more", "fewer"}[claim.Sign(away)], v)
	apart := say.FindingDesignedApart(c.Labels[furthest], away)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, &e.Test.MeanDesignEffect)
	notes.Add(document.Conditions, "homogeneity.designed", v)
	return document.Document{Notes: notes, Outcome: decided.Outcome("null"), Blocks: []document.Block{
		by.Basis(c.About),
		c.Hypotheses(texts, v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: table},
		{Kind: document.Facts, Facts: claim.RaoScottFacts(e.Test, c.Level)},
		decided.Block(),
		{Kind: document.Working, Said: claim.RaoScottWorking(e.Test, by, c.Level)},
		{Kind: document.WriteUp, Said: []document.Message{
			finding, reading, claim.RaoScottJournal(e.Test, e.Shares.N, c.Level, apart),
		}},
	}}
}
