// Package design estimates populations from samples that were drawn by a design: with weights,
// strata, clusters and sampling fractions, or with replicate weights. It gives totals, shares,
// means, ratios and quantiles with the covariances that the design gives them; what is tested
// with these is in package infer.
package design

import (
	"iter"
	"math"
	"slices"

	"widetally/core/infer"
)

// The reasons for which a design is refused.
const (
	MissingWeight      infer.Reason = "missing_weight"
	NegativeWeight     infer.Reason = "negative_weight"
	NoRespondents      infer.Reason = "no_respondents"
	MissingStratum     infer.Reason = "missing_stratum"
	MissingCluster     infer.Reason = "missing_cluster"
	FractionOutOfRange infer.Reason = "fraction_out_of_range"
	PopulationTooSmall infer.Reason = "population_too_small"
	OneCluster         infer.Reason = "single_psu"
	EmptyBase          infer.Reason = "empty_base"
	ColumnLength       infer.Reason = "column_length"
)

// SinglePSU says what becomes of a stratum with one primary sampling unit (PSU).
type SinglePSU string

// What becomes of a stratum with one PSU, which says nothing of the spread within it.
const (
	// RefuseSingle refuses the design.
	RefuseSingle SinglePSU = "refuse"
	// CentreSingle takes its departure from the mean of all PSUs.
	CentreSingle SinglePSU = "centre"
	// ZeroSingle takes it to add nothing.
	ZeroSingle SinglePSU = "zero"
)

// SinglePSUs lists them, the default first.
var SinglePSUs = []SinglePSU{RefuseSingle, CentreSingle, ZeroSingle}

// None is the code of what is not known: a missing stratum or cluster, a row outside of the base.
const None = -1

// Columns says of each row of a file how it was drawn. A column is nil where there is none of it.
type Columns struct {
	Rows int
	// Weights are those of the rows, 0 or more; NaN is one that is missing. Nil: 1 each.
	Weights []float64
	// Strata and Clusters are codes from 0 on, None where they are missing. Nil: one stratum, and
	// every row a PSU of its own.
	Strata, Clusters []int
	// Fractions are the shares of the strata's PSUs that are in the sample, 0 to 1, by the code of
	// the stratum; a stratum beyond them has 0.
	Fractions []float64
	// Populations are, in their place, how many PSUs the strata have in the population, by the code of
	// the stratum: the fraction of a stratum is its PSUs in the sample by these. Nil: Fractions.
	Populations []float64
	// Single says what becomes of a stratum with one PSU; "" refuses it.
	Single SinglePSU
}

// Sample is a sample that was drawn by a design. Rows of weight 0 are no part of it.
type Sample struct {
	// Rows are the places in the file of those that are in it, rising.
	Rows []int
	// Weights are theirs.
	Weights []float64
	// PSU is the PSU of each, from 0 on; PSUs are ordered by their strata.
	PSU []int32
	// strata are those of the PSUs that follow each other.
	strata []stratum
	single SinglePSU
	// unclustered says that each row is a PSU; stratumOf is then the stratum of each row.
	unclustered  bool
	stratumOf    []int32
	shift        []float64 // the first weight of each stratum
	wholeWeights bool
	peaks        []float64 // the largest weight of each block of rows
	// replicates tell the variance in the place of strata and clusters; nil where there are none.
	replicates *replicates
	// Shared is how many clusters stand in more than one stratum, where each is a PSU of its own.
	Shared int
}

// stratum is the PSUs from one on to before another, with 1 − f of it.
type stratum struct {
	from, before int
	unsampled    float64
	code         int
	row          int // the first row of it
}

func refuse(why infer.Reason, at int) error {
	return &infer.InputError{Method: "design", Reason: why, Index: at}
}

// New reads a design. A PSU is the pair of a stratum and a cluster: the same cluster in two strata
// is two PSUs. Errors, all *infer.InputError, looked for in this order, with the row as the Index
// where there is one: a missing or negative weight, no row with weight, a missing stratum or
// cluster of a row with weight, a fraction that is none, and, where that is refused, the only PSU of
// a stratum that is not sampled whole.
func New(c Columns) (*Sample, error) {
	for _, n := range []int{len(c.Weights), len(c.Strata), len(c.Clusters)} {
		if n > 0 && n != c.Rows {
			return nil, refuse(ColumnLength, -1)
		}
	}
	s := &Sample{single: c.Single, unclustered: c.Clusters == nil}
	if err := s.weigh(c); err != nil {
		return nil, err
	}
	if err := s.place(c); err != nil {
		return nil, err
	}
	return s, s.fractions(c)
}

// weigh keeps the rows with a weight.
func (s *Sample) weigh(c Columns) error {
	if c.Weights == nil {
		s.Rows, s.Weights = make([]int, c.Rows), make([]float64, c.Rows)
		for i := range c.Rows {
			s.Rows[i], s.Weights[i] = i, 1
		}
	}
	if c.Weights != nil {
		s.Rows, s.Weights = make([]int, 0, c.Rows), make([]float64, 0, c.Rows)
	}
	for i, w := range c.Weights {
		switch {
		case w != w:
			return refuse(MissingWeight, i)
		case w < 0:
			return refuse(NegativeWeight, i)
		case w > 0:
			s.Rows, s.Weights = append(s.Rows, i), append(s.Weights, w)
		}
	}
	if len(s.Rows) == 0 {
		return refuse(NoRespondents, -1)
	}
	whole, unlike := true, false
	for k, w := range s.Weights {
		whole, unlike = whole && w == math.Trunc(w), unlike || w != s.Weights[0]
		if k%block == 0 {
			s.peaks = append(s.peaks, w)
		} else if last := len(s.peaks) - 1; w > s.peaks[last] {
			s.peaks[last] = w
		}
	}
	s.wholeWeights = whole && unlike
	return nil
}

// place numbers the PSUs, those of a stratum together, each in the order in which it comes.
func (s *Sample) place(c Columns) error {
	type psu struct{ stratum, cluster int }
	known, psus, of := map[psu]int32{}, [][]int32{}, make([]int32, len(s.Rows))
	inStratum := make([]int32, len(s.Rows))
	if c.Strata == nil && c.Clusters == nil {
		s.alone()
		return nil
	}
	strata := map[int]int{}
	var codes, firsts []int
	for k, row := range s.Rows {
		at := psu{cluster: row}
		if c.Strata != nil {
			if at.stratum = c.Strata[row]; at.stratum < 0 {
				return refuse(MissingStratum, row)
			}
		}
		if c.Clusters != nil {
			if at.cluster = c.Clusters[row]; at.cluster < 0 {
				return refuse(MissingCluster, row)
			}
		}
		h, seen := strata[at.stratum]
		if !seen {
			h = len(psus)
			strata[at.stratum], psus, codes = h, append(psus, nil), append(codes, at.stratum)
			firsts = append(firsts, k)
		}
		inStratum[k] = int32(h)
		id, seen := int32(0), false
		if c.Clusters != nil {
			id, seen = known[at]
		}
		if !seen {
			id = int32(k)
			if c.Clusters != nil {
				known[at] = id
			}
			psus[h] = append(psus[h], id)
		}
		of[k] = id
	}
	within := map[int]int{}
	for p := range known {
		if within[p.cluster]++; within[p.cluster] == 2 {
			s.Shared++
		}
	}
	if s.unclustered {
		s.stratumOf = inStratum
		for _, k := range firsts {
			s.shift = append(s.shift, s.Weights[k])
		}
	}
	number, n := make([]int32, len(s.Rows)), 0
	for h, ids := range psus {
		s.strata = append(s.strata, stratum{n, n + len(ids), 1, codes[h], s.Rows[firsts[h]]})
		for _, id := range ids {
			number[id] = int32(n)
			n++
		}
	}
	s.PSU = of
	for k, id := range of {
		s.PSU[k] = number[id]
	}
	return nil
}

// alone makes each row a PSU of one stratum.
func (s *Sample) alone() {
	n := len(s.Rows)
	s.PSU, s.stratumOf, s.shift = make([]int32, n), make([]int32, n), []float64{s.Weights[0]}
	for k := range s.PSU {
		s.PSU[k] = int32(k)
	}
	s.strata = []stratum{{0, n, 1, 0, s.Rows[0]}}
}

func (s *Sample) fractions(c Columns) error {
	for _, f := range c.Fractions {
		if !(f >= 0 && f <= 1) {
			return refuse(FractionOutOfRange, -1)
		}
	}
	first := s.firsts()
	for i := range s.strata {
		h := &s.strata[i]
		if h.code < len(c.Fractions) {
			h.unsampled = 1 - c.Fractions[h.code]
		}
		if c.Populations != nil {
			drawn, of := float64(h.before-h.from), c.Populations[h.code]
			if !(of >= drawn) || math.IsInf(of, 1) {
				return refuse(PopulationTooSmall, h.row)
			}
			h.unsampled = 1 - drawn/of
		}
		if h.before-h.from == 1 && h.unsampled > 0 && (c.Single == RefuseSingle || c.Single == "") {
			return refuse(OneCluster, s.Rows[first[h.from]])
		}
	}
	return nil
}

// firsts are the places of the first row of each PSU.
func (s *Sample) firsts() []int {
	first := make([]int, s.PSUs())
	for k := len(s.PSU) - 1; k >= 0; k-- {
		first[s.PSU[k]] = k
	}
	return first
}

// PSUs is how many primary sampling units there are.
func (s *Sample) PSUs() int { return s.strata[len(s.strata)-1].before }

// Strata is how many strata there are.
func (s *Sample) Strata() int { return len(s.strata) }

// DF are the degrees of freedom of the whole design also for a part of it: PSUs less strata, or those
// of the replicates.
func (s *Sample) DF() int {
	if s.replicates != nil {
		return s.replicates.df
	}
	return s.PSUs() - s.Strata()
}

// Replicates is how many replicate weights tell the variance; 0 where strata and clusters do.
func (s *Sample) Replicates() int {
	if s.replicates == nil {
		return 0
	}
	return len(s.replicates.weights)
}

// StratumRows are the places in the file of the first row of each stratum.
func (s *Sample) StratumRows() (out []int) {
	for _, h := range s.strata {
		out = append(out, h.row)
	}
	return out
}

// Base is the respondents an estimate is about, with the design that they are part of.
type Base struct {
	// N is how many they are, Design how many rows the design has.
	N      int64 `json:"n"`
	Design int64 `json:"nDesign"`
	PSUs   int   `json:"psus"`
	Strata int   `json:"strata"`
	// DF is PSUs less strata, or the degrees of freedom of the replicates.
	DF int `json:"df"`
	// Replicates is how many there are; 0 where strata and clusters tell the variance.
	Replicates int `json:"-"`
	// WholeWeights says that all weights of the sample are whole numbers, and not all the same: they may
	// be counts of respondents.
	WholeWeights bool `json:"-"`
	// BasePSUs and BaseStrata are those that hold any of the base.
	BasePSUs   int `json:"basePsus"`
	BaseStrata int `json:"baseStrata"`
	Weight
}

// Weight sums up the weights of a base.
type Weight struct {
	Sum float64 `json:"sumWeights"`
	// KishN is (Σw)²/Σw², KishEffect n Σw²/(Σw)² (Kish 1965; 1992).
	KishN      float64 `json:"kishEffectiveN"`
	KishEffect float64 `json:"kishDesignEffect"`
}

// weight sums up weights.
func weight(weights iter.Seq[float64]) (w Weight, n int64) {
	var sum, squares Sum
	for x := range weights {
		sum.Add(x)
		squares.Add(x * x)
		n++
	}
	w.Sum = sum.Value()
	if n > 0 {
		w.KishN = w.Sum * w.Sum / squares.Value()
		w.KishEffect = float64(n) / w.KishN
	}
	return w, n
}

// Weight sums up the weights of the sample.
func (s *Sample) Weight() Weight {
	w, _ := weight(slices.Values(s.Weights))
	return w
}

// whole is what every base of the sample has in common.
func (s *Sample) whole() Base {
	return Base{
		Design: int64(len(s.Rows)), PSUs: s.PSUs(), Strata: s.Strata(), DF: s.DF(), Replicates: s.Replicates(),
		WholeWeights: s.wholeWeights,
	}
}

// base describes the rows, by their place in the sample, for which in is true.
func (s *Sample) base(in func(k int) bool) (Base, error) {
	b := s.whole()
	held := make([]bool, b.PSUs)
	b.Weight, b.N = weight(func(yield func(float64) bool) {
		for k, w := range s.Weights {
			if in(k) {
				held[s.PSU[k]] = true
				if !yield(w) {
					return
				}
			}
		}
	})
	for _, h := range s.strata {
		any := 0
		for _, is := range held[h.from:h.before] {
			if is {
				any++
			}
		}
		b.BasePSUs += any
		b.BaseStrata += min(any, 1)
	}
	if b.N == 0 {
		return b, refuse(EmptyBase, -1)
	}
	return b, nil
}
