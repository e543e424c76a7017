package analysis

import (
	"math"
	"math/bits"

	"widetally/core/design"
	"widetally/core/document"
	"widetally/core/survey"
)

// placesOf gives the place of each slot among the proper answers; design.None for none.
func placesOf(q survey.Question) *[1 << 16]int32 {
	places := &[1 << 16]int32{}
	for i := range places {
		places[i] = design.None
	}
	copy(places[:], q.Places())
	return places
}

// answerAt gives the place of a respondent's answer among the proper ones; design.None for none.
func answerAt(s survey.Source) func(row int) int {
	places := placesOf(s.Question)
	switch c := s.Column; {
	case c.U8 != nil:
		return func(row int) int { return int(places[c.U8[row]]) }
	case c.U16 != nil:
		return func(row int) int { return int(places[c.U16[row]]) }
	}
	return func(int) int { return design.None }
}

// answersOf takes the answers of some rows into their cells, at·size + place; design.None stays, and the
// size first begins anew.
func answersOf(s survey.Source) func(rows []int, at []int32, size int32) {
	places := placesOf(s.Question)
	switch c := s.Column; {
	case c.U8 != nil:
		return func(rows []int, at []int32, size int32) { combine(c.U8, places, rows, at, size) }
	case c.U16 != nil:
		return func(rows []int, at []int32, size int32) { combine(c.U16, places, rows, at, size) }
	}
	return func(_ []int, at []int32, _ int32) {
		for k := range at {
			at[k] = design.None
		}
	}
}

// bytesOf takes the answers of some rows into cells of a byte each; nil for a question whose slots do not
// fit into one.
func bytesOf(s survey.Source) func(rows []int, at []uint8) {
	slots := s.Column.U8
	if slots == nil {
		return nil
	}
	var places [256]uint8
	for slot, place := range placesOf(s.Question)[:256] {
		places[slot] = uint8(place) // None is −1 and becomes NoByte
	}
	return func(rows []int, at []uint8) {
		if from, run := running(rows); run {
			for k, slot := range slots[from : from+len(rows)] {
				at[k] = places[slot]
			}
			return
		}
		for k, row := range rows {
			at[k] = places[slots[row]]
		}
	}
}

// keepBytes leaves the cells of the rows that are in a subgroup.
func keepBytes(in *survey.Set, rows []int, at []uint8) {
	if row, run := running(rows); run && row%64 == 0 {
		in.Raise(at, row) // all ones is NoByte
		return
	}
	for k, row := range rows {
		at[k] |= uint8(in.Bit(row)) - 1
	}
}

// first is the size of the cells before there are any.
const first = 0

func combine[T uint8 | uint16](slots []T, places *[1 << 16]int32, rows []int, at []int32, size int32) {
	if from, run := running(rows); run {
		slots = slots[from : from+len(rows)]
		at = at[:len(slots)]
		if size == first {
			for k, slot := range slots {
				at[k] = places[slot]
			}
			return
		}
		for k, slot := range slots {
			at[k] = placed(at[k], places[slot], size)
		}
		return
	}
	if size == first {
		clear(at)
	}
	for k, row := range rows {
		at[k] = placed(at[k], places[slots[row]], size)
	}
}

// placed is at·size + place, or None where either is.
func placed(at, place, size int32) int32 {
	return (at*size + place) | at>>31 | place>>31 // None is −1 and all ones
}

// running reports whether rows follow each other, from the first on.
func running(rows []int) (from int, is bool) {
	n := len(rows)
	return rows[0], rows[n-1]-rows[0] == n-1
}

// keep leaves the cells of the rows that are in a subgroup.
func keep(in *survey.Set, rows []int, at []int32) {
	if row, run := running(rows); run {
		for len(at) > 0 {
			word := in.Word(row/64) >> (row % 64)
			n := min(64-row%64, len(at))
			for k := range at[:n] {
				at[k] |= int32(word&1) - 1 // −1 is None
				word >>= 1
			}
			row, at = row+n, at[n:]
		}
		return
	}
	for k, row := range rows {
		at[k] |= int32(in.Bit(row)) - 1
	}
}

// setAt gives what a respondent chose of the proper answers to a choose-all question, as bits by their
// places; false for who did not answer.
func setAt(s survey.Source) func(row int) (uint64, bool) {
	places := placesOf(s.Question)
	return func(row int) (chosen uint64, in bool) {
		set := s.Column.Sets[row]
		for ; set != 0; set &= set - 1 {
			place := places[bits.TrailingZeros64(set)]
			if place < 0 {
				return 0, false
			}
			chosen |= 1 << place
		}
		return chosen, true
	}
}

func unfit(s survey.Source) error {
	return Refused("design.question", "/design", document.Values{"name": document.Text(s.Question.Name)})
}

// numbersOf reads a column as numbers, NaN where there is none.
func numbersOf(s survey.Source) ([]float64, error) {
	out := make([]float64, s.Column.Rows())
	switch c := s.Column; {
	case c.F64 != nil:
		copy(out, c.F64)
	case c.U8 != nil || c.U16 != nil:
		values := s.Question.Values()
		for row := range out {
			slot := survey.Slot(0)
			if c.U8 != nil {
				slot = survey.Slot(c.U8[row])
			} else {
				slot = survey.Slot(c.U16[row])
			}
			x, known := values[slot]
			if !known {
				x = math.NaN()
			}
			out[row] = x
		}
	default:
		return nil, unfit(s)
	}
	return out, nil
}

// labelsOf numbers the different entries of a column, design.None where there is none.
func labelsOf(s survey.Source) ([]int, error) {
	out := make([]int, s.Column.Rows())
	switch c := s.Column; {
	case c.U8 != nil || c.U16 != nil:
		at := answerAt(s)
		for row := range out {
			out[row] = at(row)
		}
	case c.F64 != nil:
		known := map[float64]int{}
		for row, x := range c.F64 {
			out[row] = design.None
			if x == x {
				out[row] = numbered(known, x)
			}
		}
	case c.Text != nil:
		known := map[string]int{}
		for row, text := range c.Text {
			out[row] = design.None
			if text != "" {
				out[row] = numbered(known, text)
			}
		}
	default:
		return nil, unfit(s)
	}
	return out, nil
}

func numbered[T comparable](known map[T]int, x T) int {
	at, seen := known[x]
	if !seen {
		at = len(known)
		known[x] = at
	}
	return at
}
