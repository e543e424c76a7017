package methods_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/resultjson"
)

func TestProbabilitiesAsWritten(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]float64{`0.05`: math.Log10(0.05), `"5e-2"`: math.Log10(0.05), `"1e-400"`: -400, `"2.5E-1000"`: math.Log10(2.5) - 1000, `1`: 0, `"0.9999999999999999"`: math.Log1p(-1.1102230246251565e-16) / math.Ln10, `0`: math.Inf(-1)} {
		var p analysis.Probability
		require.NoError(t, json.Unmarshal([]byte(text), &p))
		q, ok := p.Read()
		require.True(t, ok, text)
		if math.IsInf(want, -1) {
			assert.Equal(t, want, q.Log10)
			continue
		}
		assert.InDelta(t, want, q.Log10, 1e-12*math.Max(1e-3, -want), text)
	}
	for _, text := range []string{`"1.0001"`, `-0.1`, `"1e1"`, `"half"`, `""`, `"NaN"`, `"Inf"`, `"0x1p-3"`, `"1e-99999999999"`} {
		var p analysis.Probability
		require.NoError(t, json.Unmarshal([]byte(text), &p))
		_, ok := p.Read()
		assert.False(t, ok, text)
	}
}

func TestFiguresAsWritten(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{`0.21`: "0.21", `"1/3"`: "1/3", `1e-05`: "0.00001", `2.5E1`: "25", `1e400`: "1e400", `"12,5"`: "12,5"} {
		var f analysis.Figure
		require.NoError(t, json.Unmarshal([]byte(text), &f))
		assert.Equal(t, want, string(f))
	}
}

// Defaults are there when a member is absent, and a request never changes them for the
// next one.
func TestRequestsDoNotShareDefaults(t *testing.T) {
	t.Parallel()
	for _, f := range registry.All() {
		before, err := json.Marshal(f.New())
		require.NoError(t, err)
		in := f.New()
		_ = json.Unmarshal([]byte(`{"level":0.2,"confidence":0.5,"shares":["1"],"scale":"counts","percents":[1,2,3,4],"kind":"z","probabilities":["0.9"],"exact":{"seed":9}}`), in)
		after, err := json.Marshal(f.New())
		require.NoError(t, err)
		assert.Equal(t, string(before), string(after), f.Name)
		assert.NotEmpty(t, f.Summary)
	}
}

// FuzzFamilies sends any JSON to any family: it is refused with a known reason, or its
// result can be encoded.
func FuzzFamilies(f *testing.F) {
	for i, body := range []string{
		`{"observed":[3,4],"shares":[0.5,"1/2"],"exact":{"way":"simulation","replicates":5}}`, `{"table":[[1,2],[3,4]],"level":0.1}`, `{"tables":[[[1,2],[3,4]]]}`,
		`{"successes":3,"n":9,"claimed":0.4,"expected":0.3,"margin":0.2}`, `{"first":{"n":4,"mean":2,"sd":1,"successes":1},"second":{"n":5,"mean":3,"sd":2,"successes":2},"margin":0.3}`,
		`{"p":["1e-400",0.3]}`, `{"statistic":"9.40","df":3,"p":"0.024"}`, `{"w":0.2,"df":3,"power":0.8}`, `{"name":"f","df":3,"df2":4,"upperTail":1e-20}`,
		`{"values":[1,2,2],"classes":[[1,2],[2,5]],"counts":[3,4]}`, `{"patterns":[{"chosen":[true,false],"count":3}]}`, `{"share1":0.3,"share2":0.6,"n1":20,"n2":30}`,
	} {
		f.Add(uint8(i), []byte(body))
		f.Add(uint8(2*i+1), []byte(body))
	}
	ctx := context.Background()
	f.Fuzz(func(t *testing.T, which uint8, body []byte) {
		family := registry.All()[int(which)%len(registry.All())]
		in := family.New()
		if json.NewDecoder(bytes.NewReader(body)).Decode(in) != nil {
			return
		}
		out, err := family.Run(ctx, in)
		var input *infer.InputError
		var expected *analysis.SharesError
		if err != nil {
			var outside *analysis.RangeError
			var lacking *analysis.MissingError
			if !errors.As(err, &input) && !errors.As(err, &expected) && !errors.As(err, &outside) && !errors.As(err, &lacking) {
				t.Fatalf("%s of %s: %v", family.Name, body, err)
			}
			return
		}
		var infinite *resultjson.NotFiniteError
		if _, err := resultjson.Encode(out); err != nil && !errors.As(err, &infinite) {
			t.Fatalf("%s of %s: %v", family.Name, body, err)
		}
	})
}
