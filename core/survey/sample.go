package survey

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
	s.Times(0, rows, func(_ int, times []int64) {
		for _, t := range times {
			n += t
		}
	})
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

// Times calls f with blocks of the rows from one on, a multiple of 64, to before another, in
// order, and the respondents that each row counts for, 0 for who is not in the subset; f must
// not keep them. The first row of a block is a multiple of 64.
func (s Sample) Times(from, before int, f func(from int, times []int64)) {
	const at = 2048
	var some [at]int64
	for ; from < before; from += at {
		to := min(from+at, before)
		switch {
		case s.Subset == nil && s.Frequency != nil:
			f(from, s.Frequency[from:to])
			continue
		case s.Frequency != nil:
			for i, n := range s.Frequency[from:to] {
				some[i] = n & -int64(s.Subset.Bit(from+i))
			}
		default:
			for i := range to - from {
				some[i] = 1
				if s.Subset != nil {
					some[i] = int64(s.Subset.Bit(from + i))
				}
			}
		}
		f(from, some[:to-from])
	}
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
	s.Subset.each(one)
}
