package infer

import (
	"math"

	"widetally/core/prob"
)

// TTest is a t test of an estimate from a designed sample on the degrees of freedom of its design.
// All is nil where the standard error is 0 or no degree of freedom remains.
type TTest struct {
	T        *float64   `json:"t"`
	TwoSided *prob.Prob `json:"twoSidedPValue" beside:"log10"`
	// Less is that of an estimate below the claimed value, Greater of one above it.
	Less    *prob.Prob `json:"lessPValue" beside:"log10"`
	Greater *prob.Prob `json:"greaterPValue" beside:"log10"`
}

// ComputeTTest tests a departure from the claimed value.
func ComputeTTest(departure, se, df float64) (t TTest) {
	if !(se > 0) || !(df >= 1) {
		return t
	}
	x := departure / se
	two, less, greater := prob.StudentTwoSided(x, df), prob.StudentLower(x, df), prob.StudentUpper(x, df)
	return TTest{&x, &two, &less, &greater}
}

// TInterval is estimate ± t_{1−α/2;df} se; nil where no degree of freedom remains.
func TInterval(estimate, se, df, confidence float64) *Interval {
	if !(df >= 1) {
		return nil
	}
	half := prob.StudentUpperQuantile((1-confidence)/2, df) * se
	return &Interval{estimate - half, estimate + half}
}

// CutInterval is an interval of a share cut to 0 … 1, and as it was before.
type CutInterval struct {
	Interval
	LowerRaw, UpperRaw float64
}

// Cut cuts an interval of a share to 0 … 1.
func (i Interval) Cut() CutInterval {
	return CutInterval{Interval{math.Max(0, i.Lower), math.Min(1, i.Upper)}, i.Lower, i.Upper}
}

// DesignedShare is a share that was estimated from a designed sample.
type DesignedShare struct {
	// Share is exactly 0 or 1 where nobody or everybody of the base is meant.
	Share    float64
	Variance float64
	// N is the respondents of the base, KishN its effective number by its weights alone.
	N     int64
	KishN float64
	// DF are the degrees of freedom of the design.
	DF int
}

// ShareUncertainty is what the design says of a share. Figures are nil where they are not defined:
// effects at 0, at 1 and for one respondent, intervals without degrees of freedom, EffectiveN where it
// is infinite.
type ShareUncertainty struct {
	StandardError float64
	// DesignEffect is V/(p(1 − p)/(n − 1)), EffectiveN p(1 − p)/V, Kish's at 0 and 1.
	DesignEffect *float64
	EffectiveN   *float64
	// BetaN is the number of respondents that the beta interval counts.
	BetaN *float64
	// Linear is p ± t se; a single point at 0 and 1, where it says nothing.
	Linear *CutInterval
	// Logit is that of ln(p/(1 − p)), taken back.
	Logit *Interval
	// Wilson is the interval of Wilson (1927) with EffectiveN for n and t for z (Kott and Carr 1997;
	// Dean and Pagano 2015; Franco, Little, Louis and Slud 2019).
	Wilson *Interval
	// Beta is that of Korn and Graubard (1998), the one to show: exact binomial limits for the
	// effective number, adjusted for the degrees of freedom, at most n.
	Beta *Interval
}

// effectiveN is +Inf where the variance is 0 for a share between 0 and 1.
func (s DesignedShare) effectiveN() float64 {
	if s.Share == 0 || s.Share == 1 {
		return s.KishN
	}
	return s.Share * (1 - s.Share) / s.Variance
}

// Uncertainty gives standard error, effects and intervals at a confidence.
func (s DesignedShare) Uncertainty(confidence float64) ShareUncertainty {
	p, q, n := s.Share, 1-s.Share, float64(s.N)
	u := ShareUncertainty{StandardError: math.Sqrt(s.Variance)}
	if p > 0 && p < 1 && s.N > 1 {
		effect := s.Variance / (p * q / (n - 1))
		u.DesignEffect = &effect
	}
	effective := s.effectiveN()
	if !math.IsInf(effective, 1) {
		u.EffectiveN = &effective
	}
	if s.DF < 1 {
		return u
	}
	half := (1 - confidence) / 2
	t := prob.StudentUpperQuantile(half, float64(s.DF))
	linear := Interval{p - t*u.StandardError, p + t*u.StandardError}.Cut()
	u.Linear = &linear
	if p > 0 && p < 1 {
		away := t * u.StandardError / (p * q)
		at := math.Log(p / q)
		u.Logit = &Interval{expit(at - away), expit(at + away)}
	}
	u.Wilson = s.wilson(effective, t)
	if s.N > 1 {
		ratio := prob.StudentUpperQuantile(half, n-1) / t
		m := math.Min(n, effective*ratio*ratio)
		u.BetaN, u.Beta = &m, s.beta(m, half)
	}
	return u
}

func expit(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

func (s DesignedShare) wilson(n, t float64) *Interval {
	p := s.Share
	if math.IsInf(n, 1) {
		return &Interval{p, p}
	}
	w := t * t / n
	middle, away := p+w/2, t*math.Sqrt((p*(1-p)+w/4)/n)
	i := &Interval{(middle - away) / (1 + w), (middle + away) / (1 + w)}
	switch p {
	case 0:
		i.Lower = 0
	case 1:
		i.Upper = 1
	}
	return i
}

func (s DesignedShare) beta(m, half float64) *Interval {
	p, q := s.Share, 1-s.Share
	i := &Interval{0, 1}
	if p > 0 {
		i.Lower = prob.BetaLowerQuantile(half, m*p, m*q+1)
	}
	if p < 1 {
		i.Upper = prob.BetaUpperQuantile(half, m*p+1, m*q)
	}
	return i
}

// ShareTests are the tests of a share of a designed sample against a claimed one.
type ShareTests struct {
	// Difference is the share less the claimed one.
	Difference float64
	// Linear is the difference by its standard error.
	Linear TTest
	// Score is by the standard error under the claim, √(p0(1 − p0)/n_e): it belongs to the Wilson
	// interval, is there for shares of 0 and 1 too, and better near these.
	Score TTest
	// Logit is that of ln(p/(1 − p)).
	Logit TTest
}

// Test tests a share against a claimed one, between 0 and 1.
func (s DesignedShare) Test(claimed float64) ShareTests {
	df, se := float64(s.DF), math.Sqrt(s.Variance)
	t := ShareTests{Difference: s.Share - claimed}
	t.Linear = ComputeTTest(t.Difference, se, df)
	t.Score = ComputeTTest(t.Difference, math.Sqrt(claimed*(1-claimed)/s.effectiveN()), df)
	if p := s.Share; p > 0 && p < 1 {
		t.Logit = ComputeTTest(math.Log(p/(1-p))-math.Log(claimed/(1-claimed)), se/(p*(1-p)), df)
	}
	return t
}
