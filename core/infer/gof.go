package infer

import (
	"math"
	"math/big"

	"widetally/core/prob"
)

// LowExpected is the expected count below which a cell is called thin (Cochran
// 1954, Some methods for strengthening the common χ² tests).
const LowExpected = 5

// MaxCount is the largest count a test accepts, far beyond any survey and small
// enough that sums of counts stay exact.
const MaxCount = 10_000_000_000_000

// GoodnessOfFitInput asks whether observed counts are compatible with known shares.
type GoodnessOfFitInput struct {
	// Observed holds one count per answer, in any order, each 0 … MaxCount.
	Observed []int64
	// Shares holds the expected share of each answer as an exact fraction, in the
	// same order, adding to exactly 1. Use shares.Align to get there from what a
	// person typed.
	Shares []*big.Rat
	// Level is the significance level, between 0 and 1, both excluded.
	Level float64
	// Estimated is the number of parameters estimated from these same counts to get the
	// shares, usually 0; each takes one degree of freedom (Fisher 1924).
	Estimated int
}

// GoodnessOfFitRow is one answer's line of the working.
type GoodnessOfFitRow struct {
	Observed      int64
	ObservedShare float64 // unit share, 0–1
	Share         float64 // unit share expected
	Expected      float64 // n·share
	Difference    float64 // O − E, from exact arithmetic
	Contribution  float64 // (O − E)²/E
	Pearson       float64 // (O − E)/√E
	// Adjusted is (O − E)/√(E(1−share)), standard normal when the shares hold, also
	// called the standardised residual.
	Adjusted    float64
	AdjustedP   *prob.Prob // nil where left out
	HolmP       *prob.Prob // AdjustedP after Holm over all answers in the test
	Significant bool       // HolmP ≤ Level
	LeftOut     bool       // share 0 and nobody chose it: not part of the test
	Low         bool       // Expected < LowExpected
}

// GoodnessOfFit is the complete result of Pearson's test.
type GoodnessOfFit struct {
	N    int64
	Rows []GoodnessOfFitRow
	// Answers counts the answers in the test: those with a share above 0.
	Answers   int
	Estimated int
	DF        int

	Level         float64
	Statistic     float64 // X² = Σ (O − E)²/E
	P             prob.Prob
	CriticalValue float64
	Reject        bool // P ≤ Level, the same as Statistic ≥ CriticalValue
	G             float64
	GP            prob.Prob

	// CohensW is √(X²/n); LargestW is the value it would have if all respondents
	// gave the answer with the smallest share, √((1−p)/p).
	CohensW  float64
	LargestW float64

	SumExpected, SumDifference, SumShare float64
	LowExpectedCounts                        // of the answers in the test
	SmallestExpectedAt                   int // position in Rows
	FurthestAt                           int // position of the largest |Adjusted|
	// DetectableW is the w which a sample of this size finds at this level four
	// times in five (power 0.80, Cohen 1988).
	DetectableW float64

	// Effects are measures of size with intervals at confidence 1 − Level.
	Effects    []Effect
	Conditions []Condition
	Advice     Advice
	// NearlyEqual says that the largest share is at most NearlyEqualRatio times the
	// smallest, so that much smaller expected counts serve.
	NearlyEqual bool
}

// Where the shares are nearly equal the chi-square distribution serves from n =
// EqualSharesFewest on with n²/answers at least EqualSharesSpread and 3 answers or more,
// however small the expected counts (Koehler and Larntz 1980, An empirical investigation
// of goodness-of-fit statistics for sparse multinomials). What is nearly equal is our
// own convention.
const (
	EqualSharesFewest = 10
	EqualSharesSpread = 10
	NearlyEqualRatio  = 1.5
)

// ComputeGoodnessOfFit carries out Pearson's chi-square test of goodness of fit
// (Pearson 1900) with the likelihood-ratio statistic G² beside it.
//
//	E_i = n·p_i   X² = Σ (O_i − E_i)²/E_i   df = answers − 1 − estimated
//	G² = 2 Σ [O ln(O/E) − (O − E)]   w = √(X²/n)   r_i = (O_i − E_i)/√(E_i(1−p_i))
//
// The differences are formed in exact rational arithmetic, so they keep their
// digits for counts to MaxCount. An answer with share 0 that nobody chose is
// left out and the degrees of freedom follow. Errors, all *InputError: an answer
// with share 0 that somebody chose (the shares are contradicted outright and no
// p-value exists), no observations, fewer than two answers left, a count or
// share out of range, shares not adding to 1, a level outside (0, 1).
//
// It assumes that the n respondents are an independent random sample, each
// counted once, and that the shares are known without error. The chi-square
// distribution is an approximation; LowCells and SmallestExpected say how far to
// trust it.
func ComputeGoodnessOfFit(in GoodnessOfFitInput) (*GoodnessOfFit, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	r := &GoodnessOfFit{
		Level:              in.Level,
		Estimated:          in.Estimated,
		Rows:               make([]GoodnessOfFitRow, len(in.Observed)),
		SmallestExpectedAt: -1,
		FurthestAt:         -1,
	}
	for _, o := range in.Observed {
		r.N += o
	}
	smallestShare, largestShare := 1.0, 0.0
	var inTest []int
	var expected []float64
	var tails []prob.Prob
	for i, o := range in.Observed {
		row := gofRow(o, r.N, in.Shares[i])
		r.Rows[i] = row
		if row.LeftOut {
			continue
		}
		inTest = append(inTest, i)
		tails = append(tails, *row.AdjustedP)
		r.Statistic += row.Contribution
		r.G += 2 * prob.Deviance(float64(o), row.Expected, row.Difference)
		smallestShare, largestShare = math.Min(smallestShare, row.Share), math.Max(largestShare, row.Share)
		if r.SmallestExpectedAt < 0 || row.Expected < r.SmallestExpected {
			r.SmallestExpectedAt = i
		}
		r.Rows[i].Low = r.add(row.Expected)
		expected = append(expected, row.Expected)
		if r.FurthestAt < 0 || math.Abs(row.Adjusted) > math.Abs(r.Rows[r.FurthestAt].Adjusted) {
			r.FurthestAt = i
		}
	}
	r.Answers = len(inTest)
	if r.Answers < 2 {
		return nil, &InputError{"goodness of fit", OneAnswerAfterZeros, -1}
	}
	for k, p := range Holm(tails) {
		row := &r.Rows[inTest[k]]
		row.HolmP = &p
		row.Significant = p.AtMost(in.Level)
	}
	// The shares were checked to add to exactly 1.
	r.SumShare, r.SumExpected = 1, float64(r.N)
	r.SumDifference = sumOfDifferences(in.Observed, r.N, in.Shares)
	if r.DF = r.Answers - 1 - in.Estimated; r.DF < 1 {
		return nil, &InputError{"goodness of fit", NoDegreesOfFreedom, -1}
	}
	df := float64(r.DF)
	r.P = prob.ChiSquareUpper(r.Statistic, df)
	r.GP = prob.ChiSquareUpper(r.G, df)
	r.CriticalValue = prob.ChiSquareUpperQuantile(in.Level, df)
	r.Reject = r.P.AtMost(in.Level)
	r.CohensW = math.Sqrt(r.Statistic / float64(r.N))
	r.LargestW = math.Sqrt((1 - smallestShare) / smallestShare)
	r.DetectableW = DetectableW(float64(r.N), df, in.Level, 0.80)
	r.Effects = oneWayEffects(r.CohensW, r.LargestW, NoncentralW(r.Statistic, df, float64(r.N), 1-in.Level, r.LargestW), r.Answers)
	r.Conditions = r.LowExpectedCounts.conditions()
	r.Advice = r.advise(multinomialInReach(r.N, r.Answers), expected)
	for k, i := range r.Advice.Merge {
		r.Advice.Merge[k] = inTest[i]
	}
	if r.NearlyEqual = largestShare <= NearlyEqualRatio*smallestShare; r.NearlyEqual && r.LowCells > 0 && r.Answers > 2 {
		serves := atLeast(EqualSharesServe, float64(r.N)*float64(r.N)/float64(r.Answers), EqualSharesSpread)
		serves.Met = serves.Met && r.N >= EqualSharesFewest
		r.Conditions = append(r.Conditions, serves)
		if serves.Met {
			r.Advice = Advice{Use: ChiSquareAcceptable, Because: BecauseEqualShares}
		}
	}
	return r, nil
}

func (in GoodnessOfFitInput) check() error {
	fail := func(why Reason, at int) error { return &InputError{"goodness of fit", why, at} }
	if !(in.Level > 0 && in.Level < 1) {
		return fail(LevelRange, -1)
	}
	if len(in.Shares) != len(in.Observed) {
		return fail(SharesLength, -1)
	}
	if len(in.Observed) < 2 {
		return fail(OneAnswer, -1)
	}
	if in.Estimated < 0 {
		return fail(NoDegreesOfFreedom, -1)
	}
	var n int64
	sum := new(big.Rat)
	for i, o := range in.Observed {
		switch {
		case o < 0:
			return fail(NegativeCount, i)
		case o > MaxCount || n > MaxCount-o:
			return fail(CountTooLarge, i)
		case in.Shares[i] == nil || in.Shares[i].Sign() < 0:
			return fail(NegativeShare, i)
		}
		n += o
		sum.Add(sum, in.Shares[i])
	}
	if n == 0 {
		return fail(NoObservations, -1)
	}
	if sum.Cmp(big.NewRat(1, 1)) != 0 {
		return fail(SharesSum, -1)
	}
	for i, o := range in.Observed {
		if in.Shares[i].Sign() == 0 && o > 0 {
			return fail(ChosenButShareZero, i)
		}
	}
	return nil
}

func gofRow(observed, n int64, share *big.Rat) GoodnessOfFitRow {
	expected := new(big.Rat).Mul(new(big.Rat).SetInt64(n), share)
	difference := new(big.Rat).Sub(new(big.Rat).SetInt64(observed), expected)
	e, d, p := float(expected), float(difference), float(share)
	row := GoodnessOfFitRow{
		Observed: observed, ObservedShare: float64(observed) / float64(n), Share: p,
		Expected: e, Difference: d, LeftOut: share.Sign() == 0,
	}
	if row.LeftOut {
		return row
	}
	row.Contribution = d / e * d
	row.Pearson = d / math.Sqrt(e)
	// A share of 1 leaves no other answer in the test; that input is refused.
	if rest := new(big.Rat).Sub(big.NewRat(1, 1), share); rest.Sign() > 0 {
		row.Adjusted = d / math.Sqrt(e*float(rest))
	}
	twoSided := prob.NormalTwoSided(row.Adjusted)
	row.AdjustedP = &twoSided
	return row
}

func sumOfDifferences(observed []int64, n int64, shares []*big.Rat) float64 {
	sum := new(big.Rat)
	for i, o := range observed {
		e := new(big.Rat).Mul(new(big.Rat).SetInt64(n), shares[i])
		sum.Add(sum, e.Sub(new(big.Rat).SetInt64(o), e))
	}
	return float(sum)
}

func float(r *big.Rat) float64 {
	f, _ := r.Float64()
	return f
}
