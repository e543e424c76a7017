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
		critical, beyond = prob.StudentUpperQuantile(level, df), func(t, delta float64) float64 { return prob.NoncentralStudentUpper(t, df, delta) }
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
	far := 1.0
	for MeanPower(far, df, level, d) < power {
		far *= 2
	}
	near := 0.0
	for range 40 {
		if mid := (near + far) / 2; MeanPower(mid, df, level, d) < power {
			near = mid
		} else {
			far = mid
		}
	}
	return far
}
