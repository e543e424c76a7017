package analysis

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/shares"
	"widetally/core/survey"
)

// ReadMargin reads a margin in percentage points: 3, 2.5 or 3 %.
func ReadMargin(text string) (*big.Rat, []Problem) {
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

// GroupOf counts who gave an answer that counts, of those who answered.
func GroupOf(c *Counted, success []string) (out Group) {
	for i, a := range c.Questions[0].Proper() {
		n := c.Frequency.Rows[i].Count
		out.N += n
		if slices.Contains(success, a.Code) {
			out.Successes += n
		}
	}
	return out
}

// ShareOf is a checked share as a number.
func ShareOf(text, member string) *float64 {
	x, wrong := ReadShare(text, member)
	if wrong != nil {
		return nil
	}
	f, _ := x.Float64()
	return &f
}

// ReadShare reads one share as a person writes it, between 0 and 1, both excluded.
func ReadShare(text, member string) (*big.Rat, []Problem) {
	text = strings.TrimSpace(text)
	scale := shares.Proportions
	if strings.HasSuffix(text, "%") {
		scale = shares.Percents
	}
	bad := func(code string) []Problem {
		return []Problem{{Code: code, Pointer: "/settings/" + member, Values: document.Values{"text": document.Text(text)}}}
	}
	if text == "" {
		return nil, bad("share.empty")
	}
	x, p := shares.ParseFigure(text, scale)
	switch {
	case p.Kind == shares.AmbiguousComma:
		return nil, bad("share.comma")
	case p.Kind != "":
		return nil, bad("share.not_a_share")
	}
	one := big.NewRat(1, 1)
	if scale == shares.Percents || x.Cmp(one) > 0 {
		x.Mul(x, big.NewRat(1, 100))
	} else if x.Cmp(one) == 0 {
		return nil, bad("share.one")
	}
	if x.Sign() <= 0 || x.Cmp(one) >= 0 {
		return nil, bad("share.range")
	}
	return x, nil
}

// CheckSuccess checks the answers that count, which are not all.
func CheckSuccess(success []string, q survey.Question) (out []Problem) {
	answers := q.Proper()
	if len(success) == 0 {
		out = append(out, Problem{Code: "share.no_success", Pointer: "/settings/success"})
	}
	for i, code := range success {
		pointer := fmt.Sprintf("/settings/success/%d", i)
		switch {
		case !slices.ContainsFunc(answers, func(a survey.Answer) bool { return a.Code == code }):
			out = append(
				out,
				Problem{
					Code:    "spec.category",
					Pointer: pointer,
					Values:  document.Values{"text": document.Text(code), "name": document.Text(q.Name)},
				},
			)
		case slices.Contains(success[:i], code):
			out = append(
				out,
				Problem{Code: "spec.category_twice", Pointer: pointer, Values: document.Values{"text": document.Text(code)}},
			)
		}
	}
	if len(success) > 0 && len(success) >= len(answers) && len(out) == 0 {
		out = append(out, Problem{Code: "share.all_success", Pointer: "/settings/success"})
	}
	return out
}

// CheckLooked checks the directions that were looked at, too.
func CheckLooked(looked []claim.Direction) (out []Problem) {
	for i, d := range looked {
		if !slices.Contains(claim.Directions, d) || slices.Contains(looked[:i], d) {
			out = append(out, Problem{Code: "share.direction", Pointer: fmt.Sprintf("/settings/looked/%d", i)})
		}
	}
	return out
}

// SuccessLabels names the answers that count.
func SuccessLabels(success []string, q survey.Question) (out []string) {
	for _, a := range q.Proper() {
		if slices.Contains(success, a.Code) {
			out = append(out, a.Label)
		}
	}
	return out
}

// Group is how many of a group said yes.
type Group struct {
	Successes int64 `json:"successes"`
	N         int64 `json:"n"`
}
