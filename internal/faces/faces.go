// Package faces holds the letters of documents and drawn pictures: Source Sans 3 and Source Serif 4, under
// the SIL Open Font License 1.1 (OFL.md), which allows them to be embedded in what is written.
package faces

import _ "embed" // the files

//go:embed SourceSans3-Regular.ttf
var sans []byte

//go:embed SourceSans3-Bold.ttf
var sansBold []byte

//go:embed SourceSans3-It.ttf
var sansItalic []byte

//go:embed SourceSerif4-Bold.ttf
var serifBold []byte

// Family is letters of one design. A style that is nil is made of the regular one by who shows it.
type Family struct {
	Name string
	// Instead is what a reader takes that cannot use embedded letters, the likeliest first.
	Instead []string
	// Kind is swiss for letters without serifs, roman for letters with them.
	Kind                  string
	Regular, Bold, Italic []byte
}

// Sans is that of text and tables, Serif that of headings, which are bold.
var (
	Sans  = Family{Name: "Source Sans 3", Instead: []string{"Arial", "Liberation Sans"}, Kind: "swiss", Regular: sans, Bold: sansBold, Italic: sansItalic}
	Serif = Family{Name: "Source Serif 4", Instead: []string{"Cambria", "Liberation Serif"}, Kind: "roman", Bold: serifBold}
)

// All are the families.
var All = []Family{Sans, Serif}

// File is one style of a family.
type File struct {
	Style   string // Regular, Bold or Italic
	Content []byte
}

// Files are the styles that a family has.
func (f Family) Files() (out []File) {
	for _, s := range []File{{"Regular", f.Regular}, {"Bold", f.Bold}, {"Italic", f.Italic}} {
		if s.Content != nil {
			out = append(out, s)
		}
	}
	return out
}
