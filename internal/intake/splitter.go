package intake

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"unicode/utf8"
)

// splitter cuts delimited UTF-8 text (RFC 4180) into records, one at a time. A
// record's cells are valid until the next call. Lines may end in LF or CRLF. Many
// lines without quotes are cut at once, see slab; a quoted cell may hold delimiters,
// doubled quotes and line breaks. A quote inside an unquoted cell is a character
// like any other. An empty line is a record with one empty cell.
//
// The general reader of the standard library is not used because it drops empty
// lines, which in a file of one column are respondents who gave no answer, and
// because it reads at a fifth of the speed.
type splitter struct {
	in    *bufio.Reader
	comma byte
	line  int // lines consumed so far
	start int // line on which the current record began, 1-based
	cells [][]byte
	spill []byte // text of a quoted record
	ends  []int
	long  []byte // a line longer than the buffer
	most  int    // bytes that slab tries
	// checkUTF8 is set when the text came undecoded and may hold invalid bytes.
	checkUTF8 bool
}

func newSplitter(r io.Reader, comma byte, checkUTF8 bool) *splitter {
	return &splitter{in: bufio.NewReaderSize(r, 256<<10), comma: comma, checkUTF8: checkUTF8, most: slabBytes}
}

// place is the line on which the current record began.
func (s *splitter) place() int { return s.start }

// readLine returns the next line without its end; io.EOF when there is none.
// broken tells whether the line ended in a line break at all.
func (s *splitter) readLine() (line []byte, crlf bool, err error) {
	line, err = s.in.ReadSlice('\n')
	if errors.Is(err, bufio.ErrBufferFull) {
		s.long = append(s.long[:0], line...)
		for errors.Is(err, bufio.ErrBufferFull) {
			if len(s.long) > MaxColumns*MaxCell/64 {
				return nil, false, &Problem{Code: LongCell, Line: s.line + 1, Wanted: MaxCell}
			}
			line, err = s.in.ReadSlice('\n')
			s.long = append(s.long, line...)
		}
		line = s.long
	}
	if err != nil && !(errors.Is(err, io.EOF) && len(line) > 0) {
		return nil, false, err
	}
	s.line++
	if n := len(line); n > 0 && line[n-1] == '\n' {
		line = line[:n-1]
		if n > 1 && line[n-2] == '\r' {
			line, crlf = line[:n-2], true
		}
	}
	if s.checkUTF8 && !utf8.Valid(line) {
		return nil, false, &Problem{Code: NotUTF8, Line: s.line}
	}
	return line, crlf, nil
}

// next returns the cells of the next record, or io.EOF.
func (s *splitter) next() ([][]byte, error) {
	line, crlf, err := s.readLine()
	if err != nil {
		return nil, err
	}
	s.start = s.line
	s.cells = s.cells[:0]
	if bytes.IndexByte(line, '"') >= 0 {
		return s.quoted(line, crlf)
	}
	for {
		i := bytes.IndexByte(line, s.comma)
		if i < 0 {
			return s.cells, s.add(line)
		}
		if err := s.add(line[:i]); err != nil {
			return nil, err
		}
		line = line[i+1:]
	}
}

func (s *splitter) add(cell []byte) error {
	if len(s.cells) >= MaxColumns {
		return &Problem{Code: TooManyCells, Line: s.start, Wanted: MaxColumns}
	}
	if len(cell) > MaxCell {
		return &Problem{Code: LongCell, Line: s.start, Column: len(s.cells) + 1, Wanted: MaxCell}
	}
	s.cells = append(s.cells, cell)
	return nil
}

// quoted reads a record with quotes, taking further lines as long as a quote is
// open. The cells' text is gathered in spill and cut at the end, since spill may
// move while it grows.
func (s *splitter) quoted(line []byte, crlf bool) ([][]byte, error) {
	s.spill, s.ends = s.spill[:0], s.ends[:0]
	for {
		if len(line) == 0 || line[0] != '"' {
			i := bytes.IndexByte(line, s.comma)
			if i < 0 {
				s.spill = append(s.spill, line...)
				s.ends = append(s.ends, len(s.spill))
				break
			}
			s.spill = append(s.spill, line[:i]...)
			s.ends = append(s.ends, len(s.spill))
			line = line[i+1:]
			continue
		}
		opened, column := s.line, len(s.ends)+1
		line = line[1:]
		var err error
		if line, crlf, err = s.untilQuote(line, crlf, opened, column); err != nil {
			return nil, err
		}
		s.ends = append(s.ends, len(s.spill))
		if len(line) == 0 {
			break
		}
		if line[0] != s.comma {
			return nil, &Problem{Code: AfterQuote, Line: s.line, Column: column, Text: excerpt(line)}
		}
		line = line[1:]
	}
	from := 0
	for _, to := range s.ends {
		if err := s.add(s.spill[from:to]); err != nil {
			return nil, err
		}
		from = to
	}
	return s.cells, nil
}

// untilQuote appends to spill up to the closing quote and returns what follows it.
func (s *splitter) untilQuote(line []byte, crlf bool, opened, column int) ([]byte, bool, error) {
	from := len(s.spill)
	for {
		i := bytes.IndexByte(line, '"')
		if i >= 0 {
			s.spill = append(s.spill, line[:i]...)
			line = line[i+1:]
			if len(line) > 0 && line[0] == '"' {
				s.spill = append(s.spill, '"')
				line = line[1:]
				continue
			}
			return line, crlf, nil
		}
		s.spill = append(s.spill, line...)
		if crlf {
			s.spill = append(s.spill, '\r')
		}
		s.spill = append(s.spill, '\n')
		if len(s.spill)-from > MaxCell {
			return nil, false, &Problem{Code: OpenQuote, Line: opened, Column: column}
		}
		var err error
		if line, crlf, err = s.readLine(); err != nil {
			if errors.Is(err, io.EOF) {
				return nil, false, &Problem{Code: OpenQuote, Line: opened, Column: column}
			}
			return nil, false, err
		}
	}
}

func excerpt(b []byte) string {
	const most = 40
	r := []rune(string(b))
	if len(r) > most {
		return string(r[:most]) + "…"
	}
	return string(r)
}
