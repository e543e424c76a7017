// Package locales holds the catalogue of texts, one file per language. The Go
// side reads findings, problems and exports from it, the front end its labels.
package locales

import "embed"

// Files are the catalogues, named by language: "en.json".
//
//go:embed *.json
var Files embed.FS
