package survey

import (
	"fmt"
	"math/bits"
)

// Counts is what a question's respondents answered.
type Counts struct {
	// BySlot holds per slot how many gave that answer, spellings under the answer
	// they are counted as. In a choose-all question a respondent may count in
	// several slots, in each once. Numbers and texts count only where missing.
	BySlot   []int64
	Everyone int64
	Missing  int64 // respondents without a proper answer
}

// CountAnswers counts a question's column in one pass. A slot that the question
// lacks is an error, since it can only mean a damaged column. Times, where given,
// must have a value for each row.
func CountAnswers(q Question, c Column, of Sample) (*Counts, error) {
	rows := c.Rows()
	if !of.Fits(rows) {
		return nil, fmt.Errorf("survey: %q has %d rows, the sample another number", q.Name, rows)
	}
	raw, err := c.count(q.Slots(), of)
	if err != nil {
		return nil, fmt.Errorf("survey: question %q: %w", q.Name, err)
	}
	missing := q.missing()
	out := &Counts{BySlot: make([]int64, len(raw)), Everyone: of.Number(rows)}
	if c.Sets != nil {
		countSets(out, c.Sets, q.counted(), missing, of)
		return out, nil
	}
	for s, to := range q.counted() {
		out.BySlot[to] += raw[s]
		if missing[s] {
			out.Missing += raw[s]
		}
	}
	return out, nil
}

func countSets(out *Counts, sets []uint64, counted []Slot, missing []bool, of Sample) {
	of.Each(len(sets), func(row int, times int64) {
		var folded uint64
		for rest := sets[row]; rest != 0; rest &= rest - 1 {
			folded |= 1 << counted[bits.TrailingZeros64(rest)]
		}
		isMissing := false
		for ; folded != 0; folded &= folded - 1 {
			s := bits.TrailingZeros64(folded)
			out.BySlot[s] += times
			isMissing = isMissing || missing[s]
		}
		if isMissing {
			out.Missing += times
		}
	})
}

// count counts slots as they are stored; for sets it only checks their range.
func (c Column) count(slots int, of Sample) ([]int64, error) {
	// Room for every slot that the width can hold, so that a damaged column is
	// found after the loop and not in it.
	counts := make([]int64, max(slots, 256))
	plain := of.plain()
	switch {
	case c.U8 != nil && plain:
		all := count8(c.U8, slots)
		copy(counts, all[:])
	case c.U8 != nil:
		of.Each(len(c.U8), func(i int, n int64) { counts[c.U8[i]] += n })
	case c.U16 != nil:
		counts = make([]int64, SlotLimit)
		of.Each(len(c.U16), func(i int, n int64) { counts[c.U16[i]] += n })
	case c.F64 != nil:
		counts = make([]int64, SlotLimit)
		of.Each(len(c.F64), func(i int, n int64) {
			if s, missing := MissingSlot(c.F64[i]); missing {
				counts[s] += n
			}
		})
	case c.Text != nil:
		of.Each(len(c.Text), func(i int, n int64) {
			if c.Text[i] == "" {
				counts[Blank] += n
			}
		})
	case c.Sets != nil:
		for _, set := range c.Sets {
			if set>>slots != 0 {
				return nil, fmt.Errorf("the column holds a choice that the question lacks")
			}
		}
	}
	for s := slots; s < len(counts); s++ {
		if counts[s] != 0 {
			return nil, fmt.Errorf("the column holds slot %d of a question with %d slots", s, slots)
		}
	}
	return counts[:slots], nil
}

// Multiplicities reads a column of counts: how many respondents each row stands for.
// A missing count is none.
func (c Column) Multiplicities() []int64 {
	out := make([]int64, c.Rows())
	for i := range out {
		if x, _, ok := c.number(i, nil); ok && x > 0 {
			out[i] = int64(x)
		}
	}
	return out
}
