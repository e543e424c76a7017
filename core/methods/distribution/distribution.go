// Package distribution gives tails and quantiles of the distributions that the tests use.
package distribution

import (
	"math"
	"slices"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/prob"
	"widetally/core/survey"
)

// Settings asks for the tails at a point of a distribution, or for the point with a tail.
type Settings struct {
	analysis.Unasked
	Name Name             `json:"name"`
	Find TailFind         `json:"find"`
	X    *analysis.Number `json:"x,omitempty"`
	Tail string           `json:"tail,omitempty"`
	// DF of t, chi-square and F, DF2 the second of F; N and Share of binomial.
	DF    *analysis.Number `json:"df,omitempty"`
	DF2   *analysis.Number `json:"df2,omitempty"`
	N     *analysis.Number `json:"n,omitempty"`
	Share string           `json:"share,omitempty"`
}

// quickDistributions are those that a person asks for.
var quickDistributions = []Name{Normal, StudentT, ChiSquare, F, Binomial}

var asked = &analysis.Asked{Version: 1, Quick: analysis.QuickNothing, Questions: []analysis.Part{},
	Inputs: []analysis.Input{
		{Name: "name", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(quickDistributions), Needed: true},
		{Name: "find", Kind: analysis.ChoiceInput, Options: analysis.TextsOf(TailFinds), Needed: true},
		{Name: "x", Kind: analysis.TextInput, MaxLength: 24}, {Name: "tail", Kind: analysis.ShareInput, MaxLength: 24},
		{
			Name:      "df",
			Kind:      analysis.TextInput,
			MaxLength: 20,
		}, {Name: "df2", Kind: analysis.TextInput, MaxLength: 20}, {Name: "n", Kind: analysis.TextInput, MaxLength: 20}, {Name: "share", Kind: analysis.ShareInput, MaxLength: 20},
	},
	Lines: []analysis.Line{
		{ID: "name"},
		{ID: "df_t", Only: analysis.WhenIs("name", string(StudentT))},
		{ID: "df_chi", Only: analysis.WhenIs("name", string(ChiSquare))},
		{ID: "df_f", Only: analysis.WhenIs("name", string(F))},
		{ID: "binomial", Only: analysis.WhenIs("name", string(Binomial))},
		{
			ID: "find",
		},
		{ID: "at", Only: analysis.WhenIs("find", string(TailsAt))},
		{ID: "tail_lower", Only: analysis.WhenIs("find", string(LowerTail))},
		{ID: "tail_upper", Only: analysis.WhenIs("find", string(UpperTail))},
	},
	New: func() analysis.Settings { return &Settings{} }}

// Asked implements analysis.Settings.
func (*Settings) Asked() *analysis.Asked { return asked }

// Check implements analysis.Settings.
func (s *Settings) Check([]survey.Question) (out []analysis.Problem) {
	out = append(
		analysis.CheckOneOf(quickDistributions, s.Name, "tails.name", "name"),
		analysis.CheckOneOf(TailFinds, s.Find, "tails.find", "find")...)
	needs := func(n *analysis.Number, member string) {
		if n == nil || !(*n > 0 && *n <= 1e9) {
			out = append(out, analysis.Problem{Code: "tails." + member, Pointer: "/settings/" + member})
		}
	}
	switch s.Name {
	case StudentT, ChiSquare:
		needs(s.DF, "df")
	case F:
		needs(s.DF, "df")
		needs(s.DF2, "df2")
	case Binomial:
		out = append(out, analysis.Whole(s.N, "n")...)
		_, wrong := analysis.ReadShare(s.Share, "share")
		out = append(out, wrong...)
	}
	switch s.Find {
	case TailsAt:
		if s.X == nil {
			out = append(out, analysis.Problem{Code: "tails.x", Pointer: "/settings/x"})
		} else if x := float64(*s.X); !(math.Abs(x) <= mostX) {
			out = append(out, analysis.Problem{Code: "tails.x_range", Pointer: "/settings/x"})
		}
	case LowerTail, UpperTail:
		_, wrong := analysis.ReadShare(s.Tail, "tail")
		out = append(out, wrong...)
	}
	return out
}

// Essence implements analysis.Settings.
func (s *Settings) Essence() any { return *s }

// Statement implements analysis.Settings.
func (s *Settings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *Settings) request() *Request {
	in := &Request{Name: s.Name}
	if s.DF != nil && s.Name != Normal && s.Name != Binomial {
		in.DF = float64(*s.DF)
	}
	if s.DF2 != nil && s.Name == F {
		in.DF2 = float64(*s.DF2)
	}
	if s.Name == Binomial {
		in.N, in.Share = *analysis.CountOf(s.N), *analysis.ShareOf(s.Share, "share")
	}
	switch tail := analysis.ShareOf(s.Tail, "tail"); s.Find {
	case TailsAt:
		in.X = (*float64)(s.X)
	case LowerTail:
		in.LowerTail = tail
	default:
		in.UpperTail = tail
	}
	return in
}

// Run implements analysis.Settings.
func (s *Settings) Run(work analysis.Work, _ *analysis.Counted) (*analysis.Outcome, error) {
	return figures.Outcome(work, s.request())
}

// Document implements analysis.Settings.
func (s *Settings) Document(o *analysis.Outcome, _ claim.About) document.Document {
	r, in := o.Result.(*Answer), o.Request.(*Request)
	l, _ := in.law()
	c := Tails{
		Name:      string(s.Name),
		Find:      s.Find,
		X:         r.X,
		Lower:     r.Lower,
		Upper:     r.Upper,
		DF:        in.DF,
		DF2:       in.DF2,
		N:         in.N,
		Share:     in.Share,
		Symmetric: slices.Contains([]Name{Normal, StudentT}, s.Name),
	}
	if s.Find != TailsAt {
		c.Tail = *analysis.ShareOf(s.Tail, "tail")
	}
	return c.Document(func(x float64) float64 { return in.density(x) }, l.lowerQuantile(drawnTail), l.upperQuantile(drawnTail))
}

// drawnTail is what lies beyond either end of a drawing, unless the point does.
const drawnTail = 0.003

// density is that of a law, enough to draw it; of binomial the chance of a count.
func (in *Request) density(x float64) float64 {
	switch in.Name {
	case StudentT:
		return prob.StudentDensity(x, in.DF)
	case ChiSquare:
		return prob.ChiSquareDensity(x, in.DF)
	case F:
		return prob.FDensity(x, in.DF, in.DF2)
	case Binomial:
		return prob.BinomialChance(int64(x), in.N, in.Share)
	}
	return prob.NormalDensity(x)
}

// Method is the method with how it is asked.
var Method = figures.AskedWith(asked)
