package goodnessoffit

import (
	"math"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
	"widetally/core/shares"
)

// Estimate is the departures of estimated shares from the expected ones.
type Estimate struct {
	// Answers are the places of the answers with an expected share.
	Answers  []int
	Shares   *design.Shares
	Expected []float64
	T        []infer.TTest
	HolmP    []*prob.Prob // nil without variance
	Test     *infer.RaoScott
	// CohensW is √Σ(p − π)²/π.
	CohensW float64
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	aligned := s.Shares.Align(c.Questions[0])
	e := &Estimate{}
	refused := func(why infer.Reason, at int) (*analysis.Outcome, error) {
		return &analysis.Outcome{Refusal: analysis.RefuseInput("goodness of fit", why, at)}, nil
	}
	place := map[int]int{}
	for i, share := range aligned.Shares {
		if share.Sign() > 0 {
			x, _ := share.Float64()
			place[i] = len(e.Answers)
			e.Answers, e.Expected = append(e.Answers, i), append(e.Expected, x)
		} else if c.Cells.Count[i] > 0 {
			return refused(infer.ChosenButShareZero, i)
		}
	}
	if len(e.Answers) < 2 {
		return refused(infer.OneAnswerAfterZeros, -1)
	}
	e.Shares = c.Cells.Merged(len(e.Answers), func(cell int) int { return place[cell] }).Shares()
	in := infer.RaoScottInput{
		N: e.Shares.N, Expected: e.Expected, Covariance: e.Shares.Covariance, DF: e.Shares.DF, Level: float64(s.Level),
	}
	var tails []prob.Prob
	for j, p := range e.Shares.Share {
		away := p - e.Expected[j]
		in.Departure = append(in.Departure, away)
		e.CohensW += away / e.Expected[j] * away
		if j < len(e.Answers)-1 {
			in.Free = append(in.Free, j)
		}
		t := infer.ComputeTTest(away, e.Shares.SE(j), float64(e.Shares.DF))
		if e.T = append(e.T, t); t.TwoSided != nil {
			tails = append(tails, *t.TwoSided)
		}
	}
	e.CohensW = math.Sqrt(e.CohensW)
	if e.Test = infer.ComputeRaoScott(in); e.Test.SecondFP == nil {
		return refused(infer.NoDesignVariance, -1)
	}
	adjusted := infer.Holm(tails)
	for _, t := range e.T {
		var p *prob.Prob
		if t.TwoSided != nil {
			p, adjusted = &adjusted[0], adjusted[1:]
		}
		e.HolmP = append(e.HolmP, p)
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).estimated(o.Result.(*Estimate), o.Counted.Sampled, float64(s.Level))
}

// strata parts the variance of the share that lies furthest from its expected one.
func (c Claim) strata(e *Estimate, by claim.Sampled) []document.Message {
	furthest := 0
	for j, p := range e.Shares.Share {
		if math.Abs(p-e.Expected[j]) > math.Abs(e.Shares.Share[furthest]-e.Expected[furthest]) {
			furthest = j
		}
	}
	what := say.WorkingDesignedOfShare(c.Labels[e.Answers[furthest]])
	return by.ByStratum(e.Shares.Cells, what, e.Shares.ShareSlope(furthest))
}

// estimated says what the estimate means: it goes by the second-order F of Rao and Scott.
func (c Claim) estimated(e *Estimate, by claim.Sampled, level float64) document.Document {
	decided := claim.RaoScottVerdict(e.Test, level)
	id := "finding.goodness_of_fit." + string(c.Role) + "." + claim.Outcome(decided.Rejected())
	if c.Scale == shares.Equal {
		id += "_equal"
	}
	if c.Question.Short != "" {
		id += "_short"
	}
	sentence := document.Say(id, document.Values{
		"short": document.Text(c.Question.Short), "level": document.Of(document.Level, level), "units": c.Units,
		"question": document.Text(c.Question.Wording), "source": document.Text(c.Source),
	})
	journal := claim.RaoScottJournal(e.Test, e.Shares.N, level, say.FindingDesignedW(e.CohensW))
	answers := document.Values{"source": document.Text(c.Source), "answers": document.N(int64(len(e.Answers)))}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, &e.Test.MeanDesignEffect)
	d := document.Document{
		Blocks: []document.Block{
			by.Basis(c.About),
			claim.Hypotheses(c.hypothesis(), c.Role, answers),
			{Kind: document.Sentence, Said: []document.Message{sentence}},
			{Kind: document.Figures, Table: c.estimates(e, level)},
			{Kind: document.Facts, Facts: append(claim.RaoScottFacts(e.Test, level),
				claim.Fact("w", "w", nil, claim.Plain(document.Of(document.Statistic, e.CohensW))))},
			decided.Block(),
			{Kind: document.Working, Said: append(claim.RaoScottWorking(e.Test, by, level), c.strata(e, by)...)},
			{Kind: document.WriteUp, Said: []document.Message{sentence, journal}},
		},
		Notes: notes, Outcome: decided.Outcome("shares"), Ticks: &document.Ticks{Sum: 1},
	}
	if c.Scale != shares.Equal {
		d.Ticks.Source = c.Source
	}
	for k, i := range e.Answers {
		d.Ticks.Shares = append(d.Ticks.Shares, document.ShareTick{
			Code: c.Codes[i], Share: e.Expected[k], Points: 100 * (e.Shares.Share[k] - e.Expected[k]),
		})
	}
	return d
}

func (c Claim) estimates(e *Estimate, level float64) *document.Table {
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: say.CaptionGoodnessOfFitEstimated(), Stub: head("answer"), Shown: []document.Role{document.Main},
		Columns: []document.Message{
			head("n"), head("estimated"), head("claimed"), head("points_from"), head("t"), head("holm_p"),
		},
	}
	for k, i := range e.Answers {
		away := e.Shares.Share[k] - e.Expected[k]
		estimated := document.One(document.Of(document.Percent, 100*e.Shares.Share[k]))
		p := document.Text("")
		if e.HolmP[k] != nil {
			p = document.P(document.PExact, *e.HolmP[k], level)
			estimated.Mark = claim.MarkOfEstimate(e.HolmP[k].AtMost(level) && e.Test.DF > 1, away)
		}
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(c.Labels[i])), Cells: []document.Cell{
			document.One(document.N(e.Shares.Count[k])), estimated,
			document.One(document.Of(document.Percent, 100*e.Expected[k])),
			document.One(document.Of(document.Difference, 100*away)),
			document.One(claim.OrNothing(document.Statistic, e.T[k].T)), document.One(p),
		}})
	}
	return t
}
