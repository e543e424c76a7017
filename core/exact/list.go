package exact

import (
	"cmp"
	"slices"
	"sort"
)

// entry is a group of part-outcomes of the same probability: the probability of
// each and of all together.
type entry struct{ each, all float64 }

// list is a set of part-outcomes by rising probability, with running totals.
type list struct {
	each []float64
	upTo []float64 // upTo[i] is the total of the first i entries
}

// run is the length of what is sorted between two looks at the context.
const run = 1 << 15

// sorted puts entries into rising order by runs that are sorted and then merged, so
// that a caller who has gone away need not wait for a long list.
func sorted(entries []entry, m *meter) ([]entry, error) {
	for from := 0; from < len(entries); from += run {
		part := entries[from:min(from+run, len(entries))]
		slices.SortFunc(part, func(a, b entry) int { return cmp.Compare(a.each, b.each) })
		if err := m.spend(int64(16 * len(part))); err != nil {
			return nil, err
		}
	}
	if len(entries) <= run {
		return entries, nil
	}
	other := make([]entry, 0, len(entries))
	for width := run; width < len(entries); width *= 2 {
		other = other[:0]
		for from := 0; from < len(entries); from += 2 * width {
			a := entries[from:min(from+width, len(entries))]
			b := entries[min(from+width, len(entries)):min(from+2*width, len(entries))]
			for len(a) > 0 && len(b) > 0 {
				if b[0].each < a[0].each {
					other, b = append(other, b[0]), b[1:]
				} else {
					other, a = append(other, a[0]), a[1:]
				}
				if err := m.spend(2); err != nil {
					return nil, err
				}
			}
			other = append(append(other, a...), b...)
		}
		entries, other = other, entries
	}
	return entries, nil
}

// newList sorts entries and joins those equal within rounding.
func newList(entries []entry, m *meter) (list, error) {
	entries, err := sorted(entries, m)
	if err != nil {
		return list{}, err
	}
	// Different products of the same factors differ by rounding only, some 1e-15;
	// unequal ones by more than Slack. Joining at 1e-11 is between.
	const rounding = 1 + 1e-11
	l := list{upTo: []float64{0}}
	var running sum
	for i := 0; i < len(entries); {
		first := entries[i].each
		for ; i < len(entries) && entries[i].each <= first*rounding; i++ {
			running.add(entries[i].all)
		}
		l.each, l.upTo = append(l.each, first), append(l.upTo, running.value())
	}
	return l, nil
}

// single is the list of one part-outcome that is certain.
func single() list { return list{each: []float64{1}, upTo: []float64{0, 1}} }

func (l list) total() float64 { return l.upTo[len(l.upTo)-1] }

// atMost returns the total of the entries that are at most x.
func (l list) atMost(x float64) float64 {
	return l.upTo[sort.Search(len(l.each), func(i int) bool { return l.each[i] > x })]
}

// pairsAtMost returns the total probability of the pairs of an entry of a and one of
// b whose product is at most limit, and the steps it took. It never goes through
// pairs: two hands walk the lists in opposite directions.
func pairsAtMost(a, b list, limit float64) (total float64, steps int64) {
	if len(a.each) == 0 || len(b.each) == 0 {
		return 0, 1
	}
	if len(a.each) > len(b.each) {
		a, b = b, a
	}
	smallest, largest := b.each[0], b.each[len(b.each)-1]
	// Entries of a up to whole go with all of b, those from none on with nothing.
	whole := sort.Search(len(a.each), func(i int) bool { return a.each[i]*largest > limit })
	none := whole + sort.Search(len(a.each)-whole, func(i int) bool { return a.each[whole+i]*smallest > limit })
	total = a.upTo[whole] * b.total()
	if none-whole < 8 || (none-whole)*16 < len(b.each) {
		for i := whole; i < none; i++ {
			total += (a.upTo[i+1] - a.upTo[i]) * b.atMost(limit/a.each[i])
		}
		return total, int64(4 + 16*(none-whole))
	}
	j := len(b.each)
	for i := whole; i < none; i++ {
		each := a.each[i]
		for j > 0 && each*b.each[j-1] > limit {
			j--
		}
		total += (a.upTo[i+1] - a.upTo[i]) * b.upTo[j]
	}
	return total, int64(4 + none - whole + len(b.each) - j)
}
