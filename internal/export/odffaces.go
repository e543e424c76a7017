package export

import (
	"html"
	"strings"

	"widetally/internal/faces"
)

// odfFonts are the letters that stand in a text document, by their names in it.
func odfFonts() map[string][]byte {
	out := map[string][]byte{}
	for _, f := range faces.All {
		for _, s := range f.Files() {
			out[odfFont(f, s)] = s.Content
		}
	}
	return out
}

func odfFont(f faces.Family, s faces.File) string {
	return "Fonts/" + strings.ReplaceAll(f.Name, " ", "") + "-" + s.Style + ".ttf"
}

// odfFaces declares them, each with those that are taken instead.
func odfFaces() string {
	var out strings.Builder
	out.WriteString("<office:font-face-decls>")
	for _, f := range faces.All {
		out.WriteString(`<style:font-face style:name="` + f.Name + `" style:font-family-generic="` + f.Kind + `" style:font-pitch="variable" svg:font-family="` + html.EscapeString("'"+f.Name+"'") + `"><svg:font-face-src>`)
		for _, s := range f.Files() {
			weight, slant := "normal", "normal"
			switch s.Style {
			case "Bold":
				weight = "bold"
			case "Italic":
				slant = "italic"
			}
			out.WriteString(`<svg:font-face-uri loext:font-style="` + slant + `" loext:font-weight="` + weight + `" xlink:href="` + odfFont(f, s) + `" xlink:type="simple"><svg:font-face-format svg:string="truetype"/></svg:font-face-uri>`)
		}
		out.WriteString("</svg:font-face-src></style:font-face>")
	}
	out.WriteString("</office:font-face-decls>")
	return out.String()
}
