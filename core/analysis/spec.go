package analysis

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"strings"

	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/survey"
)

// Unasked is what settings have in common that are about no question.
type Unasked struct{ Describing }

// Needs implements Settings.
func (Unasked) Needs() Need { return NeedNothing }

// Key names a question or a subgroup: in a study by its id, which survives renaming, in a
// file by its name. "" is none.
type Key string

// Spec is what is asked of a source, as data: sent, stored, undone and written into files
// in this one form.
type Spec struct {
	Method string `json:"method"`
	// Version is that of the method's settings.
	Version   int   `json:"version"`
	Questions []Key `json:"questions"`
	// Subgroup is whom it is about; "" for everyone.
	Subgroup Key `json:"subgroup,omitempty"`
	// Unweighted counts respondents, whatever design is in force.
	Unweighted bool     `json:"unweighted,omitempty"`
	Settings   Settings `json:"settings"`

	raw json.RawMessage // as it was read, until a registry makes it a spec
}

// Settings is what a spec of one method says beyond its questions. Categories are named by
// code.
type Settings interface {
	// Asked is how the method is asked, of which these are settings.
	Asked() *Asked
	// Check lists what keeps the questions from being asked so.
	Check(q []survey.Question) []Problem
	// Tests reports whether a hypothesis is tested, so that it is a claim; else a source is
	// only described.
	Tests() bool
	// Codes lists the categories of a question, by its place, that the settings name.
	Codes(question int) []string
	// Essence is what the result depends on: without sources, dates and ways to show it.
	Essence() any
	// Statement is what a claim says, or what is described.
	Statement(q []survey.Question, about claim.About) document.Message
	// SignificanceLevel lies between 0 and 1; 0 where nothing is tested.
	SignificanceLevel() float64

	Needs() Need
	Run(work Work, counted *Counted) (*Outcome, error)
	Document(o *Outcome, about claim.About) document.Document
}

// Need says what a method has counted.
type Need int

const (
	NeedFrequencies Need = iota
	NeedCrosstab
	NeedDescriptives
	NeedResponses
	NeedPatterns
	NeedLayers
	NeedEachFrequencies
	NeedEachCrosstab
	NeedResponsesBy
	NeedEachDescriptives
	NeedDescriptivesBy
	NeedTrend   // a question within the answers of a second, the waves, and who was asked in several by a third
	NeedNothing // it is about no question
)

// Describing is what the settings of methods have in common that test nothing and name no
// category.
type Describing struct{}

// Tests implements Settings.
func (Describing) Tests() bool { return false }

// SignificanceLevel implements Settings.
func (Describing) SignificanceLevel() float64 { return 0 }

// Codes implements Settings.
func (Describing) Codes(int) []string { return nil }

// Problem is one thing that keeps a spec from being asked; the text is in the catalogue
// under "problem." + Code.
type Problem struct {
	Code string
	// Pointer is the JSON pointer of the member of the spec.
	Pointer string
	Values  document.Values
	// Remedy is a change of the settings that would cure it; nil for none.
	Remedy *document.Remedy
	// Doubt marks what is asked about and may be meant.
	Doubt bool
}

// SpecError refuses a spec.
type SpecError struct{ Problem }

func (e *SpecError) Error() string { return "analysis: " + e.Code + " at " + e.Pointer }

// Refused is a *SpecError with the place of what is wrong.
func Refused(code, pointer string, v document.Values) error {
	return &SpecError{Problem{Code: code, Pointer: pointer, Values: v}}
}

// Looks is how many results somebody looks at in a spec that has several; 0 for one of a single
// one.
func (s Spec) Looks() int {
	if several, ok := s.Settings.(interface{ Looks(questions int) int }); ok {
		return several.Looks(len(s.Questions))
	}
	return 0
}

// Schema refers to the published schema of specs, for documents that hold one.
func (Spec) Schema() map[string]any { return map[string]any{"$ref": "spec.schema.json"} }

// MarshalJSON writes a spec so that it is read as the same: without questions there is an empty
// list, not null, which is never read.
func (s Spec) MarshalJSON() ([]byte, error) {
	type plain Spec
	if s.Questions == nil {
		s.Questions = []Key{}
	}
	return json.Marshal(plain(s))
}

// UnmarshalJSON keeps what was written; Resolve of the registry makes it a spec.
func (s *Spec) UnmarshalJSON(raw []byte) error {
	*s = Spec{raw: bytes.Clone(raw)}
	return nil
}

// Resolve makes what was read within a larger document a spec; see Spec.
func (r *Registry) Resolve(s *Spec) (err error) {
	if s.raw == nil {
		return nil
	}
	*s, err = r.Spec(s.raw)
	return err
}

// Spec reads a spec strictly: a method that nobody knows, a member that its settings lack, or a
// version from the future are refused as a *SpecError.
func (r *Registry) Spec(raw []byte) (s Spec, err error) {
	var in struct {
		Method     string          `json:"method"`
		Version    int             `json:"version"`
		Questions  []Key           `json:"questions"`
		Subgroup   Key             `json:"subgroup"`
		Unweighted bool            `json:"unweighted"`
		Settings   json.RawMessage `json:"settings"`
	}
	if err := strict(raw, &in, ""); err != nil {
		return s, err
	}
	m, ok := r.Find(in.Method)
	if !ok || m.Asked == nil {
		return s, Refused("spec.method", "/method", document.Values{"text": document.Text(in.Method)})
	}
	if in.Version == 0 { // left out by a person who writes it
		in.Version = m.Asked.Version
	}
	if in.Version != m.Asked.Version {
		return s, Refused(
			"spec.version",
			"/version",
			document.Values{"version": document.N(int64(in.Version)), "known": document.N(int64(m.Asked.Version))},
		)
	}
	settings, err := m.Asked.read(in.Settings)
	if err != nil {
		return s, err
	}
	if len(in.Questions) == 0 {
		in.Questions = nil
	}
	return Spec{Method: in.Method, Version: in.Version, Questions: in.Questions, Subgroup: in.Subgroup, Unweighted: in.Unweighted, Settings: settings}, nil
}

func (a *Asked) read(raw []byte) (Settings, error) {
	settings := a.New()
	if len(raw) == 0 {
		return settings, nil
	}
	return settings, strict(raw, settings, "/settings")
}

// strict decodes what stands at a pointer as it is meant: no unknown member, and no null, which
// would be read as a value that nobody gave.
func strict(raw []byte, into any, at string) error {
	var plain any
	if err := json.Unmarshal(raw, &plain); err != nil {
		return Refused("spec.json", at, document.Values{"text": document.Text(err.Error())})
	}
	if null, found := nullAt(plain, ""); found {
		return Refused("spec.null", at+null, document.Values{"text": document.Text(null)})
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		var own *SpecError
		if errors.As(err, &own) {
			return own
		}
		return undecoded(err, plain, at)
	}
	return nil
}

// undecoded says which member could not be decoded, and why.
func undecoded(err error, plain any, at string) error {
	var kind *json.UnmarshalTypeError
	if errors.As(err, &kind) {
		if kind.Field != "" {
			at += "/" + strings.ReplaceAll(kind.Field, ".", "/")
		}
		return Refused("spec.type", at, TypeValues(kind))
	}
	if name, unknown := strings.CutPrefix(err.Error(), "json: unknown field "); unknown {
		name = strings.Trim(name, `"`)
		place, _ := memberAt(plain, name, at)
		return Refused("spec.member", place, document.Values{"text": document.Text(name)})
	}
	return Refused("spec.json", at, document.Values{"text": document.Text(strings.TrimPrefix(err.Error(), "json: "))})
}

// TypeValues are the values of a message on a member of another type: text is its name, wanted what it has
// to be, value what it is.
func TypeValues(e *json.UnmarshalTypeError) document.Values {
	wanted := "text"
	switch e.Type.Kind() {
	case reflect.Bool:
		wanted = "truth"
	case reflect.Slice, reflect.Array:
		wanted = "list"
	case reflect.Struct, reflect.Map:
		wanted = "members"
	case reflect.String:
	default:
		wanted = "number"
	}
	value, _, _ := strings.Cut(e.Value, " ") // a number is told with its digits
	value = map[string]string{"number": "number", "bool": "truth", "array": "list", "object": "members"}[value]
	if value == "" {
		value = "text"
	}
	name := e.Field[strings.LastIndexByte(e.Field, '.')+1:]
	return document.Values{"text": document.Text(name), "wanted": document.Term("problem.spec.as." + wanted), "value": document.Term("problem.spec.is." + value)}
}

// memberAt finds the first member of a name.
func memberAt(v any, name, at string) (string, bool) {
	switch v := v.(type) {
	case map[string]any:
		if _, is := v[name]; is {
			return at + "/" + name, true
		}
		for _, other := range sortedNames(v) {
			if found, is := memberAt(v[other], name, at+"/"+other); is {
				return found, true
			}
		}
	case []any:
		for i, x := range v {
			if found, is := memberAt(x, name, fmt.Sprintf("%s/%d", at, i)); is {
				return found, true
			}
		}
	}
	return "", false
}

func nullAt(v any, at string) (string, bool) {
	switch v := v.(type) {
	case nil:
		return at, true
	case map[string]any:
		for _, name := range sortedNames(v) {
			if found, is := nullAt(v[name], at+"/"+name); is {
				return found, true
			}
		}
	case []any:
		for i, x := range v {
			if found, is := nullAt(x, fmt.Sprintf("%s/%d", at, i)); is {
				return found, true
			}
		}
	}
	return "", false
}

// Patched returns the spec with a change of its settings, a JSON merge patch (RFC 7386).
func (s Spec) Patched(change json.RawMessage) (Spec, error) {
	raw, err := json.Marshal(s.Settings)
	if err != nil {
		return s, fmt.Errorf("analysis: %w", err)
	}
	var whole, patch map[string]any
	if err := json.Unmarshal(raw, &whole); err != nil {
		return s, fmt.Errorf("analysis: %w", err)
	}
	if err := json.Unmarshal(change, &patch); err != nil {
		return s, Refused("spec.json", "", document.Values{"text": document.Text(err.Error())})
	}
	if raw, err = json.Marshal(merge(whole, patch)); err != nil {
		return s, fmt.Errorf("analysis: %w", err)
	}
	s.Settings, err = s.Settings.Asked().read(raw)
	return s, err
}

func merge(into any, patch map[string]any) map[string]any {
	object, ok := into.(map[string]any)
	if !ok {
		object = map[string]any{}
	}
	for name, value := range patch {
		switch inner, isObject := value.(map[string]any); {
		case value == nil:
			delete(object, name)
		case isObject:
			object[name] = merge(object[name], inner)
		default:
			object[name] = value
		}
	}
	return object
}

// Check lists what keeps a spec from being asked of these questions, which are in the order
// in which it names them.
func (s Spec) Check(q []survey.Question) []Problem {
	if s.Settings == nil { // no registry read it
		return []Problem{{Code: "spec.method", Pointer: "/method", Values: document.Values{"text": document.Text(s.Method)}}}
	}
	asked := s.Settings.Asked()
	if n := len(s.Questions); n < len(asked.Questions) || n > len(asked.Questions) && asked.More == "" || len(q) != n {
		return []Problem{
			{Code: "spec.questions", Pointer: "/questions", Values: document.Values{"n": document.N(int64(len(asked.Questions)))}},
		}
	}
	for i, is := range q {
		pointer := fmt.Sprintf("/questions/%d", i)
		if !asked.Takes(i, is) {
			return []Problem{{Code: "claim.kind", Pointer: pointer}}
		}
		for j := range i {
			if s.Questions[i] == s.Questions[j] {
				return []Problem{{Code: "spec.same_question", Pointer: pointer}}
			}
		}
	}
	return s.Settings.Check(q)
}

// Refuse returns the first problem that is no mere doubt as an error.
func Refuse(problems []Problem) error {
	for _, p := range problems {
		if !p.Doubt {
			return &SpecError{p}
		}
	}
	return nil
}
