package printed

import (
	"math"
	"math/big"

	"widetally/core/infer"
)

// counts is what printed counts give.
type counts struct {
	fitted Fitted
	// cells holds the observed counts with their expected ones.
	cells [][2]float64
	yates *float64
	g     float64
	// equal is the statistic with equal shares, for one question with other shares.
	equal       *float64
	rows, other int
}

func readCounts(in Input) (*counts, error) {
	switch {
	case in.Observed != nil && in.Table != nil:
		return nil, &infer.InputError{Method: "printed result", Reason: TwoKindsCounts, Index: -1}
	case in.Observed != nil:
		return oneWay(in)
	case in.Table != nil:
		return twoWay(in)
	}
	return nil, nil
}

func oneWay(in Input) (*counts, error) {
	k := len(in.Observed)
	even := make([]*big.Rat, k)
	for i := range even {
		even[i] = big.NewRat(1, int64(k))
	}
	shares := in.Shares
	if shares == nil {
		shares = even
	}
	r, err := infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: in.Observed, Shares: shares, Level: in.Level})
	if err != nil {
		return nil, err
	}
	c := &counts{fitted: Fitted{r.N, r.DF, r.Statistic, r.P}, g: r.G, rows: r.Answers, other: 1}
	for _, row := range r.Rows {
		if !row.LeftOut {
			c.cells = append(c.cells, [2]float64{float64(row.Observed), row.Expected})
		}
	}
	if in.Shares != nil {
		if e, err := infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: in.Observed, Shares: even, Level: in.Level}); err == nil {
			c.equal = &e.Statistic
		}
	}
	return c, nil
}

func twoWay(in Input) (*counts, error) {
	r, err := infer.ComputeIndependence(in.Table, in.Level)
	if err != nil {
		return nil, err
	}
	c := &counts{fitted: Fitted{r.N, r.DF, r.Statistic, r.P}, g: r.G, rows: len(r.RowTotals), other: len(r.ColumnTotals)}
	for _, row := range r.Cells {
		for _, cell := range row {
			c.cells = append(c.cells, [2]float64{float64(cell.Observed), cell.Expected})
		}
	}
	if c.rows == 2 && c.other == 2 {
		y, err := infer.ComputeTwoByTwo(
			[2][2]int64{{r.Cells[0][0].Observed, r.Cells[0][1].Observed}, {r.Cells[1][0].Observed, r.Cells[1][1].Observed}},
			0.95,
		)
		if err == nil {
			c.yates = &y.Yates
		}
	}
	return c, nil
}

// over adds f over the cells.
func (c *counts) over(f func(o, e float64) float64) (sum float64) {
	for _, cell := range c.cells {
		sum += f(cell[0], cell[1])
	}
	return sum
}

func (r *Result) compareCounts(in Input, c *counts) {
	r.Fitted = &c.fitted
	n, df := float64(c.fitted.N), float64(c.fitted.DF)
	if in.N != nil {
		r.check(NFitsCounts, *in.N == c.fitted.N, n, n)
	}
	if !r.check(DFFitsCounts, *in.DF == df, df, df) {
		switch *in.DF {
		case float64(c.rows * c.other):
			r.Slips = append(r.Slips, Slip{RowsTimesCols, DFFitsCounts, *in.DF})
		default:
			r.Slips = append(r.Slips, Slip{WrongDF, DFFitsCounts, df})
		}
	}
	x := c.fitted.Statistic
	printed := r.Statistic
	if in.Kind == Z { // of one degree of freedom, X² is z²
		x = math.Sqrt(x)
		printed.Value = math.Abs(printed.Value)
		printed.Range.Lower, printed.Range.Upper = printed.Value-printed.Step/2, printed.Value+printed.Step/2
	}
	if r.check(StatisticFitsTable, printed.meets(x, x), x, x) {
		return
	}
	slip := func(name SlipName, v float64) {
		if printed.meets(v, v) {
			r.Slips = append(r.Slips, Slip{name, StatisticFitsTable, v})
		}
	}
	if printed.cutMeets(x, x) {
		r.Slips = append(r.Slips, Slip{StatisticCut, StatisticFitsTable, x})
	}
	if c.yates != nil {
		slip(YatesCorrected, *c.yates)
	}
	slip(LikelihoodRatio, c.g)
	slip(OnPercents, x/n*100)
	slip(OnShares, x/n)
	if c.equal != nil {
		slip(EqualShares, *c.equal)
	}
	slip(RootOfStatistic, math.Sqrt(x))
	slip(OverObserved, c.over(func(o, e float64) float64 {
		if o == 0 {
			return 0
		}
		return (o - e) / o * (o - e)
	}))
	slip(RoundedExpected, c.over(func(o, e float64) float64 {
		e = math.Max(1, math.Round(e))
		return (o - e) / e * (o - e)
	}))
	slip(NotDivided, c.over(func(o, e float64) float64 { return (o - e) * (o - e) }))
	slip(NotSquaredEither, c.over(func(o, e float64) float64 { return math.Abs(o-e) / e }))
}
