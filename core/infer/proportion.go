package infer

import (
	"math"

	"widetally/core/prob"
)

// Interval is a confidence interval of a share, 0–1, or of a difference of shares,
// −1–1.
type Interval struct{ Lower, Upper float64 }

// Contains reports whether a value lies in the interval, its ends included.
func (i Interval) Contains(x float64) bool { return x >= i.Lower && x <= i.Upper }

// ProportionInput asks about one share.
type ProportionInput struct {
	Successes, N int64
	// Claimed is the share under the null hypothesis, between 0 and 1, both excluded.
	Claimed float64
	// Confidence is the level of the two-sided intervals, such as 0.95.
	Confidence float64
}

// Tails holds the p-values of the three directions.
type Tails = prob.Tails

// ProportionIntervals are two-sided intervals by method. Wald and AgrestiCoull are
// cut to [0, 1].
type ProportionIntervals struct {
	Wald, AgrestiCoull, Wilson, WilsonCorrected, ClopperPearson, Jeffreys Interval
	// WaldUncut and AgrestiCoullUncut may leave [0, 1].
	WaldUncut, AgrestiCoullUncut Interval
}

// Proportion is the complete result for one share.
type Proportion struct {
	Successes, N int64
	Claimed      float64
	Confidence   float64
	Estimate     float64
	// StandardErrorNull is √(p0(1−p0)/n), that of the score statistic.
	StandardErrorNull float64
	Z                 float64
	Score             Tails
	// ZCorrected takes 1/(2n) off |p̂ − p0|, not below 0; ZCorrectedP is two-sided.
	ZCorrected  float64
	ZCorrectedP prob.Prob
	// Exact is the binomial test; TwoSided is by ExactConvention.
	Exact           Tails
	ExactConvention string
	// Intervals are two-sided.
	Intervals ProportionIntervals
	// Bounds are the one-sided intervals at the same confidence: Lower of each belongs to
	// the interval up to 1, Upper to the one from 0. They are the ends of the two-sided
	// intervals at 1 − 2α, and nil for a confidence of one half or less, where those
	// do not exist.
	Bounds *ProportionIntervals
	// ExpectedYes and ExpectedNo are n·p0 and n·(1−p0), which should both be at
	// least 5 for the normal approximation.
	ExpectedYes, ExpectedNo float64
	Conditions              []Condition
	// CohensH is 2·arcsin√p̂ − 2·arcsin√p0 (Cohen 1988).
	CohensH Effect
}

// ComputeProportion tests one share against a claimed one and gives its intervals.
//
//	z = (p̂ − p0)/√(p0(1−p0)/n)
//
// Sources of the intervals: Wald (plain normal); Agresti and Coull 1998; Wilson 1927;
// Wilson with continuity correction, Newcombe 1998a method 4; Clopper and Pearson 1934;
// Jeffreys with 0 and 1 at the edges, Brown, Cai and DasGupta 2001. Errors are
// *InputError: n below 1, successes outside 0 … n, the claimed share or the
// confidence outside (0, 1).
func ComputeProportion(in ProportionInput) (*Proportion, error) {
	fail := func(why Reason) error { return &InputError{"one proportion", why, -1} }
	switch {
	case in.N < 1:
		return nil, fail(NoObservations)
	case in.N > MaxCount:
		return nil, fail(CountTooLarge)
	case in.Successes < 0 || in.Successes > in.N:
		return nil, fail(MoreYesThanAsked)
	case !(in.Claimed > 0 && in.Claimed < 1):
		return nil, fail(ClaimedRange)
	case !(in.Confidence > 0 && in.Confidence < 1):
		return nil, fail(LevelRange)
	}
	n := float64(in.N)
	p := float64(in.Successes) / n
	r := &Proportion{Successes: in.Successes, N: in.N, Claimed: in.Claimed, Confidence: in.Confidence, Estimate: p,
		ExpectedYes: n * in.Claimed, ExpectedNo: n * (1 - in.Claimed), StandardErrorNull: math.Sqrt(in.Claimed * (1 - in.Claimed) / n)}
	away := math.FMA(-n, in.Claimed, float64(in.Successes)) // x − n·p0 with one rounding
	r.Z = away / n / r.StandardErrorNull
	r.Score = normalTails(r.Z)
	r.Exact = Tails{
		Less:     prob.BinomialLower(in.Successes, in.N, in.Claimed),
		Greater:  prob.BinomialUpper(in.Successes, in.N, in.Claimed),
		TwoSided: prob.BinomialTwoSided(in.Successes, in.N, in.Claimed),
	}
	r.ExactConvention = ExactConvention
	corrected := math.Max(0, math.Abs(away)-0.5) / n / r.StandardErrorNull
	r.ZCorrected = math.Copysign(corrected, r.Z)
	r.ZCorrectedP = prob.NormalTwoSided(corrected)
	r.Intervals = proportionIntervals(in.Successes, in.N, 1-in.Confidence)
	if alpha := 1 - in.Confidence; 2*alpha < 1 {
		bounds := proportionIntervals(in.Successes, in.N, 2*alpha)
		r.Bounds = &bounds
	}
	r.Conditions = expectedBoth(n, in.Claimed)
	r.CohensH = cohensH(p, in.Claimed, away/n, math.Sqrt(1/n), in.Confidence)
	return r, nil
}

// cohensH is the difference of two shares on the arcsine scale, the first less the second, on
// which equal steps are about equally easy to find (Cohen 1988, chapter 6); its standard error does
// not depend on the shares. away is p − q. The difference of the two angles is taken by their sine
// and cosine, in which shares that are nearly the same keep their digits:
//
//	sin(a − b) = (p − q)/(√(p(1−q)) + √(q(1−p)))   cos(a − b) = √(pq) + √((1−p)(1−q))
func cohensH(p, q, away, se, confidence float64) Effect {
	h := 0.0
	if away != 0 {
		h = 2 * math.Atan2(away/(math.Sqrt(p*(1-q))+math.Sqrt(q*(1-p))), math.Sqrt(p*q)+math.Sqrt((1-p)*(1-q)))
	}
	half := prob.NormalUpperQuantile((1-confidence)/2) * se
	return present(
		CohensH,
		h,
	).with(&Interval{math.Max(-math.Pi, h-half), math.Min(math.Pi, h+half)}, ArcsineInterval).
		called(cohenWord(h, 0.2, 0.5, 0.8))
}

func normalTails(z float64) Tails {
	return Tails{Less: prob.NormalLower(z), Greater: prob.NormalUpper(z), TwoSided: prob.NormalTwoSided(z)}
}

func proportionIntervals(x, n int64, alpha float64) ProportionIntervals {
	z := prob.NormalUpperQuantile(alpha / 2)
	xf, nf := float64(x), float64(n)
	p, q := xf/nf, float64(n-x)/nf
	half := z * math.Sqrt(p*q/nf)
	wald := Interval{p - half, p + half}

	nTilde := nf + z*z
	pTilde, qTilde := (xf+z*z/2)/nTilde, (float64(n-x)+z*z/2)/nTilde
	half = z * math.Sqrt(pTilde*qTilde/nTilde)
	agresti := Interval{pTilde - half, pTilde + half}

	return ProportionIntervals{
		wald.cut(0, 1),
		agresti.cut(0, 1),
		Wilson(x, n, z),
		wilsonCorrected(xf, nf, z),
		clopperPearson(xf, nf, alpha),
		jeffreys(xf, nf, alpha),
		wald,
		agresti,
	}
}

func (i Interval) cut(lowest, highest float64) Interval {
	return Interval{math.Max(lowest, i.Lower), math.Min(highest, i.Upper)}
}

// Wilson is the score interval (Wilson 1927): the shares p with |p̂ − p| ≤ z√(p(1−p)/n).
// They are the roots of (n + z²)p² − (2x + z²)p + x²/n; the smaller one follows from the
// product of both, in which nothing cancels, and the upper end is 1 less that of the
// respondents who said no.
func Wilson(x, n int64, z float64) Interval {
	lowest := func(x float64, q float64) (lower, upper float64) {
		nf := x + q
		larger := x + z*z/2 + z*math.Sqrt(x/nf*q+z*z/4)
		return x / nf * x / larger, larger / (nf + z*z)
	}
	lower, upper := lowest(float64(x), float64(n-x))
	if 2*x > n {
		rest, _ := lowest(float64(n-x), float64(x))
		upper = 1 - rest
	}
	return Interval{lower, upper}
}

// wilsonReach is how far the ends of the score interval lie from the share, which for
// large n is much less than either.
func wilsonReach(x, n int64, z float64) (below, above float64) {
	nf, q := float64(n), float64(n-x)
	lean, spread := z*z*(float64(x)-q)/(2*nf), z*math.Sqrt(float64(x)/nf*q+z*z/4)
	return (spread + lean) / (nf + z*z), (spread - lean) / (nf + z*z)
}

func wilsonCorrected(x, n, z float64) Interval {
	p, q := x/n, (n-x)/n
	i := Interval{0, 1}
	if x > 0 {
		i.Lower = math.Max(0, (2*x+z*z-1-z*math.Sqrt(z*z-2-1/n+4*p*(n*q+1)))/(2*(n+z*z)))
	}
	if x < n {
		i.Upper = math.Min(1, (2*x+z*z+1+z*math.Sqrt(z*z+2-1/n+4*p*(n*q-1)))/(2*(n+z*z)))
	}
	return i
}

func clopperPearson(x, n, alpha float64) Interval {
	i := Interval{0, 1}
	if x > 0 {
		i.Lower = prob.BetaLowerQuantile(alpha/2, x, n-x+1)
	}
	if x < n {
		i.Upper = prob.BetaUpperQuantile(alpha/2, x+1, n-x)
	}
	return i
}

func jeffreys(x, n, alpha float64) Interval {
	i := Interval{0, 1}
	if x > 0 {
		i.Lower = prob.BetaLowerQuantile(alpha/2, x+0.5, n-x+0.5)
	}
	if x < n {
		i.Upper = prob.BetaUpperQuantile(alpha/2, x+0.5, n-x+0.5)
	}
	return i
}
