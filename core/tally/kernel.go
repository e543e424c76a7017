package tally

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"math/bits"

	"widetally/core/survey"
)

// The kernel counts the combinations of the answers to two or three questions.
//
// Where all slots together make at most 256 combinations, eight respondents are taken at
// a time: their slots, a byte each, stand in one word, and multiplying the word by a small
// number multiplies each byte, since none runs over. The eight keys are counted two at a
// time in tables of all pairs of keys, packed close so that they stay in the nearest cache, in
// turn in two tables, so that an increment does not wait for the last one when neighbours gave
// the same answers. That a byte lies below
// its number of slots is tested on the word, too.

// blockRows is how many respondents are counted for one crosstab before the next one has
// its turn, so that columns that several of them share are still in the cache.
const blockRows = 1 << 15

type side struct {
	name  string
	u8    []uint8
	u16   []uint16
	slots int
}

func (s side) at(row int) int {
	if s.u8 != nil {
		return int(s.u8[row])
	}
	return int(s.u16[row])
}

// part is the side among some rows only.
func (s side) part(from, to int) side {
	if s.u8 != nil {
		s.u8 = s.u8[from:to]
	} else {
		s.u16 = s.u16[from:to]
	}
	return s
}

// counter counts one crosstab by the slots of its sides.
type counter struct {
	sides []side
	rows  int
	size  int // combinations of slots
	plain []int64
	// bytes says that a combination fits into a byte.
	bytes bool
	// pairs holds, for the fast way, counts by two keys of keyBits bits; nil elsewhere.
	pairs   *[2][1 << 16]uint32
	keyBits int
	// seen bounds what may have gone into one entry of pairs.
	seen int
	// parts are the sides among the rows of a block, masked the room for copies of them in
	// which who is not in the subset has the first slot.
	parts    []side
	masked8  [3][]uint8
	masked16 [3][]uint16
}

// fastFrom is the number of respondents from which the tables of pairs pay.
const fastFrom = 1 << 15

func (c *counter) prepare() {
	c.plain, c.parts = make([]int64, c.size), make([]side, len(c.sides))
	c.bytes = c.size <= 256
	for _, s := range c.sides {
		c.bytes = c.bytes && s.u8 != nil && s.slots <= 128
	}
	if c.keyBits = bits.Len(uint(c.size - 1)); c.bytes && c.rows >= fastFrom {
		c.pairs = new([2][1 << 16]uint32)
	}
}

// total returns the counts by combination of slots, the last side running fastest.
func (c *counter) total() []int64 {
	c.drain()
	return c.plain
}

// drain adds up the tables of pairs.
func (c *counter) drain() {
	if c.pairs == nil {
		return
	}
	for high := range c.size {
		for low := range c.size {
			at := high<<c.keyBits | low
			n := int64(c.pairs[0][at]) + int64(c.pairs[1][at])
			c.pairs[0][at], c.pairs[1][at] = 0, 0
			c.plain[high] += n
			c.plain[low] += n
		}
	}
	c.seen = 0
}

type damagedError struct{ name string }

func (e *damagedError) Error() string {
	return fmt.Sprintf("tally: the column of %q holds an answer that the question lacks", e.name)
}

// count runs all counters over the respondents, block by block, two goroutines over those of
// a large study.
func count(counters []*counter, of survey.Sample) error {
	if len(counters) == 0 {
		return nil
	}
	rows := counters[0].rows
	if !of.Fits(rows) {
		return fmt.Errorf("tally: the sample is not one of %d rows", rows)
	}
	for _, c := range counters {
		if c.rows != rows {
			return fmt.Errorf("tally: question %q has %d rows, not %d", c.sides[0].name, c.rows, rows)
		}
	}
	halves, failed := [2][]*counter{counters}, [2]error{}
	survey.Halves(rows, func(half, from, to int) {
		if half == 1 {
			for _, c := range counters {
				other := &counter{sides: c.sides, rows: c.rows, size: c.size}
				other.prepare()
				halves[1] = append(halves[1], other)
			}
		}
		for ; from < to && failed[half] == nil; from += blockRows {
			for _, c := range halves[half] {
				if failed[half] = c.add(from, min(from+blockRows, to), of); failed[half] != nil {
					return
				}
			}
		}
	})
	for i, other := range halves[1] {
		for key, n := range other.total() {
			counters[i].plain[key] += n
		}
	}
	return cmp.Or(failed[0], failed[1])
}

// add counts a block of respondents. Who is not in the subset is read as the combination of
// the first slots and taken off it again.
func (c *counter) add(from, to int, of survey.Sample) error {
	for i, s := range c.sides {
		c.parts[i] = s.part(from, to)
	}
	if of.Frequency != nil {
		return c.timed(from, to, of)
	}
	if in := of.Subset; in != nil {
		n := in.Among(from, to)
		if n == 0 {
			return nil
		}
		if n < to-from {
			c.mask(in, from)
			c.plain[0] -= int64(to - from - n)
		}
	}
	if c.pairs != nil {
		return c.fast(to - from)
	}
	return c.straight(to - from)
}

func (c *counter) mask(in *survey.Set, from int) {
	for i := range c.parts {
		switch p := &c.parts[i]; {
		case p.u8 != nil:
			if c.masked8[i] == nil {
				c.masked8[i] = make([]uint8, blockRows)
			}
			to := c.masked8[i][:len(p.u8)]
			in.Mask(to, p.u8, from)
			p.u8 = to
		default:
			if c.masked16[i] == nil {
				c.masked16[i] = make([]uint16, blockRows)
			}
			to := c.masked16[i][:len(p.u16)]
			for k, x := range p.u16 {
				to[k] = x
				if !in.Has(from + k) {
					to[k] = 0
				}
			}
			p.u16 = to
		}
	}
}

// one counts one respondent of the block.
func (c *counter) one(row int, n int64) error {
	key := 0
	for _, s := range c.parts {
		slot := s.at(row)
		if slot >= s.slots {
			return &damagedError{s.name}
		}
		key = key*s.slots + slot
	}
	c.plain[key] += n
	return nil
}

// straight counts one respondent after the other.
func (c *counter) straight(rows int) error {
	if len(c.parts) != 2 || c.parts[0].u8 == nil || c.parts[1].u8 == nil {
		for row := range rows {
			if err := c.one(row, 1); err != nil {
				return err
			}
		}
		return nil
	}
	a, b := c.parts[0].u8, c.parts[1].u8
	slotsA, slotsB := c.parts[0].slots, c.parts[1].slots
	for i, x := range a {
		y := int(b[i])
		if int(x) >= slotsA || y >= slotsB {
			return c.one(i, 1) // says which is damaged
		}
		c.plain[int(x)*slotsB+y]++
	}
	return nil
}

const (
	everyByte = 0x0101_0101_0101_0101
	everyLane = 0x0001_0001_0001_0001
	highBits  = 0x8080_8080_8080_8080
)

// beyond has a high bit set where a byte of a word is no slot: limit is 128 less the
// number of slots, in every byte. Where one byte runs over into the next, its own high bit
// tells already.
func beyond(word, limit uint64) uint64 { return word + limit | word }

// keys gives the combinations of eight respondents at a time, a byte each. Every one of two
// or three columns has as many bytes; a missing third one is nil.
type keys struct {
	a, l                   uint64 // what the first columns of the block are multiplied by
	limitA, limitB, limitL uint64
}

func (c *counter) keys() (k keys, columnA, columnB, columnL []uint8) {
	a, b := c.parts[len(c.parts)-2], c.parts[len(c.parts)-1]
	k = keys{a: uint64(b.slots), limitA: uint64(128-a.slots) * everyByte, limitB: uint64(128-b.slots) * everyByte}
	if len(c.parts) == 3 {
		l := c.parts[0]
		k.l, k.limitL, columnL = uint64(a.slots*b.slots), uint64(128-l.slots)*everyByte, l.u8
	}
	return k, a.u8, b.u8[:len(a.u8)], columnL
}

// fast takes eight respondents at a time.
func (c *counter) fast(rows int) error {
	// An entry of pairs grows by at most one for every two respondents.
	if c.seen += rows; c.seen > 1<<32 {
		c.drain()
		c.seen = rows
	}
	even, odd := &c.pairs[0], &c.pairs[1]
	whole, bad := rows&^7, uint64(0)
	k, columnA, columnB, columnL := c.keys()
	low := (uint64(1)<<c.keyBits - 1) * everyLane
	high, shift := low<<c.keyBits, uint(8-c.keyBits)
	if columnL == nil {
		for i := 0; i+8 <= whole; i += 8 {
			x, y := binary.LittleEndian.Uint64(columnA[i:i+8]), binary.LittleEndian.Uint64(columnB[i:i+8])
			bad |= beyond(x, k.limitA) | beyond(y, k.limitB)
			w := x*k.a + y
			w = w&low | w>>(shift&7)&high
			even[uint16(w)]++
			odd[uint16(w>>16)]++
			even[uint16(w>>32)]++
			odd[uint16(w>>48)]++
		}
	} else {
		columnL = columnL[:len(columnA)]
		for i := 0; i+8 <= whole; i += 8 {
			x, y, z := binary.LittleEndian.Uint64(columnA[i:i+8]), binary.LittleEndian.Uint64(columnB[i:i+8]), binary.LittleEndian.Uint64(columnL[i:i+8])
			bad |= beyond(x, k.limitA) | beyond(y, k.limitB) | beyond(z, k.limitL)
			w := z*k.l + x*k.a + y
			w = w&low | w>>(shift&7)&high
			even[uint16(w)]++
			odd[uint16(w>>16)]++
			even[uint16(w>>32)]++
			odd[uint16(w>>48)]++
		}
	}
	if bad&highBits != 0 {
		return c.damaged(rows)
	}
	for row := whole; row < rows; row++ {
		if err := c.one(row, 1); err != nil {
			return err
		}
	}
	return nil
}

// timed counts each respondent of the block as often as the row says.
func (c *counter) timed(from, to int, of survey.Sample) (err error) {
	if !c.bytes {
		of.Times(from, to, func(at int, times []int64) {
			for i, n := range times {
				if n > 0 && err == nil {
					err = c.one(at-from+i, n)
				}
			}
		})
		return err
	}
	var tables [4][256]int64
	k, columnA, columnB, columnL := c.keys()
	bad := uint64(0)
	of.Times(from, to, func(at int, times []int64) {
		first := at - from
		a, b := columnA[first:first+len(times)], columnB[first:first+len(times)]
		whole := len(times) &^ 7
		for i := 0; i+8 <= whole; i += 8 {
			x, y := binary.LittleEndian.Uint64(a[i:i+8]), binary.LittleEndian.Uint64(b[i:i+8])
			bad |= beyond(x, k.limitA) | beyond(y, k.limitB)
			w := x*k.a + y
			if columnL != nil {
				z := binary.LittleEndian.Uint64(columnL[first+i : first+i+8])
				bad |= beyond(z, k.limitL)
				w += z * k.l
			}
			t := (*[8]int64)(times[i : i+8])
			tables[0][w&255] += t[0]
			tables[1][w>>8&255] += t[1]
			tables[2][w>>16&255] += t[2]
			tables[3][w>>24&255] += t[3]
			tables[0][w>>32&255] += t[4]
			tables[1][w>>40&255] += t[5]
			tables[2][w>>48&255] += t[6]
			tables[3][w>>56] += t[7]
		}
		for i := whole; i < len(times) && err == nil; i++ {
			err = c.one(first+i, times[i])
		}
	})
	if bad&highBits != 0 && err == nil {
		err = c.damaged(to - from)
	}
	for key := range c.plain {
		c.plain[key] += tables[0][key] + tables[1][key] + tables[2][key] + tables[3][key]
	}
	return err
}

// damaged says which column of the block holds what its question lacks.
func (c *counter) damaged(rows int) error {
	for _, s := range c.parts {
		for row := range rows {
			if s.at(row) >= s.slots {
				return &damagedError{s.name}
			}
		}
	}
	return nil
}
