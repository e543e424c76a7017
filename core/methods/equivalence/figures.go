package equivalence

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/methods/twoproportions"
)

// DistributionRequest asks whether every share is near enough to its expected one.
type DistributionRequest struct {
	Observed []int64 `json:"observed"`
	analysis.Scaled
	// Margin is how far a share may lie off, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var distributionFigures = analysis.Figures(
	"equivalence/distribution",
	"Whether all shares lie within a margin of their expected ones",
	[]analysis.Assumption{
		analysis.SimpleRandom,
		analysis.SharesKnown,
		analysis.MarginBeforehand,
	},
	DistributionRequest{Scaled: analysis.DefaultScaled, Level: 0.05},
	func(_ context.Context, in *DistributionRequest) (*infer.DistributionEquivalence, error) {
		expected, err := in.Read("equivalence", len(in.Observed))
		if err != nil {
			return nil, err
		}
		return infer.ComputeDistributionEquivalence(
			infer.GoodnessOfFitInput{Observed: in.Observed, Shares: expected, Level: in.Level},
			in.Margin,
		)
	},
)

// ShareRequest asks whether a share is near enough to an expected one.
type ShareRequest struct {
	analysis.Group
	Expected float64 `json:"expected"`
	// Margin is how far the share may lie off, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var shareFigures = analysis.Figures("equivalence/share", "Whether one share lies within a margin of an expected one",
	[]analysis.Assumption{analysis.SimpleRandom, analysis.MarginBeforehand}, ShareRequest{Level: 0.05},
	func(_ context.Context, in *ShareRequest) (*infer.Equivalence, error) {
		return infer.ComputeShareEquivalence(in.Successes, in.N, in.Expected, in.Margin, in.Level)
	})

// TwoSharesRequest asks whether two shares are near enough to each other.
type TwoSharesRequest struct {
	First  analysis.Group `json:"first"`
	Second analysis.Group `json:"second"`
	// Margin is how far the shares may lie apart, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var twoSharesFigures = analysis.Figures(
	"equivalence/two-shares",
	"Whether two shares lie within a margin of each other",
	[]analysis.Assumption{
		analysis.SimpleRandom,
		analysis.IndependentGroups,
		analysis.MarginBeforehand,
	},
	TwoSharesRequest{Level: 0.05},
	func(_ context.Context, in *TwoSharesRequest) (*infer.Equivalence, error) {
		return infer.ComputeTwoSharesEquivalence(
			twoproportions.Request{First: in.First, Second: in.Second}.Input(),
			in.Margin,
			in.Level,
		)
	},
)
