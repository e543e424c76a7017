package analysis

import (
	"context"

	"widetally/core/infer"
)

// Group is how many of a group said yes.
type Group struct {
	Successes int64 `json:"successes"`
	N         int64 `json:"n"`
}

// OneProportionRequest asks about one share.
type OneProportionRequest struct {
	Group
	// Claimed is the share under the null hypothesis, between 0 and 1.
	Claimed    float64 `json:"claimed"`
	Confidence float64 `json:"confidence,omitempty"`
}

var oneProportion = figures(oneProportionName, "One share against a claimed one: score and exact tests, intervals",
	[]Assumption{SimpleRandom}, OneProportionRequest{Confidence: 0.95},
	func(_ context.Context, in *OneProportionRequest) (*infer.Proportion, error) {
		return infer.ComputeProportion(infer.ProportionInput{Successes: in.Successes, N: in.N, Claimed: in.Claimed, Confidence: in.Confidence})
	})

// TwoProportionsRequest asks whether two groups have the same share.
type TwoProportionsRequest struct {
	First      Group   `json:"first"`
	Second     Group   `json:"second"`
	Confidence float64 `json:"confidence,omitempty"`
}

func (in TwoProportionsRequest) input() infer.TwoProportionsInput {
	return infer.TwoProportionsInput{Successes1: in.First.Successes, N1: in.First.N, Successes2: in.Second.Successes, N2: in.Second.N, Confidence: in.Confidence}
}

var twoProportions = heavyWhen(figures(twoProportionsName, "The shares of two independent groups: pooled and exact tests, difference, ratio",
	[]Assumption{SimpleRandom, IndependentGroups}, TwoProportionsRequest{Confidence: 0.95},
	func(_ context.Context, in *TwoProportionsRequest) (*infer.TwoProportions, error) {
		return infer.ComputeTwoProportions(in.input())
	}), func(in *TwoProportionsRequest) bool { return total([]int64{in.First.N, in.Second.N}) > lightCount })

// ShareEquivalenceRequest asks whether a share is near enough to an expected one.
type ShareEquivalenceRequest struct {
	Group
	Expected float64 `json:"expected"`
	// Margin is how far the share may lie off, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var equivalenceShare = figures(nearShareName, "Whether one share lies within a margin of an expected one",
	[]Assumption{SimpleRandom, MarginBeforehand}, ShareEquivalenceRequest{Level: 0.05},
	func(_ context.Context, in *ShareEquivalenceRequest) (*infer.Equivalence, error) {
		return infer.ComputeShareEquivalence(in.Successes, in.N, in.Expected, in.Margin, in.Level)
	})

// TwoSharesEquivalenceRequest asks whether two shares are near enough to each other.
type TwoSharesEquivalenceRequest struct {
	First  Group `json:"first"`
	Second Group `json:"second"`
	// Margin is how far the shares may lie apart, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var equivalenceTwoShares = figures(nearTwoSharesName, "Whether two shares lie within a margin of each other",
	[]Assumption{SimpleRandom, IndependentGroups, MarginBeforehand}, TwoSharesEquivalenceRequest{Level: 0.05},
	func(_ context.Context, in *TwoSharesEquivalenceRequest) (*infer.Equivalence, error) {
		return infer.ComputeTwoSharesEquivalence(TwoProportionsRequest{First: in.First, Second: in.Second}.input(), in.Margin, in.Level)
	})

// SampleRequest is a group of numbers by its summary.
type SampleRequest struct {
	N    int64   `json:"n"`
	Mean float64 `json:"mean"`
	// SD is the standard deviation with divisor n − 1; needed unless sigma is given.
	SD *float64 `json:"sd,omitempty"`
	// Sigma is the standard deviation of the population where it is known.
	Sigma *float64 `json:"sigma,omitempty"`
	// Skewness is that of the numbers, where they are known; it tells how many it takes.
	Skewness *float64 `json:"skewness,omitempty"`
}

func (s SampleRequest) sample(name string) (infer.Sample, error) {
	out := infer.Sample{N: s.N, Mean: s.Mean, Sigma: s.Sigma, Skewness: s.Skewness}
	switch {
	case s.SD != nil:
		out.SD = *s.SD
	case s.Sigma == nil:
		return out, &MissingError{name + ".sd"}
	}
	return out, nil
}

// MeansRequest asks about one mean, or about the difference of two.
type MeansRequest struct {
	First  SampleRequest  `json:"first"`
	Second *SampleRequest `json:"second,omitempty"`
	// Claimed is the mean, or the difference first − second, under the null hypothesis.
	Claimed    float64 `json:"claimed,omitempty"`
	Confidence float64 `json:"confidence,omitempty"`
}

const meansName = "means"

var means = figures(meansName, "One or two means from summary numbers: z where sigma is known, t otherwise, Welch and pooled",
	[]Assumption{SimpleRandom, NearlyNormal}, MeansRequest{Confidence: 0.95},
	func(_ context.Context, in *MeansRequest) (*infer.Means, error) {
		first, err := in.First.sample("first")
		if err != nil {
			return nil, err
		}
		core := infer.MeansInput{First: first, Claimed: in.Claimed, Confidence: in.Confidence}
		if in.Second != nil {
			second, err := in.Second.sample("second")
			if err != nil {
				return nil, err
			}
			core.Second = &second
		}
		return infer.ComputeMeans(core)
	})
