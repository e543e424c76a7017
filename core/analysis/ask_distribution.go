package analysis

import (
	"math"
	"slices"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/prob"
	"widetally/core/survey"
)

const distributionName = "distribution"

// TailSettings asks for the tails at a point of a distribution, or for the point with a tail.
type TailSettings struct {
	unasked
	Name DistributionName `json:"name"`
	Find claim.TailFind   `json:"find"`
	X    *Number          `json:"x,omitempty"`
	Tail string           `json:"tail,omitempty"`
	// DF of t, chi-square and F, DF2 the second of F; N and Share of binomial.
	DF    *Number `json:"df,omitempty"`
	DF2   *Number `json:"df2,omitempty"`
	N     *Number `json:"n,omitempty"`
	Share string  `json:"share,omitempty"`
}

// quickDistributions are those that a person asks for.
var quickDistributions = []DistributionName{Normal, StudentT, ChiSquare, F, Binomial}

func is(input, value string) *When { return &When{input, value} }

var askedTails = &Asked{Version: 1, Quick: QuickNothing, Questions: []Part{},
	Inputs: []Input{
		{Name: "name", Kind: ChoiceInput, Options: texts(quickDistributions), Needed: true},
		{Name: "find", Kind: ChoiceInput, Options: texts(claim.TailFinds), Needed: true},
		{Name: "x", Kind: TextInput, MaxLength: 24}, {Name: "tail", Kind: ShareInput, MaxLength: 24},
		{Name: "df", Kind: TextInput, MaxLength: 20}, {Name: "df2", Kind: TextInput, MaxLength: 20}, {Name: "n", Kind: TextInput, MaxLength: 20}, {Name: "share", Kind: ShareInput, MaxLength: 20},
	},
	Texts: "tails", Lines: []Line{{ID: "name"}, {ID: "df_t", Only: is("name", string(StudentT))}, {ID: "df_chi", Only: is("name", string(ChiSquare))}, {ID: "df_f", Only: is("name", string(F))}, {ID: "binomial", Only: is("name", string(Binomial))},
		{ID: "find"}, {ID: "at", Only: is("find", string(claim.TailsAt))}, {ID: "tail_lower", Only: is("find", string(claim.LowerTail))}, {ID: "tail_upper", Only: is("find", string(claim.UpperTail))}},
	New: func() Settings { return &TailSettings{} }}

// Check implements Settings.
func (s *TailSettings) Check([]survey.Question) (out []Problem) {
	out = append(checkOneOf(quickDistributions, s.Name, "tails.name", "name"), checkOneOf(claim.TailFinds, s.Find, "tails.find", "find")...)
	needs := func(n *Number, member string) {
		if n == nil || !(*n > 0 && *n <= 1e9) {
			out = append(out, Problem{Code: "tails." + member, Pointer: "/settings/" + member})
		}
	}
	switch s.Name {
	case StudentT, ChiSquare:
		needs(s.DF, "df")
	case F:
		needs(s.DF, "df")
		needs(s.DF2, "df2")
	case Binomial:
		out = append(out, whole(s.N, "n")...)
		_, wrong := readShare(s.Share, "share")
		out = append(out, wrong...)
	}
	switch s.Find {
	case claim.TailsAt:
		if s.X == nil {
			out = append(out, Problem{Code: "tails.x", Pointer: "/settings/x"})
		} else if x := float64(*s.X); !(math.Abs(x) <= mostX) {
			out = append(out, Problem{Code: "tails.x_range", Pointer: "/settings/x"})
		}
	case claim.LowerTail, claim.UpperTail:
		_, wrong := readShare(s.Tail, "tail")
		out = append(out, wrong...)
	}
	return out
}

// Essence implements Settings.
func (s *TailSettings) Essence() any { return *s }

// Statement implements Settings.
func (s *TailSettings) Statement([]survey.Question, claim.About) document.Message {
	return document.Message{}
}

func (s *TailSettings) request() *DistributionRequest {
	in := &DistributionRequest{Name: s.Name}
	if s.DF != nil && s.Name != Normal && s.Name != Binomial {
		in.DF = float64(*s.DF)
	}
	if s.DF2 != nil && s.Name == F {
		in.DF2 = float64(*s.DF2)
	}
	if s.Name == Binomial {
		in.N, in.Share = *countOf(s.N), *shareOf(s.Share, "share")
	}
	switch tail := shareOf(s.Tail, "tail"); s.Find {
	case claim.TailsAt:
		in.X = (*float64)(s.X)
	case claim.LowerTail:
		in.LowerTail = tail
	default:
		in.UpperTail = tail
	}
	return in
}

func (s *TailSettings) run(work Work, _ *Counted) (*Outcome, error) {
	return outcomeOf(work, distributionName, s.request())
}

func (s *TailSettings) document(o *Outcome, _ claim.About) document.Document {
	r, in := o.Result.(*DistributionAnswer), o.Request.(*DistributionRequest)
	l, _ := in.law()
	c := claim.Tails{Name: string(s.Name), Find: s.Find, X: r.X, Lower: r.Lower, Upper: r.Upper, DF: in.DF, DF2: in.DF2, N: in.N, Share: in.Share, Symmetric: slices.Contains([]DistributionName{Normal, StudentT}, s.Name)}
	if s.Find != claim.TailsAt {
		c.Tail = *shareOf(s.Tail, "tail")
	}
	return c.Document(func(x float64) float64 { return in.density(x) }, l.lowerQuantile(drawnTail), l.upperQuantile(drawnTail))
}

// drawnTail is what lies beyond either end of a drawing, unless the point does.
const drawnTail = 0.003

// density is that of a law, enough to draw it; of binomial the chance of a count.
func (in *DistributionRequest) density(x float64) float64 {
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
