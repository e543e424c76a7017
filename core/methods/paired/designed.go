package paired

import (
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
	"widetally/core/survey"
)

// Estimate is the shares of a population in both questions, and how they moved.
type Estimate struct {
	// N is how many answered both by an answer of both.
	N int64
	// First and Second are the shares of each answer, Moved the second less the first, with their
	// variances.
	First, Second, Moved []float64
	SE                   []float64
	HolmP                []*prob.Prob
	// Share is what went from each answer to each, of everybody; Count their respondents.
	Share [][]float64
	Count [][]int64
	// Two is the t test of two answers; Test that of more, Bhapkar’s statistic (1966, JASA 61) corrected
	// for the design. Interval is that of the first answer’s move.
	Two      *infer.TTest
	Test     *infer.RaoScott
	Interval *infer.Interval
	cells    *design.Cells
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	pairs, across := s.pairs(c), len(c.Questions[1].Proper())
	k := len(pairs.Answers)
	place := func(question int) (at []int) {
		for _, a := range c.Questions[question].Proper() {
			at = append(at, slices.IndexFunc(pairs.Answers, func(one survey.Answer) bool { return one.Code == a.Code }))
		}
		return at
	}
	first, second := place(0), place(1)
	of := func(cell int) (from, to int) { return first[cell/across], second[cell%across] }
	e := &Estimate{cells: c.Cells, Count: make([][]int64, k), Share: make([][]float64, k)}
	for i := range k {
		e.Count[i], e.Share[i] = make([]int64, k), make([]float64, k)
	}
	for cell, n := range c.Cells.Count {
		from, to := of(cell)
		e.N += n
		e.Count[from][to] += n
		e.Share[from][to] += c.Cells.Total[cell] / c.Cells.Sum
	}
	all := func(int, int) float64 { return 1 }
	moved := c.Cells.Ratios(k, func(i, cell int) float64 {
		from, to := of(cell)
		return design.Indicator(to == i) - design.Indicator(from == i)
	}, all)
	e.Moved = moved.Value
	var tails []prob.Prob
	var at []int
	e.HolmP = make([]*prob.Prob, k)
	for i := range k {
		e.First, e.Second = append(e.First, 0), append(e.Second, 0)
		for j := range k {
			e.First[i] += e.Share[i][j]
			e.Second[i] += e.Share[j][i]
		}
		e.SE = append(e.SE, moved.SE(i))
		if t := infer.ComputeTTest(e.Moved[i], e.SE[i], float64(c.Cells.DF)); t.TwoSided != nil {
			tails, at = append(tails, *t.TwoSided), append(at, i)
		}
	}
	for i, p := range infer.Holm(tails) {
		e.HolmP[at[i]] = &p
	}
	refused := &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, infer.NoDesignVariance, -1)}
	e.Interval = infer.TInterval(e.Moved[0], e.SE[0], float64(c.Cells.DF), 1-float64(s.Level))
	if k == 2 {
		t := infer.ComputeTTest(e.Moved[0], e.SE[0], float64(c.Cells.DF))
		if e.Two = &t; t.T == nil {
			return refused, nil
		}
		return &analysis.Outcome{Result: e}, nil
	}
	e.test(moved.Covariance, c.Cells.DF, float64(s.Level))
	if e.Test == nil || e.Test.SecondFP == nil {
		return refused, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// test tests whether all answers kept their shares. Answers that nobody gave in either question are left
// out, and of the others the last, which follows from them.
func (e *Estimate) test(covariance design.Matrix, df int, level float64) {
	var used []int
	for i := range e.Moved {
		if e.First[i] > 0 || e.Second[i] > 0 {
			used = append(used, i)
		}
	}
	if len(used) < 2 {
		return
	}
	used = used[:len(used)-1]
	var d []float64
	var v, simple [][]float64
	for _, i := range used {
		d = append(d, e.Moved[i])
		var row, alone []float64
		for _, j := range used {
			row = append(row, covariance[i][j])
			both := -e.Share[i][j] - e.Share[j][i]
			if i == j {
				both += e.First[i] + e.Second[i]
			}
			alone = append(alone, (both-e.Moved[i]*e.Moved[j])/float64(e.N))
		}
		v, simple = append(v, row), append(simple, alone)
	}
	e.Test = infer.ComputeCorrected(d, v, simple, df, level)
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	for _, a := range s.pairs(o.Counted).Answers {
		c.Labels = append(c.Labels, a.Label)
	}
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// decidedByDesign are the ways to decide.
func (c Claim) decidedByDesign(e *Estimate, df int) claim.Verdict {
	if e.Two == nil {
		return claim.RaoScottVerdict(e.Test, c.Level)
	}
	stated := claim.Stated{Direction: claim.Different, Level: c.Level}
	critical := stated.Critical(func(a float64) float64 { return prob.StudentUpperQuantile(a, float64(df)) })
	return claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP("designed_t_p", *e.Two.TwoSided, c.Level),
		claim.By("designed_t", document.Of(document.Statistic, *e.Two.T), stated.AgainstCritical(critical),
			stated.Beyond(*e.Two.T, critical)),
	}}
}

// estimated says what the estimate means.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	decided := c.decidedByDesign(e, by.Base.DF)
	v := c.values()
	v["n"], v["confidence"] = document.N(e.N), document.Of(document.Level, 1-c.Level)
	finding := document.Say("finding.paired."+string(c.Role)+"."+claim.Outcome(decided.Rejected()), v)
	most := 0
	for i, d := range e.Moved {
		if math.Abs(d) > math.Abs(e.Moved[most]) {
			most = i
		}
	}
	v["answer"], v["points"] = document.Text(c.Labels[most]), document.Of(document.Points, 100*math.Abs(e.Moved[most]))
	v["share"], v["share2"] = document.Of(document.Percent, 100*e.First[most]), document.Of(document.Percent, 100*e.Second[most])
	reading := document.Say("read.paired_estimated."+[]string{"same", "more", "fewer"}[claim.Sign(e.Moved[most])], v)
	var facts []document.Fact
	var working []document.Message
	var journal document.Message
	var effect *float64
	if e.Two != nil {
		v["difference"], v["lower"], v["upper"] = document.Of(document.Difference, 100*e.Moved[0]),
			document.Of(document.Difference, 100*e.Interval.Lower), document.Of(document.Difference, 100*e.Interval.Upper)
		v["t"], v["df"] = document.Of(document.Statistic, *e.Two.T), document.N(int64(by.Base.DF))
		v["p"] = document.P(document.PEqual, *e.Two.TwoSided, c.Level)
		v["first_answer"] = document.Text(c.Labels[0])
		facts = []document.Fact{
			claim.Fact("points", "points_apart", nil,
				say.FactPointsInterval(v["difference"], v["confidence"], v["lower"], v["upper"])),
			claim.Fact("se", "standard_error", nil, claim.Plain(document.Of(document.Points, 100*e.SE[0]))),
			claim.Fact("statistic", "t", nil, claim.Plain(v["t"])),
			claim.Fact("df", "df", nil, claim.Plain(v["df"])),
			claim.PFact(*e.Two.TwoSided, c.Level),
		}
		working = []document.Message{
			by.Variance(),
			say.WorkingDesignedDifference(e.Second[0], e.First[0], e.SE[0], *e.Two.T, int64(by.Base.DF), v["p"]),
		}
		journal = document.Say("finding.designed.paired", v)
	} else {
		facts = claim.RaoScottFacts(e.Test, c.Level)
		working = claim.RaoScottWorking(e.Test, by, c.Level)
		journal = claim.RaoScottJournal(e.Test, e.N, c.Level, say.FindingDesignedPairedMoved(c.Labels[most], 100*e.Moved[most]))
		effect = &e.Test.MeanDesignEffect
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, effect)
	notes.Add(document.Figures, "paired.same_people", v)
	if decided.Rejected() {
		notes.Add(document.Decision, "paired.not_cause", nil)
	}
	if e.Two == nil {
		notes.Add(document.Decision, "designed.bhapkar", nil)
	}
	return document.Document{
		Blocks: []document.Block{
			by.Basis(c.About),
			claim.Hypotheses("paired", c.Role, v),
			{Kind: document.Sentence, Said: []document.Message{finding}},
			{Kind: document.Sentence, Said: []document.Message{reading}},
			{Kind: document.Figures, Table: c.moved(e)},
			{Kind: document.Figures, Table: c.went(e)},
			{Kind: document.Facts, Facts: facts},
			decided.Block(),
			{Kind: document.Working, Said: working},
			{Kind: document.WriteUp, Said: []document.Message{finding, reading, journal}},
		},
		Notes: notes, Outcome: decided.Outcome("null"),
	}
}

// moved is the shares of each answer, first and second, and the points between them.
func (c Claim) moved(e *Estimate) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, c.values()) }
	t := &document.Table{
		Caption: document.Say("caption.paired_estimated", c.values()), Stub: head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("of_first"), head("of_second"), head("points"), head("standard_error"), head("holm_p")},
	}
	for i, label := range c.Labels {
		p := document.One(document.Text(""))
		if e.HolmP[i] != nil {
			p = document.One(document.P(document.PExact, *e.HolmP[i], c.Level))
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(label)), Cells: []document.Cell{
			document.One(document.Of(document.Percent, 100*e.First[i])),
			document.One(document.Of(document.Percent, 100*e.Second[i])),
			document.One(document.Of(document.Difference, 100*e.Moved[i])),
			document.One(document.Of(document.Points, 100*e.SE[i])),
			p,
		}})
	}
	return t
}

// went is who went from which answer to which, in percent of everybody, with the respondents.
func (c Claim) went(e *Estimate) *document.Table {
	t := &document.Table{
		Caption: document.Say("caption.paired_went", c.values()), Stub: document.Say("column.first_down", c.values()),
		Shown: []document.Role{document.Main, document.Observed}, Whole: document.TotalPercent,
	}
	for _, label := range c.Labels {
		t.Columns = append(t.Columns, claim.Plain(document.Text(label)))
	}
	for i, label := range c.Labels {
		row := document.Row{Name: claim.Plain(document.Text(label))}
		for j := range c.Labels {
			row.Cells = append(row.Cells, document.Cell{Faint: i == j, Figures: []document.Figure{
				{Role: document.Main, Value: document.Of(document.Percent, 100*e.Share[i][j])},
				{Role: document.Observed, Value: document.N(e.Count[i][j])},
			}})
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}
