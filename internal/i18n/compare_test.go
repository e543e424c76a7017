package i18n

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"widetally/core/document"
	"widetally/locales"
)

func made(lang string, tree map[string]any) *Catalogue {
	tag := language.MustParse(lang)
	c := &Catalogue{texts: map[string][]piece{}, language: lang, tag: tag, categories: categoriesOf(tag)}
	c.flatten("", tree)
	return c
}

// Every catalogue that ships says the same as the first one, with all plurals of its language.
func TestCataloguesAreAlike(t *testing.T) {
	t.Parallel()
	first, err := Load(locales.First)
	require.NoError(t, err)
	all, err := locales.All()
	require.NoError(t, err)
	assert.Contains(t, all, locales.First)
	for _, lang := range all {
		c, err := Load(lang)
		require.NoError(t, err)
		assert.Empty(t, c.Compare(first), lang)
	}
	// Each difference is found, in languages of one, two and four plural forms.
	en := made("en", map[string]any{"a": map[string]any{"files": "{n} {n|file|files} in {place}"}, "b": "yes"})
	assert.Empty(t, en.Compare(en))
	for lang, want := range map[string][]string{"pl": nil, "cs": {"cs: a.files has 4 forms for {n}, not 3"}, "ja": {"ja: a.files has 4 forms for {n}, not 1"}} {
		like := made(lang, map[string]any{"a": map[string]any{"files": "{n} {n|plik|pliki|plików|pliku} w {place}"}, "b": "tak"})
		assert.Equal(t, want, like.Compare(en), lang)
	}
	other := made("en", map[string]any{"a": map[string]any{"files": "{n} {n|file}"}, "c": "no"})
	assert.Equal(t, []string{"en: a.files has the values n, not n place", "en: b is lacking", "en: a.files has 1 forms for {n}, not 2", "en: c is no message"}, other.Compare(en))
}

// Words follow their number as the language has it.
func TestPlurals(t *testing.T) {
	t.Parallel()
	english := made("en", map[string]any{"files": "{n|=0 no file|one file|# files}"})
	polish := made("pl", map[string]any{"files": "{n|# plik|# pliki|# plików|# pliku}"})
	for _, k := range []struct{ n, english, polish string }{
		{"0", "no file", "0 plików"}, {"1", "one file", "1 plik"}, {"2", "2 files", "2 pliki"}, {"5", "5 files", "5 plików"}, {"12", "12 files", "12 plików"}, {"22", "22 files", "22 pliki"}, {"1,234", "1,234 files", "1,234 pliki"},
	} {
		say := document.Say("files", document.Values{"n": document.Text(k.n)})
		assert.Equal(t, k.english, english.Say(say), k.n)
		assert.Equal(t, k.polish, polish.Say(say), k.n)
	}
}

// Each is answered in the language that comes nearest to what he reads.
func TestLanguages(t *testing.T) {
	t.Parallel()
	en, pl := made("en", nil), made("pl", nil)
	l := &Languages{all: []*Catalogue{en, pl}, matcher: language.NewMatcher([]language.Tag{en.tag, pl.tag})}
	for accepted, want := range map[string]*Catalogue{"": en, "pl": pl, "pl-PL,pl;q=0.9,en;q=0.8": pl, "de, pl;q=0.5": pl, "fr": en, "en-GB;q=0.8, pl;q=0.1": en, "???": en} {
		assert.Same(t, want, l.For(accepted), accepted)
	}
	_, err := LoadAll("xx")
	assert.ErrorContains(t, err, "xx")
	all, err := LoadAll("")
	require.NoError(t, err)
	assert.Equal(t, locales.First, all.First().Language())
}
