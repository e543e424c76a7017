package infer

import (
	"math"

	"widetally/core/prob"
)

// OrderedInput is a table whose columns, and for the linear trend and the measures whose
// rows too, have an order: the first answer lowest.
type OrderedInput struct {
	Table [][]int64
	// RowScores and ColumnScores place the rows and columns on a line; nil means
	// 1, 2, 3, …
	RowScores, ColumnScores []float64
	// Level is the significance level; intervals are at 1 − Level.
	Level float64
}

// Ordered is the complete result for ordered answers.
type Ordered struct {
	N                       int64
	Level                   float64
	Table                   [][]int64 // as used: empty rows and columns are left out
	RowsUsed, ColumnsUsed   []int
	RowScores, ColumnScores []float64
	Trend                   *LinearTrend // nil when WhyNoTrend says so
	WhyNoTrend              Reason
	// Proportions is the trend of the share of the second of two groups, nil unless
	// there are two rows or two columns.
	Proportions *ProportionTrend
	// Concordant and Discordant count the pairs of respondents in the same and in
	// opposite order on both questions.
	Concordant, Discordant float64
	// Effects are gamma, tau-b, tau-c and Somers' d in both directions and symmetric.
	Effects []Effect
	// Ranks compares the rows as groups, by the order of the columns.
	Ranks *Ranks
}

// LinearTrend is the test of linear-by-linear association: M² = (n − 1)r², 1 degree of
// freedom, r the correlation of the scores (Mantel 1963, Chi-square tests with one degree
// of freedom).
type LinearTrend struct {
	Correlation float64
	Statistic   float64
	DF          int
	P           prob.Prob
	Reject      bool
}

// ProportionTrend is the Cochran–Armitage test (Cochran 1954; Armitage 1955, Tests for
// linear trends in proportions and frequencies): Z > 0 when the second group's share
// rises with the score.
type ProportionTrend struct {
	Z         float64
	Statistic float64 // Z²
	Tails     Tails   // Greater: the share of the second group rises
	Reject    bool    // two-sided
	Groups    Side    // which side of the table holds the two groups
}

// Side tells rows from columns.
type Side string

// The sides of a table.
const (
	Rows    Side = "rows"
	Columns Side = "columns"
)

// ComputeOrdered gives the methods that use the order of the answers.
//
// The measures count pairs (Goodman and Kruskal 1954, gamma; Kendall 1945, tau-b; Stuart
// 1953, tau-c; Somers 1962, d), with intervals by the delta method (Goodman and Kruskal
// 1963; Brown and Benedetti 1977). Errors, all *InputError: those of
// ComputeIndependence, scores of another length than the side, not finite, or in a row
// all equal where a trend is asked for.
func ComputeOrdered(in OrderedInput) (*Ordered, error) {
	base := &Independence{Level: in.Level}
	counts, err := base.prepare(in.Table)
	if err != nil {
		return nil, err
	}
	r := &Ordered{N: base.N, Level: in.Level, Table: counts, RowsUsed: base.RowsUsed, ColumnsUsed: base.ColumnsUsed}
	if r.RowScores, err = scores(in.RowScores, len(in.Table), base.RowsUsed); err != nil {
		return nil, err
	}
	if r.ColumnScores, err = scores(in.ColumnScores, len(in.Table[0]), base.ColumnsUsed); err != nil {
		return nil, err
	}
	rows, columns, n := margins(counts)
	r.trend(counts, rows, columns, n)
	r.pairs(counts, rows, columns, n)
	r.Ranks = ranks(counts, rows, columns, n, in.Level)
	if len(rows) == 2 {
		r.Ranks.Pair.Superiority = superiority(r.Effects)
	}
	return r, nil
}

// scores are those given, or 1, 2, 3, … where none are.
func scores(given []float64, length int, used []int) ([]float64, error) {
	if len(given) > 0 && len(given) != length {
		return nil, &InputError{"ordered answers", ScoresLength, -1}
	}
	out := make([]float64, len(used))
	for k, i := range used {
		out[k] = float64(i + 1)
		if len(given) > 0 {
			out[k] = given[i]
		}
		if math.IsNaN(out[k]) || math.Abs(out[k]) > 1e100 {
			return nil, &InputError{"ordered answers", ScoresNotFinite, i}
		}
	}
	return out, nil
}

func (r *Ordered) trend(counts [][]int64, rows, columns []float64, n float64) {
	// The correlation does not change when scores are moved and stretched, so they are
	// measured from the first one, in units of the largest step, before anything is
	// multiplied: neither a large offset nor very small steps take digits.
	centre := func(scores, totals []float64) (away []float64, squares float64) {
		unit, mean := 0.0, 0.0
		for _, s := range scores {
			unit = math.Max(unit, math.Abs(s-scores[0]))
		}
		if unit == 0 {
			return nil, 0
		}
		for i, s := range scores {
			away = append(away, (s-scores[0])/unit)
			mean += away[i] * totals[i] / n
		}
		for i := range away {
			away[i] -= mean
			squares += totals[i] * away[i] * away[i]
		}
		return
	}
	u, uu := centre(r.RowScores, rows)
	v, vv := centre(r.ColumnScores, columns)
	if !(uu > 0) || !(vv > 0) {
		r.WhyNoTrend = ScoresEqual
		return
	}
	uv, cells := 0.0, 0.0
	for i, row := range counts {
		for j, o := range row {
			uv += float64(o) * u[i] * v[j]
			cells++
		}
	}
	// The sum of the absolute terms is at most √uu·√vv (Cauchy and Schwarz), so that what lies
	// below a rounding of each term is no association but the rounding itself.
	if math.Abs(uv) <= 4*cells*0x1p-52*math.Sqrt(uu)*math.Sqrt(vv) {
		uv = 0
	}
	c := math.Max(-1, math.Min(1, uv/math.Sqrt(uu)/math.Sqrt(vv)))
	t := &LinearTrend{Correlation: c, Statistic: (n - 1) * c * c, DF: 1}
	t.P = prob.ChiSquareUpper(t.Statistic, 1)
	t.Reject = t.P.AtMost(r.Level)
	r.Trend = t
	if len(rows) != 2 && len(columns) != 2 {
		return
	}
	p := &ProportionTrend{Groups: Rows}
	second := r.RowScores[1] - r.RowScores[0]
	if len(rows) != 2 {
		p.Groups, second = Columns, r.ColumnScores[1]-r.ColumnScores[0]
	}
	p.Z = math.Sqrt(n) * c * math.Copysign(1, second)
	p.Statistic, p.Tails = p.Z*p.Z, normalTails(p.Z)
	p.Reject = p.Tails.TwoSided.AtMost(r.Level)
	r.Proportions = p
}

// pairs counts concordant and discordant pairs and gives the measures made of them.
func (r *Ordered) pairs(counts [][]int64, rows, columns []float64, n float64) {
	like, opposite := around(counts)
	p, q := 0.0, 0.0 // each pair counted from both its ends
	for i, row := range counts {
		for j, o := range row {
			p, q = p+float64(o)*like[i][j], q+float64(o)*opposite[i][j]
		}
	}
	r.Concordant, r.Discordant = p/2, q/2
	untied := func(totals []float64) float64 {
		d := n * n
		for _, t := range totals {
			d -= t * t
		}
		return d
	}
	dr, dc := untied(rows), untied(columns)
	net := func(i, j int) float64 { return 2 * (like[i][j] - opposite[i][j]) }
	byRow := func(i, _ int) float64 { return 2 * (n - rows[i]) }
	byColumn := func(_, j int) float64 { return 2 * (n - columns[j]) }
	side := float64(min(len(rows), len(columns)))
	both := func(f, g func(i, j int) float64, a, b float64) func(i, j int) float64 {
		return func(i, j int) float64 { return a*f(i, j) + b*g(i, j) }
	}
	root := math.Sqrt(dr) * math.Sqrt(dc)
	for _, m := range []struct {
		name EffectName
		ratio
	}{
		{Gamma, ratio{p - q, p + q, net, func(i, j int) float64 { return 2 * (like[i][j] + opposite[i][j]) }}},
		{TauB, ratio{p - q, root, net, both(byRow, byColumn, root/dr/2, root/dc/2)}},
		{TauC, ratio{p - q, n * n * (side - 1) / side, net, func(_, _ int) float64 { return 2 * n * (side - 1) / side }}},
		{SomersColumns, ratio{p - q, dr, net, byRow}},
		{SomersRows, ratio{p - q, dc, net, byColumn}},
		{SomersSymmetric, ratio{p - q, (dr + dc) / 2, net, both(byRow, byColumn, 0.5, 0.5)}},
	} {
		r.Effects = append(r.Effects, m.effect(m.name, counts, 1-r.Level, -1))
	}
}

// around gives for each cell how many respondents stand lower on both questions or
// higher on both, and how many lower on one and higher on the other.
func around(counts [][]int64) (like, opposite [][]float64) {
	r, c := len(counts), len(counts[0])
	// upTo[i][j] is the total of the cells above and left of (i, j), both excluded.
	upTo := make([][]float64, r+1)
	upTo[0] = make([]float64, c+1)
	for i, row := range counts {
		upTo[i+1] = make([]float64, c+1)
		line := 0.0
		for j, o := range row {
			line += float64(o)
			upTo[i+1][j+1] = upTo[i][j+1] + line
		}
	}
	block := func(i0, i1, j0, j1 int) float64 { return upTo[i1][j1] - upTo[i0][j1] - upTo[i1][j0] + upTo[i0][j0] }
	like, opposite = make([][]float64, r), make([][]float64, r)
	for i := range counts {
		for j := range counts[i] {
			like[i] = append(like[i], block(0, i, 0, j)+block(i+1, r, j+1, c))
			opposite[i] = append(opposite[i], block(0, i, j+1, c)+block(i+1, r, 0, j))
		}
	}
	return
}
