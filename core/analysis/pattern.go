package analysis

import (
	"encoding/json"
	"slices"
	"strings"
)

// Pattern is what of the settings of a spec can be carried over to another first question: all
// that a form asks for but the answers that count and figures for answers, which are asked
// anew; and nothing of how the result was looked at. Groups stay with the further questions.
func (s Spec) Pattern() map[string]any {
	all := map[string]any{}
	if raw, err := json.Marshal(s.Settings); err == nil {
		_ = json.Unmarshal(raw, &all) // what was just made of settings
	}
	for _, input := range s.Settings.Asked().Inputs {
		if input.Kind == CategoriesInput || input.Kind == FiguresInput {
			without(all, strings.Split(input.Name, "."))
		}
	}
	without(all, []string{"looked"})
	without(all, []string{"source", "shelf"})
	without(all, []string{"shares", "source", "shelf"})
	without(all, []string{"shares", "rescale"})
	without(all, []string{"test", "exact"})
	for member := range all {
		if slices.Contains(shownOnly, member) {
			delete(all, member)
		}
	}
	return all
}

func without(in map[string]any, path []string) {
	for _, name := range path[:len(path)-1] {
		inner, ok := in[name].(map[string]any)
		if !ok {
			return
		}
		in = inner
	}
	delete(in, path[len(path)-1])
}
