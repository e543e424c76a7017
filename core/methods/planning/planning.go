// Package planning plans a survey: respondents, power, departures found, margins of error.
package planning

import (
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/survey"
)

// planned is what the plans of tests have in common: of a departure, a number of respondents
// and a power one is found from the other two.
type planned struct {
	Find  Find           `json:"find"`
	Power string         `json:"power"`
	Level analysis.Level `json:"level"`
}

func (p planned) check(departure func() []analysis.Problem, n func() []analysis.Problem) []analysis.Problem {
	out := analysis.CheckOneOf(Finds, p.Find, "plan.find", "find")
	if p.Find != FindDeparture {
		out = append(out, departure()...)
	}
	if p.Find != FindNumber {
		out = append(out, n()...)
	}
	if p.Find != FindPower {
		_, wrong := analysis.ReadShare(p.Power, "power")
		out = append(out, wrong...)
	}
	return append(out, p.Level.Problems("level")...)
}

// power is what is asked for, nil where it is to be found.
func (p planned) power() *float64 {
	if p.Find == FindPower {
		return nil
	}
	return analysis.ShareOf(p.Power, "power")
}

// unless gives what is not to be found.
func unless[T any](is bool, x *T) *T {
	if is {
		return nil
	}
	return x
}

// planInputs are those of every plan of a test.
func planInputs(more ...analysis.Input) []analysis.Input {
	return slices.Concat(
		[]analysis.Input{{Name: "find", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(Finds), Needed: true}},
		more,
		[]analysis.Input{
			{Name: "power", Kind: analysis.ShareInput, MaxLength: 20, Unless: analysis.WhenIs("find", string(FindPower))},
			analysis.LevelBlank("level"),
		},
		clusterInputs,
	)
}

// planLines are the sentences of a plan: what is to be found stands in none of them.
var planLines = []analysis.Line{{ID: "find"},
	{
		ID:     "departure",
		Unless: analysis.WhenIs("find", string(FindDeparture)),
	}, {ID: "from", Only: analysis.WhenIs("find", string(FindDeparture))},
	{
		ID:     "n",
		Unless: analysis.WhenIs("find", string(FindNumber)),
	}, {ID: "power", Unless: analysis.WhenIs("find", string(FindPower))}, {ID: "test"}, {ID: "design"}}

// OneProportionSettings plans the test of one share.
type OneProportionSettings struct {
	analysis.Unasked
	planned
	Claimed   string           `json:"claimed"`
	True      string           `json:"true,omitempty"`
	N         *analysis.Number `json:"n,omitempty"`
	Direction claim.Direction  `json:"direction"`
	Clustered
}

var askedOneProportion = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: planInputs(
		analysis.Input{Name: "claimed", Kind: analysis.ShareInput, MaxLength: 20, Needed: true},
		analysis.Input{Name: "true", Kind: analysis.ShareInput, MaxLength: 20},
		analysis.Input{Name: "n", Kind: analysis.TextInput, MaxLength: 20},
		analysis.Input{Name: "direction", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Directions), Needed: true},
	),
	Lines: planLines,
	New:   func() analysis.Settings { return &OneProportionSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Asked implements analysis.Settings.
func (*OneProportionSettings) Asked() *analysis.Asked { return askedOneProportion }

// Check implements analysis.Settings.
func (s *OneProportionSettings) Check([]survey.Question) []analysis.Problem {
	_, wrong := analysis.ReadShare(s.Claimed, "claimed")
	return slices.Concat(
		wrong,
		s.check(
			func() []analysis.Problem { _, wrong := analysis.ReadShare(s.True, "true"); return wrong },
			func() []analysis.Problem { return analysis.Whole(s.N, "n") },
		),
		analysis.CheckOneOf(claim.Directions, s.Direction, "share.direction", "direction"),
		s.checkDesign(),
	)
}

// Essence implements analysis.Settings.
func (s *OneProportionSettings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *OneProportionSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *OneProportionSettings) request() *OneProportionRequest {
	in := &OneProportionRequest{
		Claimed:   *analysis.ShareOf(s.Claimed, "claimed"),
		Power:     s.power(),
		Level:     float64(s.Level),
		Direction: directionOf(s.Direction),
		Design:    s.design(),
	}
	in.True, in.N = unless(
		s.Find == FindDeparture,
		analysis.ShareOf(s.True, "true"),
	), unless(
		s.Find == FindNumber,
		analysis.CountOf(s.N),
	)
	return in
}

func directionOf(d claim.Direction) plan.Direction {
	return map[claim.Direction]plan.Direction{claim.Less: plan.Less, claim.Greater: plan.Greater}[d]
}

// Run implements analysis.Settings.
func (s *OneProportionSettings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	return oneProportionFigures.Outcome(work, s.request())
}

// Document implements analysis.Settings.
func (s *OneProportionSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.OneProportion)
	return Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.Share(r, func(n float64) float64 {
		return plan.SharePower(r.Claimed, r.True, n/r.DesignEffect, r.Level, r.Direction)
	})
}

// TwoProportionsSettings plans the comparison of two shares.
type TwoProportionsSettings struct {
	analysis.Unasked
	planned
	Share1 string           `json:"share1"`
	Share2 string           `json:"share2,omitempty"`
	N1     *analysis.Number `json:"n1,omitempty"`
	N2     *analysis.Number `json:"n2,omitempty"`
	Clustered
}

var askedTwoProportions = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: planInputs(
		analysis.Input{Name: "share1", Kind: analysis.ShareInput, MaxLength: 20, Needed: true},
		analysis.Input{Name: "share2", Kind: analysis.ShareInput, MaxLength: 20},
		analysis.Input{Name: "n1", Kind: analysis.TextInput, MaxLength: 20},
		analysis.Input{Name: "n2", Kind: analysis.TextInput, MaxLength: 20},
	),
	Lines: planLines,
	New:   func() analysis.Settings { return &TwoProportionsSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Asked implements analysis.Settings.
func (*TwoProportionsSettings) Asked() *analysis.Asked { return askedTwoProportions }

// Check implements analysis.Settings.
func (s *TwoProportionsSettings) Check([]survey.Question) []analysis.Problem {
	_, wrong := analysis.ReadShare(s.Share1, "share1")
	return slices.Concat(
		wrong,
		s.check(
			func() []analysis.Problem { _, wrong := analysis.ReadShare(s.Share2, "share2"); return wrong },
			func() []analysis.Problem { return append(analysis.Whole(s.N1, "n1"), analysis.Whole(s.N2, "n2")...) },
		),
		s.checkDesign(),
	)
}

// Essence implements analysis.Settings.
func (s *TwoProportionsSettings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *TwoProportionsSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

// Run implements analysis.Settings.
func (s *TwoProportionsSettings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	in := &TwoProportionsRequest{
		Share1: *analysis.ShareOf(s.Share1, "share1"), Power: s.power(), Level: float64(s.Level), Design: s.design(),
	}
	in.Share2 = unless(s.Find == FindDeparture, analysis.ShareOf(s.Share2, "share2"))
	in.N1, in.N2 = unless(s.Find == FindNumber, analysis.CountOf(s.N1)), unless(s.Find == FindNumber, analysis.CountOf(s.N2))
	return twoProportionsFigures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *TwoProportionsSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.TwoProportions)
	ratio := float64(r.N2) / float64(r.N1)
	return Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.TwoShares(r, func(n float64) float64 {
		n /= r.DesignEffect
		return plan.TwoSharesPower(r.Share1, r.Share2, n, n*ratio, r.Level, plan.TwoSided)
	})
}

// ChiSquareSettings plans a chi-square test of one question or of two.
type ChiSquareSettings struct {
	analysis.Unasked
	planned
	W  *analysis.Number `json:"w,omitempty"`
	DF *analysis.Number `json:"df,omitempty"`
	N  *analysis.Number `json:"n,omitempty"`
	Clustered
}

var askedChiSquare = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: planInputs(
		analysis.Input{Name: "df", Kind: analysis.TextInput, MaxLength: 20, Needed: true},
		analysis.Input{Name: "w", Kind: analysis.TextInput, MaxLength: 20},
		analysis.Input{Name: "n", Kind: analysis.TextInput, MaxLength: 20},
	),
	Lines: planLines,
	New:   func() analysis.Settings { return &ChiSquareSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Asked implements analysis.Settings.
func (*ChiSquareSettings) Asked() *analysis.Asked { return askedChiSquare }

// Check implements analysis.Settings.
func (s *ChiSquareSettings) Check([]survey.Question) (out []analysis.Problem) {
	if s.DF == nil || !(*s.DF >= 1 && *s.DF <= 10_000 && float64(*s.DF) == math.Trunc(float64(*s.DF))) {
		out = append(out, analysis.Problem{Code: "plan.df", Pointer: "/settings/df"})
	}
	out = append(out, s.checkDesign()...)
	return append(out, s.check(func() []analysis.Problem {
		if s.W == nil || !(*s.W > 0) {
			return []analysis.Problem{{Code: "plan.w", Pointer: "/settings/w"}}
		}
		return nil
	}, func() []analysis.Problem { return analysis.Whole(s.N, "n") })...)
}

// Essence implements analysis.Settings.
func (s *ChiSquareSettings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *ChiSquareSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

// Run implements analysis.Settings.
func (s *ChiSquareSettings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	in := &ChiSquareRequest{Power: s.power(), DF: int(*s.DF), Level: float64(s.Level), Design: s.design()}
	in.W, in.N = unless(s.Find == FindDeparture, (*float64)(s.W)), unless(s.Find == FindNumber, analysis.CountOf(s.N))
	return chiSquareFigures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *ChiSquareSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.ChiSquare)
	return Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.ChiSquare(r, func(n float64) float64 {
		return infer.ChiSquarePower(r.W, n/r.DesignEffect, float64(r.DF), r.Level)
	})
}

// MarginSettings relates respondents and the margin of error of a share.
type MarginSettings struct {
	analysis.Unasked
	Find       Find             `json:"find"`
	Share      string           `json:"share"`
	Margin     string           `json:"margin,omitempty"`
	N          *analysis.Number `json:"n,omitempty"`
	Population *analysis.Number `json:"population,omitempty"`
	// Confidence is 0.9, 0.95 or 0.99.
	Confidence string `json:"confidence"`
	Clustered
}

var confidences = []string{"0.9", "0.95", "0.99"}

var askedMargin = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: []analysis.Input{
		{Name: "find", Kind: analysis.ChoiceInput, Options: []string{string(FindNumber), string(FindDeparture)}, Needed: true},
		{Name: "share", Kind: analysis.ShareInput, MaxLength: 20, Needed: true},
		{Name: "margin", Kind: analysis.TextInput, MaxLength: 20, Unless: analysis.WhenIs("find", string(FindDeparture))},
		{Name: "n", Kind: analysis.TextInput, MaxLength: 20, Unless: analysis.WhenIs("find", string(FindNumber))},
		{Name: "population", Kind: analysis.TextInput, MaxLength: 20},
		{Name: "confidence", Kind: analysis.ChoiceInput, Options: confidences},
		clusterInputs[0], clusterInputs[1], clusterInputs[2],
	},
	Lines: []analysis.Line{
		{ID: "find"},
		{ID: "n", Unless: analysis.WhenIs("find", string(FindNumber))},
		{ID: "margin", Unless: analysis.WhenIs("find", string(FindDeparture))},
		{ID: "share"},
		{ID: "population"},
		{ID: "design"},
	},
	New: func() analysis.Settings { return &MarginSettings{Confidence: "0.95"} }}

// Asked implements analysis.Settings.
func (*MarginSettings) Asked() *analysis.Asked { return askedMargin }

// Check implements analysis.Settings.
func (s *MarginSettings) Check([]survey.Question) (out []analysis.Problem) {
	_, wrong := analysis.ReadShare(s.Share, "share")
	out = append(analysis.CheckOneOf([]Find{FindNumber, FindDeparture}, s.Find, "plan.find", "find"), wrong...)
	switch s.Find {
	case FindNumber:
		_, wrong := analysis.ReadMargin(s.Margin)
		out = append(out, wrong...)
	case FindDeparture:
		out = append(out, analysis.Whole(s.N, "n")...)
	}
	if s.Population != nil {
		out = append(out, analysis.Whole(s.Population, "population")...)
	}
	out = append(out, s.checkDesign()...)
	return append(out, analysis.CheckOneOf(confidences, s.Confidence, "simultaneous_intervals.confidence", "confidence")...)
}

// Essence implements analysis.Settings.
func (s *MarginSettings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *MarginSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

// Run implements analysis.Settings.
func (s *MarginSettings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	in := &MarginRequest{
		Share: *analysis.ShareOf(s.Share, "share"), Confidence: *analysis.ShareOf(s.Confidence, "confidence"), Design: s.design(),
	}
	if s.Find == FindNumber {
		x, _ := analysis.ReadMargin(s.Margin)
		margin, _ := x.Float64()
		in.Margin = &margin
	} else {
		in.N = analysis.CountOf(s.N)
	}
	if s.Population != nil {
		in.Population = *analysis.CountOf(s.Population)
	}
	return marginFigures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *MarginSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	return Planned{About: about, Find: s.Find}.Margin(o.Result.(*plan.Margin))
}

// OneProportion is the method with how it is asked.
var OneProportion = oneProportionFigures.AskedWith(askedOneProportion)

// TwoProportions is the method with how it is asked.
var TwoProportions = twoProportionsFigures.AskedWith(askedTwoProportions)

// ChiSquare is the method with how it is asked.
var ChiSquare = chiSquareFigures.AskedWith(askedChiSquare)

// Margin is the method with how it is asked.
var Margin = marginFigures.AskedWith(askedMargin)
