package oneproportion

import (
	"math"
	"strings"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Estimate is a share of a population and its tests against the claimed one.
type Estimate struct {
	infer.DesignedShare
	infer.ShareUncertainty
	Respondents int64 // who gave the answers that count
	Claimed     float64
	Tests       infer.ShareTests
	cells       *design.Cells // those who gave the answers that count stand second
}

// nearEnd is how near 0 or 1 a share or a claim is for the test by the standard error under the claim,
// whose level holds better there.
const nearEnd = 0.1

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	q := c.Questions[0]
	counts := map[int]bool{}
	for i, a := range q.Proper() {
		for _, code := range s.Success {
			counts[i] = counts[i] || a.Code == code
		}
	}
	shares := c.Cells.Merged(2, func(cell int) int {
		if counts[cell] {
			return 1
		}
		return 0
	}).Shares()
	x, _ := s.claimed()
	e := &Estimate{Respondents: shares.Count[1], DesignedShare: shares.One(1), cells: shares.Cells}
	e.Claimed, _ = x.Float64()
	e.ShareUncertainty, e.Tests = e.Uncertainty(1-float64(s.Level)), e.Test(e.Claimed)
	if e.Tests.Score.T == nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("one share", infer.NoDesignVariance, -1)}, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

func tail(t infer.TTest, d claim.Direction) prob.Prob {
	return claim.TailOf(infer.Tails{Less: *t.Less, Greater: *t.Greater, TwoSided: *t.TwoSided}, d)
}

// decidedByDesign says what each way comes to. The linear t test decides but near 0 and 1, where that
// by the standard error under the claim does.
func (c Claim) decidedByDesign(e *Estimate) (d claim.Verdict, t infer.TTest) {
	stated := claim.Stated{Direction: c.Direction, Role: c.Role, Level: c.Level}
	critical := stated.Critical(func(a float64) float64 { return prob.StudentUpperQuantile(a, float64(e.DF)) })
	way := func(id string, t infer.TTest) []claim.Way {
		return []claim.Way{
			claim.ByP(id+"_p", tail(t, c.Direction), c.Level),
			claim.By(
				id,
				document.Of(document.Statistic, *t.T),
				stated.AgainstCritical(critical),
				stated.Beyond(*t.T, critical),
			),
		}
	}
	d, t = claim.Verdict{Level: c.Level}, e.Tests.Linear
	if t.T != nil {
		d.Ways = way("designed_t", t)
	}
	d.Ways = append(d.Ways, way("designed_score", e.Tests.Score)...)
	if near := func(p float64) bool { return math.Min(p, 1-p) < nearEnd }; t.T == nil || near(e.Claimed) ||
		near(e.Share) {
		d.GoBy("designed_score_p")
		t = e.Tests.Score
	}
	return d, t
}

// estimated says what the estimate means.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	decided, t := c.decidedByDesign(e)
	v := c.values()
	finding := document.Say(
		"finding.one_proportion."+string(c.Role)+"."+claim.Outcome(decided.Rejected())+"."+string(c.Direction),
		v,
	)
	share := document.Of(document.Percent, 100*e.Share)
	p := document.P(document.PEqual, tail(t, c.Direction), c.Level)
	confidence := document.Of(document.Level, 1-c.Level)
	sided := "two"
	if c.Direction != claim.Different {
		sided = "one"
	}
	journal := document.Say("finding.designed.share_"+sided, document.Values{
		"share": share, "n": document.N(e.N), "df": document.N(int64(e.DF)),
		"t": document.Of(document.Statistic, *t.T), "p": p,
		"confidence": confidence, "interval": claim.RangeOf(e.Beta),
	})
	direction := document.Values{"direction": document.Term("direction." + string(c.Direction)), "level": v["level"]}
	facts := []document.Fact{
		claim.Fact("share", "share_estimated", nil, say.FactShareEstimatedOf(100*e.Share, e.Respondents, e.N)),
		claim.Fact(
			"interval",
			"interval",
			document.Values{"confidence": confidence},
			claim.Plain(claim.RangeOf(e.Beta)),
		),
		claim.Fact("se", "standard_error", nil, claim.Plain(document.Of(document.Points, 100*e.StandardError))),
		claim.Fact("statistic", "t", nil, claim.Plain(document.Of(document.Statistic, *t.T))),
		claim.Fact("df", "df", nil, claim.Plain(document.N(int64(e.DF)))),
		claim.Fact(
			"p",
			"p_direction",
			direction,
			claim.Plain(document.P(document.PExact, tail(t, c.Direction), c.Level)),
		),
	}
	if e.DesignEffect != nil {
		facts = append(
			facts,
			claim.Fact(
				"design_effect",
				"design_effect",
				nil,
				claim.Plain(document.Of(document.Effect, *e.DesignEffect)),
			),
		)
	}
	if e.EffectiveN != nil {
		facts = append(
			facts,
			claim.Fact("effective_n", "effective_n", nil, claim.Plain(document.Of(document.Amount, *e.EffectiveN))),
		)
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, e.DesignEffect)
	if decided.At > 0 {
		notes.Add(document.Decision, "designed.score", nil)
	}
	decided.Differ(&notes, "designed")
	if len(c.Looked) > 0 {
		notes.Caution(document.Decision, "one_proportion.looked", nil)
	}
	return document.Document{
		Blocks: []document.Block{
			by.Basis(c.About),
			claim.Hypotheses("one_proportion."+string(c.Direction), c.Role, v),
			{Kind: document.Sentence, Said: []document.Message{finding}},
			{Kind: document.Facts, Facts: facts},
			{Kind: document.Chart, Chart: c.intervals(e, v, confidence)},
			decided.Block(),
			{Kind: document.Working, Said: append(c.workingByDesign(e, t, by), by.ByStratum(e.cells, say.WorkingDesignedOfShare(strings.Join(c.Success, ", ")), e.cells.ShareSlope(1))...)},
			{Kind: document.WriteUp, Said: []document.Message{finding, journal}},
		},
		Notes: notes, Outcome: decided.Outcome("null"),
	}
}

// intervals are the two-sided ones of the design, with the claimed share as a line.
func (c Claim) intervals(e *Estimate, v document.Values, confidence document.Value) *document.Picture {
	at := 100 * e.Claimed
	w := &document.Whiskers{
		Reference: &document.Line{At: at, Label: document.Say("chart.whiskers.claimed", v)},
	}
	for _, m := range []struct {
		name string
		of   *infer.Interval
	}{{"beta", e.Beta}, {"wilson_designed", e.Wilson}, {"logit", e.Logit}} {
		if m.of != nil {
			w.Rows = append(w.Rows, claim.WhiskerOf(document.Say("interval."+m.name, nil), e.Share, m.of))
		}
	}
	v["confidence"], v["share"], v["interval"] = confidence, document.Of(
		document.Percent,
		100*e.Share,
	), claim.RangeOf(
		e.Beta,
	)
	return &document.Picture{
		Kind: document.WhiskersPicture, Whiskers: claim.Fitted(w),
		Alt: document.Say("chart.whiskers.alt_designed", v), Axis: document.Say("chart.whiskers.axis", v),
	}
}

func (c Claim) workingByDesign(e *Estimate, t infer.TTest, by claim.Sampled) []document.Message {
	out := []document.Message{
		say.WorkingDesignedWeights(by.Base.Sum, e.N),
		by.Variance(),
		say.WorkingDesignedSe(e.Share, e.StandardError),
	}
	p := document.P(document.PEqual, tail(t, c.Direction), c.Level)
	if t.T == e.Tests.Score.T {
		effective := 0.0
		if e.EffectiveN != nil {
			effective = *e.EffectiveN
		}
		return append(out, say.WorkingDesignedScore(e.Share, e.Claimed, effective, *t.T, int64(e.DF), p))
	}
	return append(out, say.WorkingDesignedT(e.Share, e.Claimed, e.StandardError, *t.T, int64(e.DF), p))
}
