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
// their departures from the first weight of each (Chan, Golub and LeVeque 1983), so that equal weights
// have no spread at all.
func (s *Sample) byStratum(c *Cells, cells int, fill Filler) {
	type shifted struct{ n, first, sum, squares float64 }
	all := make([]shifted, len(s.strata)*cells)
	var buffer [block]int32
	largest := 0.0
	for from := 0; from < len(s.Rows); from += block {
		to := min(from+block, len(s.Rows))
		cell, weights, strata := buffer[:to-from], s.Weights[from:to], s.stratumOf[from:to]
		fill(s.Rows[from:to], cell)
		for k, at := range cell {
			if at < 0 {
				continue
			}
			w, m := weights[k], &all[int(strata[k])*cells+int(at)]
			if m.n == 0 {
				m.first = w
			}
			away := w - m.first
			m.n++
			m.sum += away
			m.squares += away * away
			if w > largest {
				largest = w
			}
		}
	}
	c.Largest = largest
	c.Count, c.moments = make([]int64, cells), make([]moment, len(all))
	sums, squares := make([]Sum, cells), make([]Sum, cells)
	for h := range s.strata {
		held := 0.0
		for i := range cells {
			m := all[h*cells+i]
			if m.n == 0 {
				continue
			}
			held += m.n
			mean := m.first + m.sum/m.n
			c.moments[h*cells+i] = moment{m.n, mean, max(0, m.squares-m.sum/m.n*m.sum)}
			c.Count[i] += int64(m.n)
			sums[i].Add(m.n * m.first)
			sums[i].Add(m.sum)
			squares[i].Add(m.n * m.first * m.first)
			squares[i].Add(2 * m.first * m.sum)
			squares[i].Add(m.squares)
		}
		c.BasePSUs += int(held)
		if held > 0 {
			c.BaseStrata++
		}
	}
	c.Total, c.Squares = values(sums), values(squares)
}

// withinStrata is the variance of what is linear in the cells, where each row is a PSU. With z = w d_c
// in cell c, and 0 outside of the base, Σ(z − z̄)(z − z̄)ᵀ of a stratum is, without a difference of
// large numbers, Σ_c [S_c d_c d_cᵀ + n_c(w̄_c d_c − z̄)(w̄_c d_c − z̄)ᵀ] + n_0 z̄ z̄ᵀ.
func (s *Sample) withinStrata(c *Cells, d [][]float64) Matrix {
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
		if stratum.unsampled == 0 || n == 1 && s.single != CentreSingle {
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
