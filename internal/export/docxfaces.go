package export

import (
	"archive/zip"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"widetally/internal/faces"
)

// The letters of a document stand in it, so that it looks alike where they are not installed; a word
// processor that takes none from documents uses those that are named beside them.

// docxFace is one of them: the part that it stands in, and the key that it is obfuscated with.
type docxFace struct {
	style, part, key string
	content          []byte
}

// docxFaces are those of a family; first is the number of its first part.
func docxFaces(f faces.Family, first int) (out []docxFace) {
	for i, s := range f.Files() {
		key := uuid.NewSHA1(uuid.NameSpaceOID, s.Content)
		out = append(out, docxFace{s.Style, fmt.Sprintf("fonts/font%d.odttf", first+i), "{" + strings.ToUpper(key.String()) + "}", obfuscated(s.Content, key)})
	}
	return out
}

// obfuscated changes the first 32 bytes of a font with its key, as ISO/IEC 29500-4, 17.8.1, asks.
func obfuscated(font []byte, key uuid.UUID) []byte {
	const changed = 32
	out := append([]byte{}, font...)
	for i := range min(changed, len(out)) {
		out[i] ^= key[len(key)-1-i%len(key)]
	}
	return out
}

// allFaces are those of every family, in the order of their parts.
func allFaces() (out [][]docxFace) {
	n := 1
	for _, f := range faces.All {
		of := docxFaces(f, n)
		out, n = append(out, of), n+len(of)
	}
	return out
}

// fontParts adds the table of the fonts, what it refers to, and the fonts; a document that follows a
// template has the fonts of that one, which are not in it.
func (d *docxWriter) fontParts(out *zip.Writer, part func(name string, write func(m *markup)) error) error {
	embedded := allFaces()
	if d.template != nil {
		embedded = make([][]docxFace, len(faces.All))
	}
	err := part("word/fontTable.xml", func(m *markup) {
		m.start("w:fonts", "xmlns:w", wordSpace, "xmlns:r", relSpace)
		n := 0
		for i, f := range faces.All {
			m.start("w:font", "w:name", f.Name)
			m.empty("w:altName", "w:val", strings.Join(f.Instead, ","))
			m.empty("w:charset", "w:val", "00")
			m.empty("w:family", "w:val", f.Kind)
			m.empty("w:pitch", "w:val", "variable")
			for _, face := range embedded[i] {
				n++
				m.empty("w:embed"+face.style, "r:id", fmt.Sprintf("rId%d", n), "w:fontKey", face.key)
			}
			m.end()
		}
	})
	if err == nil {
		err = part("word/_rels/fontTable.xml.rels", func(m *markup) {
			m.start("Relationships", "xmlns", "http://schemas.openxmlformats.org/package/2006/relationships")
			n := 0
			for _, of := range embedded {
				for _, face := range of {
					n++
					m.empty("Relationship", "Id", fmt.Sprintf("rId%d", n), "Type", relTypes+"font", "Target", face.part)
				}
			}
		})
	}
	for _, of := range embedded {
		for _, face := range of {
			if err == nil {
				err = text(out, "word/"+face.part, string(face.content))
			}
		}
	}
	return err
}

// docxSettings say that the letters of the document stand in it.
func docxSettings(m *markup) {
	m.start("w:settings", "xmlns:w", wordSpace)
	m.empty("w:embedTrueTypeFonts")
	m.empty("w:saveSubsetFonts")
	m.start("w:compat")
	m.empty("w:compatSetting", "w:name", "compatibilityMode", "w:uri", "http://schemas.microsoft.com/office/word", "w:val", "15")
	m.end()
}
