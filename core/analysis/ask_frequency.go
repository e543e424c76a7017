package analysis

import (
	"context"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// FrequencyRequest is counts by answer, and how many gave none.
type FrequencyRequest struct {
	Counts  []int64 `json:"counts"`
	Missing int64   `json:"missing,omitempty"`
}

const frequencyName = "frequency"

var frequency = figures(frequencyName, "Relative and cumulative relative frequencies of one list of counts", nil, FrequencyRequest{},
	func(_ context.Context, in *FrequencyRequest) (*tally.Relative, error) {
		if len(in.Counts) > maxAnswers {
			return nil, refuse("frequency", TooManyAnswers, -1)
		}
		return tally.RelativeFrequencies(in.Counts, in.Missing)
	})

// FrequenciesRequest is several lists of counts.
type FrequenciesRequest struct {
	Questions []FrequencyRequest `json:"questions"`
}

const frequenciesName = "frequencies"

// frequenciesOf gives each list by itself; nil for one in which nobody is counted.
var frequenciesOf = figures(frequenciesName, "Relative frequencies of several lists of counts", nil, FrequenciesRequest{},
	func(_ context.Context, in *FrequenciesRequest) ([]*tally.Relative, error) {
		if len(in.Questions) > mostRows {
			return nil, refuse("frequency", TooManyCells, -1)
		}
		var out []*tally.Relative
		for i, q := range in.Questions {
			if len(q.Counts) > maxAnswers {
				return nil, refuse("frequency", TooManyAnswers, i)
			}
			r, err := tally.RelativeFrequencies(q.Counts, q.Missing)
			if err != nil && !nobody(err) {
				return nil, err
			}
			out = append(out, r)
		}
		return out, nil
	})

// FrequencySettings asks for a picture of the answers to one question.
type FrequencySettings struct {
	describing
	Picture claim.BarsPicture `json:"picture"`
	Height  claim.Height      `json:"height"`
	Order   claim.Order       `json:"order"`
	// Intervals is the method of the simultaneous intervals that are drawn on bars of shares.
	Intervals claim.Together `json:"intervals"`
	Frame     *claim.Frame   `json:"frame,omitempty"`
}

var askedFrequency = &Asked{Version: 1, Quick: QuickAnswers, Questions: []Part{TheQuestion}, Inputs: []Input{}, Texts: "frequency", Lines: []Line{}, Key: "b",
	New: func() Settings {
		return &FrequencySettings{Picture: claim.UprightBars, Height: claim.AsShare, Order: claim.AsAsked, Intervals: claim.Apart}
	}}

// Check implements Settings.
func (s *FrequencySettings) Check([]survey.Question) (out []Problem) {
	out = append(out, checkOneOf(claim.BarsPictures, s.Picture, "numbers.picture", "picture")...)
	out = append(out, checkOneOf([]claim.Height{claim.AsCount, claim.AsShare}, s.Height, "numbers.height", "height")...)
	out = append(out, checkOneOf(claim.Orders, s.Order, "frequency.order", "order")...)
	out = append(out, checkOneOf(claim.Togethers, s.Intervals, "frequency.intervals", "intervals")...)
	return append(out, checkFrame(s.Frame)...)
}

// Essence implements Settings: all is how it is shown.
func (*FrequencySettings) Essence() any { return FrequencySettings{} }

// Statement implements Settings.
func (*FrequencySettings) Statement([]survey.Question, claim.About) document.Message {
	return claim.Frequency{}.Statement()
}

func (*FrequencySettings) needs() need { return frequencies }

// countsOf are the counts of the proper answers.
func countsOf(f *tally.Frequency) *FrequencyRequest {
	in := &FrequencyRequest{Missing: f.Missing}
	for _, r := range f.Rows {
		in.Counts = append(in.Counts, r.Count)
	}
	return in
}

func (*FrequencySettings) run(work Work, c *Counted) (*Outcome, error) {
	return outcomeOf(work, frequencyName, countsOf(c.Frequency))
}

func (s *FrequencySettings) document(o *Outcome, about claim.About) document.Document {
	q := o.Counted.Questions[0]
	about.Everyone = o.Counted.Frequency.Everyone
	c := claim.Frequency{About: about, Question: named(q), Labels: labelsOf(q), Ranked: q.Kind.Ranked(), Order: s.Order, Picture: s.Picture, Height: s.Height, Together: s.Intervals, Frame: s.Frame}
	if s.Intervals != claim.Apart {
		if r, err := infer.ComputeSimultaneous(properCounts(o.Counted.Frequency), usualConfidence); err == nil { // of one answer there are none
			c.Intervals = s.Intervals.Of(r)
		}
	}
	return c.Document(o.Result.(*tally.Relative))
}

// FrequenciesSettings asks for several questions as one table.
type FrequenciesSettings struct {
	describing
	Order claim.Order `json:"order"`
}

var askedFrequencies = &Asked{Version: 1, Seldom: true, Questions: []Part{TheQuestion}, More: TheOthers, Inputs: []Input{}, Texts: "frequencies", Lines: []Line{},
	New: func() Settings { return &FrequenciesSettings{Order: claim.AsAsked} }}

// Check implements Settings.
func (s *FrequenciesSettings) Check(q []survey.Question) []Problem {
	return append(several(q, 2), checkOneOf(claim.Orders, s.Order, "frequency.order", "order")...)
}

// Essence implements Settings: all is how it is shown.
func (*FrequenciesSettings) Essence() any { return FrequenciesSettings{} }

func (s *FrequenciesSettings) claim(q []survey.Question, about claim.About) claim.Frequencies {
	c := claim.Frequencies{About: about, Order: s.Order}
	for _, one := range q {
		c.Questions, c.Labels, c.Ranked = append(c.Questions, named(one)), append(c.Labels, labelsOf(one)), append(c.Ranked, one.Kind.Ranked())
	}
	return c
}

// Statement implements Settings.
func (s *FrequenciesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*FrequenciesSettings) needs() need { return eachFrequencies }

func (*FrequenciesSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &FrequenciesRequest{}
	for _, f := range c.Each {
		in.Questions = append(in.Questions, *countsOf(f))
	}
	return outcomeOf(work, frequenciesName, in)
}

func (s *FrequenciesSettings) document(o *Outcome, about claim.About) document.Document {
	var everyone []int64
	for _, f := range o.Counted.Each {
		everyone = append(everyone, f.Everyone)
	}
	return s.claim(o.Counted.Questions, about).Document(o.Result.([]*tally.Relative), everyone)
}
