package design

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"

	"widetally/core/infer"
)

// Shares are those of the cells of a base, p_j = T_j/W, with their covariance. A share is exactly 0
// or 1 where nobody or everybody of the base is in the cell.
type Shares struct {
	*Cells
	Share      []float64
	Covariance Matrix
}

// shares of totals.
func shares(totals []float64) []float64 {
	all, out := total(totals), make([]float64, len(totals))
	for j, t := range totals {
		out[j] = t / all
	}
	return out
}

// share is that of a cell, by respondents where it is 0 or 1.
func share(count, n int64, part, whole float64) float64 {
	switch count {
	case 0:
		return 0
	case n:
		return 1
	}
	return part / whole
}

// Shares are those of the cells.
func (c *Cells) Shares() *Shares {
	k := len(c.Total)
	s := &Shares{Cells: c, Share: make([]float64, k)}
	f := Function{Value: shares, Slope: newMatrix(k)}
	for j, n := range c.Count {
		s.Share[j] = share(n, c.N, c.Total[j], c.Sum)
		for i := range f.Slope[j] {
			f.Slope[j][i] = -s.Share[j] / c.Sum
		}
		f.Slope[j][j] = (1 - s.Share[j]) / c.Sum
	}
	s.Covariance = c.Covariance(f)
	return s
}

// One is the share of a cell with what its intervals and tests need.
func (s *Shares) One(j int) infer.DesignedShare {
	return infer.DesignedShare{
		Share: s.Share[j], Variance: s.Covariance[j][j], N: s.N, KishN: s.KishN, DF: s.DF,
	}
}

// SE is the standard error of the share of a cell.
func (s *Shares) SE(j int) float64 { return s.Covariance.SE(j) }

// SE is the standard error of an estimate.
func (m Matrix) SE(j int) float64 { return math.Sqrt(m[j][j]) }

// TotalVariance is the variance of the sum of weights of each cell.
func (c *Cells) TotalVariance() []float64 {
	k := len(c.Total)
	f := Function{Value: func(total []float64) []float64 { return total }, Slope: newMatrix(k)}
	for j := range k {
		f.Slope[j][j] = 1
	}
	v, out := c.Covariance(f), make([]float64, k)
	for j := range k {
		out[j] = v[j][j]
	}
	return out
}

// Residuals are the departures of a table's cells from independence, h_ij = p_ij − p_i+ p_+j, row by
// row, with the shares and their covariance.
type Residuals struct {
	Share      []float64
	Rows       []float64
	Columns    []float64
	Departure  []float64
	Covariance Matrix
	// Slope are the slopes of each departure at the totals of the cells.
	Slope [][]float64
}

// Independence gives the departures of a table of so many columns, whose cells are counted row by
// row; every row and column must hold somebody.
func (c *Cells) Independence(columns int) Residuals {
	rows := len(c.Total) / columns
	r := departures(c.Total, columns)
	f := Function{
		Value: func(total []float64) []float64 { return departures(total, columns).Departure },
		Slope: make([][]float64, len(c.Total)),
	}
	for i := range rows {
		for j := range columns {
			slope := make([]float64, len(c.Total))
			p, down, across := r.Share[i*columns+j], r.Columns[j], r.Rows[i]
			for k := range slope {
				z := -p
				if k == i*columns+j {
					z++
				}
				z -= down * (Indicator(k/columns == i) - across)
				z -= across * (Indicator(k%columns == j) - down)
				slope[k] = z / c.Sum
			}
			f.Slope[i*columns+j] = slope
		}
	}
	r.Slope = f.Slope
	r.Covariance = c.Covariance(f)
	return r
}

// Indicator is 1 for what is so, else 0.
func Indicator(so bool) float64 {
	if so {
		return 1
	}
	return 0
}

func departures(totals []float64, columns int) Residuals {
	all := total(totals)
	r := Residuals{Rows: make([]float64, len(totals)/columns), Columns: make([]float64, columns)}
	down, across := make([]Sum, columns), make([]Sum, len(r.Rows))
	for k, t := range totals {
		across[k/columns].Add(t)
		down[k%columns].Add(t)
	}
	for i := range across {
		r.Rows[i] = across[i].Value() / all
	}
	for j := range down {
		r.Columns[j] = down[j].Value() / all
	}
	for k, t := range totals {
		r.Share = append(r.Share, t/all)
		r.Departure = append(r.Departure, t/all-r.Rows[k/columns]*r.Columns[k%columns])
	}
	return r
}

// Used is the rows and columns of a table that hold a respondent.
type Used struct {
	Rows, Columns []int
	// Cells are those of these rows and columns.
	*Cells
}

// Used leaves out the rows and columns of a table of so many columns that nobody is in.
func (c *Cells) Used(columns int) Used {
	rows := make([]int64, len(c.Count)/columns)
	across := make([]int64, columns)
	for k, n := range c.Count {
		rows[k/columns] += n
		across[k%columns] += n
	}
	u := Used{}
	for i, n := range rows {
		if n > 0 {
			u.Rows = append(u.Rows, i)
		}
	}
	for j, n := range across {
		if n > 0 {
			u.Columns = append(u.Columns, j)
		}
	}
	var kept []int
	for _, i := range u.Rows {
		for _, j := range u.Columns {
			kept = append(kept, i*columns+j)
		}
	}
	u.Cells = c.only(kept)
	return u
}

// only keeps some cells, in which everybody of the base is.
func (c *Cells) only(kept []int) *Cells {
	to := make(map[int]int, len(kept))
	for i, k := range kept {
		to[k] = i
	}
	return c.Merged(len(kept), func(cell int) int { return to[cell] })
}

// Merged puts cells together: to gives the new cell of each.
func (c *Cells) Merged(cells int, to func(cell int) int) *Cells {
	out := &Cells{Base: c.Base, Largest: c.Largest, of: c.of, Count: make([]int64, cells)}
	for k, n := range c.Count {
		if n > 0 {
			out.Count[to(k)] += n
		}
	}
	sums := func(of []float64) (all []float64) {
		for from := 0; from < len(of); from += len(c.Count) {
			part := make([]Sum, cells)
			for k := range c.Count {
				if c.Count[k] > 0 {
					part[to(k)].Add(of[from+k])
				}
			}
			all = append(all, values(part)...)
		}
		return all
	}
	out.Total, out.Squares, out.totals = sums(c.Total), sums(c.Squares), sums(c.totals)
	for from := 0; from < len(c.moments); from += len(c.Count) {
		part := make([]moment, cells)
		for k := range c.Count {
			if c.Count[k] > 0 {
				part[to(k)] = part[to(k)].with(c.moments[from+k])
			}
		}
		out.moments = append(out.moments, part...)
	}
	return out
}

// Part are the cells of a part of the base: to gives the new cell of each, and whether it is in the part.
// It is nil where nobody is.
func (c *Cells) Part(cells int, to func(cell int) (int, bool)) *Cells {
	const outside = 1
	all := c.Merged(cells+outside, func(cell int) int {
		if at, in := to(cell); in {
			return at
		}
		return cells
	})
	out := *all
	out.Count, out.Total, out.Squares = all.Count[:cells], all.Total[:cells], all.Squares[:cells]
	cut := func(of []float64) (kept []float64) {
		for from := 0; from < len(of); from += cells + outside {
			kept = append(kept, of[from:from+cells]...)
		}
		return kept
	}
	out.totals, out.moments = cut(all.totals), nil
	for from := 0; from < len(all.moments); from += cells + outside {
		out.moments = append(out.moments, all.moments[from:from+cells]...)
	}
	out.N = 0
	for _, n := range out.Count {
		out.N += n
	}
	if out.N == 0 {
		return nil
	}
	out.Sum = total(out.Total)
	out.KishN = out.Sum * out.Sum / total(out.Squares)
	out.KishEffect = float64(out.N) / out.KishN
	return &out
}

// Digest stands for all that estimates of the cells depend on.
func (c *Cells) Digest() string {
	sum := sha256.New()
	fmt.Fprintln(sum, c.Base, c.Count)
	for _, list := range [][]float64{c.Total, c.totals} {
		for _, x := range list {
			fmt.Fprintf(sum, "%x ", x)
		}
	}
	for _, m := range c.moments {
		fmt.Fprintf(sum, "%v %x %x ", m.n, m.mean, m.spread)
	}
	for _, h := range c.of.strata {
		fmt.Fprintf(sum, "%d %d %x ", h.from, h.before, h.unsampled)
	}
	fmt.Fprint(sum, c.of.single)
	if r := c.of.replicates; r != nil {
		fmt.Fprint(sum, r.df, r.mean, r.factors)
	}
	return hex.EncodeToString(sum.Sum(nil))
}

// Within are the shares of cells within their row and within their column, row by row; nil where
// nobody is in it.
func (c *Cells) Within(columns int) (rows, down [][]*float64) {
	n := len(c.Count) / columns
	part := func(k int, others func(i int) int, of int) *float64 {
		var count int64
		var all Sum
		for i := range of {
			count += c.Count[others(i)]
			all.Add(c.Total[others(i)])
		}
		if count == 0 {
			return nil
		}
		p := share(c.Count[k], count, c.Total[k], all.Value())
		return &p
	}
	for i := range n {
		row, column := make([]*float64, columns), make([]*float64, columns)
		for j := range columns {
			k := i*columns + j
			row[j] = part(k, func(o int) int { return i*columns + o }, columns)
			column[j] = part(k, func(o int) int { return o*columns + j }, n)
		}
		rows, down = append(rows, row), append(down, column)
	}
	return rows, down
}

// RaoScott asks for the test of independence on degrees of freedom at a level.
func (r Residuals) RaoScott(n int64, df int, level float64) infer.RaoScottInput {
	in := infer.RaoScottInput{N: n, Departure: r.Departure, Covariance: r.Covariance, DF: df, Level: level}
	columns := len(r.Columns)
	for k := range r.Departure {
		in.Expected = append(in.Expected, r.Rows[k/columns]*r.Columns[k%columns])
		if k/columns < len(r.Rows)-1 && k%columns < columns-1 {
			in.Free = append(in.Free, k)
		}
	}
	return in
}
