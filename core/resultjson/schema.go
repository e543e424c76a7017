package resultjson

import (
	"encoding/json"
	"path"
	"reflect"
	"slices"
	"strings"
	"time"

	"widetally/core/infer"
	"widetally/core/prob"
)

// Schemas collects the JSON schemas of types, named ones as components.
type Schemas struct {
	Components map[string]any
	// Doc gives the documentation of a type ("") or of one of its fields, and Values the
	// constants of a type of texts; both may be nil.
	Doc    func(t reflect.Type, field string) string
	Values func(t reflect.Type) []string
	// Request makes fields with omitempty optional.
	Request bool
}

type object = map[string]any

// Times are written as such, and what is JSON already as it is.
var (
	timeType = reflect.TypeFor[time.Time]()
	jsonType = reflect.TypeFor[json.RawMessage]()
)

// Of returns the schema of a type.
func (s *Schemas) Of(t reflect.Type) object {
	switch {
	case t == timeType:
		return object{"type": "string", "format": "date-time"}
	case t == jsonType:
		return object{}
	case t == ratType:
		return object{"type": "string", "description": "an exact fraction such as 29/50"}
	case t.Kind() == reflect.Pointer:
		return orNull(s.Of(t.Elem()))
	}
	if custom, ok := reflect.Zero(t).Interface().(interface{ Schema() map[string]any }); ok {
		return custom.Schema()
	}
	switch t.Kind() {
	case reflect.Struct:
		return s.component(t)
	case reflect.Map:
		return object{"type": "object", "additionalProperties": s.Of(t.Elem())}
	case reflect.Slice:
		return object{"type": "array", "items": s.Of(t.Elem())}
	case reflect.Array:
		return object{"type": "array", "items": s.Of(t.Elem()), "minItems": t.Len(), "maxItems": t.Len()}
	case reflect.Bool:
		return object{"type": "boolean"}
	case reflect.Float64:
		return object{"type": "number"}
	case reflect.Int, reflect.Int64, reflect.Uint64, reflect.Uint16:
		return object{"type": "integer"}
	case reflect.String:
		o := object{"type": "string"}
		if s.Values != nil && t.PkgPath() != "" {
			if values := s.Values(t); len(values) > 0 {
				if !s.Request && !slices.Contains(values, "") {
					values = append([]string{""}, values...) // where there is nothing to name
				}
				o["enum"] = values
			}
		}
		return o
	case reflect.Interface:
		return object{}
	}
	panic("resultjson: no schema for " + t.String())
}

func (s *Schemas) component(t reflect.Type) object {
	name := componentName(t)
	if name == "" {
		return s.structure(t)
	}
	if _, ok := s.Components[name]; !ok {
		s.Components[name] = nil // a type may hold itself
		s.Components[name] = s.structure(t)
	}
	return object{"$ref": "#/components/schemas/" + name}
}

func (s *Schemas) structure(t reflect.Type) object {
	properties, required := object{}, []string{}
	for _, index := range fields(t) {
		f := t.FieldByIndex(index)
		owner := t
		if len(index) > 1 {
			owner = t.FieldByIndex(index[:len(index)-1]).Type
		}
		if beside(f) {
			properties[name(f)] = object{"type": []string{"number", "null"}}
			properties[name(f)+log10Suffix] = object{"type": []string{"number", "null"}}
			required = append(required, name(f), name(f)+log10Suffix)
			if s.Doc != nil {
				if doc := s.Doc(owner, f.Name); doc != "" {
					properties[name(f)].(object)["description"] = doc
				}
			}
			continue
		}
		p := s.Of(f.Type)
		if t == probType && f.Name == "Log10" || t == intervalType {
			p = orNull(p)
		}
		if s.Doc != nil {
			if doc := s.Doc(owner, f.Name); doc != "" {
				p["description"] = doc
			}
		}
		if _, twice := properties[name(f)]; twice {
			panic("resultjson: " + t.String() + " has two fields called " + name(f))
		}
		properties[name(f)] = p
		if tag := f.Tag.Get("json"); !s.Request || !strings.HasSuffix(tag, ",omitempty") && !strings.HasSuffix(tag, ",omitzero") {
			required = append(required, name(f))
		}
	}
	o := object{"type": "object", "additionalProperties": false, "properties": properties}
	if len(required) > 0 {
		o["required"] = required
	}
	if s.Doc != nil {
		if doc := s.Doc(t, ""); doc != "" {
			o["description"] = doc
		}
	}
	return o
}

func orNull(p object) object {
	if kind, ok := p["type"].(string); ok && p["enum"] == nil {
		p["type"] = []string{kind, "null"}
		return p
	}
	return object{"anyOf": []any{p, object{"type": "null"}}}
}

// componentName puts the package before the name, but for the two whose names are the
// glossary's own.
func componentName(t reflect.Type) string {
	if t.Name() == "" || strings.Contains(t.Name(), "[") {
		return ""
	}
	pkg := path.Base(t.PkgPath())
	n := strings.ToUpper(t.Name()[:1]) + t.Name()[1:]
	switch pkg {
	case path.Base(reflect.TypeFor[infer.Effect]().PkgPath()), path.Base(reflect.TypeFor[prob.Prob]().PkgPath()), "analysis":
		return n
	}
	return strings.ToUpper(pkg[:1]) + pkg[1:] + n
}
