package cochranq

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/say"
)

// Estimate is the shares of a population that chose each item, and the test that all are chosen equally
// often: Wald's with their covariance, and the statistic of a simple random sample corrected for the
// design.
type Estimate struct {
	*design.Items
	Test *infer.RaoScott
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	e := &Estimate{Items: c.Items[0]}
	if len(e.Share) > 1 {
		d, v, simple := e.Apart()
		e.Test = infer.ComputeCorrected(d, v, simple, e.DF, float64(s.Level))
	}
	if e.Test == nil || e.Test.SecondFP == nil {
		return &analysis.Outcome{Refusal: analysis.RefuseInput(figures.Name, infer.NoDesignVariance, -1)}, nil
	}
	return &analysis.Outcome{Result: e}, nil
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).estimated(o.Result.(*Estimate), o.Counted.Sampled, float64(s.Level))
}

func (c Claim) estimated(e *Estimate, by claim.Sampled, level float64) document.Document {
	decided := claim.RaoScottVerdict(e.Test, level)
	if e.Test.FP != nil {
		decided.Ways = append(decided.Ways, claim.ByP("wald_p", *e.Test.FP, level))
	}
	v := c.values()
	v["n"], v["level"], v["confidence"] = document.N(e.N), document.Of(document.Level, level),
		document.Of(document.Level, analysis.UsualConfidence)
	most, least := 0, 0
	for j, p := range e.Share {
		if p > e.Share[most] {
			most = j
		}
		if p < e.Share[least] {
			least = j
		}
	}
	v["first"], v["percent"] = document.Text(c.Labels[most]), document.Of(document.Percent, 100*e.Share[most])
	v["last"], v["percent2"] = document.Text(c.Labels[least]), document.Of(document.Percent, 100*e.Share[least])
	finding := document.Say("finding.cochran_q."+string(c.Role)+"."+claim.Outcome(decided.Rejected()), v)
	reading := document.Say("read.cochran_q_estimated.apart", v)
	if e.Share[most] == e.Share[least] {
		reading = document.Say("read.cochran_q_estimated.alike", v)
	}
	head := func(id string) document.Message { return document.Say("column."+id, nil) }
	t := &document.Table{
		Caption: document.Say("caption.multiple_response_estimated", v), Stub: head("answer"),
		Shown:   []document.Role{document.Main},
		Columns: []document.Message{head("n"), head("estimated"), document.Say("column.interval", v), head("standard_error")},
	}
	for j, label := range c.Labels {
		u := e.One(j).Uncertainty(analysis.UsualConfidence)
		t.Rows = append(t.Rows, document.Row{Name: claim.Plain(document.Text(label)), Cells: []document.Cell{
			document.One(document.N(e.Count[j])), document.One(document.Of(document.Percent, 100*e.Share[j])),
			document.One(claim.RangeOf(u.Beta)), document.One(document.Of(document.Points, 100*u.StandardError)),
		}})
	}
	var notes claim.NotesOf
	by.Notes(&notes, c.About, &e.Test.MeanDesignEffect)
	notes.Add(document.Sentence, "cochran_q.same", v)
	notes.Add(document.Decision, "designed.wald", nil)
	decided.Differ(&notes, "designed_wald")
	apart := say.FindingDesignedChosen(100*e.Share[most], 100*e.Share[least])
	return document.Document{Notes: notes, Outcome: decided.Outcome("null"), Blocks: []document.Block{
		by.Basis(c.About),
		claim.Hypotheses("cochran_q", c.Role, v),
		{Kind: document.Sentence, Said: []document.Message{finding}},
		{Kind: document.Sentence, Said: []document.Message{reading}},
		{Kind: document.Figures, Table: t},
		{Kind: document.Facts, Facts: claim.RaoScottFacts(e.Test, level)},
		decided.Block(),
		{Kind: document.Working, Said: claim.RaoScottWorking(e.Test, by, level)},
		{Kind: document.WriteUp, Said: []document.Message{
			finding, reading, claim.RaoScottJournal(e.Test, e.N, level, apart),
		}},
	}}
}
