package twoproportions

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
)

// Estimate is the shares of two groups of a population and their difference.
type Estimate struct {
	*design.Two
	cells *design.Cells
	// Gave are the respondents of each group who gave the answers that count.
	Gave     [2]int64
	Test     infer.TTest
	Interval infer.Interval // of the difference
	// Shares are the intervals of each by itself.
	Shares [2]infer.ShareUncertainty
	// Risk and Odds are the relative risk and the odds ratio with their intervals; nil where they do
	// not exist.
	Risk, Odds *infer.Interval
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	answers, groups := c.Questions[0].Proper(), c.Questions[1].Proper()
	e := &Estimate{}
	part := func(i int, code string) func(cell int) (counts, in bool) {
		for k, n := range c.Cells.Count {
			if groups[k%len(groups)].Code == code && slices.Contains(s.Success, answers[k/len(groups)].Code) {
				e.Gave[i] += n
			}
		}
		return func(cell int) (counts, in bool) {
			return slices.Contains(s.Success, answers[cell/len(groups)].Code), groups[cell%len(groups)].Code == code
		}
	}
	two, err := c.Cells.Compare(part(0, s.Groups.First), part(1, s.Groups.Second))
	if err != nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("two shares", infer.NoObservations, -1)}, nil
	}
	e.Two, e.cells = two, c.Cells
	df, confidence := float64(two.DF), 1-float64(s.Level)
	e.Test = infer.ComputeTTest(two.Difference.Value, two.Difference.SE(), df)
	if e.Test.T == nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("two shares", infer.NoDesignVariance, -1)}, nil
	}
	e.Interval = *infer.TInterval(two.Difference.Value, two.Difference.SE(), df, confidence)
	for i, d := range []design.Domain{two.A, two.B} {
		one := infer.DesignedShare{Share: d.Mean, Variance: d.Variance, N: d.N, KishN: d.KishN, DF: two.DF}
		e.Shares[i] = one.Uncertainty(confidence)
	}
	ratio := func(of *design.Estimate) *infer.Interval {
		if of == nil {
			return nil
		}
		i := infer.TInterval(of.Value, of.SE(), df, confidence)
		return &infer.Interval{Lower: math.Exp(i.Lower), Upper: math.Exp(i.Upper)}
	}
	e.Risk, e.Odds = ratio(two.LogRisk), ratio(two.LogOdds)
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return s.claim(o.Counted.Questions, about).estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated says what the estimate means: it goes by the t test of the difference.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	p := claim.TailOf(
		infer.Tails{Less: *e.Test.Less, Greater: *e.Test.Greater, TwoSided: *e.Test.TwoSided},
		c.Direction,
	)
	critical := c.Critical(func(a float64) float64 { return prob.StudentUpperQuantile(a, float64(e.DF)) })
	t := document.Of(document.Statistic, *e.Test.T)
	decided := claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP("designed_t_p", p, c.Level),
		claim.By("designed_t", t, c.AgainstCritical(critical), c.Beyond(*e.Test.T, critical)),
	}}
	v := c.Clauses(texts, c.values())
	percent := func(x float64) document.Value { return document.Of(document.Percent, 100*x) }
	v["share"], v["share2"] = percent(e.A.Mean), percent(e.B.Mean)
	v["points"] = document.Of(document.Points, 100*math.Abs(e.Difference.Value))
	v["difference"], v["confidence"] = document.Of(
		document.Difference,
		100*e.Difference.Value,
	), document.Of(
		document.Level,
		1-c.Level,
	)
	v["lower"], v["upper"] = document.Of(
		document.Difference,
		100*e.Interval.Lower,
	), document.Of(
		document.Difference,
		100*e.Interval.Upper,
	)
	v["t"], v["df"], v["p"] = t, document.N(int64(e.DF)), document.P(document.PEqual, p, c.Level)
	v["n"], v["n2"] = document.N(e.A.N), document.N(e.B.N)
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say(
		"read.two_estimated."+[]string{"same", "higher", "lower"}[claim.Sign(e.Difference.Value)],
		v,
	)
	facts := []document.Fact{
		claim.Fact(
			"points",
			"points_apart",
			nil,
			say.FactPointsInterval(v["difference"], v["confidence"], v["lower"], v["upper"]),
		),
		claim.Fact("se", "standard_error", nil, claim.Plain(document.Of(document.Points, 100*e.Difference.SE()))),
		claim.Fact("statistic", "t", nil, claim.Plain(t)),
		claim.Fact("df", "df", nil, claim.Plain(v["df"])),
		claim.Fact(
			"p",
			"p_direction",
			document.Values{"direction": document.Term("direction." + string(c.Direction))},
			claim.Plain(decided.Ways[0].Found),
		),
	}
	for _, r := range []struct {
		name string
		of   *design.Estimate
		in   *infer.Interval
	}{{"ratio", e.LogRisk, e.Risk}, {"odds", e.LogOdds, e.Odds}} {
		if r.of != nil {
			facts = append(
				facts,
				claim.Fact(
					r.name,
					r.name,
					nil,
					say.FactWithInterval(math.Exp(r.of.Value), 1-c.Level, r.in.Lower, r.in.Upper),
				),
			)
		}
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, nil)
	if others := by.Base.N - e.A.N - e.B.N; others > 0 {
		v["n"] = document.N(others)
		notes.Add(document.Figures, "two_proportions.others", v)
		v["n"] = document.N(e.A.N)
	}
	d := document.Document{
		Blocks: []document.Block{
			by.Basis(c.About),
			c.Hypotheses(texts, v),
			{Kind: document.Sentence, Said: []document.Message{finding}},
			{Kind: document.Sentence, Said: []document.Message{reading}},
			{Kind: document.Figures, Table: c.estimates(e, v)},
			{Kind: document.Facts, Facts: facts},
			decided.Block(),
			{Kind: document.Working, Said: append([]document.Message{
				by.Variance(),
				say.WorkingDesignedDifference(e.A.Mean, e.B.Mean, e.Difference.SE(), *e.Test.T, int64(e.DF), v["p"]),
			}, by.ByStratum(e.cells, say.WorkingDesignedOfDifference(), e.Slope)...)},
			{
				Kind: document.WriteUp,
				Said: []document.Message{finding, reading, document.Say("finding.designed.difference", v)},
			},
		},
		Notes: notes, Outcome: decided.Outcome("null"),
	}
	if w := c.intervals(e, v); w != nil {
		at := slices.IndexFunc(d.Blocks, func(b document.Block) bool { return b.Kind == document.Facts }) + 1
		d.Blocks = slices.Insert(d.Blocks, at, document.Block{Kind: document.Chart, Chart: w})
	}
	return d
}

// intervals are those of both shares, one under the other.
func (c Claim) intervals(e *Estimate, v document.Values) *document.Picture {
	w := &document.Whiskers{}
	for i, d := range []design.Domain{e.A, e.B} {
		if e.Shares[i].Beta == nil { // of one respondent there is none
			return nil
		}
		name := claim.Plain(document.Text([]string{c.First, c.Second}[i]))
		w.Rows = append(w.Rows, claim.WhiskerOf(name, d.Mean, e.Shares[i].Beta))
	}
	return &document.Picture{
		Kind: document.WhiskersPicture, Whiskers: claim.Fitted(w),
		Alt: document.Say("chart.whiskers.alt_two", v), Axis: document.Say("chart.whiskers.axis_estimated", v),
	}
}

func (c Claim) estimates(e *Estimate, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionTwoEstimated(), Stub: claim.GroupsHead(c.Groups), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("respondents"),
			head("gave"),
			head("estimated"),
			document.Say("column.interval", v),
			head("standard_error"),
		},
	}
	for i, d := range []design.Domain{e.A, e.B} {
		t.Rows = append(
			t.Rows,
			document.Row{Name: claim.Plain(document.Text([]string{c.First, c.Second}[i])), Cells: []document.Cell{
				document.One(
					document.N(d.N),
				), document.One(document.N(e.Gave[i])), document.One(document.Of(document.Percent, 100*d.Mean)),
				document.One(
					claim.RangeOf(e.Shares[i].Beta),
				), document.One(document.Of(document.Points, 100*e.Shares[i].StandardError)),
			}},
		)
	}
	return t
}
