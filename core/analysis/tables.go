package analysis

import (
	"context"

	"widetally/core/infer"
)

// IndependenceRequest is a contingency table.
type IndependenceRequest struct {
	// Table holds the counts, row by row.
	Table [][]int64     `json:"table"`
	Level float64       `json:"level,omitempty"`
	Exact *ExactRequest `json:"exact,omitempty"`
}

// IndependenceAnswer holds the test, what a 2 × 2 table allows beyond it (rows are the
// groups, the first column the outcome), and the exact or simulated test where asked for.
type IndependenceAnswer struct {
	Independence *infer.Independence
	TwoByTwo     *infer.TwoByTwo
	Exact        *infer.ExactTest
}

var independence = heavyWhen(figures(crosstabName, "Two questions of a table: chi-square, likelihood ratio, residuals, measures of size, Fisher's exact test or simulation",
	[]Assumption{SimpleRandom}, IndependenceRequest{Level: 0.05},
	func(ctx context.Context, in *IndependenceRequest) (a IndependenceAnswer, err error) {
		if err = checkTable("independence", in.Table); err != nil {
			return a, err
		}
		if a.Independence, err = infer.ComputeIndependence(in.Table, in.Level); err != nil {
			return a, err
		}
		if used := a.Independence; len(used.RowsUsed) == 2 && len(used.ColumnsUsed) == 2 {
			cell := func(i, j int) int64 { return used.Cells[i][j].Observed }
			if a.TwoByTwo, err = infer.ComputeTwoByTwo([2][2]int64{{cell(0, 0), cell(0, 1)}, {cell(1, 0), cell(1, 1)}}, 1-in.Level); err != nil {
				return a, err
			}
		}
		if in.Exact == nil {
			return a, nil
		}
		options, err := in.Exact.options("exact independence", a.Independence.CellsInTest)
		if err != nil {
			return a, err
		}
		a.Exact, err = infer.ComputeExactIndependence(ctx, in.Table, in.Level, options)
		return a, err
	}), func(in *IndependenceRequest) bool {
	if in.Exact == nil {
		return false
	}
	var n int64
	cells := 0
	for _, row := range in.Table {
		n += total(row)
		cells += len(row)
	}
	return in.Exact.Way == infer.SimulatedOnly || cells > 4 || n > lightCount
})

// OrderedRequest is a table whose answers have an order, the lowest first.
type OrderedRequest struct {
	Table [][]int64 `json:"table"`
	// RowScores and ColumnScores place the answers on a line; 1, 2, 3, … where absent.
	RowScores    []float64 `json:"rowScores,omitempty"`
	ColumnScores []float64 `json:"columnScores,omitempty"`
	Level        float64   `json:"level,omitempty"`
}

const orderedName = "ordered"

var ordered = figures(orderedName, "Answers with an order: trends, rank tests, gamma, tau, Somers' d",
	[]Assumption{SimpleRandom, AnswersOrdered}, OrderedRequest{Level: 0.05},
	func(_ context.Context, in *OrderedRequest) (*infer.Ordered, error) {
		if err := checkTable("ordered answers", in.Table); err != nil {
			return nil, err
		}
		return infer.ComputeOrdered(infer.OrderedInput(*in))
	})

// LayersRequest is one 2 × 2 table per layer, rows the groups, the first column the outcome.
type LayersRequest struct {
	Tables     [][][]int64 `json:"tables"`
	Confidence float64     `json:"confidence,omitempty"`
}

var layers = figures("mantel-haenszel", "Two groups compared within layers: Cochran, Mantel and Haenszel, common odds ratio, Breslow and Day",
	[]Assumption{SimpleRandom, IndependentGroups}, LayersRequest{Confidence: 0.95},
	func(_ context.Context, in *LayersRequest) (*infer.MantelHaenszel, error) {
		var tables [][2][2]int64
		for k, raw := range in.Tables {
			t, err := pair("mantel-haenszel", raw, k)
			if err != nil {
				return nil, err
			}
			tables = append(tables, t)
		}
		if len(tables) > maxCells/4 {
			return nil, refuse("mantel-haenszel", TooManyCells, -1)
		}
		return infer.ComputeMantelHaenszel(tables, in.Confidence)
	})

// AgreementRequest is a square table of the same people's two answers: rows the first,
// columns the second.
type AgreementRequest struct {
	Table      [][]int64 `json:"table"`
	Confidence float64   `json:"confidence,omitempty"`
}

var agreement = figures(pairedName, "The same people asked twice: McNemar, Bowker, Stuart and Maxwell, kappa",
	[]Assumption{SimpleRandom, SameRespondents}, AgreementRequest{Confidence: 0.95},
	func(_ context.Context, in *AgreementRequest) (*infer.Agreement, error) {
		if err := checkTable("agreement", in.Table); err != nil {
			return nil, err
		}
		return infer.ComputeAgreement(in.Table, in.Confidence)
	})

// PatternRequest is one combination of choices and how many respondents made it.
type PatternRequest struct {
	Chosen []bool `json:"chosen"`
	Count  int64  `json:"count"`
}

// ChosenItemsRequest is the answers to a choose-all question.
type ChosenItemsRequest struct {
	Patterns []PatternRequest `json:"patterns"`
	Level    float64          `json:"level,omitempty"`
}

const chosenName = "cochran-q"

var chosenItems = figures(chosenName, "How often the items of a choose-all question were chosen: Cochran's Q",
	[]Assumption{SimpleRandom, SameRespondents}, ChosenItemsRequest{Level: 0.05},
	func(_ context.Context, in *ChosenItemsRequest) (*infer.CochranQ, error) {
		var patterns []infer.ChosenPattern
		for _, p := range in.Patterns {
			patterns = append(patterns, infer.ChosenPattern(p))
		}
		return infer.ComputeCochranQ(patterns, in.Level)
	})

// exactTable is the exact test of a table whose expected counts are too small for the chi-square
// distribution, or its simulation, within what a page may spend; nil where it is not needed.
func (w Work) exactTable(r *infer.Independence, table [][]int64, level float64) (*infer.ExactTest, error) {
	if r.Advice.Use != infer.UseExact && r.Advice.Use != infer.UseSimulation {
		return nil, nil
	}
	options := infer.ExactOptions{Work: w.Steps, Replicates: w.Replicates, Seed: fixedSeed}
	if r.Advice.Use == infer.UseSimulation {
		options.Way = infer.SimulatedOnly
	}
	return infer.ComputeExactIndependence(w.Context, table, level, options)
}
