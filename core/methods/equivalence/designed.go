package equivalence

import (
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Departure is how far an estimate lies from where it should, with the two one-sided t tests by the design.
type Departure struct {
	N             int64
	Share         float64 // of one share
	Estimate, SE  float64
	DF            int
	Below, Above  infer.TTest // that it lies above −margin, and below +margin
	P             prob.Prob
	Interval      infer.Interval // at 1 − 2α
	First, Second float64        // the two shares
	N2            int64
}

// depart tests whether an estimate lies within ± margin (Schuirmann 1987) on the degrees of freedom of
// the design; nil without variance.
func depart(estimate, se, margin, level float64, df int) *Departure {
	d := &Departure{Estimate: estimate, SE: se, DF: df}
	d.Below = infer.ComputeTTest(estimate+margin, se, float64(df))
	d.Above = infer.ComputeTTest(estimate-margin, se, float64(df))
	if d.Below.T == nil {
		return nil
	}
	if d.P = *d.Below.Greater; d.P.Less(*d.Above.Less) {
		d.P = *d.Above.Less
	}
	d.Interval = *infer.TInterval(estimate, se, float64(df), 1-2*level)
	return d
}

var noVariance = &analysis.Outcome{Refusal: analysis.RefuseInput("equivalence", infer.NoDesignVariance, -1)}

// RunDesigned implements analysis.Designed.
func (s *ShareSettings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	answers := c.Questions[0].Proper()
	shares := c.Cells.Merged(2, func(cell int) int {
		if slices.Contains(s.Success, answers[cell].Code) {
			return 1
		}
		return 0
	}).Shares()
	x, _ := s.expected()
	expected, _ := x.Float64()
	d := depart(shares.Share[1]-expected, shares.SE(1), s.margin(), float64(s.Level), shares.DF)
	if d == nil {
		return noVariance, nil
	}
	d.N, d.Share = shares.N, shares.Share[1]
	return &analysis.Outcome{Result: d}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *ShareSettings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claimed(o.Counted.Questions[0], about).estimated(o.Result.(*Departure), s.margin(), o.Counted.Sampled)
}

// RunDesigned implements analysis.Designed.
func (s *TwoSharesSettings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	answers, groups := c.Questions[0].Proper(), c.Questions[1].Proper()
	part := func(code string) func(cell int) (counts, in bool) {
		return func(cell int) (counts, in bool) {
			return slices.Contains(s.Success, answers[cell/len(groups)].Code), groups[cell%len(groups)].Code == code
		}
	}
	two, err := c.Cells.Compare(part(s.Groups.First), part(s.Groups.Second))
	if err != nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("equivalence", infer.NoObservations, -1)}, nil
	}
	d := depart(two.Difference.Value, two.Difference.SE(), s.margin(), float64(s.Level), two.DF)
	if d == nil {
		return noVariance, nil
	}
	d.N, d.N2, d.First, d.Second = two.A.N, two.B.N, two.A.Mean, two.B.Mean
	return &analysis.Outcome{Result: d}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *TwoSharesSettings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return s.claimed(o.Counted.Questions, about).estimated(o.Result.(*Departure), s.margin(), o.Counted.Sampled)
}

// Departures are those of all answers of a distribution; the one that is hardest to show decides.
type Departures struct {
	Of       []*Departure // nil for an answer without variance
	Count    []int64
	Expected []float64
	Furthest int
	P        prob.Prob
}

// RunDesigned implements analysis.Designed: every answer at the whole level (Berger 1982).
func (s *DistributionSettings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	scaled := s.Shares.Scaled(c.Questions[0])
	expected, err := scaled.Read("equivalence", len(c.Cells.Count))
	if err != nil {
		return &analysis.Outcome{Refusal: err}, nil
	}
	shares, out := c.Cells.Shares(), &Departures{Count: c.Cells.Count, P: prob.FromRatio(0, 1)}
	for j, x := range expected {
		e, _ := x.Float64()
		d := depart(shares.Share[j]-e, shares.SE(j), s.margin(), float64(s.Level), shares.DF)
		if d == nil {
			return noVariance, nil
		}
		d.N, d.Share = shares.N, shares.Share[j]
		out.Of, out.Expected = append(out.Of, d), append(out.Expected, e)
		if j == 0 || out.P.Less(d.P) {
			out.P, out.Furthest = d.P, j
		}
	}
	return &analysis.Outcome{Result: out}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *DistributionSettings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claimed(o.Counted.Questions[0], about).estimatedAll(o.Result.(*Departures), s.margin(), o.Counted.Sampled)
}

func fromTo(i infer.Interval) document.Value {
	said := say.FactFromTo(document.Of(document.Difference, 100*i.Lower), document.Of(document.Difference, 100*i.Upper))
	return document.Value{Kind: document.Said, Message: &said}
}

// estimated says what the tests of one share, or of two, mean.
func (c Claim) estimated(e *Departure, margin float64, by claim.Sampled) document.Document {
	v := c.Clauses(c.kind(), c.values())
	near := document.Say("fact.margin", v)
	decided := claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP("near_p", e.P, c.Level),
		claim.By("near_interval", fromTo(e.Interval), document.Value{Kind: document.Said, Message: &near},
			e.Interval.Lower > -margin && e.Interval.Upper < margin),
	}}
	v["p"], v["confidence"] = document.P(document.PEqual, e.P, c.Level), document.Of(document.Level, 1-2*c.Level)
	v["away"], v["points"] = document.Of(document.Difference, 100*e.Estimate), document.Of(document.Points, 100*math.Abs(e.Estimate))
	v["lower"], v["upper"] = document.Of(document.Difference, 100*e.Interval.Lower), document.Of(document.Difference, 100*e.Interval.Upper)
	v["share"], v["share1"], v["share2"] = document.Of(document.Percent, 100*e.Share),
		document.Of(document.Percent, 100*e.First), document.Of(document.Percent, 100*e.Second)
	v["n"], v["df"] = document.N(by.Base.N), document.N(int64(e.DF))
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say("read.near_estimated."+map[bool]string{true: "share", false: "two_shares"}[c.Expected != nil], v)
	facts := []document.Fact{
		claim.Fact("difference", "points_apart", nil, say.FactPointsInterval(v["away"], v["confidence"], v["lower"], v["upper"])),
		claim.Fact("se", "standard_error", nil, claim.Plain(document.Of(document.Points, 100*e.SE))),
		claim.Fact("df", "df", nil, claim.Plain(v["df"])),
		claim.Fact("p", "p_near", nil, claim.Plain(decided.Ways[0].Found)),
	}
	working := []document.Message{by.Variance(),
		say.WorkingDesignedNotBelow(-margin, *e.Below.T, document.P(document.PEqual, *e.Below.Greater, c.Level)),
		say.WorkingDesignedNotAbove(margin, *e.Above.T, document.P(document.PEqual, *e.Above.Less, c.Level)),
		document.Say("working.equivalence.larger", v),
		document.Say("working.equivalence."+claim.Outcome(decided.Rejected()), v),
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, nil)
	c.common(&notes, decided.Rejected(), math.Abs(e.Estimate) < margin, v)
	return document.Document{Notes: notes, Outcome: decided.Outcome("null"), Blocks: []document.Block{
		by.Basis(c.About),
		c.Hypotheses(c.kind(), v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Chart, Chart: c.whiskers(&infer.Equivalence{Margin: margin, Estimate: e.Estimate, Interval: e.Interval}, v)},
		decided.BlockAt(1 - 2*c.Level),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: []document.Message{finding, reading, document.Say("finding.designed.near", v)}},
	}}
}

// estimatedAll says what the tests of all answers mean.
func (c Claim) estimatedAll(e *Departures, margin float64, by claim.Sampled) document.Document {
	v := c.Clauses(c.kind(), c.values())
	decided := claim.Verdict{Level: c.Level, Ways: []claim.Way{claim.ByP("near_p", e.P, c.Level)}}
	far := e.Of[e.Furthest]
	v["p"], v["n"], v["answers"] = document.P(document.PEqual, e.P, c.Level), document.N(by.Base.N), document.N(int64(len(e.Of)))
	v["answer"], v["points"] = document.Text(c.Labels[e.Furthest]), document.Of(document.Points, 100*math.Abs(far.Estimate))
	v["confidence"] = document.Of(document.Level, 1-2*c.Level)
	finding := c.Finding(decided.Rejected(), v)
	reading := document.Say("read.near_estimated.distribution", v)
	head := func(id string) document.Message { return document.Say("column."+id, v) }
	t := &document.Table{
		Caption: document.Say("caption.equivalence", v), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), head("share"), head("points_from"), head("departure_interval"), head("within_margin"),
		},
	}
	inside := true
	working := []document.Message{by.Variance()}
	for j, d := range e.Of {
		inside = inside && math.Abs(d.Estimate) < margin
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(c.Labels[j])), Cells: []document.Cell{
			document.One(document.N(e.Count[j])), document.One(document.Of(document.Percent, 100*d.Share)),
			document.One(document.Of(document.Share, e.Expected[j])),
			document.One(document.Of(document.Difference, 100*d.Estimate)),
			document.One(fromTo(d.Interval)), document.One(document.Term("mark.within." + claim.Outcome(d.P.AtMost(c.Level)))),
		}})
		working = append(working, say.WorkingEquivalenceAnswer(c.Labels[j], 100*d.Estimate, document.P(document.PEqual, d.P, c.Level)))
	}
	working = append(working,
		document.Say("working.equivalence.largest", v),
		document.Say("working.equivalence."+claim.Outcome(decided.Rejected()), v),
	)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, nil)
	notes.Add(document.Conditions, "equivalence.no_adjustment", v)
	c.common(&notes, decided.Rejected(), inside, v)
	return document.Document{Notes: notes, Outcome: decided.Outcome("null"), Blocks: []document.Block{
		by.Basis(c.About),
		c.Hypotheses(c.kind(), v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Facts, Facts: []document.Fact{claim.Fact("p", "p_near", nil, claim.Plain(decided.Ways[0].Found))}},
		decided.BlockAt(1 - 2*c.Level),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: []document.Message{finding, reading}},
	}}
}
