package claim

import (
	"math"
	"math/big"
	"strings"

	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
)

// Direction says which departure from a claimed share is asked about.
type Direction string

// The directions.
const (
	Less      Direction = "less"
	Different Direction = "different"
	Greater   Direction = "greater"
)

// Directions lists the directions in the order in which they are offered.
var Directions = []Direction{Less, Different, Greater}

// OneShare is a claim about the share of one answer, or of several together.
type OneShare struct {
	About
	Question Question
	// Success are the labels of the answers that count.
	Success   []string
	Claimed   *big.Rat // 0–1
	Source    string   // who claims it; "" where nobody is named
	Direction Direction
	Role      Role
	Level     float64
	// Looked are further directions that were looked at after the stated one.
	Looked []Direction
}

// percentText writes an exact share as a percent without needless zeros, with at most
// four decimals.
func percentText(share *big.Rat) string {
	text := new(big.Rat).Mul(share, big.NewRat(100, 1)).FloatString(4)
	return strings.TrimSuffix(strings.TrimRight(text, "0"), ".") + "\u00a0%"
}

func (c OneShare) values() document.Values {
	id, answers := "claim.answers.of", document.Text("“"+strings.Join(c.Success, "” or “")+"”")
	if c.Question == (Question{}) {
		id = "claim.answers.plain"
	}
	said := document.Say(id, document.Values{"question": c.Question.called(), "answers": answers})
	return document.Values{"units": c.Units, "answers": {Kind: document.Said, Message: &said},
		"claimed": document.Text(percentText(c.Claimed)), "source": document.Text(c.Source), "level": document.Of(document.Level, c.Level)}
}

// Statement is what the claim says.
func (c OneShare) Statement() document.Message {
	return document.Say("claim.one_share."+string(c.Role)+"."+string(c.Direction), c.values())
}

func tailOf(t infer.Tails, d Direction) prob.Prob {
	switch d {
	case Less:
		return t.Less
	case Greater:
		return t.Greater
	}
	return t.TwoSided
}

// way is one way to decide.
type way struct {
	id       string
	found    document.Value
	against  document.Value
	rejected bool
}

// decided says what each way comes to. The normal ones rest on both expected counts
// being at least 5.
func (c OneShare) decided(r *infer.Proportion) (ways []way, critical float64) {
	pz, pe := tailOf(r.Score, c.Direction), tailOf(r.Exact, c.Direction)
	level := document.Of(document.Level, c.Level)
	claimed := document.Text(percentText(c.Claimed))
	interval, name := r.Intervals.Wilson, "interval"
	beyond := !interval.Contains(r.Claimed)
	critical = prob.NormalUpperQuantile(c.Level / 2)
	far := math.Abs(r.Z) >= critical
	var found document.Value
	if c.Direction != Different {
		critical = prob.NormalUpperQuantile(c.Level)
		name = "bound_" + string(c.Direction)
		bounds := r.Bounds.Wilson
		if c.Direction == Less {
			critical = -critical
			far, beyond = r.Z <= critical, r.Claimed > bounds.Upper
			found = document.Of(document.Percent, 100*bounds.Upper)
		} else {
			far, beyond = r.Z >= critical, r.Claimed < bounds.Lower
			found = document.Of(document.Percent, 100*bounds.Lower)
		}
	} else {
		found = document.Value{Kind: document.Words, Text: ""}
	}
	against := document.Of(document.Statistic, critical)
	ways = []way{
		{"z_p", document.P(document.PExact, pz, c.Level), level, pz.AtMost(c.Level)},
		{"z", document.Of(document.Statistic, r.Z), against, far},
		{"binomial", document.P(document.PExact, pe, c.Level), level, pe.AtMost(c.Level)},
		{name, found, claimed, beyond},
	}
	return ways, critical
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

// Document says what a result means. The finding goes by the z test where both expected
// counts are at least 5, else by the exact binomial test. r must have confidence 1 − Level.
func (c OneShare) Document(r *infer.Proportion) document.Document {
	ways, critical := c.decided(r)
	serves := normalServes(r)
	rejected := ways[0].rejected
	if !serves {
		rejected = ways[2].rejected
	}
	v := c.values()
	v["p"] = document.P(document.PEqual, tailOf(r.Exact, c.Direction), c.Level)
	said := []document.Message{document.Say("finding.one_share."+string(c.Role)+"."+outcome(rejected)+"."+string(c.Direction), v)}
	switch {
	case !serves:
		said = append(said, document.Say("finding.one_share.by_exact", v))
	case ways[0].rejected != ways[2].rejected:
		said = append(said, document.Say("finding.one_share.exact_differs", v))
	}
	p := document.P(document.PExact, tailOf(r.Score, c.Direction), c.Level)
	journal := document.Say("finding.one_share.journal."+string(c.Direction), document.Values{"x": document.N(r.Successes), "n": document.N(r.N), "share": document.Of(document.Percent, 100*r.Estimate),
		"z": document.Of(document.Statistic, r.Z), "p": document.P(document.PEqual, tailOf(r.Score, c.Direction), c.Level), "exact": v["p"],
		"lower": document.Of(document.Percent, 100*r.Intervals.Wilson.Lower), "upper": document.Of(document.Percent, 100*r.Intervals.Wilson.Upper), "confidence": document.Of(document.Level, r.Confidence), "h": document.Of(document.Effect, *r.CohensH.Value)})
	d := document.Document{
		Blocks: []document.Block{
			hypotheses("one_share."+string(c.Direction), c.Role, v),
			{Kind: document.Sentence, Said: said},
			{Kind: document.Facts, Facts: c.facts(r, p, critical)},
			{Kind: document.Chart, Chart: c.whiskers(r)},
			{Kind: document.Figures, Table: decisions(ways, r, c)},
			{Kind: document.Chart, Chart: c.curve(r, critical)},
			{Kind: document.Choices, Choices: c.choices()},
			{Kind: document.Working, Said: c.working(r, ways, critical)},
			{Kind: document.WriteUp, Said: append(append([]document.Message{}, said...), journal)},
		},
		Notes:   c.notes(r, ways, serves, rejected),
		Outcome: &document.Outcome{Text: document.Say("outcome.null_"+outcome(rejected), nil), P: p},
	}
	return d
}

func (c OneShare) facts(r *infer.Proportion, p document.Value, critical float64) []document.Fact {
	direction := document.Values{"direction": document.Term("direction." + string(c.Direction)), "level": document.Of(document.Level, c.Level)}
	out := []document.Fact{
		fact("share", "share_found", nil, document.Say("fact.share_of", document.Values{"share": document.Of(document.Percent, 100*r.Estimate), "x": document.N(r.Successes), "n": document.N(r.N)})),
		fact("statistic", "z", nil, plain(document.Of(document.Statistic, r.Z))),
		fact("p", "p_direction", direction, plain(p)),
		fact("critical", "critical_z", direction, criticalText(c.Direction, critical)),
		fact("exact", "binomial", direction, plain(document.P(document.PExact, tailOf(r.Exact, c.Direction), c.Level))),
		fact("h", "h", nil, plain(document.Of(document.Statistic, *r.CohensH.Value))),
	}
	for _, d := range c.Looked {
		if d == c.Direction {
			continue
		}
		v := document.Values{"direction": document.Term("direction." + string(d))}
		out = append(out, fact("looked_"+string(d), "looked", v, document.Say("fact.p_both", document.Values{
			"p": document.P(document.PExact, tailOf(r.Score, d), c.Level), "exact": document.P(document.PExact, tailOf(r.Exact, d), c.Level)})))
	}
	return out
}

func criticalText(d Direction, critical float64) document.Message {
	id := "value"
	if d == Different {
		id = "fact.both_sides"
	}
	return document.Say(id, document.Values{"value": document.Of(document.Statistic, critical)})
}

// decisions shows together what each way comes to.
func decisions(ways []way, r *infer.Proportion, c OneShare) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{Caption: document.Say("caption.decisions", nil), Stub: head("way"), Shown: []document.Role{document.Main}, Columns: []document.Message{head("found"), head("against"), head("says")}}
	for _, w := range ways {
		name := document.Say("way."+w.id, document.Values{"confidence": document.Of(document.Level, r.Confidence)})
		found := document.One(w.found)
		if w.id == "interval" {
			found = document.One(document.Text(""))
			i := r.Intervals.Wilson
			found.Figures[0].Value = document.Value{Kind: document.Range, Number: 100 * i.Lower, Upper: 100 * i.Upper}
		}
		against := document.One(w.against)
		if w.id == "z" && c.Direction == Different {
			against.Figures[0].Value = document.Value{Kind: document.BothSides, Number: w.against.Number}
		}
		t.Rows = append(t.Rows, document.Row{Name: name, Cells: []document.Cell{found, against, document.One(document.Term("outcome.null_" + outcome(w.rejected)))}})
	}
	return t
}

// whiskers are the two-sided intervals of five methods with the claimed share as a line.
func (c OneShare) whiskers(r *infer.Proportion) *document.Picture {
	i := r.Intervals
	w := &document.Whiskers{Reference: &document.Line{At: 100 * r.Claimed, Label: document.Say("chart.whiskers.claimed", c.values())}, From: 100 * r.Claimed, To: 100 * r.Claimed}
	for _, m := range []struct {
		name string
		of   infer.Interval
	}{{"wilson", i.Wilson}, {"clopper_pearson", i.ClopperPearson}, {"agresti_coull", i.AgrestiCoull}, {"jeffreys", i.Jeffreys}, {"wald", i.Wald}} {
		lower, upper := 100*m.of.Lower, 100*m.of.Upper
		w.From, w.To = math.Min(w.From, lower), math.Max(w.To, upper)
		w.Rows = append(w.Rows, document.Whisker{Name: document.Say("interval."+m.name, nil), Lower: lower, Estimate: 100 * r.Estimate, Upper: upper,
			Text: document.Say("value", document.Values{"value": {Kind: document.Range, Number: lower, Upper: upper}})})
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	v := c.values()
	v["confidence"], v["share"] = document.Of(document.Level, r.Confidence), document.Of(document.Percent, 100*r.Estimate)
	v["lower"], v["upper"] = document.Of(document.Percent, 100*i.Wilson.Lower), document.Of(document.Percent, 100*i.Wilson.Upper)
	return &document.Picture{Kind: document.WhiskersPicture, Alt: document.Say("chart.whiskers.alt", v), Axis: document.Say("chart.whiskers.axis", v), Whiskers: w}
}

// curve is the standard normal density with z, the critical value and the tails.
func (c OneShare) curve(r *infer.Proportion, critical float64) *document.Picture {
	n := infer.NormalCurve(r.Z, critical)
	v := document.Values{"z": document.Of(document.Statistic, r.Z), "critical": document.Of(document.Statistic, critical), "p": document.P(document.PEqual, tailOf(r.Score, c.Direction), c.Level),
		"direction": document.Term("direction." + string(c.Direction))}
	label := "chart.curve.z"
	if n.StatisticOutside {
		label = "chart.curve.z_outside"
	}
	curve := &document.Curve{X: n.X, Density: n.Density, Top: n.Top, Statistic: r.Z, Outside: n.StatisticOutside, Label: document.Say(label, v)}
	end := math.Inf(1)
	mark := func(at float64) {
		curve.Critical = append(curve.Critical, document.Line{At: at, Label: document.Say("chart.curve.critical", document.Values{"critical": document.Of(document.Statistic, at)})})
	}
	switch c.Direction {
	case Less:
		curve.Tails, curve.Rejection = []document.Span{{From: -end, To: r.Z}}, []document.Span{{From: -end, To: critical}}
		mark(critical)
	case Greater:
		curve.Tails, curve.Rejection = []document.Span{{From: r.Z, To: end}}, []document.Span{{From: critical, To: end}}
		mark(critical)
	default:
		z := math.Abs(r.Z)
		curve.Tails = []document.Span{{From: -end, To: -z}, {From: z, To: end}}
		curve.Rejection = []document.Span{{From: -end, To: -critical}, {From: critical, To: end}}
		mark(-critical)
		mark(critical)
	}
	return &document.Picture{Kind: document.CurvePicture, Alt: document.Say("chart.curve.alt_normal", v), Axis: document.Say("chart.curve.axis_normal", v), Curve: curve}
}

// choices offer to look at the other directions, which is then noted.
func (c OneShare) choices() *document.Choice {
	out := &document.Choice{Label: document.Say("choice.directions", nil)}
	for _, d := range Directions {
		if d == c.Direction {
			continue
		}
		looked := false
		all := append([]Direction{}, c.Looked...)
		for _, l := range c.Looked {
			looked = looked || l == d
		}
		if !looked {
			all = append(all, d)
		}
		out.Options = append(out.Options, document.Option{Label: document.Say("choice.direction."+string(d), nil), Chosen: looked, Change: patch(map[string]any{"looked": all})})
	}
	return out
}

func (c OneShare) working(r *infer.Proportion, ways []way, critical float64) []document.Message {
	var out []document.Message
	say := func(id string, v document.Values) { out = append(out, document.Say("working.one_share."+id, v)) }
	n, x := document.N(r.N), document.N(r.Successes)
	share, claimed := document.Of(document.Exact, r.Estimate), document.Of(document.Exact, r.Claimed)
	se, z := document.Of(document.Exact, r.StandardErrorNull), document.Of(document.Statistic, r.Z)
	say("share", document.Values{"x": x, "n": n, "share": share})
	say("se", document.Values{"claimed": claimed, "n": n, "se": se})
	say("z", document.Values{"share": share, "claimed": claimed, "se": se, "z": z})
	p := document.P(document.PEqual, tailOf(r.Score, c.Direction), c.Level)
	if c.Direction == Different {
		one := r.Score.Greater
		if r.Z < 0 {
			one = r.Score.Less
		}
		say("doubled", document.Values{"z": document.Of(document.Statistic, math.Abs(r.Z)), "one": document.P(document.PExact, one, c.Level), "p": p})
	} else {
		say("p_"+string(c.Direction), document.Values{"z": z, "p": p})
	}
	say("critical_"+string(c.Direction), document.Values{"level": document.Of(document.Level, c.Level), "critical": document.Of(document.Statistic, critical)})
	say("binomial_"+string(c.Direction), document.Values{"x": x, "n": n, "claimed": claimed, "p": document.P(document.PEqual, tailOf(r.Exact, c.Direction), c.Level)})
	say("h", document.Values{"share": share, "claimed": claimed, "h": document.Of(document.Statistic, *r.CohensH.Value)})
	return out
}

func (c OneShare) notes(r *infer.Proportion, ways []way, serves, rejected bool) []document.Note {
	var out notesOf
	v := document.Values{"yes": document.Of(document.Amount, r.ExpectedYes), "no": document.Of(document.Amount, r.ExpectedNo), "units": c.Units}
	if serves {
		out.add(document.Conditions, "one_share.good", v)
	} else {
		out.caution(document.Conditions, "one_share.poor", v)
	}
	out.leftOut(c.About, r.N)
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
	id := "one_share.intervals_some"
	switch outside {
	case 0:
		id = "one_share.intervals_in"
	case int64(len(all)):
		id = "one_share.intervals_out"
	}
	note := out.add(document.Chart, id, v)
	if c.Direction != Different {
		out.add(document.Chart, "one_share.two_sided", document.Values{"direction": document.Term("direction." + string(c.Direction))})
	}
	note.Caution = id == "one_share.intervals_some"
	for _, w := range ways[1:] {
		if w.rejected != ways[0].rejected {
			out.caution(document.Decision, "one_share.ways_differ", nil)
			break
		}
	}
	if len(c.Looked) > 0 {
		out.caution(document.Decision, "one_share.looked", nil)
	}
	out.unweighted(c.About)
	if rejected {
		out.add(document.Decision, "one_share.size", document.Values{"h": document.Of(document.Effect, *r.CohensH.Value), "points": document.Of(document.Points, math.Abs(100*(r.Estimate-r.Claimed)))})
	} else {
		out.add(document.Decision, "one_share.not_proving", document.Values{"claimed": document.Text(percentText(c.Claimed)),
			"lower": document.Of(document.Percent, 100*i.Wilson.Lower), "upper": document.Of(document.Percent, 100*i.Wilson.Upper), "confidence": document.Of(document.Level, r.Confidence)})
	}
	return out
}
