package infer_test

import (
	"context"
	"math"
	"math/big"
	"reflect"
	"testing"

	"widetally/core/infer"
	"widetally/core/prob"
	"widetally/core/resultjson"
)

// FuzzTables puts random tables through every method on tables. None panics; what is
// refused is refused by an *InputError; no figure of a result is NaN or infinite, but the
// ends of an interval without bound; probabilities lie within [0, 1] with logarithms that
// belong to them.
func FuzzTables(f *testing.F) {
	f.Add(uint8(2), []byte{34, 21, 18, 40}, uint8(5), uint8(0))
	f.Add(uint8(3), []byte{20, 14, 6, 11, 17, 13, 4, 12, 25}, uint8(10), uint8(3))
	f.Add(uint8(2), []byte{0, 0, 0, 1, 255, 0}, uint8(200), uint8(2))
	f.Add(uint8(1), []byte{7}, uint8(1), uint8(1))
	f.Add(uint8(4), []byte{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}, uint8(1), uint8(3))
	f.Fuzz(func(t *testing.T, rows uint8, counts []byte, levelPercent, scale uint8) {
		r := int(rows%6) + 1
		c := len(counts) / r
		if c == 0 || c > 8 {
			return
		}
		// Counts as they are, of a large survey, and of trillions; those between take an
		// exact test seconds.
		by := []int64{1, 1, 9, 1 << 31}[scale%4]
		table := make([][]int64, r)
		var flat []int64
		for i := range table {
			for j := range c {
				table[i] = append(table[i], int64(counts[i*c+j])*by)
			}
			flat = append(flat, table[i]...)
		}
		level := (float64(levelPercent) + 0.5) / 300
		check := func(method string, v any, err error) {
			if err != nil {
				if _, ok := err.(*infer.InputError); !ok {
					t.Fatalf("%s of %v: %v", method, table, err)
				}
				return
			}
			if _, err := resultjson.Encode(v); err != nil {
				t.Fatalf("%s of %v: %v", method, table, err)
			}
			figuresCanBe(t, method, reflect.ValueOf(v))
		}
		independence, err := infer.ComputeIndependence(table, level)
		check("independence", independence, err)
		ordered, err := infer.ComputeOrdered(infer.OrderedInput{Table: table, Level: level})
		check("ordered", ordered, err)
		agreement, err := infer.ComputeAgreement(table, 1-level)
		check("agreement", agreement, err)
		exact, err := infer.ComputeExactIndependence(context.Background(), table, level, infer.ExactOptions{Work: 200_000, Replicates: 20})
		check("exact independence", exact, err)
		simultaneous, err := infer.ComputeSimultaneous(flat, 1-level)
		check("simultaneous", simultaneous, err)
		var expected []*big.Rat
		for i := range flat {
			expected = append(expected, big.NewRat(int64(2*i+1), int64(len(flat)*len(flat))))
		}
		in := infer.GoodnessOfFitInput{Observed: flat, Shares: expected, Level: level}
		gof, err := infer.ComputeGoodnessOfFit(in)
		check("goodness of fit", gof, err)
		exactFit, err := infer.ComputeExactGoodnessOfFit(context.Background(), in, infer.ExactOptions{Work: 200_000, Replicates: 20})
		check("exact goodness of fit", exactFit, err)
		near, err := infer.ComputeDistributionEquivalence(in, level)
		check("equivalence", near, err)
		if r == 2 {
			against, err := infer.ComputeHomogeneity(table[0], table[1], level)
			check("against a sample", against, err)
		}
		if len(flat) < 4 {
			return
		}
		two := [2][2]int64{{flat[0], flat[1]}, {flat[2], flat[3]}}
		four, err := infer.ComputeTwoByTwo(two, 1-level)
		check("two by two", four, err)
		layers, err := infer.ComputeMantelHaenszel([][2][2]int64{two, {{flat[3], flat[1]}, {flat[0], flat[2]}}}, 1-level)
		check("layers", layers, err)
		shares := infer.TwoProportionsInput{Successes1: flat[0], N1: flat[0] + flat[1], Successes2: flat[2], N2: flat[2] + flat[3], Confidence: 1 - level}
		compared, err := infer.ComputeTwoProportions(shares)
		check("two proportions", compared, err)
		close, err := infer.ComputeTwoSharesEquivalence(shares, level, level/2)
		check("two shares equivalence", close, err)
		one, err := infer.ComputeProportion(infer.ProportionInput{Successes: flat[0], N: flat[0] + flat[1], Claimed: level, Confidence: 1 - level})
		check("one proportion", one, err)
	})
}

// ends are those of the measures that have them; ratios begin at 0.
var ends = map[infer.EffectName][2]float64{
	infer.ShareOfLargestW: {0, 1}, infer.CramersV: {0, 1}, infer.CramersVCorrected: {0, 1}, infer.Phi: {-1, 1},
	infer.ContingencyC: {0, 1}, infer.ContingencyCScaled: {0, 1}, infer.RiskDifference: {-1, 1},
	infer.OddsRatio: {0, math.Inf(1)}, infer.ConditionalOddsRatio: {0, math.Inf(1)}, infer.RelativeRisk: {0, math.Inf(1)},
	infer.LambdaColumns: {0, 1}, infer.LambdaRows: {0, 1}, infer.LambdaSymmetric: {0, 1},
	infer.UncertaintyColumns: {0, 1}, infer.UncertaintyRows: {0, 1}, infer.UncertaintySymmetric: {0, 1},
	infer.Gamma: {-1, 1}, infer.TauB: {-1, 1}, infer.TauC: {-1, 1}, infer.SomersColumns: {-1, 1}, infer.SomersRows: {-1, 1}, infer.SomersSymmetric: {-1, 1},
	infer.Superiority: {0, 1}, infer.CohensH: {-math.Pi, math.Pi}, infer.CohensW: {0, math.Inf(1)}, infer.WOverRootAnswers: {0, math.Inf(1)},
}

// figuresCanBe visits every probability and every measure of size below v: the one lies within
// 0 and 1 and has its own logarithm, the other within its ends and within its interval.
func figuresCanBe(t *testing.T, method string, v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			figuresCanBe(t, method, v.Elem())
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			figuresCanBe(t, method, v.Index(i))
		}
	case reflect.Struct:
		switch x := v.Interface().(type) {
		case prob.Prob:
			agree := x.Value < 1e-300 && x.Log10 < -299 || math.Abs(math.Log10(x.Value)-x.Log10) < 1e-9*math.Max(1, -x.Log10)
			if !(x.Value >= 0 && x.Value <= 1 && x.Log10 <= 0 && agree) {
				t.Fatalf("%s: %+v is no probability", method, x)
			}
			return
		case infer.Effect:
			end, known := ends[x.Name]
			if !known {
				t.Fatalf("%s: nothing is known of %s", method, x.Name)
			}
			if x.AboveInterval() && (x.Word.Word != "" || x.Method != infer.NoncentralInterval) {
				t.Fatalf("%s: %s lies above its interval and is called %q", method, x.Name, x.Word.Word)
			}
			const slip = 1e-12 // value and limits are rounded each by itself
			within := func(least, x, most float64) bool { return least <= x && x <= most }
			if x.Value != nil && !within(end[0], *x.Value, end[1]) {
				t.Fatalf("%s: %s of %v", method, x.Name, *x.Value)
			}
			if i := x.Interval; i != nil && !(within(end[0], i.Lower, i.Upper) && i.Upper <= end[1]) {
				t.Fatalf("%s: %s within %v", method, x.Name, *i)
			}
			if i := x.Interval; i != nil && x.Value != nil && !x.AboveInterval() && !within(i.Lower-slip, *x.Value, i.Upper+slip) {
				t.Fatalf("%s: %s of %v is not within %v", method, x.Name, *x.Value, *i)
			}
			return
		}
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				figuresCanBe(t, method, v.Field(i))
			}
		}
	}
}
