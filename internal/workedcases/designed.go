package workedcases

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Designed returns the worked cases of designed samples.
func Designed(t *testing.T) []Case {
	t.Helper()
	var all []Case
	require.NoError(t, json.Unmarshal(read(t, "design_cases.json"), &all))
	return all
}

// Path is the address of the case's kind below /compute/.
func (c Case) Path() string { return strings.ReplaceAll(c.Kind, "_", "-") }

// Body is the input as a request.
func (c Case) Body(t *testing.T) []byte {
	t.Helper()
	body := map[string]json.RawMessage{}
	for name, raw := range c.Input {
		body[camel(name)] = raw
	}
	raw, err := json.Marshal(body)
	require.NoError(t, err)
	return raw
}

func camel(name string) string {
	words := strings.Split(name, "_")
	for i, w := range words[1:] {
		words[i+1] = strings.ToUpper(w[:1]) + w[1:]
	}
	return strings.Join(words, "")
}

// exactly are the figures that are counted or observed, by the last part of their name.
var exactly = []string{
	"n", "n_design", "psus", "strata", "df", "base_psus", "base_strata", "count", "test_df", "wald_df", "wald_f_denominator_df", "rows_used", "columns_used",
	"n_a", "n_b", "n_1", "n_0", "base_n", "group_n", "zero_weights", "replicates", "quantile", "lower_open", "upper_open", "converged",
}

// Answered holds an answer, decoded from JSON, against everything that the case expects: counts and
// observed numbers exactly, figures to 9 significant digits, logarithms of p-values to 7, a and a² and
// covariances, and what is 0, absolutely. It returns how many figures were compared.
func (c Case) Answered(t *testing.T, got map[string]any) (compared int) {
	t.Helper()
	for name, want := range c.Expect {
		compared += answered(t, c.ID, name, want, got)
	}
	return compared
}

func answered(t *testing.T, at, name string, want any, in map[string]any) int {
	t.Helper()
	got, given := in[camel(name)]
	if !assert.True(t, given, "%s: no %s", at, camel(name)) {
		return 0
	}
	return same(t, at+" "+name, name, want, got)
}

func same(t *testing.T, at, name string, want, got any) (n int) {
	t.Helper()
	switch want := want.(type) {
	case map[string]any:
		object, is := got.(map[string]any)
		if !assert.True(t, is, "%s is %v", at, got) {
			return 0
		}
		for inner, w := range want {
			n += answered(t, at, inner, w, object)
		}
		return n
	case []any:
		list, is := got.([]any)
		if !assert.True(t, is && len(list) == len(want), "%s: want %v got %v", at, want, got) {
			return 0
		}
		for i, w := range want {
			n += same(t, fmt.Sprintf("%s %d", at, i), name, w, list[i])
		}
		return n
	case string:
		if strings.HasSuffix(want, "inf") {
			return 0
		}
		x, is := got.(float64)
		if assert.True(t, is, "%s: want %s got %v", at, want, got) {
			figure(t, at, name, parse(t, want), x)
		}
		return 1
	}
	assert.Equal(t, want, got, at)
	return 1
}

func figure(t *testing.T, at, name string, want, got float64) {
	t.Helper()
	slack := 1e-9 * math.Abs(want)
	switch {
	case slices.Contains(exactly, name):
		slack = 0
	case strings.HasSuffix(name, "_log10"):
		slack = 1e-7*math.Abs(want) + 1e-9
	case name == "a_squared" || name == "cv_design_effect":
		slack = 1e-7
	case name == "covariance" || want == 0:
		slack = 1e-12
	}
	assert.LessOrEqual(t, math.Abs(got-want), slack, "%s: want %.17g got %.17g", at, want, got)
}
