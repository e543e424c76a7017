package i18n

import (
	"fmt"
	"slices"

	"golang.org/x/text/language"

	"widetally/locales"
)

// Languages are all catalogues, of which each who asks is given the one that he reads.
type Languages struct {
	all     []*Catalogue // the first one is that of who says nothing
	matcher language.Matcher
}

// LoadAll reads every catalogue; first is the language of who says nothing, "" for the usual one.
func LoadAll(first string) (*Languages, error) {
	if first == "" {
		first = locales.First
	}
	names, err := locales.All()
	if err != nil {
		return nil, fmt.Errorf("i18n: %w", err)
	}
	if !slices.Contains(names, first) {
		return nil, fmt.Errorf("there is no catalogue for the language %q, but for %v", first, names)
	}
	out := &Languages{}
	var tags []language.Tag
	for _, name := range append([]string{first}, slices.DeleteFunc(names, func(n string) bool { return n == first })...) {
		c, err := Load(name)
		if err != nil {
			return nil, err
		}
		out.all, tags = append(out.all, c), append(tags, c.tag)
	}
	out.matcher = language.NewMatcher(tags)
	return out, nil
}

// First is the catalogue of who says nothing.
func (l *Languages) First() *Catalogue { return l.all[0] }

// For is the catalogue that comes nearest to what is accepted, as Accept-Language lists it (RFC 9110).
func (l *Languages) For(accepted string) *Catalogue {
	if accepted == "" || len(l.all) == 1 {
		return l.all[0]
	}
	wanted, _, err := language.ParseAcceptLanguage(accepted)
	if err != nil {
		return l.all[0]
	}
	_, at, _ := l.matcher.Match(wanted...)
	return l.all[at]
}

// Language is the tag of the language, such as "en".
func (c *Catalogue) Language() string { return c.language }
