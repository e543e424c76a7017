package analysis

import (
	"fmt"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/shares"
	"widetally/core/survey"
)

// TwoSamplesSettings asks whether a question's answers are spread as those of another sample,
// of which the counts are known.
type TwoSamplesSettings struct {
	// Shares holds the counts of the other sample; their scale is counts.
	Shares ExpectedShares `json:"shares"`
	Role   claim.Role     `json:"role"`
	Level  Level          `json:"level"`
}

const againstSampleName = "homogeneity"

var askedTwoSamples = &Asked{Version: 1, Quick: QuickAnswers, Seldom: true, Questions: []Part{TheQuestion},
	Inputs: []Input{
		{Name: "shares.source.title", Kind: TextInput, MaxLength: maxTitle, Needed: true},
		{Name: "shares.source.date", Kind: TextInput, MaxLength: maxDate},
		{Name: "role", Kind: ChoiceInput, Options: texts(claim.Roles), Needed: true},
		levelInput("level"),
		{Name: "shares.figures", Kind: FiguresInput, MaxLength: 40},
	},
	Texts: "two_samples", Lines: []Line{{ID: "given"}, {ID: "claim"}},
	New: func() Settings {
		return &TwoSamplesSettings{Shares: ExpectedShares{Scale: shares.Counts, Source: Reference{Kind: claim.Survey}}, Level: 0.05}
	}}

// published reads the counts of the other sample; bad is the place of the first figure that is
// no count, −1 for none.
func (s *TwoSamplesSettings) published(q survey.Question) (counts []int64, bad int) {
	_, figures := s.Shares.figuresFor(q.Proper())
	for i, f := range figures {
		x, p := shares.ParseFigure(f, shares.Counts)
		if p.Kind != "" || !x.IsInt() || !x.Num().IsInt64() || x.Sign() < 0 {
			return nil, i
		}
		counts = append(counts, x.Num().Int64())
	}
	return counts, -1
}

// Check implements Settings.
func (s *TwoSamplesSettings) Check(q []survey.Question) []Problem {
	out := slices.Concat(checkRole(s.Role, "role"), s.Level.problems("level"))
	if s.Shares.Scale != shares.Counts {
		return append(out, Problem{Code: "two_samples.counts", Pointer: "/settings/shares/scale"})
	}
	if out = append(out, s.Shares.check(q[0])...); len(out) > 0 {
		return out
	}
	if _, bad := s.published(q[0]); bad >= 0 {
		a := q[0].Proper()[bad]
		out = append(out, Problem{Code: "two_samples.whole", Pointer: fmt.Sprintf("/settings/shares/figures/%d", bad), Values: document.Values{"answer": document.Text(a.Label)}})
	}
	return out
}

// Tests implements Settings.
func (*TwoSamplesSettings) Tests() bool { return true }

// SignificanceLevel implements Settings.
func (s *TwoSamplesSettings) SignificanceLevel() float64 { return float64(s.Level) }

// Cited is where the other sample's counts come from.
func (s *TwoSamplesSettings) Cited() Reference { return s.Shares.Source }

// Codes implements Settings.
func (s *TwoSamplesSettings) Codes(int) []string { return s.Shares.codes() }

// Essence implements Settings.
func (s *TwoSamplesSettings) Essence() any {
	return TwoSamplesSettings{s.Shares.essence(), s.Role, s.Level}
}

func (s *TwoSamplesSettings) claim(q survey.Question, about claim.About) claim.TwoSamples {
	return claim.TwoSamples{About: about, Stated: claim.Stated{Role: s.Role, Level: float64(s.Level)}, Question: named(q), Labels: labelsOf(q), Source: s.Shares.Source.Title}
}

// Statement implements Settings.
func (s *TwoSamplesSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q[0], about).Statement()
}

func (*TwoSamplesSettings) needs() need { return frequencies }

func (s *TwoSamplesSettings) run(work Work, c *Counted) (*Outcome, error) {
	published, _ := s.published(c.Questions[0])
	observed := properCounts(c.Frequency)
	o, err := outcomeOf(work, againstSampleName, &AgainstSampleRequest{Observed: observed, Published: published, Level: float64(s.Level)})
	if err != nil || o.Refusal != nil {
		return o, err
	}
	r := o.Result.(*infer.Homogeneity)
	r.Exact, err = work.exactTable(r.Test, [][]int64{observed, published}, float64(s.Level))
	return o, err
}

func (s *TwoSamplesSettings) document(o *Outcome, about claim.About) document.Document {
	about.Everyone = o.Counted.Frequency.Everyone
	published, _ := s.published(o.Counted.Questions[0])
	return s.claim(o.Counted.Questions[0], about).Document(o.Result.(*infer.Homogeneity), published)
}
