package survey

import (
	"bytes"
	"encoding/binary"
	"runtime"
	"sync"
)

// block is how many answers are counted at a time: few enough to stay in the nearest memory
// while they are read once for each answer, a multiple of 64.
const block = 16 << 10

// fewSlots is up to how many answers looking for each by itself beats reading each once.
const fewSlots = 16

// twoFrom is from how many rows on a second goroutine pays.
const twoFrom = 4_000_000

// Halves has rows looked at, those of large columns by two goroutines at once. Each part begins
// at a multiple of block.
func Halves(rows int, look func(half, from, to int)) {
	if rows < twoFrom || runtime.GOMAXPROCS(0) < 2 {
		look(0, 0, rows)
		return
	}
	middle := rows / 2 / block * block
	var second sync.WaitGroup
	second.Go(func() { look(1, middle, rows) })
	look(0, 0, middle)
	second.Wait()
}

// count8 counts bytes.
func count8(column []uint8, slots int, of Sample) (counts [256]int64) {
	var parts [2][256]int64
	Halves(len(column), func(half, from, to int) {
		switch {
		case of.Frequency != nil:
			parts[half] = timed8(column, of, from, to)
		case slots <= fewSlots:
			masked8(column, of.Subset, from, to, &parts[half], func(part []uint8) { countEach(part, slots, &parts[half]) })
		default:
			var h histograms
			masked8(column, of.Subset, from, to, &h[0], h.add)
			parts[half] = h.sum()
		}
	})
	for s := range counts {
		counts[s] = parts[0][s] + parts[1][s]
	}
	return counts
}

// masked8 has blocks of bytes counted. Who is not in a subset is read as the blank answer and
// taken off it again in counts.
func masked8(column []uint8, in *Set, from, to int, counts *[256]int64, count func(part []uint8)) {
	var masked [block]uint8
	for ; from < to; from += block {
		part := column[from:min(from+block, to)]
		if in != nil {
			n := in.Among(from, from+len(part))
			if n == 0 {
				continue
			}
			if n < len(part) {
				in.Mask(masked[:len(part)], part, from)
				part = masked[:len(part)]
				counts[Blank] -= int64(len(part) - n)
			}
		}
		count(part)
	}
}

// everyByteValue holds each value of a byte, to look for.
var everyByteValue = func() (all [256]byte) {
	for i := range all {
		all[i] = byte(i)
	}
	return all
}()

// countEach looks for each answer by itself, which the standard library does many bytes at a
// time, until every respondent has been found.
func countEach(part []uint8, slots int, counts *[256]int64) {
	found := 0
	for s := 0; s < slots && found < len(part); s++ {
		n := bytes.Count(part, everyByteValue[s:s+1])
		counts[s] += int64(n)
		found += n
	}
	if found < len(part) { // a damaged column: what it holds beyond is told
		for _, x := range part {
			if int(x) >= slots {
				counts[x]++
			}
		}
	}
}

// histograms are eight, so that one increment does not wait for the last one when neighbours
// gave the same answer.
type histograms [8][256]int64

func (h *histograms) add(part []uint8) {
	for ; len(part) >= 8; part = part[8:] {
		w := binary.LittleEndian.Uint64(part)
		h[0][w&255]++
		h[1][w>>8&255]++
		h[2][w>>16&255]++
		h[3][w>>24&255]++
		h[4][w>>32&255]++
		h[5][w>>40&255]++
		h[6][w>>48&255]++
		h[7][w>>56]++
	}
	for _, x := range part {
		h[0][x]++
	}
}

func (h *histograms) sum() (counts [256]int64) {
	for k := range h {
		for s, n := range h[k] {
			counts[s] += n
		}
	}
	return counts
}

// timed8 counts bytes, each as often as its row says.
func timed8(column []uint8, of Sample, from, to int) (counts [256]int64) {
	var h [4][256]int64
	of.Times(from, to, func(from int, times []int64) {
		part, i := column[from:][:len(times)], 0
		for ; i+8 <= len(part) && i+8 <= len(times); i += 8 {
			w, t := binary.LittleEndian.Uint64(part[i:i+8]), (*[8]int64)(times[i:i+8])
			h[0][w&255] += t[0]
			h[1][w>>8&255] += t[1]
			h[2][w>>16&255] += t[2]
			h[3][w>>24&255] += t[3]
			h[0][w>>32&255] += t[4]
			h[1][w>>40&255] += t[5]
			h[2][w>>48&255] += t[6]
			h[3][w>>56] += t[7]
		}
		for ; i < len(part); i++ {
			h[0][part[i]] += times[i]
		}
	})
	for s := range counts {
		counts[s] = h[0][s] + h[1][s] + h[2][s] + h[3][s]
	}
	return counts
}
