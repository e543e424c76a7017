// Command simulation draws samples by a design from populations for which the claim is true, and
// prints how often intervals hold the share and tests reject the claim.
package main

import (
	"flag"
	"fmt"
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/stat/distuv"

	"widetally/core/design"
	"widetally/core/infer"
	"widetally/core/prob"
)

// icc is the intra-cluster correlation of the answers.
const icc = 0.1

func main() {
	samples := flag.Int("samples", 2500, "samples for each line")
	seed := flag.Uint64("seed", 1, "seed of the draws")
	flag.Parse()
	s := simulation{n: *samples, random: rand.New(rand.NewPCG(*seed, 25))}
	fmt.Printf("%d samples each; clusters of 4 to 26, intra-cluster correlation %.1f, unequal weights\n\n", s.n, icc)
	fmt.Println("| share | df | coverage of 95 % intervals: linear | logit | Wilson | beta | design effect |\n|---|---|---|---|---|---|---|")
	for _, df := range []int{8, 40} {
		for _, p := range []float64{0.05, 0.3, 0.5} {
			s.coverage(p, df)
		}
	}
	fmt.Println("\n| test at 5 % of a true claim | df | ignoring the design | first order F | second order F | Wald χ² | Wald F | score of one share |\n|---|---|---|---|---|---|---|---|")
	for _, df := range []int{8, 40} {
		s.size("goodness of fit, 4 answers", df, s.fit)
		s.size("independence, 3 × 3", df, s.table)
		s.size("one share of 5 %", df, s.one)
		s.size("the same question twice, 4 answers", df, s.twice)
		s.size("ranks of 5 answers in 3 groups", df, s.shifted)
		s.size("4 items chosen equally often", df, s.chosen)
		s.size("within 3 layers of 2 × 2", df, s.layered)
	}
}

type simulation struct {
	n      int
	random *rand.Rand
}

// strata of a design.
const strata = 4

// draw is a sample of clusters whose answers to each question lean to their own shares.
func (s simulation) draw(df int, questions ...[]float64) (*design.Sample, [][]int) {
	var c design.Columns
	answers := make([][]int, len(questions))
	for h := range strata {
		for u := range df/strata + 1 {
			own := make([][]float64, len(questions))
			for q, shares := range questions {
				own[q] = s.around(shares)
			}
			for range 4 + s.random.IntN(23) {
				c.Strata, c.Clusters = append(c.Strata, h), append(c.Clusters, u)
				c.Weights = append(c.Weights, math.Exp(0.5*s.random.NormFloat64()))
				for q, shares := range own {
					answers[q] = append(answers[q], s.answer(shares))
				}
			}
		}
	}
	c.Rows = len(c.Weights)
	sample, err := design.New(c)
	if err != nil {
		panic(err) // what is drawn is whole
	}
	return sample, answers
}

// around draws the shares of a cluster, Dirichlet with the intra-cluster correlation.
func (s simulation) around(shares []float64) []float64 {
	out, all := make([]float64, len(shares)), 0.0
	for j, p := range shares {
		out[j] = distuv.Gamma{Alpha: p * (1 - icc) / icc, Beta: 1, Src: s.random}.Rand()
		all += out[j]
	}
	for j := range out {
		out[j] /= all
	}
	return out
}

// answer draws an answer.
func (s simulation) answer(shares []float64) int {
	x := s.random.Float64()
	for j, p := range shares {
		if x -= p; x < 0 {
			return j
		}
	}
	return len(shares) - 1
}

func cells(s *design.Sample, k int, of func(row int) int) *design.Cells {
	c, err := s.Cells(k, of)
	if err != nil {
		panic(err) // everybody answered
	}
	return c
}

// share estimates the share of the second of two answers.
func share(s *design.Sample, answers []int) infer.DesignedShare {
	c := cells(s, 2, func(row int) int { return answers[row] }).Shares()
	return infer.DesignedShare{Share: c.Share[1], Variance: c.Covariance[1][1], N: c.N, KishN: c.KishN, DF: c.DF}
}

func (s simulation) coverage(p float64, df int) {
	var held [4]int
	var effects, defined float64
	for range s.n {
		sample, answers := s.draw(df, []float64{1 - p, p})
		u := share(sample, answers[0]).Uncertainty(0.95)
		for i, in := range []*infer.Interval{&u.Linear.Interval, u.Logit, u.Wilson, u.Beta} {
			if in != nil && in.Contains(p) {
				held[i]++
			}
		}
		if u.DesignEffect != nil {
			effects, defined = effects+*u.DesignEffect, defined+1
		}
	}
	fmt.Printf("| %g | %d |", p, df)
	for _, h := range held {
		fmt.Printf(" %.1f %% |", 100*float64(h)/float64(s.n))
	}
	fmt.Printf(" %.2f |\n", effects/defined)
}

// rejected are the ways to a p-value, in the order of the columns; nil where there is none.
type rejected [6]*prob.Prob

func (s simulation) size(name string, df int, test func(df int) rejected) {
	var times, defined [6]int
	for range s.n {
		for i, p := range test(df) {
			if p != nil {
				defined[i]++
				if p.AtMost(0.05) {
					times[i]++
				}
			}
		}
	}
	fmt.Printf("| %s | %d |", name, df)
	for i, n := range times {
		if defined[i] == 0 {
			fmt.Print(" – |")
			continue
		}
		fmt.Printf(" %.1f %% |", 100*float64(n)/float64(defined[i]))
	}
	fmt.Println()
}

func ways(r *infer.RaoScott) rejected {
	return rejected{&r.P, r.FirstFP, r.SecondFP, r.WaldP, r.FP, nil}
}

func (s simulation) fit(df int) rejected {
	claimed := []float64{0.4, 0.3, 0.2, 0.1}
	sample, answers := s.draw(df, claimed)
	shares := cells(sample, 4, func(row int) int { return answers[0][row] }).Shares()
	in := infer.RaoScottInput{N: shares.N, Expected: claimed, Covariance: shares.Covariance, Free: []int{0, 1, 2}, DF: shares.DF, Level: 0.05}
	for j, p := range shares.Share {
		in.Departure = append(in.Departure, p-claimed[j])
	}
	return ways(infer.ComputeRaoScott(in))
}

func (s simulation) table(df int) rejected {
	sample, answers := s.draw(df, []float64{0.5, 0.3, 0.2}, []float64{0.4, 0.35, 0.25})
	c := cells(sample, 9, func(row int) int { return 3*answers[0][row] + answers[1][row] })
	used := c.Used(3)
	if len(used.Rows) < 2 || len(used.Columns) < 2 {
		return rejected{}
	}
	return ways(infer.ComputeRaoScott(used.Cells.Independence(len(used.Columns)).RaoScott(c.N, c.DF, 0.05)))
}

func (s simulation) one(df int) rejected {
	sample, answers := s.draw(df, []float64{0.95, 0.05})
	one := share(sample, answers[0])
	t := one.Test(0.05)
	// The design is ignored by the score test of so many respondents.
	simple := infer.DesignedShare{Share: one.Share, Variance: one.Share * (1 - one.Share) / float64(one.N), N: one.N, KishN: float64(one.N), DF: 1_000_000}.Test(0.05)
	return rejected{simple.Score.TwoSided, nil, nil, nil, t.Linear.TwoSided, t.Score.TwoSided}
}
