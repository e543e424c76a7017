// Command describe writes the OpenAPI description of the compute routes and the JSON Schemas
// of specs and of the documents that leave from the types of the core and the comments beside them.
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"reflect"
	"strconv"
	"strings"

	"widetally/core/methods"
	"widetally/core/recipe"
	"widetally/core/resultjson"
	"widetally/core/studyfile"
	"widetally/internal/export"
	"widetally/internal/recipes"
)

func main() {
	out := flag.String("out", "compute_gen.json", "file to write")
	formats := flag.String("formats", ".", "folder to write the schemas of documents to")
	root := flag.String("root", "../..", "folder of the module")
	flag.Parse()
	err := run(*root, *out)
	if err == nil {
		err = schema(*root, filepath.Join(*formats, "spec.schema.json"))
	}
	for _, d := range documents {
		if err == nil {
			err = d.schema(*root, *formats)
		}
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "describe:", err)
		os.Exit(1)
	}
}

type object = map[string]any

func run(root, out string) error {
	s := &sources{root: root, packages: map[string]*comments{}}
	components := object{}
	results := &resultjson.Schemas{Components: components, Doc: s.doc, Values: s.values}
	requests := &resultjson.Schemas{Components: components, Doc: s.doc, Values: s.values, Request: true}
	paths := object{}
	var examples map[string]json.RawMessage
	raw, err := os.ReadFile(filepath.Join(root, "api", "examples.json"))
	if err == nil {
		err = json.Unmarshal(raw, &examples)
	}
	if err != nil {
		return err
	}
	for _, m := range methods.All().All() {
		request, result := requests.Of(m.Request), results.Of(m.Result)
		var takes []string
		for _, a := range m.Assumes {
			takes = append(takes, strings.ReplaceAll(string(a), "_", " "))
		}
		operation := object{
			"operationId": strings.NewReplacer("/", "_", "-", "_").Replace(m.Name), "summary": m.Summary,
			"requestBody": object{"required": true, "content": object{"application/json": object{"schema": request, "example": examples[m.Name]}}},
			"responses": object{
				"200":     object{"description": "The complete result", "content": object{"application/json": object{"schema": answer(m.Name, request, result)}}},
				"default": object{"description": "A problem detail (RFC 9457)", "content": object{"application/problem+json": object{"schema": object{"$ref": "#/components/schemas/Problem"}}}},
			},
		}
		if len(takes) > 0 {
			operation["description"] = "Takes for granted: " + strings.Join(takes, "; ") + "."
		}
		paths["/compute/"+m.Name] = object{"post": operation}
	}
	paths["/compute"] = object{"get": object{"operationId": "describe", "summary": "This description", "responses": object{
		"200": object{"description": "OpenAPI 3.1", "content": object{"application/json": object{"schema": object{"type": "object"}}}}}}}
	components["Problem"] = object{"type": "object", "required": []string{"type", "title", "status", "code"}, "properties": object{
		"type": object{"type": "string"}, "title": object{"type": "string"}, "status": object{"type": "integer"}, "code": object{"type": "string"}, "requestId": object{"type": "string"}}}
	raw, err = json.MarshalIndent(object{
		"openapi": "3.1.0",
		"info": object{"title": "Wide Tally: compute", "version": "1.0.0",
			"description": "Stateless: counts and settings in, the complete result out, at full precision. DO NOT EDIT: generated from the types of the core by internal/describe."},
		"servers":    []any{object{"url": "/api/v1"}},
		"paths":      paths,
		"components": object{"schemas": components},
	}, "", " ")
	if err != nil {
		return err
	}
	return os.WriteFile(out, append(raw, '\n'), 0o644)
}

// schema writes the JSON Schema of a spec: one alternative for each method.
func schema(root, out string) error {
	s := &sources{root: root, packages: map[string]*comments{}}
	definitions := object{}
	types := &resultjson.Schemas{Components: definitions, Doc: s.doc, Values: s.values, Request: true}
	var alternatives []any
	for _, m := range methods.All().All() {
		if m.Asked == nil {
			continue
		}
		parts := make([]string, len(m.Asked.Questions))
		for i, part := range m.Asked.Questions {
			parts[i] = string(part)
		}
		questions := object{"type": "array", "items": object{"type": "string"}, "minItems": len(parts), "description": "in a study the id, in a file the name, of: " + strings.Join(parts, ", ")}
		if m.Asked.More == "" {
			questions["maxItems"] = len(parts)
		}
		alternatives = append(alternatives, object{"type": "object", "title": m.Summary, "additionalProperties": false, "required": []string{"method", "questions"}, "properties": object{
			"method": object{"const": m.Name}, "version": object{"const": m.Asked.Version},
			"questions": questions,
			"subgroup":  object{"type": "string", "description": "whom it is about; everyone where absent"},
			"settings":  types.Of(reflect.TypeOf(m.Asked.New()).Elem()),
		}})
	}
	raw, err := json.MarshalIndent(object{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Wide Tally: spec",
		"description": "What is asked of a study or a file. DO NOT EDIT: generated from the types of core/analysis by internal/describe.", "oneOf": alternatives, "$defs": definitions}, "", " ")
	if err != nil {
		return err
	}
	raw = bytes.ReplaceAll(raw, []byte("#/components/schemas/"), []byte("#/$defs/"))
	return os.WriteFile(out, append(raw, '\n'), 0o644)
}

// documents are those that leave and come back, by the names of their schemas.
var documents = []described{
	{"codebook", "What the questions of a study mean", reflect.TypeFor[studyfile.Codebook]()},
	{"analyses", "What is asked of a study, with the times of its claims", reflect.TypeFor[studyfile.Analyses]()},
	{"report", "The report of a study", reflect.TypeFor[studyfile.Report]()},
	{"history", "What was done to a study, in words", reflect.TypeFor[studyfile.History]()},
	{"recipe", "A whole analysis, to be run on a file", reflect.TypeFor[recipe.Recipe]()},
	{"results", "What came out of a recipe", reflect.TypeFor[recipes.Results]()},
	{"made", "A report as it reads, block by block", reflect.TypeFor[export.Report]()},
}

type described struct {
	name, says string
	of         reflect.Type
}

func (d described) schema(root, folder string) error {
	s := &sources{root: root, packages: map[string]*comments{}}
	definitions := object{}
	types := &resultjson.Schemas{Components: definitions, Doc: s.doc, Values: s.values, Request: true}
	top := types.Of(d.of)
	raw, err := json.MarshalIndent(object{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Wide Tally: " + d.name,
		"description": d.says + ". DO NOT EDIT: generated from the types by internal/describe.", "$ref": top["$ref"], "$defs": definitions}, "", " ")
	if err != nil {
		return err
	}
	raw = bytes.ReplaceAll(raw, []byte("#/components/schemas/"), []byte("#/$defs/"))
	return os.WriteFile(filepath.Join(folder, d.name+".schema.json"), append(raw, '\n'), 0o644)
}

func answer(path string, request, result object) object {
	return object{"type": "object", "additionalProperties": false, "required": []string{"method", "input", "assumptions", "result"}, "properties": object{
		"method": object{"const": path},
		"input":  object{"type": "object", "description": "the request as understood, defaults filled in"},
		"assumptions": object{"type": "array", "items": object{"type": "object", "required": []string{"code", "text"}, "properties": object{
			"code": object{"type": "string"}, "text": object{"type": "string"}}}},
		"result": result,
	}}
}

// sources finds comments and constants.
type sources struct {
	root     string
	packages map[string]*comments
}

type comments struct {
	docs   map[string]string   // "Type" and "Type.Field"
	values map[string][]string // constants by type
}

func (s *sources) of(t reflect.Type) *comments {
	path := t.PkgPath()
	if c, ok := s.packages[path]; ok {
		return c
	}
	c := &comments{map[string]string{}, map[string][]string{}}
	s.packages[path] = c
	files, _ := filepath.Glob(filepath.Join(s.root, strings.TrimPrefix(path, "widetally/"), "*.go"))
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ParseComments)
		if err != nil {
			panic("describe: " + err.Error()) // it compiled a moment ago
		}
		for _, d := range file.Decls {
			if g, ok := d.(*ast.GenDecl); ok {
				for _, spec := range g.Specs {
					c.read(spec, g)
				}
			}
		}
	}
	return c
}

func (c *comments) read(spec ast.Spec, g *ast.GenDecl) {
	switch x := spec.(type) {
	case *ast.TypeSpec:
		c.docs[x.Name.Name] = flat(g.Doc)
		if st, ok := x.Type.(*ast.StructType); ok {
			for _, f := range st.Fields.List {
				doc := flat(f.Doc)
				if doc == "" {
					doc = flat(f.Comment)
				}
				for _, n := range f.Names {
					c.docs[x.Name.Name+"."+n.Name] = doc
				}
			}
		}
	case *ast.ValueSpec:
		kind, ok := x.Type.(*ast.Ident)
		if !ok || g.Tok != token.CONST {
			return
		}
		for _, v := range x.Values {
			if lit, ok := v.(*ast.BasicLit); ok && lit.Kind == token.STRING {
				text, _ := strconv.Unquote(lit.Value)
				c.values[kind.Name] = append(c.values[kind.Name], text)
			}
		}
	}
}

func flat(g *ast.CommentGroup) string { return strings.Join(strings.Fields(g.Text()), " ") }

func (s *sources) doc(t reflect.Type, field string) string {
	if t.PkgPath() == "" {
		return ""
	}
	key := t.Name()
	if field != "" {
		key += "." + field
	}
	return s.of(t).docs[key]
}

// values leaves out reasons: every package adds to them.
func (s *sources) values(t reflect.Type) []string {
	if t.Name() == "Reason" {
		return nil
	}
	return s.of(t).values[t.Name()]
}
