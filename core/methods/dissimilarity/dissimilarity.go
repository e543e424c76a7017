package dissimilarity

import (
	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
)

// Settings asks how differently the groups of another question answered.
type Settings struct {
	analysis.Describing
	Confidence float64 `json:"confidence"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickTable,
	Seldom:    true,
	Key:       "f",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	New:       func() analysis.Settings { return &Settings{Confidence: analysis.UsualConfidence} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) (out []analysis.Problem) {
	if !(s.Confidence > 0 && s.Confidence < 1) {
		out = append(out, analysis.Problem{Code: "simultaneous_intervals.confidence", Pointer: "/settings/confidence"})
	}
	return append(out, analysis.CellsFit(q)...)
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

func (s *Settings) crossing(q []survey.Question, about claim.About) Crossing {
	return Crossing{
		About:       about,
		Question:    analysis.Named(q[0]),
		Groups:      analysis.Named(q[1]),
		Labels:      analysis.LabelsOf(q[0]),
		GroupLabels: analysis.LabelsOf(q[1]),
	}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.crossing(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedCrosstab }

// Run implements analysis.Settings: as many replicates as a page has time for.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	counts := c.Crosstab.Proper(0)
	replicates := max(100, min(usualReplicates, work.Replicates, mostDrawn/max(1, cells(counts))))
	return figures.Outcome(
		work,
		&Request{Table: counts, Confidence: s.Confidence, Replicates: replicates, Seed: analysis.FixedSeed},
	)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.crossing(o.Counted.Questions, about)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return c.Document(o.Result.(*Result))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
