package survey

import (
	"cmp"
	"slices"
)

// Part is the sample among the rows from one up to another; from is a multiple of 64.
func (s Sample) Part(from, to int) Sample {
	out := Sample{}
	if s.Frequency != nil {
		out.Frequency = s.Frequency[from:to]
	}
	if s.Subset != nil {
		out.Subset = s.Subset.part(from, to)
	}
	return out
}

func (s *Set) part(from, to int) *Set {
	out := NewSet(to - from)
	copy(out.words, s.words[from/64:])
	if rest := out.rows % 64; rest != 0 {
		out.words[len(out.words)-1] &= 1<<rest - 1
	}
	return out
}

// Plus brings the distributions of a question among different rows together, those of d before those of e. A nil one is
// that of no rows.
func (d *Distribution) Plus(e *Distribution) *Distribution {
	switch {
	case d == nil:
		return e
	case e == nil:
		return d
	}
	out := &Distribution{Everyone: d.Everyone + e.Everyone}
	if d.Slots != nil || e.Slots != nil {
		out.Slots = make([]int64, max(len(d.Slots), len(e.Slots)))
		for _, one := range []*Distribution{d, e} {
			for slot, n := range one.Slots {
				out.Slots[slot] += n
			}
		}
	}
	if d.Numbers != nil || e.Numbers != nil {
		out.Numbers = Merged(slices.Concat(d.Numbers, e.Numbers))
	}
	sets := slices.Concat(d.Sets, e.Sets)
	slices.SortFunc(sets, func(a, b SetCount) int { return cmp.Compare(a.Chosen, b.Chosen) })
	for _, s := range sets {
		if last := len(out.Sets) - 1; last >= 0 && out.Sets[last].Chosen == s.Chosen {
			out.Sets[last].Count += s.Count
		} else {
			out.Sets = append(out.Sets, s)
		}
	}
	seen := make(map[string]bool, len(d.Texts))
	for _, list := range [][]string{d.Texts, e.Texts} {
		for _, text := range list {
			if !seen[text] {
				seen[text] = true
				out.Texts = append(out.Texts, text)
			}
		}
	}
	return out
}
