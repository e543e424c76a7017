package survey

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// naive counts one row after the other as the definition says.
func naive(c Column, slots int, of Sample) *Distribution {
	d := &Distribution{}
	numbers, sets, seen := map[float64]int64{}, map[uint64]int64{}, map[string]bool{}
	if c.Sets == nil {
		d.Slots = make([]int64, slots)
	}
	for row := range c.Rows() {
		n := of.Counts(row)
		if d.Everyone += n; n == 0 {
			continue
		}
		switch {
		case c.U8 != nil:
			d.Slots[c.U8[row]] += n
		case c.U16 != nil:
			d.Slots[c.U16[row]] += n
		case c.Sets != nil:
			sets[c.Sets[row]] += n
		case c.F64 != nil:
			if slot, missing := MissingSlot(c.F64[row]); missing {
				d.Slots[slot] += n
			} else {
				numbers[c.F64[row]+0] += n
			}
		case c.Text[row] == "":
			d.Slots[Blank] += n
		case !seen[c.Text[row]]:
			seen[c.Text[row]] = true
			d.Texts = append(d.Texts, c.Text[row])
		}
	}
	for x, n := range numbers {
		d.Numbers = append(d.Numbers, Value{x, n})
	}
	for set, n := range sets {
		d.Sets = append(d.Sets, SetCount{set, n})
	}
	slices.SortFunc(d.Sets, func(a, b SetCount) int {
		if a.Chosen < b.Chosen {
			return -1
		}
		return 1
	})
	d.Numbers = Merged(d.Numbers)
	return d
}

// samples are all shapes of a sample: everyone, nobody, one, the first ones, the last ones,
// every other one, random ones of several densities, rows that stand for many, and both.
func samples(rows int, rng *rand.Rand) map[string]Sample {
	where := func(is func(row int) bool) *Set {
		s := NewSet(rows)
		s.where(is)
		return s
	}
	times := make([]int64, rows)
	for i := range times {
		times[i] = []int64{0, 1, 2, 1e13}[rng.IntN(4)]
	}
	half := where(func(int) bool { return rng.IntN(2) == 0 })
	return map[string]Sample{
		"everyone": {}, "nobody": {Subset: NewSet(rows)}, "all of them": {Subset: where(func(int) bool { return true })},
		"the last one": {Subset: where(func(row int) bool { return row == rows-1 })}, "the first third": {Subset: where(func(row int) bool { return row < rows/3 })},
		"the last third": {Subset: where(func(row int) bool { return row > rows-rows/3 })}, "every other one": {Subset: where(func(row int) bool { return row%2 == 1 })},
		"half": {Subset: half}, "few": {Subset: where(func(int) bool { return rng.IntN(70) == 0 })}, "most": {Subset: where(func(int) bool { return rng.IntN(300) > 0 })},
		"counts": {Frequency: times}, "half by counts": {Frequency: times, Subset: half},
	}
}

// The counts of every fast loop are those of a naive one: all widths, few and many answers,
// everybody alike, nobody answering, samples of every shape, counts to 10¹³.
func TestEveryWayOfCountingCountsTheSame(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(3, 8))
	check := func(name string, c Column, slots int) {
		for whom, of := range samples(c.Rows(), rng) {
			got, err := Distribute(c, slots, of)
			require.NoError(t, err, name)
			want := naive(c, slots, of)
			if len(got.Numbers) == 0 {
				got.Numbers = nil
			}
			if !assert.Equal(t, want, got, "%s, %d rows, %s", name, c.Rows(), whom) {
				t.FailNow()
			}
		}
	}
	for _, rows := range []int{1, 7, 64, 100, 3*block + 77, manyRows + 4099} {
		for _, answers := range []int{0, 1, 2, 5, 15, 16, 17, 40, 255} {
			for _, reach := range []int{1, answers + 1} { // all missing, all kinds of answers
				column := make([]uint8, rows)
				for i := range column {
					column[i] = uint8(rng.IntN(reach))
				}
				check(fmt.Sprint(answers, " answers in bytes"), Column{U8: column}, answers+1)
			}
			alike := slices.Repeat([]uint8{uint8(answers)}, rows)
			check(fmt.Sprint("all alike of ", answers), Column{U8: alike}, answers+1)
		}
		for _, answers := range []int{0, 2, 256, 300, SlotLimit - 1} {
			column := make([]uint16, rows)
			for i := range column {
				column[i] = uint16(rng.IntN(answers + 1))
			}
			check(fmt.Sprint(answers, " answers in two bytes"), Column{U16: column}, answers+1)
		}
		for _, items := range []int{0, 1, 8, 15, 16, MostSetItems} {
			column := make([]uint64, rows)
			for i := range column {
				if column[i] = rng.Uint64() & rng.Uint64() >> (63 - items) &^ 1; column[i] == 0 && rng.IntN(2) == 0 {
					column[i] = 1 // blank
				}
			}
			check(fmt.Sprint(items, " items"), Column{Sets: column}, items+1)
		}
		for name, number := range map[string]func() float64{
			"whole numbers": func() float64 { return float64(rng.IntN(80)) - 20 }, "alike": func() float64 { return -2.5 },
			"all different": rng.NormFloat64, "far apart": func() float64 { return math.Ldexp(rng.Float64()-0.5, rng.IntN(400)-200) },
			"both zeros": func() float64 { return math.Copysign(0, rng.Float64()-0.5) }, "missing": func() float64 { return MissingNumber(2) },
		} {
			column := make([]float64, rows)
			for i := range column {
				if column[i] = number(); rng.IntN(9) == 0 {
					column[i] = MissingNumber(Slot(rng.IntN(3)))
				}
			}
			check(name, Column{F64: column}, 3)
		}
		texts := make([]string, rows)
		for i := range texts {
			texts[i] = []string{"", "yes", "no", fmt.Sprint(rng.IntN(50))}[rng.IntN(4)]
		}
		check("texts", Column{Text: texts}, 1)
	}
}

// What a column holds beyond its question's answers is found by every loop.
func TestDamagedColumnsAreTold(t *testing.T) {
	t.Parallel()
	for _, rows := range []int{5, 3*block + 5, manyRows + 4} {
		for _, slots := range []int{2, 16, 17, 200} {
			for _, of := range []Sample{{}, {Frequency: slices.Repeat([]int64{1}, rows)}} {
				bytes, wide, sets, numbers := make([]uint8, rows), make([]uint16, rows), make([]uint64, rows), make([]float64, rows)
				bytes[rows-2], wide[rows-2], sets[rows-2], numbers[rows-2] = uint8(slots), uint16(slots), 1<<min(slots, 60), MissingNumber(Slot(slots))
				for _, c := range []Column{{U8: bytes}, {U16: wide}, {Sets: sets}, {F64: numbers}} {
					_, err := Distribute(c, slots, of)
					assert.Equal(t, c.Sets != nil && slots > 60, err == nil, "%d rows, %d slots", rows, slots)
				}
			}
		}
	}
}

// A condition gives whom Kleene's logic gives, row by row, whichever loop finds them.
func TestConditionsOnAllWidths(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(5, 1))
	for range 400 {
		rows, slots := []int{1, 63, 64, 65, 1000}[rng.IntN(5)], []int{2, 5, 130, 250}[rng.IntN(4)]
		q := Question{Kind: Discrete}
		for s := range slots {
			a := Answer{Slot: Slot(s), Code: fmt.Sprint(s)}
			if s == 0 || rng.IntN(6) == 0 {
				a.Missing = "refused"
			}
			q.Answers = append(q.Answers, a)
		}
		narrow, wide := make([]uint8, rows), make([]uint16, rows)
		for i := range narrow {
			s := rng.IntN(min(slots+3, 256)) // beyond the answers, too
			narrow[i], wide[i] = uint8(s), uint16(s)
		}
		leaf := func(id uint64) Condition {
			from, to := float64(rng.IntN(slots)), float64(rng.IntN(slots))
			c := Condition{Op: []Op{AnyOf, Between, Answered}[rng.IntN(3)], Question: id, From: &from, To: &to}
			for range 1 + rng.IntN(7) {
				c.Answers = append(c.Answers, Slot(rng.IntN(slots)))
			}
			if rng.IntN(2) == 0 {
				c = Condition{Op: Not, Of: []Condition{c}}
			}
			return c
		}
		c := Condition{Op: []Op{And, Or}[rng.IntN(2)], Of: []Condition{leaf(1), leaf(2), leaf(1)}}
		if rng.IntN(2) == 0 {
			c = Condition{Op: Not, Of: []Condition{c}}
		}
		in, err := c.Evaluate(rows, func(id uint64) (Source, error) {
			return Source{q, []Column{{U8: narrow}, {U16: wide}}[id-1]}, nil
		})
		require.NoError(t, err)
		for row := range rows {
			require.Equal(t, kleene(c, q, int(narrow[row])) == yes, in.Has(row), "%+v of slot %d", c, narrow[row])
		}
	}
}

// kleene evaluates a condition for one respondent by the truth tables.
func kleene(c Condition, q Question, slot int) truth {
	switch c.Op {
	case Not:
		return yes - kleene(c.Of[0], q, slot)
	case And, Or:
		out := kleene(c.Of[0], q, slot)
		for _, part := range c.Of[1:] {
			if c.Op == And {
				out = min(out, kleene(part, q, slot))
			} else {
				out = max(out, kleene(part, q, slot))
			}
		}
		return out
	}
	answered := slot < len(q.Answers) && q.Answers[slot].Missing == ""
	switch {
	case c.Op == Answered && answered:
		return yes
	case c.Op == Answered:
		return no
	case !answered:
		return unknown
	case c.Op == AnyOf && slices.Contains(c.Answers, Slot(slot)), c.Op == Between && *c.From <= float64(slot) && float64(slot) <= *c.To:
		return yes
	}
	return no
}

// Keys are sorted as the standard library sorts them: few and very many, all alike, of a few high
// bytes, one part far larger than the others, in order and the other way round.
func TestKeysAreSorted(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(21, 34))
	for _, n := range []int{0, 1, 1<<9 - 1, 1 << 12, nearKeys, nearKeys + 1, 3*nearKeys + 7, twoFrom/4 + 11} {
		for name, key := range map[string]func(i int) uint64{
			"any":                  func(int) uint64 { return rng.Uint64() },
			"alike":                func(int) uint64 { return 7 << 40 },
			"of three high bytes":  func(int) uint64 { return uint64(rng.IntN(3))<<61 | rng.Uint64N(1<<20) },
			"of one high part":     func(int) uint64 { return 5<<56 | 9<<48 | rng.Uint64N(1<<48) },
			"mostly in one part":   func(i int) uint64 { return map[bool]uint64{true: 200, false: 3}[i%1000 == 0]<<56 | rng.Uint64N(1<<50) },
			"few different":        func(int) uint64 { return uint64(rng.IntN(5)) * 0x1234_5678_9abc_def1 },
			"in order":             func(i int) uint64 { return uint64(i) << 20 },
			"the other way round":  func(i int) uint64 { return ^uint64(i) },
			"numbers of all sizes": func(int) uint64 { return keyOf(math.Ldexp(rng.Float64()-0.5, rng.IntN(600)-300)) },
		} {
			keys := make([]uint64, n)
			for i := range keys {
				keys[i] = key(i)
			}
			want := slices.Clone(keys)
			slices.Sort(want)
			require.True(t, slices.Equal(want, sortedKeys(keys)), "%d keys, %s", n, name)
		}
	}
	for _, x := range []float64{math.Inf(-1), -1e300, -2, -math.SmallestNonzeroFloat64, 0, math.SmallestNonzeroFloat64, 2, 1e300, math.Inf(1)} {
		assert.Equal(t, x, numberOf(keyOf(x)))
	}
}
