package recipes

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"widetally/internal/i18n"
)

// Options are what a recipe is read with beside its text.
type Options struct {
	// Name is that of its file, of which the paths of included ones are taken.
	Name string
	// Set gives parameters their values, by name.
	Set map[string]string
	// Open opens an included recipe; nil where none can be.
	Open func(name string) (io.ReadCloser, error)
}

const (
	mostIncluded = 50
	// mostNodes bounds what all files of a recipe come to.
	mostNodes = 2_000_000
)

// composer puts a recipe together from its files.
type composer struct {
	options Options
	words   *i18n.Catalogue
	// files are those of the nodes of included recipes.
	files    map[*yaml.Node]string
	included int
	nodes    int
	values   map[string]*yaml.Node
}

func (c *composer) wrong(n *yaml.Node, id, text string) *Mistake {
	return &Mistake{File: c.files[n], Line: n.Line, Column: n.Column, Why: c.words.Text("recipe.wrong."+id, map[string]string{"text": text})}
}

// parse reads the text of one file as YAML, a mapping at its root.
func (c *composer) parse(r io.Reader, name string) (*yaml.Node, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("recipes: %w", err)
	}
	if len(raw) > MaxBytes {
		return nil, &Mistake{File: name, Line: 1, Column: 1, Why: c.words.Text("recipe.wrong.too_large", map[string]string{"most": strconv.Itoa(MaxBytes >> 20)})}
	}
	var root yaml.Node
	if err := yaml.NewDecoder(bytes.NewReader(raw)).Decode(&root); err != nil {
		var m *Mistake
		if err = parseMistake(err, c.words); errors.As(err, &m) {
			m.File = name
		}
		return nil, err
	}
	if len(root.Content) != 1 {
		return nil, &Mistake{File: name, Line: 1, Column: 1, Why: c.words.Text("recipe.wrong.empty", nil)}
	}
	c.own(root.Content[0], name)
	if c.nodes > mostNodes {
		return nil, c.wrong(root.Content[0], "too_large", strconv.Itoa(MaxBytes>>20))
	}
	return root.Content[0], nil
}

// own notes of which file nodes are; those of the recipe itself have no name.
func (c *composer) own(n *yaml.Node, name string) {
	if c.nodes++; name != "" {
		c.files[n] = name
	}
	for _, child := range n.Content {
		c.own(child, name)
	}
}

// compose reads a recipe with what it includes; inside are the files that lead to it.
func (c *composer) compose(r io.Reader, name string, inside []string) (*yaml.Node, error) {
	root, err := c.parse(r, name)
	if err != nil || root.Kind != yaml.MappingNode {
		return root, err
	}
	own := c.options.Name
	if name != "" {
		own = name
	}
	var out *yaml.Node
	if list := member(root, "include"); list != nil {
		of := []*yaml.Node{list}
		if list.Kind == yaml.SequenceNode {
			of = list.Content
		}
		for _, one := range of {
			read, err := c.include(one, own, append(inside, own))
			if err != nil {
				return nil, err
			}
			out = merged(out, read)
		}
		root = without(root, "include")
	}
	return merged(out, root), nil
}

func (c *composer) include(one *yaml.Node, own string, inside []string) (*yaml.Node, error) {
	if c.included++; one.Kind != yaml.ScalarNode || one.Value == "" || c.included > mostIncluded || c.options.Open == nil {
		return nil, c.wrong(one, "include", one.Value)
	}
	name := one.Value
	if !path.IsAbs(name) {
		name = path.Join(path.Dir(own), name)
	}
	if slices.Contains(inside, name) {
		return nil, c.wrong(one, "includes_itself", one.Value)
	}
	f, err := c.options.Open(name)
	if err != nil {
		return nil, c.wrong(one, "no_file", one.Value)
	}
	defer f.Close()
	return c.compose(f, name, inside)
}

// member is the value of a key of a mapping; nil without it.
func member(n *yaml.Node, key string) *yaml.Node {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}

// named is the name of a mapping, or the title where it has none; "" for what has neither.
func named(n *yaml.Node) string {
	for _, key := range []string{"name", "title"} {
		if n.Kind == yaml.MappingNode && member(n, key) != nil {
			return member(n, key).Value
		}
	}
	return ""
}

// without is a mapping without a key.
func without(n *yaml.Node, key string) *yaml.Node {
	out := *n
	out.Content = nil
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value != key {
			out.Content = append(out.Content, n.Content[i], n.Content[i+1])
		}
	}
	return &out
}

// merged is a recipe that takes over another one: what it says itself holds; of lists whose items have names
// those of the same name are replaced where they stood, and the rest follows.
func merged(base, own *yaml.Node) *yaml.Node {
	switch {
	case base == nil:
		return own
	case base.Kind == yaml.MappingNode && own.Kind == yaml.MappingNode:
		out := *own
		out.Content = nil
		for i := 0; i+1 < len(base.Content); i += 2 {
			key, value := base.Content[i], base.Content[i+1]
			if replaced := member(own, key.Value); replaced != nil {
				value = merged(value, replaced)
			}
			out.Content = append(out.Content, key, value)
		}
		for i := 0; i+1 < len(own.Content); i += 2 {
			if member(base, own.Content[i].Value) == nil {
				out.Content = append(out.Content, own.Content[i], own.Content[i+1])
			}
		}
		return &out
	case base.Kind == yaml.SequenceNode && own.Kind == yaml.SequenceNode:
		out := *own
		out.Content = slices.Clone(base.Content)
		for _, item := range own.Content {
			at := slices.IndexFunc(base.Content, func(b *yaml.Node) bool {
				name, of := named(item), named(b)
				return name != "" && name == of
			})
			if at >= 0 {
				out.Content[at] = item
			} else {
				out.Content = append(out.Content, item)
			}
		}
		return &out
	}
	return own
}

var parameter = regexp.MustCompile(`\$?\$\{([^{}]*)\}`)

// parameters puts the values of parameters in their places.
func (c *composer) parameters(root *yaml.Node) (*yaml.Node, error) {
	if root.Kind != yaml.MappingNode {
		return root, nil
	}
	if of := member(root, "parameters"); of != nil {
		if of.Kind != yaml.MappingNode {
			return nil, c.wrong(of, "parameters", "")
		}
		for i := 0; i+1 < len(of.Content); i += 2 {
			if of.Content[i+1].Kind != yaml.ScalarNode {
				return nil, c.wrong(of.Content[i+1], "parameters", "")
			}
			c.values[of.Content[i].Value] = of.Content[i+1]
		}
		root = without(root, "parameters")
	}
	for name, text := range c.options.Set {
		if c.values[name] == nil {
			return nil, &Mistake{Line: 1, Column: 1, Why: c.words.Text("recipe.wrong.no_parameter", map[string]string{"text": name})}
		}
		var value yaml.Node
		if err := yaml.Unmarshal([]byte(text), &value); err != nil || len(value.Content) != 1 || value.Content[0].Kind != yaml.ScalarNode {
			value = yaml.Node{Content: []*yaml.Node{{Kind: yaml.ScalarNode, Tag: "!!str", Value: text}}} // as it was given
		}
		c.values[name] = value.Content[0]
	}
	return root, c.put(root)
}

// put replaces what stands for parameters in all texts below; a text that is nothing else becomes what the
// value is, a number or a truth, too.
func (c *composer) put(n *yaml.Node) error {
	if n.Kind != yaml.ScalarNode {
		for _, child := range n.Content {
			if err := c.put(child); err != nil {
				return err
			}
		}
		return nil
	}
	if !strings.Contains(n.Value, "${") {
		return nil
	}
	var wrong error
	whole := parameter.FindString(n.Value) == n.Value && !strings.HasPrefix(n.Value, "$$")
	text := parameter.ReplaceAllStringFunc(n.Value, func(found string) string {
		if strings.HasPrefix(found, "$$") {
			return found[1:] // means itself
		}
		name := strings.TrimSpace(found[2 : len(found)-1])
		switch value := c.values[name]; {
		case value == nil:
			wrong = c.wrong(n, "no_parameter", name)
		case value.Tag == "!!null":
			wrong = c.wrong(n, "parameter_open", name)
		default:
			if whole {
				n.Tag, n.Style = value.Tag, value.Style
			}
			return value.Value
		}
		return found
	})
	n.Value = text
	return wrong
}
