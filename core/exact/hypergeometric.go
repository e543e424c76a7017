package exact

import (
	"math"
	"math/big"

	"widetally/core/prob"
)

// TwoByTwo holds the three exact p-values of a 2 × 2 table with both margins fixed.
type TwoByTwo struct {
	// Less and Greater are the chances of a first cell at most, and at least, as large.
	// TwoSided adds the tables no likelier than the observed one, counted as equal
	// within a factor of 1 + Slack.
	prob.Tails
	// Integers says that integer arithmetic was used; otherwise floating-point ratios.
	Integers bool
}

// Reach of the 2 × 2 test: the range of the first cell, and the count, and that range
// times the count, up to which integers are used.
const (
	twoByTwoRange    = 300_000
	twoByTwoTotal    = 20_000
	twoByTwoIntegers = 100_000_000
)

// Fisher is the exact test of a 2 × 2 table (Fisher 1935, The logic of inductive
// inference). The four margins are positive. It walks through the values of the
// first cell, each term from its neighbour; ErrBeyondReach when there are more than
// three hundred thousand.
func Fisher(a, b, c, d int64) (*TwoByTwo, error) {
	lowest := a - min(a, d)
	highest := a + min(b, c)
	if highest-lowest > twoByTwoRange {
		return nil, ErrBeyondReach
	}
	if n := a + b + c + d; n <= twoByTwoTotal && (highest-lowest)*n <= twoByTwoIntegers {
		return fisherIntegers(a, b, c, d), nil
	}
	return fisherRatios(a, b, c, d), nil
}

// fisherIntegers adds C(a+b, x)·C(c+d, a+c−x).
func fisherIntegers(a, b, c, d int64) *TwoByTwo {
	r1, r2, c1 := a+b, c+d, a+c
	lowest, highest := a-min(a, d), a+min(b, c)
	weigh := func(x int64) *big.Int {
		return new(big.Int).Mul(new(big.Int).Binomial(r1, x), new(big.Int).Binomial(r2, c1-x))
	}
	observed := weigh(a)
	limit := new(big.Int).Add(observed, new(big.Int).Quo(observed, big.NewInt(1/Slack)))
	less, greater, both := new(big.Int), new(big.Int), new(big.Int)
	w, factor := weigh(lowest), new(big.Int)
	for x := lowest; ; x++ {
		if x <= a {
			less.Add(less, w)
		}
		if x >= a {
			greater.Add(greater, w)
		}
		if w.Cmp(limit) <= 0 {
			both.Add(both, w)
		}
		if x == highest {
			break
		}
		w.Mul(w, factor.Mul(big.NewInt(r1-x), big.NewInt(c1-x)))
		w.Quo(w, factor.Mul(big.NewInt(x+1), big.NewInt(r2-c1+x+1)))
	}
	all := new(big.Int).Binomial(r1+r2, c1)
	return &TwoByTwo{
		prob.Tails{Less: prob.FromCounts(less, all), Greater: prob.FromCounts(greater, all), TwoSided: prob.FromCounts(both, all)},
		true,
	}
}

// fisherRatios adds the same in logarithms, on the scale in which the observed table
// is 1, starting from it so that its neighbours lose nothing.
func fisherRatios(a, b, c, d int64) *TwoByTwo {
	up := func(a, b, c, d int64) float64 { // P(a+1)/P(a)
		return math.Log(float64(b) / float64(a+1) * (float64(c) / float64(d+1)))
	}
	slack := math.Log1p(Slack)
	below, above, both := lnSum{}, lnSum{}, lnSum{}
	both.add(0)
	ln := 0.0
	for i, j, k, l := a, b, c, d; j > 0 && k > 0; i, j, k, l = i+1, j-1, k-1, l+1 {
		ln += up(i, j, k, l)
		above.add(ln)
		if ln <= slack {
			both.add(ln)
		}
	}
	ln = 0
	for i, j, k, l := a, b, c, d; i > 0 && l > 0; i, j, k, l = i-1, j+1, k+1, l-1 {
		ln -= up(i-1, j+1, k+1, l-1)
		below.add(ln)
		if ln <= slack {
			both.add(ln)
		}
	}
	var own lnSum
	own.add(0)
	less, greater := own.with(below), own.with(above)
	all := less.with(above)
	return &TwoByTwo{Tails: prob.Tails{Less: less.over(all), Greater: greater.over(all), TwoSided: both.over(all)}}
}

// lnSum adds numbers given by their logarithms, the sum kept as that of the largest
// and a factor.
type lnSum struct {
	top    float64
	factor float64
}

func (s *lnSum) add(ln float64) {
	switch {
	case s.factor == 0:
		s.top, s.factor = ln, 1
	case ln > s.top:
		s.factor, s.top = s.factor*math.Exp(s.top-ln)+1, ln
	default:
		s.factor += math.Exp(ln - s.top)
	}
}

func (s lnSum) with(t lnSum) lnSum {
	if t.factor == 0 {
		return s
	}
	if s.top < t.top {
		s, t = t, s
	}
	s.factor += t.factor * math.Exp(t.top-s.top)
	return s
}

func (s lnSum) over(all lnSum) prob.Prob {
	return prob.FromLog(s.top - all.top + math.Log(s.factor) - math.Log(all.factor))
}
