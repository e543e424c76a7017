package analysis

import (
	"encoding/json"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
)

// ShareSettings asks whether one answer, or several together, have a claimed share.
type ShareSettings struct {
	// Success holds the codes of the answers that count.
	Success []string `json:"success"`
	// Claimed is the share as written: 62 %, 0.62 or 31/50. From 1 up it is a percent.
	Claimed   string          `json:"claimed"`
	Direction claim.Direction `json:"direction"`
	Role      claim.Role      `json:"role"`
	Level     Level           `json:"level"`
	Source    Reference       `json:"source"`
	// Looked are further directions that were looked at after the stated one.
	Looked []claim.Direction `json:"looked,omitempty"`
}

const oneProportionName = "one-proportion"

var askedShare = &Asked{Version: 1, Quick: QuickYesNo, Questions: []Part{TheQuestion},
	Inputs: []Input{
		{Name: "success", Kind: CategoriesInput, Needed: true},
		{Name: "claimed", Kind: ShareInput, MaxLength: 20, Needed: true},
		{Name: "direction", Kind: ChoiceInput, Options: texts(claim.Directions), Needed: true},
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
		{Name: "source.title", Kind: TextInput, MaxLength: maxTitle},
	},
	Texts: "share", Key: "t", Lines: []Line{{ID: "claimed"}, {ID: "question"}, {ID: "role"}},
	New: func() Settings { return &ShareSettings{Success: []string{}, Level: 0.05} }}

// claimed reads the claimed share.
func (s *ShareSettings) claimed() (*big.Rat, []Problem) { return readShare(s.Claimed, "claimed") }

// readShare reads one share as a person writes it, between 0 and 1, both excluded.
func readShare(text, member string) (*big.Rat, []Problem) {
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

// Check implements Settings.
func (s *ShareSettings) Check(q []survey.Question) []Problem {
	_, wrong := s.claimed()
	return slices.Concat(checkSuccess(s.Success, q[0]), wrong, checkOneOf(claim.Directions, s.Direction, "share.direction", "direction"), checkLooked(s.Looked), checkRole(s.Role, "role"), s.Level.problems("level"), s.Source.check("source"))
}

// checkSuccess checks the answers that count, which are not all.
func checkSuccess(success []string, q survey.Question) (out []Problem) {
	answers := q.Proper()
	if len(success) == 0 {
		out = append(out, Problem{Code: "share.no_success", Pointer: "/settings/success"})
	}
	for i, code := range success {
		pointer := fmt.Sprintf("/settings/success/%d", i)
		switch {
		case !slices.ContainsFunc(answers, func(a survey.Answer) bool { return a.Code == code }):
			out = append(out, Problem{Code: "spec.category", Pointer: pointer, Values: document.Values{"text": document.Text(code), "name": document.Text(q.Name)}})
		case slices.Contains(success[:i], code):
			out = append(out, Problem{Code: "spec.category_twice", Pointer: pointer, Values: document.Values{"text": document.Text(code)}})
		}
	}
	if len(success) > 0 && len(success) >= len(answers) && len(out) == 0 {
		out = append(out, Problem{Code: "share.all_success", Pointer: "/settings/success"})
	}
	return out
}

// checkLooked checks the directions that were looked at, too.
func checkLooked(looked []claim.Direction) (out []Problem) {
	for i, d := range looked {
		if !slices.Contains(claim.Directions, d) || slices.Contains(looked[:i], d) {
			out = append(out, Problem{Code: "share.direction", Pointer: fmt.Sprintf("/settings/looked/%d", i)})
		}
	}
	return out
}

// Tests implements Settings.
func (*ShareSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *ShareSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the claimed figures come from.
func (s *ShareSettings) Cited() Reference { return s.Source }

// Codes implements Settings.
func (s *ShareSettings) Codes(int) []string { return s.Success }

// Essence implements Settings.
func (s *ShareSettings) Essence() any {
	e := *s
	e.Source, e.Looked = Reference{}, nil
	e.Success = slices.Sorted(slices.Values(e.Success))
	if x, wrong := s.claimed(); wrong == nil {
		e.Claimed = x.RatString()
	}
	return e
}

func (s *ShareSettings) claim(q survey.Question, about claim.About) claim.OneShare {
	c := claim.OneShare{About: about, Question: named(q), Source: s.Source.Title, Direction: s.Direction, Role: s.Role, Level: float64(s.Level), Looked: s.Looked}
	c.Claimed, _ = s.claimed()
	c.Success = successLabels(s.Success, q)
	c.Near, _ = json.Marshal(NearShareSettings{Success: s.Success, Expected: s.Claimed, Source: s.Source, near: near{Role: claim.ClaimIsAlternative, Level: s.Level}}) // texts and numbers only
	return c
}

// Statement implements Settings.
func (s *ShareSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

func (*ShareSettings) needs() need { return frequencies }

func (s *ShareSettings) run(work Work, c *Counted) (*Outcome, error) {
	x, _ := s.claimed()
	share, _ := x.Float64()
	return outcomeOf(work, oneProportionName, &OneProportionRequest{Group: groupOf(c, s.Success), Claimed: share, Confidence: 1 - float64(s.Level)})
}

func (s *ShareSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.Proportion))
}
