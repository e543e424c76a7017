package methods_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
)

func limit(x float64) *float64 { return &x }

// described is what the specs of this test are asked of; each test changes one thing in it.
func described() analysis.Typed {
	answers := []analysis.TypedCategory{{Code: "yes"}, {Code: "no"}}
	return analysis.Typed{Questions: []analysis.TypedQuestion{
		{Key: "size", Kind: survey.Continuous, Values: []float64{1, 2.5, 4}, ValueCounts: []int64{3, 2, 1}},
		{Key: "minutes", Kind: survey.Ordered, Categories: []analysis.TypedCategory{{Code: "a", From: limit(0), To: limit(10)}, {Code: "b", From: limit(10), To: limit(20)}}, Counts: []int64{4, 5}},
		{Key: "reasons", Kind: survey.ChooseAll, Categories: answers, Counts: []int64{6, 3}, Chosen: []int64{1, 5, 2}},
		{Key: "first", Categories: answers, Counts: []int64{6, 3}}, {Key: "second", Categories: answers, Counts: []int64{2, 7}},
		{Key: "ward", Categories: answers}, {Key: "caddy", Categories: answers}, {Key: "wave", Categories: answers},
		{Key: "mood", Kind: survey.Ordered, Categories: []analysis.TypedCategory{{Code: "low", Score: limit(1)}, {Code: "high", Score: limit(2)}}, Counts: []int64{4, 5}},
		{Key: "years", Kind: survey.Continuous, Values: []float64{7, 2.5, 4}, ValueCounts: []int64{3, 2, 1}},
		{Key: "third", Categories: answers}, {Key: "holey", Categories: append(answers[:2:2], analysis.TypedCategory{Code: "", Missing: "no answer"})},
	}, Crosstabs: []analysis.TypedCrosstab{{Rows: "ward", Columns: "caddy", Layers: "wave", Counts: [][][]int64{{{3, 1}, {1, 5}}, {{5, 5}, {4, 4}}}},
		{Rows: "third", Columns: "caddy", Counts: [][][]int64{{{3, 1}, {1, 5}}}}, {Rows: "third", Columns: "holey", Counts: [][][]int64{{{3, 1, 1}, {1, 5, 0}}}}}}
}

// A result is remembered by its digest: whatever it depends on has to be in it, or a page would
// go on showing figures that are no longer so.
func TestADigestHoldsAllThatAResultDependsOn(t *testing.T) {
	t.Parallel()
	digest := func(spec string, from analysis.Typed) string {
		t.Helper()
		s, err := registry.Spec([]byte(spec))
		require.NoError(t, err, spec)
		c, err := analysis.Count(t.Context(), s, from)
		require.NoError(t, err, spec)
		d, err := analysis.Digest(s, c)
		require.NoError(t, err)
		return d
	}
	const numbers = `{"method":"numeric-summary","version":1,"questions":["size"],"settings":{"picture":"histogram","height":"count","parts":4}}`
	const classes = `{"method":"numeric-summary","version":1,"questions":["minutes"],"settings":{"picture":"histogram","height":"count","parts":4}}`
	const set = `{"method":"multiple-response","version":1,"questions":["reasons"],"settings":{}}`
	const rows = `{"method":"battery","version":1,"questions":["first","second"],"settings":{}}`
	const layered = `{"method":"mantel-haenszel","version":1,"questions":["caddy","ward","wave"],"settings":{"reading":"row"}}`
	const several = `{"method":"crosstabs","version":1,"questions":["caddy","third"],"settings":{"reading":"column"}}`
	const ordinal = `{"method":"ordered-summary","version":1,"questions":["mood"],"settings":{}}`
	const beside = `{"method":"numeric-comparison","version":1,"questions":["size","years"],"settings":{"show":["mean"]}}`
	const crossed = `{"method":"crosstab","version":1,"questions":["holey","third"],"settings":{"reading":"row","missing":true}}`
	for name, c := range map[string]struct {
		spec   string
		change func(from *analysis.Typed)
	}{
		"a number":                         {numbers, func(f *analysis.Typed) { f.Questions[0].Values[1] = 2.5000001 }},
		"how often a number was given":     {numbers, func(f *analysis.Typed) { f.Questions[0].ValueCounts[1]++ }},
		"a class":                          {classes, func(f *analysis.Typed) { f.Questions[1].Counts[0]++ }},
		"the limits of a class":            {classes, func(f *analysis.Typed) { f.Questions[1].Categories[1].To = limit(30) }},
		"how many chose one and two":       {set, func(f *analysis.Typed) { f.Questions[2].Chosen = []int64{0, 7, 1} }},
		"the second question of a battery": {rows, func(f *analysis.Typed) { f.Questions[4].Counts[0]++ }},
		"the order of a battery's answers": {rows, func(f *analysis.Typed) {
			q := &f.Questions[4]
			q.Categories, q.Counts = []analysis.TypedCategory{{Code: "no"}, {Code: "yes"}}, []int64{7, 2}
		}},
		"a crossing among several": {several, func(f *analysis.Typed) { f.Crosstabs[1].Counts[0][1][0]++ }},
		"a score":                  {ordinal, func(f *analysis.Typed) { f.Questions[8].Categories[1].Score = limit(3) }},
		"a number of several":      {beside, func(f *analysis.Typed) { f.Questions[9].Values[0] = 8 }},
		"numbers that change places": {beside, func(f *analysis.Typed) {
			f.Questions[0].Values, f.Questions[9].Values = f.Questions[9].Values, f.Questions[0].Values
		}},
		"a missing one in a crossing": {crossed, func(f *analysis.Typed) { f.Crosstabs[2].Counts[0][0][2]++ }},
		"between layers": {layered, func(f *analysis.Typed) {
			a, b := f.Crosstabs[0].Counts[0], f.Crosstabs[0].Counts[1]
			a[0][0], b[0][0] = a[0][0]+1, b[0][0]-1 // the sum of both stays
		}},
	} {
		t.Run(name, func(t *testing.T) {
			from := described()
			before := digest(c.spec, from)
			assert.Equal(t, before, digest(c.spec, described()), "the same counts have the same digest")
			c.change(&from)
			assert.NotEqual(t, before, digest(c.spec, from))
		})
	}
	assert.NotEqual(t, digest(rows, described()), digest(`{"method":"battery","version":1,"questions":["second","first"],"settings":{}}`, described()))
}

// What only changes how something is shown is no other question: the first run stays the
// first run.
func TestShowingIsNotAsking(t *testing.T) {
	t.Parallel()
	inputs := func(spec string) analysis.Inputs {
		t.Helper()
		s, err := registry.Spec([]byte(spec))
		require.NoError(t, err, spec)
		c, err := analysis.Count(t.Context(), s, described())
		require.NoError(t, err)
		in, err := analysis.InputsOf(s, c, "", "")
		require.NoError(t, err)
		return in
	}
	first := inputs(`{"method":"crosstab","version":1,"questions":["caddy","ward"],"settings":{"reading":"row","test":{"role":"null","level":0.05}}}`)
	shown := inputs(`{"method":"crosstab","version":1,"questions":["caddy","ward"],"settings":{"reading":"column","picture":"mosaic","hideEmpty":true,"swapped":true,"test":{"role":"null","level":0.05}}}`)
	assert.Empty(t, shown.Since(first))
	asked := inputs(`{"method":"crosstab","version":1,"questions":["caddy","ward"],"settings":{"reading":"row","test":{"role":"null","level":0.01}}}`)
	assert.Equal(t, []analysis.Difference{analysis.ClaimDiffers}, asked.Since(first))
}
