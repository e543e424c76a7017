package methods_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
)

// values calls see with every value within a document, and where it stands.
func values(t *testing.T, v reflect.Value, path string, see func(path string, v document.Value)) {
	if v.Type() == reflect.TypeFor[document.Value]() {
		see(path, v.Interface().(document.Value))
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			values(t, v.Elem(), path, see)
		}
	case reflect.Struct:
		require.Less(t, len(path), 500, path)
		for i := range v.NumField() {
			if f := v.Type().Field(i); f.IsExported() {
				values(t, v.Field(i), path+"."+f.Name, see)
			}
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			values(t, v.Index(i), fmt.Sprintf("%s.%d", path, i), see)
		}
	case reflect.Map:
		for _, key := range v.MapKeys() {
			values(t, v.MapIndex(key), path+"."+key.String(), see)
		}
	}
}

// canBe says why a value cannot be what its kind says; "" where it can.
func canBe(v document.Value) string {
	switch v.Kind {
	case document.Words, document.Said:
		return ""
	case document.Statistic, document.Effect, document.BothSides: // a ratio may have no bound
		if math.IsNaN(v.Number) {
			return "no number"
		}
		return ""
	}
	if math.IsNaN(v.Number) || math.IsInf(v.Number, 0) {
		return "no number"
	}
	const slip = 1e-9
	within := func(least, most float64) string {
		if v.Number < least-slip || v.Number > most+slip {
			return fmt.Sprintf("not within %v and %v", least, most)
		}
		return ""
	}
	switch v.Kind {
	case document.Count:
		if v.Number != math.Trunc(v.Number) {
			return "no whole number"
		}
	case document.Percent, document.Bare, document.Points:
		return within(0, 100)
	case document.Difference:
		return within(-100, 100)
	case document.Level, document.Share, document.PValue, document.PEqual, document.PExact:
		return within(0, 1)
	case document.Range:
		if v.Upper < v.Number {
			return "upside down"
		}
		return within(0, 100)
	}
	return ""
}

// Whoever answered, be it one, or all alike, or nobody to a question, each method says why it has
// no result, or every figure that it shows is one of its kind: a percent within 0 and 100, a count
// whole, a p-value within 0 and 1; its tables have a cell for every column, and strips add up.
func TestWhatIsShownCanBe(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(233, 377))
	repeated := func(n, i int) (out []int) {
		for range n {
			out = append(out, i)
		}
		return out
	}
	samples := map[string][]int{
		"one": {7}, "two alike": {7, 7}, "two unlike": {7, 77}, "everybody alike": repeated(60, 3), "nobody says about the caddy": {98, 99, 98, 99, 99},
		"one ward": {0, 1, 2, 3, 30, 31, 33, 35}, "one in the other ward": append(repeated(30, 1), 70), "the wards as the caddies": append(repeated(20, 4), repeated(20, 90)...),
	}
	for i := range 12 {
		var some []int
		for range 1 + rng.IntN(60) {
			some = append(some, rng.IntN(100))
		}
		samples[fmt.Sprintf("some %d", i)] = some
	}
	answered := map[string]int{}
	for name, sample := range samples {
		source := homesOf(t, sample, nil)
		for _, k := range everyMethod {
			o, err := ask(t, source, specOf(k.method, k.questions, k.settings))
			if err != nil || o.Refusal != nil {
				continue // an answer that the settings name is not there, or there is no result
			}
			answered[k.method]++
			what := k.method + " of " + name
			d := o.Document(claim.About{Units: document.Text("homes"), Everyone: int64(len(sample))})
			values(t, reflect.ValueOf(d), "", func(path string, v document.Value) {
				if k.method == "multiple-response" && v.Kind == document.Percent && v.Number > 100 {
					return // whoever chose several answers is in the sum of their percents as often
				}
				assert.Empty(t, canBe(v), "%s: %v %v at %s", what, v.Kind, v.Number, path)
			})
			for _, b := range d.Blocks {
				if b.Table == nil {
					continue
				}
				for _, row := range b.Table.Rows {
					if !row.Head {
						require.Len(t, row.Cells, len(b.Table.Columns), "%s: %v", what, b.Table.Caption.ID)
					}
					sum := 0.0
					for _, part := range row.Strip {
						sum += part
					}
					if row.Strip != nil && sum > 0 {
						assert.InDelta(t, 100, sum, 1e-9, what)
					}
				}
			}
		}
	}
	for _, k := range everyMethod {
		assert.Greater(t, answered[k.method], 5, k.method)
	}
}
