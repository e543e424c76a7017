package survey

import (
	"fmt"
	"math"
)

// Column is one question's answers, one per respondent, in the order of the
// file. Exactly one of the fields is set.
type Column struct {
	// U8 and U16 hold slots, in the narrower type that fits.
	U8  []uint8
	U16 []uint16
	// F64 holds numbers; a NaN made by MissingNumber carries the slot of a
	// missing answer.
	F64 []float64
	// Text holds free text; "" is blank.
	Text []string
}

// Rows returns the number of respondents.
func (c Column) Rows() int { return len(c.U8) + len(c.U16) + len(c.F64) + len(c.Text) }

// Bytes estimates the memory that the column holds.
func (c Column) Bytes() int {
	n := len(c.U8) + 2*len(c.U16) + 8*len(c.F64)
	for _, s := range c.Text {
		n += 16 + len(s)
	}
	return n
}

const missingBits = 0x7ff8_5754_0000_0000 // a quiet NaN with a mark of ours

// MissingNumber returns the NaN that stands for the missing answer of this slot
// in a column of numbers.
func MissingNumber(s Slot) float64 { return math.Float64frombits(missingBits | uint64(s)) }

// MissingSlot returns the slot that a NaN made by MissingNumber carries; ok is
// false for every other number.
func MissingSlot(x float64) (s Slot, ok bool) {
	b := math.Float64bits(x)
	return Slot(b & 0xffff), b&^0xffff == missingBits
}

// Count returns how many respondents gave each slot 0 … slots−1, and for text
// how many left it blank (slot 0). A number counts under its missing slot or
// not at all. It is one pass over the column; a slot out of range is an error,
// since it can only mean a damaged column.
func (c Column) Count(slots int) ([]int64, error) {
	counts := make([]int64, slots)
	tooLarge := func(s int) error {
		return fmt.Errorf("survey: column holds slot %d of a question with %d slots", s, slots)
	}
	switch {
	case c.U8 != nil:
		all := count8(c.U8)
		for s, n := range all {
			if n == 0 {
				continue
			}
			if s >= slots {
				return nil, tooLarge(s)
			}
			counts[s] = n
		}
	case c.U16 != nil:
		for _, s := range c.U16 {
			if int(s) >= slots {
				return nil, tooLarge(int(s))
			}
			counts[s]++
		}
	case c.F64 != nil:
		for _, x := range c.F64 {
			if s, missing := MissingSlot(x); missing {
				if int(s) >= slots {
					return nil, tooLarge(int(s))
				}
				counts[s]++
			}
		}
	case c.Text != nil:
		for _, s := range c.Text {
			if s == "" {
				counts[Blank]++
			}
		}
	}
	return counts, nil
}

// count8 counts bytes with four sub-histograms, so that one increment does not
// wait for the last one when neighbours gave the same answer.
func count8(column []uint8) [256]int64 {
	var h0, h1, h2, h3 [256]int64
	i := 0
	for ; i+4 <= len(column); i += 4 {
		q := column[i : i+4 : i+4]
		h0[q[0]]++
		h1[q[1]]++
		h2[q[2]]++
		h3[q[3]]++
	}
	for ; i < len(column); i++ {
		h0[column[i]]++
	}
	for s := range h0 {
		h0[s] += h1[s] + h2[s] + h3[s]
	}
	return h0
}
