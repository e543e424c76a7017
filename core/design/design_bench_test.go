package design

import (
	"math/rand/v2"
	"testing"
)

// The counting of weighted answers, against a plain read of answers and weights; what the ratios mean
// stands in docs/speed.md.
func BenchmarkCells(b *testing.B) {
	const rows, answers, groups, strata, clusters = 10_000_000, 6, 5, 20, 10_000
	r := rand.New(rand.NewPCG(1, 2))
	answer, group := make([]uint8, rows), make([]uint8, rows)
	plain := Columns{Rows: rows, Weights: make([]float64, rows), Strata: make([]int, rows)}
	drawn := plain
	drawn.Clusters = make([]int, rows)
	for i := range rows {
		answer[i], group[i], plain.Weights[i] = uint8(r.IntN(answers)), uint8(r.IntN(groups)), 0.5+r.Float64()
		drawn.Clusters[i] = r.IntN(clusters)
		plain.Strata[i] = drawn.Clusters[i] % strata
	}
	one := func(s *Sample) (*Cells, error) {
		return s.CellsByBytes(answers, func(rows []int, at []uint8) { copy(at, answer[rows[0]:]) })
	}
	two := func(s *Sample) (*Cells, error) {
		return s.CellsBy(answers*groups, func(rows []int, at []int32) {
			from := rows[0]
			for k := range at {
				at[k] = int32(answer[from+k])*groups + int32(group[from+k])
			}
		})
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
		for of, count := range map[string]func(*Sample) (*Cells, error){"question": one, "crossing": two} {
			b.Run(name+"/"+of, func(b *testing.B) {
				for b.Loop() {
					if _, err := count(s); err != nil {
						b.Fatal(err)
					}
				}
			})
		}
	}
	b.Run("design", func(b *testing.B) {
		for b.Loop() {
			if _, err := New(drawn); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// Eighty replicates of one question, against one weighting of it.
func BenchmarkReplicates(b *testing.B) {
	const rows, answers, replicates = 1_000_000, 6, 80
	r := rand.New(rand.NewPCG(3, 4))
	answer := make([]uint8, rows)
	in := Replicates{Rows: rows, Weights: make([]float64, rows), Method: Bootstrap}
	for i := range rows {
		answer[i], in.Weights[i] = uint8(r.IntN(answers)), 0.5+r.Float64()
	}
	for range replicates {
		own := make([]float64, rows)
		for i, w := range in.Weights {
			own[i] = w * float64(r.IntN(3))
		}
		in.Replicate = append(in.Replicate, own)
	}
	once, err := New(Columns{Rows: rows, Weights: in.Weights})
	if err != nil {
		b.Fatal(err)
	}
	all, err := NewReplicated(in)
	if err != nil {
		b.Fatal(err)
	}
	for name, s := range map[string]*Sample{"once": once, "80": all} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := s.CellsByBytes(answers, func(rows []int, at []uint8) { copy(at, answer[rows[0]:]) }); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
