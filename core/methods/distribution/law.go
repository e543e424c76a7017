package distribution

import (
	"context"
	"math"
	"strconv"

	"widetally/core/analysis"
	"widetally/core/prob"
)

// Name names a distribution.
type Name string

// The distributions.
const (
	Normal              Name = "normal"
	StudentT            Name = "student_t"
	ChiSquare           Name = "chi_square"
	NoncentralChiSquare Name = "noncentral_chi_square"
	F                   Name = "f"
	Beta                Name = "beta"
	Binomial            Name = "binomial"
)

// Request asks for both tails at x, or for the x with a given lower or upper
// tail; one of the three is given.
type Request struct {
	Name Name `json:"name"`
	// DF of student_t, chi_square and noncentral_chi_square, and the first of f; DF2 is
	// f's second.
	DF            float64 `json:"df,omitempty"`
	DF2           float64 `json:"df2,omitempty"`
	Noncentrality float64 `json:"noncentrality,omitempty"`
	// A and B are the parameters of beta.
	A float64 `json:"a,omitempty"`
	B float64 `json:"b,omitempty"`
	// N and Share are those of binomial.
	N     int64   `json:"n,omitempty"`
	Share float64 `json:"share,omitempty"`

	X *float64 `json:"x,omitempty"`
	// LowerTail and UpperTail are probabilities, down to 1e-300; they are separate, since
	// 1 − p loses the digits of a small p.
	LowerTail *float64 `json:"lowerTail,omitempty"`
	UpperTail *float64 `json:"upperTail,omitempty"`
}

// Answer holds the point and its tails, both including the point.
type Answer struct {
	X            float64
	Lower, Upper prob.Prob
}

// law is one distribution with its parameters filled in.
type law struct {
	lower, upper                 func(x float64) prob.Prob
	lowerQuantile, upperQuantile func(alpha float64) float64
}

// mostX bounds the point at which tails are asked for, on both sides.
const mostX = 1e15

// above0 is nil for a number above 0 and at most most.
func above0(field string, x, most float64) error {
	if x > 0 && x <= most {
		return nil
	}
	return &analysis.RangeError{Field: field, Least: "0", Most: strconv.FormatFloat(most, 'g', -1, 64), Above: true}
}

func (in *Request) law() (law, error) {
	df, nc := in.DF, in.Noncentrality
	switch in.Name {
	case Normal:
		return law{prob.NormalLower, prob.NormalUpper, prob.NormalLowerQuantile, prob.NormalUpperQuantile}, nil
	case StudentT:
		return law{
			func(x float64) prob.Prob { return prob.StudentLower(x, df) }, func(x float64) prob.Prob { return prob.StudentUpper(x, df) },
			func(a float64) float64 { return prob.StudentLowerQuantile(a, df) }, func(a float64) float64 { return prob.StudentUpperQuantile(a, df) }}, above0("df", df, 1e15)
	case ChiSquare:
		return law{
			func(x float64) prob.Prob { return prob.ChiSquareLower(x, df) }, func(x float64) prob.Prob { return prob.ChiSquareUpper(x, df) },
			func(a float64) float64 { return prob.ChiSquareLowerQuantile(a, df) }, func(a float64) float64 { return prob.ChiSquareUpperQuantile(a, df) }}, above0("df", df, 1e9)
	case NoncentralChiSquare:
		err := above0("df", df, 10_000)
		if err == nil && !(nc >= 0 && nc <= 1e12) {
			err = &analysis.RangeError{Field: "noncentrality", Least: "0", Most: "1e+12"}
		}
		return law{
			func(x float64) prob.Prob { return prob.NoncentralChiSquareLower(x, df, nc) }, func(x float64) prob.Prob { return prob.NoncentralChiSquareUpper(x, df, nc) },
			func(a float64) float64 { return prob.NoncentralChiSquareLowerQuantile(a, df, nc) }, func(a float64) float64 { return prob.NoncentralChiSquareUpperQuantile(a, df, nc) }}, err
	case F:
		return law{
			func(x float64) prob.Prob { return prob.FLower(x, df, in.DF2) }, func(x float64) prob.Prob { return prob.FUpper(x, df, in.DF2) },
			func(a float64) float64 { return prob.FLowerQuantile(a, df, in.DF2) }, func(a float64) float64 { return prob.FUpperQuantile(a, df, in.DF2) }}, first(above0("df", df, 1e9), above0("df2", in.DF2, 1e9))
	case Beta:
		return law{
			func(x float64) prob.Prob { return prob.BetaLower(x, in.A, in.B) }, func(x float64) prob.Prob { return prob.BetaUpper(x, in.A, in.B) },
			func(a float64) float64 { return prob.BetaLowerQuantile(a, in.A, in.B) }, func(a float64) float64 { return prob.BetaUpperQuantile(a, in.A, in.B) }}, first(above0("a", in.A, 1e9), above0("b", in.B, 1e9))
	case Binomial:
		n, p := in.N, in.Share
		var err error
		switch {
		case n < 1 || n > 1e12:
			err = &analysis.RangeError{Field: "n", Least: "1", Most: "1e+12"}
		case !(p > 0 && p < 1):
			err = &analysis.RangeError{Field: "share", Least: "0", Most: "1 (excluded)", Above: true}
		}
		return law{
			func(x float64) prob.Prob { return prob.BinomialLower(int64(math.Floor(x)), n, p) }, func(x float64) prob.Prob { return prob.BinomialUpper(int64(math.Ceil(x)), n, p) },
			func(a float64) float64 { return float64(prob.BinomialLowerQuantile(a, n, p)) }, func(a float64) float64 { return float64(prob.BinomialUpperQuantile(a, n, p)) }}, err
	}
	return law{}, analysis.RefuseInput("distribution", analysis.UnknownName, -1)
}

func first(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// point checks which of x and the tails is given.
func (in *Request) point() error {
	given := 0
	for _, x := range []*float64{in.X, in.LowerTail, in.UpperTail} {
		if x != nil {
			given++
		}
	}
	if given != 1 {
		return analysis.RefuseInput("distribution", analysis.NothingAsked, -1)
	}
	for field, p := range map[string]*float64{"lowerTail": in.LowerTail, "upperTail": in.UpperTail} {
		if p != nil && !(*p >= 1e-300 && *p < 1) {
			return &analysis.RangeError{Field: field, Least: "1e-300", Most: "1"}
		}
	}
	if in.X != nil && !(math.Abs(*in.X) <= mostX) {
		return &analysis.RangeError{Field: "x", Least: "−1e+15", Most: "1e+15"}
	}
	return nil
}

var figures = analysis.Figures("distribution", "Tails and quantiles of the distributions that the tests use", nil, Request{},
	func(_ context.Context, in *Request) (*Answer, error) {
		l, err := in.law()
		if err := first(err, in.point()); err != nil {
			return nil, err
		}
		var x float64
		switch {
		case in.X != nil:
			x = *in.X
		case in.LowerTail != nil:
			x = l.lowerQuantile(*in.LowerTail)
		default:
			x = l.upperQuantile(*in.UpperTail)
		}
		return &Answer{x, l.lower(x), l.upper(x)}, nil
	})
