package analysis

import (
	"context"
	"math/big"

	"widetally/core/printed"
	"widetally/core/prob"
	"widetally/core/shares"
	"widetally/core/tally"
)

// readAll reads probabilities; bad is the position of the first that is none, or −1.
func readAll(texts []Probability) (p []prob.Prob, bad int) {
	for i, t := range texts {
		q, ok := t.read()
		if !ok {
			return nil, i
		}
		p = append(p, q)
	}
	return p, -1
}

// PrintedResultRequest is a result as it was printed. Statistic and p are needed, the rest
// where it was printed.
type PrintedResultRequest struct {
	Kind printed.Kind `json:"kind"`
	// Statistic and P are texts, so that their last places show how they were rounded.
	Statistic string   `json:"statistic"`
	DF        *float64 `json:"df,omitempty"`
	P         string   `json:"p"`
	Sided     int      `json:"sided,omitempty"`
	N         *int64   `json:"n,omitempty"`
	Level     float64  `json:"level,omitempty"`
	// Observed counts of one question with its expected shares (equal where absent), or
	// the table of two questions.
	Observed []int64      `json:"observed,omitempty"`
	Shares   []Figure     `json:"shares,omitempty"`
	Scale    shares.Scale `json:"scale,omitempty"`
	Table    [][]int64    `json:"table,omitempty"`
	// Effect is a size as printed, where it was, and EffectName what it was called.
	Effect     string             `json:"effect,omitempty"`
	EffectName printed.EffectName `json:"effectName,omitempty"`
}

var printedResult = figures(printedName, "Whether the figures of a printed result can all be true, and which known slip explains them",
	[]Assumption{PrintedRounded}, PrintedResultRequest{Kind: printed.ChiSquare, Sided: 2, Level: 0.05, Scale: shares.Proportions},
	func(_ context.Context, in *PrintedResultRequest) (*printed.Result, error) {
		if err := checkTable("printed result", in.Table); err != nil {
			return nil, err
		}
		if len(in.Observed) > maxAnswers {
			return nil, refuse("printed result", TooManyAnswers, -1)
		}
		var expected []*big.Rat
		if in.Shares != nil || in.Scale == shares.Equal && in.Observed != nil {
			var err error
			if expected, err = (Scaled{Shares: in.Shares, Scale: in.Scale}).read("printed result", len(in.Observed)); err != nil {
				return nil, err
			}
		}
		return printed.Compute(printed.Input{Kind: in.Kind, Statistic: in.Statistic, DF: in.DF, P: in.P, Sided: in.Sided, N: in.N, Level: in.Level,
			Observed: in.Observed, Shares: expected, Table: in.Table, Effect: in.Effect, EffectName: in.EffectName})
	})

// NumericSummaryRequest is numbers with how often each was given.
type NumericSummaryRequest struct {
	Values []float64 `json:"values"`
	// Counts has the length of values; each counts once where absent.
	Counts []int64 `json:"counts,omitempty"`
	// Percents asks for percentiles; the quartiles where absent.
	Percents   []float64 `json:"percents,omitempty"`
	Confidence float64   `json:"confidence,omitempty"`
}

var numericSummary = figures("numeric-summary", "Numbers described: mean, spread, percentiles by two definitions, interval of the mean",
	[]Assumption{SimpleRandom, NearlyNormal}, NumericSummaryRequest{Confidence: 0.95},
	func(_ context.Context, in *NumericSummaryRequest) (*tally.Summary, error) {
		if in.Percents == nil {
			in.Percents = []float64{25, 50, 75}
		}
		return tally.SummariseNumbers(tally.NumbersInput(*in))
	})

// GroupedSummaryRequest is numbers known by class only.
type GroupedSummaryRequest struct {
	// Classes are [from, to] in rising order.
	Classes [][]float64 `json:"classes"`
	Counts  []int64     `json:"counts"`
}

var groupedSummary = figures("grouped-summary", "Estimates from numbers given in classes",
	[]Assumption{SpreadEvenly}, GroupedSummaryRequest{},
	func(_ context.Context, in *GroupedSummaryRequest) (*tally.Grouped, error) {
		var classes [][2]float64
		for i, c := range in.Classes {
			if len(c) != 2 {
				return nil, refuse("grouped summary", PairLength, i)
			}
			classes = append(classes, [2]float64{c[0], c[1]})
		}
		return tally.SummariseClasses(classes, in.Counts)
	})
