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
	texts map[string][]piece
	// formulas are those of the working, in TeX.
	formulas map[string]string
	style    Style
	printer  *message.Printer
	point    string // the decimal sign
}

// Style is a way to write p-values and statistics in a write-up.
type Style string

// The styles.
const (
	PlainStyle   Style = "plain"
	JournalStyle Style = "journal" // no zero before the point of p, three decimals; statistics with two
	MinimalStyle Style = "minimal" // the finding and its p alone
)

// In returns the catalogue with another style.
func (c *Catalogue) In(style Style) *Catalogue {
	out := *c
	out.style = style
	return &out
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
	c := &Catalogue{texts: map[string][]piece{}, printer: message.NewPrinter(tag)}
	c.point = strings.Trim(c.printer.Sprint(number.Decimal(0.5, number.Scale(1))), "05")
	c.flatten("", tree)
	return c, c.loadTeX(lang)
}

func (c *Catalogue) flatten(prefix string, tree map[string]any) {
	for k, v := range tree {
		switch v := v.(type) {
		case string:
			c.texts[prefix+k] = pieces(v)
		case map[string]any:
			c.flatten(prefix+k+".", v)
		}
	}
}

// blank is the place of a value, {n}, or of a word whose form follows one, {n|is|are}.
var blank = regexp.MustCompile(`\{(\w+)(?:\|([^|{}]*)\|([^|{}]*))?\}`)

// piece is a part of a text: words as they are, the place of a value, or words whose form
// follows one.
type piece struct {
	text             string
	value, one, many string
	plural           bool
}

func pieces(text string) (out []piece) {
	from := 0
	for _, at := range blank.FindAllStringSubmatchIndex(text, -1) {
		if at[0] > from {
			out = append(out, piece{text: text[from:at[0]]})
		}
		p := piece{value: text[at[2]:at[3]]}
		if at[4] >= 0 {
			p.plural, p.one, p.many = true, text[at[4]:at[5]], text[at[6]:at[7]]
		}
		out = append(out, p)
		from = at[1]
	}
	if from < len(text) || len(out) == 0 {
		out = append(out, piece{text: text[from:]})
	}
	return out
}

// Say returns the text of a message with its values in place. An unknown id or a
// value that is lacking shows as itself in brackets, so that a gap in the
// catalogue is seen and never hides a result. A message without an id says nothing.
func (c *Catalogue) Say(f document.Message) string {
	if f.ID == "" {
		return ""
	}
	text, ok := c.texts[f.ID]
	if !ok {
		return "[" + f.ID + "]"
	}
	var b strings.Builder
	for _, p := range text {
		v, given := f.Values[p.value]
		switch {
		case p.value == "":
			b.WriteString(p.text)
		case !given:
			b.WriteString("[" + p.value + "]")
		case !p.plural:
			b.WriteString(c.Write(v))
		case v.Text == "1" || v.Kind == document.Count && v.Number == 1:
			b.WriteString(p.one)
		default:
			b.WriteString(p.many)
		}
	}
	return b.String()
}

// SayAll returns the texts of several messages.
func (c *Catalogue) SayAll(list []document.Message) []string {
	out := make([]string, len(list))
	for i, m := range list {
		out[i] = c.Say(m)
	}
	return out
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
