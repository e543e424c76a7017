package planning

import (
	"math"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/plan"
	"widetally/core/say"
)

// Find is what a plan is to find from the rest.
type Find string

// What can be found.
const (
	FindNumber    Find = "n"         // of respondents
	FindPower     Find = "power"     // the chance of finding a departure
	FindDeparture Find = "departure" // the smallest that is found, or the margin of error
)

// Finds lists them in the order in which they are offered.
var Finds = []Find{FindNumber, FindPower, FindDeparture}

// Planned is a plan: how many to ask, or what so many would find.
type Planned struct {
	claim.About
	Find Find
	// Asked is the power that was asked for; nil where it was found.
	Asked *float64
	Level float64
}

// sidedness says in which direction a planned test asks.
func sidedness(d plan.Direction) document.Value {
	return document.Term(
		"plan.sided." + map[plan.Direction]string{plan.TwoSided: "two", plan.Less: "less", plan.Greater: "greater"}[d],
	)
}

// document puts the parts together; curve is the power over the number of respondents.
func (c Planned) document(
	id string,
	v document.Values,
	facts []document.Fact,
	n int64,
	power float64,
	curve func(n float64) float64,
	notes claim.NotesOf,
) document.Document {
	said := document.Say("plan."+id+"."+string(c.Find), v)
	return document.Document{Blocks: []document.Block{
		{Kind: document.Sentence, Said: []document.Message{said}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Chart, Chart: c.curve(n, power, curve, v)},
		{Kind: document.WriteUp, Said: []document.Message{said}},
	}, Notes: notes}
}

// curve draws the power over the number of respondents, with the point of the plan.
func (c Planned) curve(n int64, power float64, of func(n float64) float64, v document.Values) *document.Picture {
	const steps = 80
	end := 2 * float64(n)
	d := &document.Plot{From: 0, To: end, Top: 100, Up: say.ChartPlotUpPower()}
	line := document.PlotLine{}
	for i := 1; i <= steps; i++ {
		x := end * float64(i) / steps
		line.Points = append(line.Points, document.Point{X: x, Y: 100 * of(x)})
	}
	d.Lines = append(d.Lines, line)
	if c.Asked != nil {
		d.Lines = append(
			d.Lines,
			document.PlotLine{Thin: true, Points: []document.Point{{X: 0, Y: 100 * *c.Asked}, {X: end, Y: 100 * *c.Asked}}},
		)
	}
	d.Points = []document.Point{{X: float64(n), Y: 100 * power}}
	v["n"], v["reached"] = document.N(n), claim.PercentOf(power)
	return &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_power", v),
		Axis: say.ChartPlotAxisPower(),
		Plot: d,
	}
}

func (c Planned) values(n int64, power float64) document.Values {
	v := document.Values{"n": document.N(n), "power": claim.PercentOf(power), "level": document.Of(document.Level, c.Level)}
	if c.Asked != nil {
		v["power"] = claim.PercentOf(*c.Asked)
	}
	return v
}

// detected says which shares would be found, below and above another one.
func detected(below, above *float64) document.Value {
	v, id := document.Values{}, "plan.below"
	switch {
	case below != nil && above != nil:
		id = "plan.below_or_above"
	case above != nil:
		id = "plan.above"
	}
	if below != nil {
		v["below"] = claim.PercentOf(*below)
	}
	if above != nil {
		v["above"] = claim.PercentOf(*above)
	}
	said := document.Say(id, v)
	return document.Value{Kind: document.Said, Message: &said}
}

// Share says what a plan for the test of one share comes to.
func (c Planned) Share(r *plan.OneProportion, curve func(n float64) float64) document.Document {
	v := c.values(r.N, r.Power)
	v["sided"] = sidedness(r.Direction)
	v["claimed"], v["true"], v["reached"] = claim.PercentOf(r.Claimed), claim.PercentOf(r.True), claim.PercentOf(r.Power)
	if c.Find == FindDeparture {
		v["found"] = detected(r.DetectBelow, r.DetectAbove)
	}
	facts := []document.Fact{
		claim.Fact("n", "respondents", nil, claim.Plain(document.N(r.N))),
		claim.Fact("power", "power_normal", nil, claim.Plain(claim.PercentOf(r.Power))),
	}
	if r.NUnrounded != nil {
		facts = append(
			facts,
			claim.Fact("unrounded", "before_rounding", nil, claim.Plain(document.Of(document.Amount, *r.NUnrounded))),
		)
	}
	var notes claim.NotesOf
	if r.Exact != nil {
		facts = append(
			facts,
			claim.Fact("exact_power", "power_binomial", nil, claim.Plain(claim.PercentOf(r.Exact.Power))),
			claim.Fact("size", "risk_binomial", nil, claim.Plain(claim.PercentOf(r.Exact.Size))),
		)
		notes.Add(document.Facts, "plan.saw", nil)
	}
	if r.ExactN != nil {
		facts = append(facts, claim.Fact("exact_n", "respondents_binomial", nil, claim.Plain(document.N(*r.ExactN))))
	}
	facts = told(facts, &notes, r.N, r.DesignEffect)
	notes.Add(document.Sentence, "plan.answers", nil)
	return c.document("share", v, facts, r.N, r.Power, curve, notes)
}

// TwoShares says what a plan for the comparison of two shares comes to.
func (c Planned) TwoShares(r *plan.TwoProportions, curve func(n float64) float64) document.Document {
	v := c.values(r.N1, r.Power)
	v["sided"] = sidedness(plan.TwoSided)
	v["share1"], v["share2"], v["n2"] = claim.PercentOf(r.Share1), claim.PercentOf(r.Share2), document.N(r.N2)
	if c.Find == FindDeparture {
		v["found"] = detected(r.DetectBelow, r.DetectAbove)
	}
	facts := []document.Fact{
		claim.Fact("n", "respondents_groups", nil, say.FactAnd(r.N1, r.N2)),
		claim.Fact("power", "power_normal", nil, claim.Plain(claim.PercentOf(r.Power))),
	}
	if r.NUnrounded != nil {
		facts = append(
			facts,
			claim.Fact("unrounded", "before_rounding", nil, claim.Plain(document.Of(document.Amount, *r.NUnrounded))),
		)
	}
	var notes claim.NotesOf
	if r.Exact != nil {
		facts = append(facts, claim.Fact("exact_power", "power_fisher", nil, claim.Plain(claim.PercentOf(r.Exact.FisherPower))))
	}
	if r.ExactN != nil {
		facts = append(facts, claim.Fact("exact_n", "respondents_fisher", nil, claim.Plain(document.N(*r.ExactN))))
	}
	facts = told(facts, &notes, r.N1+r.N2, r.DesignEffect)
	notes.Add(document.Sentence, "plan.answers", nil)
	return c.document("two_shares", v, facts, r.N1, r.Power, curve, notes)
}

// ChiSquare says what a plan for a chi-square test comes to.
func (c Planned) ChiSquare(r *plan.ChiSquare, curve func(n float64) float64) document.Document {
	v := c.values(r.N, r.Power)
	v["w"], v["df"] = document.Of(document.Statistic, r.W), document.N(int64(r.DF))
	facts := []document.Fact{
		claim.Fact(
			"n",
			"respondents",
			nil,
			claim.Plain(document.N(r.N)),
		), claim.Fact("power", "power", nil, claim.Plain(claim.PercentOf(r.Power))), claim.Fact("w", "w", nil, claim.Plain(v["w"])),
		claim.Fact(
			"critical",
			"critical",
			document.Values{"level": v["level"]},
			claim.Plain(document.Of(document.Statistic, r.CriticalValue)),
		), claim.Fact("noncentrality", "noncentrality", nil, claim.Plain(document.Of(document.Statistic, r.Noncentrality))),
	}
	var notes claim.NotesOf
	facts = told(facts, &notes, r.N, r.DesignEffect)
	notes.Add(document.Facts, "plan.w", nil)
	notes.Add(document.Sentence, "plan.answers", nil)
	return c.document("chi_square", v, facts, r.N, r.Power, curve, notes)
}

// Margin says what margin of error so many respondents give, or how many it needs.
func (c Planned) Margin(r *plan.Margin) document.Document {
	v := document.Values{
		"n":          document.N(r.N),
		"points":     document.Of(document.Points, 100*r.Margin),
		"share":      claim.PercentOf(r.Share),
		"confidence": document.Of(document.Level, r.Confidence),
		"population": document.N(r.Population),
	}
	id := "plan.margin." + string(c.Find)
	if r.Population > 0 {
		id += "_of"
	}
	said := document.Say(id, v)
	facts := []document.Fact{
		claim.Fact("n", "respondents", nil, claim.Plain(v["n"])),
		claim.Fact("margin", "margin_of_error", nil, say.FactPlusMinus(v["points"])),
	}
	if r.NUnrounded != nil {
		facts = append(
			facts,
			claim.Fact("unrounded", "before_rounding", nil, claim.Plain(document.Of(document.Amount, *r.NUnrounded))),
		)
	}
	if r.NFinite != nil {
		facts = append(
			facts,
			claim.Fact("finite", "respondents_finite", nil, claim.Plain(document.Of(document.Amount, *r.NFinite))),
		)
	}
	if r.Population > 0 {
		facts = append(
			facts,
			claim.Fact("correction", "correction", nil, claim.Plain(document.Of(document.Statistic, r.Correction))),
		)
	}
	const steps = 80
	end := 2 * float64(r.N)
	if r.Population > 0 {
		end = math.Min(end, float64(r.Population))
	}
	d := &document.Plot{
		From:   0,
		To:     end,
		Up:     say.ChartPlotUpMargin(),
		Points: []document.Point{{X: float64(r.N), Y: 100 * r.Margin}},
	}
	line := document.PlotLine{}
	for i := 4; i <= steps; i++ {
		n := end * float64(i) / steps
		correction := 1.0
		if r.Population > 0 {
			correction = math.Sqrt((float64(r.Population) - n) / float64(r.Population-1))
		}
		y := 100 * r.Z * math.Sqrt(r.DesignEffect*r.Share*(1-r.Share)/n) * correction
		line.Points = append(line.Points, document.Point{X: n, Y: y})
		d.Top = math.Max(d.Top, y)
	}
	d.Lines = []document.PlotLine{line}
	picture := &document.Picture{
		Kind: document.PlotPicture,
		Alt:  document.Say("chart.plot.alt_margin", v),
		Axis: say.ChartPlotAxisPower(),
		Plot: d,
	}
	var notes claim.NotesOf
	facts = told(facts, &notes, r.N, r.DesignEffect)
	if r.Share != 0.5 {
		notes.Add(document.Sentence, "plan.half", nil)
	}
	notes.Add(document.Sentence, "plan.answers", nil)
	return document.Document{
		Blocks: []document.Block{
			{Kind: document.Sentence, Said: []document.Message{said}},
			{Kind: document.Facts, Facts: facts},
			{Kind: document.Chart, Chart: picture},
			{Kind: document.WriteUp, Said: []document.Message{said}},
		},
		Notes: notes,
	}
}
