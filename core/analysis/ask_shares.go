package analysis

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/exact"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/core/tally"
)

// SharesSettings asks whether a question's answers are spread as expected shares say.
type SharesSettings struct {
	Shares ExpectedShares `json:"shares"`
	// Role says which hypothesis the claim is: that the shares hold, or that they do not.
	Role  claim.Role `json:"role"`
	Level Level      `json:"level"`
	// Picture draws the observed shares beside the expected ones; none where absent.
	Picture claim.SharesPicture `json:"picture,omitempty"`
	Frame   *claim.Frame        `json:"frame,omitempty"`
}

// ExpectedShares are figures by answer, with where they come from.
type ExpectedShares struct {
	Scale   shares.Scale `json:"scale"`
	Rescale bool         `json:"rescale,omitempty"`
	// Figures holds one for each proper answer, none where all are equal.
	Figures []CategoryFigure `json:"figures,omitempty"`
	Source  Reference        `json:"source"`
	// Placed says that the figures went to the answers by their place in a list without names.
	Placed bool `json:"placed,omitempty"`
}

const goodnessOfFitName = "goodness-of-fit"

// sharesInputs are those of expected shares.
var sharesInputs = []Input{
	{Name: "shares.scale", Kind: ChoiceInput, Options: texts(shares.Scales)},
	{Name: "shares.source.title", Kind: TextInput, MaxLength: maxTitle, Needed: true, Unless: &When{"shares.scale", string(shares.Equal)}},
	{Name: "shares.source.kind", Kind: ChoiceInput, Options: texts(claim.ReferenceKinds), Needed: true, Unless: &When{"shares.scale", string(shares.Equal)}},
	{Name: "shares.source.date", Kind: TextInput, MaxLength: maxDate, Unless: &When{"shares.scale", string(shares.Equal)}},
	{Name: "shares.figures", Kind: FiguresInput, MaxLength: 40, Unless: &When{"shares.scale", string(shares.Equal)}},
}

var askedShares = &Asked{Version: 1, Quick: QuickAnswers, Questions: []Part{TheQuestion},
	Inputs: append(slices.Clone(sharesInputs),
		Input{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles)},
		levelInput("level"),
	),
	Texts: "shares", Key: "c", Lines: []Line{{ID: "given", Unless: &When{"shares.scale", string(shares.Equal)}}, {ID: "equal", Only: &When{"shares.scale", string(shares.Equal)}}, {ID: "claim"}},
	New: func() Settings {
		return &SharesSettings{Shares: ExpectedShares{Scale: shares.Percents}, Role: claim.ClaimIsNull, Level: 0.05}
	}}

// texts are the values of a choice.
func texts[T ~string](values []T) (out []string) {
	for _, v := range values {
		out = append(out, string(v))
	}
	return out
}

// figuresFor gives the figure of each answer, "" where there is none.
func (e ExpectedShares) figuresFor(answers []survey.Answer) (names []shares.Name, figures []string) {
	for _, a := range answers {
		figure := ""
		if i := slices.IndexFunc(e.Figures, func(f CategoryFigure) bool { return f.Code == a.Code }); i >= 0 {
			figure = e.Figures[i].Figure
		}
		names, figures = append(names, shares.Name{Label: a.Label, Code: a.Code}), append(figures, figure)
	}
	return names, figures
}

// Align reads the figures for the answers of a question.
func (e ExpectedShares) Align(q survey.Question) *shares.Aligned {
	names, figures := e.figuresFor(q.Proper())
	return shares.Normalise(names, figures, e.Scale, e.Rescale)
}

func (e ExpectedShares) check(q survey.Question) (out []Problem) {
	equal := e.Scale == shares.Equal
	switch {
	case !slices.Contains(shares.Scales, e.Scale):
		return []Problem{{Code: "claim.scale", Pointer: "/settings/shares/scale"}}
	case !equal && e.Source.Kind == "", e.Source.Kind != "" && !slices.Contains(claim.ReferenceKinds, e.Source.Kind):
		out = append(out, Problem{Code: "claim.reference", Pointer: "/settings/shares/source/kind"})
	}
	if !equal && strings.TrimSpace(e.Source.Title) == "" {
		out = append(out, Problem{Code: "claim.source_empty", Pointer: "/settings/shares/source/title"})
	}
	out = append(out, e.Source.texts("shares/source")...)
	answers := q.Proper()
	names, figures := e.figuresFor(answers)
	known := map[string]bool{}
	for i, f := range e.Figures {
		pointer := fmt.Sprintf("/settings/shares/figures/%d", i)
		switch at := slices.IndexFunc(answers, func(a survey.Answer) bool { return a.Code == f.Code }); {
		case at < 0:
			out = append(out, Problem{Code: "spec.category", Pointer: pointer, Values: document.Values{"text": document.Text(f.Code), "name": document.Text(q.Name)}})
		case known[f.Code]:
			out = append(out, Problem{Code: "shares.given_twice", Pointer: pointer, Values: document.Values{"answer": document.Text(answers[at].Label), "text": document.Text(f.Code)}})
		}
		known[f.Code] = true
	}
	a := shares.Normalise(names, figures, e.Scale, e.Rescale)
	for _, p := range a.Problems {
		pointer := "/settings/shares/figures"
		if p.Answer >= 0 {
			code := answers[p.Answer].Code
			if i := slices.IndexFunc(e.Figures, func(f CategoryFigure) bool { return f.Code == code }); i >= 0 {
				pointer += fmt.Sprintf("/%d", i)
			}
		}
		out = append(out, Problem{Code: shares.ProblemCode(a, p), Pointer: pointer, Values: sharesValues(a, names, p)})
	}
	return out
}

// sharesValues are the values of a problem with shares.
func sharesValues(a *shares.Aligned, names []shares.Name, p shares.Problem) document.Values {
	v := document.Values{}
	for k, text := range shares.ProblemValues(a, names, p) {
		v[k] = document.Text(text)
	}
	return v
}

func checkRole(r claim.Role, member string) []Problem {
	if !slices.Contains(claim.Roles, r) {
		return []Problem{{Code: "claim.role", Pointer: "/settings/" + member}}
	}
	return nil
}

// Check implements Settings.
func (s *SharesSettings) Check(q []survey.Question) []Problem {
	return slices.Concat(checkRole(s.Role, "role"), s.Level.problems("level"), s.Shares.check(q[0]), checkOneOf(claim.SharesPictures, s.Picture, "crosstab.picture", "picture"), checkFrame(s.Frame))
}

// Tests implements Settings.
func (*SharesSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *SharesSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the claimed figures come from.
func (s *SharesSettings) Cited() Reference { return s.Shares.Source }

// Codes implements Settings.
func (s *SharesSettings) Codes(int) []string { return s.Shares.codes() }

func (e ExpectedShares) codes() (out []string) {
	for _, f := range e.Figures {
		out = append(out, f.Code)
	}
	return out
}

// essence is what a result depends on of the shares.
func (e ExpectedShares) essence() ExpectedShares {
	e.Source, e.Placed, e.Figures = Reference{}, false, slices.Clone(e.Figures)
	slices.SortFunc(e.Figures, func(a, b CategoryFigure) int { return strings.Compare(a.Code, b.Code) })
	return e
}

// scaled is the shares as a request names them.
func (e ExpectedShares) scaled(q survey.Question) Scaled {
	out := Scaled{Scale: e.Scale, Rescale: e.Rescale}
	if e.Scale != shares.Equal {
		_, figures := e.figuresFor(q.Proper())
		for _, f := range figures {
			out.Shares = append(out.Shares, Figure(f))
		}
	}
	return out
}

// properCounts are the counts of the proper answers.
func properCounts(f *tally.Frequency) (out []int64) {
	for _, r := range f.Rows {
		out = append(out, r.Count)
	}
	return out
}

// Essence implements Settings.
func (s *SharesSettings) Essence() any {
	e := *s
	e.Shares, e.Picture, e.Frame = s.Shares.essence(), "", nil
	return e
}

func (s *SharesSettings) claim(q survey.Question, about claim.About) claim.GoodnessOfFit {
	c := claim.GoodnessOfFit{About: about, Question: named(q), Source: s.Shares.Source.Title, Kind: s.Shares.Source.Kind, Scale: s.Shares.Scale, Role: s.Role, Aligned: s.Shares.Align(q), Picture: s.Picture, Frame: s.Frame}
	c.Gaps, c.Placed = survey.Gaps(q), s.Shares.Placed
	c.Asked, _ = json.Marshal(s.Shares) // texts and flags only
	for _, a := range q.Proper() {
		c.Labels, c.Codes = append(c.Labels, a.Label), append(c.Codes, a.Code)
	}
	return c
}

// Statement implements Settings.
func (s *SharesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

func (*SharesSettings) needs() need { return frequencies }

func (s *SharesSettings) run(work Work, c *Counted) (*Outcome, error) {
	in := &GoodnessOfFitRequest{Observed: properCounts(c.Frequency), Scaled: s.Shares.scaled(c.Questions[0]), Level: float64(s.Level)}
	o, err := outcomeOf(work, goodnessOfFitName, in)
	if err != nil || o.Refusal != nil {
		return o, err
	}
	answer := o.Result.(GoodnessOfFitAnswer)
	if r := answer.GoodnessOfFit; r.LowCells > 0 {
		input := infer.GoodnessOfFitInput{Observed: in.Observed, Shares: s.Shares.Align(c.Questions[0]).Shares, Level: in.Level}
		options := infer.ExactOptions{Work: work.Steps, Replicates: work.Replicates, Seed: fixedSeed}
		if r.Answers > 2 && exact.MultinomialSteps(r.N, r.Answers) > float64(work.Steps) {
			options.Way = infer.SimulatedOnly
		}
		if answer.Exact, err = infer.ComputeExactGoodnessOfFit(work.Context, input, options); err != nil {
			return nil, err
		}
		o.Result = answer
	}
	return o, nil
}

// fixedSeed is that of simulations that nobody gave one, so that a page shows the same
// figures each time.
const fixedSeed = 1

func (s *SharesSettings) document(o *Outcome, about claim.About) document.Document {
	answer := o.Result.(GoodnessOfFitAnswer)
	about.Everyone = o.Counted.Frequency.Everyone
	c := s.claim(o.Counted.Questions[0], about)
	c.Exact = answer.Exact
	return c.Document(answer.GoodnessOfFit)
}
