package analysis

import (
	"context"

	"widetally/core/exact"
	"widetally/core/infer"
	"widetally/core/shares"
)

// ExactRequest asks for a p-value that does not rest on the chi-square distribution.
type ExactRequest struct {
	// Way is "exact", "simulation", or empty: exact, and simulated where that is beyond
	// reach.
	Way infer.ExactWay `json:"way,omitempty"`
	// Replicates and Seed are for simulation; 0 replicates takes 100,000, fewer for very
	// large tables.
	Replicates int    `json:"replicates,omitempty"`
	Seed       uint64 `json:"seed,omitempty"`
}

func (e *ExactRequest) options(method string, cells int) (infer.ExactOptions, error) {
	most := min(maxReplicates, maxDrawnCells/cells)
	switch {
	case e.Way != infer.ExactOrSimulated && e.Way != infer.ExactOnly && e.Way != infer.SimulatedOnly:
		return infer.ExactOptions{}, refuse(method, UnknownName, -1)
	case e.Replicates < 0 || e.Replicates > most:
		return infer.ExactOptions{}, refuse(method, infer.SimulationRange, -1)
	case e.Replicates == 0:
		e.Replicates = min(exact.DefaultReplicates, most/2)
	}
	return infer.ExactOptions{Way: e.Way, Work: exactWork, Replicates: e.Replicates, Seed: e.Seed}, nil
}

// GoodnessOfFitRequest is the observed counts of one question and its expected shares.
type GoodnessOfFitRequest struct {
	Observed []int64 `json:"observed"`
	Scaled
	// Level is the significance level; intervals are at 1 − level.
	Level float64 `json:"level,omitempty"`
	// Estimated is the number of parameters estimated from these counts.
	Estimated int           `json:"estimated,omitempty"`
	Exact     *ExactRequest `json:"exact,omitempty"`
}

// GoodnessOfFitAnswer holds the test, and the exact or simulated one where asked for.
type GoodnessOfFitAnswer struct {
	GoodnessOfFit *infer.GoodnessOfFit
	Exact         *infer.ExactTest
}

var defaultScaled = Scaled{Scale: shares.Proportions}

var goodnessOfFit = heavyWhen(figures(goodnessOfFitName, "Observed counts against known shares: chi-square, likelihood ratio, residuals, exact or simulated",
	[]Assumption{SimpleRandom, SharesKnown}, GoodnessOfFitRequest{Scaled: defaultScaled, Level: 0.05},
	func(ctx context.Context, in *GoodnessOfFitRequest) (a GoodnessOfFitAnswer, err error) {
		expected, err := in.read("goodness of fit", len(in.Observed))
		if err != nil {
			return a, err
		}
		core := infer.GoodnessOfFitInput{Observed: in.Observed, Shares: expected, Level: in.Level, Estimated: in.Estimated}
		if a.GoodnessOfFit, err = infer.ComputeGoodnessOfFit(core); err != nil || in.Exact == nil {
			return a, err
		}
		options, err := in.Exact.options("exact goodness of fit", a.GoodnessOfFit.Answers)
		if err != nil {
			return a, err
		}
		a.Exact, err = infer.ComputeExactGoodnessOfFit(ctx, core, options)
		return a, err
	}), func(in *GoodnessOfFitRequest) bool {
	if in.Exact == nil || len(in.Observed) == 2 && in.Exact.Way != infer.SimulatedOnly {
		return false
	}
	return in.Exact.Way == infer.SimulatedOnly || exact.MultinomialSteps(total(in.Observed), len(in.Observed)) > lightSteps
})

// AgainstSampleRequest is the counts of two samples, the published one second.
type AgainstSampleRequest struct {
	Observed  []int64 `json:"observed"`
	Published []int64 `json:"published"`
	Level     float64 `json:"level,omitempty"`
}

var againstSample = figures(againstSampleName, "Observed counts against published ones that come from a sample themselves",
	[]Assumption{SimpleRandom, IndependentGroups}, AgainstSampleRequest{Level: 0.05},
	func(_ context.Context, in *AgainstSampleRequest) (*infer.Homogeneity, error) {
		if len(in.Observed) > maxAnswers {
			return nil, refuse("against a sample", TooManyAnswers, -1)
		}
		return infer.ComputeHomogeneity(in.Observed, in.Published, in.Level)
	})

// SimultaneousRequest is the counts of one question.
type SimultaneousRequest struct {
	Observed   []int64 `json:"observed"`
	Confidence float64 `json:"confidence,omitempty"`
}

var simultaneous = figures(intervalsName, "Intervals for all shares of a question that hold together",
	[]Assumption{SimpleRandom}, SimultaneousRequest{Confidence: 0.95},
	func(_ context.Context, in *SimultaneousRequest) (*infer.Simultaneous, error) {
		if len(in.Observed) > maxAnswers {
			return nil, refuse("simultaneous intervals", TooManyAnswers, -1)
		}
		return infer.ComputeSimultaneous(in.Observed, in.Confidence)
	})

// DistributionEquivalenceRequest asks whether every share is near enough to its expected one.
type DistributionEquivalenceRequest struct {
	Observed []int64 `json:"observed"`
	Scaled
	// Margin is how far a share may lie off, 0–1.
	Margin float64 `json:"margin"`
	Level  float64 `json:"level,omitempty"`
}

var equivalenceDistribution = figures(nearDistributionName, "Whether all shares lie within a margin of their expected ones",
	[]Assumption{SimpleRandom, SharesKnown, MarginBeforehand}, DistributionEquivalenceRequest{Scaled: defaultScaled, Level: 0.05},
	func(_ context.Context, in *DistributionEquivalenceRequest) (*infer.DistributionEquivalence, error) {
		expected, err := in.read("equivalence", len(in.Observed))
		if err != nil {
			return nil, err
		}
		return infer.ComputeDistributionEquivalence(infer.GoodnessOfFitInput{Observed: in.Observed, Shares: expected, Level: in.Level}, in.Margin)
	})

// AdjustRequest is p-values looked at together.
type AdjustRequest struct {
	P []Probability `json:"p"`
}

var adjust = figures("adjust", "Many claims at once: Bonferroni, Holm, Benjamini and Hochberg", nil, AdjustRequest{},
	func(_ context.Context, in *AdjustRequest) (*infer.Adjusted, error) {
		p, ok := readAll(in.P)
		if ok >= 0 {
			return nil, refuse("adjustment", infer.ProbabilityRange, ok)
		}
		return infer.Adjust(p)
	})
