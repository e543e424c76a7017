package exact

import (
	"context"
	"math"
	"math/big"
)

// Multinomial is the exact test of goodness of fit: the probability, under the
// shares given, of all ways in which n respondents can spread over the answers that
// are no likelier than the observed one.
//
// The answers are cut into two halves. For each number m of respondents in the first
// half, the ways of spreading m over it and n − m over the other are listed by
// probability, and the pairs whose product is small enough are added up by walking
// the two lists in opposite directions. So the cost is that of the ways within each
// half, about the square root of the number of outcomes (the idea of meeting in the
// middle: Horowitz and Sahni 1974, Computing partitions with applications to the
// knapsack problem).
//
// observed and shares have the same length, at least 2; shares are positive and add
// to 1. Counts whose outcomes go beyond the work allowed give ErrBeyondReach.
func Multinomial(ctx context.Context, observed []int64, shares []*big.Rat, e Effort) (*Result, error) {
	m := newMeter(ctx, e)
	var total int64
	for _, o := range observed {
		total += o
	}
	k := len(observed)
	first := k / 2
	n := int(total)
	if MultinomialSteps(total, k) > float64(m.account.work) {
		return nil, ErrBeyondReach
	}
	weights := make([][]scaled, k)
	for i, share := range shares {
		w, err := poissonWeights(n, share, m)
		if err != nil {
			return nil, err
		}
		weights[i] = w
	}
	// Each half is measured against its part of the observed outcome, which then is 1.
	// The weights of all outcomes together are nⁿ/n!.
	all := allOutcomes(n)
	for i, o := range observed {
		at := weights[i][o].inverse()
		all = all.times(at)
		for x := range weights[i] {
			weights[i][x] = weights[i][x].times(at)
		}
	}
	parts := make([]float64, n+1)
	err := m.share(n+1, func(m *meter, x int) error {
		a, err := ways(weights[:first], x, m)
		if err != nil {
			return err
		}
		b, err := ways(weights[first:], n-x, m)
		if err != nil {
			return err
		}
		some, steps := pairsAtMost(a, b, 1+Slack)
		parts[x] = some
		return m.spend(steps)
	})
	if err != nil {
		return nil, err
	}
	var least sum
	for _, some := range parts {
		least.add(some)
	}
	if math.IsInf(least.value(), 1) || math.IsNaN(least.value()) {
		return nil, ErrBeyondReach
	}
	return &Result{
		P:        toScaled(big.NewFloat(least.value())).over(all),
		Observed: one.over(all),
		Outcomes: choose(n+k-1, k-1),
		Steps:    m.total(),
	}, nil
}

// MultinomialSteps is the work that Multinomial would take for this many respondents and
// answers: the ways within a half with up to n respondents, each sorted and walked once;
// +Inf where n alone is beyond its reach.
func MultinomialSteps(n int64, answers int) float64 {
	if n > 1<<20 {
		return math.Inf(1)
	}
	first := answers / 2
	return 30 * (choose(int(n)+first, first) + choose(int(n)+answers-first, answers-first))
}

// allOutcomes returns nⁿ/n!.
func allOutcomes(n int) scaled {
	x := big.NewFloat(1).SetPrec(precision)
	for i := 1; i <= n; i++ {
		x.Mul(x, new(big.Float).SetInt64(int64(n))).Quo(x, new(big.Float).SetInt64(int64(i)))
	}
	return toScaled(x)
}

// poissonWeights returns (np)^x/x!, x = 0 … n.
func poissonWeights(n int, share *big.Rat, m *meter) ([]scaled, error) {
	mean := new(big.Float).SetPrec(precision).SetRat(new(big.Rat).Mul(share, big.NewRat(int64(n), 1)))
	w := make([]scaled, n+1)
	x := big.NewFloat(1).SetPrec(precision)
	w[0] = one
	for i := 1; i <= n; i++ {
		x.Mul(x, mean).Quo(x, new(big.Float).SetInt64(int64(i)))
		w[i] = toScaled(x)
		if err := m.spend(100); err != nil {
			return nil, err
		}
	}
	return w, nil
}

// ways lists the ways of spreading x respondents over the answers with these weights.
func ways(weights [][]scaled, x int, m *meter) (list, error) {
	var entries []entry
	var walk func(i, left int, so scaled) error
	walk = func(i, left int, so scaled) error {
		if i == len(weights)-1 {
			v := so.times(weights[i][left]).float()
			if math.IsInf(v, 1) {
				return ErrBeyondReach
			}
			entries = append(entries, entry{v, v})
			return m.spend(6)
		}
		for c := 0; c <= left; c++ {
			if err := walk(i+1, left-c, so.times(weights[i][c])); err != nil {
				return err
			}
		}
		return nil
	}
	if err := walk(0, x, one); err != nil {
		return list{}, err
	}
	return newList(entries, m)
}

// choose is the binomial coefficient in floating point, for bounds and counts of
// outcomes.
func choose(n, k int) float64 {
	c := 1.0
	for i := 1; i <= k; i++ {
		c = c * float64(n-k+i) / float64(i)
	}
	return math.Round(c)
}
