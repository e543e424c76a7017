// Package crosstab crosses two questions, and tests whether they go together.
package crosstab

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/survey"
	"widetally/core/tally"
)

// Settings crosses a question with another one: described, and tested where a
// claim is made. The first question has the columns, the second, that of the groups, the
// rows, unless swapped.
type Settings struct {
	Reading Reading `json:"reading"`
	// Show lists what stands in the cells beside the reading.
	Show    []document.Role `json:"show,omitempty"`
	Swapped bool            `json:"swapped,omitempty"`
	// HideEmpty leaves rows and columns out in which nobody is.
	HideEmpty bool `json:"hideEmpty,omitempty"`
	// Missing shows those without a proper answer, as counts behind the sums.
	Missing bool `json:"missing,omitempty"`
	// Picture draws the table; none where absent.
	Picture CrossingPicture `json:"picture,omitempty"`
	Frame   *claim.Frame    `json:"frame,omitempty"`
	// Test is the claim; absent where the table is only described.
	Test *Test `json:"test,omitempty"`
}

// Test is a claim about two questions: that they do not go together, or that they
// do.
type Test struct {
	Role  claim.Role     `json:"role"`
	Level analysis.Level `json:"level"`
	// Exact asks for a p that does not rest on the chi-square distribution.
	Exact bool `json:"exact,omitempty"`
}

var asked = &analysis.Asked{
	Version:   1,
	Mode:      analysis.Both,
	Quick:     analysis.QuickTable,
	Questions: []analysis.Part{analysis.TheQuestion, analysis.TheGroups},
	Inputs: []analysis.Input{
		{Name: "test.role", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(claim.Roles)},
		analysis.LevelBlank("test.level"),
	},
	Key:   "x",
	Lines: []analysis.Line{{ID: "claim"}},
	New:   func() analysis.Settings { return &Settings{Reading: OfEachRow} },
}

// Described crosses two questions without a claim, the first down and the second across.
func Described(down, across analysis.Key) analysis.Spec {
	return analysis.Spec{
		Method:    figures.Name,
		Version:   asked.Version,
		Questions: []analysis.Key{down, across},
		Settings:  &Settings{Reading: OfEachRow, Swapped: true},
	}
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) (out []analysis.Problem) {
	if !slices.Contains(Readings, s.Reading) {
		out = append(out, analysis.Problem{Code: "crosstab.reading", Pointer: "/settings/reading"})
	}
	if !slices.Contains(CrossingPictures, s.Picture) {
		out = append(out, analysis.Problem{Code: "crosstab.picture", Pointer: "/settings/picture"})
	}
	for i, role := range s.Show {
		if !slices.Contains(Beside, role) || slices.Contains(s.Show[:i], role) {
			out = append(out, analysis.Problem{Code: "crosstab.show", Pointer: fmt.Sprintf("/settings/show/%d", i)})
		}
	}
	if len(q[0].Proper())*len(q[1].Proper()) > analysis.MaxCells {
		out = append(out, analysis.Problem{Code: "compute." + string(analysis.TooManyCells), Pointer: "/questions"})
	}
	out = append(out, analysis.CheckFrame(s.Frame)...)
	if s.Test != nil {
		out = append(out, analysis.CheckRole(s.Test.Role, "test/role")...)
		out = append(out, s.Test.Level.Problems("test.level")...)
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

// Essence implements analysis.Settings.
func (s *Settings) Essence() any {
	e := Settings{}
	if s.Test != nil {
		test := *s.Test
		test.Exact = false
		e.Test = &test
	}
	return e
}

// Claim is what may be said of the crossing.
func (s *Settings) Claim(q []survey.Question, about claim.About) Crossing {
	rows, columns := q[1], q[0]
	if s.Swapped {
		rows, columns = columns, rows
	}
	c := Crossing{
		About:        about,
		Rows:         analysis.Named(rows),
		Columns:      analysis.Named(columns),
		Reading:      s.Reading,
		Show:         s.Show,
		Swapped:      s.Swapped,
		Picture:      s.Picture,
		Frame:        s.Frame,
		HideEmpty:    s.HideEmpty,
		ShowMissing:  s.Missing,
		RowLabels:    analysis.LabelsOf(rows),
		ColumnLabels: analysis.LabelsOf(columns),
	}
	c.SameAnswers = askedTwice(q[0], q[1])
	c.Ordered = [2]bool{q[0].Kind.Ranked(), q[1].Kind.Ranked()}
	if s.Test != nil {
		c.Test = &CrossingTest{Role: s.Test.Role, Level: float64(s.Test.Level), ExactAsked: s.Test.Exact}
	}
	return c
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.Claim(q, about).Statement()
}

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedCrosstab }

// describedLevel is that of the residuals of a table which nobody tests; no mark rests on
// it.
const describedLevel = 0.05

// counts gives the table as it is shown.
func (s *Settings) counts(c *analysis.Counted) [][]int64 {
	return Turned(c.Crosstab.Proper(0), s.Swapped, len(c.Questions[0].Proper()))
}

// Turned exchanges the sides of a table of so many columns where that is asked for.
func Turned(table [][]int64, swapped bool, columns int) [][]int64 {
	if !swapped {
		return table
	}
	out := make([][]int64, columns)
	for j := range out {
		for i := range table {
			out[j] = append(out[j], table[i][j])
		}
	}
	return out
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Table: s.counts(c), Level: describedLevel}
	if s.Test != nil {
		in.Level = float64(s.Test.Level)
		if s.Test.Exact {
			in.Exact = &analysis.ExactRequest{Seed: analysis.FixedSeed}
		}
	}
	o, err := figures.Outcome(work, in)
	switch {
	case err != nil:
	case s.Test == nil:
		o.Refusal = nil // a table that cannot be tested can be described
	case o.Refusal == nil && in.Exact == nil:
		if a := o.Result.(Answer); a.TwoByTwo == nil || a.TwoByTwo.Fisher == nil {
			a.Exact, err = work.ExactTable(a.Independence, in.Table, in.Level)
			o.Result = a
		}
	}
	return o, err
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	c := s.Claim(o.Counted.Questions, about)
	c.Counts = s.counts(o.Counted)
	everyone, noRow, noColumn := o.Counted.Crosstab.Everyone()
	if s.Swapped {
		noRow, noColumn = noColumn, noRow
	}
	c.Everyone, c.NoRow, c.NoColumn = everyone, noRow, noColumn
	c.Missing = missingOf(o.Counted.Crosstab, s.Swapped)
	rows, columns := o.Counted.Questions[1], o.Counted.Questions[0]
	if s.Swapped {
		rows, columns = columns, rows
	}
	c.RowCodes, c.ColumnCodes = analysis.CodesOf(rows), analysis.CodesOf(columns)
	answer, _ := o.Result.(Answer)
	if c.Test != nil {
		c.Test.TwoByTwo, c.Test.Exact = answer.TwoByTwo, answer.Exact
		if t := answer.TwoByTwo; t != nil && s.Reading == OfEachColumn {
			turned, err := infer.ComputeTwoByTwo(
				[2][2]int64{{t.Table[0][0], t.Table[1][0]}, {t.Table[0][1], t.Table[1][1]}},
				t.Shares.Confidence,
			)
			if err == nil { // the other way round it is a table of two by two all the same
				c.Test.TwoByTwo = turned
			}
		}
	}
	return c.Document(answer.Independence)
}

// askedTwice reports whether two questions look like one that the same people were asked twice:
// the same answers, and more of them than yes and no, or words in common.
func askedTwice(a, b survey.Question) bool {
	if len(analysis.CodesOf(a)) < 2 || !slices.Equal(analysis.CodesOf(a), analysis.CodesOf(b)) ||
		!slices.Equal(analysis.LabelsOf(a), analysis.LabelsOf(b)) {
		return false
	}
	return len(analysis.CodesOf(a)) > 2 || inCommon(a.Wording, b.Wording) >= wordsInCommon
}

// wordsInCommon is the part of the words of two wordings from which on they may be one question.
const wordsInCommon = 0.4

func inCommon(a, b string) float64 {
	words := func(s string) map[string]bool {
		out := map[string]bool{}
		for _, w := range strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
			out[w] = true
		}
		return out
	}
	x, y := words(a), words(b)
	both := 0
	for w := range x {
		if y[w] {
			both++
		}
	}
	return float64(both) / float64(max(1, len(x)+len(y)-both))
}

// missingOf gives what a crosstab leaves out, by reason, as far as anybody is there; nil where
// nobody is.
func missingOf(t *tally.Crosstab, swapped bool) *CrossingMissing {
	down, across := t.Rows, t.Columns
	at := func(i, j int) int64 { return t.At(0, i, j).N }
	if swapped {
		down, across = across, down
		at = func(i, j int) int64 { return t.At(0, j, i).N }
	}
	occurs := func(side, other tally.Axis, at func(i, j int) int64) (out []int, labels []string) {
		for i, a := range side.Answers {
			n := int64(0)
			for j := range other.Answers {
				n += at(i, j)
			}
			if a.Missing != "" && n > 0 {
				out, labels = append(out, i), append(labels, a.Label)
			}
		}
		return out, labels
	}
	m := &CrossingMissing{}
	rows, rowLabels := occurs(down, across, at)
	columns, columnLabels := occurs(across, down, func(i, j int) int64 { return at(j, i) })
	if m.RowLabels, m.ColumnLabels = rowLabels, columnLabels; len(rows)+len(columns) == 0 {
		return nil
	}
	list := func(i int, columns []int) (out []int64) {
		for _, j := range columns {
			out = append(out, at(i, j))
		}
		return out
	}
	for _, i := range rows {
		m.Rows = append(m.Rows, list(i, append(across.Proper(), columns...)))
	}
	for _, i := range down.Proper() {
		m.Columns = append(m.Columns, list(i, columns))
	}
	return m
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
