// Package docs holds the pages that the application itself shows.
package docs

import "embed"

// Methods is methods.md, of which the explanations in the margin are taken.
//
//go:embed methods.md
var Methods []byte

// Guide is the page of how-tos, whose pictures are in Pictures.
//
//go:embed guide/README.md
var Guide []byte

// SpecSchema is the published schema of specs.
//
//go:embed formats/spec.schema.json
var SpecSchema []byte

// Pictures are those of the places, taken from the demo.
//
//go:embed screenshots/*.png
var Pictures embed.FS
