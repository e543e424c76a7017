package survey

import "encoding/binary"

// count8 counts bytes. Where the slots are few, two or four neighbouring answers are counted
// together, as one of their combinations; a column that holds slots beyond those is counted
// one by one.
func count8(column []uint8, slots int) [256]int64 {
	switch {
	case slots <= 4:
		return countQuads(column)
	case slots <= 8:
		return countFours(column)
	case slots <= 16:
		return countPairs(column)
	}
	return count8Each(column)
}

// countQuads counts answers of up to 2 bits, four at a time, in 256 combinations.
func countQuads(column []uint8) (counts [256]int64) {
	var a, b, c, d [256]int64
	whole, beyond := column[:len(column)&^15], uint64(0)
	for rest := whole; len(rest) >= 16; rest = rest[16:] {
		q := rest[:16:16]
		v, w := binary.LittleEndian.Uint64(q), binary.LittleEndian.Uint64(q[8:])
		beyond |= v | w
		v = (v | v>>6) & 0x000f000f000f000f // pairs of 4 bits
		w = (w | w>>6) & 0x000f000f000f000f
		v |= v >> 12 // fours of 8 bits, in the lower half of each half
		w |= w >> 12
		a[v&255]++
		b[v>>32&255]++
		c[w&255]++
		d[w>>32&255]++
	}
	if beyond&0xfcfcfcfcfcfcfcfc != 0 {
		return count8Each(column)
	}
	for i := range a {
		n := a[i] + b[i] + c[i] + d[i]
		counts[i&3] += n
		counts[i>>2&3] += n
		counts[i>>4&3] += n
		counts[i>>6] += n
	}
	for _, x := range column[len(whole):] {
		counts[x]++
	}
	return counts
}

// fold is after how many bytes the small tables of countFours are added up, so that none of
// their counts can run over: sixteen bytes add at most two to each.
const fold = 8 * 65_520

// countFours counts answers of up to 3 bits, four at a time: 4,096 combinations, in two small
// tables that take turns and fit into the nearest memory together.
func countFours(column []uint8) (counts [256]int64) {
	var a, b [4096]uint16
	whole, beyond := column[:len(column)&^15], uint64(0)
	for rest := whole; len(rest) > 0; {
		part := rest[:min(fold, len(rest))]
		rest = rest[len(part):]
		for ; len(part) >= 16; part = part[16:] {
			q := part[:16:16]
			v, w := binary.LittleEndian.Uint64(q), binary.LittleEndian.Uint64(q[8:])
			beyond |= v | w
			v = (v | v>>5) & 0x003f003f003f003f // pairs of 6 bits
			w = (w | w>>5) & 0x003f003f003f003f
			v |= v >> 10 // fours of 12 bits, in the lower half of each half
			w |= w >> 10
			a[v&4095]++
			b[v>>32&4095]++
			a[w&4095]++
			b[w>>32&4095]++
		}
		if beyond&0xf8f8f8f8f8f8f8f8 != 0 {
			return count8Each(column)
		}
		for i := range a {
			n := int64(a[i]) + int64(b[i])
			counts[i&7] += n
			counts[i>>3&7] += n
			counts[i>>6&7] += n
			counts[i>>9] += n
			a[i], b[i] = 0, 0
		}
	}
	for _, x := range column[len(whole):] {
		counts[x]++
	}
	return counts
}

// countPairs counts answers of up to 4 bits, two at a time.
func countPairs(column []uint8) (counts [256]int64) {
	var a, b, c, d [256]int64
	whole, beyond := column[:len(column)&^15], uint64(0)
	for rest := whole; len(rest) >= 16; rest = rest[16:] {
		q := rest[:16:16]
		v, w := binary.LittleEndian.Uint64(q), binary.LittleEndian.Uint64(q[8:])
		beyond |= v | w
		v |= v >> 4
		w |= w >> 4
		a[v&255]++
		b[v>>16&255]++
		c[v>>32&255]++
		d[v>>48&255]++
		a[w&255]++
		b[w>>16&255]++
		c[w>>32&255]++
		d[w>>48&255]++
	}
	if beyond&0xf0f0f0f0f0f0f0f0 != 0 {
		return count8Each(column)
	}
	for i := range a {
		n := a[i] + b[i] + c[i] + d[i]
		counts[i&15] += n
		counts[i>>4] += n
	}
	for _, x := range column[len(whole):] {
		counts[x]++
	}
	return counts
}

// count8Each counts bytes with eight sub-histograms, so that one increment does not wait for
// the last one when neighbours gave the same answer.
func count8Each(column []uint8) [256]int64 {
	var h [8][256]int64
	rest := column
	for ; len(rest) >= 8; rest = rest[8:] {
		w := binary.LittleEndian.Uint64(rest)
		h[0][w&255]++
		h[1][w>>8&255]++
		h[2][w>>16&255]++
		h[3][w>>24&255]++
		h[4][w>>32&255]++
		h[5][w>>40&255]++
		h[6][w>>48&255]++
		h[7][w>>56]++
	}
	for _, x := range rest {
		h[0][x]++
	}
	for s := range 256 {
		for k := 1; k < 8; k++ {
			h[0][s] += h[k][s]
		}
	}
	return h[0]
}
