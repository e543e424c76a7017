package infer

import (
	"math"
	"slices"

	"widetally/core/prob"
)

// Ranks compares groups by an ordered answer: the rows are the groups, the columns the
// answers from lowest to highest. Tied respondents share the mean of their ranks.
type Ranks struct {
	MeanRanks []float64 // of each group
	// H is the statistic of Kruskal and Wallis (1952, Use of ranks in one-criterion
	// variance analysis), divided by Ties = 1 − Σ(t³ − t)/(n³ − n).
	H, Ties float64
	DF      int
	P       prob.Prob
	Reject  bool
	// EpsilonSquared is H/(n − 1), 0 for groups alike and 1 for groups wholly apart
	// (Tomczak and Tomczak 2014, The need to report effect size estimates revisited).
	EpsilonSquared float64
	// Conditions: five in each group make the chi-square distribution good enough
	// (Kruskal and Wallis 1952).
	Conditions []Condition
	Pair       *RankPair // nil unless there are two groups
}

// RankPair is the rank test of two groups (Wilcoxon 1945; Mann and Whitney 1947) by the
// normal distribution with the variance that allows for ties.
type RankPair struct {
	// U counts the pairs in which the respondent of the second group stands higher, a
	// tie as half.
	U, Mean, SD float64
	Z           float64
	Tails       Tails // Greater: the second group stands higher
	Reject      bool
	// Corrected brings U half a step nearer to its mean.
	Corrected struct {
		Z        float64
		TwoSided prob.Prob
	}
	// Superiority is U/(n1·n2), the chance that a respondent of the second group stands
	// higher than one of the first, a tie as half.
	Superiority Effect
}

func ranks(counts [][]int64, rows, columns []float64, n, level float64) *Ranks {
	r := &Ranks{DF: len(rows) - 1, Ties: 1}
	below := 0.0
	mid := make([]float64, len(columns))
	for j, c := range columns {
		mid[j] = below + (c+1)/2
		below += c
		r.Ties -= c / n * ((c - 1) / (n - 1)) * ((c + 1) / (n + 1))
	}
	middle := (n + 1) / 2
	for i, row := range counts {
		away := 0.0 // of the rank sum from its mean, formed by differences
		for j, o := range row {
			away += float64(o) * (mid[j] - middle)
		}
		r.MeanRanks = append(r.MeanRanks, middle+away/rows[i])
		r.H += away / rows[i] * away
	}
	r.H *= 12 / n / (n + 1) / r.Ties
	r.P = prob.ChiSquareUpper(r.H, float64(r.DF))
	r.Reject = r.P.AtMost(level)
	r.EpsilonSquared = r.H / (n - 1)
	r.Conditions = []Condition{atLeast(GroupAtLeast, slices.Min(rows), 5)}
	if len(rows) == 2 {
		r.Pair = rankPair(rows, r, n, level)
	}
	return r
}

func rankPair(rows []float64, r *Ranks, n, level float64) *RankPair {
	n1, n2 := rows[0], rows[1]
	p := &RankPair{Mean: n1 * n2 / 2, SD: math.Sqrt(n1 / 12 * n2 * (n + 1) * r.Ties)}
	above := n2 * (r.MeanRanks[1] - (n+1)/2)
	p.U = p.Mean + above
	p.Z = above / p.SD
	p.Tails = normalTails(p.Z)
	p.Reject = p.Tails.TwoSided.AtMost(level)
	p.Corrected.Z = math.Copysign(math.Max(0, math.Abs(above)-0.5), above) / p.SD
	p.Corrected.TwoSided = prob.NormalTwoSided(p.Corrected.Z)
	return p
}

// superiority turns Somers' d of the columns given two rows, the difference of the two
// chances, into the chance itself.
func superiority(effects []Effect) Effect {
	for _, e := range effects {
		if e.Name == SomersColumns && e.Value != nil {
			s := present(Superiority, (*e.Value+1)/2)
			s.Why = e.Why
			if e.Interval != nil {
				s = s.with(&Interval{(e.Interval.Lower + 1) / 2, (e.Interval.Upper + 1) / 2}, e.Method)
			}
			return s
		}
	}
	return absent(Superiority, NoVariation)
}
