package plan

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A design effect makes the respondents that are needed as many times more, and so many respondents tell
// what their number divided by it does; clusters give it by Kish's 1 + (m − 1)ρ.
func TestPlansWithADesign(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	clusters := Design{ClusterSize: ref(21.0), Correlation: ref(0.05)} // 1 + 20 × 0.05 = 2
	plain, err := ComputeOneProportion(ctx, OneProportionInput{Claimed: 0.5, True: ref(0.56), Power: ref(0.8), Level: 0.05})
	require.NoError(t, err)
	twice, err := ComputeOneProportion(ctx, OneProportionInput{Claimed: 0.5, True: ref(0.56), Power: ref(0.8), Level: 0.05, Design: clusters})
	require.NoError(t, err)
	assert.InEpsilon(t, 2**plain.NUnrounded, *twice.NUnrounded, 1e-12)
	assert.InDelta(t, 2, twice.DesignEffect, 1e-12)
	assert.Nil(t, twice.Exact, "the binomial test is of a simple random sample")
	assert.GreaterOrEqual(t, twice.Power, 0.8)

	half, err := ComputeTwoProportions(ctx, TwoProportionsInput{Share1: 0.4, Share2: ref(0.5), N1: ref(int64(300)), N2: ref(int64(200)), Level: 0.05})
	require.NoError(t, err)
	same, err := ComputeTwoProportions(ctx, TwoProportionsInput{Share1: 0.4, Share2: ref(0.5), N1: ref(int64(600)), N2: ref(int64(400)), Level: 0.05, Design: Design{Effect: ref(2.0)}})
	require.NoError(t, err)
	assert.InEpsilon(t, half.Power, same.Power, 1e-12)

	w, err := ComputeChiSquare(ChiSquareInput{W: ref(0.2), N: ref(int64(150)), DF: 3, Level: 0.05})
	require.NoError(t, err)
	designed, err := ComputeChiSquare(ChiSquareInput{W: ref(0.2), N: ref(int64(300)), DF: 3, Level: 0.05, Design: clusters})
	require.NoError(t, err)
	assert.InEpsilon(t, w.Power, designed.Power, 1e-12)
	needed, err := ComputeChiSquare(ChiSquareInput{W: ref(0.2), Power: ref(0.9), DF: 3, Level: 0.05, Design: clusters})
	require.NoError(t, err)
	assert.GreaterOrEqual(t, needed.Power, 0.9)
	assert.Less(t, *needed.PowerOneFewer, 0.9)

	margin, err := ComputeMargin(MarginInput{Margin: ref(0.03), Share: 0.5, Confidence: 0.95, Design: Design{Effect: ref(1.8)}})
	require.NoError(t, err)
	assert.InDelta(t, 1.8*1067.07, *margin.NUnrounded, 0.1)

	for name, d := range map[string]Design{
		"no effect": {Effect: ref(0.0)}, "both": {Effect: ref(2.0), ClusterSize: ref(2.0), Correlation: ref(0.1)},
		"half": {ClusterSize: ref(5.0)}, "beyond": {ClusterSize: ref(5.0), Correlation: ref(1.5)}, "below": {ClusterSize: ref(11.0), Correlation: ref(-0.1)},
	} {
		_, err := ComputeMargin(MarginInput{Margin: ref(0.03), Share: 0.5, Confidence: 0.95, Design: d})
		assert.ErrorContains(t, err, string(EffectRange), name)
	}
}
