package infer

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"widetally/core/prob"
)

// RaoScott is a chi-square statistic of estimated shares, corrected for the design by the
// generalised design effects of what it sums up, with Wald's statistic beside it. Figures are nil
// where they are not defined: without variance, or without degrees of freedom.
type RaoScott struct {
	// Statistic is X² as if every respondent of the base were one of a simple random sample; DF are
	// its degrees of freedom, P its p-value, which the design makes wrong.
	Statistic     float64   `json:"statisticUnadjusted"`
	DF            int       `json:"testDf"`
	P             prob.Prob `json:"unadjustedPValue" beside:"log10"`
	CriticalValue float64   `json:"criticalValue"`
	// MeanDesignEffect is δ, ASquared a², the squared coefficient of variation of the design effects,
	// and CVDesignEffect a.
	MeanDesignEffect float64  `json:"meanDesignEffect"`
	ASquared         *float64 `json:"aSquared"`
	CVDesignEffect   *float64 `json:"cvDesignEffect"`

	FirstOrder   *float64    `json:"firstOrderStatistic"`
	FirstOrderP  *prob.Prob  `json:"firstOrderPValue" beside:"log10"`
	SecondOrder  *float64    `json:"secondOrderStatistic"`
	SecondDF     *float64    `json:"secondOrderDf"`
	SecondOrderP *prob.Prob  `json:"secondOrderPValue" beside:"log10"`
	FirstF       *float64    `json:"firstOrderF"`
	FirstFDF     *[2]float64 `json:"firstOrderFDf"`
	FirstFP      *prob.Prob  `json:"firstOrderFPValue" beside:"log10"`
	// SecondF is the one to go by: it keeps its level at few degrees of freedom too.
	SecondF   *float64    `json:"secondOrderF"`
	SecondFDF *[2]float64 `json:"secondOrderFDf"`
	SecondFP  *prob.Prob  `json:"secondOrderFPValue" beside:"log10"`
	Wald
}

// Wald is dᵀV⁻¹d of departures d. It rejects true claims too often where the design has few degrees
// of freedom. All but DF is nil where V cannot be inverted.
type Wald struct {
	W        *float64   `json:"waldStatistic"`
	WaldDF   int        `json:"waldDf"`
	WaldP    *prob.Prob `json:"waldPValue" beside:"log10"`
	SimpleF  *float64   `json:"waldFSimple"`
	SimpleFP *prob.Prob `json:"waldFSimplePValue" beside:"log10"`
	// F is W(ν − q + 1)/(νq) on q and ν − q + 1 degrees of freedom (Fellegi 1980; Thomas and Rao 1987).
	F   *float64   `json:"waldF"`
	FDF *int       `json:"waldFDenominatorDf"`
	FP  *prob.Prob `json:"waldFPValue" beside:"log10"`
}

// RaoScottInput is the departures of estimated shares from those of a hypothesis.
type RaoScottInput struct {
	// N is the respondents of the base.
	N int64
	// Departure holds estimate less expected share of each cell, Expected the expected shares, above 0.
	Departure, Expected []float64
	// Covariance is that of the departures.
	Covariance [][]float64
	// Free lists the cells whose departures determine the others, as many as the test has degrees of
	// freedom, for Wald's statistic.
	Free []int
	// DF are the degrees of freedom of the design.
	DF    int
	Level float64
}

// ComputeRaoScott corrects X² = n Σ d²/e to the first and the second order (Rao and Scott 1981; 1984),
// with the F forms of Thomas and Rao (1987) and Rao and Thomas (1988):
//
//	D = n diag(1/e) V   δ = tr D/q   a² = q tr(D²)/(tr D)² − 1
//	X²/δ on q   X²/(δ(1 + a²)) on q/(1 + a²)   F = X²/(δq) on (q, qν) and (q/(1 + a²), qν/(1 + a²))
//
// With one degree of freedom a is 0.
func ComputeRaoScott(in RaoScottInput) *RaoScott {
	n := float64(in.N)
	var statistic, trace, squared float64
	for i, d := range in.Departure {
		statistic += n * d / in.Expected[i] * d
		trace += n * in.Covariance[i][i] / in.Expected[i]
		for j := range in.Departure {
			squared += n * in.Covariance[i][j] / in.Expected[i] * (n * in.Covariance[j][i] / in.Expected[j])
		}
	}
	r := corrected(statistic, trace, squared, len(in.Free), in.DF, in.Level)
	r.Wald = wald(in)
	return r
}

// ComputeCorrected corrects a statistic dᵀS⁻¹d of departures d, which S would be the covariance of in a
// simple random sample, in the same way by D = S⁻¹V of their covariance V by the design (Rao and Scott
// 1984, section 4). It is nil where S cannot be inverted.
func ComputeCorrected(d []float64, v, simple [][]float64, df int, level float64) *RaoScott {
	q := len(d)
	s := mat.NewSymDense(q, nil)
	in := RaoScottInput{Departure: d, Covariance: v, DF: df}
	for i := range q {
		in.Free = append(in.Free, i)
		for j := i; j < q; j++ {
			s.SetSym(i, j, simple[i][j])
		}
	}
	var c mat.Cholesky
	if !c.Factorize(s) || c.Cond() > 1/singular {
		return nil
	}
	var away mat.VecDense
	var effects mat.Dense
	if c.SolveVecTo(&away, mat.NewVecDense(q, d)) != nil {
		return nil
	}
	of := mat.NewDense(q, q, nil)
	for i, row := range v {
		of.SetRow(i, row)
	}
	if c.SolveTo(&effects, of) != nil {
		return nil
	}
	var square mat.Dense
	square.Mul(&effects, &effects)
	r := corrected(mat.Dot(mat.NewVecDense(q, d), &away), mat.Trace(&effects), mat.Trace(&square), q, df, level)
	r.Wald = wald(in)
	return r
}

// corrected corrects a statistic on q degrees of freedom by the trace of its matrix of design effects and
// that of its square, where the design has df.
func corrected(statistic, trace, squared float64, free, df int, level float64) *RaoScott {
	q := float64(free)
	r := &RaoScott{Statistic: statistic, DF: free, MeanDesignEffect: trace / q}
	r.P = prob.ChiSquareUpper(r.Statistic, q)
	r.CriticalValue = prob.ChiSquareUpperQuantile(level, q)
	if !(trace > 0) {
		return r
	}
	a2 := 0.0
	if free > 1 {
		a2 = math.Max(0, q*squared/(trace*trace)-1)
	}
	a, first := math.Sqrt(a2), r.Statistic/r.MeanDesignEffect
	second, df2 := first/(1+a2), q/(1+a2)
	p1, p2 := prob.ChiSquareUpper(first, q), prob.ChiSquareUpper(second, df2)
	r.ASquared, r.CVDesignEffect = &a2, &a
	r.FirstOrder, r.FirstOrderP, r.SecondOrder, r.SecondDF, r.SecondOrderP = &first, &p1, &second, &df2, &p2
	if df < 1 {
		return r
	}
	v, f := float64(df), first/q
	f1, f2 := prob.FUpper(f, q, q*v), prob.FUpper(f, df2, df2*v)
	r.FirstF, r.FirstFDF, r.FirstFP = &f, &[2]float64{q, q * v}, &f1
	r.SecondF, r.SecondFDF, r.SecondFP = &f, &[2]float64{df2, df2 * v}, &f2
	return r
}

// singular is how small a pivot may be of what stood there before.
const singular = 1e-10

// wald eliminates in the order of the free cells, without pivoting.
func wald(in RaoScottInput) Wald {
	q := len(in.Free)
	w := Wald{WaldDF: q}
	a := make([][]float64, q) // V with d behind it
	for i, at := range in.Free {
		for _, other := range in.Free {
			a[i] = append(a[i], in.Covariance[at][other])
		}
		a[i] = append(a[i], in.Departure[at])
	}
	statistic := 0.0
	for i := range a {
		pivot, before := a[i][i], in.Covariance[in.Free[i]][in.Free[i]]
		if !(before > 0) || !(pivot/before >= singular) {
			return w
		}
		statistic += a[i][q] / pivot * a[i][q]
		for k := i + 1; k < q; k++ {
			f := a[k][i] / pivot
			for j := i; j <= q; j++ {
				a[k][j] -= f * a[i][j]
			}
		}
	}
	p := prob.ChiSquareUpper(statistic, float64(q))
	w.W, w.WaldP = &statistic, &p
	if in.DF < 1 {
		return w
	}
	simple := statistic / float64(q)
	sp := prob.FUpper(simple, float64(q), float64(in.DF))
	w.SimpleF, w.SimpleFP = &simple, &sp
	if left := in.DF - q + 1; left > 0 {
		f := statistic * float64(left) / float64(in.DF*q)
		fp := prob.FUpper(f, float64(q), float64(left))
		w.F, w.FDF, w.FP = &f, &left, &fp
	}
	return w
}

// DesignedCramersV is √(X²/(n (min(r, c) − 1))) of a statistic before its correction.
func DesignedCramersV(statistic float64, n int64, rows, columns int) float64 {
	return math.Sqrt(statistic / (float64(n) * float64(min(rows, columns)-1)))
}
