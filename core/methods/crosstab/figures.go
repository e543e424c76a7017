package crosstab

import (
	"context"

	"widetally/core/analysis"
	"widetally/core/infer"
)

// Request is a contingency table.
type Request struct {
	// Table holds the counts, row by row.
	Table [][]int64              `json:"table"`
	Level float64                `json:"level,omitempty"`
	Exact *analysis.ExactRequest `json:"exact,omitempty"`
}

// Answer holds the test, what a 2 × 2 table allows beyond it (rows are the
// groups, the first column the outcome), and the exact or simulated test where asked for.
type Answer struct {
	Independence *infer.Independence
	TwoByTwo     *infer.TwoByTwo
	Exact        *infer.ExactTest
}

var figures = analysis.HeavyWhen(
	analysis.Figures(
		"crosstab",
		"Two questions of a table: chi-square, likelihood ratio, residuals, measures of size, Fisher's exact test or simulation",
		[]analysis.Assumption{analysis.SimpleRandom},
		Request{Level: 0.05},
		func(ctx context.Context, in *Request) (a Answer, err error) {
			if err = analysis.CheckTable("independence", in.Table); err != nil {
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
			options, err := in.Exact.Options("exact independence", a.Independence.CellsInTest)
			if err != nil {
				return a, err
			}
			a.Exact, err = infer.ComputeExactIndependence(ctx, in.Table, in.Level, options)
			return a, err
		},
	),
	func(in *Request) bool {
		if in.Exact == nil {
			return false
		}
		var n int64
		cells := 0
		for _, row := range in.Table {
			n += analysis.Total(row)
			cells += len(row)
		}
		return in.Exact.Way == infer.SimulatedOnly || cells > 4 || n > analysis.LightCount
	},
)
