package ordered

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Estimate is how ordered answers stand in the groups of a population.
type Estimate struct {
	// Groups are the mean scores, or the mean ranks in the population for a shift.
	*design.Groups
	Intervals []*infer.Interval
	// Shift is the test that all groups stand equally high: for two groups that of Lumley and Scott
	// (2013), for more its statistic corrected for the design.
	Shift *infer.RaoScott
	// Slope and Trend are the regression of the score on that of the group, with its t test; the
	// correlation is that of the scores.
	Slope       design.Estimate
	Trend       *infer.TTest
	Interval    *infer.Interval
	Correlation float64
}

// scores are those of the answers of a question: as declared, or 1, 2, 3 and so on.
func scores(declared []float64, answers int) []float64 {
	if declared != nil {
		return declared
	}
	out := make([]float64, answers)
	for i := range out {
		out[i] = float64(i + 1)
	}
	return out
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	answers, groups := len(c.Questions[0].Proper()), len(c.Questions[1].Proper())
	score := scores(analysis.ScoresOf(c.Questions[0]), answers)
	if s.Form == Shift {
		score = design.MidRanks(c.Cells.Merged(answers, func(cell int) int { return cell / groups }).Shares().Share)
	}
	y := func(cell int) float64 { return score[cell/groups] }
	group := func(cell int) int { return cell % groups }
	e := &Estimate{Groups: c.Cells.Groups(groups, y, group)}
	df, confidence := float64(c.Cells.DF), 1-float64(s.Level)
	for i, m := range e.Value {
		e.Intervals = append(e.Intervals, infer.TInterval(m, e.SE(i), df, confidence))
	}
	refused := func(why infer.Reason) (*analysis.Outcome, error) {
		return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, why, -1)}, nil
	}
	if len(e.At) < 2 {
		return refused(infer.OneRowOrColumn)
	}
	if s.Form == Trend {
		of := scores(analysis.ScoresOf(c.Questions[1]), groups)
		var err error
		e.Slope, e.Correlation, err = c.Cells.Slope(y, func(cell int) float64 { return of[group(cell)] })
		if err != nil {
			return refused(infer.OneRowOrColumn)
		}
		t := infer.ComputeTTest(e.Slope.Value, e.Slope.SE(), df)
		if e.Trend, e.Interval = &t, infer.TInterval(e.Slope.Value, e.Slope.SE(), df, confidence); t.T == nil {
			return refused(infer.NoDesignVariance)
		}
		return &analysis.Outcome{Result: e}, nil
	}
	d, v, simple := e.Apart()
	if e.Shift = infer.ComputeCorrected(d, v, simple, c.Cells.DF, float64(s.Level)); e.Shift == nil || e.Shift.SecondFP == nil {
		return refused(infer.NoDesignVariance)
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Everyone, c.NoRow, c.NoColumn = o.Counted.Crosstab.Everyone()
	return c.estimated(o.Result.(*Estimate), o.Counted.Sampled)
}

// estimated says what the estimate means.
func (c Claim) estimated(e *Estimate, by claim.Sampled) document.Document {
	v := c.values()
	v["n"], v["confidence"] = document.N(by.Base.N), document.Of(document.Level, 1-c.Level)
	high, low := 0, 0
	for i, m := range e.Value {
		if m > e.Value[high] {
			high = i
		}
		if m < e.Value[low] {
			low = i
		}
	}
	name := func(i int) document.Value { return document.Text(c.RowLabels[e.At[i]]) }
	v["group"], v["mean"] = name(high), document.Of(document.Exact, e.Value[high])
	v["group2"], v["mean2"] = name(low), document.Of(document.Exact, e.Value[low])
	var decided claim.Verdict
	var facts []document.Fact
	working := []document.Message{by.Variance()}
	var reading, journal document.Message
	var effect *float64
	if c.Form == Trend {
		critical := claim.Stated{Level: c.Level, Direction: claim.Different}
		at := critical.Critical(func(a float64) float64 { return prob.StudentUpperQuantile(a, float64(by.Base.DF)) })
		v["t"], v["df"] = document.Of(document.Statistic, *e.Trend.T), document.N(int64(by.Base.DF))
		v["p"] = document.P(document.PEqual, *e.Trend.TwoSided, c.Level)
		v["slope"], v["r"] = document.Of(document.Statistic, e.Slope.Value), document.Of(document.Statistic, e.Correlation)
		v["lower"], v["upper"] = document.Of(document.Statistic, e.Interval.Lower), document.Of(document.Statistic, e.Interval.Upper)
		decided = claim.Verdict{Level: c.Level, Ways: []claim.Way{
			claim.ByP("designed_t_p", *e.Trend.TwoSided, c.Level),
			claim.By("designed_t", v["t"], critical.AgainstCritical(at), critical.Beyond(*e.Trend.T, at)),
		}}
		reading = document.Say("read.ordered_estimated."+[]string{"flat", "rises", "falls"}[claim.Sign(e.Slope.Value)], v)
		journal = document.Say("finding.designed.trend", v)
		facts = []document.Fact{
			claim.Fact("slope", "slope", nil, say.FactWithIntervalOf(v["slope"], v["lower"], v["upper"])),
			claim.Fact("statistic", "t", nil, claim.Plain(v["t"])),
			claim.Fact("df", "df", nil, claim.Plain(v["df"])),
			claim.PFact(*e.Trend.TwoSided, c.Level),
			claim.Fact("correlation", "correlation", nil, claim.Plain(v["r"])),
		}
		working = append(working, say.WorkingDesignedSlope(e.Slope.Value, e.Slope.SE(), *e.Trend.T, int64(by.Base.DF), v["p"]))
	} else {
		decided = claim.RaoScottVerdict(e.Shift, c.Level)
		reading = document.Say("read.ordered_estimated.apart", v)
		if e.Value[high] == e.Value[low] {
			reading = document.Say("read.ordered.alike", v)
		}
		effect = &e.Shift.MeanDesignEffect
		apart := say.FindingDesignedRanks(e.Value[high], e.Value[low])
		journal = claim.RaoScottJournal(e.Shift, by.Base.N, c.Level, apart)
		facts = claim.RaoScottFacts(e.Shift, c.Level)
		working = claim.RaoScottWorking(e.Shift, by, c.Level)
	}
	finding := document.Say("finding.ordered."+string(c.Form)+"."+string(c.Role)+"."+claim.Outcome(decided.Rejected()), v)
	var notes claim.NotesOf
	by.Notes(&notes, c.About, effect)
	if c.Form == Trend && !c.Scored {
		notes.Add(document.Conditions, "ordered.scores", nil)
	}
	if c.Form == Shift {
		notes.Add(document.Decision, "designed.ranks", nil)
	}
	return document.Document{Blocks: []document.Block{
		by.Basis(c.About),
		claim.Hypotheses("ordered."+string(c.Form), c.Role, v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: c.means(e, v)},
		{Kind: document.Facts, Facts: facts},
		decided.Block(),
		{Kind: document.Working, Said: working},
		{Kind: document.WriteUp, Said: []document.Message{finding, reading, journal}},
	}, Notes: notes, Outcome: decided.Outcome("null")}
}

// means is the mean score, or rank, of each group.
func (c Claim) means(e *Estimate, v document.Values) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	caption, mean := "caption.ordered_scores", "estimated_mean"
	if c.Form == Shift {
		caption, mean = "caption.ordered_ranks", "estimated_rank"
	}
	t := &document.Table{
		Caption: document.Say(caption, v), Stub: claim.GroupsHead(c.Rows), Shown: []document.Role{document.Main},
		Columns: []document.Message{head("respondents"), head(mean), document.Say("column.interval_plain", v), head("standard_error_plain")},
	}
	for i, at := range e.At {
		between := document.Text("")
		if in := e.Intervals[i]; in != nil {
			said := say.FactFromTo(document.Of(document.Statistic, in.Lower), document.Of(document.Statistic, in.Upper))
			between = document.Value{Kind: document.Said, Message: &said}
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(c.RowLabels[at])), Cells: []document.Cell{
			document.One(document.N(e.N[i])), document.One(document.Of(document.Statistic, e.Value[i])),
			document.One(between), document.One(document.Of(document.Statistic, e.SE(i))),
		}})
	}
	return t
}
