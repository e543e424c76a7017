// Package sourcetest is what every source of counts must do, whatever it counts: the same
// survey, given to each as it takes it, answers the same.
package sourcetest

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/tally"
)

// CSV is the survey as a file: a ward, caddy use before and after, reasons to choose from,
// and years at the address. An empty cell is missing.
const CSV = `ward,before,after,reasons,years
Harbour,yes,yes,smell;time,3
Harbour,yes,no,smell,5
Fenside,no,yes,,12
Fenside,no,,time,7
Saltings,,yes,smell,3
Harbour,no,no,time,
Fenside,yes,yes,,3
Harbour,no,yes,smell;time,8
`

// Source is a source of the survey with the keys of its questions.
type Source struct {
	analysis.Source
	Ward, Before, After, Reasons, Years analysis.Key
	// Fenside is a subgroup of those in Fenside; "" where the source has no subgroups.
	Fenside analysis.Key
	// CountsOnly says that the source has no respondents.
	CountsOnly bool
}

// Run holds a source against what was counted by hand in CSV.
func Run(t *testing.T, s Source) {
	t.Helper()
	ctx := context.Background()
	t.Run("question", func(t *testing.T) {
		q, err := s.Question(ctx, s.Ward)
		require.NoError(t, err)
		var codes []string
		for _, a := range q.Proper() {
			codes = append(codes, a.Code)
		}
		assert.ElementsMatch(t, []string{"Harbour", "Fenside", "Saltings"}, codes)
	})
	t.Run("frequencies", func(t *testing.T) {
		assert.Equal(t, map[string]int64{"Harbour": 4, "Fenside": 3, "Saltings": 1}, s.frequencies(t, s.Ward, ""))
		f, err := s.Frequencies(ctx, s.Before, "")
		require.NoError(t, err)
		assert.Equal(t, []int64{8, 7, 1}, []int64{f.Everyone, f.Answered, f.Missing})
	})
	t.Run("crosstab", func(t *testing.T) {
		c, err := s.Crosstab(ctx, s.Ward, s.Before, "", "")
		require.NoError(t, err)
		assert.Equal(t, map[string]int64{"Harbour|yes": 2, "Harbour|no": 2, "Fenside|no": 2, "Fenside|yes": 1, "Saltings|": 1}, cells(c, 0))
		everyone, noRow, noColumn := c.Everyone()
		assert.Equal(t, []int64{8, 0, 1}, []int64{everyone, noRow, noColumn}, "the missing are kept")
		turned, err := s.Crosstab(ctx, s.Before, s.Ward, "", "")
		require.NoError(t, err)
		assert.Equal(t, int64(2), cells(turned, 0)["no|Fenside"])
	})
	t.Run("crosstab in layers", func(t *testing.T) {
		c, err := s.Crosstab(ctx, s.Ward, s.Before, s.After, "")
		require.NoError(t, err)
		require.NotNil(t, c.Layers)
		byLayer := map[string]map[string]int64{}
		for l, a := range c.Layers.Answers {
			byLayer[a.Code] = cells(c, l)
		}
		assert.Equal(t, map[string]int64{"Harbour|yes": 1, "Fenside|no": 1, "Saltings|": 1, "Fenside|yes": 1, "Harbour|no": 1}, byLayer["yes"])
		assert.Equal(t, map[string]int64{"Harbour|yes": 1, "Harbour|no": 1}, byLayer["no"])
		assert.Equal(t, int64(2), cells(c.Pooled(), 0)["Harbour|yes"])
	})
	t.Run("paired", func(t *testing.T) {
		p, err := analysis.Paired(ctx, s, s.Before, s.After, "")
		require.NoError(t, err)
		got := map[string]int64{}
		for i, a := range p.Answers {
			for j, b := range p.Answers {
				got[a.Code+"|"+b.Code] = p.Counts[i][j]
			}
		}
		assert.Equal(t, map[string]int64{"yes|yes": 2, "yes|no": 1, "no|yes": 2, "no|no": 1}, got)
	})
	t.Run("multiple response", func(t *testing.T) {
		m, err := s.MultipleResponse(ctx, s.Reasons, "")
		require.NoError(t, err)
		assert.Equal(t, map[string]int64{"smell": 4, "time": 4}, s.frequencies(t, s.Reasons, ""))
		assert.Equal(t, int64(8), m.Responses)
		assert.Equal(t, []int64{0, 4, 2}, m.Chosen, "of the six who answered, four chose one and two chose two")
	})
	t.Run("descriptives", func(t *testing.T) {
		d, err := s.Descriptives(ctx, s.Years, "")
		require.NoError(t, err)
		assert.Equal(t, int64(7), d.N)
		assert.InDelta(t, 41.0/7, d.Mean, 1e-14)
		assert.InDelta(t, 5, d.Median, 1e-14)
		assert.Equal(t, []float64{3}, d.Modes)
	})
	t.Run("within groups", func(t *testing.T) {
		sets, err := s.MultipleResponseBy(ctx, s.Reasons, s.Ward, "")
		numbers, failed := s.DescriptivesBy(ctx, s.Years, s.Ward, "")
		if s.CountsOnly {
			assert.ErrorIs(t, err, analysis.ErrUnknownKey)
			assert.ErrorIs(t, failed, analysis.ErrUnknownKey)
			return
		}
		require.NoError(t, err)
		require.NoError(t, failed)
		q, err := s.Question(ctx, s.Ward)
		require.NoError(t, err)
		answered, responses, sums := map[string]int64{}, map[string]int64{}, map[string]float64{}
		for i, a := range q.Proper() {
			answered[a.Code], responses[a.Code], sums[a.Code] = sets[i].Frequency.Answered, sets[i].Responses, numbers[i].Sum
		}
		assert.Equal(t, map[string]int64{"Harbour": 4, "Fenside": 1, "Saltings": 1}, answered)
		assert.Equal(t, map[string]int64{"Harbour": 6, "Fenside": 1, "Saltings": 1}, responses)
		assert.Equal(t, map[string]float64{"Harbour": 16, "Fenside": 22, "Saltings": 3}, sums)
	})
	t.Run("unknown keys", func(t *testing.T) {
		_, err := s.Question(ctx, "no such question")
		assert.ErrorIs(t, err, analysis.ErrUnknownKey)
		_, err = s.Frequencies(ctx, s.Ward, "no such subgroup")
		assert.ErrorIs(t, err, analysis.ErrUnknownKey)
		_, err = s.Crosstab(ctx, s.Ward, "no such question", "", "")
		assert.ErrorIs(t, err, analysis.ErrUnknownKey)
	})
	if s.Fenside != "" {
		t.Run("subgroup", func(t *testing.T) {
			assert.Equal(t, map[string]int64{"Harbour": 0, "Fenside": 3, "Saltings": 0}, s.frequencies(t, s.Ward, s.Fenside))
			c, err := s.Crosstab(ctx, s.Ward, s.Before, "", s.Fenside)
			require.NoError(t, err)
			assert.Equal(t, map[string]int64{"Fenside|no": 2, "Fenside|yes": 1}, cells(c, 0))
		})
	}
}

func (s Source) frequencies(t *testing.T, q, subgroup analysis.Key) map[string]int64 {
	t.Helper()
	question, err := s.Question(context.Background(), q)
	require.NoError(t, err)
	f, err := s.Frequencies(context.Background(), q, subgroup)
	require.NoError(t, err)
	out := map[string]int64{}
	for _, r := range f.Rows {
		a, _ := question.Answer(r.Slot)
		out[a.Code] = r.Count
	}
	return out
}

// cells gives the cells of a layer that hold somebody by the codes of row and column.
func cells(c *tally.Crosstab, layer int) map[string]int64 {
	out := map[string]int64{}
	for i, row := range c.Rows.Answers {
		for j, column := range c.Columns.Answers {
			if n := c.At(layer, i, j).N; n > 0 {
				out[row.Code+"|"+column.Code] = n
			}
		}
	}
	return out
}
