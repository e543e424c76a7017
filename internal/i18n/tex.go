package i18n

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"

	"widetally/core/document"
	"widetally/locales"
)

// loadTeX reads the formulas that stand beside lines of the working, by their ids below
// "working.". The places of values are «name»: braces are TeX's own.
func (c *Catalogue) loadTeX(lang string) error {
	raw, err := locales.Files.ReadFile(lang + ".tex.json")
	if err != nil {
		return fmt.Errorf("i18n: no formulas for %q: %w", lang, err)
	}
	var tree map[string]any
	if err := json.Unmarshal(raw, &tree); err != nil {
		return fmt.Errorf("i18n: formulas %q: %w", lang, err)
	}
	c.formulas = map[string]string{}
	var flatten func(prefix string, tree map[string]any)
	flatten = func(prefix string, tree map[string]any) {
		for k, v := range tree {
			switch v := v.(type) {
			case string:
				c.formulas[prefix+k] = v
			case map[string]any:
				flatten(prefix+k+".", v)
			}
		}
	}
	flatten("working.", tree)
	return nil
}

var place = regexp.MustCompile(`«(\w+)»`)

// TeX is a line of the working as a formula with its values in place; "" where it is words
// alone.
func (c *Catalogue) TeX(m document.Message) string {
	formula, ok := c.formulas[m.ID]
	if !ok {
		return ""
	}
	return place.ReplaceAllStringFunc(formula, func(at string) string {
		v, given := m.Values[strings.Trim(at, "«»")]
		if !given {
			return "[" + strings.Trim(at, "«»") + "]"
		}
		return texValue(c.Write(v))
	})
}

var (
	texEscapes = strings.NewReplacer(`\`, `\backslash `, "{", `\{`, "}", `\}`, "$", `\$`, "%", `\%`, "&", `\&`, "#", `\#`, "_", `\_`, "^", `\hat{}`, "~", `\sim `, "\u00a0", `\,`, "−", "-", "×", `\times `)
	grouped    = regexp.MustCompile(`(\d),(\d{3})`)
	power      = regexp.MustCompile(`10([⁻⁰¹²³⁴⁵⁶⁷⁸⁹]+)`)
	raised     = strings.NewReplacer("⁻", "-", "⁰", "0", "¹", "1", "²", "2", "³", "3", "⁴", "4", "⁵", "5", "⁶", "6", "⁷", "7", "⁸", "8", "⁹", "9")
)

// texValue is a written value as TeX: what TeX would take for a command is escaped, thousands
// keep together, powers of ten are raised.
func texValue(text string) string {
	text = texEscapes.Replace(text)
	for again := grouped.ReplaceAllString(text, "$1{,}$2"); again != text; again = grouped.ReplaceAllString(text, "$1{,}$2") {
		text = again
	}
	return power.ReplaceAllStringFunc(text, func(s string) string { return "10^{" + raised.Replace(strings.TrimPrefix(s, "10")) + "}" })
}
