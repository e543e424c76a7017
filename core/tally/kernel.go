package tally

import (
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
// time in tables of all pairs of keys, packed close so that they stay in the nearest cache, in turn in two tables, so that an increment does
// not wait for the last one when neighbours gave the same answers. That a byte lies below
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

// counter counts one crosstab by the slots of its sides.
type counter struct {
	sides []side
	rows  int
	size  int // combinations of slots
	plain []int64
	// pairs holds, for the fast way, counts by two keys of keyBits bits; nil elsewhere.
	pairs   *[2][1 << 16]uint32
	keyBits int
	// seen bounds what may have gone into one entry of pairs.
	seen int
}

// fastFrom is the number of respondents from which the tables of pairs pay.
const fastFrom = 1 << 15

func (c *counter) prepare() {
	c.plain = make([]int64, c.size)
	bytes := c.size < 256 && c.rows >= fastFrom // one key more is for whom a subset leaves out
	for _, s := range c.sides {
		bytes = bytes && s.u8 != nil && s.slots <= 128
	}
	if bytes {
		c.pairs, c.keyBits = new([2][1 << 16]uint32), bits.Len(uint(c.size))
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
	for high := range c.size + 1 {
		for low := range c.size + 1 {
			at := high<<c.keyBits | low
			n := int64(c.pairs[0][at]) + int64(c.pairs[1][at])
			c.pairs[0][at], c.pairs[1][at] = 0, 0
			if high < c.size {
				c.plain[high] += n
			}
			if low < c.size {
				c.plain[low] += n
			}
		}
	}
	c.seen = 0
}

type damagedError struct{ name string }

func (e *damagedError) Error() string {
	return fmt.Sprintf("tally: the column of %q holds an answer that the question lacks", e.name)
}

// count runs all counters over the respondents, block by block.
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
	for from := 0; from < rows; from += blockRows {
		to := min(from+blockRows, rows)
		for _, c := range counters {
			if err := c.add(from, to, of); err != nil {
				return err
			}
		}
	}
	return nil
}

func (c *counter) add(from, to int, of survey.Sample) error {
	switch {
	case of.Frequency != nil:
		return c.slow(from, to, of)
	case of.Subset != nil:
		return c.subset(from, to, of.Subset)
	case c.pairs != nil:
		return c.fast(from, to)
	}
	return c.straight(from, to)
}

// subset counts words of 64 respondents: in the fast way whoever is not in the subset gets
// the key behind the last one; else one by one.
func (c *counter) subset(from, to int, in *survey.Set) error {
	for i := from; i < to; i += 64 {
		end := min(i+64, to)
		switch word := in.Word(i / 64); {
		case word == 0:
		case c.pairs != nil && end-i == 64 && len(c.sides) == 2:
			if err := c.masked(i, word); err != nil {
				return err
			}
		default:
			for row := i; row < end; row++ {
				if word>>(row-i)&1 == 1 {
					if err := c.one(row, 1); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

func (c *counter) slow(from, to int, of survey.Sample) error {
	for row := from; row < to; row++ {
		if n := of.Counts(row); n > 0 {
			if err := c.one(row, n); err != nil {
				return err
			}
		}
	}
	return nil
}

func (c *counter) one(row int, n int64) error {
	key := 0
	for _, s := range c.sides {
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
func (c *counter) straight(from, to int) error {
	if len(c.sides) != 2 || c.sides[0].u8 == nil || c.sides[1].u8 == nil {
		for row := from; row < to; row++ {
			if err := c.one(row, 1); err != nil {
				return err
			}
		}
		return nil
	}
	a, b := c.sides[0].u8[from:to], c.sides[1].u8[from:to]
	slotsA, slotsB := c.sides[0].slots, c.sides[1].slots
	for i, x := range a {
		y := int(b[i])
		if int(x) >= slotsA || y >= slotsB {
			return c.one(from+i, 1) // says which is damaged
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

// fast takes eight respondents at a time.
func (c *counter) fast(from, to int) error {
	// An entry of pairs grows by at most one for every two respondents.
	if c.seen += to - from; c.seen > 1<<32 {
		c.drain()
		c.seen = to - from
	}
	even, odd := &c.pairs[0], &c.pairs[1]
	whole := from + (to-from)&^7
	var bad uint64
	a, b := c.sides[len(c.sides)-2], c.sides[len(c.sides)-1]
	limitA, limitB := uint64(128-a.slots)*everyByte, uint64(128-b.slots)*everyByte
	times := uint64(b.slots)
	low := uint64(1)<<c.keyBits - 1
	low *= everyLane
	high, shift := low<<c.keyBits, uint(8-c.keyBits)
	columnA := a.u8[from:whole]
	columnB := b.u8[from:whole][:len(columnA)]
	if len(c.sides) == 2 {
		for i := 0; i+8 <= len(columnA); i += 8 {
			x, y := binary.LittleEndian.Uint64(columnA[i:i+8]), binary.LittleEndian.Uint64(columnB[i:i+8])
			bad |= beyond(x, limitA) | beyond(y, limitB)
			k := x*times + y
			k = k&low | k>>(shift&7)&high
			even[uint16(k)]++
			odd[uint16(k>>16)]++
			even[uint16(k>>32)]++
			odd[uint16(k>>48)]++
		}
	} else {
		l := c.sides[0]
		limitL, timesL := uint64(128-l.slots)*everyByte, uint64(a.slots*b.slots)
		columnL := l.u8[from:whole][:len(columnA)]
		for i := 0; i+8 <= len(columnA); i += 8 {
			x, y, z := binary.LittleEndian.Uint64(columnA[i:i+8]), binary.LittleEndian.Uint64(columnB[i:i+8]), binary.LittleEndian.Uint64(columnL[i:i+8])
			bad |= beyond(x, limitA) | beyond(y, limitB) | beyond(z, limitL)
			k := z*timesL + x*times + y
			k = k&low | k>>(shift&7)&high
			even[uint16(k)]++
			odd[uint16(k>>16)]++
			even[uint16(k>>32)]++
			odd[uint16(k>>48)]++
		}
	}
	if bad&highBits != 0 {
		return c.damaged(from, to)
	}
	for row := whole; row < to; row++ {
		if err := c.one(row, 1); err != nil {
			return err
		}
	}
	return nil
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

// masked takes the 64 respondents from a row on of whom some are in a subset.
func (c *counter) masked(from int, in uint64) error {
	if c.seen += 64; c.seen > 1<<32 {
		c.drain()
		c.seen = 64
	}
	even, odd := &c.pairs[0], &c.pairs[1]
	a, b := c.sides[0], c.sides[1]
	columnA, columnB := a.u8[from:from+64], b.u8[from:from+64]
	limitA, limitB := uint64(128-a.slots)*everyByte, uint64(128-b.slots)*everyByte
	times, nobody := uint64(b.slots), uint64(c.size)*everyByte
	low := (uint64(1)<<c.keyBits - 1) * everyLane
	high, shift := low<<c.keyBits, uint(8-c.keyBits)
	var bad uint64
	for i := 0; i < 64; i += 8 {
		x, y := binary.LittleEndian.Uint64(columnA[i:i+8]), binary.LittleEndian.Uint64(columnB[i:i+8])
		bad |= beyond(x, limitA) | beyond(y, limitB)
		mask := bytesOf[uint8(in>>i)]
		k := (x*times+y)&mask | nobody&^mask
		k = k&low | k>>(shift&7)&high
		even[uint16(k)]++
		odd[uint16(k>>16)]++
		even[uint16(k>>32)]++
		odd[uint16(k>>48)]++
	}
	if bad&highBits != 0 {
		return c.damaged(from, from+64)
	}
	return nil
}

// damaged says which column holds what its question lacks.
func (c *counter) damaged(from, to int) error {
	for _, s := range c.sides {
		for row := from; row < to; row++ {
			if s.at(row) >= s.slots {
				return &damagedError{s.name}
			}
		}
	}
	return nil
}
