package plan

import (
	"math"

	"widetally/core/prob"
)

// MeanPower is the chance that a t test with df degrees of freedom rejects when the truth lies
// away standard errors from the claimed value, towards the side that is asked about, of a
// two-sided test towards either; of nearly normal numbers (Cohen 1988, chapter 2, with the
// noncentral t distribution). An infinite df is the z test.
func MeanPower(away, df, level float64, d Direction) float64 {
	if d == TwoSided {
		level /= 2
	}
	critical, beyond := prob.NormalUpperQuantile(level), func(t, delta float64) float64 { return prob.NormalUpper(t - delta).Value }
	if !math.IsInf(df, 1) {
		critical, beyond = prob.StudentUpperQuantile(
			level,
			df,
		), func(t, delta float64) float64 { return prob.NoncentralStudentUpper(t, df, delta) }
	}
	power := beyond(critical, away)
	if d == TwoSided {
		power += beyond(critical, -away)
	}
	return math.Min(1, power)
}

// DetectableMean is how many standard errors the truth must lie away to be found with a power,
// by MeanPower; power must lie above level and below 1.
func DetectableMean(df, level, power float64, d Direction) float64 {
	short := func(away float64) float64 { return MeanPower(away, df, level, d) - power }
	near, far := 0.0, 2.0
	below, above := level-power, short(far)
	for above < 0 {
		near, below = far, above
		far *= 2
		above = short(far)
	}
	// The rule of false position, with the end that stays halved in weight (Dowell and Jarratt 1971,
	// the Illinois algorithm); it is shown with four digits.
	const enough = 1e-8
	for range 60 {
		at := far - above*(far-near)/(above-below)
		switch missing := short(at); {
		case math.Abs(missing) < enough:
			return at
		case missing > 0:
			far, above, below = at, missing, below/2
		default:
			near, below, above = at, missing, above/2
		}
	}
	return far
}
