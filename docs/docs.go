// Package docs holds the pages that the application itself shows.
package docs

import _ "embed"

// Methods is methods.md, of which the explanations in the margin are taken.
//
//go:embed methods.md
var Methods []byte
