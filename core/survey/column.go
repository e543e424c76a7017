package survey

import "math"

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
	// Sets holds the chosen answers of a choose-all question, one bit a slot, so
	// slots go to MostSetItems. A missing answer is a bit of its own, alone.
	Sets []uint64
}

// MostSetItems is the highest slot of a choose-all question.
const MostSetItems = 63

// Rows returns the number of respondents.
func (c Column) Rows() int { return len(c.U8) + len(c.U16) + len(c.F64) + len(c.Text) + len(c.Sets) }

// Bytes estimates the memory that the column holds.
func (c Column) Bytes() int {
	n := len(c.U8) + 2*len(c.U16) + 8*(len(c.F64)+len(c.Sets))
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
