package design

import (
	"math"

	"widetally/core/infer"
)

// Waves is a share in two waves of a survey, wave 1 as A and wave 0 as B.
type Waves struct {
	Two
	// WelchDF are the degrees of freedom of Satterthwaite (1946) where the waves were drawn apart,
	// beside those of the design; nil otherwise, and without variance.
	WelchDF *float64
}

// UnknownWave is the reason for a wave that is neither 0 nor 1.
const UnknownWave infer.Reason = "unknown_wave"

// NewWaves compares a share in two waves, one row for each interview. Waves that were drawn apart have
// strata of their own; those that overlap share strata and clusters, so that who was asked twice, a
// cluster, takes part in the covariance. Errors: UnknownWave, those of New, EmptyBase.
func NewWaves(c Columns, wave []int, overlap bool, y func(row int) (float64, bool)) (*Waves, error) {
	for row, w := range wave {
		if w != 0 && w != 1 {
			return nil, refuse(UnknownWave, row)
		}
	}
	if !overlap {
		c = c.apart(wave)
	}
	s, err := New(c)
	if err != nil {
		return nil, err
	}
	in := func(which int) Part {
		return s.Of(func(row int) (float64, bool) {
			x, answered := y(row)
			return x, answered && wave[row] == which
		})
	}
	t, err := s.Two(in(1), in(0))
	if err != nil {
		return nil, err
	}
	out := &Waves{Two: *t}
	if !overlap {
		out.WelchDF = s.welch(wave, t)
	}
	return out, nil
}

// apart gives each wave strata of its own: stratum h of wave w becomes 2h + w.
func (c Columns) apart(wave []int) Columns {
	strata := make([]int, c.Rows)
	for row := range strata {
		if c.Strata != nil {
			strata[row] = c.Strata[row]
		}
		if strata[row] >= 0 {
			strata[row] = 2*strata[row] + wave[row]
		}
	}
	var fractions []float64
	for _, f := range c.Fractions {
		fractions = append(fractions, f, f)
	}
	c.Strata, c.Fractions = strata, fractions
	return c
}

// welch are (V₁ + V₀)²/(V₁²/ν₁ + V₀²/ν₀).
func (s *Sample) welch(wave []int, t *Two) *float64 {
	var df [2]float64
	first := s.firsts()
	for _, h := range s.strata {
		df[wave[s.Rows[first[h.from]]]] += float64(h.before - h.from - 1)
	}
	v1, v0 := t.A.Variance, t.B.Variance
	below := 0.0
	for i, v := range []float64{v0, v1} {
		if v > 0 {
			below += v * v / df[i]
		}
	}
	out := (v1 + v0) * (v1 + v0) / below
	if !(below > 0) || math.IsInf(below, 1) {
		return nil
	}
	return &out
}
