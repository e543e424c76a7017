package plan

import (
	"math"

	"widetally/core/infer"
	"widetally/core/prob"
)

// MarginInput names one of N and Margin; the other is found.
type MarginInput struct {
	N          *int64
	Margin     *float64 // half the interval's width as a share, 0–1
	Share      float64  // expected, 0–1; ½ is the worst case
	Confidence float64
	// Population is the size of the whole, 0 for one so large that it does not matter.
	Population int64
	Design
}

// Margin is a plan for the width of an interval of one share.
type Margin struct {
	// DesignEffect is that of the design; 1 for a simple random sample.
	DesignEffect      float64
	Share, Confidence float64
	Population        int64
	Z                 float64
	N                 int64
	Margin            float64 // reached with N, after the correction
	// NUnrounded is z²p(1 − p)/E² for an endless population, NFinite what the finite one
	// makes of it, n0/(1 + (n0 − 1)/N) (Cochran 1977, Sampling Techniques, section 4.4);
	// set when N was asked for.
	NUnrounded, NFinite *float64
	// Correction is √((Population − N)/(Population − 1)), 1 for an endless population.
	Correction float64
}

// ComputeMargin relates the number of respondents and the margin of error of a share by
// the plain normal interval. It holds for a simple random sample in which everybody
// answers, or with a design effect, and for shares not too near 0 or 1.
func ComputeMargin(in MarginInput) (*Margin, error) {
	switch {
	case !(in.Confidence > 0 && in.Confidence < 1):
		return nil, fail(infer.LevelRange)
	case !(in.Share > 0 && in.Share < 1):
		return nil, fail(infer.ClaimedRange)
	case in.Population < 0 || in.Population == 1 || in.Population > maxN:
		return nil, fail(PopulationSize)
	case (in.N == nil) == (in.Margin == nil):
		return nil, fail(TwoOfThree)
	case in.Margin != nil && !(*in.Margin > 0 && *in.Margin < 1):
		return nil, fail(infer.MarginRange)
	case in.N != nil && (*in.N < 1 || *in.N > maxN || in.Population > 0 && *in.N > in.Population):
		return nil, fail(NumberRange)
	}
	effect, err := in.effect()
	if err != nil {
		return nil, err
	}
	r := &Margin{
		DesignEffect: effect,
		Share:        in.Share,
		Confidence:   in.Confidence,
		Population:   in.Population,
		Z:            prob.NormalUpperQuantile((1 - in.Confidence) / 2),
		Correction:   1,
	}
	variance := effect * in.Share * (1 - in.Share)
	if in.N != nil {
		r.N = *in.N
	} else {
		n0 := r.Z * r.Z * variance / *in.Margin / *in.Margin
		if n0 > maxN {
			return nil, fail(NumberRange)
		}
		r.NUnrounded = &n0
		r.N = int64(math.Ceil(n0))
		if in.Population > 0 {
			n := n0 / (1 + (n0-1)/float64(in.Population))
			r.NFinite = &n
			r.N = int64(math.Ceil(n))
		}
		r.N = max(1, r.N)
	}
	if in.Population > 0 {
		r.Correction = math.Sqrt(float64(in.Population-r.N) / float64(in.Population-1))
	}
	r.Margin = r.Z * math.Sqrt(variance/float64(r.N)) * r.Correction
	return r, nil
}
