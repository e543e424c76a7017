// Package workedcases lets the tests of the core read the worked cases in
// core/testdata and compare with their 20-digit answers.
package workedcases

import (
	"encoding/json"
	"math"
	"math/big"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Case is one worked case: its input and the expected answers by name.
type Case struct {
	ID     string                     `json:"id"`
	Kind   string                     `json:"kind"`
	Input  map[string]json.RawMessage `json:"input"`
	Expect map[string]any             `json:"expect"`
}

// Load returns the cases of one kind and fails the test if there is none.
func Load(t *testing.T, kind string) []Case {
	t.Helper()
	var all, found []Case
	require.NoError(t, json.Unmarshal(read(t, "reference_cases.json"), &all))
	for _, c := range all {
		if c.Kind == kind {
			found = append(found, c)
		}
	}
	require.NotEmpty(t, found, "no reference case of kind %s", kind)
	return found
}

// read reads a file of core/testdata.
func read(t *testing.T, name string) []byte {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	raw, err := os.ReadFile(filepath.Join(filepath.Dir(here), "..", "..", "core", "testdata", name))
	require.NoError(t, err)
	return raw
}

// In decodes the named input into a value of type T; absent gives the zero value.
func In[T any](t *testing.T, c Case, name string) T {
	t.Helper()
	var v T
	if raw, ok := c.Input[name]; ok {
		require.NoError(t, json.Unmarshal(raw, &v), "%s: input %s", c.ID, name)
	}
	return v
}

// Rat reads a number or a text such as 30, "0.45" or "1/3" exactly.
func Rat(t *testing.T, raw json.RawMessage) *big.Rat {
	t.Helper()
	r, ok := new(big.Rat).SetString(strings.Trim(string(raw), `"`))
	require.True(t, ok, "not a number: %s", raw)
	return r
}

// Float reads the named input exactly and returns the nearest float64.
func Float(t *testing.T, c Case, name string) float64 {
	t.Helper()
	f, _ := Rat(t, c.Input[name]).Float64()
	return f
}

// Shares reads the named list of numbers and divides them by their sum.
func Shares(t *testing.T, c Case, name string) []*big.Rat {
	t.Helper()
	var out []*big.Rat
	sum := new(big.Rat)
	for _, raw := range In[[]json.RawMessage](t, c, name) {
		r := Rat(t, raw)
		out, sum = append(out, r), sum.Add(sum, r)
	}
	for i := range out {
		out[i] = new(big.Rat).Quo(out[i], sum)
	}
	return out
}

// Ratios divides the parts by their sum.
func Ratios(parts ...int64) (out []*big.Rat) {
	sum := int64(0)
	for _, p := range parts {
		sum += p
	}
	for _, p := range parts {
		out = append(out, big.NewRat(p, sum))
	}
	return out
}

// Near checks got against the expected answer of that name to 12 significant
// digits; keys that are absent or null are not compared. It reports whether a
// comparison was made.
func (c Case) Near(t *testing.T, name string, got float64) bool {
	t.Helper()
	want, ok := c.Expect[name].(string)
	if !ok {
		return false
	}
	near(t, c.ID+" "+name, want, got)
	return true
}

// NearEach checks a row of numbers.
func (c Case) NearEach(t *testing.T, name string, got []float64) {
	t.Helper()
	want, ok := c.Expect[name].([]any)
	if !ok {
		return
	}
	require.Len(t, got, len(want), "%s %s", c.ID, name)
	for i := range want {
		near(t, c.ID+" "+name, want[i].(string), got[i])
	}
}

// NearTable checks a table of numbers row by row.
func (c Case) NearTable(t *testing.T, name string, got [][]float64) {
	t.Helper()
	want, ok := c.Expect[name].([]any)
	require.True(t, ok && len(want) == len(got), "%s %s", c.ID, name)
	for i, row := range want {
		Case{ID: c.ID, Expect: map[string]any{name: row}}.NearEach(t, name, got[i])
	}
}

// Within returns the answers nested under a name; nil answers if there are none.
func (c Case) Within(name string) Case {
	nested, _ := c.Expect[name].(map[string]any)
	return Case{ID: c.ID + " " + name, Kind: c.Kind, Expect: nested}
}

// NearProb checks a probability by value down to 1e-30 and by logarithm always.
func (c Case) NearProb(t *testing.T, name string, value, log10 float64) bool {
	t.Helper()
	want, ok := c.Expect[name].(string)
	if !ok {
		return false
	}
	if l, has := c.Expect[name+"_log10"].(string); has {
		lw := parse(t, l)
		// The logarithm of a p near one is as good as p's own last digits.
		require.InDelta(t, lw, log10, 1e-12*math.Max(math.Abs(lw), 1e-3), "%s %s log10: want %s got %.17g", c.ID, name, l, log10)
		if lw < -30 {
			return true
		}
	}
	near(t, c.ID+" "+name, want, value)
	return true
}

func near(t *testing.T, what, want string, got float64) {
	t.Helper()
	w := parse(t, want)
	if math.IsInf(w, 0) {
		require.Equal(t, w, got, what)
		return
	}
	require.LessOrEqual(t, math.Abs(got-w), 5e-13*math.Abs(w)+1e-300, "%s: want %s got %.17g", what, want, got)
}

func parse(t *testing.T, s string) float64 {
	t.Helper()
	if s == "inf" {
		return math.Inf(1)
	}
	if s == "-inf" {
		return math.Inf(-1)
	}
	f, _, err := big.ParseFloat(s, 10, 200, big.ToNearestEven)
	require.NoError(t, err)
	v, _ := f.Float64()
	return v
}
