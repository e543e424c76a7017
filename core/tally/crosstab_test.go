package tally

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"testing"
	"unsafe"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// asked makes a question with so many slots: the blank, one that is refused, one that is
// another spelling of the first, and proper answers.
func asked(name string, slots int, wide bool, rows int, rng *rand.Rand) survey.Source {
	first := survey.Slot(1)
	s := survey.Source{Question: survey.Question{Name: name, Kind: survey.Single, Answers: []survey.Answer{{Slot: 1, Code: "1"}}}}
	for i := 2; i < slots; i++ {
		a := survey.Answer{Slot: survey.Slot(i), Code: fmt.Sprint(i)}
		switch {
		case i == 3:
			a.Missing = "refused"
		case i == 4:
			a.SameAs = &first
		}
		s.Question.Answers = append(s.Question.Answers, a)
	}
	s.Question.Answers = append(s.Question.Answers, survey.Answer{Missing: "no answer"})
	if wide {
		s.Column.U16 = make([]uint16, rows)
		for i := range s.Column.U16 {
			s.Column.U16[i] = uint16(rng.IntN(slots))
		}
		return s
	}
	s.Column.U8 = make([]uint8, rows)
	for i := range s.Column.U8 {
		s.Column.U8[i] = uint8(rng.IntN(slots))
	}
	return s
}

func slot(c survey.Column, row int) survey.Slot {
	if c.U8 != nil {
		return survey.Slot(c.U8[row])
	}
	return survey.Slot(c.U16[row])
}

// oneByOne counts as the definition says: by the code under which each answer counts.
func oneByOne(x Crossing, of survey.Sample) map[string]int64 {
	code := func(s survey.Source, row int) string {
		a, _ := s.Question.Answer(slot(s.Column, row))
		if a.SameAs != nil {
			a, _ = s.Question.Answer(*a.SameAs)
		}
		return a.Code
	}
	out := map[string]int64{}
	for row := range x.Rows.Column.Rows() {
		key := code(x.Rows, row) + "|" + code(x.Columns, row)
		if x.Layers != nil {
			key = code(*x.Layers, row) + "|" + key
		}
		if n := of.Counts(row); n > 0 {
			out[key] += n
		}
	}
	return out
}

func cells(t *Crosstab) map[string]int64 {
	out := map[string]int64{}
	layers := []survey.Answer{{}}
	if t.Layers != nil {
		layers = t.Layers.Answers
	}
	for l, layer := range layers {
		for i, row := range t.Rows.Answers {
			for j, column := range t.Columns.Answers {
				key := row.Code + "|" + column.Code
				if t.Layers != nil {
					key = layer.Code + "|" + key
				}
				if n := t.At(l, i, j).N; n > 0 {
					out[key] = n
				}
			}
		}
	}
	return out
}

// Every way of counting gives what counting one by one gives: few rows and many, narrow
// and wide columns, layers, subsets of every density, rows that stand for many, and
// several crosstabs at once.
func TestEveryWayOfCrossingCountsTheSame(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(2, 8))
	for _, rows := range []int{0, 1, 63, 1000, fastFrom + 13, 3*blockRows + 777} {
		narrow, other, third := asked("a", 6, false, rows, rng), asked("b", 8, false, rows, rng), asked("l", 5, false, rows, rng)
		many, wide := asked("m", 120, false, rows, rng), asked("w", 300, true, rows, rng)
		all := []Crossing{{narrow, other, nil}, {other, narrow, nil}, {narrow, other, &third}, {many, narrow, nil}, {many, many, nil}, {wide, narrow, nil}, {wide, other, &third}}
		half, dense, times := survey.NewSet(rows), survey.NewSet(rows), make([]int64, rows)
		for i := range rows {
			if rng.IntN(2) == 0 {
				half.Add(i)
			}
			if i < rows/2 || rng.IntN(50) > 0 {
				dense.Add(i)
			}
			times[i] = rng.Int64N(4)
		}
		for name, of := range map[string]survey.Sample{"everyone": {}, "half": {Subset: half}, "most": {Subset: dense}, "counted": {Frequency: times}, "some counted": {Frequency: times, Subset: half}} {
			got, err := Cross(all, of)
			require.NoError(t, err)
			for i, x := range all {
				require.Equal(t, oneByOne(x, of), cells(got[i]), "%d rows, %s, crossing %d", rows, name, i)
				n, noRow, _ := got[i].Everyone()
				assert.Equal(t, of.Number(rows), n)
				counts, err := survey.CountAnswers(x.Rows.Question, x.Rows.Column, of)
				require.NoError(t, err)
				assert.Equal(t, counts.Missing, noRow)
				sum := int64(0)
				for _, row := range got[i].Pooled().Proper(0) {
					for _, n := range row {
						sum += n
					}
				}
				assert.LessOrEqual(t, sum, n-noRow)
			}
		}
	}
}

func TestWhatCannotBeCrossed(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(1, 1))
	a, b := asked("a", 6, false, 2*fastFrom, rng), asked("b", 6, false, 2*fastFrom, rng)
	damaged := asked("d", 6, false, 2*fastFrom, rng)
	damaged.Column.U8[fastFrom+3] = 6
	worse := asked("e", 6, false, 2*fastFrom, rng)
	worse.Column.U8[5] = 250
	short := asked("s", 6, false, 5, rng)
	numbers := survey.Source{Question: survey.Question{Name: "n", Kind: survey.Continuous}, Column: survey.Column{F64: make([]float64, 2*fastFrom)}}
	huge := asked("h", 60_000, true, 2*fastFrom, rng)
	some := survey.NewSet(2 * fastFrom)
	some.Add(fastFrom + 3)
	for _, x := range []struct {
		name string
		c    Crossing
		of   survey.Sample
		says string
	}{
		{"a slot too many", Crossing{a, damaged, nil}, survey.Sample{}, `"d"`}, {"far out", Crossing{worse, b, nil}, survey.Sample{}, `"e"`}, {"in a layer", Crossing{a, b, &damaged}, survey.Sample{}, `"d"`},
		{"in a subset", Crossing{damaged, b, nil}, survey.Sample{Subset: some}, `"d"`}, {"another length", Crossing{a, short, nil}, survey.Sample{}, `"s" has 5 rows`},
		{"numbers", Crossing{a, numbers, nil}, survey.Sample{}, `"n" is not`}, {"too many cells", Crossing{huge, huge, nil}, survey.Sample{}, "too many cells"},
		{"another sample", Crossing{a, b, nil}, survey.Sample{Frequency: []int64{1}}, "the sample"},
	} {
		_, err := Cross([]Crossing{x.c}, x.of)
		assert.ErrorContains(t, err, x.says, x.name)
	}
}

// Of many respondents two goroutines count a half each; together it is what one loop counts.
func TestManyRespondentsAreCountedInHalves(t *testing.T) {
	t.Parallel()
	const rows = 4_000_000 + 777
	rng := rand.New(rand.NewPCG(4, 4))
	a, b := asked("a", 6, false, rows, rng), asked("b", 8, false, rows, rng)
	half, times := survey.NewSet(rows), make([]int64, rows)
	for i := range rows {
		times[i] = int64(i % 3)
		if i%7 < 3 {
			half.Add(i)
		}
	}
	for name, of := range map[string]survey.Sample{"everyone": {}, "half": {Subset: half}, "counted": {Frequency: times}, "some counted": {Frequency: times, Subset: half}} {
		var want [48]int64
		var one, wide [6]int64
		twoBytes, sets, numbers := make([]uint16, rows), make([]uint64, rows), make([]float64, rows)
		for i := range rows {
			n, x := of.Counts(i), a.Column.U8[i]
			want[int(x)*8+int(b.Column.U8[i])] += n
			one[x] += n
			twoBytes[i], sets[i], numbers[i] = uint16(x), uint64(x), float64(x)
		}
		c, err := newCounter([]survey.Source{a, b})
		require.NoError(t, err)
		require.NoError(t, count([]*counter{c}, of))
		assert.Equal(t, want[:], c.total(), name)
		for _, column := range []survey.Column{a.Column, {U16: twoBytes}, {Sets: sets}, {F64: numbers}} {
			d, err := survey.Distribute(column, 6, of)
			require.NoError(t, err)
			wide = [6]int64{}
			copy(wide[:], d.Slots)
			for _, v := range d.Numbers {
				wide[int(v.Number)] = v.Times
			}
			for _, s := range d.Sets {
				wide[s.Chosen] = s.Count
			}
			assert.Equal(t, one, wide, name)
		}
		who := survey.Condition{Op: survey.AnyOf, Question: 1, Answers: []survey.Slot{2, 5}}
		in, err := who.Evaluate(rows, func(uint64) (survey.Source, error) { return a, nil })
		require.NoError(t, err)
		assert.Equal(t, one[2]+one[5], survey.Sample{Subset: in.And(of.Subset), Frequency: of.Frequency}.Number(rows), name)
	}
}

// BenchmarkCross prints, beside its own time, that of a plain read of the same bytes and of
// the straight loop over the two questions in the same run, and the ratios.
func BenchmarkCross(b *testing.B) {
	const rows = 10_000_000
	rng := rand.New(rand.NewPCG(5, 7))
	x, y, z := asked("x", 7, false, rows, rng), asked("y", 9, false, rows, rng), asked("z", 4, false, rows, rng)
	alike := survey.Source{Question: x.Question, Column: survey.Column{U8: make([]uint8, rows)}}
	half, times := survey.NewSet(rows), make([]int64, rows)
	for i := range rows {
		times[i] = int64(rng.IntN(4))
		if x.Column.U8[i] < 4 {
			half.Add(i)
		}
	}
	// Read before each measurement, so that all begin with the columns in memory and not in a cache.
	evicted := make([]uint64, 8<<20)
	evict := func() {
		for i := 0; i < len(evicted); i += 8 {
			evicted[i]++
		}
	}
	ofTimes := unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(times))), 8*rows)
	sink := 0
	straight := func() {
		table, width := make([]int64, 63), y.Question.Slots()
		for i, a := range x.Column.U8 {
			table[int(a)*width+int(y.Column.U8[i])]++
		}
		sink += int(table[9])
	}
	for _, k := range []struct {
		name    string
		c       []Crossing
		of      survey.Sample
		columns [][]uint8
	}{
		{"two questions", []Crossing{{x, y, nil}}, survey.Sample{}, [][]uint8{x.Column.U8, y.Column.U8}},
		{"two questions by counts", []Crossing{{x, y, nil}}, survey.Sample{Frequency: times}, [][]uint8{x.Column.U8, y.Column.U8, ofTimes}},
		{"all alike", []Crossing{{alike, alike, nil}}, survey.Sample{}, [][]uint8{alike.Column.U8, alike.Column.U8}},
		{"with layers", []Crossing{{x, y, &z}}, survey.Sample{}, [][]uint8{x.Column.U8, y.Column.U8, z.Column.U8}},
		{"with layers by counts", []Crossing{{x, y, &z}}, survey.Sample{Frequency: times}, [][]uint8{x.Column.U8, y.Column.U8, z.Column.U8, ofTimes}},
		{"four at once", []Crossing{{x, y, nil}, {z, y, nil}, {x, z, nil}, {alike, y, nil}}, survey.Sample{}, [][]uint8{x.Column.U8, y.Column.U8, z.Column.U8, alike.Column.U8}},
		{"in a subgroup", []Crossing{{x, y, nil}}, survey.Sample{Subset: half}, [][]uint8{x.Column.U8, y.Column.U8}},
	} {
		b.Run(k.name, func(b *testing.B) {
			limit, loop, own := 0.0, 0.0, 0.0
			for b.Loop() {
				evict()
				limit += timed(func() {
					for _, c := range k.columns {
						sink += bytes.Count(c, []byte{0xfe})
					}
				})
				evict()
				loop += timed(straight)
				evict()
				own += timed(func() {
					if _, err := Cross(k.c, k.of); err != nil {
						b.Fatal(err)
					}
				})
			}
			b.ReportMetric(own/limit, "×read")
			b.ReportMetric(own/loop, "×loop")
		})
	}
	_ = sink
}
