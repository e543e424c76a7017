package compute

import (
	"context"
	"math"

	"widetally/core/prob"
)

// DistributionName names a distribution.
type DistributionName string

// The distributions.
const (
	Normal              DistributionName = "normal"
	StudentT            DistributionName = "student_t"
	ChiSquare           DistributionName = "chi_square"
	NoncentralChiSquare DistributionName = "noncentral_chi_square"
	F                   DistributionName = "f"
	Beta                DistributionName = "beta"
	Binomial            DistributionName = "binomial"
)

// DistributionRequest asks for both tails at x, or for the x with a given lower or upper
// tail; one of the three is given.
type DistributionRequest struct {
	Name DistributionName `json:"name"`
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

// DistributionAnswer holds the point and its tails, both including the point.
type DistributionAnswer struct {
	X            float64
	Lower, Upper prob.Prob
}

// law is one distribution with its parameters filled in.
type law struct {
	valid                        bool
	lower, upper                 func(x float64) prob.Prob
	lowerQuantile, upperQuantile func(alpha float64) float64
}

func (in *DistributionRequest) law() (law, bool) {
	df, nc := in.DF, in.Noncentrality
	within := func(x, most float64) bool { return x > 0 && x <= most }
	switch in.Name {
	case Normal:
		return law{true, prob.NormalLower, prob.NormalUpper, prob.NormalLowerQuantile, prob.NormalUpperQuantile}, true
	case StudentT:
		return law{within(df, 1e15),
			func(x float64) prob.Prob { return prob.StudentLower(x, df) }, func(x float64) prob.Prob { return prob.StudentUpper(x, df) },
			func(a float64) float64 { return prob.StudentLowerQuantile(a, df) }, func(a float64) float64 { return prob.StudentUpperQuantile(a, df) }}, true
	case ChiSquare:
		return law{within(df, 1e9),
			func(x float64) prob.Prob { return prob.ChiSquareLower(x, df) }, func(x float64) prob.Prob { return prob.ChiSquareUpper(x, df) },
			func(a float64) float64 { return prob.ChiSquareLowerQuantile(a, df) }, func(a float64) float64 { return prob.ChiSquareUpperQuantile(a, df) }}, true
	case NoncentralChiSquare:
		return law{within(df, 10_000) && nc >= 0 && nc <= 1e12,
			func(x float64) prob.Prob { return prob.NoncentralChiSquareLower(x, df, nc) }, func(x float64) prob.Prob { return prob.NoncentralChiSquareUpper(x, df, nc) },
			func(a float64) float64 { return prob.NoncentralChiSquareLowerQuantile(a, df, nc) }, func(a float64) float64 { return prob.NoncentralChiSquareUpperQuantile(a, df, nc) }}, true
	case F:
		return law{within(df, 1e9) && within(in.DF2, 1e9),
			func(x float64) prob.Prob { return prob.FLower(x, df, in.DF2) }, func(x float64) prob.Prob { return prob.FUpper(x, df, in.DF2) },
			func(a float64) float64 { return prob.FLowerQuantile(a, df, in.DF2) }, func(a float64) float64 { return prob.FUpperQuantile(a, df, in.DF2) }}, true
	case Beta:
		return law{within(in.A, 1e9) && within(in.B, 1e9),
			func(x float64) prob.Prob { return prob.BetaLower(x, in.A, in.B) }, func(x float64) prob.Prob { return prob.BetaUpper(x, in.A, in.B) },
			func(a float64) float64 { return prob.BetaLowerQuantile(a, in.A, in.B) }, func(a float64) float64 { return prob.BetaUpperQuantile(a, in.A, in.B) }}, true
	case Binomial:
		n, p := in.N, in.Share
		return law{n >= 1 && n <= 1e12 && p > 0 && p < 1,
			func(x float64) prob.Prob { return prob.BinomialLower(int64(math.Floor(x)), n, p) }, func(x float64) prob.Prob { return prob.BinomialUpper(int64(math.Ceil(x)), n, p) },
			func(a float64) float64 { return float64(prob.BinomialLowerQuantile(a, n, p)) }, func(a float64) float64 { return float64(prob.BinomialUpperQuantile(a, n, p)) }}, true
	}
	return law{}, false
}

var distribution = family("distribution", "Tails and quantiles of the distributions that the tests use", nil, DistributionRequest{},
	func(_ context.Context, in *DistributionRequest) (*DistributionAnswer, error) {
		l, known := in.law()
		given := 0
		for _, x := range []*float64{in.X, in.LowerTail, in.UpperTail} {
			if x != nil {
				given++
			}
		}
		inside := func(p *float64) bool { return p == nil || *p >= 1e-300 && *p < 1 }
		switch {
		case !known:
			return nil, refuse("distribution", UnknownName, -1)
		case given != 1:
			return nil, refuse("distribution", NothingAsked, -1)
		case !l.valid || !inside(in.LowerTail) || !inside(in.UpperTail) || in.X != nil && !(math.Abs(*in.X) <= 1e15):
			return nil, refuse("distribution", OutOfDomain, -1)
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
		return &DistributionAnswer{x, l.lower(x), l.upper(x)}, nil
	})
