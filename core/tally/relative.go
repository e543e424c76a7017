package tally

import "widetally/core/infer"

// Relative is counts with their shares of all, 0–1, and how both add up.
type Relative struct {
	N                      int64
	Counts, Cumulative     []int64
	Shares, CumulativeOf   []float64
	Missing                int64
	MissingShareOfEveryone float64
}

// RelativeFrequencies takes counts by answer, in their order, and how many gave none. Errors,
// all *infer.InputError: no answer, counts out of range, nobody counted.
func RelativeFrequencies(counts []int64, missing int64) (*Relative, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "frequency", Reason: why, Index: at}
	}
	r := &Relative{Counts: counts, Missing: missing}
	for i, n := range counts {
		switch {
		case n < 0:
			return nil, fail(infer.NegativeCount, i)
		case n > infer.MaxCount || r.N > infer.MaxCount-n:
			return nil, fail(infer.CountTooLarge, i)
		}
		r.N += n
		r.Cumulative = append(r.Cumulative, r.N)
	}
	switch {
	case missing < 0:
		return nil, fail(infer.NegativeCount, -1)
	case missing > infer.MaxCount:
		return nil, fail(infer.CountTooLarge, -1)
	case r.N == 0:
		return nil, fail(infer.NoObservations, -1)
	}
	for i, n := range counts {
		r.Shares = append(r.Shares, float64(n)/float64(r.N))
		r.CumulativeOf = append(r.CumulativeOf, float64(r.Cumulative[i])/float64(r.N))
	}
	r.MissingShareOfEveryone = float64(missing) / (float64(r.N) + float64(missing))
	return r, nil
}

// TableShares is a table of counts with its shares over every base, 0–1. A share of a row or
// a column in which nobody is is nil.
type TableShares struct {
	N                       int64
	RowTotals, ColumnTotals []int64
	OfRows, OfColumns       [][]*float64
	OfEveryone              [][]float64
}

// ShareTable takes a table row by row. Errors, all *infer.InputError: no cells, rows of
// unlike length, counts out of range, nobody counted.
func ShareTable(counts [][]int64) (*TableShares, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "crossings", Reason: why, Index: at}
	}
	if len(counts) == 0 || len(counts[0]) == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	t := &TableShares{RowTotals: make([]int64, len(counts)), ColumnTotals: make([]int64, len(counts[0]))}
	for i, row := range counts {
		if len(row) != len(counts[0]) {
			return nil, fail(CountsLength, i)
		}
		for j, n := range row {
			switch {
			case n < 0:
				return nil, fail(infer.NegativeCount, i)
			case n > infer.MaxCount || t.N > infer.MaxCount-n:
				return nil, fail(infer.CountTooLarge, i)
			}
			t.N, t.RowTotals[i], t.ColumnTotals[j] = t.N+n, t.RowTotals[i]+n, t.ColumnTotals[j]+n
		}
	}
	if t.N == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	share := func(n, base int64) *float64 {
		if base == 0 {
			return nil
		}
		x := float64(n) / float64(base)
		return &x
	}
	for i, row := range counts {
		ofRow, ofColumn, ofAll := make([]*float64, len(row)), make([]*float64, len(row)), make([]float64, len(row))
		for j, n := range row {
			ofRow[j], ofColumn[j], ofAll[j] = share(n, t.RowTotals[i]), share(n, t.ColumnTotals[j]), float64(n)/float64(t.N)
		}
		t.OfRows, t.OfColumns, t.OfEveryone = append(t.OfRows, ofRow), append(t.OfColumns, ofColumn), append(t.OfEveryone, ofAll)
	}
	return t, nil
}

// RespondentShares is the answers to a choose-all question within groups: shares of the
// respondents of each group, 0–1, which need not add to 1.
type RespondentShares struct {
	// Bases are the respondents of each group, and All of all groups together.
	Bases []int64
	All   int64
	// Shares holds a list for each group; nil where nobody is. OfAll is over all groups.
	Shares [][]float64
	OfAll  []float64
}

// ShareRespondents takes how many respondents of each group chose each answer, and how many
// respondents each group has. Errors, all *infer.InputError: no group, lists of unlike
// length, counts out of range, nobody in any group, ResponsesDisagree.
func ShareRespondents(counts [][]int64, bases []int64) (*RespondentShares, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "choose-all by group", Reason: why, Index: at}
	}
	if len(counts) == 0 || len(counts) != len(bases) {
		return nil, fail(CountsLength, -1)
	}
	if len(counts[0]) == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	s := &RespondentShares{Bases: bases, OfAll: make([]float64, len(counts[0]))}
	all := make([]int64, len(counts[0]))
	for g, list := range counts {
		switch {
		case len(list) != len(all):
			return nil, fail(CountsLength, g)
		case bases[g] < 0:
			return nil, fail(infer.NegativeCount, g)
		case bases[g] > infer.MaxCount || s.All > infer.MaxCount-bases[g]:
			return nil, fail(infer.CountTooLarge, g)
		}
		s.All += bases[g]
		var shares []float64
		for a, n := range list {
			switch {
			case n < 0:
				return nil, fail(infer.NegativeCount, g)
			case n > bases[g]:
				return nil, fail(ResponsesDisagree, g)
			}
			all[a] += n
			if bases[g] > 0 {
				shares = append(shares, float64(n)/float64(bases[g]))
			}
		}
		s.Shares = append(s.Shares, shares)
	}
	if s.All == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	for a, n := range all {
		s.OfAll[a] = float64(n) / float64(s.All)
	}
	return s, nil
}
