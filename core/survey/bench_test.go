package survey

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
	"unsafe"
)

const benchRows = 10_000_000

var sink uint64

// read is the yardstick: one core's plain read of the same bytes, many at a time.
func read[T any](column []T) {
	all := unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(column))), len(column)*int(unsafe.Sizeof(column[0])))
	sink += uint64(bytes.Count(all, []byte{0xfe}))
}

// evicted is read before each measurement, so that both begin with the column in memory and not
// in a cache that holds it from the last round.
var evicted = make([]uint64, 8<<20)

func evict() {
	for i := 0; i < len(evicted); i += 8 {
		evicted[i]++
	}
}

// compare prints the time of something as a ratio to that of a yardstick in the same run.
func compare(b *testing.B, name string, yardstick func(), own func() error) {
	b.Run(name, func(b *testing.B) {
		limit, took := 0.0, 0.0
		for b.Loop() {
			evict()
			start := time.Now()
			yardstick()
			limit += time.Since(start).Seconds()
			evict()
			start = time.Now()
			if err := own(); err != nil {
				b.Fatal(err)
			}
			took += time.Since(start).Seconds()
		}
		b.ReportMetric(took/limit, "×read")
	})
}

func filled[T any](value func(rng *rand.Rand) T) []T {
	rng := rand.New(rand.NewPCG(1, 2))
	column := make([]T, benchRows)
	for i := range column {
		column[i] = value(rng)
	}
	return column
}

// BenchmarkCounting counts one question of 10,000,000 respondents and prints the time as a
// ratio to a plain read of the same bytes.
func BenchmarkCounting(b *testing.B) {
	distribute := func(c Column, slots int, of Sample) func() error {
		return func() error {
			_, err := Distribute(c, slots, of)
			return err
		}
	}
	bytesOf := func(answers int) []uint8 {
		return filled(func(rng *rand.Rand) uint8 { return uint8(rng.IntN(answers + 1)) })
	}
	for _, answers := range []int{2, 5, 12, 40} {
		column := bytesOf(answers)
		compare(b, fmt.Sprintf("one-way, %d answers", answers), func() { read(column) }, distribute(Column{U8: column}, answers+1, Sample{}))
	}
	alike := make([]uint8, benchRows)
	compare(b, "one-way, all alike", func() { read(alike) }, distribute(Column{U8: alike}, 6, Sample{}))
	wide := filled(func(rng *rand.Rand) uint16 { return uint16(rng.IntN(300)) })
	compare(b, "one-way, 300 answers in two bytes", func() { read(wide) }, distribute(Column{U16: wide}, 300, Sample{}))
	sets := filled(func(rng *rand.Rand) uint64 { return uint64(rng.IntN(256)) << 1 })
	compare(b, "choose-all, 8 items", func() { read(sets) }, distribute(Column{Sets: sets}, 9, Sample{}))
	ages := filled(func(rng *rand.Rand) float64 { return float64(18 + rng.IntN(80)) })
	compare(b, "numbers, few different", func() { read(ages) }, distribute(Column{F64: ages}, 1, Sample{}))
	whole := Question{Kind: Discrete, Answers: []Answer{{Slot: Blank, Missing: "no answer"}}}
	for s := 1; s <= 80; s++ {
		whole.Answers = append(whole.Answers, Answer{Slot: Slot(s), Code: fmt.Sprint(17 + s)})
	}
	small := bytesOf(80)
	compare(b, "numbers, in bytes", func() { read(small) }, func() error {
		d, err := Distribute(Column{U8: small}, 81, Sample{})
		if err == nil {
			sink += uint64(len(whole.Numbers(d)))
		}
		return err
	})
	different := filled((*rand.Rand).NormFloat64)
	compare(b, "numbers, all different", func() { read(different) }, distribute(Column{F64: different}, 1, Sample{}))

	five, other := bytesOf(5), bytesOf(7)
	times := filled(func(rng *rand.Rand) int64 { return int64(rng.IntN(4)) })
	compare(b, "one-way by a column of counts", func() { read(five); read(times) }, distribute(Column{U8: five}, 6, Sample{Frequency: times}))
	q := Question{Kind: Single}
	for s := range 8 {
		q.Answers = append(q.Answers, Answer{Slot: Slot(s), Code: fmt.Sprint(s)})
	}
	q.Answers[0].Missing = "no answer"
	who := Condition{Op: AnyOf, Question: 1, Answers: []Slot{2, 3, 6}}
	evaluate := func() (*Set, error) {
		return who.Evaluate(benchRows, func(uint64) (Source, error) { return Source{q, Column{U8: other}}, nil })
	}
	compare(b, "subgroup, finding it", func() { read(other) }, func() error {
		_, err := evaluate()
		return err
	})
	in, err := evaluate()
	if err != nil {
		b.Fatal(err)
	}
	compare(b, "subgroup, one-way in it", func() { read(five); read(in.words) }, distribute(Column{U8: five}, 6, Sample{Subset: in}))
}
