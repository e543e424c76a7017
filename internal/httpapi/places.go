package httpapi

import (
	"encoding/json"
	"io/fs"
	"strings"
)

// needs is what of the front end a place of the application needs.
type needs struct {
	Scripts []string `json:"scripts"`
	Styles  []string `json:"styles"`
}

// Where in the page the scripts and the styles that its place needs are named: the styles behind
// what is painted first.
const (
	scriptsMark = "</head>"
	stylesMark  = "</body>"
)

// placesOf reads what each place needs, as it was found when the front end was built, in the
// form in which it stands in the page before a mark; nothing where there is none.
func placesOf(web fs.FS) map[string]*strings.Replacer {
	raw, err := fs.ReadFile(web, "places.json")
	var places map[string]needs
	if err != nil || json.Unmarshal(raw, &places) != nil {
		return nil
	}
	out := map[string]*strings.Replacer{}
	for name, n := range places {
		out[name] = strings.NewReplacer(scriptsMark, links("modulepreload", n.Scripts)+scriptsMark, stylesMark, links("stylesheet", n.Styles)+stylesMark)
	}
	return out
}

func links(kind string, files []string) string {
	var b strings.Builder
	for _, file := range files {
		b.WriteString(`<link rel="` + kind + `" crossorigin href="/` + file + `">`)
	}
	return b.String()
}

// placeOf is the place that an address of the application shows: the topline of a study, or what
// the last part of the address names.
func placeOf(path string) string {
	parts := strings.Split(strings.Trim(path, "/"), "/")
	switch {
	case len(parts) == 2 && parts[0] == "studies":
		return "topline"
	case parts[0] == "":
		return "studies"
	}
	return parts[len(parts)-1]
}
