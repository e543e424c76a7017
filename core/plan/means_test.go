package plan

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/prob"
)

// What is said to be found four times in five is found four times in five, also from two
// respondents: counted over samples of normal numbers.
func TestADetectableMeanIsDetected(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for _, k := range []struct {
		n int
		d Direction
	}{{2, TwoSided}, {3, Greater}, {3, TwoSided}, {12, TwoSided}} {
		df := float64(k.n - 1)
		away := DetectableMean(df, 0.05, FourInFive, k.d) / math.Sqrt(float64(k.n)) // in standard deviations
		critical := prob.StudentUpperQuantile(0.05, df)
		if k.d == TwoSided {
			critical = prob.StudentUpperQuantile(0.025, df)
		}
		found := 0
		const samples = 20_000
		for range samples {
			sum, squares := 0.0, 0.0
			for range k.n {
				x := away + r.NormFloat64()
				sum, squares = sum+x, squares+x*x
			}
			mean := sum / float64(k.n)
			se := math.Sqrt((squares - sum*mean) / df / float64(k.n))
			if tt := mean / se; tt >= critical || k.d == TwoSided && tt <= -critical {
				found++
			}
		}
		assert.InDelta(t, FourInFive, float64(found)/samples, 0.014, "n %d %s", k.n, k.d) // five standard errors
	}
}

// The z test is the limit, and both tails count.
func TestPowerOfMeans(t *testing.T) {
	assert.InDelta(t, 0.05, MeanPower(0, 7, 0.05, TwoSided), 1e-9)
	assert.InDelta(t, 0.05, MeanPower(0, math.Inf(1), 0.05, TwoSided), 1e-12)
	assert.InDelta(t, prob.NormalUpperQuantile(0.05)+prob.NormalUpperQuantile(0.2), DetectableMean(math.Inf(1), 0.05, 0.8, Greater), 1e-6)
	assert.InDelta(t, MeanPower(2, math.Inf(1), 0.05, TwoSided), MeanPower(2, 1e7, 0.05, TwoSided), 1e-6)
	assert.InDelta(t, 0.05, SharePower(0.3, 0.3, 50, 0.05, TwoSided), 1e-12, "no departure: the level itself, on both sides")
	assert.InDelta(t, 0.05, TwoSharesPower(0.3, 0.3, 50, 60, 0.05, TwoSided), 1e-12)
}
