// Package plan answers, before any data are there, how many respondents a question
// needs and what a given number of them can find.
package plan

import (
	"math"

	"widetally/core/infer"
	"widetally/core/prob"
)

// FourInFive is the power by which a smallest departure is stated where no other is
// asked for (Cohen 1988).
const FourInFive = 0.80

// maxN bounds every needed number of respondents.
const maxN = infer.MaxCount

func fail(why infer.Reason) error {
	return &infer.InputError{Method: "planning", Reason: why, Index: -1}
}

// The reasons of this package.
const (
	TwoOfThree     infer.Reason = "two_of_three"
	DepartureRange infer.Reason = "departure_range"
	PowerRange     infer.Reason = "power_range"
	PopulationSize infer.Reason = "population_size"
	SameShares     infer.Reason = "same_shares"
	NumberRange    infer.Reason = "number_range"
	DFRange        infer.Reason = "df_range"
)

// ChiSquareInput names exactly two of W, N and Power; the third is found.
type ChiSquareInput struct {
	W     *float64 // Cohen's w, above 0
	N     *int64
	Power *float64 // above Level, below 1
	DF    int
	Level float64
	Design
}

// ChiSquare is a plan for a chi-square test of goodness of fit or independence.
type ChiSquare struct {
	// DesignEffect is that of the design; 1 for a simple random sample.
	DesignEffect  float64
	W             float64
	N             int64
	Power         float64 // at N
	PowerAsked    *float64
	DF            int
	Level         float64
	CriticalValue float64
	Noncentrality float64 // N·W²/DesignEffect
	Type2Error    float64 // 1 − Power
	// PowerOneFewer is that of N − 1, set when N was asked for: it falls short.
	PowerOneFewer *float64
}

// ComputeChiSquare finds the third of w, n and power by the non-central chi-square
// distribution with noncentrality n·w², divided by the design effect (Cohen 1988, chapter 7). N is the smallest that
// reaches the power. It is an approximation, as the test itself is.
func ComputeChiSquare(in ChiSquareInput) (*ChiSquare, error) {
	r := &ChiSquare{DF: in.DF, Level: in.Level, PowerAsked: in.Power}
	switch {
	case !(in.Level > 0 && in.Level < 1):
		return nil, fail(infer.LevelRange)
	case in.DF < 1 || in.DF > 10_000:
		return nil, fail(DFRange)
	case in.W != nil && !(*in.W > 0 && *in.W < 1e6):
		return nil, fail(DepartureRange)
	case in.N != nil && (*in.N < 1 || *in.N > maxN):
		return nil, fail(NumberRange)
	case in.Power != nil && !(*in.Power > in.Level && *in.Power < 1):
		return nil, fail(PowerRange)
	}
	effect, err := in.effect()
	if err != nil {
		return nil, err
	}
	r.DesignEffect = effect
	df := float64(in.DF)
	r.CriticalValue = prob.ChiSquareUpperQuantile(in.Level, df)
	power := func(n int64) float64 { return infer.ChiSquarePower(r.W, float64(n)/effect, df, in.Level) }
	switch {
	case in.W != nil && in.N != nil && in.Power == nil:
		r.W, r.N = *in.W, *in.N
	case in.W != nil && in.Power != nil && in.N == nil:
		r.W = *in.W
		n := math.Ceil(effect * prob.NoncentralityForUpper(*in.Power, r.CriticalValue, df) / r.W / r.W)
		if !(n <= maxN) {
			return nil, fail(NumberRange)
		}
		r.N = max(1, int64(n))
		for power(r.N) < *in.Power { // the ceiling of a rounded number
			r.N++
		}
		for r.N > 1 && power(r.N-1) >= *in.Power {
			r.N--
		}
		if r.N > 1 {
			p := power(r.N - 1)
			r.PowerOneFewer = &p
		}
	case in.N != nil && in.Power != nil && in.W == nil:
		r.N = *in.N
		r.W = infer.DetectableW(float64(r.N)/effect, df, in.Level, *in.Power)
	default:
		return nil, fail(TwoOfThree)
	}
	r.Noncentrality = float64(r.N) / effect * r.W * r.W
	r.Power = power(r.N)
	r.Type2Error = prob.NoncentralChiSquareLower(r.CriticalValue, df, r.Noncentrality).Value
	return r, nil
}

// W is Cohen's w between expected and true shares: √Σ (q − p)²/p over answers with a
// positive expected share. Both add to 1 within 1e-9. An answer with expected share 0 and
// a true share above it has no w.
func W(expected, actual []float64) (float64, error) {
	if len(expected) != len(actual) || len(expected) < 2 {
		return 0, fail(infer.SharesLength)
	}
	var sumP, sumQ, w2 float64
	for i, p := range expected {
		q := actual[i]
		switch {
		case !(p >= 0 && q >= 0):
			return 0, &infer.InputError{Method: "planning", Reason: infer.NegativeShare, Index: i}
		case p == 0 && q > 0:
			return 0, &infer.InputError{Method: "planning", Reason: infer.ChosenButShareZero, Index: i}
		case p > 0:
			w2 += (q - p) / p * (q - p)
		}
		sumP, sumQ = sumP+p, sumQ+q
	}
	if math.Abs(sumP-1) > 1e-9 || math.Abs(sumQ-1) > 1e-9 {
		return 0, fail(infer.SharesSum)
	}
	return math.Sqrt(w2), nil
}

// WOfTable is Cohen's w of a table of joint shares against independence, with the
// degrees of freedom of the test.
func WOfTable(joint [][]float64) (w float64, df int, err error) {
	if len(joint) < 2 || len(joint[0]) < 2 {
		return 0, 0, fail(infer.OneRowOrColumn)
	}
	rows, columns := make([]float64, len(joint)), make([]float64, len(joint[0]))
	for i, row := range joint {
		if len(row) != len(columns) {
			return 0, 0, &infer.InputError{Method: "planning", Reason: infer.RaggedTable, Index: i}
		}
		for j, q := range row {
			if !(q >= 0) {
				return 0, 0, &infer.InputError{Method: "planning", Reason: infer.NegativeShare, Index: i}
			}
			rows[i], columns[j] = rows[i]+q, columns[j]+q
		}
	}
	var expected, actual []float64
	for i, row := range joint {
		for j, q := range row {
			expected, actual = append(expected, rows[i]*columns[j]), append(actual, q)
		}
	}
	w, err = W(expected, actual)
	return w, (len(rows) - 1) * (len(columns) - 1), err
}
