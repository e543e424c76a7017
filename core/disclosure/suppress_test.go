package disclosure

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// crossed is a table of rows by columns with its margins: the counts row by row, then the sums of the rows, those of
// the columns, and all.
func crossed(table [][]int64) Counts {
	rows, columns := len(table), len(table[0])
	c := Counts{N: make([]int64, rows*columns+rows+columns+1)}
	c.Margin = make([]bool, len(c.N))
	last := len(c.N) - 1
	byRow, byColumn := Sum{Whole: last}, Sum{Whole: last}
	for i := range rows {
		byRow.Parts = append(byRow.Parts, rows*columns+i)
		c.Sums = append(c.Sums, Sum{Whole: rows*columns + i})
	}
	for j := range columns {
		byColumn.Parts = append(byColumn.Parts, rows*columns+rows+j)
		c.Sums = append(c.Sums, Sum{Whole: rows*columns + rows + j})
	}
	for i, row := range table {
		for j, n := range row {
			at := i*columns + j
			c.N[at] = n
			c.N[rows*columns+i] += n
			c.N[rows*columns+rows+j] += n
			c.N[last] += n
			c.Sums[i].Parts, c.Sums[rows+j].Parts = append(c.Sums[i].Parts, at), append(c.Sums[rows+j].Parts, at)
		}
	}
	for at := rows * columns; at <= last; at++ {
		c.Margin[at] = true
	}
	c.Sums = append(c.Sums, byRow, byColumn)
	return c
}

// flow tells what an attacker can, of a table with margins, by the largest flow through the counts that are left
// out: rows and columns are places, with the margins as a row and a column of their own, a count that is left out a
// way between them on which as much can flow as it may shrink (Gusfield 1988, A graph theoretic approach to
// statistical data security). The implementation knows nothing of it.
type flow struct{ room [][]float64 }

func flowOf(c Counts, s Suppressed, rows, columns int) flow {
	places := rows + 1 + columns + 1
	f := flow{make([][]float64, places)}
	for i := range f.room {
		f.room[i] = make([]float64, places)
	}
	for at, n := range c.N {
		if !s.Out(at) {
			continue
		}
		row, column, sign := rowColumn(at, rows, columns)
		// A way down from its row to its column grows the count, one back shrinks it; of margins the other way
		// round, since they stand on the other side of their sums.
		grow, shrink := math.Inf(1), float64(n)
		if sign < 0 {
			grow, shrink = shrink, grow
		}
		f.room[row][rows+1+column] += grow
		f.room[rows+1+column][row] += shrink
	}
	return f
}

// rowColumn is where a count stands; sign is −1 for the sum of a row or a column.
func rowColumn(at, rows, columns int) (row, column int, sign float64) {
	switch {
	case at < rows*columns:
		return at / columns, at % columns, 1
	case at < rows*columns+rows:
		return at - rows*columns, columns, -1
	case at < rows*columns+rows+columns:
		return rows, at - rows*columns - rows, -1
	}
	return rows, columns, 1
}

// most is the largest flow between two places, not by the way between them itself.
func (f flow) most(from, to int) float64 {
	room := make([][]float64, len(f.room))
	for i := range room {
		room[i] = append([]float64{}, f.room[i]...)
	}
	room[from][to], room[to][from] = 0, 0
	total := 0.0
	for {
		before := make([]int, len(room))
		for i := range before {
			before[i] = -1
		}
		before[from] = from
		queue := []int{from}
		for len(queue) > 0 && before[to] < 0 {
			at := queue[0]
			queue = queue[1:]
			for next, r := range room[at] {
				if r > 0 && before[next] < 0 {
					before[next] = at
					queue = append(queue, next)
				}
			}
		}
		if before[to] < 0 {
			return total
		}
		step := math.Inf(1)
		for at := to; at != from; at = before[at] {
			step = math.Min(step, room[before[at]][at])
		}
		if math.IsInf(step, 1) {
			return step
		}
		for at := to; at != from; at = before[at] {
			room[before[at]][at] -= step
			room[at][before[at]] += step
		}
		total += step
	}
}

// told is the range of a count by flows: it grows by what can flow back from its column to its row by other ways.
func told(c Counts, s Suppressed, at, rows, columns int) Range {
	f := flowOf(c, s, rows, columns)
	row, column, sign := rowColumn(at, rows, columns)
	n := float64(c.N[at])
	grows, shrinks := f.most(rows+1+column, row), f.most(row, rows+1+column)
	if sign < 0 {
		grows, shrinks = shrinks, grows
	}
	return Range{n - math.Min(n, shrinks), n + grows}
}

// Of 1,000 random tables with margins no count that is left out can be told more closely than the rule says, by a
// solver of another kind; and what the bounds of the implementation say is what that solver finds.
func TestNobodyCanTellWhatIsLeftOut(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(30, 1))
	small, published, cells := 0, 0, 0
	for round := range 1000 {
		rows, columns := 2+r.IntN(5), 2+r.IntN(5)
		table := make([][]int64, rows)
		scale := []float64{3, 15, 60}[r.IntN(3)]
		for i := range table {
			for range columns {
				table[i] = append(table[i], int64(r.ExpFloat64()*scale))
			}
		}
		smallest := []int64{3, 5, 10}[r.IntN(3)]
		c := crossed(table)
		s := Suppress(c, c.Small(smallest), smallest)
		bounds := c.Bounds(s)
		for at, n := range c.N {
			cells++
			if !s.Out(at) {
				published++
				require.False(t, n > 0 && n < smallest, "round %d: %d is published", round, n)
				continue
			}
			small++
			by := told(c, s, at, rows, columns)
			require.GreaterOrEqual(t, by.Upper-by.Lower, float64(smallest), "round %d: %v of %v leaves %d at %v", round, s, table, at, by)
			require.Equal(t, by, bounds[at], "round %d: %v, place %d", round, table, at)
		}
	}
	assert.Greater(t, small, 5000)
	assert.Greater(t, published, small, "most of a table is still told: %d of %d", published, cells)
}

// A small count alone in its row would be told by the sum; with the sums of rows linked to those of another table
// it would be told by these.
func TestWhatIsLeftOutBesides(t *testing.T) {
	t.Parallel()
	c := crossed([][]int64{{40, 2, 30}, {25, 18, 21}, {33, 26, 19}})
	s := Suppress(c, c.Small(5), 5)
	left := []int{}
	for i := range c.N {
		if s.Out(i) {
			left = append(left, i)
		}
	}
	assert.Len(t, left, 4, "the small one, and a rectangle with it: %v", left)
	assert.Equal(t, []bool{false, true, false}, s.Primary[:3])
	// Published alone it would be told: so many as the sum less the others.
	alone := Suppressed{Primary: s.Primary, Secondary: make([]bool, len(c.N))}
	assert.Equal(t, Range{2, 2}, c.Bounds(alone)[1])

	// Two breaks of the same respondents: what one leaves out the other must not tell. 0–2 add to 6, 3 and 4 too.
	linked := Counts{N: []int64{3, 50, 47, 60, 40, 100}, Sums: []Sum{{5, []int{0, 1, 2}, 0}, {5, []int{3, 4}, 0}, {3, []int{0, 1}, 7}}}
	s = Suppress(linked, linked.Small(5), 5)
	b := linked.Bounds(s)
	assert.True(t, s.Out(0))
	assert.GreaterOrEqual(t, b[0].Upper-b[0].Lower, 5.0, "%v %v", s, b)

	large := crossed([][]int64{{9, 8}, {7, 0}})
	assert.NotContains(t, Suppress(large, large.Small(5), 5).Primary, true)
	// One respondent in all: nothing of the table can be told.
	one := crossed([][]int64{{1, 0}, {0, 0}})
	b = one.Bounds(Suppress(one, one.Small(3), 3))
	assert.GreaterOrEqual(t, b[0].Upper-b[0].Lower, 3.0)
}
