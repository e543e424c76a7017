package exact

import (
	"math"
	"sort"
)

// OddsRatio is the odds ratio of a 2 × 2 table given both margins.
type OddsRatio struct {
	// Estimate is the maximum-likelihood one: the ψ at which the mean of the non-central
	// hypergeometric distribution, Σ x·w(x)ψˣ/Σ w(x)ψˣ, is the first cell. 0 and +Inf
	// when that cell is as small or as large as the margins allow.
	Estimate float64
	// Lower and Upper are the ψ at which a first cell at least, and at most, as large has
	// a chance of half of 1 − confidence; 0 and +Inf at the ends.
	Lower, Upper float64
}

// ConditionalOddsRatio estimates the odds ratio (Fisher 1935; Cornfield 1956, A
// statistical problem arising from retrospective studies). The margins are positive;
// ErrBeyondReach when the first cell could take more than three hundred thousand values.
func ConditionalOddsRatio(a, b, c, d int64, confidence float64) (*OddsRatio, error) {
	h, err := newHypergeometric(a, b, c, d)
	if err != nil {
		return nil, err
	}
	r := &OddsRatio{Estimate: math.Inf(1), Upper: math.Inf(1)}
	alpha := math.Log((1 - confidence) / 2)
	if a > h.lowest {
		r.Lower = math.Exp(h.solve(func(theta float64) float64 { return h.lnTail(theta, true) - alpha }))
	}
	if a < h.lowest+int64(len(h.ln))-1 {
		r.Upper = math.Exp(h.solve(func(theta float64) float64 { return alpha - h.lnTail(theta, false) }))
		r.Estimate = 0
		if a > h.lowest {
			r.Estimate = math.Exp(h.estimate())
		}
	}
	return r, nil
}

// hypergeometric holds ln w(x) − ln w(a) for the values x of the first cell.
type hypergeometric struct {
	ln        []float64
	lowest, a int64
	start     float64 // ln of the plain odds ratio, half a respondent added to each cell
}

func newHypergeometric(a, b, c, d int64) (*hypergeometric, error) {
	lowest, highest := a-min(a, d), a+min(b, c)
	if highest-lowest > twoByTwoRange {
		return nil, ErrBeyondReach
	}
	h := &hypergeometric{ln: make([]float64, highest-lowest+1), lowest: lowest, a: a,
		start: math.Log((float64(a) + 0.5) * (float64(d) + 0.5) / ((float64(b) + 0.5) * (float64(c) + 0.5)))}
	// From the observed cell outwards.
	for x := a; x < highest; x++ {
		h.ln[x+1-lowest] = h.ln[x-lowest] + math.Log(float64(a+b-x)/float64(x+1)*(float64(a+c-x)/float64(d-a+x+1)))
	}
	for x := a; x > lowest; x-- {
		h.ln[x-1-lowest] = h.ln[x-lowest] - math.Log(float64(a+b-x+1)/float64(x)*(float64(a+c-x+1)/float64(d-a+x)))
	}
	return h, nil
}

// near gives the weights w(x)ψˣ with ln ψ = theta, the largest as 1, from the likeliest
// value outwards until they are below 1e-40: the rest cannot matter to any tail that is
// asked for.
func (h *hypergeometric) near(theta float64, f func(away int64, weight float64)) {
	// The logarithms of the weights rise and then fall.
	top := sort.Search(len(h.ln)-1, func(i int) bool { return h.ln[i+1]-h.ln[i]+theta <= 0 })
	at := func(i int) float64 { return math.Exp(h.ln[i] - h.ln[top] + theta*float64(i-top)) }
	place := func(i int) int64 { return h.lowest + int64(i) - h.a }
	for i := top; i >= 0; i-- {
		w := at(i)
		if w < 1e-40 {
			break
		}
		f(place(i), w)
	}
	for i := top + 1; i < len(h.ln); i++ {
		w := at(i)
		if w < 1e-40 {
			break
		}
		f(place(i), w)
	}
}

// estimate is ln ψ by Newton's steps; the derivative of the mean by it is the variance.
func (h *hypergeometric) estimate() float64 {
	theta := h.start
	for range 100 {
		var s0, s1, s2 float64
		h.near(theta, func(away int64, w float64) {
			s0, s1, s2 = s0+w, s1+w*float64(away), s2+w*float64(away)*float64(away)
		})
		mean := s1 / s0
		step := mean / (s2/s0 - mean*mean)
		step = math.Max(-2, math.Min(2, step))
		theta -= step
		if math.Abs(step) < 1e-15*math.Max(1, math.Abs(theta)) {
			break
		}
	}
	return theta
}

// lnTail is ln of the chance of a first cell at least, or at most, the observed one.
func (h *hypergeometric) lnTail(theta float64, upper bool) float64 {
	own, rest := 0.0, 0.0
	h.near(theta, func(away int64, w float64) {
		if away == 0 || away > 0 == upper {
			own += w
		} else {
			rest += w
		}
	})
	return math.Log(own) - math.Log(own+rest)
}

// solve finds by bisection the theta at which a rising function is 0.
func (h *hypergeometric) solve(f func(theta float64) float64) float64 {
	lo, hi := h.start-1, h.start+1
	for step := 1.0; f(lo) > 0 && step < 1e4; step *= 2 {
		lo -= step
	}
	for step := 1.0; f(hi) < 0 && step < 1e4; step *= 2 {
		hi += step
	}
	for range 80 {
		mid := lo + (hi-lo)/2
		if mid == lo || mid == hi {
			break
		}
		if f(mid) < 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo + (hi-lo)/2
}
