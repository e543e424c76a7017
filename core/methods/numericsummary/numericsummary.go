// Package numericsummary describes the numbers that one question was answered with.
package numericsummary

import (
	"context"
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Summarised describes a list that has numbers.
func Summarised(in Request) *tally.Summary {
	s, err := tally.SummariseNumbers(tally.NumbersInput(in))
	if err != nil {
		return nil
	}
	return s
}

// Settings asks for numbers to be described and drawn. Answers that are classes with
// limits are numbers known by class only.
type Settings struct {
	analysis.Describing
	Picture Drawing      `json:"picture"`
	Height  claim.Height `json:"height"`
	// Width of the classes, and where the first begins; as suits the numbers where absent.
	Width analysis.Number  `json:"width,omitempty"`
	Start *analysis.Number `json:"start,omitempty"`
	// Number of classes of equal width, and the limits of classes; they go before a width.
	Number analysis.Number     `json:"number,omitempty"`
	Limits analysis.NumberList `json:"limits,omitempty"`
	Normal bool                `json:"normal,omitempty"`
	// Parts is into how many groups of equal size the percentiles cut: 4, 5 or 10.
	Parts int          `json:"parts"`
	Frame *claim.Frame `json:"frame,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickNumbers,
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    []analysis.Input{},
	Lines:     []analysis.Line{},
	Key:       "d",
	Of:        Describable,
	New: func() analysis.Settings {
		return &Settings{Picture: Histogram, Height: claim.AsCount, Parts: 4}
	},
}

// Describable reports whether a question's answers are numbers, or classes of them.
func Describable(q survey.Question) bool {
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

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) (out []analysis.Problem) {
	for _, c := range []struct {
		fits   bool
		member string
	}{{slices.Contains(Drawings, s.Picture), "picture"}, {slices.Contains(claim.Heights, s.Height), "height"}, {s.Width >= 0, "width"}, {s.Number == analysis.Number(math.Trunc(float64(s.Number))) && s.Number >= 0 && s.Number <= tally.MostBins, "number"},
		{rising(s.Limits), "limits"}, {slices.Contains(Parts, s.Parts), "parts"}} {
		if !c.fits {
			out = append(out, analysis.Problem{Code: "numeric_summary." + c.member, Pointer: "/settings/" + c.member})
		}
	}
	return append(out, analysis.CheckFrame(s.Frame)...)
}

// rising reports whether limits can be those of classes; none can.
func rising(limits []float64) bool {
	return len(limits) == 0 ||
		len(limits) >= 2 && len(limits) <= tally.MostBins && slices.IsSorted(limits) &&
			len(slices.Compact(slices.Clone(limits))) == len(limits)
}

// Essence implements analysis.Settings: the rest is how it is shown.
func (s *Settings) Essence() any { return Settings{Parts: s.Parts} }

// Statement implements analysis.Settings.
func (*Settings) Statement([]survey.Question, claim.About) document.Message {
	return Numbers{}.Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedDescriptives }

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	if classes, ok := limits(c.Questions[0]); ok && c.Questions[0].Kind == survey.Ordered {
		in := &GroupedRequest{Classes: classes}
		for _, row := range c.Frequency.Rows {
			in.Counts = append(in.Counts, row.Count)
		}
		return Grouped.Outcome(work, in)
	}
	in := &Request{Confidence: analysis.UsualConfidence}
	for i := 1; i < s.Parts; i++ {
		in.Percents = append(in.Percents, 100*float64(i)/float64(s.Parts))
	}
	if c.Summary != nil {
		for _, row := range c.Summary.Rows {
			in.Values, in.Counts = append(in.Values, row.Value), append(in.Counts, row.Count)
		}
	}
	return figures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := Numbers{
		About:    about,
		Question: analysis.Named(o.Counted.Questions[0]),
		Drawing:  s.Picture,
		Height:   s.Height,
		Width:    float64(s.Width),
		Start:    (*float64)(s.Start),
		Number:   int(s.Number),
		Limits:   s.Limits,
		Normal:   s.Normal,
		Parts:    s.Parts,
		Frame:    s.Frame,
	}
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

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Quarters are the percentiles of a table and of a box.
var Quarters = []float64{25, 50, 75}

// ListOf is a summary as the list from which it was made.
func ListOf(s *tally.Summary) Request {
	in := Request{Confidence: analysis.UsualConfidence, Percents: Quarters}
	if s == nil {
		return in
	}
	for _, row := range s.Rows {
		in.Values, in.Counts = append(in.Values, row.Value), append(in.Counts, row.Count)
	}
	return in
}

// Of reports whether the answers to a question are numbers.
func Of(q survey.Question) bool {
	return q.Kind == survey.Discrete || q.Kind == survey.Continuous
}

// Request is numbers with how often each was given.
type Request struct {
	Values []float64 `json:"values"`
	// Counts has the length of values; each counts once where absent.
	Counts []int64 `json:"counts,omitempty"`
	// Percents asks for percentiles; the quartiles where absent.
	Percents   []float64 `json:"percents,omitempty"`
	Confidence float64   `json:"confidence,omitempty"`
}

var figures = analysis.Figures(
	"numeric-summary",
	"Numbers described: mean, spread, percentiles by two definitions, interval of the mean",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.NearlyNormal},
	Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*tally.Summary, error) {
		if in.Percents == nil {
			in.Percents = []float64{25, 50, 75}
		}
		return tally.SummariseNumbers(tally.NumbersInput(*in))
	},
)

// GroupedRequest is numbers known by class only.
type GroupedRequest struct {
	// Classes are [from, to] in rising order.
	Classes [][]float64 `json:"classes"`
	Counts  []int64     `json:"counts"`
}

// Grouped is the method for numbers that are known by class only.
var Grouped = analysis.Figures("grouped-summary", "Estimates from numbers given in classes",
	[]analysis.Assumption{analysis.SpreadEvenly}, GroupedRequest{},
	func(_ context.Context, in *GroupedRequest) (*tally.Grouped, error) {
		var classes [][2]float64
		for i, c := range in.Classes {
			if len(c) != 2 {
				return nil, analysis.RefuseInput("grouped summary", analysis.PairLength, i)
			}
			classes = append(classes, [2]float64{c[0], c[1]})
		}
		return tally.SummariseClasses(classes, in.Counts)
	})
