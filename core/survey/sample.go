package survey

import "math/bits"

// Set is a set of rows, a bit each. A nil set holds every row.
type Set struct {
	words []uint64
	rows  int
}

// NewSet returns an empty set among so many rows.
func NewSet(rows int) *Set { return &Set{make([]uint64, (rows+63)/64), rows} }

// Add puts a row into the set.
func (s *Set) Add(row int) { s.words[row/64] |= 1 << (row % 64) }

// Has reports whether a row is in the set.
func (s *Set) Has(row int) bool { return s == nil || s.words[row/64]>>(row%64)&1 == 1 }

// Count returns how many rows are in the set.
func (s *Set) Count() (n int) {
	for _, w := range s.words {
		n += bits.OnesCount64(w)
	}
	return n
}

// Without returns the rows that are not in the set.
func (s *Set) Without() *Set {
	out := NewSet(s.rows)
	for i, w := range s.words {
		out.words[i] = ^w
	}
	if rest := s.rows % 64; rest != 0 {
		out.words[len(out.words)-1] &= 1<<rest - 1
	}
	return out
}

// And returns the rows that are in both sets; nil holds every row.
func (s *Set) And(other *Set) *Set {
	switch {
	case other == nil:
		return s
	case s == nil:
		return other
	}
	out := NewSet(s.rows)
	for i, w := range s.words {
		out.words[i] = w & other.words[i]
	}
	return out
}

// Word returns 64 rows of the set, the first in the lowest bit.
func (s *Set) Word(at int) uint64 { return s.words[at] }

// Bytes estimates the memory that the set holds.
func (s *Set) Bytes() int { return 8 * len(s.words) }

// Sample says which rows of a study are counted and how many respondents each stands
// for. The zero value counts every row once. Weights, strata and clusters will join it; a
// tally takes the sample, never rows.
type Sample struct {
	// Subset holds the rows that are counted; nil means all.
	Subset *Set
	// Frequency holds per row the respondents it stands for; nil means one each.
	Frequency []int64
}

// Fits reports whether the sample is one of so many rows.
func (s Sample) Fits(rows int) bool {
	return (s.Frequency == nil || len(s.Frequency) == rows) && (s.Subset == nil || s.Subset.rows == rows)
}

// plain reports whether every row counts once.
func (s Sample) plain() bool { return s.Subset == nil && s.Frequency == nil }

// Number returns how many respondents so many rows stand for.
func (s Sample) Number(rows int) int64 {
	switch {
	case s.plain():
		return int64(rows)
	case s.Frequency == nil:
		return int64(s.Subset.Count())
	}
	var n int64
	s.Each(rows, func(_ int, times int64) { n += times })
	return n
}

// Counts returns how many respondents of a row are counted.
func (s Sample) Counts(row int) int64 {
	switch {
	case !s.Subset.Has(row):
		return 0
	case s.Frequency != nil:
		return s.Frequency[row]
	}
	return 1
}

// Each calls f for each row that is counted, in order, with the respondents that it
// stands for.
func (s Sample) Each(rows int, f func(row int, times int64)) {
	one := func(row int) {
		if s.Frequency == nil {
			f(row, 1)
		} else if n := s.Frequency[row]; n > 0 {
			f(row, n)
		}
	}
	if s.Subset == nil {
		for i := range rows {
			one(i)
		}
		return
	}
	for w, word := range s.Subset.words {
		for ; word != 0; word &= word - 1 {
			one(w*64 + bits.TrailingZeros64(word))
		}
	}
}
