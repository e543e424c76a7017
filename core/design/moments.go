package design

// moment is how the weights of a cell within a stratum are spread, where each row is a PSU: how many,
// their mean, and Σ(w − mean)².
type moment struct {
	n            float64
	mean, spread float64
}

// with is the moment of both together (Chan, Golub and LeVeque 1983, Algorithms for computing the
// sample variance).
func (m moment) with(o moment) moment {
	if m.n == 0 {
		return o
	}
	if o.n == 0 {
		return m
	}
	n, away := m.n+o.n, o.mean-m.mean
	return moment{n, m.mean + away*o.n/n, m.spread + o.spread + away*away*m.n*o.n/n}
}

// sums are the number of rows, and the sums of their departures from a weight and of the squares of these.
type sums struct{ n, sum, squares float64 }

// moment is that of the weights, given the weight from which they depart.
func (s sums) moment(shift float64) moment {
	if s.n == 0 {
		return moment{}
	}
	away := s.sum / s.n
	return moment{s.n, shift + away, max(0, s.squares-away*s.sum)}
}

func (s *sums) add(away float64) {
	s.n++
	s.sum += away
	s.squares += away * away
}

// NoByte is None among cells that are written as bytes.
const NoByte = 255

// ByteFiller is a Filler of fewer than 255 cells, with NoByte outside of the base.
type ByteFiller func(rows []int, at []uint8)

// mostByteStrata is up to how many strata have sums of their own for each byte.
const mostByteStrata = 256

// CellsByBytes is CellsBy for cells that fit into a byte each, which is faster where everybody was drawn
// alone.
func (s *Sample) CellsByBytes(cells int, fill ByteFiller) (*Cells, error) {
	if !s.unclustered || len(s.strata) > mostByteStrata || s.replicates != nil {
		return s.CellsBy(cells, func(rows []int, at []int32) {
			var of [block]uint8
			fill(rows, of[:len(rows)])
			for k, x := range of[:len(rows)] {
				if at[k] = int32(x); x == NoByte {
					at[k] = None
				}
			}
		})
	}
	c := &Cells{of: s, Base: s.whole(), moments: make([]moment, len(s.strata)*cells)}
	var lock turn
	s.parted(len(s.strata)*lanes*256, func(part, from, before int) {
		all, largest := make([]bytesums, len(s.strata)), 0.0
		var buffer [block]uint8
		for ; from < before; from += block {
			to := min(from+block, before)
			cell := buffer[:to-from]
			fill(s.Rows[from:to], cell)
			if len(all) == 1 {
				all[0].add(cell, s.Weights[from:to], s.shift[0])
			} else {
				addByStratum(all, cell, s.stratumOf[from:to], s.Weights[from:to], s.shift)
			}
			largest = heaviest(s, from, cell, NoByte, largest)
		}
		lock.next(part, func() {
			c.Largest = max(c.Largest, largest)
			for i := range c.moments {
				h := i / cells
				m := sums{}
				for lane := range lanes {
					of := all[h][lane][i%cells]
					m.n, m.sum, m.squares = m.n+of.n, m.sum+of.sum, m.squares+of.squares
				}
				c.moments[i] = c.moments[i].with(m.moment(s.shift[h]))
			}
		})
	})
	c.fromMoments(len(s.strata))
	return c, c.summed()
}

// bytesums are sums by a byte, in lanes.
type bytesums [lanes][256]sums

// add adds rows of one stratum.
func (s *bytesums) add(cell []uint8, weights []float64, shift float64) {
	weights = weights[:len(cell)]
	k := 0
	for ; k+lanes <= len(cell); k += lanes {
		c, w := cell[k:k+lanes:k+lanes], weights[k:k+lanes:k+lanes]
		s[0][c[0]].add(w[0] - shift)
		s[1][c[1]].add(w[1] - shift)
		s[2][c[2]].add(w[2] - shift)
		s[3][c[3]].add(w[3] - shift)
	}
	for ; k < len(cell); k++ {
		s[0][cell[k]].add(weights[k] - shift)
	}
}

// addByStratum adds rows of several strata, where neighbours seldom wait for the same sum.
func addByStratum(all []bytesums, cell []uint8, strata []int32, weights, shift []float64) {
	strata, weights = strata[:len(cell)], weights[:len(cell)]
	for k, at := range cell {
		h := strata[k]
		all[h][k%lanes][at].add(weights[k] - shift[h])
	}
}

// lanes is in how many sums neighbours are counted apart.
const lanes = 4

// byStratum counts cells where each row is a PSU: the moments of their weights, stratum by stratum, by
// their departures from the first weight of the stratum (Chan, Golub and LeVeque 1983), so that equal
// weights have no spread at all.
func (s *Sample) byStratum(c *Cells, cells int, fill Filler) {
	c.moments = make([]moment, len(s.strata)*cells)
	var lock turn
	s.parted(len(c.moments), func(part, from, before int) {
		// The last sum is of who is outside of the base, so that no branch is to be foretold; neighbours
		// go to sums of their own, so that none waits for the one before.
		outside, largest := len(c.moments), 0.0
		all, size := make([]sums, lanes*(outside+1)), outside+1
		var buffer [block]int32
		for ; from < before; from += block {
			to := min(from+block, before)
			cell, weights, strata := buffer[:to-from], s.Weights[from:to], s.stratumOf[from:to]
			fill(s.Rows[from:to], cell)
			for k, at := range cell {
				h, w := int(strata[k]), weights[k]
				out := int(at >> 31) // all ones outside of the base
				all[k%lanes*size+((h*cells+int(at))&^out|outside&out)].add(w - s.shift[h])
			}
			largest = heaviest(s, from, cell, None, largest)
		}
		for i := size; i < len(all); i++ {
			m := &all[i%size]
			m.n += all[i].n
			m.sum += all[i].sum
			m.squares += all[i].squares
		}
		lock.next(part, func() {
			c.Largest = max(c.Largest, largest)
			for i, m := range all[:outside] {
				c.moments[i] = c.moments[i].with(m.moment(s.shift[i/cells]))
			}
		})
	})
	c.fromMoments(len(s.strata))
}

// fromMoments counts the cells from the moments of so many strata.
func (c *Cells) fromMoments(strata int) {
	cells := len(c.moments) / strata
	c.Count = make([]int64, cells)
	total, squares := make([]Sum, cells), make([]Sum, cells)
	for h := range strata {
		held := 0.0
		for i, m := range c.moments[h*cells : (h+1)*cells] {
			held += m.n
			c.Count[i] += int64(m.n)
			total[i].Add(m.n * m.mean)
			squares[i].Add(m.spread)
			squares[i].Add(m.n * m.mean * m.mean)
		}
		c.BasePSUs += int(held)
		if held > 0 {
			c.BaseStrata++
		}
	}
	c.Total, c.Squares = values(total), values(squares)
}

// withinStrata is the variance of what is linear in the cells, where each row is a PSU, or what one
// stratum adds to it. With z = w d_c
// in cell c, and 0 outside of the base, Σ(z − z̄)(z − z̄)ᵀ of a stratum is, without a difference of
// large numbers, Σ_c [S_c d_c d_cᵀ + n_c(w̄_c d_c − z̄)(w̄_c d_c − z̄)ᵀ] + n_0 z̄ z̄ᵀ.
func (s *Sample) withinStrata(c *Cells, d [][]float64, only int) Matrix {
	cells, k := len(c.Total), len(d)
	sums, squares := make([]Sum, k*k), make([]Sum, k)
	add := func(factor float64, z []float64) {
		for i, a := range z {
			for j := range i + 1 {
				sums[i*k+j].Add(factor * a * z[j])
			}
		}
	}
	centre := s.meanOfMoments(c.moments, d, s.PSUs())
	z, slope := make([]float64, k), make([]float64, k)
	for h, stratum := range s.strata {
		n := float64(stratum.before - stratum.from)
		if only != all && h != only || stratum.unsampled == 0 || n == 1 && s.single != CentreSingle {
			continue
		}
		moments := c.moments[h*cells : (h+1)*cells]
		factor, around := stratum.unsampled, centre
		if n > 1 {
			factor, around = stratum.unsampled*n/(n-1), s.meanOfMoments(moments, d, stratum.before-stratum.from)
		}
		outside := n
		for i, m := range moments {
			if m.n == 0 {
				continue
			}
			outside -= m.n
			for j := range d {
				slope[j] = d[j][i]
				z[j] = m.mean*slope[j] - around[j]
				squares[j].Add(factor * (m.spread + m.n*m.mean*m.mean) * slope[j] * slope[j])
			}
			add(factor*m.spread, slope)
			add(factor*m.n, z)
		}
		add(factor*outside, around)
	}
	return symmetric(sums, squares)
}

// meanOfMoments is the mean of z over so many PSUs.
func (s *Sample) meanOfMoments(moments []moment, d [][]float64, of int) []float64 {
	out := make([]float64, len(d))
	for j, slopes := range d {
		var sum Sum
		for i, m := range moments {
			sum.Add(m.n * m.mean * slopes[i%len(slopes)])
		}
		out[j] = sum.Value() / float64(of)
	}
	return out
}

// withinRows is Variance where each row is a PSU, without keeping what z writes: the means of the strata
// first, and then the products of the departures from them.
func (s *Sample) withinRows(k int, z func(row int, out []float64)) Matrix {
	sums, out := make([]Sum, len(s.strata)*k), make([]float64, k)
	for row, h := range s.stratumOf {
		z(row, out)
		for j, x := range out {
			if x != 0 {
				sums[int(h)*k+j].Add(x)
			}
		}
	}
	of := values(sums)
	centre, around, factors := make([]float64, k), make([]float64, len(of)), make([]float64, len(s.strata))
	for j := range k {
		var sum Sum
		for h := range s.strata {
			sum.Add(of[h*k+j])
		}
		centre[j] = sum.Value() / float64(s.PSUs())
	}
	for h, stratum := range s.strata {
		n := float64(stratum.before - stratum.from)
		if n == 1 {
			if s.single == CentreSingle {
				factors[h] = stratum.unsampled
			}
			copy(around[h*k:], centre)
			continue
		}
		factors[h] = stratum.unsampled * n / (n - 1)
		for j := range k {
			around[h*k+j] = of[h*k+j] / n
		}
	}
	products, squares := make([]Sum, k*k), make([]Sum, k)
	some, away := make([]float64, k*k), make([]float64, k)
	for row, h := range s.stratumOf {
		factor := factors[h]
		if factor != 0 {
			z(row, out)
			for j, x := range out {
				away[j] = x - around[int(h)*k+j]
				squares[j].Add(factor * x * x)
			}
			for i, a := range away {
				for j := range i + 1 {
					some[i*k+j] += factor * a * away[j]
				}
			}
		}
		if row%block == block-1 || row == len(s.stratumOf)-1 {
			for i, x := range some {
				products[i].Add(x)
				some[i] = 0
			}
		}
	}
	return symmetric(products, squares)
}
