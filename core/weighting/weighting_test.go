package weighting

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/design"
)

func invented(r *rand.Rand, n, categories int) (m Margin) {
	for i := range n {
		m.Categories = append(m.Categories, (i+r.IntN(categories))%categories)
	}
	for c := range categories {
		m.Categories[c] = c
		m.Targets = append(m.Targets, 1+3*r.Float64())
	}
	return m
}

// Raked weights hold every margin, add to the total, and one margin is poststratification.
func TestLawsOfWeights(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(3, 4))
	for range 50 {
		n := 60 + r.IntN(100)
		margins := []Margin{invented(r, n, 2+r.IntN(3)), invented(r, n, 2+r.IntN(4))}
		b := Base{Rows: n, Missing: MissingCategory, Number: 1000}
		for range n {
			b.Weights = append(b.Weights, 0.5+r.Float64())
		}
		made, err := Rake(t.Context(), b, margins, nil)
		require.NoError(t, err)
		require.NotNil(t, made)
		assert.InDelta(t, 1000, made.SumWeights, 1e-8)
		for m, margin := range margins {
			for c, target := range margin.Targets {
				assert.InDelta(t, target/sum(margin.Targets), made.MarginShare[m][c], 1e-11)
			}
		}
		one, err := Rake(t.Context(), b, margins[:1], nil)
		require.NoError(t, err)
		by, err := Poststratify(b, margins[0])
		require.NoError(t, err)
		assert.InDeltaSlice(t, one.Weight, by.Weight, 1e-9)
		bounded, err := Rake(t.Context(), b, margins, &Bounds{0.25, 4})
		require.NoError(t, err)
		if bounded != nil {
			assert.LessOrEqual(t, bounded.MaximumToMean, 4*(1+1e-9))
			assert.GreaterOrEqual(t, bounded.MinimumToMean, 0.25*(1-1e-9))
		}
	}
}

// Margins that contradict each other come to no end, and say so.
func TestMarginsThatCannotBe(t *testing.T) {
	t.Parallel()
	same := []int{0, 0, 1, 1}
	made, err := Rake(t.Context(), Base{Rows: 4}, []Margin{{same, []float64{1, 1}}, {same, []float64{1, 3}}}, nil)
	require.NoError(t, err)
	assert.Nil(t, made)
	_, err = Rake(t.Context(), Base{Rows: 4}, []Margin{{same, []float64{1, 1, 1}}}, nil)
	assert.ErrorContains(t, err, string(EmptyCategory))
	_, err = Rake(t.Context(), Base{Rows: 4}, []Margin{{same, []float64{1, 0}}}, nil)
	assert.ErrorContains(t, err, string(TargetNotPositive))
	// Who cannot be placed keeps the share under the base weights, or is left out.
	lacking := []Margin{{[]int{0, 1, design.None, 1}, []float64{1, 1}}}
	made, err = Rake(t.Context(), Base{Rows: 4, Missing: MissingCategory}, lacking, nil)
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{1.5, 0.75, 1, 0.75}, made.Weight, 1e-12)
	made, err = Rake(t.Context(), Base{Rows: 4, Missing: MissingLeftOut}, lacking, nil)
	require.NoError(t, err)
	assert.True(t, math.IsNaN(made.Weight[2]))
	assert.InDelta(t, 3, made.SumWeights, 1e-12)
}
