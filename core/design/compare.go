package design

import "math"

// Compare compares two shares of cells: a and b tell of a cell whether it is in the base of each, and
// whether it counts there. The error is EmptyBase.
func (c *Cells) Compare(a, b func(cell int) (counts, in bool)) (*Two, error) {
	t := &Two{PSUs: c.PSUs, Strata: c.Strata, DF: c.DF}
	parts := []func(int) (bool, bool){a, b}
	var means [2]float64
	for i, of := range parts {
		d := []*Domain{&t.A, &t.B}[i]
		var part, whole, squares Sum
		count := int64(0)
		for k, n := range c.Count {
			counts, in := of(k)
			if !in {
				continue
			}
			d.N += n
			whole.Add(c.Total[k])
			squares.Add(c.Squares[k])
			if counts {
				count += n
				part.Add(c.Total[k])
			}
		}
		if d.N == 0 {
			return nil, refuse(EmptyBase, -1)
		}
		d.Sum = whole.Value()
		d.KishN = d.Sum * d.Sum / squares.Value()
		d.KishEffect = float64(d.N) / d.KishN
		means[i] = share(count, d.N, part.Value(), d.Sum)
		d.Mean = means[i]
	}
	p, q := means[0], means[1]
	risk := p > 0 && q > 0
	odds := risk && p < 1 && q < 1
	f := Function{
		Value: func(total []float64) []float64 { return compared(total, parts) },
		Slope: newRows(5, len(c.Total)),
	}
	for k := range c.Total {
		var z [2]float64
		for i, of := range parts {
			if counts, in := of(k); in {
				z[i] = (Indicator(counts) - means[i]) / []float64{t.A.Sum, t.B.Sum}[i]
			}
		}
		f.Slope[0][k], f.Slope[1][k], f.Slope[2][k] = z[0], z[1], z[0]-z[1]
		if risk {
			f.Slope[3][k] = z[0]/p - z[1]/q
		}
		if odds {
			f.Slope[4][k] = z[0]/(p*(1-p)) - z[1]/(q*(1-q))
		}
	}
	t.Slope = f.Slope[2]
	v := c.Covariance(f)
	t.A.Variance, t.B.Variance, t.Covariance = v[0][0], v[1][1], v[0][1]
	t.Difference = Estimate{p - q, v[2][2]}
	if risk {
		t.LogRisk = &Estimate{math.Log(p / q), v[3][3]}
	}
	if odds {
		t.LogOdds = &Estimate{math.Log(p / (1 - p) * ((1 - q) / q)), v[4][4]}
	}
	return t, nil
}

func newRows(rows, columns int) [][]float64 {
	out := make([][]float64, rows)
	for i := range out {
		out[i] = make([]float64, columns)
	}
	return out
}

// compared are two shares, their difference and the logarithms of relative risk and odds ratio.
func compared(total []float64, parts []func(int) (bool, bool)) []float64 {
	var shares [2]float64
	for i, of := range parts {
		var part, whole Sum
		for k, x := range total {
			if counts, in := of(k); in {
				whole.Add(x)
				if counts {
					part.Add(x)
				}
			}
		}
		shares[i] = part.Value() / whole.Value()
	}
	p, q := shares[0], shares[1]
	return []float64{p, q, p - q, math.Log(p / q), math.Log(p / (1 - p) * ((1 - q) / q))}
}
