package infer

import (
	"math"

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
	// Nil when more than FisherReach tables share the margins.
	Fisher *Tails
	Phi    float64 // signed, (ad − bc)/√(r1·r2·c1·c2)
	Shares *TwoProportions
	// OddsRatioInterval is Woolf's (1955), RelativeRiskInterval Katz's (1978), both
	// from logarithms; nil when a cell that they need is 0.
	OddsRatioInterval, RelativeRiskInterval *Interval
}

// FisherReach bounds the number of tables that the exact test walks through; larger
// ones are far beyond any need of it.
const FisherReach = 2_000_000

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
	t := &TwoByTwo{Table: table, Shares: shares}
	if min(a+b, c+d, a+c, b+d) <= FisherReach {
		exact := fisher(a, b, c, d)
		t.Fisher = &exact
	}
	for _, row := range full.Cells {
		for _, cell := range row {
			reduced := math.Abs(cell.Difference) - math.Min(0.5, math.Abs(cell.Difference))
			t.Yates += reduced * reduced / cell.Expected
		}
	}
	t.YatesP = prob.ChiSquareUpper(t.Yates, 1)
	t.Phi = math.Copysign(full.CohensW, full.Cells[0][0].Difference)
	z := prob.NormalUpperQuantile((1 - confidence) / 2)
	inverse := func(n int64) float64 { return 1 / float64(n) }
	if a > 0 && b > 0 && c > 0 && d > 0 {
		t.OddsRatioInterval = logInterval(*shares.OddsRatio, z*math.Sqrt(inverse(a)+inverse(b)+inverse(c)+inverse(d)))
	}
	if a > 0 && c > 0 {
		t.RelativeRiskInterval = logInterval(*shares.RelativeRisk, z*math.Sqrt(inverse(a)-inverse(a+b)+inverse(c)-inverse(c+d)))
	}
	return t, nil
}

func logInterval(estimate, half float64) *Interval {
	return &Interval{estimate * math.Exp(-half), estimate * math.Exp(half)}
}

// fisher adds up hypergeometric probabilities of the first cell. Terms follow from
// their neighbour by the ratio of the probabilities, starting at the observed table,
// in which scale the observed one is 1; the sums are divided by the sum of all. Its
// cost is the range of the first cell.
func fisher(a, b, c, d int64) Tails {
	up := func(a, b, c, d int64) float64 { // P(a+1)/P(a)
		return float64(b) / float64(a+1) * (float64(c) / float64(d+1))
	}
	const limit = 1 + 1e-7
	var below, above, twoSided logSum
	observed := logSum{ln: 0, any: true}
	twoSided.add(0)
	ln := 0.0
	for i, j, k, l := a, b, c, d; j > 0 && k > 0; i, j, k, l = i+1, j-1, k-1, l+1 {
		ln += math.Log(up(i, j, k, l))
		above.add(ln)
		if ln <= math.Log(limit) {
			twoSided.add(ln)
		}
	}
	ln = 0
	for i, j, k, l := a, b, c, d; i > 0 && l > 0; i, j, k, l = i-1, j+1, k+1, l-1 {
		ln -= math.Log(up(i-1, j+1, k+1, l-1))
		below.add(ln)
		if ln <= math.Log(limit) {
			twoSided.add(ln)
		}
	}
	total := observed.plus(below).plus(above)
	return Tails{Less: observed.plus(below).over(total), Greater: observed.plus(above).over(total), TwoSided: twoSided.over(total)}
}

// logSum adds numbers given by their logarithms.
type logSum struct {
	ln  float64
	any bool
}

func (s *logSum) add(ln float64) {
	if !s.any {
		s.ln, s.any = ln, true
		return
	}
	hi, lo := math.Max(s.ln, ln), math.Min(s.ln, ln)
	s.ln = hi + math.Log1p(math.Exp(lo-hi))
}

func (s logSum) plus(o logSum) logSum {
	if o.any {
		s.add(o.ln)
	}
	return s
}

func (s logSum) over(total logSum) prob.Prob {
	ln := math.Min(0, s.ln-total.ln)
	return prob.Prob{Value: math.Exp(ln), Log10: ln / math.Ln10}
}

// PairedTwoByTwo is McNemar's comparison of the same people asked twice.
type PairedTwoByTwo struct {
	Changed10, Changed01 int64 // first yes then no, and first no then yes
	Statistic, Corrected float64
	P, CorrectedP        prob.Prob
	// Exact doubles the smaller binomial tail, at most 1; MidP takes half of the
	// observed outcome's probability (Fagerland, Lydersen and Laake 2013).
	Exact, MidP prob.Prob
}

// ComputePaired compares two answers of the same people (McNemar 1947):
// X² = (b − c)²/(b + c) with 1 degree of freedom; corrected (max(|b−c|−1, 0))²/(b + c).
// Only those who changed count; with nobody changed it is an *InputError.
func ComputePaired(table [2][2]int64) (*PairedTwoByTwo, error) {
	for i, row := range table {
		if row[0] < 0 || row[1] < 0 {
			return nil, &InputError{"paired answers", NegativeCount, i}
		}
		if row[0] > MaxCount || row[1] > MaxCount {
			return nil, &InputError{"paired answers", CountTooLarge, i}
		}
	}
	b, c := table[0][1], table[1][0]
	n := b + c
	if n == 0 {
		return nil, &InputError{"paired answers", NoObservations, -1}
	}
	apart := math.Abs(float64(b - c))
	reduced := math.Max(apart-1, 0)
	r := &PairedTwoByTwo{Changed10: b, Changed01: c, Statistic: apart * apart / float64(n), Corrected: reduced * reduced / float64(n)}
	r.P, r.CorrectedP = prob.ChiSquareUpper(r.Statistic, 1), prob.ChiSquareUpper(r.Corrected, 1)
	tail := prob.BinomialLower(min(b, c), n, 0.5)
	r.Exact = tail.Times(2)
	if b == c {
		r.MidP = prob.Prob{Value: 1}
		return r, nil
	}
	own := prob.LnBinomial(min(b, c), n, 0.5)
	// 2·tail − own, on the scale of the tail.
	ln := tail.Log10*math.Ln10 + math.Log(2-math.Exp(own-tail.Log10*math.Ln10))
	r.MidP = prob.Prob{Value: math.Exp(ln), Log10: ln / math.Ln10}
	return r, nil
}
