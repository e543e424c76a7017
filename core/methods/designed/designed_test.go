package designed

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/resultjson"
	"widetally/core/weighting"
	"widetally/internal/workedcases"
)

// run asks a method as a request does.
func run(t *testing.T, name string, body []byte) (map[string]any, error) {
	t.Helper()
	m, known := analysis.NewRegistry(All...).Find(name)
	require.True(t, known, name)
	in := m.New()
	require.NoError(t, json.Unmarshal(body, in), "%s %s", name, body)
	out, err := m.Run(t.Context(), in)
	if err != nil {
		return nil, err
	}
	raw, err := resultjson.Encode(out)
	require.NoError(t, err)
	var got map[string]any
	require.NoError(t, json.Unmarshal(raw, &got))
	return got, nil
}

// Every figure of the worked cases, and their refusals.
func TestWorkedCases(t *testing.T) {
	t.Parallel()
	compared, kinds := 0, map[string]bool{}
	for _, c := range workedcases.Designed(t) {
		got, err := run(t, c.Path(), c.Body(t))
		if why, refused := c.Expect["refused"].(string); refused {
			var input *infer.InputError
			require.True(t, errors.As(err, &input), "%s: %v", c.ID, err)
			assert.Equal(t, infer.Reason(why), input.Reason, c.ID)
			continue
		}
		require.NoError(t, err, c.ID)
		compared += c.Answered(t, got)
		kinds[c.Path()] = true
	}
	assert.Greater(t, compared, 3000)
	assert.Len(t, kinds, len(All))
}

// What a request cannot mean is refused with its reason, on every route, before anything is computed.
func TestRequestsRefused(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		route, body string
		why         infer.Reason
	}{
		{"design-shares", `{"categories":[0,3],"k":2}`, UnknownAnswer},
		{"design-shares", `{"categories":[0,1],"k":0}`, analysis.TooManyCells},
		{"design-shares", `{"categories":[0,1],"k":-1}`, analysis.TooManyCells},
		{"design-shares", `{"categories":[0,1],"k":2,"level":"1"}`, infer.LevelRange},
		{"design-shares", `{"categories":[0,1],"k":2,"weights":["1","x"]}`, infer.NotFinite},
		{"design-shares", `{"categories":[0,1],"k":2,"weights":["1/0",1]}`, infer.NotFinite},
		{"design-shares", `{"categories":[0,1],"k":2,"weights":["1e300",1]}`, infer.NotFinite},
		{"design-shares", `{"categories":[0,1],"k":2,"weights":[1]}`, design.ColumnLength},
		{"design-shares", `{"categories":[0,1],"k":2,"domain":[1,2]}`, NotZeroOrOne},
		{"design-shares", `{"categories":[null,null],"k":2}`, design.EmptyBase},
		{"design-shares", `{"categories":[],"k":2}`, design.NoRespondents},
		{"design-shares", `{"categories":[0,1],"k":2,"fractions":{"B":0.1}}`, UnknownStratum},
		{"design-shares", `{"categories":[0,1],"k":2,"fractions":"1.5"}`, design.FractionOutOfRange},
		{"design-shares", `{"categories":[0,1],"k":2,"singlePsu":"drop"}`, analysis.UnknownName},
		{"design-one-share", `{"categories":[0,1],"answer":1,"p0":"1","weights":[-1,1]}`, P0OutOfRange},
		{"design-one-share", `{"categories":[0,1],"answer":-1,"p0":"0.5"}`, UnknownAnswer},
		{"design-gof", `{"categories":[0,1],"shares":["0","1"],"weights":[-1,1]}`, NotPositive},
		{"design-gof", `{"categories":[0,1],"shares":["1"]}`, infer.OneAnswer},
		{"design-independence", `{"rows":[0,0],"columns":[0,1],"shape":[2,2]}`, TableTooSmall},
		{"design-independence", `{"rows":[0,0],"columns":[0],"shape":[2,2]}`, design.ColumnLength},
		{"design-independence", `{"rows":[0],"columns":[0],"shape":[2]}`, analysis.TooManyCells},
		{"design-independence", `{"rows":[0],"columns":[0],"shape":[100,100]}`, analysis.TooManyCells},
		{"design-difference", `{"categories":[0,1],"answer":1,"a":[1,0],"b":[0]}`, design.ColumnLength},
		{"design-difference", `{"categories":[0,1],"answer":1,"a":[1,0],"b":[0,0]}`, design.EmptyBase},
		{"design-mean-difference", `{"values":[1,2],"a":[1,0],"b":[0,3]}`, NotZeroOrOne},
		{"design-paired", `{"first":[0],"second":[0,1],"answerFirst":0,"answerSecond":0}`, design.ColumnLength},
		{"design-paired", `{"first":[0],"second":[0],"answerFirst":0,"answerSecond":0,"base":"all"}`, analysis.UnknownName},
		{"waves", `{"wave":[0,2],"categories":[0,1],"answer":1,"overlap":false}`, design.UnknownWave},
		{"waves", `{"wave":[0],"categories":[0,1],"answer":1,"overlap":true}`, design.ColumnLength},
		{"design-mean", `{"values":[1,2],"mu0":"much"}`, infer.NotFinite},
		{"design-ratio", `{"numerator":[1,2],"denominator":[1,-1]}`, design.ZeroDenominator},
		{"design-ratio", `{"numerator":[1,2],"denominator":[1]}`, design.ColumnLength},
		{"design-quantile", `{"values":[1,2],"probabilities":["1"]}`, infer.ProbabilityRange},
		{"design-trend", `{"values":[1,2],"groups":[0,0],"scores":["1","2"]}`, design.OneGroup},
		{"design-trend", `{"values":[1,2],"groups":[0,1],"scores":["1","1"]}`, design.OneGroup},
		{"replicate-shares", `{"categories":[0,1],"k":2,"replicateWeights":[],"method":"brr"}`, design.FactorsNeeded},
		{"replicate-shares", `{"categories":[0,1],"k":2,"replicateWeights":[[1,1]],"method":"halves"}`, design.UnknownMethod},
		{"replicate-mean", `{"values":[1,2],"replicateWeights":[[1,1]],"method":"fay","fay":"1"}`, design.FayOutOfRange},
		{"kish", `{"weights":[0,0]}`, design.NoRespondents},
		{"kish", `{"weights":[1,null]}`, design.MissingWeight},
		{"rake", `{"margins":[]}`, weighting.TargetsNeeded},
		{"rake", `{"margins":[{"categories":[0,1],"targets":["1","-1"]}]}`, weighting.TargetNotPositive},
		{"rake", `{"margins":[{"categories":[0,1],"targets":[1,1]}],"bounds":{"lower":2,"upper":3}}`, weighting.BoundsOutOfRange},
		{"rake", `{"margins":[{"categories":[0,1],"targets":[1,1]}],"total":0}`, weighting.TotalOutOfRange},
		{"poststratify", `{"cells":[0,0],"targets":[1,1]}`, weighting.EmptyCategory},
	} {
		_, err := run(t, c.route, []byte(c.body))
		var input *infer.InputError
		if assert.True(t, errors.As(err, &input), "%s %s: %v", c.route, c.body, err) {
			assert.Equal(t, c.why, input.Reason, "%s %s", c.route, c.body)
		}
	}
}

// One respondent, two, and all alike: what is not defined is null, and nothing else.
func TestFewAndAlike(t *testing.T) {
	t.Parallel()
	one, err := run(t, "design-shares", []byte(`{"categories":[1],"k":2,"singlePsu":"zero"}`))
	require.NoError(t, err)
	assert.Equal(t, []any{0.0, 1.0}, one["share"])
	assert.Nil(t, one["beta"].([]any)[1].(map[string]any)["lower"])
	assert.Nil(t, one["designEffect"].([]any)[1])
	alike, err := run(t, "design-shares", []byte(`{"categories":[1,1,1],"k":2,"weights":["0.1","0.7","0.3"]}`))
	require.NoError(t, err)
	assert.Equal(t, []any{0.0, 1.0}, alike["share"])
	assert.Equal(t, []any{0.0, 0.0}, alike["standardError"])
	assert.Equal(t, 1.0, alike["beta"].([]any)[1].(map[string]any)["upper"])
	mean, err := run(t, "design-mean", []byte(`{"values":["0.1","0.1"],"mu0":"0.3","weights":["0.1","0.7"]}`))
	require.NoError(t, err)
	assert.Equal(t, 0.1, mean["mean"])
	assert.Equal(t, 0.0, mean["standardError"])
	assert.Nil(t, mean["t"])
	assert.Nil(t, mean["designEffect"])
	table, err := run(t, "design-independence", []byte(`{"rows":[0,1],"columns":[0,1],"shape":[2,2]}`))
	require.NoError(t, err)
	assert.Equal(t, 1.0, table["testDf"])
	never, err := run(t, "rake", []byte(`{"margins":[{"categories":[0,0,1,1],"targets":[1,1]},{"categories":[0,0,1,1],"targets":[1,3]}]}`))
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"converged": false}, never)
}
