package i18n

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Compare tells in which way a catalogue is not like another one: ids that one of them lacks, values
// that a text lacks or has besides, and words without a form for each plural of the language.
func (c *Catalogue) Compare(like *Catalogue) (out []string) {
	for _, id := range slices.Sorted(maps.Keys(like.texts)) {
		if _, ok := c.texts[id]; !ok {
			out = append(out, fmt.Sprintf("%s: %s is lacking", c.language, id))
			continue
		}
		if own, others := valuesOf(c.texts[id]), valuesOf(like.texts[id]); !slices.Equal(own, others) {
			out = append(out, fmt.Sprintf("%s: %s has the values %s, not %s", c.language, id, strings.Join(own, " "), strings.Join(others, " ")))
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.texts)) {
		if _, ok := like.texts[id]; !ok {
			out = append(out, fmt.Sprintf("%s: %s is no message", c.language, id))
		}
		for _, p := range c.texts[id] {
			if p.forms != nil && len(p.forms) != len(c.categories) {
				out = append(out, fmt.Sprintf("%s: %s has %d forms for {%s}, not %d", c.language, id, len(p.forms), p.value, len(c.categories)))
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(like.formulas)) {
		if _, ok := c.formulas[id]; !ok {
			out = append(out, fmt.Sprintf("%s: the formula %s is lacking", c.language, id))
		}
	}
	return out
}

// valuesOf are the values that a text says, each once.
func valuesOf(text []piece) []string {
	has := map[string]bool{}
	for _, p := range text {
		if p.value != "" {
			has[p.value] = true
		}
	}
	return slices.Sorted(maps.Keys(has))
}
