package infer

import "math"

// nominalAssociation gives how much knowing one question helps with the other, for
// answers without order: lambda, the share by which errors of guessing the commonest
// answer fall (Goodman and Kruskal 1954, Measures of association for cross
// classifications), and the uncertainty coefficient, the share by which entropy falls
// (Theil 1970, On the estimation of relationships involving qualitative variables).
// Where two answers are equally common in a row, lambda has no derivative; the first one
// counts.
func nominalAssociation(counts [][]int64, confidence float64) []Effect {
	rows, columns, n := margins(counts)
	lc, lr := guessing(counts, columns, n), turnedGuessing(counts, rows, n)
	uc, ur := entropy(counts, rows, columns, n)
	effect := func(name EffectName, r ratio) Effect { return r.effect(name, counts, confidence, 0) }
	return []Effect{effect(LambdaColumns, lc), effect(LambdaRows, lr), effect(LambdaSymmetric, lc.plus(lr)),
		effect(UncertaintyColumns, uc), effect(UncertaintyRows, ur), effect(UncertaintySymmetric, uc.plus(ur))}
}

// plus adds numerators and denominators, which makes a measure symmetric.
func (r ratio) plus(s ratio) ratio {
	return ratio{r.above + s.above, r.below + s.below,
		func(i, j int) float64 { return r.dAbove(i, j) + s.dAbove(i, j) },
		func(i, j int) float64 { return r.dBelow(i, j) + s.dBelow(i, j) }}
}

// guessing is lambda of the columns given the rows: (Σ_i max_j n_ij − max_j c_j)/(n − max_j c_j).
func guessing(counts [][]int64, columns []float64, n float64) ratio {
	best := largest(len(columns), func(j int) float64 { return columns[j] })
	own := make([]int, len(counts))
	sum := 0.0
	for i, row := range counts {
		own[i] = largest(len(row), func(j int) float64 { return float64(row[j]) })
		sum += float64(row[own[i]])
	}
	one := func(yes bool) float64 {
		if yes {
			return 1
		}
		return 0
	}
	return ratio{sum - columns[best], n - columns[best],
		func(i, j int) float64 { return one(own[i] == j) - one(j == best) },
		func(_, j int) float64 { return 1 - one(j == best) }}
}

func turnedGuessing(counts [][]int64, rows []float64, n float64) ratio {
	r := guessing(turned(counts), rows, n)
	return ratio{
		r.above,
		r.below,
		func(i, j int) float64 { return r.dAbove(j, i) },
		func(i, j int) float64 { return r.dBelow(j, i) },
	}
}

func turned(counts [][]int64) [][]int64 {
	t := make([][]int64, len(counts[0]))
	for j := range t {
		for _, row := range counts {
			t[j] = append(t[j], row[j])
		}
	}
	return t
}

func largest(n int, of func(i int) float64) (at int) {
	for i := 1; i < n; i++ {
		if of(i) > of(at) {
			at = i
		}
	}
	return at
}

// entropy gives the uncertainty coefficients of the columns given the rows and of the
// rows given the columns: both share the numerator Σ n_ij ln(n_ij·n/(r_i c_j)).
func entropy(counts [][]int64, rows, columns []float64, n float64) (ofColumns, ofRows ratio) {
	shared := 0.0
	gain := func(i, j int) float64 {
		return math.Log(float64(counts[i][j]) / rows[i] * (n / columns[j]))
	}
	for i, row := range counts {
		for j, o := range row {
			if o > 0 {
				shared += float64(o) * gain(i, j)
			}
		}
	}
	own := func(totals []float64) (sum float64) {
		for _, t := range totals {
			sum -= t * math.Log(t/n)
		}
		return sum
	}
	shared = math.Max(0, shared)
	ofColumns = ratio{shared, own(columns), gain, func(_, j int) float64 { return -math.Log(columns[j] / n) }}
	ofRows = ratio{shared, own(rows), gain, func(i, _ int) float64 { return -math.Log(rows[i] / n) }}
	return
}
