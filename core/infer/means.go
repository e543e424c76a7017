package infer

import (
	"math"

	"widetally/core/prob"
)

// Sample is a group of numbers by its summary.
type Sample struct {
	N    int64
	Mean float64
	// SD is the standard deviation with divisor n − 1; it may be 0. Unused where Sigma
	// is given.
	SD float64
	// Sigma is the standard deviation of the population where it is known, otherwise
	// nil.
	Sigma *float64
	// Skewness is that of the numbers where they are known, otherwise nil.
	Skewness *float64
}

// MeansInput asks about one mean, or about two where Second is not nil.
type MeansInput struct {
	First  Sample
	Second *Sample
	// Claimed is the mean, or the difference first − second, under the null hypothesis.
	Claimed    float64
	Confidence float64
}

// Means is the complete result. With two samples and σ not known both t tests are given;
// Welch's is the one to report unless the spreads are known to be equal.
type Means struct {
	MeansInput
	// Estimate is the mean, or the difference of the two.
	Estimate float64
	// Normal is the z test, set when every σ is known; otherwise Student's t with Welch's
	// degrees of freedom for two samples, and Pooled with a common variance.
	Normal, Student, Pooled *MeanTest
	// CohensD is (Estimate − Claimed)/SD, with the pooled SD for two samples (Cohen
	// 1988), nil when that is 0 or σ is used.
	CohensD *Effect
	// Conditions: with fewer than 30 in the smallest group the numbers must be nearly normal
	// themselves; with more, a mean of skewed numbers can still be far from normal, so of each
	// sample whose skewness G is known more than 25·G² are wanted.
	Conditions []Condition
}

// MeanTest is one test of a mean or a difference.
type MeanTest struct {
	StandardError float64
	Statistic     float64  // z or t
	DF            *float64 // nil for z
	Tails         Tails    // Less: below the claimed value
	CriticalValue float64  // two-sided
	Interval      Interval
	// Bounds are the one-sided ones at the same confidence; nil for a confidence of one
	// half or less.
	Bounds *Interval
}

// fewForMeans and skewnessFactor are those of the conditions; see Means.
const (
	fewForMeans    = 30
	skewnessFactor = 25
)

// NeededForSkewness is from how many numbers of a skewness on the mean is nearly normal.
func NeededForSkewness(g float64) float64 { return skewnessFactor * g * g }

// ComputeMeans tests one or two means from summary numbers:
//
//	z = (x̄ − μ0)/(σ/√n)   t = (x̄ − μ0)/(s/√n), df = n − 1
//
// and for two samples Welch's t (1947, The generalization of Student's problem when
// several different population variances are involved) with the degrees of freedom of
// Welch and Satterthwaite, and the pooled t with df = n1 + n2 − 2. It assumes independent
// numbers, nearly normal or many. Errors, all *InputError with Index 0 or 1 for the
// sample: n below 1, a number not finite, a negative SD, σ not positive, an SD needed
// from fewer than two, no spread at all, a confidence outside (0, 1).
func ComputeMeans(in MeansInput) (*Means, error) {
	samples := []Sample{in.First}
	if in.Second != nil {
		samples = append(samples, *in.Second)
	}
	if err := in.check(samples); err != nil {
		return nil, err
	}
	r := &Means{MeansInput: in, Estimate: in.First.Mean}
	known := true
	var variance, satterthwaite float64 // of the estimate; Σ v²/(n − 1)
	var squares, spare float64          // Σ (n − 1)s² and its degrees of freedom
	var inverse float64                 // Σ 1/n
	fewest := in.First.N
	for i, s := range samples {
		n := float64(s.N)
		fewest = min(fewest, s.N)
		if i == 1 {
			r.Estimate -= s.Mean
		}
		inverse += 1 / n
		if s.Sigma != nil {
			variance += *s.Sigma / n * *s.Sigma
			continue
		}
		known = false
		v := s.SD / n * s.SD
		variance += v
		satterthwaite += v / (n - 1) * v
		squares, spare = squares+(n-1)*s.SD*s.SD, spare+n-1
	}
	r.Conditions = []Condition{atLeast(GroupAtLeast, float64(fewest), fewForMeans)}
	for _, s := range samples {
		if s.Skewness != nil {
			r.Conditions = append(r.Conditions, atLeast(ManyForSkewness, float64(s.N), NeededForSkewness(*s.Skewness)))
		}
	}
	away := r.Estimate - in.Claimed
	if known {
		r.Normal = newMeanTest(r.Estimate, away, math.Sqrt(variance), nil, in.Confidence)
		return r, nil
	}
	if !(variance > 0) {
		return nil, &InputError{"means", NoVariation, -1}
	}
	df := variance / satterthwaite * variance
	if in.Second == nil {
		df = spare // the same, but for the last digit
	}
	r.Student = newMeanTest(r.Estimate, away, math.Sqrt(variance), &df, in.Confidence)
	sd := math.Sqrt(squares / spare)
	if in.Second != nil {
		r.Pooled = newMeanTest(r.Estimate, away, sd*math.Sqrt(inverse), &spare, in.Confidence)
	}
	d := cohensD(away/sd, inverse, in)
	r.CohensD = &d
	return r, nil
}

// cohensD has the large-sample variance Σ 1/n + d²/(2N), N the respondents together
// (Hedges and Olkin 1985, Statistical Methods for Meta-Analysis, chapter 5).
func cohensD(d, inverse float64, in MeansInput) Effect {
	n := float64(in.First.N)
	if in.Second != nil {
		n += float64(in.Second.N)
	}
	half := prob.NormalUpperQuantile((1-in.Confidence)/2) * math.Sqrt(inverse+d/(2*n)*d)
	return present(CohensD, d).with(&Interval{d - half, d + half}, HedgesOlkinInterval).called(cohenWord(d, 0.2, 0.5, 0.8))
}

func (in MeansInput) check(samples []Sample) error {
	fail := func(why Reason, at int) error { return &InputError{"means", why, at} }
	finite := func(x float64) bool { return math.Abs(x) <= 1e100 }
	if !(in.Confidence > 0 && in.Confidence < 1) {
		return fail(LevelRange, -1)
	}
	if !finite(in.Claimed) {
		return fail(NotFinite, -1)
	}
	for i, s := range samples {
		switch {
		case s.N < 1:
			return fail(NoObservations, i)
		case s.N > MaxCount:
			return fail(CountTooLarge, i)
		case !finite(s.Mean) || !finite(s.SD) || s.Sigma != nil && !finite(*s.Sigma) || s.Skewness != nil && !finite(*s.Skewness):
			return fail(NotFinite, i)
		case s.Sigma != nil && !(*s.Sigma > 0):
			return fail(SigmaNotPositive, i)
		case s.Sigma != nil:
		case s.SD < 0:
			return fail(SDNegative, i)
		case s.N < 2:
			return fail(TooFewForSD, i)
		}
		if len(samples) == 2 && (samples[0].Sigma == nil) != (samples[1].Sigma == nil) {
			return fail(SigmaNotPositive, 1)
		}
	}
	return nil
}

// newMeanTest uses the normal distribution where df is nil and Student's otherwise.
func newMeanTest(estimate, away, se float64, df *float64, confidence float64) *MeanTest {
	t := &MeanTest{StandardError: se, Statistic: away / se, DF: df}
	alpha := 1 - confidence
	quantile := prob.NormalUpperQuantile
	t.Tails = normalTails(t.Statistic)
	if df != nil {
		quantile = func(a float64) float64 { return prob.StudentUpperQuantile(a, *df) }
		t.Tails = Tails{
			Less:     prob.StudentLower(t.Statistic, *df),
			Greater:  prob.StudentUpper(t.Statistic, *df),
			TwoSided: prob.StudentTwoSided(t.Statistic, *df),
		}
	}
	t.CriticalValue = quantile(alpha / 2)
	t.Interval = Interval{estimate - t.CriticalValue*se, estimate + t.CriticalValue*se}
	if 2*alpha < 1 {
		one := quantile(alpha)
		t.Bounds = &Interval{estimate - one*se, estimate + one*se}
	}
	return t
}
