package httpapi

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// Of forty streets, every fourth with a hundred more, the ten largest stand in their order and the
// others are summed; an estimate decides where there is one, and a set comes to nothing.
func TestTheLargestOfALongList(t *testing.T) {
	t.Parallel()
	var rows []answerRowDTO
	for i := range 40 {
		n := int64(i)
		if i%4 == 3 {
			n += 100
		}
		answered, everyone := float64(n)/10, float64(n)/20
		rows = append(rows, answerRowDTO{Slot: survey.Slot(i + 1), Count: n, PercentOfAnswered: &answered, PercentOfEveryone: &everyone})
	}
	got := largestOf(survey.Single, rows)
	require.NotNil(t, got)
	assert.Equal(t, []survey.Slot{4, 8, 12, 16, 20, 24, 28, 32, 36, 40}, got.Slots)
	// 0 + 1 + … + 39 without 3 + 7 + … + 39.
	assert.Equal(t, []any{30, int64(780 - 210), 57.0, 28.5}, []any{got.N, *got.Count, *got.PercentOfAnswered, *got.PercentOfEveryone})
	assert.Nil(t, got.Estimate)
	assert.Nil(t, largestOf(survey.ChooseAll, rows).Count)
	assert.Nil(t, largestOf(survey.Single, rows[:mostWhole]), "a short list stands as it is")

	for i := range rows {
		rows[i].Estimate = &estimateDTO{Percent: 1}
		if i < 10 {
			rows[i].Estimate.Percent = 5
		}
	}
	got = largestOf(survey.Single, rows)
	assert.Equal(t, []survey.Slot{1, 2, 3, 4, 5, 6, 7, 8, 9, 10}, got.Slots)
	assert.Equal(t, 30.0, *got.Estimate)
}
