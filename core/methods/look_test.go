package methods_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/survey"
)

// Numbers and lists of them are read as people write them; what is no number is refused with
// what was typed.
func TestNumbersAsTyped(t *testing.T) {
	t.Parallel()
	for raw, want := range map[string]float64{`2.5`: 2.5, `"2,5"`: 2.5, `" −3 "`: -3, `"1e3"`: 1000, `0`: 0} {
		var n analysis.Number
		require.NoError(t, json.Unmarshal([]byte(raw), &n), raw)
		assert.Equal(t, want, float64(n), raw)
	}
	for raw, want := range map[string][]float64{`[0,10,25]`: {0, 10, 25}, `"0 10 25"`: {0, 10, 25}, `"0; 10;25"`: {0, 10, 25}, `"0,5 1,5"`: {0.5, 1.5}, `"0, 10, 25"`: {0, 10, 25}, `""`: nil} {
		var l analysis.NumberList
		require.NoError(t, json.Unmarshal([]byte(raw), &l), raw)
		assert.Equal(t, want, []float64(l), raw)
	}
	for _, raw := range []string{`"ten"`, `"1/0"`, `"="`, `"1e999"`, `"NaN"`} {
		var refusal *analysis.SpecError
		var n analysis.Number
		assert.ErrorAs(t, n.UnmarshalJSON([]byte(raw)), &refusal, raw)
		var l analysis.NumberList
		assert.ErrorAs(t, l.UnmarshalJSON([]byte(raw)), &refusal, raw)
		assert.Equal(t, "numeric_summary.typed", refusal.Code)
		assert.Equal(t, strings.Trim(raw, `"`), refusal.Values["text"].Text)
	}
}

// What only says how a result is shown is told apart from what is asked.
func TestALookIsNoChange(t *testing.T) {
	t.Parallel()
	read := func(settings string) analysis.Spec {
		t.Helper()
		s, err := registry.Spec([]byte(`{"method":"crosstab","version":1,"questions":["1","2"],"settings":` + settings + `}`))
		require.NoError(t, err)
		return s
	}
	before := read(`{"reading":"row","test":{"role":"null","level":0.05}}`)
	after := read(`{"reading":"column","picture":"bars","missing":true,"hideEmpty":true,"swapped":true,"show":["expected"],"frame":{"title":"Who"},"test":{"role":"null","level":0.05}}`)
	changes, err := analysis.Changes(before, after)
	require.NoError(t, err)
	require.NotEmpty(t, changes)
	for _, c := range changes {
		assert.True(t, c.ShownOnly(), c.At)
	}
	assert.Equal(t, map[string]any{"reading": "column", "picture": "bars", "missing": true, "hideEmpty": true, "swapped": true, "show": []any{"expected"}, "frame": map[string]any{"title": "Who"}}, after.Look())
	changes, err = analysis.Changes(before, read(`{"reading":"row","test":{"role":"alternative","level":0.05,"exact":true}}`))
	require.NoError(t, err)
	require.Len(t, changes, 2)
	for _, c := range changes {
		assert.False(t, c.ShownOnly(), c.At)
	}
	// A title of a source is part of a claim, a title of a picture is not.
	assert.False(t, analysis.Change{At: "/settings/shares/source/title", Field: "title"}.ShownOnly())
	assert.True(t, analysis.Change{At: "/settings/frame/title", Field: "title"}.ShownOnly())
}

// A frame takes texts of some length, without what no text holds, and three sizes.
func TestFrames(t *testing.T) {
	t.Parallel()
	codes := func(f claim.Frame) (out []string) {
		for _, p := range analysis.CheckFrame(&f) {
			out = append(out, p.Code)
		}
		return out
	}
	assert.Empty(t, codes(claim.Frame{Title: strings.Repeat("é", claim.MostFrameText), Size: claim.LargeSize}))
	assert.Equal(t, []string{"text.long"}, codes(claim.Frame{Across: strings.Repeat("x", claim.MostFrameText+1)}))
	assert.Equal(t, []string{"text.control"}, codes(claim.Frame{Up: "a\x00b"}))
	assert.Equal(t, []string{"frame.size"}, codes(claim.Frame{Size: "huge"}))
	assert.Nil(t, analysis.CheckFrame(nil))
}

// Which questions can be first, and which a further one, follows from what they hold.
func TestWhereAQuestionFits(t *testing.T) {
	t.Parallel()
	two := []survey.Answer{{Slot: 1, Code: "a"}, {Slot: 2, Code: "b"}}
	three := append(two[:2:2], survey.Answer{Slot: 3, Code: "c"})
	for name, k := range map[string]struct {
		q                     survey.Question
		first, joins, neither []string
	}{
		"two answers":   {survey.Question{Kind: survey.Single, Answers: two}, []string{"crosstab", "frequency", "crosstabs"}, []string{"means", "numeric-by-group", "ordered"}, []string{"cochran-q", "numeric-comparison"}},
		"three answers": {survey.Question{Kind: survey.Single, Answers: three}, []string{"crosstab"}, []string{"crosstab", "multiple-response-by-group"}, []string{"means"}},
		"an order":      {survey.Question{Kind: survey.Ordered, Answers: three}, []string{"ordered", "ordered-summary"}, []string{"ordered", "crosstabs"}, []string{"means", "numeric-summary"}},
		"a number":      {survey.Question{Kind: survey.Continuous}, []string{"means", "numeric-summary", "numeric-comparison"}, []string{"numeric-comparison"}, []string{"crosstab", "frequency"}},
		"a set":         {survey.Question{Kind: survey.ChooseAll, Answers: three}, []string{"cochran-q", "multiple-response-by-group"}, nil, []string{"crosstab", "goodness-of-fit"}},
		"text":          {survey.Question{Kind: survey.Text}, nil, nil, []string{"crosstab", "frequency", "means"}},
	} {
		first, joins := registry.AskedOf(0, k.q), registry.AskedOf(1, k.q)
		assert.Subset(t, first, k.first, name)
		assert.Subset(t, joins, k.joins, name)
		for _, method := range k.neither {
			assert.NotContains(t, append(first, joins...), method, name)
		}
	}
	assert.NotContains(t, registry.AskedOf(1, survey.Question{Kind: survey.Single, Answers: two}), "goodness-of-fit", "it takes no further question")
}
