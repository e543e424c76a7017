package infer

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"widetally/core/prob"
)

// PairedTwoByTwo is McNemar's comparison of the same people asked twice.
type PairedTwoByTwo struct {
	Table                [2][2]int64
	Changed10, Changed01 int64 // first yes then no, and first no then yes
	Statistic, Corrected float64
	P, CorrectedP        prob.Prob
	// Exact doubles the smaller binomial tail, at most 1. MidP takes the observed
	// outcome's probability off it, and half of it off 1 where as many changed one way as
	// the other (Fagerland, Lydersen and Laake 2013, The McNemar test for binary
	// matched-pairs data: mid-p and asymptotic are better than exact conditional).
	Exact, MidP     prob.Prob
	ExactConvention string // DoubledTail
	Conditions      []Condition
}

// DoubledTail names the two-sided convention of McNemar's exact test.
const DoubledTail = "twice_the_smaller_tail"

// ComputePaired compares two answers of the same people (McNemar 1947):
// X² = (b − c)²/(b + c) with 1 degree of freedom; corrected (max(|b−c|−1, 0))²/(b + c).
// Only those who changed count; with nobody changed it is an *InputError.
func ComputePaired(table [2][2]int64) (*PairedTwoByTwo, error) {
	square := [][]int64{table[0][:], table[1][:]}
	if err := checkSquare("paired answers", square); err != nil {
		return nil, err
	}
	b, c := table[0][1], table[1][0]
	n := b + c
	if n == 0 {
		return nil, &InputError{"paired answers", NobodyChanged, -1}
	}
	apart := math.Abs(float64(b - c))
	reduced := math.Max(apart-1, 0)
	r := &PairedTwoByTwo{
		Table:           table,
		Changed10:       b,
		Changed01:       c,
		Statistic:       apart * apart / float64(n),
		Corrected:       reduced * reduced / float64(n),
		ExactConvention: DoubledTail,
		Conditions:      []Condition{atLeast(ChangedAtLeast, float64(n), 25)},
	}
	r.P, r.CorrectedP = prob.ChiSquareUpper(r.Statistic, 1), prob.ChiSquareUpper(r.Corrected, 1)
	tail := prob.BinomialLower(min(b, c), n, 0.5)
	r.Exact = tail.Times(2)
	own := prob.LnBinomial(min(b, c), n, 0.5)
	if b == c {
		r.MidP = prob.FromLog(math.Log1p(-math.Exp(own) / 2))
		return r, nil
	}
	// 2·tail − own, on the scale of the tail.
	ln := tail.Log10 * math.Ln10
	r.MidP = prob.FromLog(ln + math.Log(2-math.Exp(own-ln)))
	return r, nil
}

// checkSquare refuses what is not a square table of counts with somebody in it.
func checkSquare(method string, table [][]int64) error {
	if len(table) < 2 {
		return &InputError{method, NotSquare, -1}
	}
	var n int64
	for i, row := range table {
		if len(row) != len(table) {
			return &InputError{method, NotSquare, i}
		}
		for _, o := range row {
			switch {
			case o < 0:
				return &InputError{method, NegativeCount, i}
			case o > MaxCount || n > MaxCount-o:
				return &InputError{method, CountTooLarge, i}
			}
			n += o
		}
	}
	if n == 0 {
		return &InputError{method, NoObservations, -1}
	}
	return nil
}

// Agreement is what a square table says of the same people asked twice, or of two
// people judging the same things: rows and columns are the same answers in the same
// order.
type Agreement struct {
	Table      [][]int64
	N          int64
	Confidence float64
	// Symmetry asks whether as many go from one answer to another as come back (Bowker
	// 1948, A test for symmetry in contingency tables): Σ (n_ij − n_ji)²/(n_ij + n_ji)
	// over the pairs with a positive sum, which are the degrees of freedom. Nil when
	// nobody changed.
	Symmetry *ChiSquareTest
	// Margins asks whether the shares of the answers stayed (Stuart 1955, A test for
	// homogeneity of the marginal distributions in a two-way classification; Maxwell
	// 1970). Answers that nobody changed to or from take no part. Nil when nobody
	// changed, or WhyNoMargins.
	Margins      *ChiSquareTest
	WhyNoMargins Reason
	// McNemar is set for two answers.
	McNemar *PairedTwoByTwo
	// Kappa without weights, and for ordered answers with linear and quadratic ones.
	Kappa, KappaLinear, KappaQuadratic *Kappa
	WhyNoKappa                         Reason
}

// ChiSquareTest is a statistic with its reference distribution.
type ChiSquareTest struct {
	Statistic float64
	DF        int
	P         prob.Prob
}

func newChiSquareTest(statistic float64, df int) *ChiSquareTest {
	return &ChiSquareTest{statistic, df, prob.ChiSquareUpper(statistic, float64(df))}
}

// ComputeAgreement gives the methods for paired answers. Errors are *InputError: a table
// that is not square, a negative or too large count, nobody counted, a confidence
// outside (0, 1).
func ComputeAgreement(table [][]int64, confidence float64) (*Agreement, error) {
	if err := checkSquare("agreement", table); err != nil {
		return nil, err
	}
	if !(confidence > 0 && confidence < 1) {
		return nil, &InputError{"agreement", LevelRange, -1}
	}
	r := &Agreement{Table: table, Confidence: confidence}
	for _, row := range table {
		for _, o := range row {
			r.N += o
		}
	}
	r.symmetry(table)
	r.margins(table)
	if len(table) == 2 {
		r.McNemar, _ = ComputePaired([2][2]int64{{table[0][0], table[0][1]}, {table[1][0], table[1][1]}})
	}
	k := float64(len(table) - 1)
	steps := func(i, j int) float64 { return math.Abs(float64(i-j)) / k }
	weights := []func(i, j int) float64{
		func(i, j int) float64 {
			if i == j {
				return 1
			}
			return 0
		},
		func(i, j int) float64 { return 1 - steps(i, j) },
		func(i, j int) float64 { return 1 - steps(i, j)*steps(i, j) },
	}
	for w, to := range []**Kappa{&r.Kappa, &r.KappaLinear, &r.KappaQuadratic} {
		if *to = kappa(table, weights[w], confidence); *to == nil {
			r.WhyNoKappa = Perfect
		}
	}
	return r, nil
}

func (r *Agreement) symmetry(table [][]int64) {
	statistic, df := 0.0, 0
	for i := range table {
		for j := range i {
			if there, back := table[i][j], table[j][i]; there+back > 0 {
				d := float64(there - back)
				statistic += d / float64(there+back) * d
				df++
			}
		}
	}
	if df > 0 {
		r.Symmetry = newChiSquareTest(statistic, df)
	}
}

// margins is d'S⁻¹d with d the differences of the row and column totals, one answer left
// out, and S their covariances when the shares stayed.
func (r *Agreement) margins(table [][]int64) {
	var used []int
	for i := range table {
		for j := range table {
			if i != j && table[i][j]+table[j][i] > 0 {
				used = append(used, i)
				break
			}
		}
	}
	if len(used) < 2 {
		r.WhyNoMargins = NobodyChanged
		return
	}
	k := len(used) - 1
	s, d := mat.NewSymDense(k, nil), mat.NewVecDense(k, nil)
	for a, i := range used[:k] {
		sum, moved := 0.0, 0.0
		for _, j := range used {
			if i != j {
				sum += float64(table[i][j] - table[j][i])
				moved += float64(table[i][j] + table[j][i])
			}
		}
		d.SetVec(a, sum)
		s.SetSym(a, a, moved)
		for b, j := range used[:a] {
			s.SetSym(a, b, -float64(table[i][j]+table[j][i]))
		}
	}
	var c mat.Cholesky
	var x mat.VecDense
	if !c.Factorize(s) || c.SolveVecTo(&x, d) != nil {
		// Answers that exchange with none of the others fall apart into groups.
		r.WhyNoMargins = NoVariation
		return
	}
	r.Margins = newChiSquareTest(math.Max(0, mat.Dot(d, &x)), k)
}

// Kappa is agreement beyond chance (Cohen 1960, 1968) with the standard errors of
// Fleiss, Cohen and Everitt (1969).
type Kappa struct {
	Observed, Expected float64 // agreement, weighted
	Value              float64
	StandardError      float64
	// StandardErrorNull holds when there is no agreement beyond chance; Z uses it.
	StandardErrorNull float64
	Z                 *float64
	P                 *prob.Prob // two-sided
	Interval          *Interval  // Value ± z·StandardError, cut to −1 … 1; nil at the edge
}

// kappa returns nil when chance alone makes everybody agree.
func kappa(table [][]int64, weight func(i, j int) float64, confidence float64) *Kappa {
	rows, columns, n := margins(table)
	k := len(table)
	byRow, byColumn := make([]float64, k), make([]float64, k) // mean weights
	var r Kappa
	for i := range table {
		for j := range table {
			w := weight(i, j)
			byRow[i] += columns[j] / n * w
			byColumn[j] += rows[i] / n * w
			r.Observed += float64(table[i][j]) / n * w
			r.Expected += rows[i] / n * (columns[j] / n) * w
		}
	}
	rest := 1 - r.Expected
	if rest < 1e-14 {
		return nil
	}
	r.Value = (r.Observed - r.Expected) / rest
	var spread, spreadNull float64
	for i := range table {
		for j := range table {
			w, mean := weight(i, j), byRow[i]+byColumn[j]
			t := w*rest - mean*(1-r.Observed)
			spread += float64(table[i][j]) / n * t * t
			spreadNull += rows[i] / n * (columns[j] / n) * (w - mean) * (w - mean)
		}
	}
	c := r.Observed*r.Expected - 2*r.Expected + r.Observed
	r.StandardError = math.Sqrt(math.Max(0, spread-c*c)/n) / rest / rest
	r.StandardErrorNull = math.Sqrt(math.Max(0, spreadNull-r.Expected*r.Expected)/n) / rest
	if r.StandardErrorNull > 0 {
		z := r.Value / r.StandardErrorNull
		p := prob.NormalTwoSided(z)
		r.Z, r.P = &z, &p
	}
	if r.StandardError > 1e-9 && r.Value < 1 {
		half := prob.NormalUpperQuantile((1-confidence)/2) * r.StandardError
		r.Interval = &Interval{math.Max(-1, r.Value-half), math.Min(1, r.Value+half)}
	}
	return &r
}
