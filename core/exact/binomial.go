package exact

import (
	"math/big"

	"widetally/core/prob"
)

// Binomial is the exact test of two answers: x of n gave the first, whose share is
// between 0 and 1. It is a pair of tails of the binomial distribution, in reach for any
// count (the convention of Multinomial: outcomes no likelier than the observed one).
func Binomial(x, n int64, share *big.Rat) *Result {
	rest := new(big.Rat).Sub(big.NewRat(1, 1), share)
	if share.Cmp(rest) > 0 { // the smaller share is the one that carries its digits
		x, share = n-x, rest
	}
	p, _ := share.Float64()
	return &Result{
		P:        prob.BinomialTwoSided(x, n, p),
		Observed: prob.FromLog(prob.LnBinomial(x, n, p)),
		Outcomes: float64(n) + 1,
		Steps:    n,
	}
}
