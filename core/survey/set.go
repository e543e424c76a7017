package survey

import (
	"encoding/binary"
	"math/bits"
)

// Set is a set of rows, a bit each. A nil set holds every row.
type Set struct {
	words []uint64
	rows  int
}

// NewSet returns an empty set among so many rows.
func NewSet(rows int) *Set { return &Set{make([]uint64, (rows+63)/64), rows} }

// Add puts a row into the set.
func (s *Set) Add(row int) { s.words[row/64] |= 1 << (row % 64) }

// Has reports whether a row is in the set.
func (s *Set) Has(row int) bool { return s == nil || s.words[row/64]>>(row%64)&1 == 1 }

// Count returns how many rows are in the set.
func (s *Set) Count() (n int) {
	for _, w := range s.words {
		n += bits.OnesCount64(w)
	}
	return n
}

// Without returns the rows that are not in the set.
func (s *Set) Without() *Set {
	out := NewSet(s.rows)
	for i, w := range s.words {
		out.words[i] = ^w
	}
	if rest := s.rows % 64; rest != 0 {
		out.words[len(out.words)-1] &= 1<<rest - 1
	}
	return out
}

// And returns the rows that are in both sets; nil holds every row.
func (s *Set) And(other *Set) *Set {
	switch {
	case other == nil:
		return s
	case s == nil:
		return other
	}
	out := NewSet(s.rows)
	for i, w := range s.words {
		out.words[i] = w & other.words[i]
	}
	return out
}

// Word returns 64 rows of the set, the first in the lowest bit.
func (s *Set) Word(at int) uint64 { return s.words[at] }

// Bit is 1 for a row in the set, else 0.
func (s *Set) Bit(row int) uint64 { return s.words[row/64] >> (row % 64) & 1 }

// Among returns how many rows from one, a multiple of 64, to before another are in the set.
func (s *Set) Among(from, to int) (n int) {
	for w := from / 64; w < (to+63)/64; w++ {
		n += bits.OnesCount64(s.words[w])
	}
	return n - s.beyond(to)
}

// beyond counts the rows from one on that stand in the same word as the one before it.
func (s *Set) beyond(to int) int {
	if to%64 == 0 {
		return 0
	}
	return bits.OnesCount64(s.words[to/64] >> (to % 64))
}

// bytesOf spreads eight bits over the bytes of a word.
var bytesOf = func() (table [256]uint64) {
	for bits := range table {
		for i := range 8 {
			if bits>>i&1 == 1 {
				table[bits] |= 0xff << (8 * i)
			}
		}
	}
	return table
}()

// Mask copies answers of a byte, those of the rows from one on, which is a multiple of 64;
// who is not in the set gets the blank answer. Both slices have the same length.
func (s *Set) Mask(to, column []uint8, from int) {
	for ; len(column) > 0; from += 64 {
		word, n := s.words[from/64], min(64, len(column))
		switch {
		case n < 64:
			for i, x := range column {
				to[i] = x & -uint8(word>>i&1)
			}
		case word == 0:
			clear(to[:64])
		case word == ^uint64(0):
			copy(to[:64], column[:64])
		default:
			a, b := column[:64:64], to[:64:64]
			for i := 0; i < 64; i += 8 {
				binary.LittleEndian.PutUint64(b[i:i+8], binary.LittleEndian.Uint64(a[i:i+8])&bytesOf[uint8(word>>i)])
			}
		}
		to, column = to[n:], column[n:]
	}
}

// Raise sets all bits of the bytes of the rows from one on, which is a multiple of 64, that are not in the
// set.
func (s *Set) Raise(to []uint8, from int) {
	for ; len(to) >= 64; from += 64 {
		if word := s.words[from/64]; word != ^uint64(0) {
			for b := to[:64:64]; len(b) > 0; b, word = b[8:], word>>8 {
				binary.LittleEndian.PutUint64(b, binary.LittleEndian.Uint64(b)|^bytesOf[uint8(word)])
			}
		}
		to = to[64:]
	}
	for i := range to {
		to[i] |= uint8(s.Bit(from+i)) - 1
	}
}

func (s *Set) each(f func(row int)) {
	for w, word := range s.words {
		for ; word != 0; word &= word - 1 {
			f(w*64 + bits.TrailingZeros64(word))
		}
	}
}

// Bytes estimates the memory that the set holds.
func (s *Set) Bytes() int { return 8 * len(s.words) }

// join takes into the set only the rows of another one, or those too.
func (s *Set) join(other *Set, onlyBoth bool) {
	for i, w := range other.words {
		if onlyBoth {
			s.words[i] &= w
		} else {
			s.words[i] |= w
		}
	}
}

// where makes it the set of rows of which is says so.
func (s *Set) where(is func(row int) bool) {
	for i := range s.words {
		word, from := uint64(0), 64*i
		for row := from; row < min(from+64, s.rows); row++ {
			if is(row) {
				word |= 1 << (row - from)
			}
		}
		s.words[i] = word
	}
}

const (
	everyByte = 0x0101_0101_0101_0101
	highBits  = 0x8080_8080_8080_8080
	lowBits   = 0x7f7f_7f7f_7f7f_7f7f
)

// mostRuns is up to how many runs of neighbouring slots are compared eight at a time.
const mostRuns = 4

// where8 makes it the set of rows whose answer is in a table.
func (s *Set) where8(column []uint8, in *[256]bool) {
	find := lookedUp(in)
	if runs := runsOf(in); len(runs) <= mostRuns && (len(runs) == 0 || runs[len(runs)-1][1] < 128) {
		find = compared(runs)
	}
	Halves(s.rows, func(_, from, to int) {
		find(s.words[from/64:to/64], column[from:to])
		for row := to &^ 63; row < to; row++ { // what is left of the last word
			if in[column[row]] {
				s.Add(row)
			}
		}
	})
}

// runsOf lists the runs of neighbouring slots in a table, the first and the last of each.
func runsOf(in *[256]bool) (runs [][2]int) {
	for slot := 0; slot < 256; slot++ {
		if in[slot] {
			first := slot
			for slot < 255 && in[slot+1] {
				slot++
			}
			runs = append(runs, [2]int{first, slot})
		}
	}
	return runs
}

func lookedUp(in *[256]bool) func(words []uint64, column []uint8) {
	var bit [256]uint64
	for slot, is := range in {
		if is {
			bit[slot] = 1
		}
	}
	return func(words []uint64, column []uint8) {
		for i := range words {
			word := uint64(0)
			for k, x := range column[64*i : 64*i+64] {
				word |= bit[x] << k
			}
			words[i] = word
		}
	}
}

// compared looks at eight answers at a time, a byte of a word each: to the lower seven bits of
// a byte as much is added as makes the eighth show whether a limit was reached. A run that is
// not there is reached and left at once.
func compared(runs [][2]int) func(words []uint64, column []uint8) {
	var from, to [mostRuns]uint64
	for i, run := range runs {
		from[i], to[i] = uint64(128-run[0])*everyByte, uint64(127-run[1])*everyByte
	}
	if len(runs) <= 2 {
		return func(words []uint64, column []uint8) { compareTwo(words, column, from[0], to[0], from[1], to[1]) }
	}
	return func(words []uint64, column []uint8) {
		compareTwo(words, column, from[0], to[0], from[1], to[1])
		more := make([]uint64, len(words))
		compareTwo(more, column, from[2], to[2], from[3], to[3])
		for i, word := range more {
			words[i] |= word
		}
	}
}

// compareTwo finds the rows of two runs. What is found of eight words goes to the eight bits of
// each byte, which are turned over in the end (Warren 2013, Hacker's Delight, 7-3).
func compareTwo(words []uint64, column []uint8, a, b, c, d uint64) {
	found := func(eight []uint8) uint64 {
		x := binary.LittleEndian.Uint64(eight)
		low := x & lowBits
		return ((low+a)&^(low+b) | (low+c)&^(low+d)) &^ x & highBits
	}
	for i := range words {
		k := (*[64]uint8)(column[64*i:])
		w := found(k[0:8])>>7 | found(k[8:16])>>6 | found(k[16:24])>>5 | found(k[24:32])>>4
		w |= found(k[32:40])>>3 | found(k[40:48])>>2 | found(k[48:56])>>1 | found(k[56:64])
		t := (w ^ w>>7) & 0x00aa_00aa_00aa_00aa
		w ^= t ^ t<<7
		t = (w ^ w>>14) & 0x0000_cccc_0000_cccc
		w ^= t ^ t<<14
		t = (w ^ w>>28) & 0x0000_0000_f0f0_f0f0
		words[i] = w ^ t ^ t<<28
	}
}
