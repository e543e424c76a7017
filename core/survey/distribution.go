package survey

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"
)

// Distribution is how often each value that a column stores occurs in a sample, before
// anything is said of missing answers, labels or spellings. All that is told of one question
// by itself follows from it, so that an edit of the codebook counts nothing anew. It is never
// changed once it is made.
type Distribution struct {
	Everyone int64 // respondents of the sample
	// Slots holds how often each slot occurs: of numbers those of the missing ones, of texts
	// that of the blank cell; nil for choose-all questions.
	Slots []int64
	// Sets are the combinations of a choose-all question that occur, by rising Chosen.
	Sets []SetCount
	// Numbers are the different numbers, rising.
	Numbers []Value
	// Texts are the different texts, in the order in which they first occur.
	Texts []string
}

// SetCount is a combination of chosen answers, a bit for the slot of each, with the
// respondents who chose it.
type SetCount struct {
	Chosen uint64
	Count  int64
}

// Value is a number with the respondents who gave it.
type Value struct {
	Number float64
	Times  int64
}

// Merged sorts values and brings equal numbers together.
func Merged(v []Value) []Value {
	slices.SortFunc(v, func(a, b Value) int { return cmp.Compare(a.Number, b.Number) })
	out := v[:0]
	for _, w := range v {
		if last := len(out) - 1; last >= 0 && out[last].Number == w.Number {
			out[last].Times += w.Times
		} else {
			out = append(out, w)
		}
	}
	return out
}

// numbers lists the different numbers of a distribution, rising, where slots stand for values.
func (d *Distribution) numbers(values map[Slot]float64) []Value {
	if d.Numbers != nil {
		return d.Numbers
	}
	var out []Value
	for slot, x := range values {
		if int(slot) < len(d.Slots) && d.Slots[slot] > 0 {
			out = append(out, Value{x, d.Slots[slot]})
		}
	}
	return Merged(out)
}

// Numbers lists the different numbers that a question's respondents gave, rising. Slots of a
// coded question stand for the numbers of their codes; those that are words are passed over.
func (q Question) Numbers(d *Distribution) []Value { return d.numbers(q.Values()) }

// Bytes estimates the memory that the distribution holds.
func (d *Distribution) Bytes() int {
	n := 8*len(d.Slots) + 16*(len(d.Sets)+len(d.Numbers)) + 200
	for _, t := range d.Texts {
		n += 16 + len(t)
	}
	return n
}

// Distribute counts a column in one pass. A slot beyond those of the question is an error,
// since it can only mean a damaged column; so is a sample of another number of rows.
func Distribute(c Column, slots int, of Sample) (*Distribution, error) {
	rows := c.Rows()
	if !of.Fits(rows) {
		return nil, fmt.Errorf("the column has %d rows, the sample another number", rows)
	}
	d := &Distribution{}
	if c.U8 == nil && c.U16 == nil {
		d.Everyone = of.Number(rows) // else it is the sum of the slots
	}
	switch {
	case c.U8 != nil:
		counts := count8(c.U8, slots, of)
		d.Slots = counts[:]
	case c.U16 != nil:
		d.Slots = count16(c.U16, of)
	case c.Sets != nil:
		d.Sets = countSets(c.Sets, slots, of)
		for _, s := range d.Sets {
			if slots < 64 && s.Chosen>>slots != 0 {
				return nil, fmt.Errorf("the column holds a choice that the question lacks")
			}
		}
		return d, nil
	case c.F64 != nil:
		d.Slots = make([]int64, SlotLimit)
		d.Numbers = countNumbers(c.F64, of, d.Slots)
	case c.Text != nil:
		d.Slots = make([]int64, slots)
		d.Texts = countTexts(c.Text, of, &d.Slots[Blank])
	}
	for s := slots; s < len(d.Slots); s++ {
		if d.Slots[s] != 0 {
			return nil, fmt.Errorf("the column holds slot %d of a question with %d slots", s, slots)
		}
	}
	all := d.Slots
	d.Slots = make([]int64, slots)
	for s := range copy(d.Slots, all) {
		if c.U8 != nil || c.U16 != nil {
			d.Everyone += all[s]
		}
	}
	return d, nil
}

func countTexts(column []string, of Sample, blank *int64) (different []string) {
	seen := map[string]struct{}{}
	of.Each(len(column), func(row int, times int64) {
		text := column[row]
		if text == "" {
			*blank += times
			return
		}
		if _, known := seen[text]; !known {
			seen[text] = struct{}{}
			different = append(different, text)
		}
	})
	return different
}

// Counts is what a question's respondents answered.
type Counts struct {
	// BySlot holds per slot how many gave that answer, spellings under the answer
	// they are counted as. In a choose-all question a respondent may count in
	// several slots, in each once. Numbers and texts count only where missing.
	BySlot   []int64
	Everyone int64
	Missing  int64 // respondents without a proper answer
}

// Counts reads a distribution of the question's column as its answers are coded now.
func (q Question) Counts(d *Distribution) *Counts {
	missing, counted := q.missing(), q.counted()
	out := &Counts{BySlot: make([]int64, len(counted)), Everyone: d.Everyone}
	if d.Slots == nil {
		for _, s := range d.Sets {
			isMissing := false
			for all := foldedSet(s.Chosen, counted); all != 0; all &= all - 1 {
				slot := bits.TrailingZeros64(all)
				out.BySlot[slot] += s.Count
				isMissing = isMissing || missing[slot]
			}
			if isMissing {
				out.Missing += s.Count
			}
		}
		return out
	}
	for s, to := range counted {
		if s >= len(d.Slots) {
			break
		}
		out.BySlot[to] += d.Slots[s]
		if missing[s] {
			out.Missing += d.Slots[s]
		}
	}
	return out
}

// foldedSet brings a set of chosen answers to those under which they count.
func foldedSet(set uint64, counted []Slot) (out uint64) {
	for ; set != 0; set &= set - 1 {
		out |= 1 << counted[bits.TrailingZeros64(set)]
	}
	return out
}

// CountAnswers counts a question's column as Distribute does and reads it as Counts does.
func CountAnswers(q Question, c Column, of Sample) (*Counts, error) {
	d, err := Distribute(c, q.Slots(), of)
	if err != nil {
		return nil, fmt.Errorf("survey: question %q: %w", q.Name, err)
	}
	return q.Counts(d), nil
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
