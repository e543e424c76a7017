package orderedsummary

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/say"
)

// Estimate is the answers at which a quarter, a half and three quarters of a population are reached, and
// the mean of the scores.
type Estimate struct {
	At []Reached
	// Mean is nil where no scores were declared, Interval without degrees of freedom.
	Mean     *design.Estimate
	Interval *infer.Interval
}

// Reached is the first answer up to which a part of the population lies, with the limits of Woodruff
// (1952); −1 where there are none.
type Reached struct{ Answer, Lower, Upper int }

var quarters = []float64{0.25, 0.5, 0.75}

// RunDesigned implements analysis.Designed.
func (*Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	shares, e, df := c.Cells.Shares(), &Estimate{}, float64(c.Cells.DF)
	up := c.Cells.Ratios(len(shares.Share), func(i, cell int) float64 {
		return design.Indicator(cell <= i)
	}, func(int, int) float64 { return 1 })
	reach := func(q float64) int {
		for i, below := range up.Value {
			if below >= q-1e-12 {
				return i
			}
		}
		return len(up.Value) - 1
	}
	for _, q := range quarters {
		r := Reached{Answer: reach(q), Lower: -1, Upper: -1}
		if df >= 1 && up.Value[r.Answer] < 1-1e-12 {
			away := prob.StudentUpperQuantile((1-analysis.UsualConfidence)/2, df) * up.SE(r.Answer)
			r.Lower, r.Upper = reach(max(q-away, 1e-12)), reach(min(q+away, 1))
		}
		e.At = append(e.At, r)
	}
	if scores := analysis.ScoresOf(c.Questions[0]); scores != nil {
		m := c.Cells.Ratios(1, func(_, cell int) float64 { return scores[cell] }, func(int, int) float64 { return 1 })
		e.Mean = &design.Estimate{Value: m.Value[0], Variance: m.Covariance[0][0]}
		e.Interval = infer.TInterval(m.Value[0], m.SE(0), df, analysis.UsualConfidence)
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (*Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	q, by := o.Counted.Questions[0], o.Counted.Sampled
	about.Everyone = o.Counted.Frequency.Everyone
	return OrderedAnswers{About: about, Question: analysis.Named(q), Labels: analysis.LabelsOf(q)}.
		estimated(o.Result.(*Estimate), by)
}

func (c OrderedAnswers) estimated(e *Estimate, by claim.Sampled) document.Document {
	v := document.Values{
		"units": c.Units, "question": c.Question.Called(), "n": document.N(by.Base.N),
		"confidence": document.Of(document.Level, analysis.UsualConfidence),
	}
	reached := func(r Reached) document.Message {
		at := document.Text(c.Labels[r.Answer])
		if r.Lower < 0 {
			return claim.Plain(at)
		}
		return say.FactAnswerInterval(c.Labels[r.Answer], c.Labels[r.Lower], c.Labels[r.Upper])
	}
	v["median"] = document.Text(c.Labels[e.At[1].Answer])
	reading := document.Say("read.ordered_summary_estimated", v)
	facts := []document.Fact{claim.Fact("n", "n", nil, claim.Plain(document.N(by.Base.N)))}
	for i, key := range []string{"q1", "median", "q3"} {
		facts = append(facts, claim.Fact(key, key, nil, reached(e.At[i])))
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, nil)
	notes.Add(document.Facts, "designed.quartiles", nil)
	if e.Mean != nil {
		mean := claim.Plain(claim.Rounded(e.Mean.Value))
		if e.Interval != nil {
			mean = say.FactWithIntervalOf(claim.Rounded(e.Mean.Value), claim.Rounded(e.Interval.Lower), claim.Rounded(e.Interval.Upper))
		}
		facts = append(facts, claim.Fact("mean_score", "mean_score", nil, mean))
		notes.Add(document.Facts, "ordered_summary.scores", nil)
	} else {
		notes.Add(document.Facts, "ordered_summary.no_scores", nil)
	}
	return document.Document{Notes: notes, Blocks: []document.Block{
		by.Basis(c.About),
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Facts, Facts: facts},
		{Kind: document.Working, Said: []document.Message{by.Variance()}},
		{Kind: document.WriteUp, Said: []document.Message{reading}},
	}}
}
