// Package i18n turns messages, ids with values, into text.
package i18n

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"

	"widetally/core/document"
	"widetally/locales"
)

// Catalogue is the texts of one language.
type Catalogue struct {
	texts   map[string]string
	printer *message.Printer
	point   string // the decimal sign
}

// Load reads the catalogue of a language such as "en".
func Load(lang string) (*Catalogue, error) {
	raw, err := locales.Files.ReadFile(lang + ".json")
	if err != nil {
		return nil, fmt.Errorf("i18n: no catalogue for %q: %w", lang, err)
	}
	var tree map[string]any
	if err := json.Unmarshal(raw, &tree); err != nil {
		return nil, fmt.Errorf("i18n: catalogue %q: %w", lang, err)
	}
	tag, err := language.Parse(lang)
	if err != nil {
		return nil, fmt.Errorf("i18n: %w", err)
	}
	c := &Catalogue{texts: map[string]string{}, printer: message.NewPrinter(tag)}
	c.point = strings.Trim(c.printer.Sprint(number.Decimal(0.5, number.Scale(1))), "05")
	c.flatten("", tree)
	return c, nil
}

func (c *Catalogue) flatten(prefix string, tree map[string]any) {
	for k, v := range tree {
		switch v := v.(type) {
		case string:
			c.texts[prefix+k] = v
		case map[string]any:
			c.flatten(prefix+k+".", v)
		}
	}
}

// blank is the place of a value, {n}, or of a word whose form follows one, {n|is|are}.
var blank = regexp.MustCompile(`\{(\w+)(?:\|([^|{}]*)\|([^|{}]*))?\}`)

// Say returns the text of a message with its values in place. An unknown id or a
// value that is lacking shows as itself in brackets, so that a gap in the
// catalogue is seen and never hides a result.
func (c *Catalogue) Say(f document.Message) string {
	text, ok := c.texts[f.ID]
	if !ok {
		return "[" + f.ID + "]"
	}
	return blank.ReplaceAllStringFunc(text, func(m string) string {
		parts := blank.FindStringSubmatch(m)
		v, ok := f.Values[parts[1]]
		switch {
		case !ok:
			return "[" + parts[1] + "]"
		case !strings.Contains(m, "|"):
			return c.Write(v)
		case v.Text == "1" || v.Kind == document.Count && v.Number == 1:
			return parts[2]
		}
		return parts[3]
	})
}

// Text returns a message with plain texts as values.
func (c *Catalogue) Text(id string, values map[string]string) string {
	f := document.Message{ID: id, Values: document.Values{}}
	for k, v := range values {
		f.Values[k] = document.Text(v)
	}
	return c.Say(f)
}

// Has reports whether the catalogue knows a message.
func (c *Catalogue) Has(id string) bool { _, ok := c.texts[id]; return ok }
