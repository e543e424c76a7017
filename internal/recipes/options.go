package recipes

import (
	"encoding/json"
	"strconv"
	"strings"
	"sync"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/docs"
)

// specSchema is the published schema of specs.
var specSchema = sync.OnceValue(func() (out map[string]any) {
	_ = json.Unmarshal(docs.SpecSchema, &out) // ours, which the tests read
	return out
})

// OptionsOf lists what a member of the settings of a method can be, where that is one of a few words; nil
// where it is not. pointer is that of the member in the spec.
func OptionsOf(method, pointer string) (out []string) {
	schema := specSchema()
	definitions, _ := schema["$defs"].(map[string]any)
	alternatives, _ := schema["oneOf"].([]any)
	var node map[string]any
	for _, a := range alternatives {
		of, _ := a.(map[string]any)
		members, _ := of["properties"].(map[string]any)
		if name, _ := members["method"].(map[string]any); name["const"] == method {
			node = of
		}
	}
	for _, part := range strings.Split(strings.TrimPrefix(pointer, "/"), "/") {
		node = resolved(node, definitions)
		if _, err := strconv.Atoi(part); err == nil {
			node, _ = node["items"].(map[string]any)
			continue
		}
		members, _ := node["properties"].(map[string]any)
		node, _ = members[part].(map[string]any)
	}
	words, _ := resolved(node, definitions)["enum"].([]any)
	for _, w := range words {
		if text, is := w.(string); is && text != "" {
			out = append(out, text)
		}
	}
	return out
}

func resolved(node map[string]any, definitions map[string]any) map[string]any {
	if to, is := node["$ref"].(string); is {
		node, _ = definitions[to[strings.LastIndexByte(to, '/')+1:]].(map[string]any)
	}
	return node
}

// told is what is wrong with a spec that stands at a pointer, with the words that its place takes.
func (t *Text) told(at, method string, p analysis.Problem) *Mistake {
	m := t.At(at+p.Pointer, document.Say("problem."+p.Code, p.Values))
	if words := OptionsOf(method, p.Pointer); words != nil {
		m.Why = t.words.Text("recipe.wrong.one_of", map[string]string{"why": m.Why, "list": strings.Join(words, ", ")})
	}
	return m
}
