package weighting

import (
	"math"

	"widetally/core/design"
)

// Poststratified is weights by cells, with shares and their standard errors.
type Poststratified struct {
	*Made
	cells []int // of the rows of the design
	k     int
}

// Poststratify weighs the rows of each cell to its share of the population, w = d T t_c/D_c (Holt and
// Smith 1979). Errors as of Rake.
func Poststratify(b Base, cells Margin) (*Poststratified, error) {
	k, err := b.keep([]Margin{cells})
	if err != nil {
		return nil, err
	}
	totals, weights := k.totals(0, k.base), make([]float64, len(k.base))
	for r, c := range k.at[0] {
		weights[r] = k.base[r] * k.total * k.targets[0][c] / totals[c]
	}
	p := &Poststratified{Made: k.made(b.Rows, weights), cells: make([]int, b.Rows), k: len(totals)}
	for r, row := range k.rows {
		p.cells[row] = k.at[0][r]
	}
	return p, nil
}

// PoststratifiedShares are shares by these weights.
type PoststratifiedShares struct {
	*design.Shares
	// Variance are those of the shares, with the shares of the cells known: of the residuals within
	// cells, z_i − w_i Σ_c z/Σ_c w (Valliant 1993).
	Variance []float64
}

// Shares estimates the shares of answers by the weights that were made, drawn by the strata and
// clusters of c, whose weights are not looked at. Errors: those of design.New; design.EmptyBase.
func (p *Poststratified) Shares(
	c design.Columns,
	answers int,
	answer func(row int) int,
) (*PoststratifiedShares, error) {
	c.Weights = make([]float64, len(p.Weight))
	for row, w := range p.Weight {
		if !math.IsNaN(w) {
			c.Weights[row] = w
		}
	}
	s, err := design.New(c)
	if err != nil {
		return nil, err
	}
	counted, err := s.Cells(answers, answer)
	if err != nil {
		return nil, err
	}
	out := &PoststratifiedShares{Shares: counted.Shares()}
	z := func(k int, values []float64) {
		clear(values)
		if at := answer(s.Rows[k]); at >= 0 {
			for j, share := range out.Share {
				values[j] = -share
			}
			values[at]++
			for j := range values {
				values[j] *= s.Weights[k] / out.Sum
			}
		}
	}
	within, all := make([]design.Sum, p.k*answers), make([]design.Sum, p.k)
	values := make([]float64, answers)
	for k, row := range s.Rows {
		z(k, values)
		all[p.cells[row]].Add(s.Weights[k])
		for j, x := range values {
			within[p.cells[row]*answers+j].Add(x)
		}
	}
	v := s.Variance(answers, func(k int, values []float64) {
		z(k, values)
		cell := p.cells[s.Rows[k]]
		for j := range values {
			values[j] -= s.Weights[k] * within[cell*answers+j].Value() / all[cell].Value()
		}
	})
	for j := range v {
		out.Variance = append(out.Variance, v[j][j])
	}
	return out, nil
}
