package docs_test

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/big"
	"strings"
	"testing"

	"gonum.org/v1/gonum/stat/distuv"

	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/internal/workedcases"
)

// digits counts the significant digits that hold, ours and gonum's, against sums in
// 1600-bit arithmetic.
func digits(t *testing.T, _ fernmouth) string {
	var b strings.Builder
	b.WriteString("| upper tail | p | ours: p | ours: log p | gonum: p |\n|---|---|---|---|---|\n")
	line := func(name string, own prob.Prob, gonum float64, want *big.Float) {
		ln := workedcases.Ln(want)
		ofLog := math.Min(16, -math.Log10(math.Abs(own.Log10*math.Ln10/ln-1)+1e-17))
		of := func(x float64) string {
			if x == 0 || ln < -700 {
				return "none"
			}
			return fmt.Sprintf("%.0f", math.Floor(math.Min(15, workedcases.Digits(x, want))))
		}
		exponent := math.Floor(ln / math.Ln10)
		other := of(gonum)
		if math.IsNaN(gonum) {
			other = "not in gonum"
		}
		fmt.Fprintf(&b, "| %s | %.1f·10<sup>%d</sup> | %s | %.0f | %s |\n", name, math.Pow(10, ln/math.Ln10-exponent), int(exponent), of(own.Value), math.Floor(math.Min(15, ofLog)), other)
	}
	for _, x := range []float64{10, 60, 300, 2500} {
		line(fmt.Sprintf("chi-square, df 10, at %g", x), prob.ChiSquareUpper(x, 10), distuv.ChiSquared{K: 10}.Survival(x), workedcases.ChiSquareUpper(x, 10))
	}
	line("chi-square, df 9802, at 11000", prob.ChiSquareUpper(11000, 9802), distuv.ChiSquared{K: 9802}.Survival(11000), workedcases.ChiSquareUpper(11000, 9802))
	for _, z := range []float64{2, 8, 20} {
		line(fmt.Sprintf("normal, at %g", z), prob.NormalUpper(z), distuv.UnitNormal.Survival(z), workedcases.NormalUpper(z))
	}
	for _, x := range []float64{2, 15, 60} {
		line(fmt.Sprintf("Student's t, df 30, at %g", x), prob.StudentUpper(x, 30), distuv.StudentsT{Mu: 0, Sigma: 1, Nu: 30}.Survival(x), workedcases.StudentUpper(x, 30))
	}
	for _, x := range []float64{2, 30, 1e6} {
		line(fmt.Sprintf("F, df 4 and 60, at %g", x), prob.FUpper(x, 4, 60), distuv.F{D1: 4, D2: 60}.Survival(x), workedcases.FUpper(x, 4, 60))
	}
	for _, k := range []int{220, 320, 400} {
		line(fmt.Sprintf("binomial, n 400, p ½, at %d", k), prob.BinomialUpper(int64(k), 400, 0.5), distuv.Binomial{N: 400, P: 0.5}.Survival(float64(k-1)), workedcases.BinomialUpper(k, 400, big.NewRat(1, 2)))
	}
	for _, x := range []float64{60, 400} {
		line(fmt.Sprintf("non-central chi-square, df 4, λ 40, at %g", x), prob.NoncentralChiSquareUpper(x, 4, 40), math.NaN(), workedcases.NoncentralUpper(x, 4, 40))
	}
	return b.String()
}

// edges puts inputs at the ends of what there is through the methods.
func edges(*testing.T, fernmouth) string {
	half := []*big.Rat{big.NewRat(1, 2), big.NewRat(1, 2)}
	gof := func(observed []int64, expected []*big.Rat) string {
		r, err := infer.ComputeGoodnessOfFit(infer.GoodnessOfFitInput{Observed: observed, Shares: expected, Level: 0.05})
		if err != nil {
			return refusal(err)
		}
		return fmt.Sprintf("X² = %s, df %d, p = %s, w %s", num(r.Statistic), r.DF, pr(r.P), interval(r.Effects[0].Interval))
	}
	table := func(cells [][]int64) string {
		r, err := infer.ComputeIndependence(cells, 0.05)
		if err != nil {
			return refusal(err)
		}
		return fmt.Sprintf("%d × %d remain, X² = %s, df %d, p = %s", len(r.RowsUsed), len(r.ColumnsUsed), num(r.Statistic), r.DF, pr(r.P))
	}
	share := func(x, n int64) string {
		r, err := infer.ComputeProportion(infer.ProportionInput{Successes: x, N: n, Claimed: 0.5, Confidence: 0.95})
		if err != nil {
			return refusal(err)
		}
		return fmt.Sprintf("exact p = %s; Wilson %s; Clopper–Pearson %s", pr(r.Exact.TwoSided), interval(&r.Intervals.Wilson), interval(&r.Intervals.ClopperPearson))
	}
	two := func(x1, n1, x2, n2 int64) string {
		r, err := infer.ComputeTwoProportions(infer.TwoProportionsInput{Successes1: x1, N1: n1, Successes2: x2, N2: n2, Confidence: 0.95})
		if err != nil {
			return refusal(err)
		}
		return fmt.Sprintf("z %s, odds ratio %s, Newcombe %s", opt(r.Z), opt(r.OddsRatio), interval(&r.Newcombe))
	}
	thousand, thousandParts := make([]int64, 1000), make([]int64, 1000)
	hundred := make([][]int64, 100)
	for i := range thousand {
		thousand[i], thousandParts[i] = int64(40+i%7), 1
	}
	for i := range hundred {
		for j := range 100 {
			hundred[i] = append(hundred[i], int64(5+(i*j)%11))
		}
	}
	exact := func(cells [][]int64) string {
		e, err := infer.ComputeExactIndependence(context.Background(), cells, 0.05, infer.ExactOptions{Way: infer.ExactOnly, Work: 1_000_000})
		if err != nil {
			return refusal(err)
		}
		if e.BeyondReach {
			return "beyond reach; simulated with fixed margins"
		}
		return "exact p = " + pr(e.Exact.P)
	}
	const trillion = 1_000_000_000_000
	var b strings.Builder
	b.WriteString("| input | outcome |\n|---|---|\n")
	for _, e := range [][2]string{
		{"goodness of fit, n = 0", gof([]int64{0, 0}, half)},
		{"one answer", gof([]int64{5}, half[:1])},
		{"share 0, nobody gave it", gof([]int64{30, 70, 0}, append(workedcases.Ratios(2, 3), new(big.Rat)))},
		{"share 0, one gave it", gof([]int64{30, 69, 1}, append(workedcases.Ratios(2, 3), new(big.Rat)))},
		{"all in one answer (20, 0 of ½, ½)", gof([]int64{20, 0}, half)},
		{"a perfect fit, p = 1", gof([]int64{50, 50}, half)},
		{"p near 0: 1,000,000 and 0 of ½, ½", gof([]int64{1_000_000, 0}, half)},
		{"counts of 10¹²: (10¹², 10¹² + 10⁶) of ½, ½", gof([]int64{trillion, trillion + 1_000_000}, half)},
		{"counts of 10¹² and 7 of ½, ½", gof([]int64{trillion, 7}, half)},
		{"counts above 10¹³", gof([]int64{10 * trillion, 1}, half)},
		{"1,000 answers", gof(thousand, workedcases.Ratios(thousandParts...))},
		{"table, n = 0", table([][]int64{{0, 0}, {0, 0}})},
		{"table, an empty row and column", table([][]int64{{5, 0, 9}, {0, 0, 0}, {8, 0, 3}})},
		{"table, only one column left", table([][]int64{{5, 0}, {8, 0}})},
		{"table of 10¹² each, one off", table([][]int64{{trillion, trillion}, {trillion, trillion + 1_000_000}})},
		{"table of 100 × 100", table(hundred)},
		{"exact test of 100 × 100", exact(hundred)},
		{"exact test, all in the diagonal of 3 × 3", exact([][]int64{{5, 0, 0}, {0, 5, 0}, {0, 0, 5}})},
		{"0 of 20", share(0, 20)},
		{"20 of 20", share(20, 20)},
		{"0 of 0", share(0, 0)},
		{"½·10¹² of 10¹²", share(trillion/2, trillion)},
		{"0 of 9 and 0 of 12", two(0, 9, 0, 12)},
		{"9 of 9 and 0 of 12", two(9, 9, 0, 12)},
	} {
		fmt.Fprintf(&b, "| %s | %s |\n", e[0], e[1])
	}
	return b.String()
}

// refusal says how an input is refused.
func refusal(err error) string {
	var bad *infer.InputError
	if !errors.As(err, &bad) {
		return err.Error()
	}
	where := ""
	if bad.Index >= 0 {
		where = fmt.Sprintf(" at %d", bad.Index+1)
	}
	return "refused: " + plainName(string(bad.Reason)) + where
}
