package infer

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
)

func TestMeansByHand(t *testing.T) {
	sigma := func(s float64) *float64 { return &s }
	compute := func(first Sample, second *Sample, claimed float64) *Means {
		r, err := ComputeMeans(MeansInput{First: first, Second: second, Claimed: claimed, Confidence: 0.95})
		require.NoError(t, err)
		return r
	}
	// z = (10 − 8)/(4/√16) = 2; of two, (5 − 3)/√(3²/9 + 4²/16) = √2.
	one := compute(Sample{N: 16, Mean: 10, Sigma: sigma(4)}, nil, 8)
	assert.Equal(t, 2.0, one.Normal.Statistic)
	assert.Nil(t, one.Student)
	assert.Equal(t, []Condition{{GroupAtLeast, false, 16, 30}}, one.Conditions)
	assert.InEpsilon(t, 1.96, (one.Normal.Interval.Upper-10)/1, 1e-4)
	two := compute(Sample{N: 9, Mean: 5, Sigma: sigma(3)}, &Sample{N: 16, Mean: 3, Sigma: sigma(4)}, 0)
	assert.InEpsilon(t, math.Sqrt2, two.Normal.Statistic, 1e-14)
	// One sample: t = (12 − 10)/(6/√9) = 1 with 8 degrees of freedom, d = 1/3.
	student := compute(Sample{N: 9, Mean: 12, SD: 6}, nil, 10)
	assert.Equal(t, 1.0, student.Student.Statistic)
	assert.Equal(t, 8.0, *student.Student.DF)
	assert.InEpsilon(t, 1.0/3, *student.CohensD.Value, 1e-14)
	// With 1 degree of freedom t is Cauchy's: P(T ≥ 1) = 1/4.
	cauchy := compute(Sample{N: 2, Mean: 1, SD: math.Sqrt2}, nil, 0)
	assert.InEpsilon(t, 0.25, cauchy.Student.Tails.Greater.Value, 1e-13)
	// Welch: the means have variances 4/2 and 12/3: t = 6/√6, df = 36/(4/1 + 16/2) = 3.
	welch := compute(Sample{N: 2, Mean: 9, SD: 2}, &Sample{N: 3, Mean: 3, SD: math.Sqrt(12)}, 0)
	assert.InEpsilon(t, math.Sqrt(6), welch.Student.Statistic, 1e-14)
	assert.InEpsilon(t, 3.0, *welch.Student.DF, 1e-14)
	// Pooled: s² = (4 + 24)/3, t = 6/√(s²·5/6).
	assert.InEpsilon(t, 6/math.Sqrt(28.0/3*5/6), welch.Pooled.Statistic, 1e-14)
	assert.Equal(t, 3.0, *welch.Pooled.DF)
	assert.InEpsilon(t, 6/math.Sqrt(28.0/3), *welch.CohensD.Value, 1e-14)
}

// The pooled t squared is F with 1 and n1 + n2 − 2; groups alike in size and spread make
// Welch's test the pooled one; testing the interval's end gives p = α; swapping the groups
// turns the sign.
func TestMeansLaws(t *testing.T) {
	for _, in := range []MeansInput{
		{First: Sample{N: 12, Mean: 3.2, SD: 1.1}, Second: &Sample{N: 30, Mean: 2.4, SD: 2.7}},
		{First: Sample{N: 25, Mean: -4, SD: 3}, Second: &Sample{N: 25, Mean: 1, SD: 3}},
		{First: Sample{N: 5, Mean: 100, SD: 15}},
	} {
		in.Confidence = 0.9
		r, err := ComputeMeans(in)
		require.NoError(t, err)
		for _, end := range []float64{r.Student.Interval.Lower, r.Student.Interval.Upper} {
			at := in
			at.Claimed = end
			edge, err := ComputeMeans(at)
			require.NoError(t, err)
			assert.InEpsilon(t, 0.1, edge.Student.Tails.TwoSided.Value, 1e-10)
		}
		if in.Second == nil {
			continue
		}
		f := prob.FUpper(r.Pooled.Statistic*r.Pooled.Statistic, 1, *r.Pooled.DF)
		assert.InEpsilon(t, f.Value, r.Pooled.Tails.TwoSided.Value, 1e-11)
		df, n1, n2 := *r.Student.DF, float64(in.First.N), float64(in.Second.N)
		assert.True(t, df >= math.Min(n1, n2)-1 && df <= n1+n2-2+1e-9, "%v", df)
		if n1 == n2 && in.First.SD == in.Second.SD {
			assert.InEpsilon(t, r.Pooled.Statistic, r.Student.Statistic, 1e-13)
			assert.InEpsilon(t, *r.Pooled.DF, df, 1e-13)
		}
		back, err := ComputeMeans(MeansInput{First: *in.Second, Second: &in.First, Confidence: 0.9})
		require.NoError(t, err)
		assert.Equal(t, r.Student.Statistic, -back.Student.Statistic)
		assert.InEpsilon(t, r.Student.Tails.Less.Value, back.Student.Tails.Greater.Value, 1e-12)
	}
}

func TestMeansRefuse(t *testing.T) {
	known, none := 2.0, 0.0
	ok := Sample{N: 5, Mean: 1, SD: 1}
	for name, c := range map[string]struct {
		in  MeansInput
		why Reason
		at  int
	}{
		"nobody":                {MeansInput{First: Sample{}}, NoObservations, 0},
		"one without sigma":     {MeansInput{First: ok, Second: &Sample{N: 1, SD: 1}}, TooFewForSD, 1},
		"negative spread":       {MeansInput{First: Sample{N: 4, SD: -1}}, SDNegative, 0},
		"sigma of zero":         {MeansInput{First: Sample{N: 4, Sigma: &none}}, SigmaNotPositive, 0},
		"sigma for one of two":  {MeansInput{First: Sample{N: 4, Sigma: &known}, Second: &ok}, SigmaNotPositive, 1},
		"no spread at all":      {MeansInput{First: Sample{N: 4, Mean: 3}}, NoVariation, -1},
		"a mean that is none":   {MeansInput{First: Sample{N: 4, Mean: math.NaN(), SD: 1}}, NotFinite, 0},
		"a claim that is none":  {MeansInput{First: ok, Claimed: math.Inf(1)}, NotFinite, -1},
		"more than can be held": {MeansInput{First: Sample{N: MaxCount + 1, SD: 1}}, CountTooLarge, 0},
	} {
		c.in.Confidence = 0.95
		_, err := ComputeMeans(c.in)
		var bad *InputError
		require.ErrorAs(t, err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
		assert.Equal(t, c.at, bad.Index, name)
	}
}
