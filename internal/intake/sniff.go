package intake

import (
	"bytes"
	"errors"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Encoding names how the bytes of a file stand for characters.
type Encoding string

// The encodings that are read.
const (
	UTF8        Encoding = "utf-8"
	UTF16LE     Encoding = "utf-16le"
	UTF16BE     Encoding = "utf-16be"
	Windows1252 Encoding = "windows-1252"
)

// Encodings lists them in the order in which they are offered.
var Encodings = []Encoding{UTF8, Windows1252, UTF16LE, UTF16BE}

// Delimiters lists the characters that may part cells, in the order in which
// they are tried.
var Delimiters = []string{",", ";", "\t", "|"}

// Settings says how to read a delimited file. Sniff guesses it; a person may
// overrule each part.
type Settings struct {
	Encoding  Encoding
	Delimiter string
	Header    bool // the first record holds the column names
	// PadShort fills short lines with blank cells instead of refusing them.
	PadShort bool
	// FixNames gives empty and repeated column names a name of their own instead
	// of refusing them.
	FixNames bool
}

func (s Settings) check() error {
	for _, e := range Encodings {
		for _, d := range Delimiters {
			if s.Encoding == e && s.Delimiter == d {
				return nil
			}
		}
	}
	return &Problem{Code: BadSettings}
}

// decode returns the file as UTF-8 text without a byte order mark.
func (s Settings) decode(r io.Reader) io.Reader {
	var e encoding.Encoding
	switch s.Encoding {
	case Windows1252:
		e = charmap.Windows1252
	case UTF16LE:
		e = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case UTF16BE:
		e = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	default:
		return &skipMark{r: r}
	}
	return e.NewDecoder().Reader(r)
}

// skipMark drops a leading UTF-8 byte order mark.
type skipMark struct {
	r       io.Reader
	started bool
	left    []byte
}

func (s *skipMark) Read(p []byte) (int, error) {
	if !s.started {
		s.started = true
		head := make([]byte, 3)
		n, err := io.ReadFull(s.r, head)
		if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
			return 0, err
		}
		s.left = bytes.TrimPrefix(head[:n], []byte("\xef\xbb\xbf"))
	}
	if len(s.left) > 0 {
		n := copy(p, s.left)
		s.left = s.left[n:]
		return n, nil
	}
	return s.r.Read(p)
}

// Sniff guesses the settings from the beginning of a file. A file that cannot be
// delimited text is a *Problem.
func Sniff(head []byte) (Settings, error) {
	s := Settings{}
	switch {
	case len(bytes.TrimSpace(head)) == 0:
		return s, &Problem{Code: Empty}
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return s, &Problem{Code: Workbook}
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}):
		s.Encoding = UTF16LE
	case bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		s.Encoding = UTF16BE
	case bytes.IndexByte(head, 0) >= 0:
		return s, &Problem{Code: Binary}
	case utf8.Valid(trimPartial(head)):
		s.Encoding = UTF8
	default:
		s.Encoding = Windows1252
	}
	text, err := io.ReadAll(s.decode(bytes.NewReader(head)))
	if err != nil && len(text) == 0 {
		return s, &Problem{Code: Binary}
	}
	s.Delimiter = guessDelimiter(text)
	s.Header = guessHeader(records(text, s.Delimiter))
	return s, nil
}

// trimPartial drops a character that the end of the sample cut in two.
func trimPartial(b []byte) []byte {
	for i := 1; i <= 3 && i <= len(b); i++ {
		if utf8.RuneStart(b[len(b)-i]) {
			if !utf8.FullRune(b[len(b)-i:]) {
				return b[:len(b)-i]
			}
			break
		}
	}
	return b
}

func records(text []byte, delimiter string) [][]string {
	sp := newSplitter(bytes.NewReader(text), delimiter[0], false)
	var out [][]string
	for len(out) < sniffRecords {
		cells, err := sp.next()
		if err != nil {
			break
		}
		if len(cells) == 1 && len(cells[0]) == 0 {
			continue
		}
		row := make([]string, len(cells))
		for i, c := range cells {
			row[i] = strings.TrimSpace(string(c))
		}
		out = append(out, row)
	}
	return out
}

// guessDelimiter takes the character that cuts most records into the same number
// of cells, two or more; with equal merit the one that makes more cells. A file of
// one column gets the first character that parts none of its lines.
func guessDelimiter(text []byte) string {
	best, bestScore := "", 0.0
	unused := Delimiters[0]
	for _, d := range slices.Backward(Delimiters) {
		if !slices.ContainsFunc(records(text, d), func(r []string) bool { return len(r) > 1 }) {
			unused = d
		}
	}
	for _, d := range Delimiters {
		rows := records(text, d)
		widths := map[int]int{}
		for _, r := range rows {
			widths[len(r)]++
		}
		for width, n := range widths {
			if width < 2 {
				continue
			}
			agree := float64(n) / float64(len(rows))
			if score := agree*agree*100 + float64(min(width, 50)); agree >= 0.5 && score > bestScore {
				best, bestScore = d, score
			}
		}
	}
	if best == "" {
		return unused
	}
	return best
}

// guessHeader holds the first record for names when none of its cells is a number
// and none comes back as an answer in its own column. Empty cells do not speak
// against it: a name that is lacking is reported.
func guessHeader(rows [][]string) bool {
	if len(rows) == 0 {
		return false
	}
	for _, name := range rows[0] {
		if _, isNumber := parseNumber(name, true); isNumber {
			return false
		}
	}
	if len(rows) == 1 {
		return true
	}
	for column, name := range rows[0] {
		for _, r := range rows[1:] {
			if name != "" && column < len(r) && r[column] == name {
				return false
			}
		}
	}
	return true
}
