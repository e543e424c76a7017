package design

import "math"

// Sum adds numbers with a compensation for what rounding loses (Neumaier 1974, Rundungsfehleranalyse
// einiger Verfahren zur Summation endlicher Summen), so that the sum is the same in any order to
// about the last digit. The zero value is 0.
type Sum struct{ sum, rest float64 }

// Add adds a number.
func (s *Sum) Add(x float64) {
	t := s.sum + x
	if math.Abs(s.sum) >= math.Abs(x) {
		s.rest += (s.sum - t) + x
	} else {
		s.rest += (x - t) + s.sum
	}
	s.sum = t
}

// Value is the sum.
func (s *Sum) Value() float64 { return s.sum + s.rest }

// Matrix is a square matrix of covariances.
type Matrix [][]float64

func newMatrix(n int) Matrix {
	m := make(Matrix, n)
	for i := range m {
		m[i] = make([]float64, n)
	}
	return m
}

// rounding is how small a variance is, of the squares that it is a sum of, to be nothing but the
// rounding of equal numbers.
const rounding = 1e-26

// Variance is the covariance of estimates whose linearised values z writes for each row, given by
// its place in the sample, k numbers each, 0 outside of the base:
//
//	V = Σ_h (1 − f_h) n_h/(n_h − 1) Σ_u (z_hu − z̄_h)(z_hu − z̄_h)ᵀ
//
// over the strata h and their n_h PSUs u: ultimate clusters, drawn with replacement but for the
// factor 1 − f_h (Hansen, Hurwitz and Madow 1953; linearised: Woodruff 1971, Binder 1983). A variance
// that is nothing but rounding is 0.
func (s *Sample) Variance(k int, z func(row int, out []float64)) Matrix {
	if s.unclustered {
		return s.withinRows(k, z)
	}
	totals := make([]Sum, s.PSUs()*k)
	out := make([]float64, k)
	for row, u := range s.PSU {
		z(row, out)
		for j, x := range out {
			if x != 0 {
				totals[int(u)*k+j].Add(x)
			}
		}
	}
	of := make([]float64, len(totals))
	for i := range totals {
		of[i] = totals[i].Value()
	}
	return s.between(k, of, all)
}

// all stands for all strata.
const all = -1

// between is the covariance of the totals of the PSUs, k each; or what one stratum adds to it.
func (s *Sample) between(k int, totals []float64, only int) Matrix {
	sums, squares := make([]Sum, k*k), make([]Sum, k)
	centre := means(totals, k, 0, s.PSUs())
	away := make([]float64, k)
	for i, h := range s.strata {
		n := float64(h.before - h.from)
		if only != all && i != only || h.unsampled == 0 || n == 1 && s.single != CentreSingle {
			continue
		}
		factor, around := h.unsampled, centre
		if n > 1 {
			factor, around = h.unsampled*n/(n-1), means(totals, k, h.from, h.before)
		}
		for u := h.from; u < h.before; u++ {
			for j := range away {
				x := totals[u*k+j]
				away[j] = x - around[j]
				squares[j].Add(factor * x * x)
			}
			for i, a := range away {
				if a == 0 {
					continue
				}
				for j := range i + 1 {
					sums[i*k+j].Add(factor * a * away[j])
				}
			}
		}
	}
	return symmetric(sums, squares)
}

// symmetric makes a matrix of the sums below its diagonal; a variance that is nothing but rounding of
// the squares is 0.
func symmetric(sums, squares []Sum) Matrix {
	k := len(squares)
	v := newMatrix(k)
	for i := range v {
		for j := range i + 1 {
			v[i][j] = sums[i*k+j].Value()
			v[j][i] = v[i][j]
		}
	}
	for i := range v {
		if v[i][i] <= rounding*squares[i].Value() {
			for j := range v {
				v[i][j], v[j][i] = 0, 0
			}
		}
	}
	return v
}

// means are those of the totals of some PSUs.
func means(totals []float64, k, from, before int) []float64 {
	out := make([]float64, k)
	for j := range out {
		var sum Sum
		for u := from; u < before; u++ {
			sum.Add(totals[u*k+j])
		}
		out[j] = sum.Value() / float64(before-from)
	}
	return out
}

// Cells are the respondents and weights of a base that is parted into cells, such as the answers of
// a question or the cells of a table, kept by PSU: what every estimate of shares is made of.
type Cells struct {
	Base
	// Count and Total are the respondents and the sums of weights of the cells.
	Count []int64
	Total []float64
	// Squares are the sums of squared weights.
	Squares []float64
	// Largest is the largest weight in the base.
	Largest float64
	of      *Sample
	// totals are those of the PSUs, or of the replicates, cell by cell; where each row is a PSU the
	// moments of the weights by stratum stand in their place.
	totals  []float64
	moments []moment
}

// Function is estimates that are made of the totals of cells: their values, by which replicates
// vary, and their slopes at the totals of the sample, ∂θ_k/∂T_c, by which they are linearised.
type Function struct {
	Value func(total []float64) []float64
	Slope [][]float64
}

// Covariance is that of the estimates, as the design or the replicates give it.
func (c *Cells) Covariance(f Function) Matrix {
	if r := c.of.replicates; r != nil {
		return r.of(c, f.Value)
	}
	return c.of.linear(c, f.Slope, all)
}

// Cells counts the cells of a base: of each row, by its place in the file, cell gives the cell from 0
// on, or None outside of the base. The error is EmptyBase.
func (s *Sample) Cells(cells int, cell func(row int) int) (*Cells, error) {
	return s.CellsBy(cells, func(rows []int, at []int32) {
		for k, row := range rows {
			at[k] = int32(cell(row))
		}
	})
}

// Filler writes the cell of each of some rows, given by their places in the file, from 0 on, or None
// outside of the base.
type Filler func(rows []int, at []int32)

// CellsBy is Cells for who tells the cells of many rows at once.
func (s *Sample) CellsBy(cells int, fill Filler) (*Cells, error) {
	c := &Cells{of: s, Base: s.whole()}
	if s.unclustered {
		s.byStratum(c, cells, fill)
	} else {
		s.byPSU(c, cells, fill)
	}
	if err := c.summed(); err != nil {
		return nil, err
	}
	if s.replicates != nil {
		return c, s.byReplicate(c, cells, fill)
	}
	return c, nil
}

// summed sums up the cells as a base. The error is EmptyBase.
func (c *Cells) summed() error {
	for _, n := range c.Count {
		c.N += n
	}
	if c.N == 0 {
		return refuse(EmptyBase, -1)
	}
	c.Sum = total(c.Total)
	c.KishN = c.Sum * c.Sum / total(c.Squares)
	c.KishEffect = float64(c.N) / c.KishN
	return nil
}

// block is how many rows are added plainly before their sums are added with a compensation.
const block = 4096

// byPSU counts cells and adds up their weights by PSU.
func (s *Sample) byPSU(c *Cells, cells int, fill Filler) {
	c.Count, c.totals = make([]int64, cells), make([]float64, c.PSUs*cells)
	squares := make([]Sum, cells)
	var lock turn
	s.parted(len(c.totals), func(part, from, before int) {
		// The last of each is of who is outside of the base: no branch is to be foretold.
		count, totals, outside := make([]int64, cells+1), make([]float64, len(c.totals)+1), len(c.totals)
		own, some, largest := make([]Sum, cells), make([]float64, cells+1), 0.0
		var buffer [block]int32
		for ; from < before; from += block {
			to := min(from+block, before)
			cell, weights, psus := buffer[:to-from], s.Weights[from:to], s.PSU[from:to]
			fill(s.Rows[from:to], cell)
			for k, at := range cell {
				w, out := weights[k], int(at>>31) // all ones outside of the base
				of := int(at)&^out | cells&out
				count[of]++
				totals[(int(psus[k])*cells+int(at))&^out|outside&out] += w
				some[of] += w * w
			}
			largest = heaviest(s, from, cell, None, largest)
			for i := range own {
				own[i].Add(some[i])
			}
			clear(some)
		}
		lock.next(part, func() {
			c.Largest = max(c.Largest, largest)
			for i := range cells {
				c.Count[i] += count[i]
				squares[i].Add(own[i].Value())
			}
			for i, x := range totals[:outside] {
				c.totals[i] += x
			}
		})
	})
	c.Squares = values(squares)
	sums := make([]Sum, cells)
	for _, h := range s.strata {
		before := c.BasePSUs
		for u := h.from; u < h.before; u++ {
			held := false
			for i, x := range c.totals[u*cells : (u+1)*cells] {
				if x > 0 {
					held = true
					sums[i].Add(x)
				}
			}
			if held {
				c.BasePSUs++
			}
		}
		if c.BasePSUs > before {
			c.BaseStrata++
		}
	}
	c.Total = values(sums)
}

func values(sums []Sum) []float64 {
	out := make([]float64, len(sums))
	for i := range sums {
		out[i] = sums[i].Value()
	}
	return out
}

// linear is the covariance of what has these slopes at the totals of the cells, or what one stratum
// adds to it: z of a row is w D_kc, of a PSU is Σ_c D_kc T_uc.
func (s *Sample) linear(c *Cells, d [][]float64, only int) Matrix {
	cells, k := len(c.Total), len(d)
	if c.moments != nil {
		return s.withinStrata(c, d, only)
	}
	z := make([]float64, c.PSUs*k)
	for u := range c.PSUs {
		of := c.totals[u*cells : (u+1)*cells]
		for j, slopes := range d {
			var sum Sum
			for i, t := range of {
				if t != 0 && slopes[i] != 0 {
					sum.Add(slopes[i] * t)
				}
			}
			z[u*k+j] = sum.Value()
		}
	}
	return s.between(k, z, only)
}
