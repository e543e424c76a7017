package methods_test

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/infer"
	"widetally/core/resultjson"
)

// FuzzSpecs asks any text of a file of answers: it is refused with a place, its method says why it
// has no result, or it is answered with a result that can be sent and a document. What is written
// of it is read as the same again.
func FuzzSpecs(f *testing.F) {
	for _, k := range everyMethod {
		spec := specOf(k.method, k.questions, k.settings)
		f.Add([]byte(spec))
		f.Add([]byte(strings.Replace(spec, `0.05`, `"5 %"`, 1)))
		f.Add([]byte(strings.Replace(spec, `"role":"null",`, ``, 1)))
		f.Add([]byte(strings.Replace(spec, `"questions":["`, `"questions":["against","`, 1)))
		f.Add([]byte(strings.Replace(spec, `"settings":{`, `"subgroup":"nobody","settings":{`, 1)))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		if len(text) > 4000 {
			return
		}
		s, err := registry.Spec(text)
		if err != nil {
			return
		}
		written, err := json.Marshal(s)
		if err != nil {
			t.Fatalf("%s cannot be written: %v", text, err)
		}
		again, err := registry.Spec(written)
		if err != nil {
			t.Fatalf("%s is written as %s, which is refused: %v", text, written, err)
		}
		if twice, err := json.Marshal(again); err != nil || string(twice) != string(written) {
			t.Fatalf("%s is written as %s, then as %s (%v)", text, written, twice, err)
		}
		counted, err := analysis.Count(context.Background(), s, homes(t))
		var refused *analysis.SpecError
		if err != nil {
			if !errors.As(err, &refused) && !errors.Is(err, analysis.ErrUnknownKey) {
				t.Fatalf("%s: %v", text, err)
			}
			return
		}
		o, err := analysis.Run(analysis.Work{Context: context.Background(), Steps: 10_000, Replicates: 100}, s, counted)
		if err != nil {
			var outside *analysis.RangeError
			if !errors.As(err, &outside) {
				t.Fatalf("%s: %v", text, err)
			}
			return
		}
		var input *infer.InputError
		if o.Refusal != nil {
			if errors.As(o.Refusal, &input) && input.Reason == "" {
				t.Fatalf("%s is refused without a reason", text)
			}
			return
		}
		var infinite *resultjson.NotFiniteError
		if _, err := resultjson.Encode(o.Result); err != nil && !errors.As(err, &infinite) {
			t.Fatalf("%s: %v", text, err)
		}
		o.Document(claim.About{Units: document.Text("homes"), Everyone: 100})
	})
}
