package design

import (
	"math/bits"

	"widetally/core/infer"
)

// Items are those of a question of which a respondent may choose any number, as shares of a base.
type Items struct {
	Base
	// Count and Total are the respondents who chose each, and the sums of their weights.
	Count []int64
	Total []float64
	// Share is exactly 0 or 1 where nobody or everybody of the base chose it.
	Share      []float64
	Covariance Matrix
	// Simple is the covariance that a simple random sample of as many would have.
	Simple Matrix
	// Chosen is how many were chosen on average, the sum of the shares.
	Chosen Estimate
	// Largest is the largest weight in the base.
	Largest float64
}

// Items counts so many items: of each row, by its place in the file, of gives the chosen ones as bits,
// and whether it is in the base. Errors: EmptyBase, EmptyReplicate.
func (s *Sample) Items(k int, of func(row int) (chosen uint64, in bool)) (*Items, error) {
	at := func(k int) (uint64, bool) { return of(s.Rows[k]) }
	b, err := s.base(func(k int) bool { _, in := at(k); return in })
	if err != nil {
		return nil, err
	}
	t := &Items{Base: b, Count: make([]int64, k), Share: make([]float64, k)}
	for row, w := range s.Weights {
		if chosen, in := at(row); in {
			t.Largest = max(t.Largest, w)
			for j := range k {
				t.Count[j] += int64(chosen >> j & 1)
			}
		}
	}
	totals := func(weights []float64) (items []float64, all float64) {
		var whole Sum
		parts := make([]Sum, k)
		for row, w := range weights {
			if chosen, in := at(row); in {
				whole.Add(w)
				for j := range k {
					if chosen>>j&1 == 1 {
						parts[j].Add(w)
					}
				}
			}
		}
		return values(parts), whole.Value()
	}
	t.Total, _ = totals(s.Weights)
	together := make([]Sum, k*k)
	for row, w := range s.Weights {
		if chosen, in := at(row); in {
			for left := chosen; left != 0; left &= left - 1 {
				i := bits.TrailingZeros64(left)
				for others := left; others != 0; others &= others - 1 {
					together[i*k+bits.TrailingZeros64(others)].Add(w)
				}
			}
		}
	}
	for j, n := range t.Count {
		t.Share[j] = share(n, t.N, t.Total[j], t.Sum)
		t.Chosen.Value += t.Share[j]
	}
	t.Simple = newMatrix(k)
	for i := range k {
		for j := i; j < k; j++ {
			t.Simple[i][j] = (together[i*k+j].Value()/t.Sum - t.Share[i]*t.Share[j]) / float64(max(t.N-1, 1))
			t.Simple[j][i] = t.Simple[i][j]
		}
	}
	t.Covariance, err = s.estimates(k, func(weights []float64) []float64 {
		parts, all := totals(weights)
		for j := range parts {
			parts[j] /= all
		}
		return parts
	}, func(row int, z []float64) {
		clear(z)
		if chosen, in := at(row); in {
			for j := range z {
				z[j] = s.Weights[row] * (float64(chosen>>j&1) - t.Share[j]) / b.Sum
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for _, row := range t.Covariance {
		for _, v := range row {
			t.Chosen.Variance += v
		}
	}
	return t, nil
}

// One is the share of an item with what its interval needs.
func (t *Items) One(j int) infer.DesignedShare {
	return infer.DesignedShare{
		Share: t.Share[j], Variance: t.Covariance[j][j], N: t.N, KishN: t.KishN, DF: t.DF,
	}
}

// Apart are the shares of the items less that of the last, with their covariance, and that which they
// would have in a simple random sample of as many respondents, for a test of whether all are chosen
// equally often.
func (t *Items) Apart() (d []float64, v, simple Matrix) {
	last := len(t.Share) - 1
	v, simple = newMatrix(last), newMatrix(last)
	both := func(m Matrix, i, j int) float64 { return m[i][j] - m[i][last] - m[last][j] + m[last][last] }
	for i := range last {
		d = append(d, t.Share[i]-t.Share[last])
		for j := range last {
			v[i][j], simple[i][j] = both(t.Covariance, i, j), both(t.Simple, i, j)
		}
	}
	return d, v, simple
}
