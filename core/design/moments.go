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

func (s *sums) add(away float64) {
	s.n++
	s.sum += away
	s.squares += away * away
}

// addAlone adds the rows of a single stratum to sums of so many cells, of which the last is of who is
// outside of the base, and gives the largest weight in it.
func addAlone(all []sums, size int, cell []int32, weights []float64, shift float64) (largest float64) {
	l0, l1, l2, l3 := all[:size], all[size:2*size], all[2*size:3*size], all[3*size:4*size]
	at := func(cell int32) int { return int(cell + cell>>31&int32(size)) } // −1 becomes size − 1
	weights = weights[:len(cell)]
	k := 0
	for ; k+lanes <= len(cell); k += lanes {
		c, w := cell[k:k+lanes:k+lanes], weights[k:k+lanes:k+lanes]
		l0[at(c[0])].add(w[0] - shift)
		l1[at(c[1])].add(w[1] - shift)
		l2[at(c[2])].add(w[2] - shift)
		l3[at(c[3])].add(w[3] - shift)
	}
	for ; k < len(cell); k++ {
		l0[at(cell[k])].add(weights[k] - shift)
	}
	for k, w := range weights {
		if w > largest && cell[k] >= 0 {
			largest = w
		}
	}
	return largest
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
			if len(s.strata) == 1 {
				largest = max(largest, addAlone(all, size, cell, weights, s.shift[0]))
				continue
			}
			for k, at := range cell {
				h, w := int(strata[k]), weights[k]
				out := int(at >> 31) // all ones outside of the base
				all[k%lanes*size+((h*cells+int(at))&^out|outside&out)].add(w - s.shift[h])
				if w > largest && at >= 0 {
					largest = w
				}
			}
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
				if m.n > 0 {
					away := m.sum / m.n
					own := moment{m.n, s.shift[i/cells] + away, max(0, m.squares-away*m.sum)}
					c.moments[i] = c.moments[i].with(own)
				}
			}
		})
	})
	c.Count = make([]int64, cells)
	total, squares := make([]Sum, cells), make([]Sum, cells)
	for h := range s.strata {
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
