package analysis

import (
	"context"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// OneMeanRequest asks whether a mean is a claimed one.
type OneMeanRequest struct {
	SampleRequest
	Claimed    float64 `json:"claimed"`
	Confidence float64 `json:"confidence,omitempty"`
}

const oneMeanName = "one-mean"

var meanOf = figures(oneMeanName, "One mean against a claimed one: z where sigma is known, t otherwise",
	[]Assumption{SimpleRandom, NearlyNormal}, OneMeanRequest{Confidence: 0.95},
	func(_ context.Context, in *OneMeanRequest) (*infer.Means, error) {
		first, err := in.sample("sample")
		if err != nil {
			return nil, err
		}
		return infer.ComputeMeans(infer.MeansInput{First: first, Claimed: in.Claimed, Confidence: in.Confidence})
	})

// OneMeanSettings asks whether the mean of a number is a claimed one.
type OneMeanSettings struct {
	Claimed *Number `json:"claimed,omitempty"`
	// Sigma is the standard deviation of the population, where it is known.
	Sigma     *Number           `json:"sigma,omitempty"`
	Direction claim.Direction   `json:"direction"`
	Role      claim.Role        `json:"role"`
	Level     Level             `json:"level"`
	Source    Reference         `json:"source"`
	Looked    []claim.Direction `json:"looked,omitempty"`
}

var askedOneMean = &Asked{Version: 1, Quick: QuickSummary, Questions: []Part{TheQuestion}, Seldom: true,
	Inputs: []Input{
		{Name: "claimed", Kind: TextInput, MaxLength: 24, Needed: true},
		{Name: "source.title", Kind: TextInput, MaxLength: maxTitle},
		{Name: "sigma", Kind: TextInput, MaxLength: 24},
		{Name: "direction", Kind: ChoiceInput, Options: texts(claim.Directions), Needed: true},
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	},
	Texts: "one_mean", Lines: []Line{{ID: "claimed"}, {ID: "question"}, {ID: "role"}, {ID: "sigma"}}, Of: numeric,
	New: func() Settings { return &OneMeanSettings{Level: 0.05} }}

// Check implements Settings.
func (s *OneMeanSettings) Check([]survey.Question) (out []Problem) {
	if s.Claimed == nil {
		out = append(out, Problem{Code: "mean.empty", Pointer: "/settings/claimed"})
	}
	if s.Sigma != nil && !(*s.Sigma > 0) {
		out = append(out, Problem{Code: "mean.sigma", Pointer: "/settings/sigma"})
	}
	return slices.Concat(out, checkOneOf(claim.Directions, s.Direction, "share.direction", "direction"), checkLooked(s.Looked), checkRole(s.Role, "role"), s.Level.problems("level"), s.Source.check("source"))
}

// Tests implements Settings.
func (*OneMeanSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *OneMeanSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the claimed mean comes from.
func (s *OneMeanSettings) Cited() Reference { return s.Source }

// Codes implements Settings: no category is named.
func (*OneMeanSettings) Codes(int) []string { return nil }

// Essence implements Settings.
func (s *OneMeanSettings) Essence() any {
	e := *s
	e.Source, e.Looked = Reference{}, nil
	return e
}

func (s *OneMeanSettings) claim(q survey.Question, about claim.About) claim.OneMean {
	c := claim.OneMean{About: about, Stated: claim.Stated{Direction: s.Direction, Role: s.Role, Level: float64(s.Level)}, Question: named(q), Source: s.Source.Title, Looked: s.Looked}
	if s.Claimed != nil {
		c.Claimed = float64(*s.Claimed)
	}
	return c
}

// Statement implements Settings.
func (s *OneMeanSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

func (*OneMeanSettings) needs() need { return descriptives }

func (s *OneMeanSettings) run(work Work, c *Counted) (*Outcome, error) {
	if c.Summary == nil || c.Summary.SD == nil && s.Sigma == nil {
		return &Outcome{Refusal: &infer.InputError{Method: oneMeanName, Reason: infer.TooFewForSD, Index: -1}}, nil
	}
	in := &OneMeanRequest{SampleRequest: SampleRequest{N: c.Summary.N, Mean: c.Summary.Mean, SD: c.Summary.SD, Sigma: (*float64)(s.Sigma), Skewness: c.Summary.Skewness}, Claimed: float64(*s.Claimed), Confidence: 1 - float64(s.Level)}
	return outcomeOf(work, oneMeanName, in)
}

func (s *OneMeanSettings) document(o *Outcome, about claim.About) document.Document {
	if o.Counted.Frequency != nil {
		about.Everyone = o.Counted.Frequency.Everyone
	}
	c := s.claim(o.Counted.Questions[0], about)
	if o.Counted.Summary.Rows != nil {
		in := listOf(o.Counted.Summary)
		in.Confidence = 1 - float64(s.Level)
		c.Numbers = summarised(in)
	}
	return c.Document(o.Result.(*infer.Means))
}
