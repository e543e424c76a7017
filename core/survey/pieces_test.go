package survey

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// part is a column's rows from one up to another.
func (c Column) part(from, to int) Column {
	switch {
	case c.U8 != nil:
		return Column{U8: c.U8[from:to]}
	case c.U16 != nil:
		return Column{U16: c.U16[from:to]}
	case c.F64 != nil:
		return Column{F64: c.F64[from:to]}
	case c.Sets != nil:
		return Column{Sets: c.Sets[from:to]}
	}
	return Column{Text: c.Text[from:to]}
}

// What is counted piece by piece is what is counted at once, in every sort of column and sample.
func TestCountedInPieces(t *testing.T) {
	t.Parallel()
	const rows, slots = 1000, 9
	rng := rand.New(rand.NewPCG(3, 4))
	columns := map[string]Column{
		"u8": {U8: make([]uint8, rows)}, "u16": {U16: make([]uint16, rows)}, "f64": {F64: make([]float64, rows)},
		"sets": {Sets: make([]uint64, rows)}, "text": {Text: make([]string, rows)},
	}
	some, times := NewSet(rows), make([]int64, rows)
	for i := range rows {
		n := rng.IntN(slots)
		columns["u8"].U8[i], columns["u16"].U16[i], columns["sets"].Sets[i] = uint8(n), uint16(n), rng.Uint64N(1<<slots)
		columns["f64"].F64[i], columns["text"].Text[i] = math.Round(40*rng.NormFloat64()), fmt.Sprint("t", rng.IntN(300))
		if rng.IntN(3) == 0 {
			some.Add(i)
			columns["text"].Text[i] = ""
		}
		times[i] = rng.Int64N(4)
	}
	samples := map[string]Sample{
		"everyone": {}, "some": {Subset: some}, "several each": {Frequency: times}, "both": {Subset: some, Frequency: times},
	}
	for sort, column := range columns {
		for who, of := range samples {
			want, err := Distribute(column, slots, of)
			require.NoError(t, err)
			var got *Distribution
			for from := 0; from < rows; {
				to := min(rows, from+64*(1+rng.IntN(4)))
				d, err := Distribute(column.part(from, to), slots, of.Part(from, to))
				require.NoError(t, err)
				got = got.Plus(d)
				from = to
			}
			assert.Equal(t, want, got.Plus(nil), "%s, %s", sort, who)
		}
	}
}
