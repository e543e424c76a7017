package tally

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func summaryOf(t *testing.T, values []float64, counts []int64) *Summary {
	t.Helper()
	s, err := SummariseNumbers(NumbersInput{Values: values, Counts: counts, Confidence: 0.95})
	require.NoError(t, err)
	return s
}

func TestBins(t *testing.T) {
	t.Parallel()
	half := 0.5
	for name, c := range map[string]struct {
		values []float64
		width  float64
		start  *float64
		want   []Class
	}{
		"a number on a limit begins its class": {[]float64{0.1, 0.2, 0.3, 0.6, 0.7}, 0.1, nil, []Class{{0.1, 0.2, 1}, {0.2, 0.3, 1}, {0.3, 0.4, 1}, {0.4, 0.5, 0}, {0.5, 0.6, 0}, {0.6, 0.7, 1}, {0.7, 0.8, 1}}},
		"below zero":                           {[]float64{-7, -5, -0.5, 0, 4.9}, 5, nil, []Class{{-10, -5, 1}, {-5, 0, 2}, {0, 5, 2}}},
		"from where one likes":                 {[]float64{1, 1, 2, 4}, 1, &half, []Class{{0.5, 1.5, 2}, {1.5, 2.5, 1}, {2.5, 3.5, 0}, {3.5, 4.5, 1}}},
		"all the same":                         {[]float64{3, 3}, 2, nil, []Class{{2, 4, 2}}},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := summaryOf(t, c.values, nil).Bins(c.width, c.start)
			require.NoError(t, err)
			assert.Equal(t, c.want, got)
		})
	}
	s := summaryOf(t, []float64{0, 1000}, nil)
	late := 5.0
	for _, width := range []float64{0, -1, 0.1, 1e-300} {
		_, err := s.Bins(width, nil)
		assert.Error(t, err, width)
	}
	_, err := s.Bins(100, &late)
	assert.Error(t, err, "the first class must hold the smallest number")
	assert.Equal(t, []float64{50, 100, 200}, s.NiceWidths())
	assert.Equal(t, []float64{0.005, 0.01, 0.02}, summaryOf(t, []float64{0, 0.1}, nil).NiceWidths())
	assert.Nil(t, summaryOf(t, []float64{4}, nil).NiceWidths())
}

// Every number falls into exactly one class, whatever the width.
func FuzzBins(f *testing.F) {
	f.Add(0.1, 0.2, 0.3, 0.1)
	f.Add(-1e9, 3.25, 1e9, 1e8)
	f.Fuzz(func(t *testing.T, a, b, c, width float64) {
		s, err := SummariseNumbers(NumbersInput{Values: []float64{a, b, c}, Confidence: 0.95})
		if err != nil {
			return
		}
		classes, err := s.Bins(width, nil)
		if err != nil {
			return
		}
		n := int64(0)
		for i, k := range classes {
			n += k.Count
			assert.LessOrEqual(t, k.From, k.To)
			assert.True(t, i == 0 || classes[i-1].To == k.From)
		}
		assert.EqualValues(t, 3, n)
	})
}

// The numbers 1 … 9 and 30: quartiles at 3.25 and 7.75 (definition 7), so that the whiskers
// may reach from −3.5 to 14.5.
func TestBox(t *testing.T) {
	t.Parallel()
	s := summaryOf(t, []float64{1, 2, 3, 4, 5, 6, 7, 8, 9, 30}, nil)
	assert.Equal(t, Box{Lower: 1, Quartile1: 3.25, Median: 5.5, Quartile3: 7.75, Upper: 9, Beyond: []SummaryRow{{Value: 30, Count: 1, CumulativeCount: 10, Share: 0.1, CumulativeShare: 1}}}, s.Box())
	assert.True(t, s.Discrete())
	assert.False(t, summaryOf(t, []float64{1, 2.5}, nil).Discrete())
}

func TestResponsesThatCannotBe(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ counts, chosen []int64 }{
		"more answers than were chosen": {[]int64{5, 7}, []int64{0, 4, 3}},
		"chosen by more than there are": {[]int64{9}, []int64{0, 4}},
		"below nothing":                 {[]int64{-1}, []int64{4}},
		"respondents below nothing":     {[]int64{1}, []int64{4, -1}},
		"nobody":                        {[]int64{0}, nil},
		"more than can be counted":      {[]int64{1}, []int64{1 << 60}},
		"more answers than a set holds": {[]int64{1}, make([]int64, 70)},
	} {
		_, err := ShareResponses(c.counts, c.chosen)
		assert.Error(t, err, name)
	}
}
