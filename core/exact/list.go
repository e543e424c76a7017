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

// rounding is the relative margin within which two probabilities are the same: different
// products of the same factors differ by rounding only, some 1e-15; unequal ones by more than
// Slack.
const rounding = 1 + 1e-11

// run is the length of what is sorted between two looks at the context.
const run = 1 << 15

// newList sorts entries and joins those equal within rounding.
func newList(entries []entry, m *meter) (list, error) {
	r := runs{entries: entries}
	for from := 0; from < len(entries); from += run {
		part := entries[from:min(from+run, len(entries))]
		slices.SortFunc(part, func(a, b entry) int { return cmp.Compare(a.each, b.each) })
		r.starts = append(r.starts, from)
		if err := m.spend(int64(16 * len(part))); err != nil {
			return list{}, err
		}
	}
	return r.list(m)
}

// runs are entries in stretches, each by rising probability.
type runs struct {
	entries []entry
	starts  []int
}

// add adds the entries of a list, each a step further.
func (r *runs) add(l list, chance, orders float64) {
	if len(l.each) == 0 {
		return
	}
	r.starts = append(r.starts, len(r.entries))
	for i, each := range l.each {
		r.entries = append(r.entries, entry{each * chance, (l.upTo[i+1] - l.upTo[i]) * chance * orders})
	}
}

func (r *runs) clear() { *r = runs{} }

// list merges the stretches, two at a time; entries of the same probability become one.
func (r *runs) list(m *meter) (list, error) {
	from, starts := r.entries, r.starts
	into := make([]entry, 0, len(from))
	for first := true; len(starts) > 1 || first && len(starts) == 1; first = false {
		var next []int
		into = into[:0]
		for i := 0; i < len(starts); i += 2 {
			end := func(k int) int {
				if k < len(starts) {
					return starts[k]
				}
				return len(from)
			}
			next = append(next, len(into))
			a, b := from[starts[i]:end(i+1)], []entry(nil)
			if i+1 < len(starts) {
				b = from[starts[i+1]:end(i+2)]
			}
			into = merge(into, a, b)
			if err := m.spend(int64(2 * (len(a) + len(b)))); err != nil {
				return list{}, err
			}
		}
		from, into, starts = into, from, next
	}
	l := list{each: make([]float64, 0, len(from)), upTo: make([]float64, 1, len(from)+1)}
	var running sum
	for _, e := range from {
		running.add(e.all)
		l.each, l.upTo = append(l.each, e.each), append(l.upTo, running.value())
	}
	return l, nil
}

// merge appends two stretches as one, entries within rounding joined.
func merge(out, a, b []entry) []entry {
	first := len(out)
	for len(a) > 0 || len(b) > 0 {
		var e entry
		if len(b) == 0 || len(a) > 0 && a[0].each <= b[0].each {
			e, a = a[0], a[1:]
		} else {
			e, b = b[0], b[1:]
		}
		if last := len(out) - 1; last >= first && e.each <= out[last].each*rounding {
			out[last].all += e.all
		} else {
			out = append(out, e)
		}
	}
	return out
}

// between gives the entries that are at most low, and those that are at most high, by their
// numbers.
func (l list) between(low, high float64) (whole, none int) {
	whole = sort.Search(len(l.each), func(i int) bool { return l.each[i] > low })
	return whole, max(whole, sort.Search(len(l.each), func(i int) bool { return l.each[i] > high }))
}

// slice is some of the entries with their running totals as they are.
func (l list) slice(from, to int) list { return list{each: l.each[from:to], upTo: l.upTo[from : to+1]} }

// part is a list of some of the entries.
func (l list) part(from, to int) list {
	if from == to {
		return list{upTo: []float64{0}}
	}
	out := list{each: l.each[from:to], upTo: make([]float64, to-from+1)}
	for i := range out.upTo {
		out.upTo[i] = l.upTo[from+i] - l.upTo[from]
	}
	return out
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
