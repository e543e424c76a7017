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

// byStratum counts cells where each row is a PSU: the moments of their weights, stratum by stratum, by
// their departures from the first weight of the stratum (Chan, Golub and LeVeque 1983), so that equal
// weights have no spread at all.
func (s *Sample) byStratum(c *Cells, cells int, fill Filler) {
	type sums struct{ n, sum, squares float64 }
	c.moments = make([]moment, len(s.strata)*cells)
	var lock turn
	s.parted(len(c.moments), func(part, from, before int) {
		all, largest := make([]sums, len(c.moments)), 0.0
		var buffer [block]int32
		for ; from < before; from += block {
			to := min(from+block, before)
			cell, weights, strata := buffer[:to-from], s.Weights[from:to], s.stratumOf[from:to]
			fill(s.Rows[from:to], cell)
			for k, at := range cell {
				if at < 0 {
					continue
				}
				h, w := int(strata[k]), weights[k]
				away := w - s.shift[h]
				m := &all[h*cells+int(at)]
				m.n++
				m.sum += away
				m.squares += away * away
				if w > largest {
					largest = w
				}
			}
		}
		lock.next(part, func() {
			c.Largest = max(c.Largest, largest)
			for i, m := range all {
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
