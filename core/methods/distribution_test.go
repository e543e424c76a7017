package methods_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/methods/distribution"
)

func lookUp(t *testing.T, body string) (*distribution.Answer, error) {
	t.Helper()
	m, ok := registry.Find("distribution")
	require.True(t, ok)
	in := m.New()
	require.NoError(t, json.Unmarshal([]byte(body), in), body)
	out, err := m.Run(context.Background(), in)
	if err != nil {
		return nil, err
	}
	return out.(*distribution.Answer), nil
}

// Every distribution gives its tails where a closed form tells them, and finds the point again
// from either tail.
func TestDistributionsByTheirClosedForms(t *testing.T) {
	t.Parallel()
	// Chi-square of even degrees of freedom is a sum of chances of Poisson, the noncentral one a
	// mixture of them.
	even := func(df int, x float64) (upper float64) {
		term := math.Exp(-x / 2)
		for i := range df / 2 {
			upper += term
			term *= x / 2 / float64(i+1)
		}
		return upper
	}
	mixed := func(df int, nc, x float64) (upper float64) {
		weight := math.Exp(-nc / 2)
		for j := range 200 {
			upper += weight * even(df+2*j, x)
			weight *= nc / 2 / float64(j+1)
		}
		return upper
	}
	for _, k := range []struct {
		law      string
		x, upper float64
	}{
		{`"name":"normal"`, 1.3, math.Erfc(1.3/math.Sqrt2) / 2},
		{`"name":"normal"`, -2, math.Erfc(-2/math.Sqrt2) / 2},
		{`"name":"student_t","df":1`, 3, 0.5 - math.Atan(3)/math.Pi},
		{`"name":"student_t","df":2`, -1, 0.5 + 1/(2*math.Sqrt(3))},
		{`"name":"chi_square","df":2`, 5, math.Exp(-2.5)},
		{`"name":"chi_square","df":8`, 11.5, even(8, 11.5)},
		{`"name":"noncentral_chi_square","df":4,"noncentrality":3`, 9, mixed(4, 3, 9)},
		{`"name":"noncentral_chi_square","df":2,"noncentrality":40`, 30, mixed(2, 40, 30)},
		{`"name":"noncentral_chi_square","df":6,"noncentrality":0`, 9, even(6, 9)},
		{`"name":"f","df":2,"df2":10`, 4, math.Pow(1.8, -5)},
		{`"name":"f","df":2,"df2":3`, 0.4, math.Pow(1+0.8/3, -1.5)},
		{`"name":"beta","a":3,"b":1`, 0.6, 1 - 0.216},
		{`"name":"beta","a":1,"b":4`, 0.25, math.Pow(0.75, 4)},
		{`"name":"beta","a":2,"b":2`, 0.3, 1 - 0.09*(3-0.6)},
	} {
		at, err := lookUp(t, fmt.Sprintf(`{%s,"x":%v}`, k.law, k.x))
		require.NoError(t, err, k.law)
		assert.InEpsilon(t, k.upper, at.Upper.Value, 1e-12, k.law)
		assert.InEpsilon(t, 1-k.upper, at.Lower.Value, 1e-12, k.law)
		for tail, size := range map[string]float64{"upperTail": at.Upper.Value, "lowerTail": at.Lower.Value} {
			back, err := lookUp(t, fmt.Sprintf(`{%s,"%s":%.17g}`, k.law, tail, size))
			require.NoError(t, err, k.law)
			assert.InEpsilon(t, k.x, back.X, 1e-11, "%s from its %s", k.law, tail)
		}
	}

	// A count has both tails to itself: 0.4 + 0.6² · 3 · 0.4 … of three respondents.
	two, err := lookUp(t, `{"name":"binomial","n":3,"share":0.4,"x":2}`)
	require.NoError(t, err)
	assert.InEpsilon(t, 0.936, two.Lower.Value, 1e-14)
	assert.InEpsilon(t, 0.352, two.Upper.Value, 1e-14)
	for body, want := range map[string]float64{
		`{"name":"binomial","n":3,"share":0.4,"upperTail":0.36}`: 2, // at least 2: 0.352
		`{"name":"binomial","n":3,"share":0.4,"upperTail":0.35}`: 3, // at least 3: 0.064
		`{"name":"binomial","n":3,"share":0.4,"lowerTail":0.22}`: 0, // at most 0: 0.216
		`{"name":"binomial","n":3,"share":0.4,"lowerTail":0.65}`: 1, // at most 1: 0.648
	} {
		found, err := lookUp(t, body)
		require.NoError(t, err, body)
		assert.Equal(t, want, found.X, body)
	}
}

func TestDistributionsThatAreNone(t *testing.T) {
	t.Parallel()
	for body, field := range map[string]string{
		`{"name":"student_t","df":0,"x":1}`:                                   "df",
		`{"name":"chi_square","x":1}`:                                         "df",
		`{"name":"f","df":3,"df2":-1,"x":1}`:                                  "df2",
		`{"name":"beta","a":2,"x":0.5}`:                                       "b",
		`{"name":"beta","a":1e10,"b":1,"x":0.5}`:                              "a",
		`{"name":"noncentral_chi_square","df":20000,"noncentrality":1,"x":1}`: "df",
		`{"name":"noncentral_chi_square","df":2,"noncentrality":-1,"x":1}`:    "noncentrality",
		`{"name":"noncentral_chi_square","df":2,"noncentrality":1e13,"x":1}`:  "noncentrality",
		`{"name":"binomial","n":0,"share":0.5,"x":1}`:                         "n",
		`{"name":"binomial","n":10,"share":1,"x":1}`:                          "share",
		`{"name":"normal","x":1e16}`:                                          "x",
		`{"name":"normal","upperTail":1}`:                                     "upperTail",
		`{"name":"normal","lowerTail":1e-301}`:                                "lowerTail",
	} {
		_, err := lookUp(t, body)
		var out *analysis.RangeError
		require.ErrorAs(t, err, &out, body)
		assert.Equal(t, field, out.Field, body)
	}
	for body, why := range map[string]infer.Reason{
		`{"name":"gamma","x":1}`:                   analysis.UnknownName,
		`{"name":"normal"}`:                        analysis.NothingAsked,
		`{"name":"normal","x":1,"upperTail":0.05}`: analysis.NothingAsked,
	} {
		_, err := lookUp(t, body)
		var refused *infer.InputError
		require.ErrorAs(t, err, &refused, body)
		assert.Equal(t, why, refused.Reason, body)
	}
}
