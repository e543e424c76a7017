package tally

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
	"widetally/internal/workedcases"
)

func ward() survey.Question {
	return survey.Question{Name: "ward", Kind: survey.Single, Answers: []survey.Answer{
		{Slot: 3, Code: "Saltings"}, {Slot: 1, Code: "Harbour"}, {Slot: 4, Code: "Fenside"},
		{Slot: 2, Code: "-9", Missing: "refused"}, {Slot: 0, Missing: "no answer"},
	}}
}

func TestTabulateBasesAndOrder(t *testing.T) {
	t.Parallel()
	f, err := Tabulate(ward(), survey.Column{U8: []uint8{1, 1, 3, 0, 2, 1, 3, 0}}, survey.Sample{})
	require.NoError(t, err)
	assert.Equal(t, []int64{8, 5, 3}, []int64{f.Everyone, f.Answered, f.Missing})
	var slots []survey.Slot
	var counts []int64
	for _, r := range f.Rows {
		slots, counts = append(slots, r.Slot), append(counts, r.Count)
	}
	assert.Equal(t, []survey.Slot{3, 1, 4}, slots, "the question's order")
	assert.Equal(t, []int64{2, 3, 0}, counts, "an answer that nobody chose keeps its row")
	assert.Equal(t, 40.0, *f.Rows[0].PercentOfAnswered)
	assert.Equal(t, 25.0, *f.Rows[0].PercentOfEveryone)
	require.Len(t, f.MissingRows, 2)
	assert.Nil(t, f.MissingRows[0].PercentOfAnswered)
}

func TestTabulateEdges(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		column   survey.Column
		answered int64
	}{
		"nobody":      {survey.Column{U8: []uint8{}}, 0},
		"all missing": {survey.Column{U8: []uint8{0, 2, 0}}, 0},
		"one person":  {survey.Column{U8: []uint8{1}}, 1},
	} {
		t.Run(name, func(t *testing.T) {
			f, err := Tabulate(ward(), c.column, survey.Sample{})
			require.NoError(t, err)
			assert.Equal(t, c.answered, f.Answered)
			if c.answered == 0 {
				assert.Nil(t, f.Rows[0].PercentOfAnswered, "a percent of nobody is no number")
			}
		})
	}
	_, err := Tabulate(ward(), survey.Column{U8: []uint8{9}}, survey.Sample{})
	assert.Error(t, err, "a slot that the question lacks means a damaged column")
}

func TestRoundedSum(t *testing.T) {
	t.Parallel()
	thirds := []float64{100.0 / 3, 100.0 / 3, 100.0 / 3}
	assert.Equal(t, 99.9, RoundedSum(thirds, 1))
	assert.Equal(t, 99.0, RoundedSum(thirds, 0))
	assert.Equal(t, 100.0, RoundedSum([]float64{25, 75}, 2))
}

func TestSummariseReference(t *testing.T) {
	t.Parallel()
	for _, c := range workedcases.Load(t, "numeric_summary") {
		var column survey.Column
		times := workedcases.In[[]int](t, c, "frequency")
		for i, raw := range workedcases.In[[]json.RawMessage](t, c, "values") {
			v, _ := workedcases.Rat(t, raw).Float64()
			n := 1
			if times != nil {
				n = times[i]
			}
			for range n {
				column.F64 = append(column.F64, v)
			}
		}
		column.F64 = append(column.F64, survey.MissingNumber(survey.Blank))
		d, err := survey.Distribute(column, 1, survey.Sample{})
		require.NoError(t, err)
		n := Summarise(d.Numbers)
		require.NotNil(t, n)
		for name, got := range map[string]float64{"n": float64(n.N), "mean": n.Mean, "sd": *n.SD, "median": n.Median, "sum": n.Sum} {
			assert.True(t, c.Near(t, name, got), "%s was not compared", name)
		}
		total := int64(0)
		for _, class := range n.Classes {
			total += class.Count
		}
		assert.Equal(t, n.N, total)
	}
	assert.Nil(t, Summarise(nil))
}
