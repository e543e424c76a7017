package prob

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Without noncentrality it is Student's t. With it P(T ≥ 0) is Φ(delta) whatever df, both sides
// mirror each other, far out in df it is the normal distribution, and its mean is
// delta·√(df/2)·Γ((df−1)/2)/Γ(df/2) (Johnson and Welch 1940).
func TestNoncentralStudent(t *testing.T) {
	t.Parallel()
	for _, df := range []float64{1, 1.5, 2, 5, 29.3, 1000, 1e6} {
		for _, x := range []float64{-3, -0.5, 0, 1, 2.7, 12} {
			assert.InDelta(t, StudentUpper(x, df).Value, NoncentralStudentUpper(x, df, 0), 1e-10, "df %g, t %g", df, x)
		}
		for _, delta := range []float64{-1, 0.3, 2, 8} {
			assert.InDelta(t, NormalLower(delta).Value, NoncentralStudentUpper(0, df, delta), 1e-10, "df %g", df)
			assert.InDelta(t, 1, NoncentralStudentUpper(1.3, df, delta)+NoncentralStudentUpper(-1.3, df, -delta), 1e-10, "mirrored, df %g", df)
		}
	}
	assert.InDelta(t, NormalUpper(2).Value, NoncentralStudentUpper(3, 1e11, 1), 1e-9)
	assert.InDelta(t, NormalUpper(2).Value, NoncentralStudentUpper(3, 1e9, 1), 1e-8)
	const df, delta, step = 9.0, 1.4, 0.05
	mean := 0.0
	for x := step / 2; x < 60; x += step {
		mean += step * (NoncentralStudentUpper(x, df, delta) - (1 - NoncentralStudentUpper(-x, df, delta)))
	}
	a, _ := math.Lgamma((df - 1) / 2)
	b, _ := math.Lgamma(df / 2)
	assert.InDelta(t, delta*math.Sqrt(df/2)*math.Exp(a-b), mean, 1e-5)
}
