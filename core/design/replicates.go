package design

import (
	"math"
	"slices"

	"widetally/core/infer"
)

// The reasons for which replicates are refused.
const (
	FactorsNeeded   infer.Reason = "factors_needed"
	EmptyReplicate  infer.Reason = "empty_replicate"
	ReplicateLength infer.Reason = "replicate_length"
	FayOutOfRange   infer.Reason = "fay_out_of_range"
	UnknownMethod   infer.Reason = "unknown_replicate_method"
)

// ReplicateMethod is how replicate weights were made, which says what each departure counts.
type ReplicateMethod string

// The methods.
const (
	// JackknifeOne leaves one unit out of an unstratified sample (Quenouille 1956; Tukey 1958).
	JackknifeOne ReplicateMethod = "jk1"
	// JackknifeStrata leaves one unit of one stratum out.
	JackknifeStrata ReplicateMethod = "jkn"
	// BalancedHalves takes one of two units of each stratum (McCarthy 1969).
	BalancedHalves ReplicateMethod = "brr"
	// FayHalves takes the halves with 2 − ρ and ρ of their weights (Fay; Judkins 1990).
	FayHalves ReplicateMethod = "fay"
	// Bootstrap draws the units again (Rao and Wu 1988).
	Bootstrap ReplicateMethod = "bootstrap"
	// GivenFactors takes the factors as they are given.
	GivenFactors ReplicateMethod = "factors"
)

// ReplicateMethods lists them.
var ReplicateMethods = []ReplicateMethod{
	JackknifeOne,
	JackknifeStrata,
	BalancedHalves,
	FayHalves,
	Bootstrap,
	GivenFactors,
}

// Replicates are the weights of a file with those of its replicates.
type Replicates struct {
	Rows int
	// Weights are the full weights as in Columns; Replicate holds a column for each replicate, 0 or
	// more, NaN for one that is missing.
	Weights   []float64
	Replicate [][]float64
	Method    ReplicateMethod
	// Fraction is f of JackknifeOne.
	Fraction float64
	// Strata is the stratum of each replicate of JackknifeStrata, from 0 on, and Fractions are their f.
	Strata    []int
	Fractions []float64
	// Fay is ρ of FayHalves, 0 to below 1.
	Fay float64
	// Factors are those of GivenFactors.
	Factors []float64
	// DF are the degrees of freedom where they are known, otherwise 0: replicates less 1, or less
	// their strata.
	DF int
	// AroundMean takes departures from the mean of the replicates, not from the estimate.
	AroundMean bool
}

// replicates are the weights of the rows of a sample in each replicate.
type replicates struct {
	weights [][]float64
	factors []float64
	df      int
	mean    bool // departures are taken from the mean of the replicates
}

// NewReplicated reads a sample whose design is told by replicate weights. Errors, all
// *infer.InputError: those of New about weights, a replicate that is no column, a method that is none,
// factors that cannot be known.
func NewReplicated(in Replicates) (*Sample, error) {
	s, err := New(Columns{Rows: in.Rows, Weights: in.Weights})
	if err != nil {
		return nil, err
	}
	r := &replicates{df: in.DF, mean: in.AroundMean}
	for i, column := range in.Replicate {
		if len(column) != in.Rows {
			return nil, refuse(ReplicateLength, i)
		}
		own := make([]float64, len(s.Rows))
		for k, row := range s.Rows {
			switch own[k] = column[row]; {
			case math.IsNaN(own[k]):
				return nil, refuse(MissingWeight, row)
			case own[k] < 0:
				return nil, refuse(NegativeWeight, row)
			}
		}
		r.weights = append(r.weights, own)
	}
	if r.factors, err = in.factors(); err != nil {
		return nil, err
	}
	if r.df == 0 {
		if r.df = len(in.Replicate) - 1; in.Method == JackknifeStrata {
			r.df = len(in.Replicate) - len(perStratum(in.Strata))
		}
	}
	s.replicates = r
	return s, nil
}

func perStratum(strata []int) map[int]float64 {
	n := map[int]float64{}
	for _, h := range strata {
		n[h]++
	}
	return n
}

// factors are what the squared departure of each replicate counts.
func (in Replicates) factors() ([]float64, error) {
	n := len(in.Replicate)
	out, all := make([]float64, n), float64(n)
	each := func(a float64) ([]float64, error) {
		for i := range out {
			out[i] = a
		}
		return out, nil
	}
	if n == 0 {
		return nil, refuse(FactorsNeeded, -1)
	}
	for _, f := range append([]float64{in.Fraction}, in.Fractions...) {
		if !(f >= 0 && f <= 1) {
			return nil, refuse(FractionOutOfRange, -1)
		}
	}
	switch in.Method {
	case JackknifeOne:
		return each((1 - in.Fraction) * (all - 1) / all)
	case BalancedHalves, Bootstrap:
		return each(1 / all)
	case FayHalves:
		if !(in.Fay >= 0 && in.Fay < 1) {
			return nil, refuse(FayOutOfRange, -1)
		}
		return each(1 / (all * (1 - in.Fay) * (1 - in.Fay)))
	case JackknifeStrata:
		if len(in.Strata) != n {
			return nil, refuse(FactorsNeeded, -1)
		}
		in.jackknife(out)
		return out, nil
	case GivenFactors:
		if len(in.Factors) != n {
			return nil, refuse(FactorsNeeded, -1)
		}
		copy(out, in.Factors)
		return out, nil
	}
	return nil, refuse(UnknownMethod, -1)
}

func (in Replicates) jackknife(out []float64) {
	per := perStratum(in.Strata)
	for i, h := range in.Strata {
		out[i] = (per[h] - 1) / per[h]
		if h < len(in.Fractions) {
			out[i] *= 1 - in.Fractions[h]
		}
	}
}

// byReplicate adds up the weights of the cells in each replicate. The error is EmptyReplicate, with
// its place, for one in which the base has no weight.
func (s *Sample) byReplicate(c *Cells, cells int, fill Filler) error {
	r := s.replicates
	sums := make([]Sum, len(r.weights)*cells)
	var lock turn
	s.parted(len(sums), func(part, from, before int) {
		own, some := make([]Sum, len(sums)), make([]float64, cells+1) // the last for who is outside of the base
		var buffer [block]int32
		var narrow [block]uint8
		for ; from < before; from += block {
			to := min(from+block, before)
			cell := buffer[:to-from]
			fill(s.Rows[from:to], cell)
			for k, at := range cell {
				if at < 0 {
					cell[k] = int32(cells)
				}
				narrow[k] = uint8(cell[k])
			}
			for i, weights := range r.weights {
				if cells < NoByte {
					addBytes(some, narrow[:to-from], weights[from:to])
				} else {
					clear(some)
					for k, w := range weights[from:to] {
						some[cell[k]] += w
					}
				}
				for j, x := range some[:cells] {
					own[i*cells+j].Add(x)
				}
			}
		}
		lock.next(part, func() {
			for i := range own {
				sums[i].Add(own[i].Value())
			}
		})
	})
	c.totals, c.moments = values(sums), nil
	for i := range r.weights {
		if total(c.totals[i*cells:(i+1)*cells]) == 0 {
			return refuse(EmptyReplicate, i)
		}
	}
	return nil
}

// addBytes sums up weights by cells of a byte each, neighbours in lanes of their own.
func addBytes(into []float64, cell []uint8, weights []float64) {
	var sums [lanes][256]float64
	weights = weights[:len(cell)]
	k := 0
	for ; k+lanes <= len(cell); k += lanes {
		c, w := cell[k:k+lanes:k+lanes], weights[k:k+lanes:k+lanes]
		sums[0][c[0]] += w[0]
		sums[1][c[1]] += w[1]
		sums[2][c[2]] += w[2]
		sums[3][c[3]] += w[3]
	}
	for ; k < len(cell); k++ {
		sums[0][cell[k]] += weights[k]
	}
	for j := range into {
		into[j] = sums[0][j] + sums[1][j] + (sums[2][j] + sums[3][j])
	}
}

func total(x []float64) float64 {
	var sum Sum
	for _, v := range x {
		sum.Add(v)
	}
	return sum.Value()
}

// of is the covariance of what value makes of the totals of the cells: V = Σ_r a_r (θ_r − θ)(θ_r − θ)ᵀ
// (Wolter 2007).
func (r *replicates) of(c *Cells, value func(total []float64) []float64) Matrix {
	cells := len(c.Total)
	thetas := make([][]float64, len(r.weights))
	for i := range thetas {
		thetas[i] = value(c.totals[i*cells : (i+1)*cells])
	}
	return r.vary(value(c.Total), thetas)
}

// estimates is the covariance of estimates: by how value varies over the weights of the replicates,
// NaN where these are 0, or by the linearised values z that Variance takes. The error is
// EmptyReplicate, with its place.
func (s *Sample) estimates(k int, value func(weights []float64) []float64, z func(row int, out []float64)) (Matrix, error) {
	r := s.replicates
	if r == nil {
		return s.Variance(k, z), nil
	}
	thetas := make([][]float64, len(r.weights))
	for i, weights := range r.weights {
		thetas[i] = value(weights)
		if slices.ContainsFunc(thetas[i], math.IsNaN) {
			return nil, refuse(EmptyReplicate, i)
		}
	}
	return r.vary(value(s.Weights), thetas), nil
}

func (r *replicates) vary(theta []float64, thetas [][]float64) Matrix {
	k := len(theta)
	if r.mean {
		flat := make([]float64, 0, k*len(thetas))
		for _, t := range thetas {
			flat = append(flat, t...)
		}
		theta = means(flat, k, 0, len(thetas))
	}
	v := newMatrix(k)
	for i := range k {
		for j := range i + 1 {
			var sum, scale Sum
			for n, t := range thetas {
				sum.Add(r.factors[n] * (t[i] - theta[i]) * (t[j] - theta[j]))
				scale.Add(math.Abs(r.factors[n] * t[i] * t[j]))
			}
			if v[i][j] = sum.Value(); math.Abs(v[i][j]) <= rounding*scale.Value() {
				v[i][j] = 0
			}
			v[j][i] = v[i][j]
		}
	}
	return v
}
