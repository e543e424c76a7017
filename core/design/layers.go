package design

import "widetally/core/infer"

// Layered are the departures of the cells of several tables from independence within each,
// h_ijk = p_ijk − p_i+k p_+jk/p_++k, layer by layer and row by row, with their covariance. Rows and columns
// of a layer that nobody is in, and layers in which fewer than two rows or columns are left, are left out.
type Layered struct {
	// At are the cells that are in the test.
	At                  []int
	Departure, Expected []float64
	// Free are the places, within At, of those that determine the others.
	Free       []int
	Covariance Matrix
}

// Layered gives the departures of tables of so many rows and columns, whose cells are counted layer by
// layer and row by row. Without any cell left no test can be made.
func (c *Cells) Layered(rows, columns int) Layered {
	l, size := Layered{}, rows*columns
	for from := 0; from < len(c.Count); from += size {
		l.use(c.Count[from:from+size], from, columns)
	}
	parts := func(total []float64, cell int) (p, across, down, layer float64) {
		from := cell / size * size
		i, j := cell%size/columns, cell%columns
		var row, column, all Sum
		for k := range size {
			t := total[from+k]
			all.Add(t)
			if k/columns == i {
				row.Add(t)
			}
			if k%columns == j {
				column.Add(t)
			}
		}
		return total[cell], row.Value(), column.Value(), all.Value()
	}
	f := Function{Slope: newRows(len(l.At), len(c.Total)), Value: func(totals []float64) (out []float64) {
		whole := total(totals)
		for _, cell := range l.At {
			p, row, column, layer := parts(totals, cell)
			out = append(out, (p-row*column/layer)/whole)
		}
		return out
	}}
	l.Departure = f.Value(c.Total)
	for n, cell := range l.At {
		_, row, column, layer := parts(c.Total, cell)
		l.Expected = append(l.Expected, row*column/layer/c.Sum)
		from, i, j := cell/size*size, cell%size/columns, cell%columns
		for k := range f.Slope[n] {
			z := -l.Departure[n]
			if k >= from && k < from+size {
				z += Indicator(k == cell) - Indicator((k-from)/columns == i)*column/layer - Indicator(k%columns == j)*row/layer +
					row*column/(layer*layer)
			}
			f.Slope[n][k] = z / c.Sum
		}
	}
	if len(l.At) > 0 {
		l.Covariance = c.Covariance(f)
	}
	return l
}

// use takes the cells of a layer in whose rows and columns somebody is.
func (l *Layered) use(counts []int64, from, columns int) {
	rows, across := make([]int64, len(counts)/columns), make([]int64, columns)
	for k, n := range counts {
		rows[k/columns] += n
		across[k%columns] += n
	}
	used := func(sums []int64) (at []int) {
		for i, n := range sums {
			if n > 0 {
				at = append(at, i)
			}
		}
		return at
	}
	down, right := used(rows), used(across)
	if len(down) < 2 || len(right) < 2 {
		return
	}
	for a, i := range down {
		for b, j := range right {
			if a < len(down)-1 && b < len(right)-1 {
				l.Free = append(l.Free, len(l.At))
			}
			l.At = append(l.At, from+i*columns+j)
		}
	}
}

// RaoScott asks for the test of independence within all layers.
func (l Layered) RaoScott(n int64, df int, level float64) infer.RaoScottInput {
	return infer.RaoScottInput{
		N: n, Departure: l.Departure, Expected: l.Expected, Covariance: l.Covariance, Free: l.Free, DF: df, Level: level,
	}
}
