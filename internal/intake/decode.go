package intake

import (
	"bufio"
	"bytes"
	"io"
	"regexp"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// decode returns the file as UTF-8 text without a byte order mark, its lines ending in LF or
// CRLF, and a first line that names the delimiter taken away.
func (s Settings) decode(r io.Reader) io.Reader {
	return &plainText{in: bufio.NewReaderSize(s.coded(r), lookBytes)}
}

// coded is the text as it stands.
func (s Settings) coded(r io.Reader) io.Reader {
	var e encoding.Encoding
	switch s.Encoding {
	case Windows1252:
		e = charmap.Windows1252
	case UTF16LE:
		e = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case UTF16BE:
		e = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	default:
		return r
	}
	return e.NewDecoder().Reader(r)
}

// lookBytes is how much of a text is looked at for the habits of those who write it.
const lookBytes = 64 << 10

var (
	byteOrderMark = []byte("\xef\xbb\xbf")
	// delimiterLine is a first line that spreadsheets write for each other: sep=;
	delimiterLine = regexp.MustCompile("^(?i:\"?sep=(.)\"?)(?:\r\n|\r|\n)")
)

// plainText takes away what a text bears for other programs: a byte order mark, a line that names
// the delimiter, and lines that end in CR alone, as those of old systems do.
type plainText struct {
	in          *bufio.Reader
	started     bool
	loneReturns bool
}

func (t *plainText) Read(p []byte) (int, error) {
	if !t.started {
		t.started = true
		head, err := t.in.Peek(lookBytes)
		if len(head) == 0 {
			return 0, err
		}
		if bytes.HasPrefix(head, byteOrderMark) {
			_, _ = t.in.Discard(len(byteOrderMark))
			head = head[len(byteOrderMark):]
		}
		t.loneReturns = bytes.IndexByte(head, '\r') >= 0 && bytes.IndexByte(head, '\n') < 0
		if line := delimiterLine.Find(head); line != nil {
			_, _ = t.in.Discard(len(bytes.TrimRight(line, "\r\n")))
		}
	}
	n, err := t.in.Read(p)
	if t.loneReturns {
		for i, c := range p[:n] {
			if c == '\r' {
				p[i] = '\n'
			}
		}
	}
	return n, err
}

// namedDelimiter is the delimiter that the first line of a text names; "" where it names none.
func namedDelimiter(text []byte) string {
	if found := delimiterLine.FindSubmatch(bytes.TrimPrefix(text, byteOrderMark)); found != nil {
		return string(found[1])
	}
	return ""
}
