package tally

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
	"widetally/core/survey"
)

func reasonOf(err error) infer.Reason {
	var input *infer.InputError
	if errors.As(err, &input) {
		return input.Reason
	}
	return ""
}

// Seven counts of 320 in all, by hand.
func TestRelativeFrequencies(t *testing.T) {
	t.Parallel()
	r, err := RelativeFrequencies([]int64{12, 40, 64, 80, 64, 40, 20}, 80)
	require.NoError(t, err)
	assert.Equal(t, []float64{0.0375, 0.125, 0.2, 0.25, 0.2, 0.125, 0.0625}, r.Shares)
	assert.Equal(t, []int64{12, 52, 116, 196, 260, 300, 320}, r.Cumulative)
	assert.Equal(t, []float64{0.0375, 0.1625, 0.3625, 0.6125, 0.8125, 0.9375, 1}, r.CumulativeOf)
	assert.InDelta(t, 0.2, r.MissingShareOfEveryone, 1e-15)
	for _, k := range []struct {
		counts  []int64
		missing int64
		why     infer.Reason
	}{{nil, 0, infer.NoObservations}, {[]int64{0, 0}, 5, infer.NoObservations}, {[]int64{1, -1}, 0, infer.NegativeCount}, {[]int64{1}, -1, infer.NegativeCount},
		{[]int64{infer.MaxCount, 1}, 0, infer.CountTooLarge}, {[]int64{1}, infer.MaxCount + 1, infer.CountTooLarge}} {
		_, err := RelativeFrequencies(k.counts, k.missing)
		assert.Equal(t, k.why, reasonOf(err), k.counts)
	}
}

// The same table over all three bases; a group in which nobody is has no percent.
func TestShareTable(t *testing.T) {
	t.Parallel()
	s, err := ShareTable([][]int64{{3, 1, 0}, {1, 5, 0}})
	require.NoError(t, err)
	assert.Equal(t, []int64{4, 6}, s.RowTotals)
	assert.Equal(t, []int64{4, 6, 0}, s.ColumnTotals)
	assert.Equal(t, 0.75, *s.OfRows[0][0])
	assert.Equal(t, 5.0/6, *s.OfColumns[1][1])
	assert.Nil(t, s.OfColumns[0][2])
	assert.Equal(t, 0.3, s.OfEveryone[0][0])
	for why, counts := range map[infer.Reason][][]int64{infer.NoObservations: {{0, 0}}, CountsLength: {{1, 2}, {1}}, infer.NegativeCount: {{1, -2}}, infer.CountTooLarge: {{infer.MaxCount, 1}}} {
		_, err := ShareTable(counts)
		assert.Equal(t, why, reasonOf(err), counts)
	}
	_, err = ShareTable(nil)
	assert.Equal(t, infer.NoObservations, reasonOf(err))
}

// Respondents stand in several rows: shares are of the respondents of a group.
func TestShareRespondents(t *testing.T) {
	t.Parallel()
	s, err := ShareRespondents([][]int64{{3, 4}, {0, 0}, {1, 0}}, []int64{4, 0, 6})
	require.NoError(t, err)
	assert.Equal(t, [][]float64{{0.75, 1}, nil, {1.0 / 6, 0}}, s.Shares)
	assert.Equal(t, []float64{0.4, 0.4}, s.OfAll)
	for _, k := range []struct {
		counts [][]int64
		bases  []int64
		why    infer.Reason
	}{{nil, nil, CountsLength}, {[][]int64{{}}, []int64{3}, infer.NoObservations}, {[][]int64{{1}, {1, 2}}, []int64{3, 3}, CountsLength}, {[][]int64{{4}}, []int64{3}, ResponsesDisagree}, {[][]int64{{-1}}, []int64{3}, infer.NegativeCount},
		{[][]int64{{0}}, []int64{-3}, infer.NegativeCount}, {[][]int64{{0}}, []int64{0}, infer.NoObservations}, {[][]int64{{0}}, []int64{infer.MaxCount + 1}, infer.CountTooLarge}} {
		_, err := ShareRespondents(k.counts, k.bases)
		assert.Equal(t, k.why, reasonOf(err), k.counts)
	}
}

// Where exactly half answered up to an answer, the median lies between it and the next one
// that was given.
func TestSummariseOrdered(t *testing.T) {
	t.Parallel()
	for _, k := range []struct {
		counts       []int64
		percents     []float64
		lower, upper []int
		modes        []int
	}{
		{[]int64{1, 2, 4, 3}, []float64{25, 50, 75}, []int{1, 2, 3}, []int{1, 2, 3}, []int{2}},
		{[]int64{5, 0, 0, 5}, []float64{0, 50, 100}, []int{0, 0, 3}, []int{0, 3, 3}, []int{0, 3}},
		{[]int64{7, 13}, []float64{35, 35.1}, []int{0, 1}, []int{1, 1}, []int{1}}, // 35 % of 20 is 7
		{[]int64{0, 1, 0}, []float64{10, 50}, []int{1, 1}, []int{1, 1}, []int{1}},
	} {
		s, err := SummariseOrdered(k.counts, nil, k.percents)
		require.NoError(t, err)
		assert.Equal(t, k.lower, s.Lower, k.counts)
		assert.Equal(t, k.upper, s.Upper, k.counts)
		assert.Equal(t, k.modes, s.Modes, k.counts)
		assert.Nil(t, s.MeanScore, "no mean of answers without scores")
	}
	s, err := SummariseOrdered([]int64{2, 0, 2}, []float64{-1, 0, 3}, nil)
	require.NoError(t, err)
	assert.Equal(t, 1.0, *s.MeanScore)
	assert.InDelta(t, 2.309401076758503, *s.SDScore, 1e-15) // √(16/3)
	_, err = SummariseOrdered([]int64{1, 2}, []float64{1}, nil)
	assert.Equal(t, CountsLength, reasonOf(err))
	_, err = SummariseOrdered([]int64{1, 2}, nil, []float64{101})
	assert.Equal(t, PercentRange, reasonOf(err))
}

// Groups hold each respondent once, another spelling under its answer, the missing nowhere.
func TestGroups(t *testing.T) {
	t.Parallel()
	under := survey.Slot(1)
	q := survey.Question{Kind: survey.Single, Answers: []survey.Answer{{Slot: 0, Missing: "no answer"}, {Slot: 1, Code: "a"}, {Slot: 2, Code: "A", SameAs: &under}, {Slot: 3, Code: "b"}, {Slot: 4, Code: "c"}}}
	source := survey.Source{Question: q, Column: survey.Column{U8: []uint8{1, 2, 3, 0, 1, 3}}}
	odd := survey.NewSet(6)
	for _, row := range []int{0, 2, 3, 4} {
		odd.Add(row)
	}
	for _, k := range []struct {
		of   survey.Sample
		want []int64
	}{{survey.Sample{}, []int64{3, 2, 0}}, {survey.Sample{Subset: odd}, []int64{2, 1, 0}}, {survey.Sample{Frequency: []int64{5, 1, 1, 9, 0, 2}}, []int64{6, 3, 0}}} {
		groups, err := Groups(source, k.of)
		require.NoError(t, err)
		var got []int64
		for _, g := range groups {
			got = append(got, g.Number(6))
		}
		assert.Equal(t, k.want, got)
	}
	_, err := Groups(survey.Source{Question: survey.Question{Kind: survey.Continuous}, Column: survey.Column{F64: []float64{1}}}, survey.Sample{})
	assert.Error(t, err, "numbers are no groups")
}

// Limits that somebody gave: none of the numbers is left out, whatever the limits.
func TestBinsAtLimits(t *testing.T) {
	t.Parallel()
	s, err := SummariseNumbers(NumbersInput{Values: []float64{-2, 0, 3, 5, 9.5, 10}, Confidence: 0.95})
	require.NoError(t, err)
	for _, k := range []struct {
		limits []float64
		counts []int64
		added  bool
	}{{[]float64{-2, 3, 10}, []int64{2, 4}, false}, {[]float64{0, 5}, []int64{1, 2, 3}, true}, {[]float64{20, 30}, []int64{6, 0}, true}, {[]float64{-9, -8}, []int64{0, 6}, true}} {
		classes, added, err := s.BinsAt(k.limits)
		require.NoError(t, err)
		var counts []int64
		for _, c := range classes {
			counts = append(counts, c.Count)
		}
		assert.Equal(t, k.counts, counts, k.limits)
		assert.Equal(t, k.added, added, k.limits)
	}
	for _, limits := range [][]float64{nil, {1}, {2, 1}, {1, 1}} {
		_, _, err := s.BinsAt(limits)
		assert.Equal(t, BinWidth, reasonOf(err), limits)
	}
}
