package tally

import "widetally/core/infer"

// Battery is several questions with the same answers, a row each.
type Battery struct {
	N []int64 // that answered each question
	// Shares are those of the answers, 0–1; nil for a question that nobody answered.
	Shares [][]float64
	// TopTwo and BottomTwo are the last two and the first two answers together; nil where
	// there are fewer than four answers, or nobody answered.
	TopTwo, BottomTwo []*float64
}

// ShareRows takes the counts of each question by answer. nets asks for the last two and the
// first two answers together, which mean something where the answers have an order. Errors,
// all *infer.InputError: no row, rows of unlike length, counts out of range.
func ShareRows(counts [][]int64, nets bool) (*Battery, error) {
	fail := func(why infer.Reason, at int) error {
		return &infer.InputError{Method: "battery", Reason: why, Index: at}
	}
	if len(counts) == 0 || len(counts[0]) == 0 {
		return nil, fail(infer.NoObservations, -1)
	}
	b := &Battery{}
	for i, row := range counts {
		if len(row) != len(counts[0]) {
			return nil, fail(CountsLength, i)
		}
		n := int64(0)
		for _, x := range row {
			switch {
			case x < 0:
				return nil, fail(infer.NegativeCount, i)
			case x > infer.MaxCount || n > infer.MaxCount-x:
				return nil, fail(infer.CountTooLarge, i)
			}
			n += x
		}
		var shares []float64
		var top, bottom *float64
		if n > 0 {
			for _, x := range row {
				shares = append(shares, float64(x)/float64(n))
			}
			if k := len(row); nets && k >= 4 {
				first, last := float64(row[0]+row[1])/float64(n), float64(row[k-2]+row[k-1])/float64(n)
				top, bottom = &last, &first
			}
		}
		b.N, b.Shares, b.TopTwo, b.BottomTwo = append(
			b.N,
			n,
		), append(
			b.Shares,
			shares,
		), append(
			b.TopTwo,
			top,
		), append(
			b.BottomTwo,
			bottom,
		)
	}
	return b, nil
}
