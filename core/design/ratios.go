package design

import "math"

// Ratios are estimates Σ a_c T_c/Σ b_c T_c of the totals T of cells, such as shares within some of the
// cells, mean scores of groups, and differences of shares that have one base.
type Ratios struct {
	Value      []float64
	Covariance Matrix
}

// SE is the standard error of one.
func (r *Ratios) SE(i int) float64 { return r.Covariance.SE(i) }

// Ratios estimates so many: above and below give a and b of a cell. The base of each must hold somebody.
func (c *Cells) Ratios(k int, above, below func(i, cell int) float64) *Ratios {
	cells := len(c.Total)
	value := func(total []float64) []float64 {
		out := make([]float64, k)
		for i := range out {
			var a, b Sum
			for cell, t := range total {
				if t != 0 {
					a.Add(above(i, cell) * t)
					b.Add(below(i, cell) * t)
				}
			}
			out[i] = a.Value() / b.Value()
		}
		return out
	}
	r := &Ratios{Value: value(c.Total)}
	f := Function{Value: value, Slope: newRows(k, cells)}
	for i, slopes := range f.Slope {
		var all Sum
		for cell, t := range c.Total {
			all.Add(below(i, cell) * t)
		}
		for cell := range slopes {
			slopes[cell] = (above(i, cell) - r.Value[i]*below(i, cell)) / all.Value()
		}
	}
	r.Covariance = c.Covariance(f)
	return r
}

// Groups are the mean scores of groups, of those that hold somebody.
type Groups struct {
	*Ratios
	// At are the groups, N their respondents.
	At []int
	N  []int64
	// Spread is the variance of the scores within the groups.
	Spread float64
}

// Groups gives the mean scores of so many groups: a cell has a score and a group.
func (c *Cells) Groups(groups int, score func(cell int) float64, group func(cell int) int) *Groups {
	g := &Groups{}
	counts, place := make([]int64, groups), make([]int, groups)
	for cell, n := range c.Count {
		counts[group(cell)] += n
	}
	for i, n := range counts {
		if n > 0 {
			place[i] = len(g.At)
			g.At, g.N = append(g.At, i), append(g.N, n)
		}
	}
	in := func(i, cell int) float64 { return Indicator(group(cell) == g.At[i]) }
	g.Ratios = c.Ratios(len(g.At), func(i, cell int) float64 { return in(i, cell) * score(cell) }, in)
	var spread Sum
	for cell, t := range c.Total {
		if c.Count[cell] > 0 {
			away := score(cell) - g.Value[place[group(cell)]]
			spread.Add(t * away * away)
		}
	}
	g.Spread = spread.Value() / c.Sum
	return g
}

// Apart are the means less that of the last group, with their covariance, and that which they would
// have in a simple random sample of as many respondents with one spread in all groups.
func (g *Groups) Apart() (d []float64, v, simple Matrix) {
	last := len(g.At) - 1
	v, simple = newMatrix(last), newMatrix(last)
	for i := range last {
		d = append(d, g.Value[i]-g.Value[last])
		for j := range last {
			m := g.Covariance
			v[i][j] = m[i][j] - m[i][last] - m[last][j] + m[last][last]
			simple[i][j] = g.Spread * (1/float64(g.N[last]) + Indicator(i == j)/float64(g.N[i]))
		}
	}
	return d, v, simple
}

// Slope is that of the weighted regression of a score on another one, both of the cell (Fuller 1975;
// Binder 1983), with their weighted correlation. The error is OneGroup where the second is the same for
// everybody.
func (c *Cells) Slope(y, x func(cell int) float64) (slope Estimate, correlation float64, err error) {
	moments := func(total []float64) (mx, my, xx, xy, yy float64) {
		var all, sx, sy, sxx, sxy, syy Sum
		for cell, t := range total {
			if t != 0 {
				all.Add(t)
				sx.Add(t * x(cell))
				sy.Add(t * y(cell))
			}
		}
		mx, my = sx.Value()/all.Value(), sy.Value()/all.Value()
		for cell, t := range total {
			if t != 0 {
				dx, dy := x(cell)-mx, y(cell)-my
				sxx.Add(t * dx * dx)
				sxy.Add(t * dx * dy)
				syy.Add(t * dy * dy)
			}
		}
		return mx, my, sxx.Value(), sxy.Value(), syy.Value()
	}
	seen, first := false, 0.0
	alike := true
	for cell, n := range c.Count {
		if n > 0 {
			alike = alike && (!seen || x(cell) == first)
			seen, first = true, x(cell)
		}
	}
	mx, my, xx, xy, yy := moments(c.Total)
	if alike || !(xx > 0) {
		return slope, 0, refuse(OneGroup, -1)
	}
	slope.Value = xy / xx
	f := Function{Slope: newRows(1, len(c.Total)), Value: func(total []float64) []float64 {
		_, _, xx, xy, _ := moments(total)
		return []float64{xy / xx}
	}}
	for cell := range c.Total {
		dx := x(cell) - mx
		f.Slope[0][cell] = dx * (y(cell) - my - slope.Value*dx) / xx
	}
	slope.Variance = c.Covariance(f)[0][0]
	if yy > 0 {
		correlation = xy / math.Sqrt(xx*yy)
	}
	return slope, correlation, nil
}

// MidRanks are the ranks of answers in the population, as shares of it from 0 to 1: the share below an
// answer and half the share that gave it. Tests of ranks go by them as by scores (Lumley and Scott 2013,
// Biometrika 100).
func MidRanks(shares []float64) []float64 {
	below, out := 0.0, make([]float64, len(shares))
	for i, p := range shares {
		out[i] = below + p/2
		below += p
	}
	return out
}

// Counted are cells of which only the counts are known, and how many times the variance of a simple
// random sample their shares have. They have a respondent less one degrees of freedom: those of the
// design are not known. The error is EmptyBase.
func Counted(counts []int64, effect float64) (*Cells, error) {
	var n int64
	for _, x := range counts {
		n += x
	}
	if n == 0 {
		return nil, refuse(EmptyBase, -1)
	}
	s := &Sample{unclustered: true, strata: []stratum{{from: 0, before: int(n), unsampled: effect}}}
	c := &Cells{of: s, Base: s.whole(), Count: counts, Largest: 1}
	c.N, c.Design, c.BasePSUs, c.BaseStrata = n, n, int(n), 1
	for _, x := range counts {
		c.Total, c.Squares = append(c.Total, float64(x)), append(c.Squares, float64(x))
		c.moments = append(c.moments, moment{n: float64(x), mean: 1})
	}
	c.Sum, c.KishN, c.KishEffect = float64(n), float64(n), 1
	return c, nil
}

// Contribution is what a stratum adds to a variance.
type Contribution struct {
	// Units are its PSUs, Unsampled 1 less the part of them that was drawn.
	Units     int
	Unsampled float64
	Variance  float64
}

// ByStratum parts the variance of an estimate with these slopes at the totals of the cells by strata;
// nil where replicates tell it.
func (c *Cells) ByStratum(slope []float64) (out []Contribution) {
	s := c.of
	if s.replicates != nil {
		return nil
	}
	for i, h := range s.strata {
		v := s.linear(c, [][]float64{slope}, i)
		out = append(out, Contribution{h.before - h.from, h.unsampled, v[0][0]})
	}
	return out
}

// ShareSlope are the slopes of the share of a cell.
func (c *Cells) ShareSlope(j int) []float64 {
	out := make([]float64, len(c.Total))
	p := share(c.Count[j], c.N, c.Total[j], c.Sum)
	for i := range out {
		out[i] = (Indicator(i == j) - p) / c.Sum
	}
	return out
}
