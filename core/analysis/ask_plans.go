package analysis

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/plan"
	"widetally/core/survey"
)

const (
	planShareName     = "planning/one-proportion"
	planTwoSharesName = "planning/two-proportions"
	planChiSquareName = "planning/chi-square"
	planMarginName    = "planning/margin"
)

// unasked is what settings have in common that are about no question.
type unasked struct{ describing }

func (unasked) needs() need { return nothing }

// planned is what the plans of tests have in common: of a departure, a number of respondents
// and a power one is found from the other two.
type planned struct {
	Find  claim.Find `json:"find"`
	Power string     `json:"power"`
	Level Level      `json:"level"`
}

// whole checks a number of respondents that has to be given.
func whole(n *Number, member string) []Problem {
	pointer := "/settings/" + member
	switch {
	case n == nil:
		return []Problem{{Code: "plan.n", Pointer: pointer}}
	case !(*n >= 1 && *n <= infer.MaxCount && float64(*n) == math.Trunc(float64(*n))):
		return []Problem{{Code: "plan.whole", Pointer: pointer}}
	}
	return nil
}

func (p planned) check(departure func() []Problem, n func() []Problem) []Problem {
	out := checkOneOf(claim.Finds, p.Find, "plan.find", "find")
	if p.Find != claim.FindDeparture {
		out = append(out, departure()...)
	}
	if p.Find != claim.FindNumber {
		out = append(out, n()...)
	}
	if p.Find != claim.FindPower {
		_, wrong := readShare(p.Power, "power")
		out = append(out, wrong...)
	}
	return append(out, p.Level.problems("level")...)
}

// power is what is asked for, nil where it is to be found.
func (p planned) power() *float64 {
	if p.Find == claim.FindPower {
		return nil
	}
	return shareOf(p.Power, "power")
}

// shareOf is a checked share as a number.
func shareOf(text, member string) *float64 {
	x, wrong := readShare(text, member)
	if wrong != nil {
		return nil
	}
	f, _ := x.Float64()
	return &f
}

func countOf(n *Number) *int64 {
	if n == nil {
		return nil
	}
	out := int64(*n)
	return &out
}

// unless gives what is not to be found.
func unless[T any](is bool, x *T) *T {
	if is {
		return nil
	}
	return x
}

// planInputs are those of every plan of a test.
func planInputs(more ...Input) []Input {
	return slices.Concat([]Input{{Name: "find", Kind: ChoiceInput, Options: texts(claim.Finds), Needed: true}}, more,
		[]Input{{Name: "power", Kind: ShareInput, MaxLength: 20, Unless: &When{"find", string(claim.FindPower)}}, levelInput("level")})
}

// planLines are the sentences of a plan: what is to be found stands in none of them.
var planLines = []Line{{ID: "find"},
	{ID: "departure", Unless: &When{"find", string(claim.FindDeparture)}}, {ID: "from", Only: &When{"find", string(claim.FindDeparture)}},
	{ID: "n", Unless: &When{"find", string(claim.FindNumber)}}, {ID: "power", Unless: &When{"find", string(claim.FindPower)}}, {ID: "test"}}

// PlanShareSettings plans the test of one share.
type PlanShareSettings struct {
	unasked
	planned
	Claimed   string          `json:"claimed"`
	True      string          `json:"true,omitempty"`
	N         *Number         `json:"n,omitempty"`
	Direction claim.Direction `json:"direction"`
}

var askedPlanShare = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: planInputs(Input{Name: "claimed", Kind: ShareInput, MaxLength: 20, Needed: true}, Input{Name: "true", Kind: ShareInput, MaxLength: 20}, Input{Name: "n", Kind: TextInput, MaxLength: 20}, Input{Name: "direction", Kind: ChoiceInput, Options: texts(claim.Directions), Needed: true}),
	Texts:  "plan_share", Lines: planLines,
	New: func() Settings { return &PlanShareSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Check implements Settings.
func (s *PlanShareSettings) Check([]survey.Question) []Problem {
	_, wrong := readShare(s.Claimed, "claimed")
	return slices.Concat(wrong, s.check(func() []Problem { _, wrong := readShare(s.True, "true"); return wrong }, func() []Problem { return whole(s.N, "n") }),
		checkOneOf(claim.Directions, s.Direction, "share.direction", "direction"))
}

// Essence implements Settings.
func (s *PlanShareSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *PlanShareSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *PlanShareSettings) request() *OneProportionPlanRequest {
	in := &OneProportionPlanRequest{Claimed: *shareOf(s.Claimed, "claimed"), Power: s.power(), Level: float64(s.Level), Direction: directionOf(s.Direction)}
	in.True, in.N = unless(s.Find == claim.FindDeparture, shareOf(s.True, "true")), unless(s.Find == claim.FindNumber, countOf(s.N))
	return in
}

func directionOf(d claim.Direction) plan.Direction {
	return map[claim.Direction]plan.Direction{claim.Less: plan.Less, claim.Greater: plan.Greater}[d]
}

func (s *PlanShareSettings) run(work Work, _ *Counted) (*Outcome, error) {
	return outcomeOf(work, planShareName, s.request())
}

func (s *PlanShareSettings) document(o *Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.OneProportion)
	return claim.Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.Share(r, func(n float64) float64 {
		return plan.SharePower(r.Claimed, r.True, n, r.Level, r.Direction)
	})
}

// PlanTwoSharesSettings plans the comparison of two shares.
type PlanTwoSharesSettings struct {
	unasked
	planned
	Share1 string  `json:"share1"`
	Share2 string  `json:"share2,omitempty"`
	N1     *Number `json:"n1,omitempty"`
	N2     *Number `json:"n2,omitempty"`
}

var askedPlanTwoShares = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: planInputs(Input{Name: "share1", Kind: ShareInput, MaxLength: 20, Needed: true}, Input{Name: "share2", Kind: ShareInput, MaxLength: 20}, Input{Name: "n1", Kind: TextInput, MaxLength: 20}, Input{Name: "n2", Kind: TextInput, MaxLength: 20}),
	Texts:  "plan_two_shares", Lines: planLines,
	New: func() Settings { return &PlanTwoSharesSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Check implements Settings.
func (s *PlanTwoSharesSettings) Check([]survey.Question) []Problem {
	_, wrong := readShare(s.Share1, "share1")
	return slices.Concat(wrong, s.check(func() []Problem { _, wrong := readShare(s.Share2, "share2"); return wrong }, func() []Problem { return append(whole(s.N1, "n1"), whole(s.N2, "n2")...) }))
}

// Essence implements Settings.
func (s *PlanTwoSharesSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *PlanTwoSharesSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *PlanTwoSharesSettings) run(work Work, _ *Counted) (*Outcome, error) {
	in := &TwoProportionsPlanRequest{Share1: *shareOf(s.Share1, "share1"), Power: s.power(), Level: float64(s.Level)}
	in.Share2 = unless(s.Find == claim.FindDeparture, shareOf(s.Share2, "share2"))
	in.N1, in.N2 = unless(s.Find == claim.FindNumber, countOf(s.N1)), unless(s.Find == claim.FindNumber, countOf(s.N2))
	return outcomeOf(work, planTwoSharesName, in)
}

func (s *PlanTwoSharesSettings) document(o *Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.TwoProportions)
	ratio := float64(r.N2) / float64(r.N1)
	return claim.Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.TwoShares(r, func(n float64) float64 {
		return plan.TwoSharesPower(r.Share1, r.Share2, n, n*ratio, r.Level, plan.TwoSided)
	})
}

// PlanChiSquareSettings plans a chi-square test of one question or of two.
type PlanChiSquareSettings struct {
	unasked
	planned
	W  *Number `json:"w,omitempty"`
	DF *Number `json:"df,omitempty"`
	N  *Number `json:"n,omitempty"`
}

var askedPlanChiSquare = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: planInputs(Input{Name: "df", Kind: TextInput, MaxLength: 20, Needed: true}, Input{Name: "w", Kind: TextInput, MaxLength: 20}, Input{Name: "n", Kind: TextInput, MaxLength: 20}),
	Texts:  "plan_chi_square", Lines: planLines,
	New: func() Settings { return &PlanChiSquareSettings{planned: planned{Power: "80 %", Level: 0.05}} }}

// Check implements Settings.
func (s *PlanChiSquareSettings) Check([]survey.Question) (out []Problem) {
	if s.DF == nil || !(*s.DF >= 1 && *s.DF <= 10_000 && float64(*s.DF) == math.Trunc(float64(*s.DF))) {
		out = append(out, Problem{Code: "plan.df", Pointer: "/settings/df"})
	}
	return append(out, s.check(func() []Problem {
		if s.W == nil || !(*s.W > 0) {
			return []Problem{{Code: "plan.w", Pointer: "/settings/w"}}
		}
		return nil
	}, func() []Problem { return whole(s.N, "n") })...)
}

// Essence implements Settings.
func (s *PlanChiSquareSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *PlanChiSquareSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *PlanChiSquareSettings) run(work Work, _ *Counted) (*Outcome, error) {
	in := &ChiSquarePlanRequest{Power: s.power(), DF: int(*s.DF), Level: float64(s.Level)}
	in.W, in.N = unless(s.Find == claim.FindDeparture, (*float64)(s.W)), unless(s.Find == claim.FindNumber, countOf(s.N))
	return outcomeOf(work, planChiSquareName, in)
}

func (s *PlanChiSquareSettings) document(o *Outcome, about claim.About) document.Document {
	r := o.Result.(*plan.ChiSquare)
	return claim.Planned{About: about, Find: s.Find, Asked: s.power(), Level: float64(s.Level)}.ChiSquare(r, func(n float64) float64 {
		return infer.ChiSquarePower(r.W, n, float64(r.DF), r.Level)
	})
}

// PlanMarginSettings relates respondents and the margin of error of a share.
type PlanMarginSettings struct {
	unasked
	Find       claim.Find `json:"find"`
	Share      string     `json:"share"`
	Margin     string     `json:"margin,omitempty"`
	N          *Number    `json:"n,omitempty"`
	Population *Number    `json:"population,omitempty"`
	// Confidence is 0.9, 0.95 or 0.99.
	Confidence string `json:"confidence"`
}

var confidences = []string{"0.9", "0.95", "0.99"}

var askedPlanMargin = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: []Input{
		{Name: "find", Kind: ChoiceInput, Options: []string{string(claim.FindNumber), string(claim.FindDeparture)}, Needed: true},
		{Name: "share", Kind: ShareInput, MaxLength: 20, Needed: true},
		{Name: "margin", Kind: TextInput, MaxLength: 20, Unless: &When{"find", string(claim.FindDeparture)}},
		{Name: "n", Kind: TextInput, MaxLength: 20, Unless: &When{"find", string(claim.FindNumber)}},
		{Name: "population", Kind: TextInput, MaxLength: 20},
		{Name: "confidence", Kind: ChoiceInput, Options: confidences},
	},
	Texts: "plan_margin", Lines: []Line{{ID: "find"}, {ID: "n", Unless: &When{"find", string(claim.FindNumber)}}, {ID: "margin", Unless: &When{"find", string(claim.FindDeparture)}}, {ID: "share"}, {ID: "population"}},
	New: func() Settings { return &PlanMarginSettings{Confidence: "0.95"} }}

// Check implements Settings.
func (s *PlanMarginSettings) Check([]survey.Question) (out []Problem) {
	_, wrong := readShare(s.Share, "share")
	out = append(checkOneOf([]claim.Find{claim.FindNumber, claim.FindDeparture}, s.Find, "plan.find", "find"), wrong...)
	switch s.Find {
	case claim.FindNumber:
		_, wrong := readMargin(s.Margin)
		out = append(out, wrong...)
	case claim.FindDeparture:
		out = append(out, whole(s.N, "n")...)
	}
	if s.Population != nil {
		out = append(out, whole(s.Population, "population")...)
	}
	return append(out, checkOneOf(confidences, s.Confidence, "intervals.confidence", "confidence")...)
}

// Essence implements Settings.
func (s *PlanMarginSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *PlanMarginSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *PlanMarginSettings) run(work Work, _ *Counted) (*Outcome, error) {
	in := &MarginRequest{Share: *shareOf(s.Share, "share"), Confidence: *shareOf(s.Confidence, "confidence")}
	if s.Find == claim.FindNumber {
		x, _ := readMargin(s.Margin)
		margin, _ := x.Float64()
		in.Margin = &margin
	} else {
		in.N = countOf(s.N)
	}
	if s.Population != nil {
		in.Population = *countOf(s.Population)
	}
	return outcomeOf(work, planMarginName, in)
}

func (s *PlanMarginSettings) document(o *Outcome, about claim.About) document.Document {
	return claim.Planned{About: about, Find: s.Find}.Margin(o.Result.(*plan.Margin))
}
