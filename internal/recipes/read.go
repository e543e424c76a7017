// Package recipes reads and writes recipes as YAML or JSON, and runs them on files.
package recipes

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/recipe"
	"widetally/core/say"
	"widetally/internal/i18n"
)

// MaxBytes bounds a recipe.
const MaxBytes = 16 << 20

// Mistake says what is wrong with a recipe, and where in its text.
type Mistake struct {
	// File is that of an included recipe; "" for the recipe itself.
	File         string
	Line, Column int
	Why          string
}

func (m *Mistake) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", m.Line, m.Column, m.Why)
}

// Text is a recipe with where each of its parts stands.
type Text struct {
	Recipe recipe.Recipe
	places map[string]*yaml.Node // by JSON pointer
	files  map[*yaml.Node]string // of included ones
	words  *i18n.Catalogue
	// methods are those that can be asked.
	methods *analysis.Registry
}

// computes names the method that takes a request and gives such a result: the one that was asked, or another
// one; "" for none.
func (t *Text) computes(asked string, request, result any) string {
	plain := func(t reflect.Type) reflect.Type {
		if t != nil && t.Kind() == reflect.Pointer {
			return t.Elem()
		}
		return t
	}
	takes := func(m analysis.Method) bool {
		return plain(m.Request) == plain(reflect.TypeOf(request)) && plain(m.Result) == plain(reflect.TypeOf(result))
	}
	if m, ok := t.methods.Find(asked); ok && takes(m) {
		return asked
	}
	for _, m := range t.methods.All() {
		if takes(m) {
			return m.Name
		}
	}
	return ""
}

// At makes a mistake of what is wrong at a pointer, or at what holds it.
func (t *Text) At(pointer string, m document.Message) *Mistake {
	why := t.words.Say(m)
	for p := pointer; ; {
		if n := t.places[p]; n != nil {
			return &Mistake{t.files[n], n.Line, n.Column, why}
		}
		cut := strings.LastIndexByte(p, '/')
		if cut < 0 {
			return &Mistake{Line: 1, Column: 1, Why: why}
		}
		p = p[:cut]
	}
}

// Read reads a recipe in YAML or JSON, which is YAML too, with the recipes that it includes. The error is a
// *Mistake.
func Read(r io.Reader, methods *analysis.Registry, words *i18n.Catalogue, with Options) (*Text, error) {
	c := &composer{options: with, words: words, files: map[*yaml.Node]string{}, values: map[string]*yaml.Node{}}
	root, err := c.compose(r, "", nil)
	if err == nil {
		root, err = c.parameters(root)
	}
	if err != nil {
		return nil, err
	}
	t := &Text{places: map[string]*yaml.Node{}, files: c.files, words: words, methods: methods}
	w := &writer{t: t}
	if err := w.node(root, ""); err != nil {
		return nil, err
	}
	return t, t.decode(w.out.Bytes(), methods)
}

// parseMistake reads where the parser stumbled.
func parseMistake(err error, words *i18n.Catalogue) error {
	why := strings.TrimPrefix(err.Error(), "yaml: ")
	line := 1
	if rest, ok := strings.CutPrefix(why, "line "); ok {
		if number, text, ok := strings.Cut(rest, ": "); ok {
			if n, err := strconv.Atoi(number); err == nil {
				line, why = n, text
			}
		}
	}
	if errors.Is(err, io.EOF) {
		why = words.Text("recipe.wrong.empty", nil)
	}
	return &Mistake{Line: line, Column: 1, Why: why}
}

// writer writes nodes as JSON and notes where each stands.
type writer struct {
	t   *Text
	out bytes.Buffer
}

const deepestNode = 60

func (w *writer) node(n *yaml.Node, pointer string) error {
	w.t.places[pointer] = n
	fail := func(at *yaml.Node, id, text string) error {
		return &Mistake{w.t.files[at], at.Line, at.Column, w.t.words.Text("recipe.wrong."+id, map[string]string{"text": text})}
	}
	if strings.Count(pointer, "/") > deepestNode {
		return fail(n, "deep", "")
	}
	switch n.Kind {
	case yaml.MappingNode:
		w.out.WriteByte('{')
		seen := map[string]bool{}
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i]
			if key.Kind != yaml.ScalarNode {
				return fail(key, "no_key", "")
			}
			if seen[key.Value] {
				return fail(key, "twice", key.Value)
			}
			seen[key.Value] = true
			if i > 0 {
				w.out.WriteByte(',')
			}
			w.text(key.Value)
			w.out.WriteByte(':')
			if err := w.node(n.Content[i+1], pointer+"/"+key.Value); err != nil {
				return err
			}
		}
		w.out.WriteByte('}')
	case yaml.SequenceNode:
		w.out.WriteByte('[')
		for i, item := range n.Content {
			if i > 0 {
				w.out.WriteByte(',')
			}
			if err := w.node(item, fmt.Sprintf("%s/%d", pointer, i)); err != nil {
				return err
			}
		}
		w.out.WriteByte(']')
	case yaml.ScalarNode:
		switch n.Tag {
		case "!!null":
			w.out.WriteString("null")
		case "!!bool":
			w.out.WriteString(strings.ToLower(n.Value)) // True and TRUE are YAML, too
		case "!!int", "!!float":
			if !json.Valid([]byte(n.Value)) {
				return fail(n, "no_number", n.Value)
			}
			w.out.WriteString(n.Value)
		default:
			w.text(n.Value)
		}
	default:
		return fail(n, "alias", "")
	}
	return nil
}

func (w *writer) text(s string) {
	raw, _ := json.Marshal(s) // a text can be written
	w.out.Write(raw)
}

// decode reads the JSON, the analyses one by one so that what is wrong with one is told where it
// stands.
func (t *Text) decode(raw []byte, methods *analysis.Registry) error {
	var in struct {
		recipe.Recipe
		Analyses []json.RawMessage `json:"analyses"`
	}
	if err := strict(raw, &in); err != nil {
		return t.decodeMistake("", err)
	}
	t.Recipe = in.Recipe
	t.Recipe.Analyses = make([]recipe.Analysis, len(in.Analyses))
	for i, one := range in.Analyses {
		if err := strict(one, &t.Recipe.Analyses[i]); err != nil {
			return t.decodeMistake(fmt.Sprintf("/analyses/%d", i), err)
		}
		if err := methods.Resolve(&t.Recipe.Analyses[i].Spec); err != nil {
			return t.decodeMistake(fmt.Sprintf("/analyses/%d", i), err)
		}
	}
	t.Recipe = t.Recipe.Filled()
	var wrong *recipe.Error
	if err := t.Recipe.Check(); errors.As(err, &wrong) {
		return t.At(wrong.Pointer, wrong.Message)
	}
	return nil
}

func strict(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	return d.Decode(into)
}

// decodeMistake finds the place of what could not be read below a pointer.
func (t *Text) decodeMistake(at string, err error) error {
	var kind *json.UnmarshalTypeError
	var spec *analysis.SpecError
	switch {
	case errors.As(err, &spec):
		method := ""
		if n := t.places[at+"/ask/method"]; n != nil {
			method = n.Value
		}
		return t.told(at+"/ask", method, spec.Problem)
	case errors.As(err, &kind):
		field := strings.TrimPrefix(kind.Field, "Recipe.") // the document itself has no name
		return t.At(at+"/"+strings.ReplaceAll(field, ".", "/"), document.Say("recipe.wrong.type", analysis.TypeValues(kind)))
	}
	why := strings.TrimPrefix(err.Error(), "json: ")
	if name, ok := strings.CutPrefix(why, "unknown field "); ok {
		name = strings.Trim(name, `"`)
		var first *Mistake
		for pointer, n := range t.places {
			if strings.HasPrefix(pointer, at) && strings.HasSuffix(pointer, "/"+name) && (first == nil || n.Line < first.Line) {
				first = &Mistake{t.files[n], n.Line, n.Column, t.words.Text("recipe.wrong.unknown", map[string]string{"text": name})}
			}
		}
		if first != nil {
			return first
		}
	}
	return t.At(at, say.RecipeWrongUnreadable(why))
}

// Write writes a recipe as YAML.
func Write(w io.Writer, r recipe.Recipe) error {
	root, err := nodesOf(r)
	if err != nil {
		return err
	}
	return encoded(w, root)
}

// nodesOf is a recipe as YAML, written as a person would.
func nodesOf(r recipe.Recipe) (*yaml.Node, error) {
	raw, err := json.Marshal(r)
	if err != nil {
		return nil, fmt.Errorf("recipes: %w", err)
	}
	var root yaml.Node
	if err := yaml.Unmarshal(raw, &root); err != nil {
		return nil, fmt.Errorf("recipes: %w", err)
	}
	plain(&root)
	return &root, nil
}

func encoded(w io.Writer, root *yaml.Node) error {
	e := yaml.NewEncoder(w)
	e.SetIndent(2)
	return errors.Join(e.Encode(root), e.Close())
}

// plain writes nodes as a person would: in lines, short lists in one.
func plain(n *yaml.Node) {
	flow := n.Kind == yaml.SequenceNode && len(n.Content) > 0
	for _, c := range n.Content {
		plain(c)
		flow = flow && c.Kind == yaml.ScalarNode && len(c.Value) < 24
	}
	n.Style = 0
	if flow {
		n.Style = yaml.FlowStyle
	}
	if n.Kind == yaml.ScalarNode { // what looks like a parameter means itself
		n.Value = parameter.ReplaceAllString(n.Value, "$$$0")
	}
	switch {
	case n.Kind != yaml.ScalarNode:
	case strings.Contains(n.Value, "\n"):
		n.Style = yaml.LiteralStyle
	case n.Tag == "!!str" && elsewhere.MatchString(n.Value):
		n.Style = yaml.DoubleQuotedStyle
	}
}

// elsewhere are texts that readers of YAML 1.1 take for something else: truths, numbers, times and days.
var elsewhere = regexp.MustCompile(`^(?i:y|yes|n|no|on|off|true|false|null|~|=|<<|[-+]?[0-9][0-9_]*(:[0-5]?[0-9])+(\.[0-9_]*)?|[-+]?[0-9][0-9_,]*\.?[0-9_]*(e[-+]?[0-9]+)?|[-+]?\.(inf|nan)|0[xob][0-9a-f_]+|\d{4}-\d\d?-\d\d?.*)$`)
