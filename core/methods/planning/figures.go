package planning

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/plan"
)

// ChiSquareRequest names two of w, n and power. In the place of w there may be
// expected and true shares, or the joint shares of a table, which also give df.
type ChiSquareRequest struct {
	W              *float64    `json:"w,omitempty"`
	ExpectedShares []float64   `json:"expectedShares,omitempty"`
	TrueShares     []float64   `json:"trueShares,omitempty"`
	JointShares    [][]float64 `json:"jointShares,omitempty"`
	N              *int64      `json:"n,omitempty"`
	Power          *float64    `json:"power,omitempty"`
	// DF is the degrees of freedom; needed unless shares give it.
	DF    int     `json:"df,omitempty"`
	Level float64 `json:"level,omitempty"`
	plan.Design
}

var chiSquareFigures = analysis.Figures(
	"planning/chi-square",
	"Power, needed respondents, or the smallest departure found, for goodness of fit and independence",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.EverybodyAnswers},
	ChiSquareRequest{Level: 0.05},
	func(_ context.Context, in *ChiSquareRequest) (*plan.ChiSquare, error) {
		given := 0
		for _, yes := range []bool{in.W != nil, in.ExpectedShares != nil || in.TrueShares != nil, in.JointShares != nil} {
			if yes {
				given++
			}
		}
		if given > 1 {
			return nil, analysis.RefuseInput("planning", plan.TwoOfThree, -1)
		}
		if len(in.ExpectedShares) > analysis.MaxAnswers {
			return nil, analysis.RefuseInput("planning", analysis.TooManyAnswers, -1)
		}
		core := plan.ChiSquareInput{W: in.W, N: in.N, Power: in.Power, DF: in.DF, Level: in.Level, Design: in.Design}
		switch {
		case in.ExpectedShares != nil || in.TrueShares != nil:
			w, err := plan.W(in.ExpectedShares, in.TrueShares)
			if err != nil {
				return nil, err
			}
			core.W, core.DF = &w, len(in.ExpectedShares)-1
			for _, p := range in.ExpectedShares {
				if p == 0 {
					core.DF--
				}
			}
		case in.JointShares != nil:
			w, df, err := plan.WOfTable(in.JointShares)
			if err != nil {
				return nil, err
			}
			core.W, core.DF = &w, df
		}
		return plan.ComputeChiSquare(core)
	},
)

// MarginRequest names one of n and margin.
type MarginRequest struct {
	N *int64 `json:"n,omitempty"`
	// Margin is half the interval's width, 0–1.
	Margin     *float64 `json:"margin,omitempty"`
	Share      float64  `json:"share,omitempty"`
	Confidence float64  `json:"confidence,omitempty"`
	// Population is the size of the whole, 0 for one so large that it does not matter.
	Population int64 `json:"population,omitempty"`
	plan.Design
}

var marginFigures = analysis.Figures(
	"planning/margin",
	"Margin of error of a share, or the respondents it needs, from a population of any size",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.EverybodyAnswers},
	MarginRequest{Share: 0.5, Confidence: 0.95},
	func(_ context.Context, in *MarginRequest) (*plan.Margin, error) {
		return plan.ComputeMargin(plan.MarginInput(*in))
	},
)

// OneProportionRequest names two of true, n and power.
type OneProportionRequest struct {
	Claimed float64  `json:"claimed"`
	True    *float64 `json:"true,omitempty"`
	N       *int64   `json:"n,omitempty"`
	Power   *float64 `json:"power,omitempty"`
	Level   float64  `json:"level,omitempty"`
	// Direction is "less", "greater", or empty for a two-sided test.
	Direction plan.Direction `json:"direction,omitempty"`
	plan.Design
}

var oneProportionFigures = analysis.HeavyWhen(
	analysis.Figures("planning/one-proportion", "Power, needed respondents, or the nearest share found, for one share",
		[]analysis.Assumption{analysis.SimpleRandom, analysis.EverybodyAnswers}, OneProportionRequest{Level: 0.05},
		func(ctx context.Context, in *OneProportionRequest) (*plan.OneProportion, error) {
			if d := in.Direction; d != plan.TwoSided && d != plan.Less && d != plan.Greater {
				return nil, analysis.RefuseInput("planning", analysis.UnknownName, -1)
			}
			return plan.ComputeOneProportion(ctx, plan.OneProportionInput(*in))
		}),
	func(in *OneProportionRequest) bool {
		return in.N == nil || in.Power != nil || *in.N > analysis.LightCount
	},
)

// TwoProportionsRequest names two of share2, n1 with n2, and power.
type TwoProportionsRequest struct {
	Share1 float64  `json:"share1"`
	Share2 *float64 `json:"share2,omitempty"`
	N1     *int64   `json:"n1,omitempty"`
	N2     *int64   `json:"n2,omitempty"`
	Power  *float64 `json:"power,omitempty"`
	Level  float64  `json:"level,omitempty"`
	plan.Design
}

var twoProportionsFigures = analysis.HeavyWhen(
	analysis.Figures(
		"planning/two-proportions",
		"Power, needed respondents per group, or the nearest share found, for two shares",
		[]analysis.Assumption{
			analysis.SimpleRandom,
			analysis.IndependentGroups,
			analysis.EverybodyAnswers,
		},
		TwoProportionsRequest{Level: 0.05},
		func(ctx context.Context, in *TwoProportionsRequest) (*plan.TwoProportions, error) {
			return plan.ComputeTwoProportions(ctx, plan.TwoProportionsInput(*in))
		},
	),
	func(in *TwoProportionsRequest) bool { return in.N1 == nil || in.Power != nil || *in.N1 > 1000 },
)
