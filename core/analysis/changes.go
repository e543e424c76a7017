package analysis

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
)

// Changes lists what differs between two specs, member by member: the name of the member,
// and what it was and is. Members of a list of figures by code name their code.
func Changes(before, after Spec) ([]Change, error) {
	a, err := flattened(before)
	if err != nil {
		return nil, err
	}
	b, err := flattened(after)
	if err != nil {
		return nil, err
	}
	var out []Change
	for _, m := range append(a, b...) {
		x, y := valueAt(a, m.at), valueAt(b, m.at)
		known := false
		for _, c := range out {
			known = known || c.At == m.at
		}
		if x != y && !known {
			out = append(out, Change{At: m.at, Field: m.field, Code: m.code, Old: x, New: y})
		}
	}
	return out, nil
}

// Change is one member of a spec that was changed. Field is its last name, which the text
// under claim.change goes by; Code the answer of which a figure is.
type Change struct{ At, Field, Code, Old, New string }

// Shown is what a member was or is, as a person reads it: the parts of a list with commas.
func Shown(value string) string {
	var list []any
	if json.Unmarshal([]byte(value), &list) != nil {
		return value
	}
	parts := make([]string, len(list))
	for i, x := range list {
		parts[i] = fmt.Sprint(x)
	}
	return strings.Join(parts, ", ")
}

type member struct{ at, field, code, value string }

func valueAt(list []member, at string) string {
	for _, m := range list {
		if m.at == at {
			return m.value
		}
	}
	return ""
}

func flattened(s Spec) ([]member, error) {
	raw, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	var whole map[string]any
	if err := json.Unmarshal(raw, &whole); err != nil {
		return nil, err
	}
	var out []member
	flatten(whole, "", "", "", &out)
	return out, nil
}

func flatten(v any, at, field, code string, out *[]member) {
	switch v := v.(type) {
	case map[string]any:
		if c, ok := v["code"].(string); ok {
			code = c
			at += "/" + c
		}
		for _, name := range sortedNames(v) {
			if name != "code" {
				flatten(v[name], at+"/"+name, name, code, out)
			}
		}
	case []any:
		if len(v) > 0 {
			if _, isObject := v[0].(map[string]any); isObject {
				for _, item := range v {
					flatten(item, at, field, code, out)
				}
				return
			}
		}
		text, _ := json.Marshal(v) // texts and numbers
		*out = append(*out, member{at, field, code, string(text)})
	case nil:
	default:
		text, isText := v.(string)
		if !isText {
			raw, _ := json.Marshal(v)
			text = string(raw)
		}
		*out = append(*out, member{at, field, code, text})
	}
}

// ChangeID is the text of a change of a member of a spec from a value to another one; of one that says yes or no
// there are two, and of whom it is about one for each that names everyone.
func ChangeID(field, from, to string) string {
	id := "claim.change." + field
	switch {
	case field == "unweighted":
		id += "_" + strconv.FormatBool(to != "")
	case field == "subgroup" && from == "":
		id += "_from_all"
	case field == "subgroup" && to == "":
		id += "_to_all"
	}
	return id
}
