// Package homogeneity compares the shares of a question's answers with those of another sample.
package homogeneity

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
)

// Settings asks whether a question's answers are spread as those of another sample,
// of which the counts are known.
type Settings struct {
	// Shares holds the counts of the other sample; their scale is counts.
	Shares analysis.ExpectedShares `json:"shares"`
	Role   claim.Role              `json:"role"`
	Level  analysis.Level          `json:"level"`
	// Effect is the design effect of the other sample as written, where the population is estimated; it
	// cannot be known from its counts.
	Effect string `json:"effect,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Quick:     analysis.QuickAnswers,
	Seldom:    true,
	Key:       "h",
	Questions: []analysis.Part{analysis.TheQuestion},
	Inputs: []analysis.Input{
		{Name: "shares.source.title", Kind: analysis.TextInput, MaxLength: analysis.MaxTitle, Needed: true},
		{Name: "shares.source.date", Kind: analysis.TextInput, MaxLength: analysis.MaxDate},
		{Name: "role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles), Needed: true},
		analysis.LevelBlank("level"),
		{Name: "effect", Kind: analysis.TextInput, MaxLength: 20},
		{Name: "shares.figures", Kind: analysis.FiguresInput, MaxLength: 40},
	},
	Lines: []analysis.Line{{ID: "given"}, {ID: "claim"}, {ID: "effect"}},
	New: func() analysis.Settings {
		return &Settings{
			Shares: analysis.ExpectedShares{Scale: shares.Counts, Source: analysis.Reference{Kind: claim.Survey}},
			Level:  0.05,
		}
	},
}

// published reads the counts of the other sample; bad is the place of the first figure that is
// no count, −1 for none.
func (s *Settings) published(q survey.Question) (counts []int64, bad int) {
	_, figures := s.Shares.FiguresFor(q.Proper())
	for i, f := range figures {
		x, p := shares.ParseFigure(f, shares.Counts)
		if p.Kind != "" || !x.IsInt() || !x.Num().IsInt64() || x.Sign() < 0 {
			return nil, i
		}
		counts = append(counts, x.Num().Int64())
	}
	return counts, -1
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	out := slices.Concat(analysis.CheckRole(s.Role, "role"), s.Level.Problems("level"))
	if _, ok := s.effect(); !ok {
		out = append(out, analysis.Problem{Code: "homogeneity.effect", Pointer: "/settings/effect"})
	}
	if s.Shares.Scale != shares.Counts {
		return append(out, analysis.Problem{Code: "homogeneity.counts", Pointer: "/settings/shares/scale"})
	}
	if out = append(out, s.Shares.Check(q[0])...); len(out) > 0 {
		return out
	}
	if _, bad := s.published(q[0]); bad >= 0 {
		a := q[0].Proper()[bad]
		out = append(
			out,
			analysis.Problem{
				Code:    "homogeneity.whole",
				Pointer: fmt.Sprintf("/settings/shares/figures/%d", bad),
				Values:  document.Values{"answer": document.Text(a.Label)},
			},
		)
	}
	return out
}

// Tests implements analysis.Settings.
func (*Settings) Tests() bool { return true }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the other sample's counts come from.
func (s *Settings) Cited() analysis.Reference { return s.Shares.Source }

// Codes implements analysis.Settings.
func (s *Settings) Codes(int) []string { return s.Shares.Codes() }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	return Settings{s.Shares.Essence(), s.Role, s.Level, s.Effect}
}

func (s *Settings) claim(q survey.Question, about claim.About) Claim {
	return Claim{
		About:    about,
		Stated:   claim.Stated{Role: s.Role, Level: float64(s.Level)},
		Question: analysis.Named(q),
		Labels:   analysis.LabelsOf(q),
		Source:   s.Shares.Source.Title,
	}
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedFrequencies }

// effect reads the design effect of the other sample; 0 for none.
func (s *Settings) effect() (x float64, ok bool) {
	text := strings.Replace(strings.TrimSpace(s.Effect), ",", ".", 1)
	if text == "" {
		return 0, true
	}
	x, err := strconv.ParseFloat(text, 64)
	return x, err == nil && x > 0 && x <= 1000
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	published, _ := s.published(c.Questions[0])
	observed := analysis.ProperCounts(c.Frequency)
	o, err := figures.Outcome(work, &Request{Observed: observed, Published: published, Level: float64(s.Level)})
	if err != nil || o.Refusal != nil {
		return o, err
	}
	r := o.Result.(*infer.Homogeneity)
	r.Exact, err = work.ExactTable(r.Test, [][]int64{observed, published}, float64(s.Level))
	return o, err
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	published, _ := s.published(o.Counted.Questions[0])
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.Homogeneity), published)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is the counts of two samples, the published one second.
type Request struct {
	Observed  []int64 `json:"observed"`
	Published []int64 `json:"published"`
	Level     float64 `json:"level,omitempty"`
}

var figures = analysis.Figures("homogeneity", "Observed counts against published ones that come from a sample themselves",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.IndependentGroups}, Request{Level: 0.05},
	func(_ context.Context, in *Request) (*infer.Homogeneity, error) {
		if len(in.Observed) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("against a sample", analysis.TooManyAnswers, -1)
		}
		return infer.ComputeHomogeneity(in.Observed, in.Published, in.Level)
	})
