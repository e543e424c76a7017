package analysis

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// NumbersSettings asks for numbers to be described and drawn. Answers that are classes with
// limits are numbers known by class only.
type NumbersSettings struct {
	describing
	Picture claim.Drawing `json:"picture"`
	Height  claim.Height  `json:"height"`
	// Width of the classes, and where the first begins; as suits the numbers where absent.
	Width Number  `json:"width,omitempty"`
	Start *Number `json:"start,omitempty"`
	// Number of classes of equal width, and the limits of classes; they go before a width.
	Number Number     `json:"number,omitempty"`
	Limits NumberList `json:"limits,omitempty"`
	Normal bool       `json:"normal,omitempty"`
	// Parts is into how many groups of equal size the percentiles cut: 4, 5 or 10.
	Parts int          `json:"parts"`
	Frame *claim.Frame `json:"frame,omitempty"`
}

const (
	numbersName = "numeric-summary"
	groupedName = "grouped-summary"
)

var askedNumbers = &Asked{Version: 1, Quick: QuickNumbers, Questions: []Part{TheQuestion}, Inputs: []Input{}, Texts: "numbers", Lines: []Line{}, Key: "d", Of: describable,
	New: func() Settings {
		return &NumbersSettings{Picture: claim.Histogram, Height: claim.AsCount, Parts: 4}
	}}

// describable reports whether a question's answers are numbers, or classes of them.
func describable(q survey.Question) bool {
	if q.Kind == survey.Discrete || q.Kind == survey.Continuous {
		return true
	}
	_, ok := limits(q)
	return q.Kind == survey.Ordered && ok
}

// limits gives the limits of answers that are classes in rising order.
func limits(q survey.Question) (out [][]float64, ok bool) {
	for i, a := range q.Proper() {
		if a.From == nil || a.To == nil || *a.To <= *a.From || i > 0 && *a.From < out[i-1][1] {
			return nil, false
		}
		out = append(out, []float64{*a.From, *a.To})
	}
	return out, len(out) > 0
}

// Check implements Settings.
func (s *NumbersSettings) Check([]survey.Question) (out []Problem) {
	for _, c := range []struct {
		fits   bool
		member string
	}{{slices.Contains(claim.Drawings, s.Picture), "picture"}, {slices.Contains(claim.Heights, s.Height), "height"}, {s.Width >= 0, "width"}, {s.Number == Number(math.Trunc(float64(s.Number))) && s.Number >= 0 && s.Number <= tally.MostBins, "number"},
		{rising(s.Limits), "limits"}, {slices.Contains(claim.Parts, s.Parts), "parts"}} {
		if !c.fits {
			out = append(out, Problem{Code: "numbers." + c.member, Pointer: "/settings/" + c.member})
		}
	}
	return append(out, checkFrame(s.Frame)...)
}

// rising reports whether limits can be those of classes; none can.
func rising(limits []float64) bool {
	return len(limits) == 0 || len(limits) >= 2 && len(limits) <= tally.MostBins && slices.IsSorted(limits) && len(slices.Compact(slices.Clone(limits))) == len(limits)
}

// Essence implements Settings: the rest is how it is shown.
func (s *NumbersSettings) Essence() any { return NumbersSettings{Parts: s.Parts} }

// Statement implements Settings.
func (*NumbersSettings) Statement([]survey.Question, claim.About) document.Message {
	return claim.Numbers{}.Statement()
}

func (*NumbersSettings) needs() need { return descriptives }

func (s *NumbersSettings) run(work Work, c *Counted) (*Outcome, error) {
	if classes, ok := limits(c.Questions[0]); ok && c.Questions[0].Kind == survey.Ordered {
		in := &GroupedSummaryRequest{Classes: classes}
		for _, row := range c.Frequency.Rows {
			in.Counts = append(in.Counts, row.Count)
		}
		return outcomeOf(work, groupedName, in)
	}
	in := &NumericSummaryRequest{Confidence: usualConfidence}
	for i := 1; i < s.Parts; i++ {
		in.Percents = append(in.Percents, 100*float64(i)/float64(s.Parts))
	}
	if c.Summary != nil {
		for _, row := range c.Summary.Rows {
			in.Values, in.Counts = append(in.Values, row.Value), append(in.Counts, row.Count)
		}
	}
	return outcomeOf(work, numbersName, in)
}

func (s *NumbersSettings) document(o *Outcome, about claim.About) document.Document {
	c := claim.Numbers{About: about, Question: named(o.Counted.Questions[0]), Drawing: s.Picture, Height: s.Height, Width: float64(s.Width), Start: (*float64)(s.Start), Number: int(s.Number), Limits: s.Limits, Normal: s.Normal, Parts: s.Parts, Frame: s.Frame}
	if o.Counted.Frequency != nil {
		c.Everyone = o.Counted.Frequency.Everyone
	}
	switch r := o.Result.(type) {
	case *tally.Grouped:
		return c.Classes(r)
	case *tally.Summary:
		return c.Document(r)
	}
	return document.Document{}
}
