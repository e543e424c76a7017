package survey

import (
	"fmt"
	"math"
	"math/bits"
	"slices"
)

// slotAt returns the slot in a row of a coded column.
func (c Column) slotAt(i int) Slot {
	if c.U8 != nil {
		return Slot(c.U8[i])
	}
	return Slot(c.U16[i])
}

// narrowed uses the narrower width where the slots fit.
func (c Column) narrowed(highest int) Column {
	if highest > math.MaxUint8 || c.U16 == nil {
		return c
	}
	out := make([]uint8, len(c.U16))
	for i, s := range c.U16 {
		out[i] = uint8(s)
	}
	return Column{U8: out}
}

// Widened holds slots in the wider of the two types.
func (c Column) Widened() Column {
	out := make([]uint16, len(c.U8))
	for i, s := range c.U8 {
		out[i] = uint16(s)
	}
	return Column{U16: out}
}

// reslot gives each slot another number. Slots that to does not know must come back
// as the blank.
func (c Column) reslot(to func(Slot) Slot) Column {
	table, highest := make([]Slot, SlotLimit), Slot(0)
	width := SlotLimit
	if c.U8 != nil {
		width = 256
	} else if c.Sets != nil {
		width = MostSetItems + 1
	}
	for s := range width {
		table[s] = to(Slot(s))
		highest = max(highest, table[s])
	}
	switch {
	case c.U8 != nil && highest <= math.MaxUint8:
		out := make([]uint8, len(c.U8))
		for i, s := range c.U8 {
			out[i] = uint8(table[s])
		}
		return Column{U8: out}
	case c.U8 != nil || c.U16 != nil:
		out := make([]uint16, c.Rows())
		for i := range out {
			out[i] = uint16(table[c.slotAt(i)])
		}
		return Column{U16: out}.narrowed(int(highest))
	case c.F64 != nil:
		out := slices.Clone(c.F64)
		for i, x := range out {
			if s, missing := MissingSlot(x); missing {
				out[i] = MissingNumber(table[s])
			}
		}
		return Column{F64: out}
	case c.Sets != nil:
		out := make([]uint64, len(c.Sets))
		for i, set := range c.Sets {
			for ; set != 0; set &= set - 1 {
				out[i] |= 1 << table[bits.TrailingZeros64(set)]
			}
		}
		return Column{Sets: out}
	}
	return c
}

// Refit gives a column that was read or made anew the slots which a question has
// kept: answers are matched by code, new ones get slots of their own at the end, and
// what was said about known ones stays. drop leaves out answers that the new list
// lacks; otherwise they keep their place, chosen by nobody. added lists the codes
// that are new.
func Refit(kept []Answer, made []Answer, c Column, drop bool) (answers []Answer, out Column, added []string, err error) {
	slotOf, next := map[string]Slot{}, Slot(0)
	for _, a := range kept {
		slotOf[a.Code] = a.Slot
		next = max(next, a.Slot)
	}
	to, present := map[Slot]Slot{}, map[string]Answer{}
	var fresh []Answer
	for _, a := range made {
		present[a.Code] = a
		slot, known := slotOf[a.Code]
		if !known {
			if int(next)+1 >= SlotLimit || c.Sets != nil && next >= MostSetItems {
				return nil, c, nil, fmt.Errorf("%w: %d", ErrTooManyAnswers, int(next)+1)
			}
			next++
			slot = next
			added = append(added, a.Code)
			b := a
			b.Slot, b.SameAs = slot, nil
			fresh = append(fresh, b)
		}
		to[a.Slot] = slot
	}
	for _, a := range kept {
		now, stays := present[a.Code]
		if drop && !stays {
			continue
		}
		if stays {
			a.From, a.To = now.From, now.To
		}
		if a.SameAs != nil && drop {
			if under, ok := (Question{Answers: kept}).Answer(*a.SameAs); ok {
				if _, there := present[under.Code]; !there {
					a.SameAs = nil
				}
			}
		}
		answers = append(answers, a)
	}
	// New proper answers go before the missing ones, which stand last by habit.
	at := len(answers)
	for at > 0 && answers[at-1].Missing != "" {
		at--
	}
	answers = slices.Insert(answers, at, fresh...)
	return answers, c.reslot(func(s Slot) Slot { return to[s] }), added, nil
}

// number returns the number in a row; a missing answer gives its slot.
func (c Column) number(i int, values map[Slot]float64) (x float64, slot Slot, ok bool) {
	switch {
	case c.F64 != nil:
		slot, missing := MissingSlot(c.F64[i])
		return c.F64[i], slot, !missing
	case c.U8 != nil:
		slot = Slot(c.U8[i])
	case c.U16 != nil:
		slot = Slot(c.U16[i])
	}
	x, ok = values[slot]
	return x, slot, ok
}

// Blanks is a column of this kind in which nobody answered.
func Blanks(kind Kind, rows int) Column {
	switch {
	case kind.Measured():
		out := make([]float64, rows)
		for i := range out {
			out[i] = MissingNumber(Blank)
		}
		return Column{F64: out}
	case kind.Textual():
		return Column{Text: make([]string, rows)}
	case kind == ChooseAll:
		out := make([]uint64, rows)
		for i := range out {
			out[i] = 1 << Blank
		}
		return Column{Sets: out}
	}
	return Column{U8: make([]uint8, rows)}
}

// Joined puts the rows of b behind those of a; both hold the same sort of values.
func Joined(a, b Column) Column {
	switch {
	case a.F64 != nil:
		return Column{F64: slices.Concat(a.F64, b.F64)}
	case a.Text != nil:
		return Column{Text: slices.Concat(a.Text, b.Text)}
	case a.Sets != nil:
		return Column{Sets: slices.Concat(a.Sets, b.Sets)}
	case a.U8 != nil && b.U8 != nil:
		return Column{U8: slices.Concat(a.U8, b.U8)}
	}
	out := make([]uint16, 0, a.Rows()+b.Rows())
	for _, c := range []Column{a, b} {
		for i := range c.Rows() {
			out = append(out, uint16(c.slotAt(i)))
		}
	}
	return Column{U16: out}
}

// BadCount finds the first row whose count is not whole or below 0.
func BadCount(c Column) (row int, bad bool) {
	for i, x := range c.F64 {
		if _, missing := MissingSlot(x); !missing && (x < 0 || x != math.Trunc(x) || x > 1e15) {
			return i, true
		}
	}
	return 0, false
}
