package intake

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
)

// Bounds of what an XML file may make a reader hold at once.
const (
	mostToken = 1 << 20 // bytes between two tags, or in one comment
	mostDepth = 100
)

var errXMLBounds = errors.New("intake: more text in one piece, or deeper nesting, than any sheet has")

// xmlReader hands out the tokens of an XML file of any size in bounded memory. The
// library's reader gathers a text, a comment or a tag as a whole and keeps a list of
// all elements that are open, so these are bounded before it sees them.
type xmlReader struct {
	d *xml.Decoder
	// raw leaves prefixes of names as they are instead of looking their namespaces up.
	raw   bool
	depth int
}

func newXMLReader(r io.Reader, raw bool) *xmlReader {
	return &xmlReader{d: xml.NewDecoder(&pieceLimit{r: r}), raw: raw}
}

// token returns the next token, valid until the next call.
func (x *xmlReader) token() (xml.Token, error) {
	next := x.d.Token
	if x.raw {
		next = x.d.RawToken
	}
	t, err := next()
	switch t.(type) {
	case xml.StartElement:
		if x.depth++; x.depth > mostDepth {
			return nil, errXMLBounds
		}
	case xml.EndElement:
		x.depth--
	}
	return t, err
}

// start returns the next start of an element.
func (x *xmlReader) start() (xml.StartElement, error) {
	for {
		t, err := x.token()
		if err != nil {
			return xml.StartElement{}, err
		}
		if e, ok := t.(xml.StartElement); ok {
			return e, nil
		}
	}
}

// skip passes over the rest of the element that has just started.
func (x *xmlReader) skip() error {
	for end := x.depth - 1; x.depth > end; {
		if _, err := x.token(); err != nil {
			return err
		}
	}
	return nil
}

// text gathers the characters of the element that has just started, those of elements
// within it too.
func (x *xmlReader) text(most int) ([]byte, error) {
	var out []byte
	for end := x.depth - 1; x.depth > end; {
		t, err := x.token()
		if err != nil {
			return nil, err
		}
		if c, ok := t.(xml.CharData); ok {
			if out = append(out, c...); len(out) > most {
				return nil, errXMLBounds
			}
		}
	}
	return out, nil
}

// attr returns an attribute by its local name.
func attr(e xml.StartElement, local string) string {
	for _, a := range e.Attr {
		if a.Name.Local == local {
			return a.Value
		}
	}
	return ""
}

// pieceLimit passes XML on as long as its pieces are short: what lies between one "<"
// and the next, and comments, CDATA sections and processing instructions, in which a
// "<" means nothing.
type pieceLimit struct {
	r     io.Reader
	n     int    // bytes of the current piece
	until []byte // what ends the current section; nil outside of one
	head  []byte // the first bytes behind a "<", until it is known what it begins
	open  bool
	tail  [2]byte // the last bytes of a section
}

var sections = []struct{ begin, end string }{{"!--", "-->"}, {"![CDATA[", "]]>"}, {"?", "?>"}}

func (l *pieceLimit) Read(p []byte) (int, error) {
	n, err := l.r.Read(p)
	if bad := l.look(p[:n]); bad != nil {
		return 0, bad
	}
	return n, err
}

func (l *pieceLimit) look(p []byte) error {
	for i := 0; i < len(p); {
		switch {
		case l.until != nil:
			i += l.section(p[i:])
		case l.open:
			l.head = append(l.head, p[i])
			l.n++
			i++
			l.begin()
		default:
			k := bytes.IndexByte(p[i:], '<')
			if k < 0 {
				l.n += len(p) - i
				i = len(p)
				break
			}
			if l.n += k; l.n <= mostToken {
				l.n, l.open, l.head = 0, true, l.head[:0]
			}
			i += k + 1
		}
		if l.n > mostToken {
			return errXMLBounds
		}
	}
	return nil
}

// begin decides what a "<" begins once enough is known of it.
func (l *pieceLimit) begin() {
	for _, s := range sections {
		switch {
		case string(l.head) == s.begin:
			l.open, l.until, l.tail = false, []byte(s.end), [2]byte{}
			return
		case len(l.head) < len(s.begin) && s.begin[:len(l.head)] == string(l.head):
			return
		}
	}
	l.open = false
}

// section looks for the end of a section and returns how many bytes it looked at.
func (l *pieceLimit) section(p []byte) int {
	for i, c := range p {
		l.n++
		end := l.until
		if c == '>' && l.tail[1] == end[len(end)-2] && (len(end) == 2 || l.tail[0] == end[0]) {
			l.until = nil
			return i + 1
		}
		l.tail[0], l.tail[1] = l.tail[1], c
		if l.n > mostToken {
			return i + 1
		}
	}
	return len(p)
}
