// Package trend follows a question over the waves of a survey.
package trend

import (
	"slices"
	"strconv"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/survey"
)

// Settings asks how the answers to a question changed over waves, the answers of a second question in their order,
// and, where a third recognises respondents, by how much the same ones changed.
type Settings struct {
	analysis.Describing
	// Success holds the codes of the answers that are counted together; empty for none.
	Success []string       `json:"success"`
	Level   analysis.Level `json:"level"`
	// Break is the wave from which on the question was another one, Why what was changed; "" for none.
	Break string `json:"break,omitempty"`
	Why   string `json:"why,omitempty"`
	// Rolling is how many waves a rolling average is of; "" or “none” for none.
	Rolling string `json:"rolling,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "W",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	More:      analysis.TheOthers,
	Inputs: []analysis.Input{
		{Name: "success", Kind: analysis.CategoriesInput},
		analysis.LevelBlank("level"),
		{Name: "break", Kind: analysis.CategoryInput},
		{Name: "why", Kind: analysis.TextInput, MaxLength: analysis.MaxTitle},
		{Name: "rolling", Kind: analysis.ChoiceInput, Options: append([]string{noRolling}, rollings...)},
	},
	Lines: []analysis.Line{{ID: "together"}, {ID: "level"}, {ID: "break"}, {ID: "rolling"}},
	Of:    func(q survey.Question) bool { return q.Kind.Coded() },
	With:  func(q survey.Question) bool { return q.Kind.Coded() || q.Kind == survey.Identifier },
	New:   func() analysis.Settings { return &Settings{Success: []string{}, Level: 0.05} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// most bounds the waves.
const most = 60

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) (out []analysis.Problem) {
	add := func(code, pointer string, v document.Values) {
		out = append(out, analysis.Problem{Code: "trend." + code, Pointer: pointer, Values: v})
	}
	waves := q[1].Proper()
	switch {
	case !q[1].Kind.Coded() || len(waves) < 2 || len(waves) > most:
		add("waves", "/questions/1", document.Values{"most": document.N(most)})
	case len(q) > 3 || len(q) == 3 && q[2].Kind != survey.Identifier:
		add("identifier", "/questions/2", nil)
	}
	if len(s.Success) > 0 {
		out = append(out, analysis.CheckSuccess(s.Success, q[0])...)
	}
	if s.Break != "" && !slices.ContainsFunc(
		waves[min(1, len(waves)):], func(a survey.Answer) bool { return a.Code == s.Break },
	) {
		add("break", "/settings/break", nil)
	}
	if s.Break == "" && s.Why != "" {
		add("break_needed", "/settings/why", nil)
	}
	if s.Rolling != "" && s.Rolling != noRolling && (!slices.Contains(rollings, s.Rolling) || s.rolling() > len(waves)) {
		add("rolling", "/settings/rolling", nil)
	}
	return slices.Concat(out, s.Level.Problems("level"), analysis.CellsFit(q[:2]))
}

// rolling is of how many waves a rolling average is; 0 for none.
func (s *Settings) rolling() int {
	n, _ := strconv.Atoi(s.Rolling) // one of the rollings, or no number
	return n
}

// WavesAt is the place of the question that tells the waves.
func (*Settings) WavesAt() int { return 1 }

// Looks is how many changes of all answers there are.
func (*Settings) Looks(int) int { return 1 }

// Codes implements analysis.Settings.
func (s *Settings) Codes(question int) []string {
	switch {
	case question == 0:
		return s.Success
	case question == 1 && s.Break != "":
		return []string{s.Break}
	}
	return nil
}

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := *s
	e.Success = slices.Sorted(slices.Values(e.Success))
	if e.Rolling == noRolling {
		e.Rolling = ""
	}
	return e
}

func (s *Settings) trend(q []survey.Question, about claim.About) Trend {
	t := Trend{
		About: about, Question: analysis.Named(q[0]), Waves: analysis.Named(q[1]),
		Labels: analysis.LabelsOf(q[0]), WaveLabels: analysis.LabelsOf(q[1]),
		Together: analysis.SuccessLabels(s.Success, q[0]), Level: float64(s.Level),
		Why: s.Why, Break: s.broken(q[1]), Rolling: s.rolling(), Noted: q[0].Note,
	}
	if len(q) > 2 {
		t.Identifier = analysis.Named(q[2])
	}
	return t
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.trend(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedTrend }

// together are the places of the answers that are counted together.
func (s *Settings) together(q survey.Question) (at []int) {
	for i, a := range q.Proper() {
		if slices.Contains(s.Success, a.Code) {
			at = append(at, i)
		}
	}
	return at
}

// broken is the place of the wave from which on the question was another one; −1 for none.
func (s *Settings) broken(waves survey.Question) int {
	return slices.IndexFunc(waves.Proper(), func(a survey.Answer) bool { return s.Break != "" && a.Code == s.Break })
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	if c.Panel != nil {
		return &analysis.Outcome{Result: s.estimated(c.Panel, c.Questions)}, nil
	}
	return figures.Outcome(
		work, &Request{
			Waves: c.Crosstab.Proper(0), Together: s.together(c.Questions[0]), Break: max(0, s.broken(c.Questions[1])),
			Rolling: s.rolling(), Level: float64(s.Level),
		},
	)
}

// RunDesigned implements analysis.Designed.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	return &analysis.Outcome{Result: s.estimated(c.Cells, c.Questions)}, nil
}

func (s *Settings) estimated(cells *design.Cells, q []survey.Question) *Result {
	return estimate(cells, len(q[1].Proper()), s.together(q[0]), s.broken(q[1]), s.rolling(), float64(s.Level))
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	t := s.trend(o.Counted.Questions, about)
	t.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return t.Document(o.Result.(*Result), o.Counted.Overlap, nil)
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	t := s.trend(o.Counted.Questions, about)
	t.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	return t.Document(o.Result.(*Result), o.Counted.Overlap, &o.Counted.Sampled)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
