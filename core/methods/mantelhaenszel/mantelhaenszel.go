// Package mantelhaenszel compares two groups within the layers of a third question.
package mantelhaenszel

import (
	"context"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/survey"
)

// Settings crosses two questions within the answers of a third: described, and tested
// where a claim is made.
type Settings struct {
	Reading crosstab.Reading `json:"reading"`
	Swapped bool             `json:"swapped,omitempty"`
	// Test is the claim; absent where the tables are only described.
	Test *Test `json:"test,omitempty"`
}

// Test is a claim that two questions go together within the layers, or that they do not.
type Test struct {
	Role  claim.Role     `json:"role"`
	Level analysis.Level `json:"level"`
}

// mostLayers bounds the tables of one analysis.
const mostLayers = 40

var asked = &analysis.Asked{
	Version:   1,
	Mode:      analysis.Both,
	Quick:     analysis.QuickLayers,
	Seldom:    true,
	Key:       "L",
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups, analysis.TheLayers},
	Inputs: []analysis.Input{
		{Name: "test.role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles)},
		analysis.LevelBlank("test.level"),
	},
	Lines: []analysis.Line{{ID: "claim"}},
	New:   func() analysis.Settings { return &Settings{Reading: crosstab.OfEachRow} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) (out []analysis.Problem) {
	if !slices.Contains(crosstab.Readings, s.Reading) {
		out = append(out, analysis.Problem{Code: "crosstab.reading", Pointer: "/settings/reading"})
	}
	if n := len(q[2].Proper()); n > mostLayers {
		out = append(
			out,
			analysis.Problem{
				Code:    "mantel_haenszel.many",
				Pointer: "/questions/2",
				Values:  document.Values{"n": document.N(int64(n)), "most": document.N(mostLayers)},
			},
		)
	}
	if len(q[0].Proper())*len(q[1].Proper()) > analysis.MaxCells {
		out = append(out, analysis.Problem{Code: "compute." + string(analysis.TooManyCells), Pointer: "/questions"})
	}
	if s.Test != nil {
		out = append(append(out, analysis.CheckRole(s.Test.Role, "test/role")...), s.Test.Level.Problems("test.level")...)
	}
	return out
}

// Tests implements analysis.Settings.
func (s *Settings) Tests() bool { return s.Test != nil }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 {
	if s.Test == nil {
		return 0
	}
	return float64(s.Test.Level)
}

// Codes implements analysis.Settings: no category is named.
func (*Settings) Codes(int) []string { return nil }

// Essence implements analysis.Settings: the rest is how it is shown.
func (s *Settings) Essence() any { return Settings{Test: s.Test} }

func (s *Settings) claim(q []survey.Question, about claim.About) Claim {
	c := Claim{Crossing: (&crosstab.Settings{Reading: s.Reading, Swapped: s.Swapped}).Claim(q, about), Layers: analysis.Named(q[2])}
	for _, a := range q[2].Proper() {
		c.LayerLabels = append(c.LayerLabels, a.Label)
	}
	if s.Test != nil {
		c.Claim = &claim.Stated{Role: s.Test.Role, Level: float64(s.Test.Level)}
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedLayers }

// tables gives the table of each layer as it is shown, and their sum.
func (s *Settings) tables(c *analysis.Counted) (tables [][][]int64, sum [][]int64) {
	for _, k := range c.Crosstab.Layers.Proper() {
		tables = append(tables, crosstab.Turned(c.Crosstab.Proper(k), s.Swapped, len(c.Questions[0].Proper())))
	}
	for _, t := range tables {
		for i, row := range t {
			if len(sum) == i {
				sum = append(sum, make([]int64, len(row)))
			}
			for j, n := range row {
				sum[i][j] += n
			}
		}
	}
	return tables, sum
}

// Run computes what layers of two groups with two answers give; other tables are only shown.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	tables, sum := s.tables(c)
	if len(sum) != 2 || len(sum[0]) != 2 {
		return &analysis.Outcome{}, nil
	}
	in := &Request{Tables: tables, Confidence: analysis.UsualConfidence}
	if s.Test != nil {
		in.Confidence = 1 - float64(s.Test.Level)
	}
	o, err := figures.Outcome(work, in)
	if err == nil && s.Test == nil {
		o.Refusal = nil // what has no common odds ratio can be shown
	}
	return o, err
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Tables, c.Counts = s.tables(o.Counted)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	r, _ := o.Result.(*infer.MantelHaenszel)
	return c.Document(r)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)

// Request is one 2 × 2 table per layer, rows the groups, the first column the outcome.
type Request struct {
	Tables     [][][]int64 `json:"tables"`
	Confidence float64     `json:"confidence,omitempty"`
}

var figures = analysis.Figures(
	"mantel-haenszel",
	"Two groups compared within layers: Cochran, Mantel and Haenszel, common odds ratio, Breslow and Day",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.IndependentGroups},
	Request{Confidence: 0.95},
	func(_ context.Context, in *Request) (*infer.MantelHaenszel, error) {
		var tables [][2][2]int64
		for k, raw := range in.Tables {
			t, err := analysis.Pair("mantel-haenszel", raw, k)
			if err != nil {
				return nil, err
			}
			tables = append(tables, t)
		}
		if len(tables) > analysis.MaxCells/4 {
			return nil, analysis.RefuseInput("mantel-haenszel", analysis.TooManyCells, -1)
		}
		return infer.ComputeMantelHaenszel(tables, in.Confidence)
	},
)
