package printed

import (
	"math"
	"math/big"

	"widetally/core/infer"
	"widetally/core/prob"
)

// Kind is the kind of statistic.
type Kind string

// The kinds.
const (
	ChiSquare Kind = "chi_square"
	Z         Kind = "z"
	T         Kind = "t"
)

// Input is a result as it was printed. Statistic and P are needed, the rest where it was
// printed.
type Input struct {
	Kind      Kind
	Statistic string
	DF        *float64
	P         string
	// Sided is how many sides the p-value is said to have, for z and t: 2 (also where
	// 0) or 1.
	Sided int
	N     *int64
	Level float64 // 0 means 0.05
	// Observed and Shares are the counts of one question and its expected shares (nil
	// for equal ones); Table those of two. At most one of the two is given.
	Observed []int64
	Shares   []*big.Rat
	Table    [][]int64
	// Effect is a size as it was printed, "" for none, EffectName what it was called.
	Effect     string
	EffectName EffectName
}

// Result is the verdict.
type Result struct {
	Statistic, P Figure
	// Holds: all figures can be true together as printed.
	Holds  bool
	Checks []Check
	// PFrom and PTo are the p-values that the printed statistic can have, given its
	// rounding.
	PFrom, PTo prob.Prob
	// Slips are the known slips that make the figures fit, the likeliest first; empty
	// when none explains it. PrintedAsZero may stand beside figures that hold: p rounds
	// to 0, but it is not 0.
	Slips []Slip
	// DecisionChanges: the printed p and the p that belongs to the statistic lie on
	// different sides of the level.
	DecisionChanges bool
	// Fitted is what the counts give, where counts were printed.
	Fitted *Fitted
}

// Fitted is the result computed from the printed counts.
type Fitted struct {
	N         int64
	DF        int
	Statistic float64
	P         prob.Prob
}

// Check is one comparison.
type Check struct {
	Name  CheckName
	Holds bool
	// Range is what the printed figure should be, as far as rounding leaves room; an end
	// may be infinite.
	Range infer.Interval
}

// CheckName names a comparison.
type CheckName string

// The checks.
const (
	PIsProbability     CheckName = "p_is_a_probability"
	StatisticPossible  CheckName = "statistic_is_possible"
	PFitsStatistic     CheckName = "p_fits_statistic"
	DFFitsCounts       CheckName = "df_fits_counts"
	NFitsCounts        CheckName = "n_fits_counts"
	StatisticFitsTable CheckName = "statistic_fits_counts"
)

// Slip is a known slip with the figure it leads to.
type Slip struct {
	Name SlipName
	// Of is the figure that the slip explains.
	Of CheckName
	// Value is what the slip gives, or the degrees of freedom for WrongDF.
	Value float64
}

// SlipName names a slip.
type SlipName string

// The slips of a p-value.
const (
	StatisticAsP    SlipName = "statistic_read_as_p"
	LowerTail       SlipName = "other_tail"
	Halved          SlipName = "halved"
	Doubled         SlipName = "doubled"
	WrongDF         SlipName = "other_degrees_of_freedom"
	RowsTimesCols   SlipName = "df_of_cells"
	ZNotSquared     SlipName = "statistic_is_z_not_squared"
	SquaredAsZ      SlipName = "statistic_is_z_squared"
	NormalForT      SlipName = "normal_for_t"
	DensityForTail  SlipName = "density_for_tail"
	CutNotRounded   SlipName = "cut_not_rounded"
	PrintedAsZero   SlipName = "printed_as_zero"
	PercentWithoutP SlipName = "percent_for_share"
)

// The slips of a statistic.
const (
	OnPercents       SlipName = "computed_on_percents"
	OnShares         SlipName = "computed_on_shares"
	YatesCorrected   SlipName = "yates_correction"
	LikelihoodRatio  SlipName = "likelihood_ratio"
	OverObserved     SlipName = "divided_by_observed"
	EqualShares      SlipName = "equal_shares_assumed"
	RootOfStatistic  SlipName = "square_root_of_statistic"
	RoundedExpected  SlipName = "expected_counts_rounded"
	StatisticCut     SlipName = "statistic_cut_not_rounded"
	NotDivided       SlipName = "not_divided_by_expected"
	NotSquaredEither SlipName = "differences_not_squared"
)

// The reasons for which a printed result cannot be read.
const (
	UnknownKind    infer.Reason = "unknown_kind"
	StatisticText  infer.Reason = "statistic_text"
	PText          infer.Reason = "p_text"
	DFNeeded       infer.Reason = "df_needed"
	SidesRange     infer.Reason = "sides_range"
	TwoKindsCounts infer.Reason = "two_kinds_of_counts"
	CountsForT     infer.Reason = "counts_for_t"
)

// Compute checks a printed result. A figure holds when some value that rounds to it
// agrees with some value of the others. Errors, all *infer.InputError: texts that are no
// numbers, an unknown kind, degrees of freedom missing for chi-square or t where no counts
// give them, counts that no test can be made of.
func Compute(in Input) (*Result, error) {
	fail := func(why infer.Reason) error {
		return &infer.InputError{Method: "printed result", Reason: why, Index: -1}
	}
	r := &Result{}
	var ok bool
	if r.Statistic, ok = ReadFigure(in.Statistic); !ok || r.Statistic.Relation != Equal {
		return nil, fail(StatisticText)
	}
	if r.P, ok = ReadFigure(in.P); !ok {
		return nil, fail(PText)
	}
	switch {
	case in.Kind != ChiSquare && in.Kind != Z && in.Kind != T:
		return nil, fail(UnknownKind)
	case in.Kind == T && (in.Observed != nil || in.Table != nil):
		return nil, fail(CountsForT)
	case in.Sided < 0 || in.Sided > 2:
		return nil, fail(SidesRange)
	case in.Level == 0:
		in.Level = 0.05
	case !(in.Level > 0 && in.Level < 1):
		return nil, fail(infer.LevelRange)
	}
	if in.DF != nil && !(*in.DF > 0 && *in.DF <= 1e9) {
		return nil, fail(infer.NoDegreesOfFreedom)
	}
	counts, err := readCounts(in)
	if err != nil {
		return nil, err
	}
	if in.DF == nil && counts != nil {
		df := float64(counts.fitted.DF)
		in.DF = &df
	}
	if in.DF == nil && in.Kind != Z {
		return nil, fail(DFNeeded)
	}
	r.compareP(in)
	if counts != nil {
		r.compareCounts(in, counts)
	}
	if in.Effect != "" {
		if err := r.compareEffect(in, counts); err != nil {
			return nil, err
		}
	}
	r.Holds = true
	for _, c := range r.Checks {
		r.Holds = r.Holds && c.Holds
	}
	return r, nil
}

func (r *Result) check(name CheckName, holds bool, from, to float64) bool {
	r.Checks = append(r.Checks, Check{name, holds, infer.Interval{Lower: from, Upper: to}})
	return holds
}

// tail is the p-value of a statistic of this kind.
func (in Input) tail(x float64) prob.Prob {
	switch in.Kind {
	case ChiSquare:
		return prob.ChiSquareUpper(x, *in.DF)
	case T:
		if in.Sided == 1 {
			return prob.StudentUpper(math.Abs(x), *in.DF)
		}
		return prob.StudentTwoSided(x, *in.DF)
	}
	if in.Sided == 1 {
		return prob.NormalUpper(math.Abs(x))
	}
	return prob.NormalTwoSided(x)
}

// span is the p-values that a figure's roundings have under f, which falls with |x|.
func span(figure Figure, f func(x float64) prob.Prob) (from, to prob.Prob) {
	near, far := figure.Range.Lower, figure.Range.Upper
	if figure.Value < 0 {
		near, far = -figure.Range.Upper, -figure.Range.Lower
	}
	return f(far), f(math.Max(0, near))
}

func (r *Result) compareP(in Input) {
	r.check(
		PIsProbability,
		r.P.Range.Upper >= 0 && (r.P.Relation != Equal || r.P.Value >= 0 && r.P.Value <= 1) && r.P.Range.Lower <= 1,
		0,
		1,
	)
	r.check(StatisticPossible, in.Kind != ChiSquare || r.Statistic.Value >= 0, 0, math.Inf(1))
	r.PFrom, r.PTo = span(r.Statistic, in.tail)
	fits := func(f func(x float64) prob.Prob) bool {
		from, to := span(r.Statistic, f)
		return r.P.meets(from.Value, to.Value)
	}
	zero := r.P.Relation == Equal && r.P.Value == 0
	if zero && fits(in.tail) { // true as rounded, but it reads as impossible
		r.Slips = append(r.Slips, Slip{PrintedAsZero, PFitsStatistic, in.tail(math.Abs(r.Statistic.Value)).Value})
	}
	if r.check(PFitsStatistic, fits(in.tail), r.PFrom.Value, r.PTo.Value) {
		return
	}
	exact := in.tail(math.Abs(r.Statistic.Value))
	r.DecisionChanges = exact.AtMost(in.Level) != (r.P.Value <= in.Level && r.P.Relation != Above && r.P.Relation != AtLeast)
	r.explainP(in, fits)
}

// explainP tries the known slips, the likeliest first.
func (r *Result) explainP(in Input, fits func(func(float64) prob.Prob) bool) {
	slip := func(name SlipName, f func(x float64) prob.Prob) {
		if fits(f) {
			r.Slips = append(r.Slips, Slip{name, PFitsStatistic, f(math.Abs(r.Statistic.Value)).Value})
		}
	}
	x := math.Abs(r.Statistic.Value)
	if r.P.Relation == Equal && math.Abs(r.P.Value-r.Statistic.Value) < ends*math.Max(1, x) {
		r.Slips = append(r.Slips, Slip{StatisticAsP, PFitsStatistic, r.Statistic.Value})
	}
	if r.P.cutMeets(r.PFrom.Value, r.PTo.Value) {
		r.Slips = append(r.Slips, Slip{CutNotRounded, PFitsStatistic, in.tail(x).Value})
	}
	slip(Halved, func(x float64) prob.Prob { return in.tail(x).Times(0.5) })
	slip(Doubled, func(x float64) prob.Prob { return in.tail(x).Times(2) })
	// The other tail rises with the statistic, so the ends change places.
	other := func(x float64) float64 { return 1 - in.tail(x).Value }
	if in.Kind != ChiSquare && in.Sided != 1 {
		other = func(x float64) float64 { return prob.NormalLower(x).Value }
		if in.Kind == T {
			other = func(x float64) float64 { return prob.StudentLower(x, *in.DF).Value }
		}
	}
	if lo, hi := other(math.Max(0, x-r.Statistic.Step/2)), other(x+r.Statistic.Step/2); r.P.meets(lo, hi) {
		r.Slips = append(r.Slips, Slip{LowerTail, PFitsStatistic, other(x)})
	}
	switch in.Kind {
	case ChiSquare:
		slip(ZNotSquared, prob.NormalTwoSided)
		slip(DensityForTail, func(x float64) prob.Prob { d := prob.ChiSquareDensity(x, *in.DF); return prob.Prob{Value: d} })
		r.otherDF(in)
	case T:
		slip(NormalForT, prob.NormalTwoSided)
		r.otherDF(in)
	case Z:
		slip(SquaredAsZ, func(x float64) prob.Prob { return prob.ChiSquareUpper(x, 1) })
		slip(DensityForTail, func(x float64) prob.Prob {
			return prob.Prob{Value: math.Exp(-x*x/2) / math.Sqrt(2*math.Pi)}
		})
	}
	if r.P.Relation == Equal && r.P.meets(100*r.PFrom.Value, 100*r.PTo.Value) {
		r.Slips = append(r.Slips, Slip{PercentWithoutP, PFitsStatistic, 100 * in.tail(x).Value})
	}
}

// otherDF finds the nearest degrees of freedom that make p fit.
func (r *Result) otherDF(in Input) {
	printed := *in.DF
	for away := 1.0; away <= 200; away++ {
		for _, df := range []float64{printed + away, printed - away} {
			if df < 1 {
				continue
			}
			in.DF = &df
			if from, to := span(r.Statistic, in.tail); r.P.meets(from.Value, to.Value) {
				r.Slips = append(r.Slips, Slip{WrongDF, PFitsStatistic, df})
				return
			}
		}
	}
}
