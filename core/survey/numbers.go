package survey

import (
	"math"
	"slices"
	"sync"
)

// fewNumbers is up to how many different numbers a column of numbers is counted in a table;
// one with more is sorted.
const fewNumbers = 1 << 14

// countNumbers lists the different numbers of a column and counts the missing ones by slot.
func countNumbers(column []float64, of Sample, slots []int64) []Value {
	if of.Frequency == nil && of.Subset != nil {
		chosen := make([]float64, 0, of.Subset.Count())
		of.Subset.each(func(row int) { chosen = append(chosen, column[row]) })
		column, of = chosen, Sample{}
	}
	most := math.MaxInt // counted rows are not sorted: their counts would have to move with them
	if of.Frequency == nil {
		most = fewNumbers
	}
	t, keys := newDistinct(), []uint64(nil)
	if t.addAllNumbers(column, of, most) {
		for _, e := range t.entries {
			if e.times > 0 {
				keys = append(keys, e.key)
			}
		}
	} else {
		t, keys = nil, make([]uint64, len(column))
		for i, x := range column {
			keys[i] = keyOf(x)
		}
	}
	keys = sortedKeys(keys)
	different := 0
	for i, k := range keys {
		if i == 0 || k != keys[i-1] {
			different++
		}
	}
	out := make([]Value, 0, different)
	for i := 0; i < len(keys); {
		key, times := keys[i], int64(0)
		if t != nil {
			times, i = t.times(key), i+1
		} else {
			for ; i < len(keys) && keys[i] == key; i++ {
				times++
			}
		}
		x := numberOf(key)
		if slot, missing := MissingSlot(x); missing {
			slots[slot] += times
		} else if !math.IsNaN(x) {
			out = append(out, Value{x, times})
		}
	}
	return out
}

// keyOf gives a number as a key that has its order, 0 and −0 the same one.
func keyOf(x float64) uint64 {
	b := math.Float64bits(x)
	if b == 1<<63 {
		b = 0
	}
	return b ^ (uint64(int64(b)>>63) | 1<<63)
}

func numberOf(key uint64) float64 {
	return math.Float64frombits(key ^ (uint64(^(int64(key) >> 63)) | 1<<63))
}

// nearKeys is how many keys are sorted within the nearer memory.
const nearKeys = 1 << 17

// sortedKeys sorts keys. Many are parted by their highest bytes until the parts are small
// enough for the nearer memory, and there sorted by one byte after the other from the last one
// (Knuth 1998, The art of computer programming 3, 5.2.5); bytes in which all agree are passed
// over.
func sortedKeys(keys []uint64) []uint64 {
	if len(keys) < 1<<12 {
		slices.Sort(keys)
		return keys
	}
	partKeys(keys, make([]uint64, len(keys)), 56)
	return keys
}

// partKeys sorts keys that agree in all bits above a byte; spare has their length.
func partKeys(keys, spare []uint64, shift int) {
	switch {
	case len(keys) < 1<<9:
		slices.Sort(keys)
		return
	case len(keys) <= nearKeys || shift == 0:
		sortBytes(keys, spare, shift)
		return
	}
	var ends [256]int
	for _, k := range keys {
		ends[k>>shift&255]++
	}
	so, most := 0, 0
	for i, n := range ends {
		most = max(most, n)
		ends[i] = so
		so += n
	}
	if most == len(keys) {
		partKeys(keys, spare, shift-8)
		return
	}
	for _, k := range keys {
		to := &ends[k>>shift&255]
		spare[*to] = k
		*to++
	}
	copy(keys, spare)
	work := func(first, last int) {
		from := 0
		if first > 0 {
			from = ends[first-1]
		}
		for _, to := range ends[first:last] {
			partKeys(keys[from:to], spare[from:to], shift-8)
			from = to
		}
	}
	if len(keys) < twoFrom/4 {
		work(0, 256)
		return
	}
	middle, _ := slices.BinarySearch(ends[:], len(keys)/2)
	var second sync.WaitGroup
	second.Go(func() { work(middle, 256) })
	work(0, middle)
	second.Wait()
}

// sortBytes sorts by the bytes up to one.
func sortBytes(keys, spare []uint64, highest int) {
	var at [8][256]int
	for _, k := range keys {
		at[0][k&255]++
		at[1][k>>8&255]++
		at[2][k>>16&255]++
		at[3][k>>24&255]++
		at[4][k>>32&255]++
		at[5][k>>40&255]++
		at[6][k>>48&255]++
		at[7][k>>56]++
	}
	from, to := keys, spare
	for shift := 0; shift <= highest; shift += 8 {
		places, sum, alike := &at[shift/8], 0, false
		for i, n := range places {
			alike = alike || n == len(keys)
			places[i] = sum
			sum += n
		}
		if alike {
			continue
		}
		for _, k := range from {
			place := &places[k>>shift&255]
			to[*place] = k
			*place++
		}
		from, to = to, from
	}
	if &from[0] != &keys[0] {
		copy(keys, from)
	}
}

// distinct counts keys in a table with open addressing. An entry without times is free.
type distinct struct {
	entries []keyCount
	shift   int // 64 less the bits of a place
	used    int
}

type keyCount struct {
	key   uint64
	times int64
}

func newDistinct() *distinct { return &distinct{make([]keyCount, 1<<10), 64 - 10, 0} }

// place is where a key stands or would stand (Knuth 1998, The art of computer programming 3,
// 6.4, multiplicative hashing).
func (t *distinct) place(key uint64) *keyCount {
	mask := len(t.entries) - 1
	for i := int(key * 0x9e37_79b9_7f4a_7c15 >> t.shift); ; i++ {
		if e := &t.entries[i&mask]; e.key == key || e.times == 0 {
			return e
		}
	}
}

func (t *distinct) times(key uint64) int64 { return t.place(key).times }

func (t *distinct) add(key uint64, times int64) {
	e := t.place(key)
	if e.times == 0 {
		if t.used++; 4*t.used > len(t.entries) {
			t.grow()
			e = t.place(key)
		}
		e.key = key
	}
	e.times += times
}

func (t *distinct) grow() {
	old := t.entries
	t.entries, t.shift = make([]keyCount, 4*len(old)), t.shift-2
	for _, e := range old {
		if e.times > 0 {
			*t.place(e.key) = e
		}
	}
}

func (t *distinct) addAll(column []uint64, of Sample) {
	of.Each(len(column), func(row int, times int64) { t.add(column[row], times) })
}

// addAllNumbers tells whether there were no more than so many different numbers.
func (t *distinct) addAllNumbers(column []float64, of Sample, most int) bool {
	if !of.plain() {
		of.Each(len(column), func(row int, times int64) { t.add(keyOf(column[row]), times) })
		return true
	}
	for _, x := range column {
		key := keyOf(x)
		if e := &t.entries[key*0x9e37_79b9_7f4a_7c15>>t.shift]; e.key == key && e.times > 0 {
			e.times++
			continue
		}
		if t.add(key, 1); t.used > most {
			return false
		}
	}
	return true
}
