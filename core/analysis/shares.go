package analysis

import (
	"fmt"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/shares"
	"widetally/core/survey"
	"widetally/core/tally"
)

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

// SharesInputs are those of expected shares.
var SharesInputs = []Input{
	{Name: "shares.scale", Kind: ChoiceInput, Options: TextsOf(shares.Scales)},
	{
		Name:      "shares.source.title",
		Kind:      TextInput,
		MaxLength: MaxTitle,
		Needed:    true,
		Unless:    &When{"shares.scale", string(shares.Equal)},
	},
	{
		Name:    "shares.source.kind",
		Kind:    ChoiceInput,
		Options: TextsOf(claim.ReferenceKinds),
		Needed:  true,
		Unless:  &When{"shares.scale", string(shares.Equal)},
	},
	{Name: "shares.source.date", Kind: TextInput, MaxLength: MaxDate, Unless: &When{"shares.scale", string(shares.Equal)}},
	{Name: "shares.figures", Kind: FiguresInput, MaxLength: 40, Unless: &When{"shares.scale", string(shares.Equal)}},
}

// FiguresFor gives the figure of each answer, "" where there is none.
func (e ExpectedShares) FiguresFor(answers []survey.Answer) (names []shares.Name, figures []string) {
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
	names, figures := e.FiguresFor(q.Proper())
	return shares.Normalise(names, figures, e.Scale, e.Rescale)
}

// Check lists what keeps the shares from being used for a question.
func (e ExpectedShares) Check(q survey.Question) (out []Problem) {
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
	names, figures := e.FiguresFor(answers)
	known := map[string]bool{}
	for i, f := range e.Figures {
		pointer := fmt.Sprintf("/settings/shares/figures/%d", i)
		switch at := slices.IndexFunc(answers, func(a survey.Answer) bool { return a.Code == f.Code }); {
		case at < 0:
			out = append(
				out,
				Problem{
					Code:    "spec.category",
					Pointer: pointer,
					Values:  document.Values{"text": document.Text(f.Code), "name": document.Text(q.Name)},
				},
			)
		case known[f.Code]:
			out = append(
				out,
				Problem{
					Code:    "shares.given_twice",
					Pointer: pointer,
					Values:  document.Values{"answer": document.Text(answers[at].Label), "text": document.Text(f.Code)},
				},
			)
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

// Codes lists the codes that have a figure.
func (e ExpectedShares) Codes() (out []string) {
	for _, f := range e.Figures {
		out = append(out, f.Code)
	}
	return out
}

// Essence is what a result depends on of the shares.
func (e ExpectedShares) Essence() ExpectedShares {
	e.Source, e.Placed, e.Figures = Reference{}, false, slices.Clone(e.Figures)
	slices.SortFunc(e.Figures, func(a, b CategoryFigure) int { return strings.Compare(a.Code, b.Code) })
	return e
}

// Scaled is the shares as a request names them.
func (e ExpectedShares) Scaled(q survey.Question) Scaled {
	out := Scaled{Scale: e.Scale, Rescale: e.Rescale}
	if e.Scale != shares.Equal {
		_, figures := e.FiguresFor(q.Proper())
		for _, f := range figures {
			out.Shares = append(out.Shares, Figure(f))
		}
	}
	return out
}

// ProperCounts are the counts of the proper answers.
func ProperCounts(f *tally.Frequency) (out []int64) {
	for _, r := range f.Rows {
		out = append(out, r.Count)
	}
	return out
}
