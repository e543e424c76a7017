package intake

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"
)

// An Office Open XML workbook (ECMA-376) is read from its parts as streams, because the
// established library either gives a cell's text alone or loads the whole sheet to tell
// its type and style.

// xlsxBook is a workbook opened: where its parts are, and what the styles mean.
type xlsxBook struct {
	archive  *zip.Reader
	most     int64 // bytes of a part, unpacked
	sheets   []xlsxSheet
	date1904 bool
	styles   []dateStyle // by the number of a cell's style
	shared   *sharedText
}

type xlsxSheet struct{ name, member string }

const mostSheets = 1000

func openXLSXBook(f File, m *memory) (*xlsxBook, error) {
	archive, err := zip.NewReader(f.R, f.Size)
	if err != nil {
		return nil, err
	}
	book := &xlsxBook{archive: archive, most: workbookMost(f.Size)}
	main := "xl/workbook.xml"
	if found, err := book.relations("_rels/.rels", ""); err == nil {
		for _, r := range found {
			if r.kind == "officeDocument" {
				main = r.target
			}
		}
	}
	relations, err := book.relations(path.Join(path.Dir(main), "_rels", path.Base(main)+".rels"), path.Dir(main))
	if err != nil {
		return nil, err
	}
	if err := book.workbook(main, relations); err != nil {
		return nil, err
	}
	for _, r := range relations {
		switch r.kind {
		case "styles":
			err = book.readStyles(r.target)
		case "sharedStrings":
			book.shared = &sharedText{archive: archive, most: book.most, member: r.target, memory: m}
		}
		if err != nil {
			return nil, err
		}
	}
	return book, nil
}

// relation is a part that another part refers to.
type relation struct{ kind, target string }

// relations reads which parts another one refers to, by their ids.
func (b *xlsxBook) relations(member, dir string) (map[string]relation, error) {
	out := map[string]relation{}
	err := b.each(member, "Relationship", func(x *xmlReader, attr func(string) string) error {
		target := attr("Target")
		if !strings.HasPrefix(target, "/") {
			target = path.Join(dir, target)
		}
		if len(out) < 2*mostSheets {
			out[attr("Id")] = relation{path.Base(attr("Type")), strings.TrimPrefix(target, "/")}
		}
		return nil
	})
	return out, err
}

// each runs f at every element of this name in a part.
func (b *xlsxBook) each(member, local string, f func(x *xmlReader, attr func(string) string) error) error {
	body, _, err := openMember(b.archive, member, b.most)
	if err != nil {
		return err
	}
	defer body.Close()
	x := newXMLReader(body, true)
	for {
		e, err := x.start()
		if err != nil {
			return endOnly(err)
		}
		if local != "" && e.Name.Local != local {
			continue
		}
		if err := f(x, func(name string) string {
			if name == "" {
				return e.Name.Local
			}
			return attr(e, name)
		}); err != nil {
			return err
		}
	}
}

func (b *xlsxBook) workbook(member string, relations map[string]relation) error {
	err := b.each(member, "", func(_ *xmlReader, attr func(string) string) error {
		switch attr("") {
		case "workbookPr":
			b.date1904 = attr("date1904") == "1" || attr("date1904") == "true"
		case "sheet":
			r := relations[attr("id")]
			if r.kind == "worksheet" && len(b.sheets) < mostSheets {
				b.sheets = append(b.sheets, xlsxSheet{attr("name"), r.target})
			}
		}
		return nil
	})
	if err == nil && len(b.sheets) == 0 {
		err = errors.New("intake: the workbook has no sheet")
	}
	return err
}

// mostStyles is what the format itself allows.
const mostStyles = 65_490

// readStyles finds out which cell styles show a number as a date.
func (b *xlsxBook) readStyles(member string) error {
	codes := map[int]string{}
	inCells := false
	return b.each(member, "", func(_ *xmlReader, attr func(string) string) error {
		switch attr("") {
		case "numFmt":
			if id, err := strconv.Atoi(attr("numFmtId")); err == nil && len(codes) < mostStyles {
				codes[id] = attr("formatCode")
			}
		case "cellXfs":
			inCells = true
		case "cellStyles", "dxfs", "cellStyleXfs":
			inCells = false
		case "xf":
			if inCells && len(b.styles) < mostStyles {
				id, _ := strconv.Atoi(attr("numFmtId"))
				b.styles = append(b.styles, styleOf(id, codes[id]))
			}
		}
		return nil
	})
}

type dateStyle int

const (
	noDate dateStyle = iota
	dateOnly
	dateAndTime
	timeOnly
)

var quotedFormat = regexp.MustCompile(`"[^"]*"|\\.|\[[^\]]*\]`)

// styleOf tells whether a number format is a date's: by its code, where the workbook
// gives one, or by the number that the format gives it.
func styleOf(id int, code string) dateStyle {
	if code != "" {
		code = strings.ToLower(quotedFormat.ReplaceAllString(code, ""))
		hasDate, hasTime := strings.ContainsAny(code, "yd"), strings.ContainsAny(code, "hs")
		switch {
		case hasDate && hasTime:
			return dateAndTime
		case hasDate:
			return dateOnly
		case hasTime:
			return timeOnly
		}
		return noDate
	}
	switch {
	case id >= 14 && id <= 17 || id >= 27 && id <= 36 || id >= 50 && id <= 58:
		return dateOnly
	case id == 22:
		return dateAndTime
	case id >= 18 && id <= 21 || id >= 45 && id <= 47:
		return timeOnly
	}
	return noDate
}

// sharedText are the texts that cells refer to by number, read as far as asked for. They
// stand in pieces that never move, each text behind its length.
type sharedText struct {
	archive *zip.Reader
	most    int64 // as of the book
	member  string
	memory  *memory
	body    io.Closer
	xml     *xmlReader
	pieces  [][]byte
	places  []textPlace
	now     []byte // the text being read
	ended   bool
}

type textPlace struct{ piece, offset uint32 }

// sharedPiece is the size of a piece of shared texts, in bytes.
const sharedPiece = 1 << 20

// get returns the text of this number; ok is false where there is none.
func (s *sharedText) get(n int) (text []byte, ok bool, err error) {
	for n >= len(s.places) && !s.ended {
		if err := s.more(); err != nil {
			return nil, false, err
		}
	}
	if n < 0 || n >= len(s.places) {
		return nil, false, nil
	}
	at := s.places[n]
	text = s.pieces[at.piece][at.offset:]
	length, used := binary.Uvarint(text)
	return text[used : used+int(length)], true, nil
}

// more reads the next text.
func (s *sharedText) more() error {
	if s.xml == nil {
		body, _, err := openMember(s.archive, s.member, s.most)
		if err != nil {
			return err
		}
		s.body, s.xml = body, newXMLReader(body, true)
	}
	for {
		e, err := s.xml.start()
		if err != nil {
			s.ended = true
			return endOnly(err)
		}
		if e.Name.Local != "si" {
			continue
		}
		if s.now, err = richText(s.xml, s.now[:0]); err != nil {
			return err
		}
		return s.keep(s.now)
	}
}

func (s *sharedText) keep(text []byte) error {
	last := len(s.pieces) - 1
	need := binary.MaxVarintLen32 + len(text)
	if last < 0 || cap(s.pieces[last])-len(s.pieces[last]) < need {
		size := max(sharedPiece, need)
		if err := s.memory.take(int64(size)); err != nil {
			return err
		}
		s.pieces = append(s.pieces, make([]byte, 0, size))
		last++
	}
	s.places = append(s.places, textPlace{uint32(last), uint32(len(s.pieces[last]))})
	s.pieces[last] = append(binary.AppendUvarint(s.pieces[last], uint64(len(text))), text...)
	return s.memory.take(8)
}

func (s *sharedText) close() {
	if s != nil && s.body != nil {
		s.body.Close()
	}
}

// richText appends the text of the element that has just started, which may stand in
// several runs; what only tells how it is pronounced is left out.
func richText(x *xmlReader, out []byte) ([]byte, error) {
	from := len(out)
	for end := x.depth - 1; x.depth > end; {
		e, err := x.token()
		if err != nil {
			return out, err
		}
		start, is := e.(xml.StartElement)
		switch {
		case is && start.Name.Local == "rPh":
			err = x.skip()
		case is && start.Name.Local == "t":
			var t []byte
			if t, err = x.text(mostToken); err == nil {
				out = append(out, t...)
			}
		}
		if err != nil {
			return out, err
		}
	}
	return append(out[:from], unescaped(out[from:])...), nil
}

var escapedCharacter = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)

// unescaped puts characters in place that XML cannot hold and the format writes as
// _x000D_.
func unescaped(text []byte) []byte {
	if !bytes.Contains(text, []byte("_x")) {
		return text
	}
	return escapedCharacter.ReplaceAllFunc(text, func(m []byte) []byte {
		n, _ := strconv.ParseUint(string(m[2:6]), 16, 16)
		return []byte(string(rune(n)))
	})
}
