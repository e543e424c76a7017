package oneproportion

import (
	"encoding/json"
	"math"
	"math/big"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/prob"
	"widetally/core/say"
)

// Claim is a claim about the share of one answer, or of several together.
type Claim struct {
	claim.About
	Question claim.Question
	// Success are the labels of the answers that count.
	Success   []string
	Claimed   *big.Rat // 0–1
	Source    string   // who claims it; "" where nobody is named
	Direction claim.Direction
	Role      claim.Role
	Level     float64
	// Looked are further directions that were looked at after the stated one.
	Looked []claim.Direction
	// Near are settings that ask whether the share is near enough; nil for none.
	Near json.RawMessage
}

func (c Claim) values() document.Values {
	return document.Values{"units": c.Units, "answers": claim.TheseAnswers(c.Question, c.Success),
		"claimed": document.Text(
			claim.PercentText(c.Claimed),
		), "source": document.Text(c.Source), "level": document.Of(document.Level, c.Level)}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return document.Say("claim.one_proportion."+string(c.Role)+"."+string(c.Direction), c.values())
}

// decided says what each way comes to. The z test decides where both expected counts are at
// least 5, else the exact binomial test.
func (c Claim) decided(r *infer.Proportion) (d claim.Verdict, critical float64) {
	stated := claim.Stated{Direction: c.Direction, Role: c.Role, Level: c.Level}
	critical = stated.Critical(prob.NormalUpperQuantile)
	var bounds *infer.Interval
	if r.Bounds != nil {
		bounds = &r.Bounds.Wilson
	}
	d = claim.Verdict{Level: c.Level, Ways: []claim.Way{
		claim.ByP("z_p", claim.TailOf(r.Score, c.Direction), c.Level),
		claim.By("z", document.Of(document.Statistic, r.Z), stated.AgainstCritical(critical), stated.Beyond(r.Z, critical)),
		claim.ByP("binomial", claim.TailOf(r.Exact, c.Direction), c.Level),
		stated.Within(
			"wilson",
			r.Intervals.Wilson,
			bounds,
			r.Claimed,
			100,
			document.Percent,
			document.Text(claim.PercentText(c.Claimed)),
		),
	}}
	if !normalServes(r) {
		d.GoBy("binomial")
	}
	return d, critical
}

// normalServes reports whether the normal approximation may carry the finding.
func normalServes(r *infer.Proportion) bool {
	for _, condition := range r.Conditions {
		if !condition.Met {
			return false
		}
	}
	return true
}

// Document says what a result means. r must have confidence 1 − Level.
func (c Claim) Document(r *infer.Proportion) document.Document {
	decided, critical := c.decided(r)
	rejected := decided.Rejected()
	v := c.values()
	v["p"] = document.P(document.PEqual, claim.TailOf(r.Exact, c.Direction), c.Level)
	said := []document.Message{
		document.Say("finding.one_proportion."+string(c.Role)+"."+claim.Outcome(rejected)+"."+string(c.Direction), v),
	}
	switch {
	case decided.At > 0:
		said = append(said, document.Say("finding.one_proportion.by_exact", v))
	case claim.TailOf(r.Exact, c.Direction).AtMost(c.Level) != rejected:
		said = append(said, document.Say("finding.one_proportion.exact_differs", v))
	}
	journal := document.Say(
		"finding.one_proportion.journal."+string(c.Direction),
		document.Values{"x": document.N(r.Successes), "n": document.N(r.N), "share": document.Of(document.Percent, 100*r.Estimate),
			"z": document.Of(
				document.Statistic,
				r.Z,
			), "p": document.P(document.PEqual, claim.TailOf(r.Score, c.Direction), c.Level), "exact": v["p"],
			"lower": document.Of(
				document.Percent,
				100*r.Intervals.Wilson.Lower,
			), "upper": document.Of(document.Percent, 100*r.Intervals.Wilson.Upper), "confidence": document.Of(document.Level, r.Confidence), "h": document.Of(document.Effect, *r.CohensH.Value)},
	)
	d := document.Document{
		Blocks: []document.Block{
			claim.Hypotheses("one_proportion."+string(c.Direction), c.Role, v),
			{Kind: document.Sentence, Said: said},
			{Kind: document.Facts, Facts: c.facts(r, decided, critical)},
			{Kind: document.Chart, Chart: c.whiskers(r)},
			decided.BlockAt(r.Confidence),
			{
				Kind: document.Chart,
				Chart: claim.Stated{
					Direction: c.Direction,
					Role:      c.Role,
					Level:     c.Level,
				}.Bell(
					infer.NormalCurve(r.Z, critical),
					r.Z,
					critical,
					claim.TailOf(r.Score, c.Direction),
					"z",
				),
			},
			{
				Kind:    document.Choices,
				Choices: claim.Stated{Direction: c.Direction, Role: c.Role, Level: c.Level}.LookedAgain(c.Looked),
			},
			{Kind: document.Working, Said: append(c.working(r, critical), decided.DecidesInstead()...)},
			{Kind: document.WriteUp, Said: append(append([]document.Message{}, said...), journal)},
		},
		Notes:   c.notes(r, decided),
		Outcome: decided.Outcome("null"),
	}
	return d
}

func (c Claim) facts(r *infer.Proportion, decided claim.Verdict, critical float64) []document.Fact {
	direction := document.Values{
		"direction": document.Term("direction." + string(c.Direction)),
		"level":     document.Of(document.Level, c.Level),
	}
	out := []document.Fact{
		claim.Fact("share", "share_found", nil, say.FactShareOf(100*r.Estimate, r.Successes, r.N)),
		claim.Fact("statistic", "z", nil, claim.Plain(document.Of(document.Statistic, r.Z))),
	}
	out = append(out, decided.Facts(claim.Fact("p", "p_direction", direction, claim.Plain(decided.Ways[0].Found)))...)
	out = append(out, claim.Fact("critical", "critical_z", direction, claim.CriticalText(c.Direction, critical)))
	if decided.At == 0 {
		out = append(
			out,
			claim.Fact(
				"exact",
				"binomial",
				direction,
				claim.Plain(document.P(document.PExact, claim.TailOf(r.Exact, c.Direction), c.Level)),
			),
		)
	}
	out = append(out, claim.Fact("h", "h", nil, claim.Plain(document.Of(document.Statistic, *r.CohensH.Value))))
	for _, d := range c.Looked {
		if d == c.Direction {
			continue
		}
		v := document.Values{"direction": document.Term("direction." + string(d))}
		out = append(
			out,
			claim.Fact(
				"looked_"+string(d),
				"looked",
				v,
				say.FactPBoth(
					document.P(document.PExact, claim.TailOf(r.Score, d), c.Level),
					document.P(document.PExact, claim.TailOf(r.Exact, d), c.Level),
				),
			),
		)
	}
	return out
}

// whiskers are the two-sided intervals of five methods with the claimed share as a line.
func (c Claim) whiskers(r *infer.Proportion) *document.Picture {
	i := r.Intervals
	w := &document.Whiskers{
		Reference: &document.Line{At: 100 * r.Claimed, Label: document.Say("chart.whiskers.claimed", c.values())},
		From:      100 * r.Claimed,
		To:        100 * r.Claimed,
	}
	for _, m := range []struct {
		name string
		of   infer.Interval
	}{{"wilson", i.Wilson}, {"clopper_pearson", i.ClopperPearson}, {"agresti_coull", i.AgrestiCoull}, {"jeffreys", i.Jeffreys}, {"wald", i.Wald}} {
		lower, upper := 100*m.of.Lower, 100*m.of.Upper
		w.From, w.To = math.Min(w.From, lower), math.Max(w.To, upper)
		w.Rows = append(
			w.Rows,
			document.Whisker{Name: document.Say("interval."+m.name, nil), Lower: lower, Estimate: 100 * r.Estimate, Upper: upper,
				Text: document.Say("value", document.Values{"value": {Kind: document.Range, Number: lower, Upper: upper}})},
		)
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	v := c.values()
	v["confidence"], v["share"] = document.Of(document.Level, r.Confidence), document.Of(document.Percent, 100*r.Estimate)
	v["lower"], v["upper"] = document.Of(document.Percent, 100*i.Wilson.Lower), document.Of(document.Percent, 100*i.Wilson.Upper)
	return &document.Picture{
		Kind:     document.WhiskersPicture,
		Alt:      document.Say("chart.whiskers.alt", v),
		Axis:     document.Say("chart.whiskers.axis", v),
		Whiskers: w,
	}
}

func (c Claim) working(r *infer.Proportion, critical float64) []document.Message {
	var out []document.Message
	say := func(id string, v document.Values) { out = append(out, document.Say("working.one_proportion."+id, v)) }
	n, x := document.N(r.N), document.N(r.Successes)
	share, claimed := document.Of(document.Exact, r.Estimate), document.Of(document.Exact, r.Claimed)
	se, z := document.Of(document.Exact, r.StandardErrorNull), document.Of(document.Statistic, r.Z)
	say("share", document.Values{"x": x, "n": n, "share": share})
	say("se", document.Values{"claimed": claimed, "n": n, "se": se})
	say("z", document.Values{"share": share, "claimed": claimed, "se": se, "z": z})
	p := document.P(document.PEqual, claim.TailOf(r.Score, c.Direction), c.Level)
	if c.Direction == claim.Different {
		one := r.Score.Greater
		if r.Z < 0 {
			one = r.Score.Less
		}
		say(
			"doubled",
			document.Values{
				"z":   document.Of(document.Statistic, math.Abs(r.Z)),
				"one": document.P(document.PExact, one, c.Level),
				"p":   p,
			},
		)
	} else {
		say("p_"+string(c.Direction), document.Values{"z": z, "p": p})
	}
	say(
		"critical_"+string(c.Direction),
		document.Values{"level": document.Of(document.Level, c.Level), "critical": document.Of(document.Statistic, critical)},
	)
	say(
		"binomial_"+string(c.Direction),
		document.Values{
			"x":       x,
			"n":       n,
			"claimed": claimed,
			"p":       document.P(document.PEqual, claim.TailOf(r.Exact, c.Direction), c.Level),
		},
	)
	say("h", document.Values{"share": share, "claimed": claimed, "h": document.Of(document.Statistic, *r.CohensH.Value)})
	return out
}

func (c Claim) notes(r *infer.Proportion, decided claim.Verdict) []document.Note {
	var out claim.NotesOf
	v := document.Values{
		"yes":   document.Of(document.Amount, r.ExpectedYes),
		"no":    document.Of(document.Amount, r.ExpectedNo),
		"units": c.Units,
	}
	if decided.At == 0 {
		out.Add(document.Conditions, "one_proportion.good", v)
	} else {
		out.Caution(document.Conditions, "one_proportion.poor", v)
	}
	out.LeftOut(c.About, r.N)
	i := r.Intervals
	all := []infer.Interval{i.Wilson, i.ClopperPearson, i.AgrestiCoull, i.Jeffreys, i.Wald}
	outside := int64(0)
	for _, one := range all {
		if !one.Contains(r.Claimed) {
			outside++
		}
	}
	v = c.values()
	v["outside"], v["all"] = document.N(outside), document.N(int64(len(all)))
	id := "one_proportion.intervals_some"
	switch outside {
	case 0:
		id = "one_proportion.intervals_in"
	case int64(len(all)):
		id = "one_proportion.intervals_out"
	}
	note := out.Add(document.Chart, id, v)
	if c.Direction != claim.Different {
		out.Add(
			document.Chart,
			"one_proportion.two_sided",
			document.Values{"direction": document.Term("direction." + string(c.Direction))},
		)
	}
	note.Caution = id == "one_proportion.intervals_some"
	decided.Differ(&out, "one_proportion")
	if len(c.Looked) > 0 {
		out.Caution(document.Decision, "one_proportion.looked", nil)
	}
	out.Unweighted(c.About)
	if decided.Rejected() {
		out.Add(
			document.Decision,
			"one_proportion.size"+claim.Tiny(*r.CohensH.Value),
			document.Values{
				"n":      document.N(r.N),
				"h":      document.Of(document.Effect, *r.CohensH.Value),
				"points": document.Of(document.Points, math.Abs(100*(r.Estimate-r.Claimed))),
			},
		)
	} else {
		stated := claim.Stated{Direction: c.Direction, Role: c.Role, Level: c.Level}
		if nearest, ok := stated.Nearest(r.Claimed, func(d plan.Direction) (below, above *float64) {
			return plan.DetectableShare(r.Claimed, float64(r.N), c.Level, claim.UsualPower, d)
		}); ok {
			out.Add(document.Decision, "one_proportion.detectable", document.Values{"points": document.Of(document.Points, 100*nearest), "claimed": v["claimed"], "level": document.Of(document.Level, c.Level), "n": document.N(r.N), "units": c.Units})
		}
		id := "one_proportion.not_proving"
		if !i.Wilson.Contains(r.Claimed) {
			id = "one_proportion.not_proving_beyond"
		}
		n := out.Add(document.Decision, id, document.Values{"claimed": document.Text(claim.PercentText(c.Claimed)),
			"lower": document.Of(document.Percent, 100*i.Wilson.Lower), "upper": document.Of(document.Percent, 100*i.Wilson.Upper), "confidence": document.Of(document.Level, r.Confidence)})
		if c.Role == claim.ClaimIsNull && c.Direction == claim.Different && c.Near != nil {
			n.Remedy = &document.Remedy{Label: say.RemedyNear(), Ask: &document.Ask{Method: "equivalence/share", Settings: c.Near}}
		}
	}
	return out
}
