// Package i18n turns messages, ids with values, into text.
package i18n

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/jinzhu/inflection"
	"golang.org/x/text/feature/plural"
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
	tag      language.Tag
	// categories are the plural forms of the language in the order in which texts hold them.
	categories []plural.Form
	point      string // the decimal sign
}

// Style is a way to write p-values and statistics in a write-up.
type Style string

// The styles.
const (
	PlainStyle   Style = "plain"
	JournalStyle Style = "journal" // no zero before the point of p, three decimals; statistics with two
	MinimalStyle Style = "minimal" // the finding and its p alone
)

// AtTerminal returns the catalogue with its texts for who writes commands and recipes, where what stands
// under terminal takes the place of what the pages say.
func (c *Catalogue) AtTerminal() *Catalogue {
	out := *c
	out.texts = maps.Clone(c.texts)
	for id, text := range c.texts {
		if of, is := strings.CutPrefix(id, "terminal."); is {
			out.texts[of] = text
		}
	}
	return &out
}

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
	c := &Catalogue{texts: map[string][]piece{}, printer: message.NewPrinter(tag), language: lang, tag: tag, categories: categoriesOf(tag)}
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

// blank is the place of a value, {n}, or of words whose form follows one, {n|is|are}: the plural
// forms of the language in the order of Unicode CLDR. A form for none may stand before them,
// {n|=0 no study|one study|# studies}; # stands for the number as it is written.
var blank = regexp.MustCompile(`\{(\w+)((?:\|[^|{}]*)*)\}`)

// piece is a part of a text: words as they are, the place of a value, or words whose form
// follows one.
type piece struct {
	text, value string
	forms       []string
	none        string // the form for none
	hasNone     bool
}

// pluralForms are those of Unicode CLDR in its order.
var pluralForms = []plural.Form{plural.Zero, plural.One, plural.Two, plural.Few, plural.Many, plural.Other}

// categoriesOf are the plural forms that whole numbers have in a language.
func categoriesOf(tag language.Tag) (out []plural.Form) {
	has := map[plural.Form]bool{plural.Other: true}
	for n := range 201 {
		has[plural.Cardinal.MatchPlural(tag, n, 0, 0, 0, 0)] = true
	}
	for _, f := range pluralForms {
		if has[f] {
			out = append(out, f)
		}
	}
	return out
}

// form is the form of words that goes with a number, written as this.
func (c *Catalogue) form(p piece, v document.Value, written string) string {
	n, is := int(v.Number), v.Kind == document.Count
	if !is {
		digits := strings.Map(func(r rune) rune {
			if r < '0' || r > '9' {
				return -1
			}
			return r
		}, v.Text)
		var err error
		n, err = strconv.Atoi(digits)
		is = err == nil
	}
	if p.hasNone && is && n == 0 {
		return p.none
	}
	which := plural.Other
	if is {
		which = plural.Cardinal.MatchPlural(c.tag, n%1_000_000, 0, 0, 0, 0)
	}
	at := max(0, min(slices.Index(c.categories, which), len(p.forms)-1))
	return strings.Replace(p.forms[at], "#", written, 1)
}

func pieces(text string) (out []piece) {
	from := 0
	for _, at := range blank.FindAllStringSubmatchIndex(text, -1) {
		if at[0] > from {
			out = append(out, piece{text: text[from:at[0]]})
		}
		p := piece{value: text[at[2]:at[3]]}
		if at[5] > at[4] {
			p.forms = strings.Split(text[at[4]+1:at[5]], "|")
			if p.none, p.hasNone = strings.CutPrefix(p.forms[0], "=0 "); p.hasNone {
				p.forms = p.forms[1:]
			}
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
		one = p.value == "" && one && p.text == " " || given && p.forms == nil && v.Kind == document.Count && v.Number == 1
		switch {
		case p.value == "":
			b.WriteString(p.text)
		case !given:
			b.WriteString("[" + p.value + "]")
		case p.forms == nil && v.Kind == document.Effect && tooSmall(v.Number) && equals.MatchString(b.String()):
			before := equals.ReplaceAllString(b.String(), "<$1")
			b.Reset()
			b.WriteString(before + c.fixed(smallestEffect, decimals[document.Effect]))
		case p.forms == nil:
			b.WriteString(c.Write(v))
		default:
			b.WriteString(c.form(p, v, c.Write(v)))
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

// ValuesOf are the values that a message says, in the order in which it says them.
func (c *Catalogue) ValuesOf(id string) (names []string, ok bool) {
	text, ok := c.texts[id]
	for _, p := range text {
		if p.value != "" && !slices.Contains(names, p.value) {
			names = append(names, p.value)
		}
	}
	return names, ok
}

// Has reports whether the catalogue knows a message.
func (c *Catalogue) Has(id string) bool { _, ok := c.texts[id]; return ok }
