package infer

import (
	"math"

	"widetally/core/exact"
	"widetally/core/prob"
)

// TwoByTwo holds what a table of two groups and two answers allows beyond the
// chi-square test: rows are the groups, the first column is the outcome.
type TwoByTwo struct {
	Table [2][2]int64
	// Yates is the statistic with the correction min(½, |O − E|) (Yates 1934).
	Yates  float64
	YatesP prob.Prob
	// Fisher is the exact test with both margins fixed (Fisher 1935): Less and
	// Greater speak of the first cell; TwoSided adds the tables that are no likelier
	// than the observed one, counted as equal within a factor of 1 + 1e-7.
	// Nil when more than three hundred thousand tables share the margins.
	Fisher *exact.TwoByTwo
	Phi    float64 // signed, (ad − bc)/√(r1·r2·c1·c2)
	Shares *TwoProportions
	// Effects are φ, the odds ratio and its conditional estimate, the relative risk and
	// the difference, under their names.
	Effects []Effect
}

// ComputeTwoByTwo gives the methods for 2 × 2 tables. All four margins must be
// positive. Errors are *InputError.
func ComputeTwoByTwo(table [2][2]int64, confidence float64) (*TwoByTwo, error) {
	a, b, c, d := table[0][0], table[0][1], table[1][0], table[1][1]
	full, err := ComputeIndependence([][]int64{{a, b}, {c, d}}, 0.05)
	if err != nil {
		return nil, err
	}
	shares, err := ComputeTwoProportions(TwoProportionsInput{a, a + b, c, c + d, confidence})
	if err != nil {
		return nil, err
	}
	t := &TwoByTwo{Table: table, Shares: shares, Fisher: shares.Exact}
	for _, row := range full.Cells {
		for _, cell := range row {
			reduced := math.Abs(cell.Difference) - math.Min(0.5, math.Abs(cell.Difference))
			t.Yates += reduced / cell.Expected * reduced
		}
	}
	t.YatesP = prob.ChiSquareUpper(t.Yates, 1)
	t.Phi = math.Copysign(full.CramersV, full.Cells[0][0].Difference)
	t.sizes(confidence)
	return t, nil
}

func (t *TwoByTwo) sizes(confidence float64) {
	ratio := func(name EffectName, value *float64, interval *Interval, m IntervalMethod) Effect {
		if value == nil {
			return absent(name, ZeroCell)
		}
		e := present(name, *value)
		if interval == nil {
			e.Why = ZeroCell
			return e
		}
		return e.with(interval, m)
	}
	t.Effects = []Effect{t.phi(confidence),
		ratio(OddsRatio, t.Shares.OddsRatio, t.Shares.OddsRatioInterval, WoolfInterval), t.conditional(confidence),
		ratio(RelativeRisk, t.Shares.RelativeRisk, t.Shares.RelativeRiskInterval, KatzInterval),
		present(RiskDifference, t.Shares.Difference).with(&t.Shares.Newcombe, NewcombeInterval)}
}

// phi is (ad − bc)/√(r1·r2·c1·c2), the correlation of the two answers.
func (t *TwoByTwo) phi(confidence float64) Effect {
	counts := [][]int64{t.Table[0][:], t.Table[1][:]}
	rows, columns, _ := margins(counts)
	below := math.Sqrt(rows[0]*columns[0]) * math.Sqrt(rows[1]*columns[1])
	return ratio{t.Phi * below, below,
		func(i, j int) float64 {
			opposite := float64(counts[1-i][1-j])
			if i != j {
				return -opposite
			}
			return opposite
		},
		func(i, j int) float64 { return below / 2 * (1/rows[i] + 1/columns[j]) },
	}.effect(Phi, counts, confidence, -1).called(wordForW(t.Phi))
}

// conditional is the odds ratio given both margins, whose upper end is +Inf where the
// estimate is.
func (t *TwoByTwo) conditional(confidence float64) Effect {
	o, err := exact.ConditionalOddsRatio(t.Table[0][0], t.Table[0][1], t.Table[1][0], t.Table[1][1], confidence)
	if err != nil {
		return absent(ConditionalOddsRatio, BeyondReach)
	}
	e := absent(ConditionalOddsRatio, ZeroCell)
	if !math.IsInf(o.Estimate, 1) {
		e = present(ConditionalOddsRatio, o.Estimate)
	}
	return e.with(&Interval{o.Lower, o.Upper}, ExactConditionalInterval)
}
