package infer

import (
	"math"

	"widetally/core/prob"
)

// Effect is a measure of size under its own name, with an interval where a method for
// one is known.
type Effect struct {
	Name  EffectName
	Value *float64 // nil where the measure does not exist for these counts
	// Why says why Value or Interval is nil.
	Why Reason
	// Interval may end at +Inf, for ratios.
	Interval *Interval
	Method   IntervalMethod
	// Word is Cohen's word for the value, empty where he gave none.
	Word Word
	Note EffectNote
}

// EffectName names a measure of size.
type EffectName string

// The measures.
const (
	CohensW              EffectName = "cohens_w"
	ShareOfLargestW      EffectName = "share_of_largest_w"
	WOverRootAnswers     EffectName = "w_over_root_answers_less_one"
	CramersV             EffectName = "cramers_v"
	CramersVCorrected    EffectName = "cramers_v_bias_corrected"
	Phi                  EffectName = "phi"
	ContingencyC         EffectName = "contingency_coefficient"
	ContingencyCScaled   EffectName = "contingency_coefficient_scaled"
	OddsRatio            EffectName = "odds_ratio"
	ConditionalOddsRatio EffectName = "conditional_odds_ratio"
	RelativeRisk         EffectName = "relative_risk"
	RiskDifference       EffectName = "difference_of_shares"
	LambdaColumns        EffectName = "lambda_columns_given_rows"
	LambdaRows           EffectName = "lambda_rows_given_columns"
	LambdaSymmetric      EffectName = "lambda_symmetric"
	UncertaintyColumns   EffectName = "uncertainty_columns_given_rows"
	UncertaintyRows      EffectName = "uncertainty_rows_given_columns"
	UncertaintySymmetric EffectName = "uncertainty_symmetric"
	Gamma                EffectName = "gamma"
	TauB                 EffectName = "tau_b"
	TauC                 EffectName = "tau_c"
	SomersColumns        EffectName = "somers_d_columns_given_rows"
	SomersRows           EffectName = "somers_d_rows_given_columns"
	SomersSymmetric      EffectName = "somers_d_symmetric"
	Superiority          EffectName = "probability_of_superiority"
	CohensD              EffectName = "cohens_d"
	CohensH              EffectName = "cohens_h"
)

// IntervalMethod names how an interval was found.
type IntervalMethod string

// The methods.
const (
	NoncentralInterval IntervalMethod = "noncentral_chi_square"
	DeltaInterval      IntervalMethod = "delta_method"
	WoolfInterval      IntervalMethod = "woolf_1955"
	KatzInterval       IntervalMethod = "katz_1978"
	NewcombeInterval   IntervalMethod = "newcombe_1998_hybrid_score"
	// ExactConditionalInterval: both margins fixed (Cornfield 1956).
	ExactConditionalInterval IntervalMethod = "exact_conditional"
	// ArcsineInterval: the arcsine scale has variance 1/n (Cohen 1988).
	ArcsineInterval IntervalMethod = "arcsine"
	// HedgesOlkinInterval: large-sample standard error (Hedges and Olkin 1985).
	HedgesOlkinInterval IntervalMethod = "hedges_olkin_1985"
)

// EffectNote is something to say beside a measure.
type EffectNote string

// NoteEqualShares: w/√(k−1) reaches 1 only if all expected shares are equal, and is not
// Cramér's V, which belongs to two-way tables.
const NoteEqualShares EffectNote = "reaches_one_only_for_equal_shares"

// NoteChance: the value lies above its own interval, for chance alone makes a measure that cannot
// be negative this large where there are many degrees of freedom for few respondents.
const NoteChance EffectNote = "chance_alone_makes_it_this_large"

// NoteContext goes with every word for a size: the field, not the convention, says what is
// small.
const NoteContext EffectNote = "what_is_small_depends_on_the_field"

// Word is a word for a size by Cohen's convention.
type Word struct {
	Word       string // "below_small", "small", "medium", "large" or empty
	Convention string
}

// cohenWord applies Cohen's limits (1988, Statistical Power Analysis for the Behavioral
// Sciences): small, medium and large begin at the limits given. He offered them for want
// of anything better; what is small is for the field to say.
func cohenWord(value, small, medium, large float64) Word {
	word := "below_small"
	switch v := math.Abs(value); {
	case v >= large:
		word = "large"
	case v >= medium:
		word = "medium"
	case v >= small:
		word = "small"
	}
	return Word{word, "cohen_1988"}
}

func wordForW(w float64) Word { return cohenWord(w, 0.1, 0.3, 0.5) }

// called gives the measure a word, with the note that belongs to it; none where chance alone
// makes it large.
func (e Effect) called(w Word) Effect {
	if !e.AboveInterval() {
		e.Word, e.Note = w, NoteContext
	}
	return e
}

// AboveInterval reports whether the value lies above its interval, see NoteChance.
func (e Effect) AboveInterval() bool {
	return e.Value != nil && e.Interval != nil && *e.Value > e.Interval.Upper+1e-12*math.Abs(e.Interval.Upper)
}

// Measure finds a measure among others; one without a value where it is not there.
func Measure(list []Effect, name EffectName) Effect {
	for _, e := range list {
		if e.Name == name {
			return e
		}
	}
	return Effect{Name: name}
}

// NoncentralW is the confidence interval of Cohen's w from the statistic: the
// noncentralities under which a statistic as large, and as small, has probability α/2,
// divided by n, and their square roots (Steiger and Fouladi 1997, Noncentrality interval
// estimation and the evaluation of statistical models), cut to the largest w there can
// be. Its lower end is 0 when the test at α/2 does not reject. Nil where the counts lie so
// close to the expected ones that already w = 0 gives a smaller statistic with
// probability at most α/2: the method then has no interval, and 0 … 0 would claim a
// certainty that nobody has.
func NoncentralW(statistic, df, n, confidence, largest float64) *Interval {
	alpha := (1 - confidence) / 2
	upper := prob.NoncentralityForUpper(1-alpha, statistic, df)
	if upper == 0 {
		return nil
	}
	return &Interval{
		math.Min(largest, math.Sqrt(prob.NoncentralityForUpper(alpha, statistic, df)/n)),
		math.Min(largest, math.Sqrt(upper/n)),
	}
}

// byNoncentrality gives a measure that rises with w its interval.
func byNoncentrality(name EffectName, value float64, w *Interval, f func(w float64) float64) Effect {
	e := present(name, value)
	if w == nil {
		e.Why = CloserThanChance
		return e
	}
	if e = e.with(&Interval{f(w.Lower), f(w.Upper)}, NoncentralInterval); e.AboveInterval() {
		e.Note = NoteChance
	}
	return e
}

func present(name EffectName, value float64) Effect { return Effect{Name: name, Value: &value} }

// withoutInterval is a measure for which no interval is in use.
func withoutInterval(name EffectName, value float64) Effect {
	e := present(name, value)
	e.Why = IntervalNotKnown
	return e
}

func absent(name EffectName, why Reason) Effect { return Effect{Name: name, Why: why} }

// with adds an interval.
func (e Effect) with(i *Interval, m IntervalMethod) Effect {
	e.Interval, e.Method = i, m
	return e
}

// oneWayEffects are the sizes of a departure from expected shares. Cramér's V is not
// among them: it belongs to two-way tables.
func oneWayEffects(w, largest float64, interval *Interval, answers int) []Effect {
	divided := func(by float64) func(w float64) float64 { return func(w float64) float64 { return w / by } }
	root := math.Sqrt(float64(answers - 1))
	own := byNoncentrality(CohensW, w, interval, divided(1)).called(wordForW(w))
	byRoot := byNoncentrality(WOverRootAnswers, w/root, interval, divided(root))
	byRoot.Note = NoteEqualShares
	return []Effect{own, byNoncentrality(ShareOfLargestW, math.Min(1, w/largest), interval, divided(largest)), byRoot}
}
