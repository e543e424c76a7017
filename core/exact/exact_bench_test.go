package exact

import (
	"context"
	"testing"
	"time"
)

// ladder is a flight of tables, each a good deal harder than the one before.
var ladder = []struct {
	name  string
	table [][]int64
}{
	{"3x3 n=30", [][]int64{{4, 3, 2}, {1, 6, 3}, {5, 2, 4}}},
	{"4x4 n=40", [][]int64{{4, 2, 3, 1}, {1, 5, 2, 3}, {2, 1, 4, 2}, {3, 2, 1, 4}}},
	{"3x6 n=60", [][]int64{{5, 2, 4, 3, 1, 5}, {3, 4, 2, 6, 3, 2}, {1, 5, 4, 2, 5, 3}}},
	{"4x4 n=100", [][]int64{{10, 6, 4, 5}, {3, 9, 7, 6}, {5, 4, 11, 5}, {7, 6, 3, 9}}},
	{"5x5 n=50", [][]int64{{3, 1, 2, 2, 2}, {1, 4, 2, 1, 2}, {2, 2, 1, 3, 2}, {2, 1, 3, 2, 2}, {2, 2, 2, 2, 2}}},
	{"5x5 n=100", [][]int64{{7, 3, 4, 2, 4}, {2, 8, 3, 4, 3}, {4, 2, 6, 5, 3}, {3, 4, 2, 7, 4}, {4, 3, 5, 2, 6}}},
	{"5x5 n=100 unlike margins", [][]int64{{9, 4, 3, 2, 1}, {3, 8, 6, 2, 4}, {2, 5, 7, 6, 3}, {1, 2, 4, 5, 5}, {1, 3, 2, 4, 8}}},
}

// BenchmarkTable sets each rung against going through all tables of the third one by one, which
// takes some seconds: a measure of the machine.
func BenchmarkTable(b *testing.B) {
	since := time.Now()
	oneByOne(ladder[2].table)
	unit := time.Since(since)
	for _, rung := range ladder {
		b.Run(rung.name, func(b *testing.B) {
			var r *Result
			for b.Loop() {
				var err error
				if r, err = Table(context.Background(), rung.table, Effort{Work: 1 << 50}); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed())/float64(b.N)/float64(unit), "×3x6-one-by-one")
			b.ReportMetric(float64(r.Steps), "steps")
			b.ReportMetric(r.Outcomes, "tables")
			b.Logf("p %.15g", r.P.Value)
		})
	}
}

// oneByOne is brute enumeration made as quick as it can be: floating-point factorials
// and the last row and column filled by what is left.
func oneByOne(table [][]int64) (least float64) {
	rows, left, n := []int64{}, make([]int64, len(table[0])), int64(0)
	for _, row := range table {
		sum := int64(0)
		for j, o := range row {
			sum, left[j] = sum+o, left[j]+o
		}
		rows, n = append(rows, sum), n+sum
	}
	inverse := make([]float64, n+1)
	for i, f := range factorials(int(n)) {
		inverse[i] = f.inverse().float()
	}
	limit := 1 + Slack
	for _, row := range table {
		for _, o := range row {
			limit *= inverse[o]
		}
	}
	var fill func(i, j int, rest int64, so float64)
	fill = func(i, j int, rest int64, so float64) {
		switch {
		case i == len(rows)-1:
			for _, x := range left {
				so *= inverse[x]
			}
			if so <= limit {
				least += so
			}
		case j == len(left)-1:
			if rest > left[j] {
				return
			}
			left[j] -= rest
			fill(i+1, 0, rows[i+1], so*inverse[rest])
			left[j] += rest
		default:
			for x := int64(0); x <= min(rest, left[j]); x++ {
				left[j] -= x
				fill(i, j+1, rest-x, so*inverse[x])
				left[j] += x
			}
		}
	}
	fill(0, 0, rows[0], 1)
	return least
}

// One by one, for as long as that ends.
func BenchmarkEveryTable(b *testing.B) {
	for _, rung := range ladder[:3] {
		b.Run(rung.name, func(b *testing.B) {
			for b.Loop() {
				oneByOne(rung.table)
			}
		})
	}
}

func BenchmarkSimulateTable(b *testing.B) {
	for _, rung := range []int{0, 3, 5} {
		b.Run(ladder[rung].name, func(b *testing.B) {
			const replicates = 200_000
			for b.Loop() {
				if _, err := SimulateTable(context.Background(), ladder[rung].table, Simulation{Replicates: replicates, Seed: 1}); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(replicates*float64(b.N)/b.Elapsed().Seconds(), "tables/s")
		})
	}
}

func BenchmarkFisher(b *testing.B) {
	for b.Loop() {
		if _, err := Fisher(4100, 3900, 3650, 4350); err != nil {
			b.Fatal(err)
		}
	}
}
