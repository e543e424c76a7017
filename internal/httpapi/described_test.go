package httpapi

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/service"
)

// What is described of typed counts: the first sentence of its document and one figure of its
// result, each derived by hand beside it; and what cannot be asked, with its reason.
func TestDescribedFromTypedCounts(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	const counts = `{"units":"homes","questions":[
		{"key":"size","wording":"How many live here?","kind":"discrete","values":[1,2,3,4],"valueCounts":[10,20,15,5]},
		{"key":"minutes","kind":"ordered","categories":[{"code":"a","from":0,"to":10},{"code":"b","from":10,"to":20},{"code":"c","from":20,"to":40}],"counts":[10,20,10]},
		{"key":"reasons","kind":"choose_all","categories":[{"code":"smell"},{"code":"time"}],"counts":[6,3],"chosen":[1,5,2]},
		{"key":"bins","kind":"ordered","categories":[{"code":"1"},{"code":"2"},{"code":"3"},{"code":"4"}],"counts":[1,2,3,4]},
		{"key":"crews","kind":"ordered","categories":[{"code":"4"},{"code":"3"},{"code":"2"},{"code":"1"}],"counts":[6,2,1,1]},
		{"key":"ward","categories":[{"code":"Harbour"},{"code":"Fenside"}]},{"key":"caddy","categories":[{"code":"yes"},{"code":"no"}]},{"key":"wave","categories":[{"code":"spring"},{"code":"autumn"}]}],
		"crosstabs":[{"rows":"ward","columns":"caddy","layers":"wave","counts":[[[30,10],[10,50]],[[5,5],[45,45]]]}]}`
	ask := func(method, questions, settings string) string {
		return fmt.Sprintf(`{"spec":{"method":%q,"version":1,"questions":%s,"settings":%s},"counts":%s}`, method, questions, settings, counts)
	}
	for _, k := range []struct {
		method, questions, settings, place, sentence, path string
		want                                               any
	}{
		// (10 + 40 + 45 + 20) ÷ 50 = 2.3
		{"numeric-summary", `["size"]`, `{"picture":"histogram","height":"count","parts":4}`, "sentence", "Of the 50 homes that gave a number, at least half gave 2 or less and at least half 2 or more", "result.mean", 2.3},
		// 10 + (20 − 10) ÷ 20 · 10 = 15; (50 + 300 + 300) ÷ 40 = 16.25
		{"numeric-summary", `["minutes"]`, `{"picture":"ogive","height":"count","parts":4}`, "sentence", "half lie below about 15, in the class from 10 to 20; their mean is about 16.25", "result.mean", 16.25},
		{"multiple-response", `["reasons"]`, `{}`, "sentence", "Of the 8 homes that answered “reasons”, 75.0\u00a0% chose “smell”; that is 66.7\u00a0% of all 9 answers chosen", "result.meanChosen", 1.125},
		// The second scale comes the other way round: its answers are matched by code.
		{"battery", `["bins","crews"]`, `{}`, "sentence", "“3” or “4”: most often “crews”, 80.0\u00a0%; least often “bins”, 70.0\u00a0%", "result.topTwo.1", 0.8},
		// (30·50/100 + 5·45/100) ÷ (10·10/100 + 5·45/100)
		{"mantel-haenszel", `["caddy","ward","wave"]`, `{"reading":"row"}`, "basis", "All 200 homes answered “caddy”, “ward” and “wave”", "result.commonOddsRatio", 17.25 / 3.25},
	} {
		t.Run(k.method, func(t *testing.T) {
			c.t = t
			out := c.call("POST", "/analyses", ask(k.method, k.questions, k.settings), 200)
			said := ""
			for _, b := range at(t, out, "document.blocks").([]any) {
				if b.(object)["kind"] == k.place {
					said = b.(object)["lines"].([]any)[0].(string)
					break
				}
			}
			assert.Contains(t, said, k.sentence)
			assert.InDelta(t, k.want, at(t, out, k.path), 1e-12)
		})
	}
	c.t = t
	for _, k := range []struct{ method, questions, settings, code string }{
		{"numeric-summary", `["ward"]`, `{"picture":"histogram","height":"count","parts":4}`, "claim.kind"},
		{"numeric-summary", `["size"]`, `{"picture":"pie","height":"count","parts":4}`, "numeric_summary.picture"},
		{"numeric-summary", `["size"]`, `{"picture":"box","height":"inches","parts":4}`, "numeric_summary.height"},
		{"numeric-summary", `["size"]`, `{"picture":"box","height":"count","parts":7}`, "numeric_summary.parts"},
		{"numeric-summary", `["size"]`, `{"picture":"box","height":"count","parts":4,"width":-1}`, "numeric_summary.width"},
		{"multiple-response", `["ward"]`, `{}`, "claim.kind"},
		{"battery", `["bins"]`, `{}`, "battery.questions"},
		{"battery", `["bins","ward"]`, `{}`, "battery.answers"},
		{"battery", `["bins","bins"]`, `{}`, "spec.same_question"},
		{"mantel-haenszel", `["caddy","ward"]`, `{"reading":"row"}`, "spec.questions"},
		{"mantel-haenszel", `["caddy","ward","wave"]`, `{"reading":"sideways"}`, "crosstab.reading"},
		{"crosstab", `["caddy","ward","wave"]`, `{"reading":"row"}`, "spec.questions"},
		{"crosstab", `["caddy","ward"]`, `{"reading":"row","picture":"pie"}`, "crosstab.picture"},
	} {
		out := c.call("POST", "/analyses", ask(k.method, k.questions, k.settings), 200)
		assert.Equal(t, k.code, at(t, out, "problems.0.code"), "%s %s %s", k.method, k.questions, k.settings)
		assert.Nil(t, out["document"], "what cannot be asked has no document")
	}
}
