// Package web holds the built front end.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

//go:embed all:charts
var charts embed.FS

// Charts is the module that draws charts without a browser; without a build it is empty.
func Charts() string {
	raw, err := charts.ReadFile("charts/charts.js")
	if err != nil {
		return ""
	}
	return string(raw)
}

// Files returns the built front end; without a build it is empty.
func Files() fs.FS {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		panic("web: " + err.Error()) // the folder is part of the program
	}
	return sub
}
