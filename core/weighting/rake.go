package weighting

import (
	"context"
	"math"
)

// Bounds of weights as multiples of the mean one, Lower at most and Upper at least 1.
type Bounds struct{ Lower, Upper float64 }

// How long and how near margins are fitted.
const (
	maxSweeps  = 3000
	maxRounds  = 1500
	rakedSlack = 1e-12
)

// Rake fits the margins one after the other, from the base weights, until all hold (Deming and Stephan
// 1940; of all weights that hold them, those nearest to the base: Ireland and Kullback 1968). With
// bounds, weights outside are set to the bound and fitted again, until none is outside; where that ends
// depends on the path, unlike a bounded distance (Deville and Särndal 1992). It is nil where the
// margins cannot be brought together. Errors, all *infer.InputError: those of design.New about weights,
// a target that is not above 0, a category that nobody is in, with the margin as the Index, bounds that
// do not hold 1; or the context's.
func Rake(ctx context.Context, b Base, margins []Margin, bounds *Bounds) (*Made, error) {
	if bounds != nil && !(bounds.Lower >= 0 && bounds.Lower < 1 && bounds.Upper > 1) {
		return nil, refuse(BoundsOutOfRange, -1)
	}
	if len(margins) == 0 {
		return nil, refuse(TargetsNeeded, -1)
	}
	k, err := b.keep(margins)
	if err != nil {
		return nil, err
	}
	weights := append([]float64(nil), k.base...)
	for range maxRounds {
		fitted, err := k.sweep(ctx, weights)
		if err != nil || !fitted {
			return nil, err
		}
		if bounds == nil || !k.cut(weights, *bounds) {
			return k.made(b.Rows, weights), nil
		}
	}
	return nil, nil
}

// sweep fits the margins in turn until all hold; fitted is false where they do not come to hold.
func (k *kept) sweep(ctx context.Context, weights []float64) (fitted bool, err error) {
	for range maxSweeps {
		if err := ctx.Err(); err != nil {
			return false, err
		}
		for m, targets := range k.targets {
			factors := k.totals(m, weights)
			for c, t := range factors {
				factors[c] = k.total * targets[c] / t
			}
			for r, c := range k.at[m] {
				weights[r] *= factors[c]
			}
		}
		if k.away(weights) < rakedSlack {
			return true, nil
		}
	}
	return false, nil
}

// away is the largest relative departure of a category from its target.
func (k *kept) away(weights []float64) float64 {
	most := 0.0
	for m, targets := range k.targets {
		for c, t := range k.totals(m, weights) {
			most = math.Max(most, math.Abs(t/(k.total*targets[c])-1))
		}
	}
	return most
}

// cut sets weights outside of the bounds to these, and reports whether any was outside by more than
// rounding.
func (k *kept) cut(weights []float64, bounds Bounds) (outside bool) {
	mean := k.total / float64(len(weights))
	lower, upper := bounds.Lower*mean, bounds.Upper*mean
	for _, w := range weights {
		outside = outside || w < lower*(1-rakedSlack) || w > upper*(1+rakedSlack)
	}
	if outside {
		for r, w := range weights {
			weights[r] = math.Min(math.Max(w, lower), upper)
		}
	}
	return outside
}
