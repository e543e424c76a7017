package analysis

import (
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
)

const (
	nearShareName        = "equivalence/share"
	nearTwoSharesName    = "equivalence/two-shares"
	nearDistributionName = "equivalence/distribution"
)

// nearInputs are what every claim of being near enough has.
var nearInputs = []Input{
	{Name: "margin", Kind: TextInput, MaxLength: 20, Needed: true},
	{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
	levelInput("level"),
}

// readMargin reads a margin in percentage points: 3, 2.5 or 3 %.
func readMargin(text string) (*big.Rat, []Problem) {
	bad := func(code string) []Problem {
		return []Problem{{Code: code, Pointer: "/settings/margin", Values: document.Values{"text": document.Text(text)}}}
	}
	plain := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%"))
	if plain == "" {
		return nil, bad("margin.empty")
	}
	x, p := shares.ParseFigure(plain, shares.Percents)
	switch {
	case p.Kind == shares.AmbiguousComma:
		return nil, bad("margin.comma")
	case p.Kind != "":
		return nil, bad("margin.not_a_margin")
	case x.Sign() <= 0 || x.Cmp(big.NewRat(100, 1)) >= 0:
		return nil, bad("margin.range")
	case x.Cmp(big.NewRat(1, 1)) < 0 && !strings.Contains(text, "%"):
		return nil, bad("margin.below_one")
	}
	return x.Mul(x, big.NewRat(1, 100)), nil
}

// near is what the settings of all three kinds have in common.
type near struct {
	// Margin is how far apart is near enough, in percentage points as written: 3, or 0.5 %.
	Margin string     `json:"margin"`
	Role   claim.Role `json:"role"`
	Level  Level      `json:"level"`
}

func (n near) check() []Problem {
	_, wrong := readMargin(n.Margin)
	if n.Level >= 0.5 && n.Level < 1 {
		wrong = append(wrong, Problem{Code: "claim.level", Pointer: "/settings/level"})
	}
	return slices.Concat(wrong, checkRole(n.Role, "role"), n.Level.problems("level"))
}

// Tests implements Settings.
func (near) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (n near) SignificanceLevel() float64 { return float64(n.Level) }

func (n near) margin() float64 {
	x, _ := readMargin(n.Margin)
	f, _ := x.Float64()
	return f
}

// same gives settings whose margins are the same one text.
func (n near) same() near {
	if x, wrong := readMargin(n.Margin); wrong == nil {
		n.Margin = x.RatString()
	}
	return n
}

func (n near) claim(about claim.About) claim.NearEnough {
	c := claim.NearEnough{About: about, Stated: claim.Stated{Role: n.Role, Level: float64(n.Level)}, Margin: new(big.Rat)}
	if x, wrong := readMargin(n.Margin); wrong == nil {
		c.Margin = x
	}
	return c
}

// NearShareSettings asks whether the share of some answers is near enough to an expected one.
type NearShareSettings struct {
	Success []string `json:"success"`
	// Expected is the share as written: 62 %, 0.62 or 31/50.
	Expected string    `json:"expected"`
	Source   Reference `json:"source"`
	near
}

var askedNearShare = &Asked{Version: 1, Quick: QuickYesNo, Seldom: true, Questions: []Part{TheQuestion},
	Inputs: append([]Input{{Name: "success", Kind: CategoriesInput, Needed: true}, {Name: "expected", Kind: ShareInput, MaxLength: 20, Needed: true}, {Name: "source.title", Kind: TextInput, MaxLength: maxTitle}}, nearInputs...),
	Texts:  "near_share", Lines: []Line{{ID: "claim"}},
	New: func() Settings { return &NearShareSettings{Success: []string{}, near: near{Level: 0.05}} }}

func (s *NearShareSettings) expected() (*big.Rat, []Problem) {
	return readShare(s.Expected, "expected")
}

// Check implements Settings.
func (s *NearShareSettings) Check(q []survey.Question) []Problem {
	_, wrong := s.expected()
	return slices.Concat(checkSuccess(s.Success, q[0]), wrong, s.check(), s.Source.check("source"))
}

// Codes implements Settings.
func (s *NearShareSettings) Codes(int) []string { return s.Success }

// Cited is where the expected share comes from.
func (s *NearShareSettings) Cited() Reference { return s.Source }

// Essence implements Settings.
func (s *NearShareSettings) Essence() any {
	e := *s
	e.Source, e.Success, e.near = Reference{}, slices.Sorted(slices.Values(e.Success)), s.same()
	if x, wrong := s.expected(); wrong == nil {
		e.Expected = x.RatString()
	}
	return e
}

func (s *NearShareSettings) claimed(q survey.Question, about claim.About) claim.NearEnough {
	c := s.claim(about)
	c.Question, c.Success, c.Source, c.Expected = named(q), successLabels(s.Success, q), s.Source.Title, new(big.Rat)
	if x, wrong := s.expected(); wrong == nil {
		c.Expected = x
	}
	return c
}

// Statement implements Settings.
func (s *NearShareSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q[0], about).Statement()
}

func (*NearShareSettings) needs() need { return frequencies }

func (s *NearShareSettings) run(work Work, c *Counted) (*Outcome, error) {
	x, _ := s.expected()
	expected, _ := x.Float64()
	in := &ShareEquivalenceRequest{Group: groupOf(c, s.Success), Expected: expected, Margin: s.margin(), Level: float64(s.Level)}
	return outcomeOf(work, nearShareName, in)
}

// groupOf counts who gave an answer that counts, of those who answered.
func groupOf(c *Counted, success []string) (out Group) {
	for i, a := range c.Questions[0].Proper() {
		n := c.Frequency.Rows[i].Count
		out.N += n
		if slices.Contains(success, a.Code) {
			out.Successes += n
		}
	}
	return out
}

func (s *NearShareSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	g := groupOf(o.Counted, s.Success)
	return s.claimed(o.Counted.Questions[0], about).Document(o.Result.(*infer.Equivalence), sharesOf(g, Group{}))
}

// sharesOf are two groups as the values of a sentence.
func sharesOf(first, second Group) document.Values {
	percent := func(g Group) document.Value {
		return document.Of(document.Percent, 100*float64(g.Successes)/float64(max(1, g.N)))
	}
	return document.Values{"x": document.N(first.Successes), "n": document.N(first.N), "share": percent(first), "x2": document.N(second.Successes), "n2": document.N(second.N), "share2": percent(second)}
}

// NearTwoSharesSettings asks whether the shares of two groups are near enough to each other.
type NearTwoSharesSettings struct {
	Success []string  `json:"success"`
	Groups  TwoGroups `json:"groups"`
	near
}

var askedNearTwoShares = &Asked{Version: 1, Quick: QuickTwoYesNo, Seldom: true, Questions: []Part{TheQuestion, TheGroups},
	Inputs: slices.Concat([]Input{{Name: "success", Kind: CategoriesInput, Needed: true}}, groupInputs, nearInputs),
	Texts:  "near_two_shares", Lines: []Line{{ID: "claim"}},
	New: func() Settings { return &NearTwoSharesSettings{Success: []string{}, near: near{Level: 0.05}} }}

// Check implements Settings.
func (s *NearTwoSharesSettings) Check(q []survey.Question) []Problem {
	return slices.Concat(checkSuccess(s.Success, q[0]), s.Groups.check(q[1]), s.check())
}

// Codes implements Settings.
func (s *NearTwoSharesSettings) Codes(question int) []string {
	if question == 0 {
		return s.Success
	}
	return s.Groups.codes()
}

// Essence implements Settings.
func (s *NearTwoSharesSettings) Essence() any {
	e := *s
	e.Success, e.near = slices.Sorted(slices.Values(e.Success)), s.same()
	return e
}

func (s *NearTwoSharesSettings) claimed(q []survey.Question, about claim.About) claim.NearEnough {
	c := s.claim(about)
	c.Question, c.Groups, c.Success = named(q[0]), named(q[1]), successLabels(s.Success, q[0])
	c.First, c.Second = s.Groups.labels(q[1])
	return c
}

// Statement implements Settings.
func (s *NearTwoSharesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q, about).Statement()
}

func (*NearTwoSharesSettings) needs() need { return crosstab }

func (s *NearTwoSharesSettings) run(work Work, c *Counted) (*Outcome, error) {
	in, _ := s.Groups.counted(c, s.Success)
	return outcomeOf(work, nearTwoSharesName, &TwoSharesEquivalenceRequest{First: in.First, Second: in.Second, Margin: s.margin(), Level: float64(s.Level)})
}

func (s *NearTwoSharesSettings) document(o *Outcome, about claim.About) document.Document {
	in, _ := s.Groups.counted(o.Counted, s.Success)
	return s.claimed(o.Counted.Questions, about).Document(o.Result.(*infer.Equivalence), sharesOf(in.First, in.Second))
}

// NearDistributionSettings asks whether every answer's share is near enough to its expected one.
type NearDistributionSettings struct {
	Shares ExpectedShares `json:"shares"`
	near
}

var askedNearDistribution = &Asked{Version: 1, Quick: QuickAnswers, Seldom: true, Questions: []Part{TheQuestion},
	Inputs: slices.Concat(sharesInputs, nearInputs),
	Texts:  "near_distribution", Lines: []Line{{ID: "given", Unless: &When{"shares.scale", string(shares.Equal)}}, {ID: "equal", Only: &When{"shares.scale", string(shares.Equal)}}, {ID: "claim"}},
	New: func() Settings {
		return &NearDistributionSettings{Shares: ExpectedShares{Scale: shares.Percents}, near: near{Level: 0.05}}
	}}

// Check implements Settings.
func (s *NearDistributionSettings) Check(q []survey.Question) []Problem {
	return slices.Concat(s.check(), s.Shares.check(q[0]))
}

// Cited is where the expected shares come from.
func (s *NearDistributionSettings) Cited() Reference { return s.Shares.Source }

// Codes implements Settings.
func (s *NearDistributionSettings) Codes(int) []string { return s.Shares.codes() }

// Essence implements Settings.
func (s *NearDistributionSettings) Essence() any {
	return NearDistributionSettings{s.Shares.essence(), s.same()}
}

func (s *NearDistributionSettings) claimed(q survey.Question, about claim.About) claim.NearEnough {
	c := s.claim(about)
	c.Question, c.Source, c.Labels = named(q), s.Shares.Source.Title, labelsOf(q)
	if s.Shares.Scale == shares.Equal {
		c.Source = ""
	}
	return c
}

// Statement implements Settings.
func (s *NearDistributionSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claimed(q[0], about).Statement()
}

func (*NearDistributionSettings) needs() need { return frequencies }

func (s *NearDistributionSettings) run(work Work, c *Counted) (*Outcome, error) {
	return outcomeOf(work, nearDistributionName, &DistributionEquivalenceRequest{Observed: properCounts(c.Frequency), Scaled: s.Shares.scaled(c.Questions[0]), Margin: s.margin(), Level: float64(s.Level)})
}

func (s *NearDistributionSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claimed(o.Counted.Questions[0], about).Distribution(o.Result.(*infer.DistributionEquivalence), properCounts(o.Counted.Frequency))
}
