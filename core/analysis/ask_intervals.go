package analysis

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// IntervalsSettings asks for intervals for all shares of a question that hold together.
type IntervalsSettings struct {
	describing
	// Confidence is one of those that are offered, 0–1.
	Confidence float64 `json:"confidence"`
}

const intervalsName = "simultaneous-intervals"

var askedIntervals = &Asked{Version: 1, Quick: QuickAnswers, Seldom: true, Questions: []Part{TheQuestion}, Inputs: []Input{}, Texts: "intervals", Lines: []Line{}, Key: "i",
	New: func() Settings { return &IntervalsSettings{Confidence: 0.95} }}

// Check implements Settings.
func (s *IntervalsSettings) Check([]survey.Question) []Problem {
	if !slices.Contains(claim.Confidences, s.Confidence) {
		return []Problem{{Code: "intervals.confidence", Pointer: "/settings/confidence"}}
	}
	return nil
}

// Essence implements Settings.
func (s *IntervalsSettings) Essence() any { return *s }

// Statement implements Settings.
func (*IntervalsSettings) Statement([]survey.Question, claim.About) document.Message {
	return claim.ShareIntervals{}.Statement()
}

func (*IntervalsSettings) needs() need { return frequencies }

func (s *IntervalsSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &SimultaneousRequest{Confidence: s.Confidence}
	for i := range c.Questions[0].Proper() {
		in.Observed = append(in.Observed, c.Frequency.Rows[i].Count)
	}
	return outcomeOf(work, intervalsName, in)
}

func (s *IntervalsSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	c := claim.ShareIntervals{About: about}
	for _, a := range o.Counted.Questions[0].Proper() {
		c.Labels = append(c.Labels, a.Label)
	}
	return c.Document(o.Result.(*infer.Simultaneous))
}
