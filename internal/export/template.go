package export

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
)

// Template is what a document takes over from another one: its styles, by their names, and its pages.
type Template struct {
	styles string
	// ids are those of its styles by their names in small letters.
	ids map[string]string
	// size and margins are the elements that tell of its pages, and rooms the width of their text.
	size, margins map[string]string
	rooms         rooms
}

// rooms are the widths of the text of a page, upright and on its side, in twips.
type rooms struct {
	portrait, landscape int
	// sideways puts every table on a page on its side.
	sideways bool
}

var usualRooms = rooms{portrait: portraitTwips, landscape: landscapeTwips}

// mostTemplate bounds what is read of a part of a template.
const mostTemplate = 8 << 20

// ErrTemplate says that a file is no document whose styles can be taken.
var ErrTemplate = errors.New("export: no text document (DOCX) with styles")

// ReadTemplate reads the styles and the pages of a DOCX or DOTX.
func ReadTemplate(r io.ReaderAt, size int64) (*Template, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrTemplate, err)
	}
	read := func(name string) (string, error) {
		f, err := z.Open(name)
		if err != nil {
			return "", fmt.Errorf("%w: %w", ErrTemplate, err)
		}
		defer f.Close()
		raw, err := io.ReadAll(io.LimitReader(f, mostTemplate+1))
		if err == nil && len(raw) > mostTemplate {
			err = fmt.Errorf("%w: %s is too long", ErrTemplate, name)
		}
		return string(raw), err
	}
	t := &Template{ids: map[string]string{}, rooms: usualRooms}
	if t.styles, err = read("word/styles.xml"); err != nil {
		return nil, err
	}
	if !strings.Contains(t.styles, "</w:styles>") || t.named() != nil {
		return nil, ErrTemplate
	}
	body, err := read("word/document.xml")
	if err != nil {
		return nil, err
	}
	t.pages(body)
	return t, nil
}

// named finds the styles by their names.
func (t *Template) named() error {
	d, id := xml.NewDecoder(strings.NewReader(t.styles)), ""
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		start, is := token.(xml.StartElement)
		if !is {
			continue
		}
		value := func(name string) string {
			for _, a := range start.Attr {
				if a.Name.Local == name {
					return a.Value
				}
			}
			return ""
		}
		switch start.Name.Local {
		case "style":
			id = value("styleId")
		case "name":
			if name := strings.ToLower(value("val")); id != "" && t.ids[name] == "" {
				t.ids[name] = id
			}
		}
	}
}

var (
	pageOf      = regexp.MustCompile(`<w:(pgSz|pgMar)\b([^>]*?)/?>`)
	attributeOf = regexp.MustCompile(`\bw:(\w+)="([^"]*)"`)
)

// pages takes the last layout of its pages, which is that of the document.
func (t *Template) pages(body string) {
	for _, found := range pageOf.FindAllStringSubmatch(body, -1) {
		of := map[string]string{}
		for _, a := range attributeOf.FindAllStringSubmatch(found[2], -1) {
			of[a[1]] = a[2]
		}
		if found[1] == "pgSz" {
			t.size = of
		} else {
			t.margins = of
		}
	}
	number := func(of map[string]string, name string) int {
		n, err := strconv.Atoi(of[name])
		if err != nil {
			return 0
		}
		return n
	}
	w, h := number(t.size, "w"), number(t.size, "h")
	if w > h {
		w, h = h, w
		t.size["w"], t.size["h"] = strconv.Itoa(w), strconv.Itoa(h)
	}
	sides := number(t.margins, "left") + number(t.margins, "right")
	if w-sides < 2000 || sides < 0 { // no page on which a table could stand
		t.size, t.margins = nil, nil
		return
	}
	t.rooms = rooms{portrait: w - sides, landscape: h - sides}
}

// ours are the styles that a document needs, by their ids.
var ours = regexp.MustCompile(`(?s)<w:style [^>]*?w:styleId="([^"]+)"[^>]*>\s*<w:name w:val="([^"]+)"/>.*?</w:style>`)

// with gives the styles of the template and those of ours that it lacks.
func (t *Template) with(styles string) string {
	var lacking strings.Builder
	for _, s := range ours.FindAllStringSubmatch(styles, -1) {
		if t.ids[strings.ToLower(s[2])] == "" {
			lacking.WriteString(s[0])
		}
	}
	return strings.Replace(t.styles, "</w:styles>", lacking.String()+"</w:styles>", 1)
}

// idsIn are the ids of our styles in the template, which has its own for those that it knows by name.
func (t *Template) idsIn(styles string) map[string]string {
	out := map[string]string{}
	for _, s := range ours.FindAllStringSubmatch(styles, -1) {
		if id := t.ids[strings.ToLower(s[2])]; id != "" {
			out[s[1]] = id
		}
	}
	return out
}
