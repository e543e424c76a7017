// Package equivalence tests whether shares are near enough to what is expected, or to each other.
package equivalence

import (
	"math/big"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/twoproportions"
	"widetally/core/shares"
	"widetally/core/survey"
)

// nearInputs are what every claim of being near enough has.
var nearInputs = []analysis.Input{
	{Name: "margin", Kind: analysis.TextInput, MaxLength: 20, Needed: true},
	{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
	analysis.LevelBlank("level"),
}

// Near is what the settings of all three kinds have in common.
type Near struct {
	// Margin is how far apart is near enough, in percentage points as written: 3, or 0.5 %.
	Margin string         `json:"margin"`
	Role   claim.Role     `json:"role"`
	Level  analysis.Level `json:"level"`
}

func (n Near) check() []analysis.Problem {
	_, wrong := analysis.ReadMargin(n.Margin)
	if n.Level >= 0.5 && n.Level < 1 {
		wrong = append(wrong, analysis.Problem{Code: "claim.level", Pointer: "/settings/level"})
	}
	return slices.Concat(wrong, analysis.CheckRole(n.Role, "role"), n.Level.Problems("level"))
}

// Tests implements analysis.Settings.
func (Near) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (n Near) SignificanceLevel() float64 { return float64(n.Level) }

func (n Near) margin() float64 {
	x, _ := analysis.ReadMargin(n.Margin)
	f, _ := x.Float64()
	return f
}

// same gives settings whose margins are the same one text.
func (n Near) same() Near {
	if x, wrong := analysis.ReadMargin(n.Margin); wrong == nil {
		n.Margin = x.RatString()
	}
	return n
}

func (n Near) claim(about claim.About) Claim {
	c := Claim{About: about, Stated: claim.Stated{Role: n.Role, Level: float64(n.Level)}, Margin: new(big.Rat)}
	if x, wrong := analysis.ReadMargin(n.Margin); wrong == nil {
		c.Margin = x
	}
	return c
}

// ShareSettings asks whether the share of some answers is near enough to an expected one.
type ShareSettings struct {
	Success []string `json:"success"`
	// Expected is the share as written: 62 %, 0.62 or 31/50.
	Expected string             `json:"expected"`
	Source   analysis.Reference `json:"source"`
	Near
}

var askedShare = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickYesNo,
	Seldom:    true,
	Key:       "e",
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs: append(
		[]analysis.Input{
			{Name: "success", Kind: analysis.CategoriesInput, Needed: true},
			{Name: "expected", Kind: analysis.ShareInput, MaxLength: 20, Needed: true},
			{Name: "source.title", Kind: analysis.TextInput, MaxLength: analysis.MaxTitle},
		},
		nearInputs...),
	Lines: []analysis.Line{{ID: "claim"}},
	New:   func() analysis.Settings { return &ShareSettings{Success: []string{}, Near: Near{Level: 0.05}} },
}

func (s *ShareSettings) expected() (*big.Rat, []analysis.Problem) {
	return analysis.ReadShare(s.Expected, "expected")
}

// Asked implements analysis.Settings.
func (*ShareSettings) Asked() *analysis.Asked { return askedShare }

// Check implements analysis.Settings.
func (s *ShareSettings) Check(q []survey.Question) []analysis.Problem {
	_, wrong := s.expected()
	return slices.Concat(analysis.CheckSuccess(s.Success, q[0]), wrong, s.check(), s.Source.Check("source"))
}

// Codes implements analysis.Settings.
func (s *ShareSettings) Codes(int) []string { return s.Success }

// Cited is where the expected share comes from.
func (s *ShareSettings) Cited() analysis.Reference { return s.Source }

// Essence implements analysis.Settings.
func (s *ShareSettings) Essence() any {
	e := *s
	e.Source, e.Success, e.Near = analysis.Reference{}, slices.Sorted(slices.Values(e.Success)), s.same()
	if x, wrong := s.expected(); wrong == nil {
		e.Expected = x.RatString()
	}
	return e
}

func (s *ShareSettings) claimed(q survey.Question, about claim.About) Claim {
	c := s.claim(about)
	c.Question, c.Success, c.Source, c.Expected = analysis.Named(
		q,
	), analysis.SuccessLabels(
		s.Success,
		q,
	), s.Source.Title, new(
		big.Rat,
	)
	if x, wrong := s.expected(); wrong == nil {
		c.Expected = x
	}
	return c
}

// Statement implements analysis.Settings.
func (s *ShareSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*ShareSettings) Needs() analysis.Need { return analysis.NeedFrequencies }

// Run implements analysis.Settings.
func (s *ShareSettings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	x, _ := s.expected()
	expected, _ := x.Float64()
	in := &ShareRequest{Group: analysis.GroupOf(c, s.Success), Expected: expected, Margin: s.margin(), Level: float64(s.Level)}
	return shareFigures.Outcome(work, in)
}

// Document implements analysis.Settings.
func (s *ShareSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	g := analysis.GroupOf(o.Counted, s.Success)
	return s.claimed(o.Counted.Questions[0], about).Document(o.Result.(*infer.Equivalence), sharesOf(g, analysis.Group{}))
}

// sharesOf are two groups as the values of a sentence.
func sharesOf(first, second analysis.Group) document.Values {
	percent := func(g analysis.Group) document.Value {
		return document.Of(document.Percent, 100*float64(g.Successes)/float64(max(1, g.N)))
	}
	return document.Values{
		"x":      document.N(first.Successes),
		"n":      document.N(first.N),
		"share":  percent(first),
		"x2":     document.N(second.Successes),
		"n2":     document.N(second.N),
		"share2": percent(second),
	}
}

// TwoSharesSettings asks whether the shares of two groups are near enough to each other.
type TwoSharesSettings struct {
	Success []string                 `json:"success"`
	Groups  twoproportions.TwoGroups `json:"groups"`
	Near
}

var askedTwoShares = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickTwoYesNo,
	Seldom:    true,
	Key:       "G",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs: slices.Concat(
		[]analysis.Input{{Name: "success", Kind: analysis.CategoriesInput, Needed: true}},
		twoproportions.GroupInputs,
		nearInputs,
	),
	Lines: []analysis.Line{{ID: "claim"}},
	New:   func() analysis.Settings { return &TwoSharesSettings{Success: []string{}, Near: Near{Level: 0.05}} },
}

// Asked implements analysis.Settings.
func (*TwoSharesSettings) Asked() *analysis.Asked { return askedTwoShares }

// Check implements analysis.Settings.
func (s *TwoSharesSettings) Check(q []survey.Question) []analysis.Problem {
	return slices.Concat(analysis.CheckSuccess(s.Success, q[0]), s.Groups.Check(q[1]), s.check())
}

// Codes implements analysis.Settings.
func (s *TwoSharesSettings) Codes(question int) []string {
	if question == 0 {
		return s.Success
	}
	return s.Groups.Codes()
}

// Essence implements analysis.Settings.
func (s *TwoSharesSettings) Essence() any {
	e := *s
	e.Success, e.Near = slices.Sorted(slices.Values(e.Success)), s.same()
	return e
}

func (s *TwoSharesSettings) claimed(q []survey.Question, about claim.About) Claim {
	c := s.claim(about)
	c.Question, c.Groups, c.Success = analysis.Named(q[0]), analysis.Named(q[1]), analysis.SuccessLabels(s.Success, q[0])
	c.First, c.Second = s.Groups.Labels(q[1])
	return c
}

// Statement implements analysis.Settings.
func (s *TwoSharesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*TwoSharesSettings) Needs() analysis.Need { return analysis.NeedCrosstab }

// Run implements analysis.Settings.
func (s *TwoSharesSettings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in, _ := s.Groups.Counted(c, s.Success)
	return twoSharesFigures.Outcome(
		work,
		&TwoSharesRequest{First: in.First, Second: in.Second, Margin: s.margin(), Level: float64(s.Level)},
	)
}

// Document implements analysis.Settings.
func (s *TwoSharesSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	in, _ := s.Groups.Counted(o.Counted, s.Success)
	return s.claimed(o.Counted.Questions, about).Document(o.Result.(*infer.Equivalence), sharesOf(in.First, in.Second))
}

// DistributionSettings asks whether every answer's share is near enough to its expected one.
type DistributionSettings struct {
	Shares analysis.ExpectedShares `json:"shares"`
	Near
}

var askedDistribution = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickAnswers,
	Seldom:    true,
	Key:       "E",
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs:    slices.Concat(analysis.SharesInputs, nearInputs),
	Lines: []analysis.Line{
		{ID: "given", Unless: analysis.WhenIs("shares.scale", string(shares.Equal))},
		{ID: "equal", Only: analysis.WhenIs("shares.scale", string(shares.Equal))},
		{ID: "claim"},
	},
	New: func() analysis.Settings {
		return &DistributionSettings{Shares: analysis.ExpectedShares{Scale: shares.Percents}, Near: Near{Level: 0.05}}
	},
}

// Asked implements analysis.Settings.
func (*DistributionSettings) Asked() *analysis.Asked { return askedDistribution }

// Check implements analysis.Settings.
func (s *DistributionSettings) Check(q []survey.Question) []analysis.Problem {
	return slices.Concat(s.check(), s.Shares.Check(q[0]))
}

// Cited is where the expected shares come from.
func (s *DistributionSettings) Cited() analysis.Reference { return s.Shares.Source }

// Codes implements analysis.Settings.
func (s *DistributionSettings) Codes(int) []string { return s.Shares.Codes() }

// Essence implements analysis.Settings.
func (s *DistributionSettings) Essence() any {
	return DistributionSettings{s.Shares.Essence(), s.same()}
}

func (s *DistributionSettings) claimed(q survey.Question, about claim.About) Claim {
	c := s.claim(about)
	c.Question, c.Source, c.Labels = analysis.Named(q), s.Shares.Source.Title, analysis.LabelsOf(q)
	if s.Shares.Scale == shares.Equal {
		c.Source = ""
	}
	return c
}

// Statement implements analysis.Settings.
func (s *DistributionSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*DistributionSettings) Needs() analysis.Need { return analysis.NeedFrequencies }

// Run implements analysis.Settings.
func (s *DistributionSettings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return distributionFigures.Outcome(
		work,
		&DistributionRequest{
			Observed: analysis.ProperCounts(c.Frequency),
			Scaled:   s.Shares.Scaled(c.Questions[0]),
			Margin:   s.margin(),
			Level:    float64(s.Level),
		},
	)
}

// Document implements analysis.Settings.
func (s *DistributionSettings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claimed(o.Counted.Questions[0], about).
		Distribution(o.Result.(*infer.DistributionEquivalence), analysis.ProperCounts(o.Counted.Frequency))
}

// Share is the method with how it is asked.
var Share = shareFigures.AskedWith(askedShare)

// TwoShares is the method with how it is asked.
var TwoShares = twoSharesFigures.AskedWith(askedTwoShares)

// Distribution is the method with how it is asked.
var Distribution = distributionFigures.AskedWith(askedDistribution)
