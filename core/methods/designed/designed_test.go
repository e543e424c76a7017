package designed

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/resultjson"
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
