package equivalence

import (
	"math"
	"math/big"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Claim is a claim that something lies within a margin that was fixed beforehand: a share
// by an expected one, two shares by each other, or all shares of a question by expected ones.
// That it does not is the null hypothesis, so that only evidence can show agreement.
type Claim struct {
	claim.About
	claim.Stated
	Question, Groups claim.Question
	Success          []string
	First, Second    string   // the labels of the two groups; "" for one share or a distribution
	Expected         *big.Rat // of one share; nil otherwise
	Source           string   // of the expected share or shares
	Margin           *big.Rat // 0–1
	// Labels are the answers of a distribution.
	Labels []string
}

// kind names the texts.
func (c Claim) kind() string {
	switch {
	case c.Expected != nil:
		return "equivalence.share"
	case c.Labels != nil:
		return "equivalence.distribution"
	}
	return "equivalence.two_shares"
}

func (c Claim) values() document.Values {
	v := document.Values{
		"units":    c.Units,
		"question": c.Question.Called(),
		"groups":   c.Groups.Groups(),
		"of":       claim.OfGroups(c.Groups),
		"first":    document.Text(c.First),
		"second":   document.Text(c.Second),
		"answers": claim.TheseAnswers(
			c.Question,
			c.Success,
		),
		"source": document.Text(c.Source),
		"margin": document.Text(claim.PointsText(c.Margin)),
	}
	if c.Expected != nil {
		v["expected"] = document.Text(claim.PercentText(c.Expected))
	}
	return v
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return claim.StatementOf(c.Clauses(c.kind(), c.values()))
}

// Document says what two one-sided tests mean, of one share or of two. It goes by the tests with
// the normal distribution, for one share below their conditions by the binomial ones.
func (c Claim) Document(r *infer.Equivalence, counts document.Values) document.Document {
	v := c.Clauses(c.kind(), c.values())
	for k, x := range counts {
		v[k] = x
	}
	decided, serves := c.decided(r, v)
	rejected := decided.Rejected()
	said := []document.Message{c.Finding(rejected, v)}
	switch {
	case serves:
	case r.ExactP != nil:
		said = append(said, document.Say("finding.equivalence.by_exact", v))
	default:
		said = append(said, document.Say("finding.doubt.counts", v))
	}
	v["p"] = decided.InText()
	v["away"], v["points"] = document.Of(
		document.Difference,
		100*r.Estimate,
	), document.Of(
		document.Points,
		100*math.Abs(r.Estimate),
	)
	v["lower"], v["upper"], v["confidence"] = document.Of(
		document.Difference,
		100*r.Interval.Lower,
	), document.Of(
		document.Difference,
		100*r.Interval.Upper,
	), document.Of(
		document.Level,
		1-2*c.Level,
	)
	reading := document.Say("read."+c.kind(), v)
	journal := document.Say("finding.equivalence.journal", v)
	facts := []document.Fact{
		claim.Fact("difference", "points_apart", nil, say.FactPointsInterval(v["away"], v["confidence"], v["lower"], v["upper"])),
	}
	facts = append(facts, decided.Facts(claim.Fact("p", "p_near", nil, claim.Plain(decided.Ways[0].Found)))...)
	var working []document.Message
	for _, side := range []struct {
		id string
		of *infer.OneSided
	}{{"not_below", r.NotBelow}, {"not_above", r.NotAbove}} {
		if side.of == nil {
			working = append(working, document.Say("working.equivalence."+side.id+"_none", v))
			continue
		}
		facts = append(
			facts,
			claim.Fact(
				side.id,
				side.id,
				document.Values{"margin": v["margin"]},
				say.FactZAndP(side.of.Z, document.P(document.PEqual, side.of.P, c.Level)),
			),
		)
		w := document.Values{
			"bound": document.Of(document.Exact, side.of.Bound),
			"z":     document.Of(document.Statistic, side.of.Z),
			"p":     document.P(document.PEqual, side.of.P, c.Level),
		}
		working = append(working, document.Say("working."+c.kind()+"."+side.id, w))
	}
	working = append(
		working,
		document.Say("working.equivalence.larger", v),
		document.Say("working.equivalence."+claim.Outcome(rejected), v),
	)
	d := document.Document{Blocks: []document.Block{
		c.Hypotheses(c.kind(), v),
		{Kind: document.Sentence, Said: said},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Chart, Chart: c.whiskers(r, v)},
		decided.BlockAt(1 - 2*c.Level),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: append(append([]document.Message{}, said...), reading, journal)},
	}, Outcome: decided.Outcome("null")}
	var notes claim.NotesOf
	smallest := math.Inf(1)
	for _, k := range r.Conditions {
		smallest = math.Min(smallest, k.Found)
	}
	v["smallest"] = document.Of(document.Amount, smallest)
	switch {
	case serves && c.Expected == nil: // by the answers that were given, of either kind in each group
		notes.Add(document.Conditions, "equivalence.good_counts", v)
	case serves:
		notes.Add(document.Conditions, "equivalence.good", v)
	case r.ExactP != nil:
		notes.Caution(document.Conditions, "equivalence.poor", v)
	default:
		notes.Caution(document.Conditions, "equivalence.poor_alone", v)
	}
	c.common(&notes, rejected, math.Abs(r.Estimate) < r.Margin, v)
	decided.Differ(&notes, "equivalence")
	d.Notes = notes
	return d
}

// decided are the ways to decide: the larger of both p, the interval within the margin, and for
// one share the larger binomial p, which decides where the normal distribution does not serve.
func (c Claim) decided(r *infer.Equivalence, v document.Values) (d claim.Verdict, serves bool) {
	serves = true
	for _, k := range r.Conditions {
		serves = serves && k.Met
	}
	interval := say.FactFromTo(
		document.Of(document.Difference, 100*r.Interval.Lower),
		document.Of(document.Difference, 100*r.Interval.Upper),
	)
	margin := document.Say("fact.margin", v)
	d = claim.Verdict{Level: c.Level, Ways: []claim.Way{claim.ByP("near_p", r.P, c.Level),
		claim.By(
			"near_interval",
			document.Value{Kind: document.Said, Message: &interval},
			document.Value{Kind: document.Said, Message: &margin},
			r.Interval.Lower > -r.Margin && r.Interval.Upper < r.Margin,
		)}}
	if r.ExactP != nil {
		d.Ways = append(d.Ways, claim.ByP("near_exact", *r.ExactP, c.Level))
		if !serves {
			d.GoBy("near_exact")
		}
	}
	return d, serves
}

// common are the notes of every kind: what not having shown it means, and what nobody can see
// in the numbers.
func (c Claim) common(notes *claim.NotesOf, rejected, inside bool, v document.Values) {
	notes.Add(document.Shares, "equivalence.beforehand", v)
	switch {
	case rejected:
		notes.Add(document.Decision, "equivalence.shown", v)
	case inside:
		notes.Add(document.Decision, "equivalence.not_shown", v)
	default:
		notes.Add(document.Decision, "equivalence.outside", v)
	}
	notes.Unweighted(c.About)
}

// whiskers is the interval of the departure with the margin on both sides of 0.
func (c Claim) whiskers(r *infer.Equivalence, v document.Values) *document.Picture {
	margin := 100 * r.Margin
	w := &document.Whiskers{Reference: &document.Line{At: 0, Label: say.ChartWhiskersNoneAway()}}
	add := func(name document.Message, lower, at, upper float64) {
		said := say.FactFromTo(document.Of(document.Difference, lower), document.Of(document.Difference, upper))
		w.Rows = append(w.Rows, document.Whisker{Name: name, Lower: lower, Estimate: at, Upper: upper, Text: said})
	}
	add(document.Say("chart.whiskers.departure", v), 100*r.Interval.Lower, 100*r.Estimate, 100*r.Interval.Upper)
	add(document.Say("chart.whiskers.margin", v), -margin, 0, margin)
	w.To = 1.08 * math.Max(margin, math.Max(math.Abs(100*r.Interval.Lower), math.Abs(100*r.Interval.Upper)))
	w.From = -w.To
	return &document.Picture{
		Kind:     document.WhiskersPicture,
		Alt:      document.Say("chart.whiskers.alt_near", v),
		Axis:     document.Say("chart.whiskers.axis_near", v),
		Whiskers: w,
	}
}

// Distribution says what the tests of all shares mean. All must lie within the margin, each at
// the whole level; the answer that lies furthest from showing it decides.
func (c Claim) Distribution(r *infer.DistributionEquivalence, observed []int64) document.Document {
	v := c.Clauses(c.kind(), c.values())
	serves := true
	for _, a := range r.Answers {
		for _, k := range a.Conditions {
			serves = serves && k.Met
		}
	}
	decided := claim.Verdict{
		Level: c.Level,
		Ways:  []claim.Way{claim.ByP("near_p", r.P, c.Level), claim.ByP("near_exact", r.ExactP, c.Level)},
	}
	if !serves {
		decided.GoBy("near_exact")
	}
	rejected := decided.Rejected()
	total := int64(0)
	for _, n := range observed {
		total += n
	}
	v["p"], v["n"], v["answers"], v["answer"] = decided.InText(), document.N(
		total,
	), document.N(
		int64(len(r.Answers)),
	), document.Text(
		c.Labels[r.FurthestAt],
	)
	v["points"], v["confidence"] = document.Of(
		document.Points,
		100*math.Abs(r.Answers[r.FurthestAt].Estimate),
	), document.Of(
		document.Level,
		1-2*c.Level,
	)
	said := []document.Message{c.Finding(rejected, v)}
	if !serves {
		said = append(said, document.Say("finding.equivalence.by_exact", v))
	}
	head := func(id string) document.Message { return document.Say("column."+id, v) }
	t := &document.Table{
		Caption: document.Say("caption.equivalence", v),
		Stub:    head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{
			head("observed"),
			head("share"),
			head("points_from"),
			head("departure_interval"),
			head("within_margin"),
		},
	}
	inside, working := true, []document.Message{}
	for i, a := range r.Answers {
		shown := a.Equivalent
		if !serves && a.ExactEquivalent != nil {
			shown = *a.ExactEquivalent
		}
		inside = inside && math.Abs(a.Estimate) < r.Margin
		interval := say.FactFromTo(
			document.Of(document.Difference, 100*a.Interval.Lower),
			document.Of(document.Difference, 100*a.Interval.Upper),
		)
		share := float64(observed[i])/float64(total) - a.Estimate
		t.Rows = append(
			t.Rows,
			document.Row{
				Name: claim.Plain(document.Text(c.Labels[i])),
				Cells: []document.Cell{
					document.One(document.N(observed[i])),
					document.One(document.Of(document.Share, share)),
					document.One(document.Of(document.Difference, 100*a.Estimate)),
					document.One(
						document.Value{Kind: document.Said, Message: &interval},
					),
					document.One(document.Term("mark.within." + claim.Outcome(shown))),
				},
			},
		)
		working = append(
			working,
			say.WorkingEquivalenceAnswer(c.Labels[i], 100*a.Estimate, document.P(document.PEqual, a.P, c.Level)),
		)
	}
	working = append(
		working,
		document.Say("working.equivalence.largest", v),
		document.Say("working.equivalence."+claim.Outcome(rejected), v),
	)
	reading := document.Say("read.equivalence.distribution", v)
	d := document.Document{Blocks: []document.Block{
		c.Hypotheses(c.kind(), v),
		{Kind: document.Sentence, Said: said},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Facts, Facts: decided.Facts(claim.Fact("p", "p_near", nil, claim.Plain(decided.Ways[0].Found)))},
		decided.BlockAt(1 - 2*c.Level),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: append(append([]document.Message{}, said...), reading)},
	}, Outcome: decided.Outcome("null")}
	var notes claim.NotesOf
	if serves {
		notes.Add(document.Conditions, "equivalence.good_all", v)
	} else {
		notes.Caution(document.Conditions, "equivalence.poor_all", v)
	}
	notes.Add(document.Conditions, "equivalence.no_adjustment", v)
	notes.LeftOut(c.About, total)
	c.common(&notes, rejected, inside, v)
	d.Notes = notes
	return d
}
