package plan

import (
	"context"
	"math"

	"widetally/core/infer"
	"widetally/core/prob"
)

// TwoProportionsInput names two of Share2, both numbers of respondents, and Power; the
// third is found.
type TwoProportionsInput struct {
	Share1 float64  // in truth, 0–1
	Share2 *float64 // in truth, another one
	N1, N2 *int64   // both or neither
	Power  *float64
	Level  float64 // two-sided
	Design
}

// TwoProportions is a plan for the comparison of two shares.
type TwoProportions struct {
	// DesignEffect is that of the design; 1 for a simple random sample.
	DesignEffect          float64
	Share1, Share2, Level float64
	N1, N2                int64
	Power                 float64  // of the pooled z test, by the normal distribution
	NUnrounded            *float64 // per group, set when N was asked for
	// Exact power at N1 and N2, nil beyond its reach.
	Exact *ExactTwo
	// ExactN is the smallest number per group, from the approximate one upwards, with
	// which Fisher's exact test has the power; nil unless asked for, or beyond its
	// reach.
	ExactN *int64
	// DetectBelow and DetectAbove are the shares of the second group nearest to Share1
	// that the numbers find with the power asked for; set when Share2 was asked for, nil
	// on a side where none is.
	DetectBelow, DetectAbove *float64
}

// ExactTwo holds the chances of rejecting, over all outcomes of both groups.
type ExactTwo struct {
	FisherPower, ZPower float64
	// FisherSize and ZSize are those when both groups have the share of both together;
	// that of the z test can exceed the level.
	FisherSize, ZSize float64
}

// ComputeTwoProportions plans the comparison of two shares. By the normal distribution,
// per group,
//
//	n = ((z √(2 p̄ q̄) + z_β √(p1 q1 + p2 q2))/(p1 − p2))²
//
// times the design effect (Fleiss 1981, section 3.2), beside it, for simple random samples, the exact
// powers of Fisher's and of the pooled z test.
func ComputeTwoProportions(ctx context.Context, in TwoProportionsInput) (*TwoProportions, error) {
	if err := in.check(); err != nil {
		return nil, err
	}
	effect, err := in.effect()
	if err != nil {
		return nil, err
	}
	r := &TwoProportions{DesignEffect: effect, Share1: in.Share1, Level: in.Level}
	switch {
	case in.N1 == nil:
		r.Share2 = *in.Share2
		err = r.needed(ctx, *in.Power)
	case in.Power == nil:
		r.Share2, r.N1, r.N2 = *in.Share2, *in.N1, *in.N2
	default:
		r.N1, r.N2 = *in.N1, *in.N2
		err = r.detectable(*in.Power)
	}
	if err != nil {
		return nil, err
	}
	r.Power = r.normalPower(r.Share2)
	if r.N1 <= exactTwoN && r.N2 <= exactTwoN && effect == 1 {
		if r.Exact, err = exactTwo(ctx, r.Share1, r.Share2, r.N1, r.N2, in.Level); err != nil {
			return nil, err
		}
	}
	return r, nil
}

func (in TwoProportionsInput) check() error {
	given := 0
	for _, yes := range []bool{in.Share2 != nil, in.N1 != nil, in.Power != nil} {
		if yes {
			given++
		}
	}
	switch {
	case !(in.Level > 0 && in.Level < 0.5):
		return fail(infer.LevelRange)
	case !(in.Share1 >= 0 && in.Share1 <= 1) || in.Share2 != nil && !(*in.Share2 >= 0 && *in.Share2 <= 1):
		return fail(infer.ClaimedRange)
	case in.Share2 != nil && in.Share1 == *in.Share2:
		return fail(SameShares)
	case (in.N1 == nil) != (in.N2 == nil) || given != 2:
		return fail(TwoOfThree)
	case in.N1 != nil && (*in.N1 < 1 || *in.N2 < 1 || *in.N1 > maxN || *in.N2 > maxN):
		return fail(NumberRange)
	case in.Power != nil && !(*in.Power > in.Level && *in.Power < 1):
		return fail(PowerRange)
	}
	return nil
}

// needed finds the number per group. The search for that of the exact test goes through fewer
// than 20 million outcomes, since neither group may have more than exactTwoN.
func (r *TwoProportions) needed(ctx context.Context, power float64) error {
	p1, p2 := r.Share1, r.Share2
	mean := (p1 + p2) / 2
	n, err := neededN(zFor(r.Level, TwoSided), power, p1-p2, r.DesignEffect*2*mean*(1-mean), r.DesignEffect*(p1*(1-p1)+p2*(1-p2)))
	if err != nil {
		return err
	}
	r.NUnrounded = &n
	r.N1 = max(1, int64(math.Ceil(n)))
	r.N2 = r.N1
	if r.DesignEffect != 1 {
		return nil
	}
	for k := r.N1; k <= min(exactTwoN, 2*r.N1+20); k++ {
		reached, err := fisherPower(ctx, chances(k, p1), chances(k, p2), r.Level)
		if err != nil {
			return err
		}
		if reached >= power {
			r.ExactN = &k
			break
		}
	}
	return nil
}

// detectable finds the second group's shares on either side.
func (r *TwoProportions) detectable(power float64) error {
	r.DetectBelow, r.DetectAbove = DetectableSecondShare(
		r.Share1, float64(r.N1)/r.DesignEffect, float64(r.N2)/r.DesignEffect, r.Level, power, TwoSided,
	)
	switch {
	case r.DetectAbove != nil:
		r.Share2 = *r.DetectAbove
	case r.DetectBelow != nil:
		r.Share2 = *r.DetectBelow
	default:
		return fail(DepartureRange)
	}
	return nil
}

// normalPower is that of the pooled z test when the second share is p2.
func (r *TwoProportions) normalPower(p2 float64) float64 {
	return TwoSharesPower(r.Share1, p2, float64(r.N1)/r.DesignEffect, float64(r.N2)/r.DesignEffect, r.Level, TwoSided)
}

// TwoSharesPower is the chance that the pooled z test rejects, by the normal distribution: towards
// the side that is asked about, of a two-sided test towards either.
func TwoSharesPower(p1, p2, n1, n2, level float64, d Direction) float64 {
	mean := (n1*p1 + n2*p2) / (n1 + n2)
	return shiftPower(math.Abs(p1-p2), math.Sqrt(mean*(1-mean)*(1/n1+1/n2)), math.Sqrt(p1*(1-p1)/n1+p2*(1-p2)/n2), level, d)
}

// DetectableSecondShare finds the second shares nearest to the first, below and above it, whose
// difference the pooled z test would find with this power; nil on a side where none is or that
// is not asked about: Less asks whether the first lies below the second.
func DetectableSecondShare(share1, n1, n2, level, power float64, d Direction) (below, above *float64) {
	below, above = nearestWithPower(
		share1,
		power,
		func(p2 float64) float64 { return TwoSharesPower(share1, p2, n1, n2, level, d) },
	)
	switch d {
	case Less:
		below = nil
	case Greater:
		above = nil
	}
	return below, above
}

// exactTwo goes through all outcomes of both groups by their total.
func exactTwo(ctx context.Context, p1, p2 float64, n1, n2 int64, level float64) (*ExactTwo, error) {
	both := (float64(n1)*p1 + float64(n2)*p2) / float64(n1+n2)
	a, b, a0, b0 := chances(n1, p1), chances(n2, p2), chances(n1, both), chances(n2, both)
	z := prob.NormalUpperQuantile(level / 2)
	e := &ExactTwo{}
	var err error
	if e.FisherPower, err = fisherPower(ctx, a, b, level); err == nil {
		e.FisherSize, err = fisherPower(ctx, a0, b0, level)
	}
	if err != nil {
		return nil, err
	}
	for total := int64(0); total <= n1+n2; total++ {
		pooled := float64(total) / float64(n1+n2)
		se := math.Sqrt(pooled * (1 - pooled) * (1/float64(n1) + 1/float64(n2)))
		for x := max(0, total-n2); x <= min(n1, total); x++ {
			if d := float64(x)/float64(n1) - float64(total-x)/float64(n2); se > 0 && math.Abs(d) >= z*se {
				e.ZPower, e.ZSize = e.ZPower+a[x]*b[total-x], e.ZSize+a0[x]*b0[total-x]
			}
		}
	}
	return e, nil
}

// chances are those of 0 … n successes among n, each with the chance p.
func chances(n int64, p float64) []float64 {
	c := make([]float64, n+1)
	for k := range c {
		switch {
		case p == 0 || p == 1:
			if int64(k) == int64(p)*n {
				c[k] = 1
			}
		default:
			c[k] = math.Exp(prob.LnBinomial(int64(k), n, p))
		}
	}
	return c
}

// fisherPower is the chance that Fisher's two-sided test rejects, where a and b are the chances
// of 0 … n successes in either group. It goes through len(a)·len(b) outcomes.
func fisherPower(ctx context.Context, a, b []float64, level float64) (power float64, err error) {
	n1, n2 := int64(len(a)-1), int64(len(b)-1)
	weights := make([]float64, min(n1, n2)+1)
	for total := int64(0); total <= n1+n2; total++ {
		if err := ctx.Err(); err != nil {
			return 0, err
		}
		first, last := max(0, total-n2), min(n1, total)
		below, above := fisherRejects(weights[:last-first+1], n1, n2, total, first, level)
		for x := first; x < below; x++ {
			power += a[x] * b[total-x]
		}
		for x := above; x <= last; x++ {
			power += a[x] * b[total-x]
		}
	}
	return power, nil
}

// fisherRejects tells below which and from which first cell on the two-sided exact test of a
// table with this total rejects: the cells no likelier have together a chance of at most the
// level. Their weights, relative to the likeliest cell, rise up to it and fall behind it.
func fisherRejects(weights []float64, n1, n2, total, first int64, level float64) (below, above int64) {
	ratio := func(x int64) float64 { // of cell x+1 to cell x
		return float64(n1-x) * float64(total-x) / (float64(x+1) * float64(n2-total+x+1))
	}
	last := first + int64(len(weights)) - 1
	mode := min(max((n1+1)*(total+1)/(n1+n2+2), first), last)
	weights[mode-first] = 1
	sum := 1.0
	for x := mode; x < last; x++ {
		weights[x+1-first] = weights[x-first] * ratio(x)
		sum += weights[x+1-first]
	}
	for x := mode; x > first; x-- {
		weights[x-1-first] = weights[x-first] / ratio(x-1)
		sum += weights[x-1-first]
	}
	i, j := 0, len(weights)-1
	for so := 0.0; i <= j; {
		alike := min(weights[i], weights[j]) * (1 + 1e-7)
		k, l := i, j
		for ; k <= l && weights[k] <= alike; k++ {
			so += weights[k]
		}
		for ; l >= k && weights[l] <= alike; l-- {
			so += weights[l]
		}
		if so > level*sum*(1+1e-12) {
			break
		}
		i, j = k, l
	}
	return first + int64(i), first + int64(j) + 1
}
