package design

import (
	"widetally/core/infer"
)

// The reasons for which a trend is refused.
const (
	OneGroup infer.Reason = "one_group"
)

// Trend is how an answer changes over ordered groups.
type Trend struct {
	Base
	GroupN []int64
	// GroupMean is nil for a group without answers.
	GroupMean []*float64
	// Slope and Intercept are those of the weighted regression of the answer on the score of the group;
	// its variance is the sandwich (Fuller 1975; Binder 1983).
	Slope     Estimate
	Intercept float64
	// Contrast is the slope through the means of the groups, each counting the same.
	Contrast Estimate
}

// Trend is that of an answer, or a number, over groups with scores. Errors: EmptyBase, OneGroup where
// fewer than two scores are among the answers, EmptyReplicate.
func (s *Sample) Trend(of func(row int) (y float64, group int, in bool), scores []float64) (*Trend, error) {
	at := func(k int) (float64, int, bool) { return of(s.Rows[k]) }
	b, err := s.base(func(k int) bool { _, _, in := at(k); return in })
	if err != nil {
		return nil, err
	}
	t := &Trend{Base: b, GroupN: make([]int64, len(scores)), GroupMean: make([]*float64, len(scores))}
	sums := make([]Sum, len(scores))
	for k, w := range s.Weights {
		if _, g, in := at(k); in {
			t.GroupN[g]++
			sums[g].Add(w)
		}
	}
	xs, ys := s.meanOf(func(k int) (float64, bool) { _, g, in := at(k); return scores[max(g, 0)], in }, s.Weights),
		s.meanOf(func(k int) (float64, bool) { y, _, in := at(k); return y, in }, s.Weights)
	var square, product Sum
	for k, w := range s.Weights {
		if y, g, in := at(k); in {
			square.Add(w * (scores[g] - xs) * (scores[g] - xs))
			product.Add(w * (scores[g] - xs) * (y - ys))
		}
	}
	contrasts, found := t.contrasts(scores)
	if !(square.Value() > 0) || !found {
		return nil, refuse(OneGroup, -1)
	}
	for g, n := range t.GroupN {
		if n > 0 {
			m := s.meanOf(func(k int) (float64, bool) { y, of, in := at(k); return y, in && of == g }, s.Weights)
			t.GroupMean[g] = &m
			t.Contrast.Value += contrasts[g] * m
		}
	}
	t.Slope.Value = product.Value() / square.Value()
	t.Intercept = ys - t.Slope.Value*xs
	v, err := s.estimates(2, func(weights []float64) []float64 {
		return s.slopes(at, scores, contrasts, weights)
	}, func(k int, z []float64) {
		z[0], z[1] = 0, 0
		if y, g, in := at(k); in {
			x, w := scores[g]-xs, s.Weights[k]
			z[0] = w * x * (y - ys - t.Slope.Value*x) / square.Value()
			z[1] = contrasts[g] * w * (y - *t.GroupMean[g]) / sums[g].Value()
		}
	})
	if err != nil {
		return nil, err
	}
	t.Slope.Variance, t.Contrast.Variance = v[0][0], v[1][1]
	return t, nil
}

// slopes are that of the regression and that of the contrast by other weights.
func (s *Sample) slopes(
	at func(k int) (float64, int, bool), scores, contrasts, weights []float64,
) []float64 {
	x := s.meanOf(func(k int) (float64, bool) { _, g, in := at(k); return scores[max(g, 0)], in }, weights)
	y := s.meanOf(func(k int) (float64, bool) { y, _, in := at(k); return y, in }, weights)
	var square, product Sum
	for k, w := range weights {
		if of, g, in := at(k); in {
			square.Add(w * (scores[g] - x) * (scores[g] - x))
			product.Add(w * (scores[g] - x) * (of - y))
		}
	}
	contrast := 0.0
	for g, c := range contrasts {
		if c != 0 {
			contrast += c * s.meanOf(func(k int) (float64, bool) { y, of, in := at(k); return y, in && of == g }, weights)
		}
	}
	return []float64{product.Value() / square.Value(), contrast}
}

// contrasts are (s_g − s̄)/Σ(s_g − s̄)² over the groups with answers.
func (t *Trend) contrasts(scores []float64) (c []float64, found bool) {
	var mean, n, square float64
	for g, of := range t.GroupN {
		if of > 0 {
			mean, n = mean+scores[g], n+1
		}
	}
	mean /= n
	c = make([]float64, len(scores))
	for g, of := range t.GroupN {
		if of > 0 {
			c[g] = scores[g] - mean
			square += c[g] * c[g]
		}
	}
	for g := range c {
		c[g] /= square
	}
	return c, square > 0
}
