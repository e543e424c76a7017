package resultjson

import (
	"encoding/json"
	"math"
	"math/big"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
	"widetally/core/prob"
)

type kept struct{ CohensW, DF float64 }

type sample struct {
	kept
	N        int64
	GP       prob.Prob
	Z        *float64
	Interval *infer.Interval
	Share    *big.Rat
	List     []int64
	Texts    [2]infer.Reason
	hidden   int
	Tagged   bool       `json:"yes,omitempty"`
	Flat     *prob.Prob `json:"pValue" beside:"log10"`
	None     *prob.Prob `json:"none" beside:"log10"`
}

func TestEncode(t *testing.T) {
	s := sample{kept: kept{0.1, 2}, N: math.MaxInt64, GP: prob.FromLog(-2000), Interval: &infer.Interval{Lower: math.Copysign(0, -1), Upper: math.Inf(1)}, Share: big.NewRat(29, 50), Texts: [2]infer.Reason{"a", `"`}, hidden: 1, Flat: &prob.Prob{Log10: -400}}
	raw, err := Encode(&s)
	require.NoError(t, err)
	assert.Equal(t, `{"cohensW":0.1,"df":2,"n":9223372036854775807,"gp":{"value":0,"log10":-868.5889638065036},"z":null,`+
		`"interval":{"lower":0,"upper":null},"share":"29/50","list":[],"texts":["a","\""],"yes":false,"pValue":0,"pValueLog10":-400,"none":null,"noneLog10":null}`, string(raw))
	raw, err = Encode(prob.FromRatio(0, 1))
	require.NoError(t, err)
	assert.JSONEq(t, `{"value":0,"log10":null}`, string(raw))
	for field, v := range map[string]any{"result.cohensW": kept{CohensW: math.NaN()}, "result.1": []float64{1, math.Inf(-1)}, "result": prob.ChiSquareUpper(1, -1)} {
		var bad *NotFiniteError
		_, err := Encode(v)
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, field, bad.Field)
	}
}

// What is encoded has the members that the schema names, and no others.
func TestSchemaNamesWhatIsEncoded(t *testing.T) {
	s := Schemas{Components: map[string]any{}}
	assert.Equal(t, map[string]any{"$ref": "#/components/schemas/ResultjsonSample"}, s.Of(reflect.TypeFor[sample]()))
	component := s.Components["ResultjsonSample"].(map[string]any)
	raw, err := Encode(sample{})
	require.NoError(t, err)
	var members map[string]any
	require.NoError(t, json.Unmarshal(raw, &members))
	assert.Len(t, component["required"], len(members))
	for name := range members {
		assert.Contains(t, component["properties"], name)
	}
	assert.Equal(t, []string{"number", "null"}, component["properties"].(map[string]any)["z"].(map[string]any)["type"])
	s.Request = true
	delete(s.Components, "ResultjsonSample")
	s.Of(reflect.TypeFor[sample]())
	assert.NotContains(t, s.Components["ResultjsonSample"].(map[string]any)["required"], "yes")
}
