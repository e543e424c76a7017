package twoproportions

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/prob"
	"widetally/core/say"
)

// Claim is a claim about the share of some answers in two groups of different respondents,
// such as two wards or two waves.
type Claim struct {
	claim.About
	claim.Stated
	Question, Groups claim.Question
	// Success are the labels of the answers that count.
	Success       []string
	First, Second string // the labels of the groups
	// Looked are further directions that were looked at after the stated one.
	Looked []claim.Direction
	// Answered and Asked are those with a proper answer to both questions, in any group, and all.
	Answered, Asked int64
}

const texts = "two_proportions"

func (c Claim) values() document.Values {
	return document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"groups":   c.Groups.Groups(),
		"of":       claim.OfGroups(c.Groups),
		"first":    document.Text(c.First),
		"second":   document.Text(c.Second),
		"answers":  claim.TheseAnswers(c.Question, c.Success),
	}
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return claim.StatementOf(c.Clauses(texts, c.values()))
}

// Document says what a result means. The finding goes by the z test where at least 5 in each
// group gave the answers and at least 5 did not, else by Fisher's exact test. r must have
// confidence 1 − Level and both tests.
func (c Claim) Document(r *infer.TwoProportions) document.Document {
	z, p := *r.Z, claim.TailOf(*r.Tails, c.Direction)
	critical := c.Critical(prob.NormalUpperQuantile)
	v := c.Clauses(texts, c.values())
	confidence := document.Of(document.Level, r.Confidence)
	percent := func(x float64) document.Value { return document.Of(document.Percent, 100*x) }
	v["x"], v["n"], v["share"] = document.N(r.Successes1), document.N(r.N1), percent(r.Estimate1)
	v["x2"], v["n2"], v["share2"] = document.N(r.Successes2), document.N(r.N2), percent(r.Estimate2)
	v["points"], v["confidence"], v["z"], v["p"] = document.Of(
		document.Points,
		100*math.Abs(r.Difference),
	), confidence, document.Of(
		document.Statistic,
		z,
	), document.P(
		document.PEqual,
		p,
		c.Level,
	)
	v["difference"], v["lower"], v["upper"] = document.Of(
		document.Difference,
		100*r.Difference,
	), document.Of(
		document.Difference,
		100*r.Newcombe.Lower,
	), document.Of(
		document.Difference,
		100*r.Newcombe.Upper,
	)
	decided := claim.Verdict{
		Level: c.Level,
		Ways:  []claim.Way{claim.ByP("z_p", p, c.Level), claim.By("z", v["z"], c.AgainstCritical(critical), c.Beyond(z, critical))},
	}
	serves, exactDiffers := r.Conditions[0].Met, false
	if r.Exact != nil {
		exact := claim.TailOf(infer.Tails{Less: r.Exact.Less, Greater: r.Exact.Greater, TwoSided: r.Exact.TwoSided}, c.Direction)
		v["exact"] = document.P(document.PEqual, exact, c.Level)
		decided.Ways = append(decided.Ways, claim.ByP("fisher", exact, c.Level))
		exactDiffers = exact.AtMost(c.Level) != p.AtMost(c.Level)
		if !serves {
			decided.GoBy("fisher")
		}
	}
	decided.Ways = append(
		decided.Ways,
		c.Within("newcombe", r.Newcombe, r.Bounds, 0, 100, document.Difference, document.Of(document.Difference, 0)),
	)
	rejected := decided.Rejected()
	said := []document.Message{c.Finding(rejected, v)}
	switch {
	case !serves && r.Exact == nil:
		said = append(said, document.Say("finding.doubt.counts", v))
	case !serves:
		said = append(said, document.Say("finding.two_proportions.by_exact", v))
	case exactDiffers:
		said = append(said, document.Say("finding.two_proportions.exact_differs", v))
	}
	reading := document.Say("read.two_proportions."+[]string{"same", "higher", "lower"}[claim.Sign(r.Difference)], v)
	journal := decided.InsteadInJournal(document.Say("finding.two_proportions.journal", v))
	d := document.Document{Blocks: []document.Block{
		c.Hypotheses(texts, v),
		{Kind: document.Sentence, Said: said},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: c.table(r)},
		{Kind: document.Facts, Facts: c.facts(r, decided, critical, v)},
		{Kind: document.Chart, Chart: c.whiskers(r, v)},
		decided.BlockAt(r.Confidence),
		{
			Kind:  document.Chart,
			Chart: c.Bell(infer.NormalCurve(z, critical), z, critical, claim.TailOf(*r.Tails, c.Direction), "z"),
		},
		{Kind: document.Choices, Choices: c.LookedAgain(c.Looked)},
		{Kind: document.Working, Said: append(c.working(r, z, critical, v), decided.DecidesInstead()...)},
		{Kind: document.WriteUp, Said: slices.Concat(said, []document.Message{reading}, journal)},
	}, Outcome: decided.Outcome("null")}
	d.Notes = c.notes(r, decided, serves, v)
	return d
}

func (c Claim) table(r *infer.TwoProportions) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.two_proportions", c.values()),
		Stub:    claim.GroupsHead(c.Groups),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("gave"), head("n"), head("share_percent")},
	}
	row := func(name string, x, n int64) {
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: claim.Plain(document.Text(name)),
				Cells: []document.Cell{
					document.One(document.N(x)),
					document.One(document.N(n)),
					document.One(document.Of(document.Percent, 100*float64(x)/float64(n))),
				},
			},
		)
	}
	row(c.First, r.Successes1, r.N1)
	row(c.Second, r.Successes2, r.N2)
	return t
}

func (c Claim) facts(r *infer.TwoProportions, decided claim.Verdict, critical float64, v document.Values) []document.Fact {
	direction := document.Values{"direction": v["direction"], "level": v["level"]}
	out := []document.Fact{
		claim.Fact(
			"difference",
			"points_apart",
			nil,
			say.FactPointsInterval(v["difference"], v["confidence"], v["lower"], v["upper"]),
		),
		claim.Fact("statistic", "z", nil, claim.Plain(v["z"])),
	}
	out = append(out, decided.Facts(claim.Fact("p", "p_direction", direction, claim.Plain(decided.Ways[0].Found)))...)
	out = append(out, claim.Fact("critical", "critical_z", direction, claim.CriticalText(c.Direction, critical)))
	if exact, ok := v["exact"]; ok && decided.At == 0 {
		exact.Kind = document.PExact
		out = append(out, claim.Fact("exact", "fisher_direction", direction, claim.Plain(exact)))
	}
	out = append(out, claim.EffectFact("h", r.CohensH, r.Confidence))
	ratio := func(key string, value *float64, interval *infer.Interval) {
		if value != nil {
			out = append(out, claim.EffectFact(key, infer.Effect{Value: value, Interval: interval}, r.Confidence))
		}
	}
	ratio("ratio", r.RelativeRisk, r.RelativeRiskInterval)
	ratio("odds", r.OddsRatio, r.OddsRatioInterval)
	for _, d := range c.Looked {
		if d != c.Direction {
			out = append(
				out,
				claim.Fact(
					"looked_"+string(d),
					"looked",
					document.Values{"direction": document.Term("direction." + string(d))},
					claim.Plain(document.P(document.PExact, claim.TailOf(*r.Tails, d), c.Level)),
				),
			)
		}
	}
	return out
}

// whiskers are the Wilson intervals of both shares, one under the other.
func (c Claim) whiskers(r *infer.TwoProportions, v document.Values) *document.Picture {
	w := &document.Whiskers{From: 100, To: 0}
	z := prob.NormalUpperQuantile((1 - r.Confidence) / 2)
	for _, g := range []struct {
		name  string
		x, n  int64
		share float64
	}{{c.First, r.Successes1, r.N1, r.Estimate1}, {c.Second, r.Successes2, r.N2, r.Estimate2}} {
		i := infer.Wilson(g.x, g.n, z)
		lower, upper := 100*i.Lower, 100*i.Upper
		w.From, w.To = math.Min(w.From, lower), math.Max(w.To, upper)
		w.Rows = append(
			w.Rows,
			document.Whisker{Name: claim.Plain(document.Text(g.name)), Lower: lower, Estimate: 100 * g.share, Upper: upper,
				Text: document.Say("value", document.Values{"value": {Kind: document.Range, Number: lower, Upper: upper}})},
		)
	}
	room := 0.06 * (w.To - w.From)
	w.From, w.To = math.Max(0, w.From-room), math.Min(100, w.To+room)
	return &document.Picture{
		Kind:     document.WhiskersPicture,
		Alt:      document.Say("chart.whiskers.alt_two", v),
		Axis:     document.Say("chart.whiskers.axis", v),
		Whiskers: w,
	}
}

func (c Claim) working(r *infer.TwoProportions, z, critical float64, v document.Values) (out []document.Message) {
	v["pooled"], v["se"], v["critical"] = document.Of(
		document.Exact,
		r.Pooled,
	), document.Of(
		document.Exact,
		r.StandardErrorPooled,
	), document.Of(
		document.Statistic,
		critical,
	)
	v["e"], v["e2"], v["d"] = document.Of(
		document.Exact,
		r.Estimate1,
	), document.Of(
		document.Exact,
		r.Estimate2,
	), document.Of(
		document.Exact,
		r.Difference,
	)
	v["far"], v["h"] = document.Of(document.Statistic, math.Abs(z)), document.Of(document.Statistic, *r.CohensH.Value)
	one := r.Tails.Greater
	if z < 0 {
		one = r.Tails.Less
	}
	v["one"], v["p"] = document.P(
		document.PExact,
		one,
		c.Level,
	), document.P(
		document.PEqual,
		claim.TailOf(*r.Tails, c.Direction),
		c.Level,
	)
	for _, id := range []string{"shares", "pooled", "se", "z", "p_" + string(c.Direction), "critical_" + string(c.Direction), "h"} {
		out = append(out, document.Say("working.two_proportions."+id, v))
	}
	return out
}

func (c Claim) notes(r *infer.TwoProportions, decided claim.Verdict, serves bool, v document.Values) []document.Note {
	var out claim.NotesOf
	v["smallest"] = document.N(int64(r.Conditions[0].Found))
	switch {
	case serves:
		out.Add(document.Conditions, "two_proportions.good", v)
	case r.Exact != nil:
		out.Caution(document.Conditions, "two_proportions.poor", v)
	default:
		out.Caution(document.Conditions, "two_proportions.poor_alone", v)
	}
	if others := c.Answered - r.N1 - r.N2; others > 0 {
		out.Add(
			document.Figures,
			"two_proportions.others",
			document.Values{"n": document.N(others), "groups": c.Groups.Groups(), "units": c.Units},
		)
	}
	if missing := c.Asked - c.Answered; missing > 0 {
		out.Add(
			document.Figures,
			"missing_left_out",
			document.Values{
				"missing":  document.N(missing),
				"everyone": document.N(c.Asked),
				"percent":  document.Of(document.Percent, 100*float64(missing)/float64(c.Asked)),
				"units":    c.Units,
			},
		)
	}
	decided.Differ(&out, texts)
	if len(c.Looked) > 0 {
		out.Caution(document.Decision, "one_proportion.looked", nil)
	}
	out.Unweighted(c.About)
	if decided.Rejected() {
		out.Add(
			document.Decision,
			"two_proportions.size"+claim.Tiny(*r.CohensH.Value),
			document.Values{
				"n":      document.N(r.N1 + r.N2),
				"points": v["points"],
				"h":      document.Of(document.Effect, *r.CohensH.Value),
			},
		)
		return out
	}
	out.Add(document.Decision, "two_proportions.not_proving", v)
	if nearest, ok := c.Nearest(r.Estimate1, func(d plan.Direction) (below, above *float64) {
		return plan.DetectableSecondShare(r.Estimate1, float64(r.N1), float64(r.N2), c.Level, claim.UsualPower, d)
	}); ok {
		out.Add(
			document.Decision,
			"two_proportions.detectable",
			document.Values{
				"points": document.Of(document.Points, 100*nearest),
				"share":  v["share"],
				"level":  v["level"],
				"n":      v["n"],
				"n2":     v["n2"],
			},
		)
	}
	return out
}
