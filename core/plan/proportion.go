package plan

import (
	"context"
	"math"
	"sort"

	"widetally/core/infer"
	"widetally/core/prob"
)

// Direction is the alternative of a test.
type Direction string

// The directions. TwoSided is the zero value.
const (
	TwoSided Direction = ""
	Less     Direction = "less"
	Greater  Direction = "greater"
)

// OneProportionInput names two of True, N and Power; the third is found.
type OneProportionInput struct {
	Claimed   float64 // under the null hypothesis, between 0 and 1
	True      *float64
	N         *int64
	Power     *float64
	Level     float64
	Direction Direction
	Design
}

// OneProportion is a plan for the test of one share.
type OneProportion struct {
	// DesignEffect is that of the design; 1 for a simple random sample.
	DesignEffect   float64
	Claimed, Level float64
	Direction      Direction
	True           float64
	N              int64
	Power          float64  // of the score test, by the normal distribution, at N
	NUnrounded     *float64 // set when N was asked for
	// Exact is the power of the exact binomial test at N, nil beyond its reach.
	Exact *ExactBinomial
	// ExactN is the smallest number of respondents from which on the exact test has the
	// power at every number looked at, up to half as many again; its power goes up and
	// down like a saw. Nil unless N was asked for, or beyond its reach.
	ExactN *int64
	// DetectBelow and DetectAbove are the shares nearest to Claimed that N finds with
	// the power asked for; set when True was asked for, nil on a side where none is.
	DetectBelow, DetectAbove *float64
}

// ExactBinomial is the exact test's rejection region and what it does.
type ExactBinomial struct {
	// RejectUpTo and RejectFrom bound the region: counts ≤ the first, ≥ the second; −1
	// and N + 1 where a side is empty.
	RejectUpTo, RejectFrom int64
	Size                   float64 // chance of rejecting when Claimed holds, at most Level
	Power                  float64
}

// Reach of the exact searches.
const (
	exactOneN = 20_000
	exactTwoN = 400
)

// ComputeOneProportion plans the test of one share. By the normal distribution,
//
//	n = ((z_α √(p0 q0) + z_β √(p1 q1))/(p1 − p0))²
//
// times the design effect (Fleiss 1981, Statistical Methods for Rates and Proportions, section 2.2), with z_{α/2}
// for a two-sided test, whose far side the formula leaves out; the power at N counts both.
// Beside it, for
// a simple random sample, the exact binomial test.
func ComputeOneProportion(ctx context.Context, in OneProportionInput) (*OneProportion, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	effect, err := in.effect()
	if err != nil {
		return nil, err
	}
	r := &OneProportion{DesignEffect: effect, Claimed: in.Claimed, Level: in.Level, Direction: in.Direction}
	switch {
	case in.True != nil && in.N != nil && in.Power == nil:
		r.True, r.N = *in.True, *in.N
	case in.True != nil && in.Power != nil && in.N == nil:
		r.True = *in.True
		n, err := neededN(zFor(in.Level, in.Direction), *in.Power, r.True-in.Claimed, effect*in.Claimed*(1-in.Claimed),
			effect*r.True*(1-r.True))
		if err != nil {
			return nil, err
		}
		r.NUnrounded, r.N = &n, max(1, int64(math.Ceil(n)))
		if effect == 1 {
			if r.ExactN, err = in.exactN(ctx, r.N); err != nil {
				return nil, err
			}
		}
	case in.N != nil && in.Power != nil && in.True == nil:
		r.N = *in.N
		r.DetectBelow, r.DetectAbove = DetectableShare(in.Claimed, float64(r.N)/effect, in.Level, *in.Power, in.Direction)
		if r.DetectBelow == nil && r.DetectAbove == nil {
			return nil, fail(DepartureRange)
		}
		if r.DetectAbove != nil {
			r.True = *r.DetectAbove
		} else {
			r.True = *r.DetectBelow
		}
	default:
		return nil, fail(TwoOfThree)
	}
	r.Power = SharePower(in.Claimed, r.True, float64(r.N)/effect, in.Level, in.Direction)
	if r.N <= exactOneN && effect == 1 {
		e := exactBinomial(in.Claimed, r.True, r.N, in.Level, in.Direction)
		r.Exact = &e
	}
	return r, nil
}

// DetectableShare finds the shares nearest to a claimed one, below and above it, that n
// respondents would find with this power by the normal distribution; nil on a side where none
// is or that is not asked about. Power must lie above level, level below one half.
func DetectableShare(claimed, n, level, power float64, d Direction) (below, above *float64) {
	below, above = nearestWithPower(claimed, power, func(p float64) float64 { return SharePower(claimed, p, n, level, d) })
	switch d {
	case Less:
		above = nil
	case Greater:
		below = nil
	}
	return below, above
}

func (in OneProportionInput) check() error {
	switch {
	case !(in.Level > 0 && in.Level < 0.5):
		return fail(infer.LevelRange)
	case !(in.Claimed > 0 && in.Claimed < 1):
		return fail(infer.ClaimedRange)
	case in.True != nil && !(*in.True >= 0 && *in.True <= 1):
		return fail(infer.ClaimedRange)
	case in.True != nil && *in.True == in.Claimed:
		return fail(SameShares)
	case in.True != nil && (in.Direction == Less && *in.True > in.Claimed || in.Direction == Greater && *in.True < in.Claimed):
		return fail(DepartureRange)
	case in.N != nil && (*in.N < 1 || *in.N > maxN):
		return fail(NumberRange)
	case in.Power != nil && !(*in.Power > in.Level && *in.Power < 1):
		return fail(PowerRange)
	}
	return nil
}

func zFor(level float64, d Direction) float64 {
	if d == TwoSided {
		level /= 2
	}
	return prob.NormalUpperQuantile(level)
}

// neededN is ((z√v0 + z_β√v1)/difference)², v0 and v1 the variances of one answer under
// the null hypothesis and in truth.
func neededN(z, power, difference, v0, v1 float64) (float64, error) {
	n := (z*math.Sqrt(v0) + prob.NormalUpperQuantile(1-power)*math.Sqrt(v1)) / difference
	if n *= n; !(n <= maxN) {
		return 0, fail(NumberRange)
	}
	return n, nil
}

// SharePower is the chance that the score test rejects, by the normal distribution, for shares
// between 0 and 1: towards the side that is asked about, of a two-sided test towards either.
func SharePower(claimed, truth, n, level float64, d Direction) float64 {
	return shiftPower(math.Abs(truth-claimed), math.Sqrt(claimed*(1-claimed)/n), math.Sqrt(truth*(1-truth)/n), level, d)
}

// shiftPower is P(Z ≥ (z·sd0 − difference)/sd1), of a two-sided test with P(Z ≥ (z·sd0 +
// difference)/sd1) beside it.
func shiftPower(difference, sd0, sd1, level float64, d Direction) float64 {
	z := zFor(level, d)
	if sd1 == 0 {
		if difference >= z*sd0 {
			return 1
		}
		return 0
	}
	power := prob.NormalUpper((z*sd0 - difference) / sd1).Value
	if d == TwoSided {
		power += prob.NormalUpper((z*sd0 + difference) / sd1).Value
	}
	return math.Min(1, power)
}

// exactBinomial finds the rejection region by bisection: p falls away from the middle.
func exactBinomial(claimed, truth float64, n int64, level float64, d Direction) ExactBinomial {
	e := ExactBinomial{RejectUpTo: -1, RejectFrom: n + 1}
	switch d {
	case Less:
		e.RejectUpTo = prob.BinomialLowerQuantile(level, n, claimed)
	case Greater:
		e.RejectFrom = prob.BinomialUpperQuantile(level, n, claimed)
	default:
		mode := min(int64(float64(n+1)*claimed), n)
		rejects := func(k int64) bool { return prob.BinomialTwoSided(k, n, claimed).AtMost(level) }
		e.RejectUpTo = mode - 1 - int64(sort.Search(int(mode), func(i int) bool { return rejects(mode - 1 - int64(i)) }))
		e.RejectFrom = mode + 1 + int64(sort.Search(int(n-mode), func(i int) bool { return rejects(mode + 1 + int64(i)) }))
	}
	chance := func(p float64) float64 {
		return math.Min(1, prob.BinomialLower(e.RejectUpTo, n, p).Value+prob.BinomialUpper(e.RejectFrom, n, p).Value)
	}
	e.Size, e.Power = chance(claimed), chance(truth)
	return e
}

// exactN looks at the numbers around the approximate one.
func (in OneProportionInput) exactN(ctx context.Context, about int64) (*int64, error) {
	last := about + about/2 + 20
	if last > exactOneN {
		return nil, nil
	}
	found := int64(0)
	for n := last; n >= 1; n-- {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if exactBinomial(in.Claimed, *in.True, n, in.Level, in.Direction).Power < *in.Power {
			break
		}
		found = n
	}
	if found == 0 {
		return nil, nil
	}
	return &found, nil
}

// nearestWithPower finds the shares nearest to one, below and above it, at which a power
// that grows with the distance reaches what is asked; nil on a side where none does.
func nearestWithPower(from, asked float64, power func(p float64) float64) (below, above *float64) {
	find := func(far float64) *float64 {
		if far == from || power(far) < asked {
			return nil
		}
		near := from
		for range 100 {
			if mid := (near + far) / 2; power(mid) >= asked {
				far = mid
			} else {
				near = mid
			}
		}
		return &far
	}
	return find(0), find(1)
}
