// Package i18n turns messages, ids with values, into text.
package i18n

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"strings"

	"github.com/jinzhu/inflection"
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
	language string
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
	c := &Catalogue{texts: map[string][]piece{}, printer: message.NewPrinter(tag), language: lang}
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
	one := false // a count of 1 stands right before
	for _, p := range text {
		v, given := f.Values[p.value]
		if p.value == unitsValue && one && given {
			v = c.singular(v)
		}
		one = p.value == "" && one && p.text == " " || given && !p.plural && v.Kind == document.Count && v.Number == 1
		switch {
		case p.value == "":
			b.WriteString(p.text)
		case !given:
			b.WriteString("[" + p.value + "]")
		case !p.plural && v.Kind == document.Effect && tooSmall(v.Number) && equals.MatchString(b.String()):
			before := equals.ReplaceAllString(b.String(), "<$1")
			b.Reset()
			b.WriteString(before + c.fixed(smallestEffect, decimals[document.Effect]))
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

// equals stands before a figure that is told to be something.
var equals = regexp.MustCompile("=( |\u00a0)$")

// unitsValue is the name under which sentences hold what a row is, in the plural.
const unitsValue = "units"

// singular is what one row is, from its plural; as it is in a language without a rule for it.
func (c *Catalogue) singular(v document.Value) document.Value {
	switch {
	case c.language != "en":
	case v.Kind == document.Words:
		noun, rest, _ := strings.Cut(v.Text, " ")
		if rest == "" || of.MatchString(rest) {
			return document.Text(strings.TrimSpace(inflection.Singular(noun) + " " + rest))
		}
		return document.Text(v.Text[:strings.LastIndexByte(v.Text, ' ')+1] + inflection.Singular(v.Text[strings.LastIndexByte(v.Text, ' ')+1:]))
	case v.Kind == document.Said:
		if inner, has := v.Message.Values[unitsValue]; has {
			m := document.Message{ID: v.Message.ID, Values: maps.Clone(v.Message.Values)}
			m.Values[unitsValue] = c.singular(inner)
			return document.Value{Kind: document.Said, Message: &m}
		}
	}
	return v
}

// of begins what says more of the noun before it.
var of = regexp.MustCompile(`^(aged|at|from|in|living|of|on|that|who|with)\b`)

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
