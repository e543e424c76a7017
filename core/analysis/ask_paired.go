package analysis

import (
	"slices"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// PairedSettings asks whether the shares of the answers are the same in two questions that
// the same respondents answered.
type PairedSettings struct {
	Role  claim.Role `json:"role"`
	Level Level      `json:"level"`
}

const pairedName = "paired"

var askedPaired = &Asked{Version: 1, Quick: QuickSquare, Seldom: true, Questions: []Part{TheQuestion, TheSecond},
	Inputs: []Input{
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
	},
	Texts: "paired", Lines: []Line{{ID: "claim"}},
	New: func() Settings { return &PairedSettings{Level: 0.05} }}

// Check implements Settings: a code must mean the same in both questions, and two of them
// must be in both.
func (s *PairedSettings) Check(q []survey.Question) (out []Problem) {
	common := 0
	second := q[1].Proper()
	for _, a := range q[0].Proper() {
		i := slices.IndexFunc(second, func(b survey.Answer) bool { return a.Code == b.Code })
		if i < 0 {
			continue
		}
		if common++; !strings.EqualFold(strings.TrimSpace(a.Label), strings.TrimSpace(second[i].Label)) {
			out = append(out, Problem{Code: "paired.labels", Pointer: "/questions/1", Values: document.Values{"code": document.Text(a.Code), "first": document.Text(a.Label), "second": document.Text(second[i].Label)}})
			break
		}
	}
	if common < 2 && len(out) == 0 {
		out = append(out, Problem{Code: "paired.answers", Pointer: "/questions/1"})
	}
	out = append(out, checkRole(s.Role, "role")...)
	return append(out, s.Level.problems("level")...)
}

// Tests implements Settings.
func (*PairedSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *PairedSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements Settings: no category is named.
func (*PairedSettings) Codes(int) []string { return nil }

// Essence implements Settings.
func (s *PairedSettings) Essence() any { return *s }

func (s *PairedSettings) claim(q []survey.Question, about claim.About) claim.Paired {
	return claim.Paired{About: about, First: named(q[0]), Second: named(q[1]), Role: s.Role, Level: float64(s.Level)}
}

// Statement implements Settings.
func (s *PairedSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*PairedSettings) needs() need { return crosstab }

// pairs is the square table of what was counted, the first question down.
func (*PairedSettings) pairs(c *Counted) *tally.Paired {
	p := tally.Pair(c.Crosstab) // the second question has the rows
	turned := make([][]int64, len(p.Counts))
	for i := range turned {
		for j := range p.Counts {
			turned[i] = append(turned[i], p.Counts[j][i])
		}
	}
	p.Counts = turned
	return p
}

func (s *PairedSettings) run(work Work, c *Counted) (*Outcome, error) {
	o, err := outcomeOf(work, pairedName, &AgreementRequest{Table: s.pairs(c).Counts, Confidence: 1 - float64(s.Level)})
	if err != nil || o.Refusal != nil {
		return o, err
	}
	if r := o.Result.(*infer.Agreement); r.Margins == nil {
		o.Refusal = &infer.InputError{Method: pairedName, Reason: r.WhyNoMargins, Index: -1}
	}
	return o, nil
}

func (s *PairedSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	p := s.pairs(o.Counted)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	for _, a := range p.Answers {
		c.Labels = append(c.Labels, a.Label)
	}
	c.Counts = p.Counts
	return c.Document(o.Result.(*infer.Agreement))
}
