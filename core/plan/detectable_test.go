package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is named as detectable has just the power asked for, and lies on the side asked about.
func TestWhatIsDetectableHasThePowerAskedFor(t *testing.T) {
	for _, claimed := range []float64{0.1, 0.5, 0.93} {
		for _, n := range []int64{40, 400, 40_000} {
			for _, d := range []Direction{TwoSided, Less, Greater} {
				below, above := DetectableShare(claimed, float64(n), 0.05, 0.8, d)
				if d == Less {
					assert.Nil(t, above)
				}
				if d == Greater {
					assert.Nil(t, below)
				}
				for _, x := range []*float64{below, above} {
					if x != nil {
						assert.InDelta(t, 0.8, SharePower(claimed, *x, float64(n), 0.05, d), 1e-6)
						assert.Equal(t, x == below, *x < claimed)
					}
				}
			}
		}
	}
	below, above := DetectableSecondShare(0.4, 200, 300, 0.05, 0.8, TwoSided)
	require.NotNil(t, below)
	require.NotNil(t, above)
	assert.InDelta(t, 0.8, TwoSharesPower(0.4, *below, 200, 300, 0.05, TwoSided), 1e-6)
	assert.InDelta(t, 0.8, TwoSharesPower(0.4, *above, 200, 300, 0.05, TwoSided), 1e-6)
	below, above = DetectableSecondShare(0.4, 200, 300, 0.05, 0.8, Less)
	assert.Nil(t, below, "the first below the second: the second lies above")
	require.NotNil(t, above)
	// Three respondents find nothing near.
	below, _ = DetectableShare(0.02, 3, 0.05, 0.8, Less)
	assert.Nil(t, below)
}
