package intake

import (
	"bytes"
	"encoding/binary"
	"math/bits"
	"unicode/utf8"
)

// slabBytes bounds the lines that are cut at once: few enough to stay in a core's own memory,
// and no cell in them can be too long.
const slabBytes = MaxCell

// leastSlab is how few bytes are tried after a line that is not plain.
const leastSlab = 512

// slab cuts as many whole lines as are at hand into a block that is empty: lines without quotes
// that each have the width. It takes none, without an error, where the next line is another
// one; that is to be read by itself.
func (s *splitter) slab(b *block, width int) (rows int) {
	lines, _ := s.in.Peek(s.most)
	if at := bytes.IndexByte(lines, '"'); at >= 0 {
		lines = lines[:at]
	}
	lines = lines[:bytes.LastIndexByte(lines, '\n')+1]
	tried := len(lines)
	defer func() {
		switch { // lines that are not plain come together, mostly
		case rows == 0:
			s.most = leastSlab
		case len(lines) < tried:
			s.most = max(leastSlab, 2*len(lines))
		default:
			s.most = min(slabBytes, 2*s.most)
		}
	}()
	if len(lines) == 0 || s.checkUTF8 && !utf8.Valid(lines) {
		return 0
	}
	b.text = withoutReturns(b.text, lines)
	b.ends = separators(b.ends, b.text, s.comma)
	// Where the line breaks are as many as the rows, and each row ends with one, all else are
	// commas.
	for rows < len(b.ends)/width && b.text[b.ends[(rows+1)*width-1]] == '\n' {
		rows++
	}
	if rows == 0 {
		b.clear()
		return 0
	}
	b.ends = b.ends[:rows*width]
	b.text = b.text[:b.ends[len(b.ends)-1]+1]
	if bytes.Count(b.text, []byte("\n")) != rows {
		b.clear()
		return 0
	}
	if len(b.text) < len(lines) { // a line of another width is left, or returns are
		lines = lines[:ofLines(lines, rows)]
	}
	b.rows = rows
	_, _ = s.in.Discard(len(lines)) // they are there
	s.line += rows
	s.start = s.line
	return rows
}

func (b *block) clear() { b.text, b.ends, b.rows = b.text[:0], b.ends[:0], 0 }

// ofLines is how many bytes so many lines take.
func ofLines(text []byte, lines int) (n int) {
	for range lines {
		n += bytes.IndexByte(text[n:], '\n') + 1
	}
	return n
}

// withoutReturns appends lines whose ends may be CRLF with LF for each.
func withoutReturns(out, lines []byte) []byte {
	for {
		at := bytes.IndexByte(lines, '\r')
		if at < 0 {
			return append(out, lines...)
		}
		out = append(out, lines[:at]...)
		if lines[at+1] != '\n' { // it belongs to the cell
			out = append(out, '\r')
		}
		lines = lines[at+1:]
	}
}

const (
	everyByte = 0x0101_0101_0101_0101
	lowBits   = 0x7f7f_7f7f_7f7f_7f7f
)

// separators appends where the commas and line breaks of a text are. Eight bytes at a time:
// a byte that is one of them becomes 0, and only of 0 does adding to its lower bits leave the
// highest one out (Warren 2013, Hacker's Delight, 6-1).
func separators(out []uint32, text []byte, comma byte) []uint32 {
	if n := len(out) + len(text); cap(out) < n {
		out = append(make([]uint32, 0, n), out...)
	}
	commas, breaks := uint64(comma)*everyByte, uint64('\n')*everyByte
	i, n := 0, len(out)
	out = out[:n+len(text)]
	for ; i+8 <= len(text); i += 8 {
		w := binary.LittleEndian.Uint64(text[i : i+8])
		a, b := w^commas, w^breaks
		found := ^(((a&lowBits+lowBits)|a)&((b&lowBits+lowBits)|b) | lowBits)
		for ; found != 0; found &= found - 1 {
			out[n] = uint32(i + bits.TrailingZeros64(found)>>3)
			n++
		}
	}
	for ; i < len(text); i++ {
		if text[i] == comma || text[i] == '\n' {
			out[n] = uint32(i)
			n++
		}
	}
	return out[:n]
}
