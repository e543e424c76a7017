package design

import (
	"math"

	"widetally/core/infer"
)

// Part is a part of a sample and a number for each of its respondents, by their place in the sample:
// an answer as 1 or 0, or a number.
type Part func(k int) (y float64, in bool)

// Of makes a part of columns by the place in the file.
func (s *Sample) Of(y func(row int) (float64, bool)) Part {
	return func(k int) (float64, bool) { return y(s.Rows[k]) }
}

// Mean is the weighted mean of a part. Where all numbers are equal it is that number, so that a
// share of 0 or 1 is exactly so.
type Mean struct {
	Base
	Mean     float64
	Variance float64
	// SD is √(n/(n − 1) Σ w(y − m)²/W); DesignEffect is V by that of n respondents drawn simply,
	// Σ w(y − m)²/(W(n − 1)). Nil for one respondent, the effect without spread too.
	SD, DesignEffect *float64
}

// SE is the standard error.
func (m Mean) SE() float64 { return math.Sqrt(m.Variance) }

// mean gives the base and the mean of a part.
func (s *Sample) mean(of Part) (Base, float64, error) {
	b, err := s.base(func(k int) bool { _, in := of(k); return in })
	if err != nil {
		return b, 0, err
	}
	return b, s.meanOf(of, s.Weights), nil
}

// meanOf is the mean with other weights, NaN where these are 0.
func (s *Sample) meanOf(of Part, weights []float64) float64 {
	var sum, all Sum
	first, same := math.NaN(), true
	for k, w := range weights {
		if y, in := of(k); in {
			if first != first {
				first = y
			}
			same = same && y == first
			sum.Add(w * y)
			all.Add(w)
		}
	}
	switch {
	case all.Value() == 0:
		return math.NaN()
	case same:
		return first
	}
	return sum.Value() / all.Value()
}

// Mean is that of a part. Errors: EmptyBase, EmptyReplicate.
func (s *Sample) Mean(of Part) (*Mean, error) {
	b, m, err := s.mean(of)
	if err != nil {
		return nil, err
	}
	v, err := s.estimates(1, func(weights []float64) []float64 {
		return []float64{s.meanOf(of, weights)}
	}, func(k int, z []float64) {
		z[0] = 0
		if y, in := of(k); in {
			z[0] = s.Weights[k] * (y - m) / b.Sum
		}
	})
	if err != nil {
		return nil, err
	}
	out := &Mean{Base: b, Mean: m, Variance: v[0][0]}
	out.spread(s, of)
	return out, nil
}

func (m *Mean) spread(s *Sample, of Part) {
	var sum Sum
	for k, w := range s.Weights {
		if y, in := of(k); in {
			sum.Add(w * (y - m.Mean) * (y - m.Mean))
		}
	}
	m.spreadOf(sum.Value() / m.Sum)
}

// spreadOf takes the mean squared departure from the mean, Σ w(y − m)²/W.
func (m *Mean) spreadOf(square float64) {
	if m.N < 2 {
		return
	}
	n := float64(m.N)
	sd := math.Sqrt(n / (n - 1) * square)
	m.SD = &sd
	if square > 0 {
		effect := m.Variance / (square / (n - 1))
		m.DesignEffect = &effect
	}
}

// Mean is that of the numbers of cells. The base must hold somebody.
func (c *Cells) Mean(numbers []float64) *Mean {
	of := c.Groups(1, func(cell int) float64 { return numbers[cell] }, func(int) int { return 0 })
	m := &Mean{Base: c.Base, Mean: of.Value[0], Variance: of.Covariance[0][0]}
	for cell, n := range c.Count {
		if n == c.N {
			m.Mean, m.Variance, of.Spread = numbers[cell], 0, 0
		}
	}
	m.spreadOf(of.Spread)
	return m
}

// Ratio is Σ w y/Σ w x over those who gave both, the combined ratio.
type Ratio struct {
	Base
	Numerator, Denominator float64
	Ratio, Variance        float64
}

// ZeroDenominator is the reason for a ratio whose denominator adds to 0.
const ZeroDenominator infer.Reason = "zero_denominator"

// Ratio is that of two numbers of each respondent. Errors: EmptyBase, ZeroDenominator,
// EmptyReplicate.
func (s *Sample) Ratio(of func(row int) (y, x float64, in bool)) (*Ratio, error) {
	at := func(k int) (y, x float64, in bool) { return of(s.Rows[k]) }
	b, err := s.base(func(k int) bool { _, _, in := at(k); return in })
	if err != nil {
		return nil, err
	}
	sums := func(weights []float64) (y, x float64) {
		var above, below Sum
		for k, w := range weights {
			if y, x, in := at(k); in {
				above.Add(w * y)
				below.Add(w * x)
			}
		}
		return above.Value(), below.Value()
	}
	r := &Ratio{Base: b}
	r.Numerator, r.Denominator = sums(s.Weights)
	if r.Denominator == 0 {
		return nil, refuse(ZeroDenominator, -1)
	}
	r.Ratio = r.Numerator / r.Denominator
	v, err := s.estimates(1, func(weights []float64) []float64 {
		y, x := sums(weights)
		return []float64{y / x}
	}, func(k int, z []float64) {
		z[0] = 0
		if y, x, in := at(k); in {
			z[0] = s.Weights[k] * (y - r.Ratio*x) / r.Denominator
		}
	})
	if err != nil {
		return nil, err
	}
	r.Variance = v[0][0]
	return r, nil
}

// Means are those of several parts of one sample, which may overlap, with their covariance.
type Means struct {
	Parts      []Domain
	Covariance Matrix
	DF         int
}

// Means are those of parts. Errors: EmptyBase, EmptyReplicate.
func (s *Sample) Means(parts []Part) (*Means, error) {
	m := &Means{Parts: make([]Domain, len(parts)), DF: s.DF()}
	for i, of := range parts {
		base, mean, err := s.mean(of)
		if err != nil {
			return nil, err
		}
		m.Parts[i] = Domain{N: base.N, Weight: base.Weight, Mean: mean}
	}
	v, err := s.estimates(len(parts), func(weights []float64) []float64 {
		out := make([]float64, len(parts))
		for i, of := range parts {
			out[i] = s.meanOf(of, weights)
		}
		return out
	}, func(k int, z []float64) {
		clear(z)
		for i, of := range parts {
			if y, in := of(k); in {
				z[i] = s.Weights[k] * (y - m.Parts[i].Mean) / m.Parts[i].Sum
			}
		}
	})
	if err != nil {
		return nil, err
	}
	m.Covariance = v
	for i := range m.Parts {
		m.Parts[i].Variance = v[i][i]
	}
	return m, nil
}

// Median is the smallest number of a part up to which half of the weights lie. The error is EmptyBase.
func (s *Sample) Median(of Part) (float64, error) {
	b, err := s.base(func(k int) bool { _, in := of(k); return in })
	if err != nil {
		return 0, err
	}
	at, below := s.distribution(of, b.Sum)
	return at[reach(below, 0.5)], nil
}

// Two is two means of one sample, whose parts may overlap, and what is made of both.
type Two struct {
	A, B Domain
	// Covariance is that of the two means; the design's degrees of freedom belong to all of it.
	Covariance   float64
	PSUs, Strata int
	DF           int
	// Difference is A less B.
	Difference Estimate
	// LogRisk and LogOdds are ln(p_A/p_B) and the logarithm of the odds ratio, nil where a share is 0,
	// or 0 or 1, or where what is compared is no share.
	LogRisk, LogOdds *Estimate
	// Slope are those of the difference at the totals of the cells; nil where it is one of parts.
	Slope []float64
}

// Domain is one of two.
type Domain struct {
	N int64
	Weight
	Mean, Variance float64
}

// Share is the mean of what is 0 or 1, with what its interval needs; df are those of the design.
func (d Domain) Share(df int) infer.DesignedShare {
	return infer.DesignedShare{Share: d.Mean, Variance: d.Variance, N: d.N, KishN: d.KishN, DF: df}
}

// SE is the standard error of the mean.
func (d Domain) SE() float64 { return math.Sqrt(d.Variance) }

// Estimate is an estimate with its variance.
type Estimate struct{ Value, Variance float64 }

// SE is the standard error.
func (e Estimate) SE() float64 { return math.Sqrt(e.Variance) }

// Two compares two parts. The variance of the difference is that of z_A − z_B, unpooled. Errors:
// EmptyBase, EmptyReplicate.
func (s *Sample) Two(a, b Part) (*Two, error) {
	t := &Two{PSUs: s.PSUs(), Strata: s.Strata(), DF: s.DF()}
	var means [2]float64
	for i, of := range []Part{a, b} {
		base, m, err := s.mean(of)
		if err != nil {
			return nil, err
		}
		means[i] = m
		*[]*Domain{&t.A, &t.B}[i] = Domain{N: base.N, Weight: base.Weight, Mean: m}
	}
	p, q := means[0], means[1]
	shares := s.zeroOrOne(a) && s.zeroOrOne(b)
	risk := shares && p > 0 && q > 0
	odds := risk && p < 1 && q < 1
	v, err := s.estimates(5, func(weights []float64) []float64 {
		p, q := s.meanOf(a, weights), s.meanOf(b, weights)
		out := []float64{p, q, p - q, 0, 0}
		if risk {
			out[3] = math.Log(p / q)
		}
		if odds {
			out[4] = math.Log(p / (1 - p) * ((1 - q) / q))
		}
		return out
	}, func(k int, z []float64) {
		clear(z)
		var za, zb float64
		if y, in := a(k); in {
			za = s.Weights[k] * (y - p) / t.A.Sum
		}
		if y, in := b(k); in {
			zb = s.Weights[k] * (y - q) / t.B.Sum
		}
		z[0], z[1], z[2] = za, zb, za-zb
		if risk {
			z[3] = za/p - zb/q
		}
		if odds {
			z[4] = za/(p*(1-p)) - zb/(q*(1-q))
		}
	})
	if err != nil {
		return nil, err
	}
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

func (s *Sample) zeroOrOne(of Part) bool {
	for k := range s.Rows {
		if y, in := of(k); in && y != 0 && y != 1 {
			return false
		}
	}
	return true
}
