package infer

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
)

// The adjustments are what their definitions say, one p after the other: Holm's the largest of
// what the sequentially rejective procedure would take it for, Benjamini and Hochberg's the
// smallest level at which theirs finds it. It does not matter in which order the claims stand,
// nor how far out they lie.
func TestAdjustmentsByTheirDefinitions(t *testing.T) {
	rng := rand.New(rand.NewPCG(13, 8))
	for round := range 200 {
		m := 1 + rng.IntN(12)
		logs := make([]float64, m)
		for i := range logs {
			switch rng.IntN(5) {
			case 0:
				logs[i] = 0 // p = 1
			case 1:
				logs[i] = -400 * rng.Float64() // beyond what a float holds
			default:
				logs[i] = math.Log10(rng.Float64())
			}
			if i > 0 && rng.IntN(4) == 0 {
				logs[i] = logs[rng.IntN(i)] // ties
			}
		}
		p := make([]prob.Prob, m)
		for i, l := range logs {
			p[i] = prob.Prob{Value: math.Pow(10, l), Log10: l}
		}
		r, err := Adjust(p)
		require.NoError(t, err)
		for i := range p {
			holm, hochberg := math.Inf(-1), 0.0
			for j := range p { // everyone whose p is no larger counts in Holm's, no smaller in the other
				atLeast, atMost := 0, 0
				for k := range p {
					if logs[k] >= logs[j] {
						atLeast++
					}
					if logs[k] <= logs[j] {
						atMost++
					}
				}
				if logs[j] <= logs[i] {
					holm = math.Max(holm, math.Min(0, logs[j]+math.Log10(float64(atLeast))))
				} else {
					hochberg = math.Min(hochberg, logs[j]+math.Log10(float64(m)/float64(atMost)))
				}
				if logs[j] == logs[i] {
					hochberg = math.Min(hochberg, logs[j]+math.Log10(float64(m)/float64(atMost)))
				}
			}
			const slip = 1e-12
			assert.InDelta(t, holm, r.Holm[i].Log10, slip*math.Max(1, -holm), "Holm of %v, round %d", logs, round)
			assert.InDelta(t, math.Min(0, hochberg), r.BenjaminiHochberg[i].Log10, slip*math.Max(1, -hochberg), "Benjamini and Hochberg of %v, round %d", logs, round)
			assert.InDelta(t, math.Min(0, logs[i]+math.Log10(float64(m))), r.Bonferroni[i].Log10, slip*math.Max(1, -logs[i]))
			assert.False(t, r.Bonferroni[i].Less(r.Holm[i]) || r.Holm[i].Less(r.BenjaminiHochberg[i]) || r.BenjaminiHochberg[i].Less(p[i]), "from the mildest to the strictest: %v", logs)
		}
		order, mixed := rng.Perm(m), make([]prob.Prob, m)
		for to, from := range order {
			mixed[to] = p[from]
		}
		again, err := Adjust(mixed)
		require.NoError(t, err)
		for to, from := range order {
			assert.Equal(t, r.Holm[from], again.Holm[to])
			assert.Equal(t, r.BenjaminiHochberg[from], again.BenjaminiHochberg[to])
		}
	}
	for _, wrong := range [][]prob.Prob{nil, {{Value: 1.5}}, {{Value: -0.1}}, make([]prob.Prob, MaxClaims+1)} {
		_, err := Adjust(wrong)
		assert.Error(t, err)
	}
}
