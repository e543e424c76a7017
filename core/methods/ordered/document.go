package ordered

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/prob"
)

// OrderedForm is what is claimed of ordered answers in groups.
type OrderedForm string

// The forms.
const (
	Shift OrderedForm = "shift" // they stand higher in some groups than in others
	Trend OrderedForm = "trend" // they rise or fall along groups that have an order, too
)

// OrderedForms lists the forms in the order in which they are offered.
var OrderedForms = []OrderedForm{Shift, Trend}

// Claim is a claim about ordered answers in groups. The crossing has the groups in its
// rows and no test of its own.
type Claim struct {
	crosstab.Crossing
	Form  OrderedForm
	Role  claim.Role
	Level float64
	// Scored says that scores were given to the answers, which a trend then goes by.
	Scored bool
}

func (c Claim) values() document.Values {
	v := c.Crossing.Values()
	v["level"] = document.Of(document.Level, c.Level)
	return v
}

// Statement is what the claim says.
func (c Claim) Statement() document.Message {
	return document.Say("claim.ordered."+string(c.Form)+"."+string(c.Role), c.values())
}

// Document says what a result means. A shift goes by the ranks (Kruskal and Wallis 1952; with
// two groups Wilcoxon 1945, Mann and Whitney 1947), a trend by the linear association of the
// scores (Mantel 1963); r must have the one that is claimed.
func (c Claim) Document(r *infer.Ordered) document.Document {
	t := crosstab.AddUp(c.Counts, len(c.ColumnLabels))
	statistic, df, p, rejected := r.Ranks.H, r.Ranks.DF, r.Ranks.P, r.Ranks.Reject
	if c.Form == Trend {
		statistic, df, p, rejected = r.Trend.Statistic, r.Trend.DF, r.Trend.P, r.Trend.Reject
	}
	critical := prob.ChiSquareUpperQuantile(c.Level, float64(df))
	v := c.values()
	v["n"], v["left"], v["df"] = document.N(t.N), document.N(c.Everyone-t.N), document.N(int64(df))
	v["statistic"], v["p"], v["critical"] = document.Of(
		document.Statistic,
		statistic,
	), document.P(
		document.PEqual,
		p,
		c.Level,
	), document.Of(
		document.Statistic,
		critical,
	)
	basis := "basis.crossing"
	if c.Everyone == t.N {
		basis = "basis.crossing_all"
	}
	form := "ordered." + string(c.Form)
	decided, _ := claim.ChiSquareVerdict(statistic, critical, p, c.Level, infer.Advice{}, nil)
	finding := []document.Message{document.Say("finding."+form+"."+string(c.Role)+"."+claim.Outcome(rejected), v)}
	few := c.few(r, t)
	if few != nil {
		v["smallest"], v["few"] = document.N(int64(few.Found)), document.N(int64(few.Needed))
		finding = append(finding, document.Say("finding.doubt."+form, v))
	}
	reading := c.direction(r, t, v)
	facts := []document.Fact{
		claim.Fact("statistic", "statistic", nil, document.Say("fact."+form, document.Values{"x": v["statistic"]})),
		claim.Fact("df", "df", nil, claim.Plain(v["df"])),
		claim.PFact(p, c.Level),
		claim.Fact(
			"critical",
			"critical",
			document.Values{"level": document.Of(document.Level, c.Level)},
			claim.Plain(v["critical"]),
		),
	}
	facts = append(facts, c.effects(r)...)
	journal := document.Say("finding."+form+".journal", v)
	d := document.Document{Blocks: []document.Block{
		{Kind: document.Basis, Said: []document.Message{document.Say(basis, v)}},
		claim.Hypotheses(form, c.Role, v),
		{Kind: document.Sentence, Said: finding},
		{Kind: document.Choices, Choices: c.Readings()},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: c.Table(t, nil, claim.Verdict{})},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Chart, Chart: claim.ChiSquarePicture(statistic, critical, df, rejected, v["p"])},
		decided.Block(),
		{Kind: document.Working, Said: c.working(r, v, rejected)},
		{Kind: document.WriteUp, Said: append(slices.Clone(finding), reading, journal)},
	}, Outcome: decided.Outcome("null")}
	var notes claim.NotesOf
	notes.Add(document.Sentence, form, v)
	if few != nil {
		notes.Caution(document.Conditions, "ordered.few_"+string(c.Form), v)
	}
	if c.Form == Trend && !c.Scored {
		notes.Add(document.Conditions, "ordered.scores", nil)
	}
	c.LeftOut(&notes, t)
	notes.Unweighted(c.About)
	d.Notes = notes
	return d
}

// fewForTrend is the number of respondents below which the chi-square distribution of a trend is
// said to be rough: our own convention, for none is in general use.
const fewForTrend = 20

// few is the condition that does not hold; nil where all do.
func (c Claim) few(r *infer.Ordered, t crosstab.Crossed) *infer.Condition {
	if c.Form == Trend {
		if t.N < fewForTrend {
			return &infer.Condition{Found: float64(t.N), Needed: fewForTrend}
		}
		return nil
	}
	for _, k := range r.Ranks.Conditions {
		if !k.Met {
			return &k
		}
	}
	return nil
}

// direction says which way the answers go: of a shift the groups with the lowest and the
// highest mean rank, of a trend whether they rise or fall.
func (c Claim) direction(r *infer.Ordered, t crosstab.Crossed, v document.Values) document.Message {
	if c.Form == Trend {
		id := "read.ordered.flat"
		switch {
		case r.Trend.Correlation > 0:
			id = "read.ordered.rises"
		case r.Trend.Correlation < 0:
			id = "read.ordered.falls"
		}
		v["r"] = document.Of(document.Statistic, r.Trend.Correlation)
		return document.Say(id, v)
	}
	low, high := 0, 0
	for i, mean := range r.Ranks.MeanRanks {
		if mean < r.Ranks.MeanRanks[low] {
			low = i
		}
		if mean > r.Ranks.MeanRanks[high] {
			high = i
		}
	}
	if r.Ranks.MeanRanks[low] == r.Ranks.MeanRanks[high] {
		return document.Say("read.ordered.alike", v)
	}
	at := func(i int) (document.Value, document.Value) {
		row := r.RowsUsed[i]
		return document.Text(c.RowLabels[row]), document.N(t.RowSum[row])
	}
	v["group"], v["base"] = at(high)
	v["group2"], v["base2"] = at(low)
	v["rank"], v["rank2"] = document.Of(
		document.Amount,
		r.Ranks.MeanRanks[high],
	), document.Of(
		document.Amount,
		r.Ranks.MeanRanks[low],
	)
	return document.Say("read.ordered.apart", v)
}

func (c Claim) effects(r *infer.Ordered) (out []document.Fact) {
	if c.Form == Trend {
		out = append(
			out,
			claim.Fact("correlation", "correlation", nil, claim.Plain(document.Of(document.Statistic, r.Trend.Correlation))),
		)
		return append(out, claim.EffectFact("gamma", infer.Measure(r.Effects, infer.Gamma), 1-c.Level))
	}
	out = append(out, claim.Fact("epsilon", "epsilon", nil, claim.Plain(document.Of(document.Statistic, r.Ranks.EpsilonSquared))))
	if r.Ranks.Pair != nil {
		superiority := claim.EffectFact("superiority", r.Ranks.Pair.Superiority, 1-c.Level)
		superiority.Name.Values = document.Values{
			"first":  document.Text(c.RowLabels[r.RowsUsed[0]]),
			"second": document.Text(c.RowLabels[r.RowsUsed[1]]),
		}
		out = append(out, superiority)
	}
	return out
}

func (c Claim) working(r *infer.Ordered, v document.Values, rejected bool) (out []document.Message) {
	say := func(id string, more document.Values) {
		all := document.Values{}
		for _, m := range []document.Values{v, more} {
			for k, x := range m {
				all[k] = x
			}
		}
		out = append(out, document.Say("working.ordered."+id, all))
	}
	if c.Form == Trend {
		say("trend", document.Values{"r": document.Of(document.Exact, r.Trend.Correlation)})
	} else {
		for i, mean := range r.Ranks.MeanRanks {
			say("rank", document.Values{"group": document.Text(c.RowLabels[r.RowsUsed[i]]), "rank": document.Of(document.Exact, mean)})
		}
		say("shift", document.Values{"ties": document.Of(document.Exact, r.Ranks.Ties)})
		say("epsilon", document.Values{"epsilon": document.Of(document.Statistic, r.Ranks.EpsilonSquared)})
	}
	say("p", nil)
	say(claim.Outcome(rejected), nil)
	return out
}
