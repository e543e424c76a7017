package prob

import "math"

// NoncentralStudentUpper is P(T ≥ t) for Student's t with df degrees of freedom and noncentrality
// delta: T = (Z + delta)/S with Z normal and S² chi-square over its df (Johnson and Welch 1940,
// Applications of the non-central t-distribution). df must be above 0, t and delta finite.
//
//	P(T ≥ t) = ∫ Φ(delta − t·s) f(s) ds,   f(s) = 2 (df/2)^(df/2)/Γ(df/2) s^(df−1) e^(−df·s²/2)
//
// The integral is taken over ln s, where the integrand falls off on both sides faster than any
// power and is smooth, so that the rule of equal steps gains digits with every halving. It holds
// to about ten digits of the value itself while that is not below 1e-12, which is what power needs.
func NoncentralStudentUpper(t, df, delta float64) float64 {
	if df > 1e10 {
		return NormalUpper(t - delta).Value
	}
	// The density of x = ln s is that of f times a constant, e^{df·(x − (e^{2x} − 1)/2)}: highest at
	// x = 0, below it as e^{df·x} at the slowest. The constant is found by the same sum.
	below, above := -math.Max(9/math.Sqrt(df), 40/df), math.Log1p(9/math.Sqrt(df))
	const steps = 800
	all, beyond := 0.0, 0.0
	for i := range steps + 1 {
		x := below + float64(i)*(above-below)/steps
		weight := math.Exp(df * (x - math.Expm1(2*x)/2))
		all += weight
		beyond += weight * math.Erfc((t*math.Exp(x)-delta)/math.Sqrt2) / 2
	}
	return beyond / all
}
