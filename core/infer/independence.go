package infer

import (
	"math"
	"math/bits"
	"slices"

	"widetally/core/prob"
)

// Cell is one cell of a contingency table with its part in the test.
type Cell struct {
	Observed                                int64
	RowPercent, ColumnPercent, TotalPercent float64 // 0–100
	Expected, Difference, Contribution      float64
	Pearson                                 float64 // (O − E)/√E
	Adjusted                                float64 // (O − E)/√(E(1−r/n)(1−c/n)), Haberman 1973
	AdjustedP                               prob.Prob
	HolmP                                   prob.Prob // over all cells of the table
	Significant, Low                        bool
}

// Independence is the complete result of the chi-square test on an r × c table.
type Independence struct {
	N                       int64
	RowTotals, ColumnTotals []int64
	// Cells holds the rows and columns in the test; RowsUsed and ColumnsUsed give
	// their positions in the table as it came. Empty rows and columns are left out.
	Cells                 [][]Cell
	RowsUsed, ColumnsUsed []int

	DF            int
	Level         float64
	Statistic     float64
	P             prob.Prob
	CriticalValue float64
	Reject        bool
	G             float64
	GP            prob.Prob

	CohensW           float64 // √(X²/n), here equal to φ for 2 × 2
	CramersV          float64 // √(X²/(n·min(r−1, c−1)))
	CramersVCorrected float64 // Bergsma 2013
	Contingency       float64 // √(X²/(X²+n)), Pearson's C
	ContingencyScaled float64 // C·√(m/(m−1)) with m = min(r, c), Sakoda 1977

	LowExpectedCounts
	// Effects are measures of size, with intervals at confidence 1 − Level. They take
	// answers without order; for ordered ones see ComputeOrdered.
	Effects    []Effect
	Conditions []Condition
	Advice     Advice
}

// ComputeIndependence carries out Pearson's chi-square test of independence (or of
// homogeneity, which is the same arithmetic) on a table of counts.
//
//	E_ij = r_i·c_j/n   X² = Σ (O − E)²/E   df = (r−1)(c−1)
//
// The differences O·n − r·c are formed in 128-bit integers. Empty rows and columns
// are left out and df follows. Errors, all *InputError: rows of unequal length, a
// count out of range, nothing counted, fewer than two rows or columns left, a level
// outside (0, 1). It assumes independent respondents, each counted once.
func ComputeIndependence(table [][]int64, level float64) (*Independence, error) {
	r := &Independence{Level: level}
	counts, err := r.prepare(table)
	if err != nil {
		return nil, err
	}
	n := float64(r.N)
	var tails []prob.Prob
	for i, row := range counts {
		cells := make([]Cell, len(row))
		for j, o := range row {
			cells[j] = r.cell(o, r.RowTotals[i], r.ColumnTotals[j])
			cells[j].Low = r.add(cells[j].Expected)
			c := cells[j]
			r.Statistic += c.Contribution
			r.G += 2 * prob.Deviance(float64(o), c.Expected, c.Difference)
			tails = append(tails, c.AdjustedP)
		}
		r.Cells = append(r.Cells, cells)
	}
	for k, p := range Holm(tails) {
		c := &r.Cells[k/len(r.ColumnTotals)][k%len(r.ColumnTotals)]
		c.HolmP, c.Significant = p, p.AtMost(level)
	}
	rows, columns := float64(len(r.RowTotals)), float64(len(r.ColumnTotals))
	r.DF = (len(r.RowTotals) - 1) * (len(r.ColumnTotals) - 1)
	df := float64(r.DF)
	r.P, r.GP = prob.ChiSquareUpper(r.Statistic, df), prob.ChiSquareUpper(r.G, df)
	r.CriticalValue = prob.ChiSquareUpperQuantile(level, df)
	r.Reject = r.P.AtMost(level)
	smaller := math.Min(rows, columns)
	r.CohensW = math.Sqrt(r.Statistic / n)
	r.CramersV = math.Min(1, math.Sqrt(r.Statistic/(n*(smaller-1)))) // rounding may pass the end
	r.CramersVCorrected = bergsma(r.Statistic/n, n, rows, columns)
	r.Contingency = math.Sqrt(r.Statistic / (r.Statistic + n))
	r.ContingencyScaled = math.Min(1, r.Contingency*math.Sqrt(smaller/(smaller-1)))
	r.Effects = r.sizes(counts, n)
	r.Conditions = r.LowExpectedCounts.conditions()
	thinnest := make([]float64, len(r.ColumnTotals))
	for j := range thinnest {
		thinnest[j] = float64(r.ColumnTotals[j]) / n * float64(slices.Min(r.RowTotals))
	}
	r.Advice = r.advise(tableInReach(r.RowTotals, r.ColumnTotals), thinnest)
	for k, j := range r.Advice.Merge {
		r.Advice.Merge[k] = r.ColumnsUsed[j]
	}
	return r, nil
}

// sizes are the measures for answers without order.
func (r *Independence) sizes(counts [][]int64, n float64) []Effect {
	side := float64(min(len(r.RowTotals), len(r.ColumnTotals)) - 1)
	interval := NoncentralW(r.Statistic, float64(r.DF), n, 1-r.Level, math.Sqrt(side))
	measure := func(name EffectName, value float64, f func(w float64) float64) Effect {
		return byNoncentrality(name, value, interval, f)
	}
	// C is w/√(1 + w²), so that its interval is that of w on another scale.
	c := func(w float64) float64 { return w / math.Sqrt(1+w*w) }
	w := measure(CohensW, r.CohensW, func(w float64) float64 { return w }).called(wordForW(r.CohensW))
	return append(
		[]Effect{
			w,
			measure(CramersV, r.CramersV, func(w float64) float64 { return w / math.Sqrt(side) }),
			withoutInterval(CramersVCorrected, r.CramersVCorrected),
			measure(
				ContingencyC,
				r.Contingency,
				c,
			),
			measure(
				ContingencyCScaled,
				r.ContingencyScaled,
				func(w float64) float64 { return math.Min(1, c(w)*math.Sqrt((side+1)/side)) },
			),
		},
		nominalAssociation(counts, 1-r.Level)...)
}

// bergsma is Cramér's V with its bias removed (Bergsma 2013): φ² less its expectation
// under independence, over sides shortened alike. 0 where the correction would leave
// nothing, and for a table of one respondent.
func bergsma(phi2, n, rows, columns float64) float64 {
	if n <= 1 {
		return 0
	}
	phi2 = math.Max(0, phi2-(rows-1)*(columns-1)/(n-1))
	short := func(k float64) float64 { return k - (k-1)*(k-1)/(n-1) }
	if side := math.Min(short(rows), short(columns)) - 1; side > 0 {
		return math.Min(1, math.Sqrt(phi2/side))
	}
	return 0
}

// prepare checks a table, adds it up and drops empty rows and columns.
func (r *Independence) prepare(table [][]int64) ([][]int64, error) {
	fail := func(why Reason, row int) error { return &InputError{"independence", why, row} }
	if !(r.Level > 0 && r.Level < 1) {
		return nil, fail(LevelRange, -1)
	}
	if len(table) == 0 {
		return nil, fail(NoObservations, -1)
	}
	rowSums, columnSums := make([]int64, len(table)), make([]int64, len(table[0]))
	for i, row := range table {
		if len(row) != len(table[0]) {
			return nil, fail(RaggedTable, i)
		}
		for j, o := range row {
			switch {
			case o < 0:
				return nil, fail(NegativeCount, i)
			case o > MaxCount || r.N > MaxCount-o:
				return nil, fail(CountTooLarge, i)
			}
			rowSums[i], columnSums[j], r.N = rowSums[i]+o, columnSums[j]+o, r.N+o
		}
	}
	if r.N == 0 {
		return nil, fail(NoObservations, -1)
	}
	for j, c := range columnSums {
		if c > 0 {
			r.ColumnsUsed, r.ColumnTotals = append(r.ColumnsUsed, j), append(r.ColumnTotals, c)
		}
	}
	var kept [][]int64
	for i, sum := range rowSums {
		if sum == 0 {
			continue
		}
		r.RowsUsed, r.RowTotals = append(r.RowsUsed, i), append(r.RowTotals, sum)
		row := make([]int64, len(r.ColumnsUsed))
		for k, j := range r.ColumnsUsed {
			row[k] = table[i][j]
		}
		kept = append(kept, row)
	}
	if len(kept) < 2 || len(r.ColumnsUsed) < 2 {
		return nil, fail(OneRowOrColumn, -1)
	}
	return kept, nil
}

func (r *Independence) cell(o, row, column int64) Cell {
	n, ri, cj := float64(r.N), float64(row), float64(column)
	e := ri * cj / n
	d := crossDifference(o, r.N, row, column) / n
	c := Cell{
		Observed:      o,
		RowPercent:    100 * float64(o) / ri,
		ColumnPercent: 100 * float64(o) / cj,
		TotalPercent:  100 * float64(o) / n,
		Expected:      e,
		Difference:    d,
		Contribution:  d / e * d,
		Pearson:       d / math.Sqrt(e),
	}
	c.Adjusted = d / math.Sqrt(e*(float64(r.N-row)/n)*(float64(r.N-column)/n))
	c.AdjustedP = prob.NormalTwoSided(c.Adjusted)
	return c
}

// crossDifference returns a·b − c·d for non-negative integers, rounded only once.
func crossDifference(a, b, c, d int64) float64 {
	h1, l1 := bits.Mul64(uint64(a), uint64(b))
	h2, l2 := bits.Mul64(uint64(c), uint64(d))
	sign := 1.0
	if h1 < h2 || h1 == h2 && l1 < l2 {
		h1, l1, h2, l2, sign = h2, l2, h1, l1, -1
	}
	low, borrow := bits.Sub64(l1, l2, 0)
	high, _ := bits.Sub64(h1, h2, borrow)
	return sign * (float64(high)*(1<<64) + float64(low))
}
