// Package locales holds the catalogues of texts, one file per language. The Go
// side reads findings, problems and exports from it, the front end its labels.
package locales

import (
	"embed"
	"io/fs"
	"strings"
)

// First is the language in which texts are written first; it stands where no other is asked for.
const First = "en"

// Files are the catalogues, named by language: "en.json".
//
//go:embed *.json
var Files embed.FS

// All lists the languages that there is a catalogue for.
func All() ([]string, error) {
	names, err := fs.Glob(Files, "*.json")
	var out []string
	for _, name := range names {
		if lang := strings.TrimSuffix(name, ".json"); !strings.Contains(lang, ".") {
			out = append(out, lang)
		}
	}
	return out, err
}
