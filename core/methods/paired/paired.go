// Package paired compares what the same respondents answered twice.
package paired

import (
	"context"
	"slices"
	"strings"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Settings asks whether the shares of the answers are the same in two questions that
// the same respondents answered.
type Settings struct {
	Role  claim.Role     `json:"role"`
	Level analysis.Level `json:"level"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickSquare,
	Seldom:    true,
	Key:       "p",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheSecond},
	Inputs: []analysis.Input{
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
	},
	Lines: []analysis.Line{{ID: "claim"}},
	New:   func() analysis.Settings { return &Settings{Level: 0.05} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings: a code must mean the same in both questions, and two of them
// must be in both.
func (s *Settings) Check(q []survey.Question) (out []analysis.Problem) {
	common := 0
	second := q[1].Proper()
	for _, a := range q[0].Proper() {
		i := slices.IndexFunc(second, func(b survey.Answer) bool { return a.Code == b.Code })
		if i < 0 {
			continue
		}
		if common++; !strings.EqualFold(strings.TrimSpace(a.Label), strings.TrimSpace(second[i].Label)) {
			out = append(
				out,
				analysis.Problem{
					Code:    "paired.labels",
					Pointer: "/questions/1",
					Values: document.Values{
						"code":   document.Text(a.Code),
						"first":  document.Text(a.Label),
						"second": document.Text(second[i].Label),
					},
				},
			)
			break
		}
	}
	if common < 2 && len(out) == 0 {
		out = append(out, analysis.Problem{Code: "paired.answers", Pointer: "/questions/1"})
	}
	out = append(out, analysis.CheckRole(s.Role, "role")...)
	return append(out, s.Level.Problems("level")...)
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Codes implements analysis.Settings: no category is named.
func (*Settings) Codes(int) []string { return nil }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

func (s *Settings) claim(q []survey.Question, about claim.About) Claim {
	return Claim{About: about, First: analysis.Named(q[0]), Second: analysis.Named(q[1]), Role: s.Role, Level: float64(s.Level)}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedCrosstab }

// pairs is the square table of what was counted, the first question down.
func (*Settings) pairs(c *analysis.Counted) *tally.Paired {
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

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	o, err := figures.Outcome(work, &Request{Table: s.pairs(c).Counts, Confidence: 1 - float64(s.Level)})
	if err != nil || o.Refusal != nil {
		return o, err
	}
	if r := o.Result.(*infer.Agreement); r.Margins == nil {
		o.Refusal = &infer.InputError{Method: figures.Name, Reason: r.WhyNoMargins, Index: -1}
	}
	return o, nil
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	p := s.pairs(o.Counted)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	for _, a := range p.Answers {
		c.Labels = append(c.Labels, a.Label)
	}
	c.Counts = p.Counts
	return c.Document(o.Result.(*infer.Agreement))
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is a square table of the same people's two answers: rows the first,
// columns the second.
type Request struct {
	Table      [][]int64 `json:"table"`
	Confidence float64   `json:"confidence,omitempty"`
}

var figures = analysis.Figures("paired", "The same people asked twice: McNemar, Bowker, Stuart and Maxwell, kappa",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.SameRespondents}, Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.Agreement, error) {
		if err := analysis.CheckTable("agreement", in.Table); err != nil {
			return nil, err
		}
		return infer.ComputeAgreement(in.Table, in.Confidence)
	})
