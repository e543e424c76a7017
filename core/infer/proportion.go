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
type Tails struct{ Less, Greater, TwoSided prob.Prob }

// ProportionIntervals are two-sided intervals by method. Wald and AgrestiCoull are
// cut to [0, 1].
type ProportionIntervals struct {
	Wald, AgrestiCoull, Wilson, WilsonCorrected, ClopperPearson, Jeffreys Interval
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
	// Exact is the binomial test; TwoSided adds the outcomes no likelier than the
	// observed one.
	Exact     Tails
	Intervals ProportionIntervals
	// ExpectedYes and ExpectedNo are n·p0 and n·(1−p0), which should both be at
	// least 5 for the normal approximation.
	ExpectedYes, ExpectedNo float64
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
	r.Z = (float64(in.Successes) - n*in.Claimed) / n / r.StandardErrorNull
	r.Score = normalTails(r.Z)
	r.Exact = Tails{prob.BinomialLower(in.Successes, in.N, in.Claimed), prob.BinomialUpper(in.Successes, in.N, in.Claimed), prob.BinomialTwoSided(in.Successes, in.N, in.Claimed)}
	r.Intervals = proportionIntervals(in.Successes, in.N, 1-in.Confidence)
	return r, nil
}

func normalTails(z float64) Tails {
	return Tails{prob.NormalLower(z), prob.NormalUpper(z), prob.NormalTwoSided(z)}
}

func proportionIntervals(x, n int64, alpha float64) ProportionIntervals {
	z := prob.NormalUpperQuantile(alpha / 2)
	xf, nf := float64(x), float64(n)
	p := xf / nf
	half := z * math.Sqrt(p*(1-p)/nf)
	wald := Interval{math.Max(0, p-half), math.Min(1, p+half)}

	nTilde := nf + z*z
	pTilde := (xf + z*z/2) / nTilde
	half = z * math.Sqrt(pTilde*(1-pTilde)/nTilde)
	agresti := Interval{math.Max(0, pTilde-half), math.Min(1, pTilde+half)}

	return ProportionIntervals{wald, agresti, Wilson(x, n, z), wilsonCorrected(xf, nf, z), clopperPearson(xf, nf, alpha), jeffreys(xf, nf, alpha)}
}

// Wilson is the score interval (Wilson 1927): the shares p with |p̂ − p| ≤ z√(p(1−p)/n).
func Wilson(x, n int64, z float64) Interval {
	xf, nf := float64(x), float64(n)
	q := float64(n - x)
	centre, spread := xf+z*z/2, z*math.Sqrt(xf*q/nf+z*z/4)
	i := Interval{(centre - spread) / (nf + z*z), (centre + spread) / (nf + z*z)}
	if x == 0 {
		i.Lower = 0
	}
	if x == n {
		i.Upper = 1
	}
	return i
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
		i.Upper = 1 - prob.BetaLowerQuantile(alpha/2, n-x, x+1)
	}
	return i
}

func jeffreys(x, n, alpha float64) Interval {
	i := Interval{0, 1}
	if x > 0 {
		i.Lower = prob.BetaLowerQuantile(alpha/2, x+0.5, n-x+0.5)
	}
	if x < n {
		i.Upper = 1 - prob.BetaLowerQuantile(alpha/2, n-x+0.5, x+0.5)
	}
	return i
}

// TwoProportionsInput asks whether two independent groups have the same share.
type TwoProportionsInput struct {
	Successes1, N1, Successes2, N2 int64
	Confidence                     float64
}

// TwoProportions is the complete result for two shares; Less means share 1 below
// share 2.
type TwoProportions struct {
	TwoProportionsInput
	Estimate1, Estimate2, Difference float64
	Pooled, StandardErrorPooled      float64
	// Z and Tails are nil when both groups said only yes or only no, where the
	// pooled standard error is 0.
	Z                     *float64
	Tails                 *Tails
	StandardErrorUnpooled float64
	Wald, Newcombe        Interval
	RelativeRisk          *float64 // p1/p2; nil when p2 is 0
	OddsRatio             *float64 // nil when a group's odds are infinite or both are 0
}

// ComputeTwoProportions compares two shares.
//
//	z = (p̂1 − p̂2)/√(p̄(1−p̄)(1/n1 + 1/n2))
//
// with p̄ the share of both groups together. The Wald interval uses the unpooled
// standard error and is not cut, so it may leave [−1, 1]; Newcombe's combines the two Wilson intervals (Newcombe 1998b, method
// 10) and is the one to report. Errors as in ComputeProportion, with Index 0 or 1
// for the group.
func ComputeTwoProportions(in TwoProportionsInput) (*TwoProportions, error) {
	for i, g := range [][2]int64{{in.Successes1, in.N1}, {in.Successes2, in.N2}} {
		switch {
		case g[1] < 1:
			return nil, &InputError{"two proportions", NoObservations, i}
		case g[1] > MaxCount:
			return nil, &InputError{"two proportions", CountTooLarge, i}
		case g[0] < 0 || g[0] > g[1]:
			return nil, &InputError{"two proportions", MoreYesThanAsked, i}
		}
	}
	if !(in.Confidence > 0 && in.Confidence < 1) {
		return nil, &InputError{"two proportions", LevelRange, -1}
	}
	x1, n1, x2, n2 := float64(in.Successes1), float64(in.N1), float64(in.Successes2), float64(in.N2)
	p1, p2 := x1/n1, x2/n2
	r := &TwoProportions{TwoProportionsInput: in, Estimate1: p1, Estimate2: p2, Pooled: (x1 + x2) / (n1 + n2)}
	r.Difference = (x1*n2 - x2*n1) / (n1 * n2)
	r.StandardErrorPooled = math.Sqrt(r.Pooled * (1 - r.Pooled) * (1/n1 + 1/n2))
	if r.StandardErrorPooled > 0 {
		z := r.Difference / r.StandardErrorPooled
		tails := normalTails(z)
		r.Z, r.Tails = &z, &tails
	}
	z := prob.NormalUpperQuantile((1 - in.Confidence) / 2)
	r.StandardErrorUnpooled = math.Sqrt(p1*(1-p1)/n1 + p2*(1-p2)/n2)
	r.Wald = Interval{r.Difference - z*r.StandardErrorUnpooled, r.Difference + z*r.StandardErrorUnpooled}
	w1, w2 := Wilson(in.Successes1, in.N1, z), Wilson(in.Successes2, in.N2, z)
	r.Newcombe = Interval{r.Difference - math.Hypot(p1-w1.Lower, w2.Upper-p2), r.Difference + math.Hypot(w1.Upper-p1, p2-w2.Lower)}
	if x2 > 0 {
		v := p1 / p2
		r.RelativeRisk = &v
	}
	if x2 > 0 && x1 < n1 {
		v := x1 * (n2 - x2) / ((n1 - x1) * x2)
		r.OddsRatio = &v
	}
	return r, nil
}
