package design

import (
	"math/rand/v2"
	"testing"
)

// The counting of weighted answers, against a plain read of answers and weights; what the ratios mean
// stands in docs/speed.md.
func BenchmarkCells(b *testing.B) {
	const rows, answers, strata, clusters = 1_000_000, 6, 20, 10_000
	r := rand.New(rand.NewPCG(1, 2))
	answer := make([]uint8, rows)
	plain := Columns{Rows: rows, Weights: make([]float64, rows), Strata: make([]int, rows)}
	drawn := plain
	drawn.Clusters = make([]int, rows)
	for i := range rows {
		answer[i], plain.Weights[i] = uint8(r.IntN(answers)), 0.5+r.Float64()
		drawn.Clusters[i] = r.IntN(clusters)
		plain.Strata[i] = drawn.Clusters[i] % strata
	}
	b.Run("read", func(b *testing.B) {
		for b.Loop() {
			var sums [answers]float64
			for i, a := range answer {
				sums[a] += plain.Weights[i]
			}
		}
	})
	for name, c := range map[string]Columns{"rows": plain, "clusters": drawn} {
		s, err := New(c)
		if err != nil {
			b.Fatal(err)
		}
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := s.CellsBy(answers, func(rows []int, at []int32) {
					for k, row := range rows {
						at[k] = int32(answer[row])
					}
				}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
	b.Run("design", func(b *testing.B) {
		for b.Loop() {
			if _, err := New(drawn); err != nil {
				b.Fatal(err)
			}
		}
	})
}
