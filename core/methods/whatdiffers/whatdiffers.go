// Package whatdiffers puts the crossings of a question with many others in the order of how much they tell.
package whatdiffers

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/prob"
	"widetally/core/survey"
)

// Request is the tables of a question by others.
type Request struct {
	Tables [][][]int64 `json:"tables"`
	Level  float64     `json:"level,omitempty"`
}

// Crossing is one of the tables.
type Crossing struct {
	// At is its place among those asked for.
	At int   `json:"at"`
	N  int64 `json:"n"`
	// CramersV is Cramér's V with its interval, nil where there is none; 0 where nobody says.
	CramersV float64         `json:"cramersV"`
	Interval *infer.Interval `json:"interval"`
	// P is that of Pearson's chi-square test, or by the design; Adjusted is adjusted by Holm's method for all
	// tables. Both are nil where a table could not be tested.
	P        *prob.Prob `json:"p"`
	Adjusted *prob.Prob `json:"adjusted"`
	// Rough says that expected counts are small, so that p is rough.
	Rough bool `json:"rough"`
}

// Compute tests each table and puts them in the order of Cramér's V, the largest first. The error is an
// *infer.InputError of a table that is none; one of a single row or column is not tested and stands last.
func Compute(in Request) ([]Crossing, error) {
	var out []Crossing
	for i, table := range in.Tables {
		if err := analysis.CheckTable("what-differs", table); err != nil {
			return nil, err
		}
		c := Crossing{At: i}
		r, err := infer.ComputeIndependence(table, in.Level)
		var refused *infer.InputError
		untested := []infer.Reason{infer.OneRowOrColumn, infer.NoObservations}
		if err != nil && (!errors.As(err, &refused) || !slices.Contains(untested, refused.Reason)) {
			return nil, err
		}
		if err == nil {
			v := infer.Measure(r.Effects, infer.CramersV)
			c.N, c.CramersV, c.Interval, c.P = r.N, r.CramersV, v.Interval, &r.P
			c.Rough = slices.ContainsFunc(r.Conditions, func(k infer.Condition) bool { return !k.Met })
		}
		out = append(out, c)
	}
	return ordered(out), nil
}

// ordered adjusts the p-values and sorts.
func ordered(list []Crossing) []Crossing {
	var p []prob.Prob
	var at []int
	for i, c := range list {
		if c.P != nil {
			p, at = append(p, *c.P), append(at, i)
		}
	}
	for i, adjusted := range infer.Holm(p) {
		list[at[i]].Adjusted = &adjusted
	}
	slices.SortStableFunc(list, func(a, b Crossing) int {
		if (a.P == nil) != (b.P == nil) {
			return cmp.Compare(map[bool]int{true: 1}[a.P == nil], map[bool]int{true: 1}[b.P == nil])
		}
		return cmp.Compare(b.CramersV, a.CramersV)
	})
	return list
}

var figures = analysis.Figures(
	"what-differs",
	"Many tables in the order of how strongly their questions go together, p-values adjusted for all of them",
	[]analysis.Assumption{analysis.SimpleRandom}, Request{Level: 0.05},
	func(_ context.Context, in *Request) ([]Crossing, error) {
		cells := 0
		for _, table := range in.Tables {
			for _, row := range table {
				cells += len(row)
			}
		}
		if len(in.Tables) == 0 {
			return nil, analysis.RefuseInput("what-differs", infer.NoObservations, -1)
		}
		if len(in.Tables) > analysis.MostRows || cells > analysis.MaxCells {
			return nil, analysis.RefuseInput("what-differs", analysis.TooManyCells, -1)
		}
		return Compute(*in)
	},
)

// Settings asks which of many questions goes most closely with the first.
type Settings struct {
	analysis.Describing
	Level analysis.Level `json:"level"`
}

var asked = &analysis.Asked{
	Version:   1,
	Seldom:    true,
	Key:       "Y",
	Questions: []analysis.Part{analysis.TheGroups},
	More:      analysis.TheOthers,
	Inputs:    []analysis.Input{analysis.LevelBlank("level")},
	Lines:     []analysis.Line{{ID: "level"}},
	New:       func() analysis.Settings { return &Settings{Level: 0.05} },
}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check(q []survey.Question) []analysis.Problem {
	return slices.Concat(analysis.Several(q, 2), s.Level.Problems("level"), analysis.CellsFit(q))
}

// Looks is one crossing for each question besides the first.
func (*Settings) Looks(questions int) int { return questions - 1 }

// SignificanceLevel implements analysis.Settings.
func (s *Settings) SignificanceLevel() float64 { return float64(s.Level) }

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

// Needs implements analysis.Settings.
func (*Settings) Needs() analysis.Need { return analysis.NeedEachCrosstab }

func (s *Settings) list(q []survey.Question, about claim.About) List {
	l := List{About: about, Question: analysis.Named(q[0]), Level: float64(s.Level)}
	for _, one := range q[1:] {
		l.Others = append(l.Others, analysis.Named(one))
	}
	return l
}

// Statement implements analysis.Settings.
func (s *Settings) Statement(q []survey.Question, about claim.About) document.Message {
	return s.list(q, about).Statement()
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	in := &Request{Level: float64(s.Level)}
	for _, t := range c.Crosstabs {
		in.Tables = append(in.Tables, t.Proper(0))
	}
	return figures.Outcome(work, in)
}

// RunDesigned implements analysis.Designed: the second-order F of Rao and Scott (1984) for each table.
func (s *Settings) RunDesigned(_ analysis.Work, c *analysis.Counted) (*analysis.Outcome, error) {
	groups := len(c.Questions[0].Proper())
	var out []Crossing
	for i, cells := range c.EachCells {
		one := Crossing{At: i}
		if cells != nil {
			one.N = cells.N
			if e := crosstab.NewEstimate(cells, groups, float64(s.Level)); e.Test != nil {
				one.CramersV, one.P = e.CramersV, e.Test.SecondFP
			}
		}
		out = append(out, one)
	}
	return &analysis.Outcome{Result: ordered(out)}, nil
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, about claim.About) document.Document {
	return s.list(o.Counted.Questions, about).Document(o.Result.([]Crossing), nil)
}

// DocumentDesigned implements analysis.Designed.
func (s *Settings) DocumentDesigned(o *analysis.Outcome, about claim.About) document.Document {
	return s.list(o.Counted.Questions, about).Document(o.Result.([]Crossing), &o.Counted.Sampled)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
