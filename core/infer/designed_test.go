package infer

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Two answers are one share: the second-order F is the square of the linear t, and so is Wald's.
func TestTwoAnswersAreOneShare(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		p, claimed, v, df := 0.05+0.9*r.Float64(), 0.05+0.9*r.Float64(), 1e-4+0.01*r.Float64(), 1+r.IntN(60)
		n := int64(20 + r.IntN(500))
		one := DesignedShare{Share: p, Variance: v, N: n, KishN: float64(n), DF: df}.Test(claimed)
		two := ComputeRaoScott(RaoScottInput{
			N: n, Departure: []float64{p - claimed, claimed - p}, Expected: []float64{claimed, 1 - claimed},
			Covariance: [][]float64{{v, -v}, {-v, v}}, Free: []int{0}, DF: df, Level: 0.05,
		})
		square := *one.Linear.T * *one.Linear.T
		assert.InEpsilon(t, square, *two.SecondF, 1e-10)
		assert.InDelta(t, one.Linear.TwoSided.Value, two.SecondFP.Value, 1e-10)
		assert.InEpsilon(t, square, *two.F, 1e-10)
		assert.Zero(t, *two.ASquared)
	}
}

// Intervals hold the share, lie within 0 and 1, and are exact at the ends; without degrees of freedom
// there are none.
func TestIntervalsOfDesignedShares(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(7, 8))
	for range 300 {
		s := DesignedShare{Share: r.Float64(), N: int64(2 + r.IntN(400)), DF: 1 + r.IntN(50)}
		s.KishN, s.Variance = float64(s.N)*(0.3+0.7*r.Float64()), s.Share*(1-s.Share)*(0.3+3*r.Float64())/float64(s.N)
		u := s.Uncertainty(0.95)
		for _, i := range []*Interval{&u.Linear.Interval, u.Logit, u.Wilson, u.Beta} {
			require.NotNil(t, i)
			assert.True(t, i.Contains(s.Share) && i.Lower >= 0 && i.Upper <= 1, "%+v %+v", s, i)
		}
		assert.InEpsilon(t, s.Share*(1-s.Share)/s.Variance, *u.EffectiveN, 1e-12)
		assert.LessOrEqual(t, *u.BetaN, float64(s.N))
	}
	for share, end := range map[float64]func(i *Interval) float64{0: func(i *Interval) float64 { return i.Lower }, 1: func(i *Interval) float64 { return i.Upper }} {
		u := DesignedShare{Share: share, N: 30, KishN: 20, DF: 9}.Uncertainty(0.95)
		assert.Equal(t, share, end(u.Wilson))
		assert.Equal(t, share, end(u.Beta))
		assert.Equal(t, 20.0, *u.EffectiveN, "Kish's where there is no variance")
		assert.Nil(t, u.Logit)
		assert.Nil(t, u.DesignEffect)
	}
	without := DesignedShare{Share: 0.5, Variance: 0.01, N: 3, KishN: 3}.Uncertainty(0.95)
	assert.Nil(t, without.Beta)
	assert.Nil(t, without.Linear)
	sure := DesignedShare{Share: 0.4, N: 10, KishN: 10, DF: 4}.Uncertainty(0.95)
	assert.Nil(t, sure.EffectiveN, "infinite")
	assert.Equal(t, Interval{0.4, 0.4}, *sure.Wilson)
	assert.Equal(t, 10.0, *sure.BetaN)
}

// A covariance that cannot be inverted leaves Wald's statistic out, and nothing else.
func TestSingularCovariances(t *testing.T) {
	t.Parallel()
	in := RaoScottInput{
		N: 50, Departure: []float64{0.1, -0.05, -0.05}, Expected: []float64{0.4, 0.3, 0.3}, Free: []int{0, 1}, DF: 6, Level: 0.05,
		Covariance: [][]float64{{0.01, -0.005, -0.005}, {-0.005, 0.0025, 0.0025}, {-0.005, 0.0025, 0.0025}},
	}
	r := ComputeRaoScott(in)
	assert.Nil(t, r.W)
	assert.NotNil(t, r.SecondFP)
	in.Covariance = [][]float64{{0, 0, 0}, {0, 0, 0}, {0, 0, 0}}
	r = ComputeRaoScott(in)
	assert.Nil(t, r.SecondF)
	assert.Nil(t, ComputeTTest(0.1, 0, 5).T)
	assert.Nil(t, ComputeTTest(0.1, 0.1, 0).T)
	in.Covariance, in.DF = [][]float64{{0.01, -0.005, -0.005}, {-0.005, 0.02, -0.015}, {-0.005, -0.015, 0.02}}, 1
	r = ComputeRaoScott(in)
	assert.NotNil(t, r.SimpleF)
	assert.Nil(t, r.F, "ν − q + 1 is 0")
	assert.False(t, math.IsNaN(r.SecondFP.Value))
}
