package analysis

import (
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
)

// LayersSettings crosses two questions within the answers of a third: described, and tested
// where a claim is made.
type LayersSettings struct {
	Reading claim.Reading `json:"reading"`
	Swapped bool          `json:"swapped,omitempty"`
	// Test is the claim; absent where the tables are only described.
	Test *LayersTest `json:"test,omitempty"`
}

// LayersTest is a claim that two questions go together within the layers, or that they do not.
type LayersTest struct {
	Role  claim.Role `json:"role"`
	Level Level      `json:"level"`
}

const layersName = "mantel-haenszel"

// mostLayers bounds the tables of one analysis.
const mostLayers = 40

var askedLayers = &Asked{Version: 1, Quick: QuickLayers, Seldom: true, Questions: []Part{TheQuestion, TheGroups, TheLayers},
	Inputs: []Input{
		{Name: "test.role", Kind: ChoiceInput, Options: texts(claim.Roles)},
		levelInput("test.level"),
	},
	Texts: "layers", Lines: []Line{{ID: "claim"}},
	New: func() Settings { return &LayersSettings{Reading: claim.OfEachRow} }}

// Check implements Settings.
func (s *LayersSettings) Check(q []survey.Question) (out []Problem) {
	if !slices.Contains(claim.Readings, s.Reading) {
		out = append(out, Problem{Code: "crosstab.reading", Pointer: "/settings/reading"})
	}
	if n := len(q[2].Proper()); n > mostLayers {
		out = append(out, Problem{Code: "layers.many", Pointer: "/questions/2", Values: document.Values{"n": document.N(int64(n)), "most": document.N(mostLayers)}})
	}
	if len(q[0].Proper())*len(q[1].Proper()) > maxCells {
		out = append(out, Problem{Code: "compute." + string(TooManyCells), Pointer: "/questions"})
	}
	if s.Test != nil {
		if len(q[0].Proper()) != 2 || len(q[1].Proper()) != 2 {
			out = append(out, Problem{Code: "layers.two", Pointer: "/questions"})
		}
		out = append(append(out, checkRole(s.Test.Role, "test/role")...), s.Test.Level.problems("test.level")...)
	}
	return out
}

// Tests implements Settings.
func (s *LayersSettings) Tests() bool { return s.Test != nil }

// SignificanceLevel implements Settings.
func (s *LayersSettings) SignificanceLevel() float64 {
	if s.Test == nil {
		return 0
	}
	return float64(s.Test.Level)
}

// Codes implements Settings: no category is named.
func (*LayersSettings) Codes(int) []string { return nil }

// Essence implements Settings: the rest is how it is shown.
func (s *LayersSettings) Essence() any { return LayersSettings{Test: s.Test} }

func (s *LayersSettings) claim(q []survey.Question, about claim.About) claim.Layers {
	c := claim.Layers{Crossing: (&CrosstabSettings{Reading: s.Reading, Swapped: s.Swapped}).claim(q, about), Layers: named(q[2])}
	for _, a := range q[2].Proper() {
		c.LayerLabels = append(c.LayerLabels, a.Label)
	}
	if s.Test != nil {
		c.Claim = &claim.Stated{Role: s.Test.Role, Level: float64(s.Test.Level)}
	}
	return c
}

// Statement implements Settings.
func (s *LayersSettings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.claim(q, about).Statement()
}

func (*LayersSettings) needs() need { return layered }

// tables gives the table of each layer as it is shown, and their sum.
func (s *LayersSettings) tables(c *Counted) (tables [][][]int64, sum [][]int64) {
	for _, k := range c.Crosstab.Layers.Proper() {
		tables = append(tables, turned(c.Crosstab.Proper(k), s.Swapped, len(c.Questions[0].Proper())))
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

// run computes what layers of two groups with two answers give; other tables are only shown.
func (s *LayersSettings) run(work Work, c *Counted) (*Outcome, error) {
	tables, sum := s.tables(c)
	if len(sum) != 2 || len(sum[0]) != 2 {
		return &Outcome{}, nil
	}
	in := &LayersRequest{Tables: tables, Confidence: usualConfidence}
	if s.Test != nil {
		in.Confidence = 1 - float64(s.Test.Level)
	}
	o, err := outcomeOf(work, layersName, in)
	if err == nil && s.Test == nil {
		o.Refusal = nil // what has no common odds ratio can be shown
	}
	return o, err
}

func (s *LayersSettings) document(o *Outcome, about claim.About) document.Document {
	c := s.claim(o.Counted.Questions, about)
	c.Tables, c.Counts = s.tables(o.Counted)
	c.Everyone, _, _ = o.Counted.Crosstab.Everyone()
	r, _ := o.Result.(*infer.MantelHaenszel)
	return c.Document(r)
}
