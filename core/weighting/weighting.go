// Package weighting makes weights that let a sample add up to what is known of its population, and
// tells what weights cost.
package weighting

import (
	"math"

	"widetally/core/design"
	"widetally/core/infer"
)

// The reasons for which weights cannot be made.
const (
	TargetNotPositive infer.Reason = "target_not_positive"
	EmptyCategory     infer.Reason = "empty_category"
	UnknownCategory   infer.Reason = "unknown_category"
	TargetsNeeded     infer.Reason = "targets_needed"
	BoundsOutOfRange  infer.Reason = "bounds_out_of_range"
	TotalOutOfRange   infer.Reason = "total_out_of_range"
)

func refuse(why infer.Reason, at int) error {
	return &infer.InputError{Method: "weighting", Reason: why, Index: at}
}

// Kish tells what weights cost (Kish 1965; 1992).
type Kish struct {
	// N are the rows with a weight above 0, ZeroWeights those without.
	N           int64   `json:"n"`
	ZeroWeights int64   `json:"zeroWeights"`
	SumWeights  float64 `json:"sumWeights"`
	// EffectiveN is (Σw)²/Σw², DesignEffect n/EffectiveN, CV the coefficient of variation of the
	// weights, √(DesignEffect − 1), Efficiency 100 EffectiveN/n.
	EffectiveN   float64 `json:"effectiveN"`
	DesignEffect float64 `json:"designEffect"`
	CV           float64 `json:"cv"`
	Efficiency   float64 `json:"efficiencyPercent"`
	Minimum      float64 `json:"minimum"`
	Maximum      float64 `json:"maximum"`
	// Ratio is Maximum by Minimum.
	Ratio float64 `json:"ratio"`
}

// ComputeKish sums up weights; NaN is a missing one. Errors: those of design.New about weights.
func ComputeKish(weights []float64) (*Kish, error) {
	s, err := design.New(design.Columns{Rows: len(weights), Weights: weights})
	if err != nil {
		return nil, err
	}
	k := &Kish{
		N:           int64(len(s.Rows)),
		ZeroWeights: int64(len(weights) - len(s.Rows)),
		Minimum:     s.Weights[0],
		Maximum:     s.Weights[0],
	}
	w := s.Weight()
	k.SumWeights, k.EffectiveN, k.DesignEffect = w.Sum, w.KishN, w.KishEffect
	for _, x := range s.Weights {
		k.Minimum, k.Maximum = math.Min(k.Minimum, x), math.Max(k.Maximum, x)
	}
	if k.Minimum < k.Maximum {
		k.CV = math.Sqrt(math.Max(0, k.DesignEffect-1))
	}
	k.Efficiency, k.Ratio = 100*k.EffectiveN/float64(k.N), k.Maximum/k.Minimum
	return k, nil
}

// Missing says what becomes of respondents whose category is not known.
type Missing string

// What becomes of them.
const (
	// MissingCategory keeps their share under the base weights, as a category of its own.
	MissingCategory Missing = "category"
	// MissingLeftOut gives them no weight.
	MissingLeftOut Missing = "left_out"
)

// Missings lists them, the default first.
var Missings = []Missing{MissingCategory, MissingLeftOut}

// TotalOf is what the weights shall add to.
type TotalOf string

// What the weights shall add to.
const (
	TotalSum TotalOf = "sum" // the base weights of the rows kept
	TotalN   TotalOf = "n"   // the rows kept
)

// Margin is a question whose categories have known shares of the population.
type Margin struct {
	// Categories is that of each row, from 0 on, design.None where it is not known.
	Categories []int
	// Targets are the shares of the categories on any scale.
	Targets []float64
}

// Base is the rows that weights are made of.
type Base struct {
	Rows int
	// Weights are those before, as in design.Columns.
	Weights []float64
	Missing Missing
	Total   TotalOf
	// Number is what the weights shall add to where it is above 0, whatever Total.
	Number float64
}

// Made is weights that were made.
type Made struct {
	// Weight is that of each row, NaN for one that is left out and for one without a base weight.
	Weight       []float64
	N            int64
	SumWeights   float64
	EffectiveN   float64
	DesignEffect float64
	// MinimumToMean and MaximumToMean are the extremes by the mean weight.
	MinimumToMean, MaximumToMean float64
	// MarginShare are the shares of the categories of each margin among those whose category is known.
	MarginShare [][]float64
}

// kept is the rows with a base weight, their categories with the missing ones as the last, and the
// shares that they shall have.
type kept struct {
	rows    []int
	base    []float64
	at      [][]int // by margin
	targets [][]float64
	known   []int // how many categories of each margin are no missing ones
	total   float64
}

func (b Base) keep(margins []Margin) (*kept, error) {
	s, err := design.New(design.Columns{Rows: b.Rows, Weights: b.Weights})
	if err != nil {
		return nil, err
	}
	for m, margin := range margins {
		if len(margin.Categories) != b.Rows {
			return nil, refuse(design.ColumnLength, m)
		}
		if len(margin.Targets) == 0 {
			return nil, refuse(TargetsNeeded, m)
		}
		for _, t := range margin.Targets {
			if !(t > 0) || math.IsInf(t, 1) {
				return nil, refuse(TargetNotPositive, m)
			}
		}
	}
	k := &kept{at: make([][]int, len(margins))}
	for i, row := range s.Rows {
		missing := false
		for _, m := range margins {
			if c := m.Categories[row]; c >= len(m.Targets) {
				return nil, refuse(UnknownCategory, row)
			} else if c < 0 {
				missing = true
			}
		}
		if !missing || b.Missing != MissingLeftOut {
			k.rows, k.base = append(k.rows, row), append(k.base, s.Weights[i])
		}
	}
	if len(k.rows) == 0 {
		return nil, refuse(design.NoRespondents, -1)
	}
	k.total = sum(k.base)
	for i, m := range margins {
		if err := k.margin(i, m); err != nil {
			return nil, err
		}
	}
	switch {
	case b.Number < 0 || math.IsInf(b.Number, 1):
		return nil, refuse(TotalOutOfRange, -1)
	case b.Number > 0:
		k.total = b.Number
	case b.Total == TotalN:
		k.total = float64(len(k.rows))
	}
	return k, nil
}

func (k *kept) margin(i int, m Margin) error {
	n := len(m.Targets)
	counts, missing := make([]int, n), design.Sum{}
	lacking := false
	for r, row := range k.rows {
		c := m.Categories[row]
		if c < 0 {
			c, lacking = n, true
			missing.Add(k.base[r])
		} else {
			counts[c]++
		}
		k.at[i] = append(k.at[i], c)
	}
	for _, of := range counts {
		if of == 0 {
			return refuse(EmptyCategory, i)
		}
	}
	share := missing.Value() / k.total
	whole, targets := sum(m.Targets), []float64{}
	for _, t := range m.Targets {
		targets = append(targets, t/whole*(1-share))
	}
	if lacking {
		targets = append(targets, share)
	}
	k.targets, k.known = append(k.targets, targets), append(k.known, n)
	return nil
}

func sum(x []float64) float64 {
	var s design.Sum
	for _, v := range x {
		s.Add(v)
	}
	return s.Value()
}

// totals are the sums of weights of the categories of a margin.
func (k *kept) totals(margin int, weights []float64) []float64 {
	sums := make([]design.Sum, len(k.targets[margin]))
	for r, c := range k.at[margin] {
		sums[c].Add(weights[r])
	}
	out := make([]float64, len(sums))
	for c := range sums {
		out[c] = sums[c].Value()
	}
	return out
}

// made sums up weights of the rows kept.
func (k *kept) made(rows int, weights []float64) *Made {
	m := &Made{Weight: make([]float64, rows), N: int64(len(weights))}
	for i := range m.Weight {
		m.Weight[i] = math.NaN()
	}
	for r, row := range k.rows {
		m.Weight[row] = weights[r]
	}
	s, err := ComputeKish(weights)
	if err != nil {
		return m // no weight is left of what was kept; it cannot be
	}
	mean := s.SumWeights / float64(s.N)
	m.SumWeights, m.EffectiveN, m.DesignEffect = s.SumWeights, s.EffectiveN, s.DesignEffect
	m.MinimumToMean, m.MaximumToMean = s.Minimum/mean, s.Maximum/mean
	for i, known := range k.known {
		totals := k.totals(i, weights)[:known]
		all, shares := sum(totals), make([]float64, known)
		for c, t := range totals {
			shares[c] = t / all
		}
		m.MarginShare = append(m.MarginShare, shares)
	}
	return m
}
