package survey

import (
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Counting several at a time gives what counting one by one does, also where the column holds
// slots that the question lacks.
func TestCountingSeveralAtATime(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 8))
	for range 300 {
		slots := []int{1 + rng.IntN(20), 17 + rng.IntN(60)}[rng.IntN(2)]
		column := make([]uint8, []int{0, 1, 7, 8, 9, 33, 1000, fold + 8 + 3}[rng.IntN(8)])
		reach := slots
		if rng.IntN(4) == 0 {
			reach = 256
		}
		for i := range column {
			column[i] = uint8(rng.IntN(reach))
		}
		var want [256]int64
		for _, x := range column {
			want[x]++
		}
		assert.Equal(t, want, count8(column, slots), "%d answers, %d slots", len(column), slots)
	}
}

// BenchmarkOneWay prints the time of a one-way table as a ratio to a plain read of the same
// bytes in the same run.
func BenchmarkOneWay(b *testing.B) {
	const rows = 10_000_000
	rng := rand.New(rand.NewPCG(1, 2))
	for _, answers := range []int{2, 5, 11, 40} {
		q, column := Question{Kind: Single}, make([]uint8, rows)
		for i := range answers + 1 {
			q.Answers = append(q.Answers, Answer{Slot: Slot(i), Code: fmt.Sprint(i)})
		}
		for i := range column {
			column[i] = uint8(rng.IntN(answers + 1))
		}
		b.Run(fmt.Sprintf("%d answers", answers), func(b *testing.B) {
			var sink uint64
			limit, own := 0.0, 0.0
			for b.Loop() {
				start := time.Now()
				for c := column; len(c) >= 32; c = c[32:] {
					sink += binary.LittleEndian.Uint64(c) ^ binary.LittleEndian.Uint64(c[8:]) ^ binary.LittleEndian.Uint64(c[16:]) ^ binary.LittleEndian.Uint64(c[24:])
				}
				limit += time.Since(start).Seconds()
				start = time.Now()
				if _, err := CountAnswers(q, Column{U8: column}, Sample{}); err != nil {
					b.Fatal(err)
				}
				own += time.Since(start).Seconds()
			}
			b.ReportMetric(own/limit, "×read")
			_ = sink
		})
	}
}
