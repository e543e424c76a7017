package main

import (
	"widetally/core/design"
	"widetally/core/infer"
)

// twice is the same question asked twice: who is alike in clusters is alike in both answers.
func (s simulation) twice(df int) rejected {
	shares := []float64{0.4, 0.3, 0.2, 0.1}
	sample, answers := s.draw(df, shares, shares)
	c := cells(sample, 16, func(row int) int { return 4*answers[0][row] + answers[1][row] })
	moved := c.Ratios(3, func(i, cell int) float64 { return design.Indicator(cell%4 == i) - design.Indicator(cell/4 == i) }, func(int, int) float64 { return 1 })
	var simple [][]float64
	for i := range 3 {
		var row []float64
		for j := range 3 {
			both := -moved.Value[i] * moved.Value[j]
			for cell, t := range c.Total {
				from, to := cell/4, cell%4
				both += t / c.Sum * (design.Indicator(to == i) - design.Indicator(from == i)) * (design.Indicator(to == j) - design.Indicator(from == j))
			}
			row = append(row, both/float64(c.N))
		}
		simple = append(simple, row)
	}
	return corrected(moved.Value, moved.Covariance, simple, c.DF)
}

// shifted is ordered answers in three groups that do not differ.
func (s simulation) shifted(df int) rejected {
	sample, answers := s.draw(df, []float64{0.1, 0.2, 0.3, 0.25, 0.15}, []float64{0.4, 0.35, 0.25})
	c := cells(sample, 15, func(row int) int { return 3*answers[0][row] + answers[1][row] })
	ranks := design.MidRanks(c.Merged(5, func(cell int) int { return cell / 3 }).Shares().Share)
	g := c.Groups(3, func(cell int) float64 { return ranks[cell/3] }, func(cell int) int { return cell % 3 })
	if len(g.At) < 2 {
		return rejected{}
	}
	d, v, simple := g.Apart()
	return corrected(d, v, simple, c.DF)
}

// chosen is four items that are chosen equally often.
func (s simulation) chosen(df int) rejected {
	each := []float64{0.7, 0.3}
	sample, answers := s.draw(df, each, each, each, each)
	items, err := sample.Items(4, func(row int) (set uint64, in bool) {
		for q := range answers {
			set |= uint64(answers[q][row]) << q //nolint:gosec // 0 or 1
		}
		return set, true
	})
	if err != nil {
		panic(err) // everybody answered
	}
	d, v, simple := items.Apart()
	return corrected(d, v, simple, items.DF)
}

// layered is two questions that do not go together within a third.
func (s simulation) layered(df int) rejected {
	sample, answers := s.draw(df, []float64{0.6, 0.4}, []float64{0.5, 0.5}, []float64{0.3, 0.3, 0.4})
	c := cells(sample, 12, func(row int) int { return 4*answers[2][row] + 2*answers[0][row] + answers[1][row] })
	l := c.Layered(2, 2)
	if len(l.Free) == 0 {
		return rejected{}
	}
	return ways(infer.ComputeRaoScott(l.RaoScott(c.N, c.DF, 0.05)))
}

func corrected(d []float64, v, simple [][]float64, df int) rejected {
	r := infer.ComputeCorrected(d, v, simple, df, 0.05)
	if r == nil {
		return rejected{}
	}
	return ways(r)
}
