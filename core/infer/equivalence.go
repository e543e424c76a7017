package infer

import (
	"math"

	"widetally/core/prob"
)

// Equivalence says whether something is near enough: within a margin stated beforehand.
// The null hypothesis is that it is not, so that only evidence can show agreement (two
// one-sided tests: Schuirmann 1987, A comparison of the two one-sided tests procedure and
// the power approach).
type Equivalence struct {
	Level, Margin float64
	Estimate      float64 // the share's distance, or the difference of the two shares
	// NotBelow and NotAbove test that the estimate's true value lies above −Margin and
	// below +Margin; nil where the bound lies outside what a share can be, so that
	// nothing is to be shown on that side.
	NotBelow, NotAbove *OneSided
	// P is the larger of the two, the p-value of the whole.
	P          prob.Prob
	Equivalent bool // P ≤ Level
	// Interval is at confidence 1 − 2·Level. It lies within the margin, both ends
	// excluded or not as the rounding falls, exactly when the tests of the same kind
	// reject.
	Interval Interval
	// ExactP and ExactEquivalent are those of the binomial tests; only for one share.
	ExactP          *prob.Prob
	ExactEquivalent *bool
	// Conditions are those of the normal distribution: the counts expected at the edges
	// of the margin, or for two shares the counts themselves. The exact tests ask for none.
	Conditions []Condition
}

// OneSided is one of the two tests.
type OneSided struct {
	Bound  float64 // the share, or difference, at the edge of the margin
	Z      float64
	P      prob.Prob
	ExactP *prob.Prob
}

func checkMargin(method string, margin, level float64) error {
	if !(level > 0 && level < 0.5) {
		return &InputError{method, LevelRange, -1}
	}
	if !(margin > 0 && margin < 1) {
		return &InputError{method, MarginRange, -1}
	}
	return nil
}

// ComputeShareEquivalence asks whether a share lies within ±margin (0–1) of an expected
// one. The tests are the score tests at the edges of the margin, whose interval is
// Wilson's, with the exact binomial ones beside them. Errors are those of
// ComputeProportion, a margin outside (0, 1), a level outside (0, ½).
func ComputeShareEquivalence(successes, n int64, expected, margin, level float64) (*Equivalence, error) {
	if err := checkMargin("equivalence", margin, level); err != nil {
		return nil, err
	}
	one, err := ComputeProportion(ProportionInput{successes, n, expected, 1 - 2*level})
	if err != nil {
		return nil, err
	}
	return shareWithin(one.Estimate, successes, n, expected, margin, level), nil
}

// shareWithin takes a checked share; expected may be 0 or 1.
func shareWithin(estimate float64, successes, n int64, expected, margin, level float64) *Equivalence {
	r := &Equivalence{Level: level, Margin: margin, Estimate: estimate - expected}
	w := Wilson(successes, n, prob.NormalUpperQuantile(level))
	r.Interval = Interval{w.Lower - expected, w.Upper - expected}
	at := func(bound float64, above bool) *OneSided {
		if !(bound > 0 && bound < 1) {
			return nil
		}
		nf := float64(n)
		t := &OneSided{Bound: bound, Z: (float64(successes) - nf*bound) / math.Sqrt(nf*bound*(1-bound))}
		var e prob.Prob
		if above {
			t.P, e = prob.NormalUpper(t.Z), prob.BinomialUpper(successes, n, bound)
		} else {
			t.P, e = prob.NormalLower(t.Z), prob.BinomialLower(successes, n, bound)
		}
		t.ExactP = &e
		return t
	}
	r.NotBelow, r.NotAbove = at(expected-margin, true), at(expected+margin, false)
	for _, side := range []*OneSided{r.NotBelow, r.NotAbove} {
		if side != nil {
			r.Conditions = append(r.Conditions, expectedBoth(float64(n), side.Bound)...)
		}
	}
	r.conclude()
	return r
}

// conclude takes the larger p of the two sides; a side on which nothing is to be shown
// counts as shown.
func (r *Equivalence) conclude() {
	r.P = prob.FromRatio(0, 1)
	worst := r.P
	exactly := true
	for _, side := range []*OneSided{r.NotBelow, r.NotAbove} {
		if side == nil {
			continue
		}
		if r.P.Less(side.P) {
			r.P = side.P
		}
		if side.ExactP == nil {
			exactly = false
		} else if worst.Less(*side.ExactP) {
			worst = *side.ExactP
		}
	}
	r.Equivalent = r.P.AtMost(r.Level)
	if exactly {
		also := worst.AtMost(r.Level)
		r.ExactP, r.ExactEquivalent = &worst, &also
	}
}

// ComputeTwoSharesEquivalence asks whether the difference of two shares lies within
// ±margin. The tests use the standard error of the shares fitted under each edge of the
// margin (Farrington and Manning 1990, Test statistics and sample size formulae for
// comparative binomial trials); the interval consists of the differences that they do
// not reject (Mee 1984), found by bisection. Errors are those of ComputeTwoProportions,
// a margin outside (0, 1), a level outside (0, ½).
func ComputeTwoSharesEquivalence(in TwoProportionsInput, margin, level float64) (*Equivalence, error) {
	if err := checkMargin("equivalence", margin, level); err != nil {
		return nil, err
	}
	in.Confidence = 1 - 2*level
	two, err := ComputeTwoProportions(in)
	if err != nil {
		return nil, err
	}
	r := &Equivalence{Level: level, Margin: margin, Estimate: two.Difference}
	low, high := in.farringtonManning(-margin), in.farringtonManning(margin)
	r.NotBelow, r.NotAbove = &OneSided{
		-margin,
		low,
		prob.NormalUpper(low),
		nil,
	}, &OneSided{
		margin,
		high,
		prob.NormalLower(high),
		nil,
	}
	z := prob.NormalUpperQuantile(level)
	r.Interval = Interval{in.whereZ(z, -1, two.Difference), in.whereZ(-z, two.Difference, 1)}
	r.Conditions = two.Conditions
	r.conclude()
	return r, nil
}

// whereZ finds the difference at which the falling statistic is z.
func (in TwoProportionsInput) whereZ(z, lo, hi float64) float64 {
	if in.farringtonManning(lo) < z {
		return lo
	}
	if in.farringtonManning(hi) > z {
		return hi
	}
	for range 200 {
		mid := lo + (hi-lo)/2
		if mid == lo || mid == hi {
			break
		}
		if in.farringtonManning(mid) > z {
			lo = mid
		} else {
			hi = mid
		}
	}
	return hi
}

// farringtonManning is (p̂1 − p̂2 − δ)/SE with SE from the maximum-likelihood shares whose
// difference is δ.
func (in TwoProportionsInput) farringtonManning(delta float64) float64 {
	n1, n2 := float64(in.N1), float64(in.N2)
	p1, p2 := float64(in.Successes1)/n1, float64(in.Successes2)/n2
	q2 := restrictedShare(p1, p2, n1, n2, delta)
	q1 := math.Max(0, math.Min(1, q2+delta))
	se := math.Sqrt(q1*(1-q1)/n1 + q2*(1-q2)/n2)
	away := p1 - p2 - delta
	switch {
	case away == 0:
		return 0
	case se == 0:
		return math.Copysign(math.MaxFloat64, away)
	}
	return away / se
}

// restrictedShare is the second share q that, with q + δ for the first, makes the counts
// likeliest: the middle root of the likelihood equation, a cubic, in the trigonometric
// form of Farrington and Manning.
func restrictedShare(p1, p2, n1, n2, delta float64) float64 {
	lowest, highest := math.Max(0, -delta), math.Min(1, 1-delta)
	r := n2 / n1
	a := 1 + r
	a3 := 3 * a
	b := -(1 + r + p1 + r*p2 + delta*(r+2))
	c := delta*delta + delta*(2*p1+r+1) + p1 + r*p2
	d := -p1 * delta * (1 + delta)
	v := b*b*b/(a3*a3*a3) - b*c/(6*a*a) + d/(2*a)
	u := math.Copysign(math.Sqrt(math.Max(0, b*b/(a3*a3)-c/a3)), v)
	w := math.Pi / 3
	if u != 0 {
		w = (math.Pi + math.Acos(math.Max(-1, math.Min(1, v/(u*u*u))))) / 3
	}
	s := 2*u*math.Cos(w) - b/a3
	return math.Max(lowest, math.Min(highest, s-delta))
}

// DistributionEquivalence says whether every answer's share lies within ±Margin of its
// expected share. All must be shown, each at the whole level, and no adjustment is
// needed for that (intersection–union test: Berger 1982, Multiparameter hypothesis
// testing and acceptance sampling).
type DistributionEquivalence struct {
	Level, Margin   float64
	Answers         []*Equivalence
	P               prob.Prob
	Equivalent      bool
	ExactP          prob.Prob
	ExactEquivalent bool
	// FurthestAt is the answer with the largest p, the one that decides.
	FurthestAt int
}

// ComputeDistributionEquivalence takes the input of ComputeGoodnessOfFit, with its errors
// except that an answer with expected share 0 may have been given.
func ComputeDistributionEquivalence(in GoodnessOfFitInput, margin float64) (*DistributionEquivalence, error) {
	if err := checkMargin("equivalence", margin, in.Level); err != nil {
		return nil, err
	}
	if err := in.check(); err != nil {
		if e, ok := err.(*InputError); !ok || e.Reason != ChosenButShareZero {
			return nil, err
		}
	}
	var n int64
	for _, o := range in.Observed {
		n += o
	}
	r := &DistributionEquivalence{
		Level:           in.Level,
		Margin:          margin,
		P:               prob.FromRatio(0, 1),
		ExactP:          prob.FromRatio(0, 1),
		Equivalent:      true,
		ExactEquivalent: true,
	}
	for i, o := range in.Observed {
		e := shareWithin(float64(o)/float64(n), o, n, float(in.Shares[i]), margin, in.Level)
		r.Answers = append(r.Answers, e)
		if r.P.Less(e.P) {
			r.P, r.FurthestAt = e.P, i
		}
		if r.ExactP.Less(*e.ExactP) {
			r.ExactP = *e.ExactP
		}
		r.Equivalent, r.ExactEquivalent = r.Equivalent && e.Equivalent, r.ExactEquivalent && *e.ExactEquivalent
	}
	return r, nil
}
