package survey

import (
	"cmp"
	"slices"
)

// manyRows is from how many rows tables of every wide slot pay.
const manyRows = 1 << 16

// wide are four tables of counts by two bytes, which take turns. None of their counts runs
// over before drain, which comes at the latest after 1<<31 additions.
type wide [4][1 << 16]uint32

func (w *wide) drain(counts []int64) {
	for s := range counts {
		counts[s] += int64(w[0][s]) + int64(w[1][s]) + int64(w[2][s]) + int64(w[3][s])
	}
	clear(w[0][:])
	clear(w[1][:])
	clear(w[2][:])
	clear(w[3][:])
}

// masked copies values, those of the rows from one on; who is not in the set gets 0. It
// returns the copies and how many have been left out.
func masked[T uint16 | uint64](to *[block]T, column []T, in *Set, from int) ([]T, int64) {
	for i, x := range column {
		to[i] = x & -T(in.Bit(from+i))
	}
	return to[:len(column)], int64(len(column) - in.Among(from, from+len(column)))
}

// countLow counts the values of the rows from one on to before another by their lower two bytes.
// Who is not in the subset is read as 0 and taken off its count again. It returns all bits
// that occur.
func countLow[T uint16 | uint64](column []T, in *Set, from, to int, counts []int64) (bits uint64) {
	var some [block]T
	tables, since := new(wide), 0
	for ; from < to; from += block {
		part := column[from:min(from+block, to)]
		if in != nil {
			left := int64(0)
			part, left = masked(&some, part, in, from)
			counts[0] -= left
		}
		if since += len(part); since > 1<<31 {
			tables.drain(counts)
			since = len(part)
		}
		for ; len(part) >= 4; part = part[4:] {
			a, b, c, d := part[0], part[1], part[2], part[3]
			bits |= uint64(a | b | c | d)
			tables[0][uint16(a)]++
			tables[1][uint16(b)]++
			tables[2][uint16(c)]++
			tables[3][uint16(d)]++
		}
		for _, x := range part {
			bits |= uint64(x)
			tables[0][uint16(x)]++
		}
	}
	tables.drain(counts)
	return bits
}

// count16 counts answers of two bytes. The result has room for every slot that two bytes can
// hold, so that a damaged column is found after the loop and not in it.
func count16(column []uint16, of Sample) []int64 {
	counts := make([]int64, SlotLimit)
	switch {
	case of.Frequency != nil:
		of.Times(0, len(column), func(from int, times []int64) {
			for i, x := range column[from:][:len(times)] {
				counts[x] += times[i]
			}
		})
	case len(column) < manyRows:
		of.Each(len(column), func(row int, _ int64) { counts[column[row]]++ })
	default:
		var parts [2][]int64
		Halves(len(column), func(half, from, to int) {
			parts[half] = make([]int64, SlotLimit)
			countLow(column, of.Subset, from, to, parts[half])
		})
		for _, part := range parts {
			for s, n := range part {
				counts[s] += n
			}
		}
	}
	return counts
}

// countSets counts whole combinations of chosen answers. A column that holds a choice beyond
// those of the question tells of it.
func countSets(column []uint64, slots int, of Sample) (out []SetCount) {
	if slots > 16 || of.Frequency != nil || len(column) < manyRows {
		t := newDistinct()
		t.addAll(column, of)
		for _, e := range t.entries {
			if e.times > 0 {
				out = append(out, SetCount{e.key, e.times})
			}
		}
		slices.SortFunc(out, func(a, b SetCount) int { return cmp.Compare(a.Chosen, b.Chosen) })
		return out
	}
	var parts [2][]int64
	var found [2]uint64
	Halves(len(column), func(half, from, to int) {
		parts[half] = make([]int64, SlotLimit)
		found[half] = countLow(column, of.Subset, from, to, parts[half])
	})
	if all := found[0] | found[1]; all>>slots != 0 {
		return []SetCount{{all, 1}}
	}
	for set := range uint64(1) << slots {
		n := parts[0][set]
		if parts[1] != nil {
			n += parts[1][set]
		}
		if n > 0 {
			out = append(out, SetCount{set, n})
		}
	}
	return out
}
