package printed

import (
	"fmt"
	"math"
	"math/big"
	"math/rand/v2"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
)

func ref[T any](v T) *T { return &v }

func TestReadFigure(t *testing.T) {
	for text, want := range map[string][3]float64{
		"9.40":         {9.40, 9.395, 9.405},
		" .024":        {0.024, 0.0235, 0.0245},
		"3,2":          {3.2, 3.15, 3.25},
		"= 12":         {12, 11.5, 12.5},
		"1.2e-5":       {1.2e-5, 1.15e-5, 1.25e-5},
		"4.1 × 10^−5":  {4.1e-5, 4.05e-5, 4.15e-5},
		"−2.20":        {-2.2, -2.205, -2.195},
		"< 0.001":      {0.001, math.Inf(-1), 0.001},
		"p":            {},
		"":             {},
		"1.2.3":        {},
		"12e":          {},
		"=":            {},
		"1e400":        {},
		"0x10":         {},
		"0e88":         {},
		"0e-400":       {},
		"999999999999": {999999999999, 999999999998.5, 999999999999.5},
	} {
		f, ok := ReadFigure(text)
		require.Equal(t, want != [3]float64{}, ok, text)
		if ok {
			assert.InEpsilon(t, want[0], f.Value, 1e-12, text)
			assert.InDelta(t, want[2], f.Range.Upper, 1e-9*math.Abs(want[2]), text)
			if !math.IsInf(want[1], 0) {
				assert.InDelta(t, want[1], f.Range.Lower, 1e-9*math.Abs(want[1]), text)
			}
		}
	}
}

// X² 9.4 on 3 degrees of freedom has p = 0.02442, the lower tail 0.97558; z −2.197 has
// 0.02799 on both sides and 0.01400 on one. The counts 41, 57, 38, 64 give just that X²
// for equal shares.
func TestPrintedResults(t *testing.T) {
	counts := []int64{41, 57, 38, 64}
	table := [][]int64{{34, 21}, {18, 40}} // X² 10.769, corrected 9.574, G 10.94
	third := func(a, b, c, d int64) []*big.Rat {
		return []*big.Rat{big.NewRat(a, 10), big.NewRat(b, 10), big.NewRat(c, 10), big.NewRat(d, 10)}
	}
	for name, c := range map[string]struct {
		in    Input
		holds bool
		slips []SlipName
		turns bool // the decision at 0.05
	}{
		"all true":                       {Input{Kind: ChiSquare, Statistic: "9.4", DF: ref(3.0), P: ".024"}, true, nil, false},
		"coarse rounding leaves room":    {Input{Kind: ChiSquare, Statistic: "9", DF: ref(3.0), P: "0.02"}, true, nil, false},
		"a bound":                        {Input{Kind: ChiSquare, Statistic: "31.2", DF: ref(3.0), P: "< 0.001"}, true, nil, false},
		"a bound that does not hold":     {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(3.0), P: "< 0.01"}, false, []SlipName{WrongDF}, false},
		"the answers as df":              {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(4.0), P: "0.024"}, false, []SlipName{WrongDF}, true},
		"the lower tail":                 {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(3.0), P: "0.976"}, false, []SlipName{LowerTail}, true},
		"halved":                         {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(3.0), P: "0.0122"}, false, []SlipName{Halved}, false},
		"cut":                            {Input{Kind: ChiSquare, Statistic: "9.500", DF: ref(3.0), P: "0.0233"}, true, nil, false},
		"cut and not rounded":            {Input{Kind: ChiSquare, Statistic: "9.4960", DF: ref(3.0), P: "0.0233"}, false, []SlipName{CutNotRounded}, false},
		"z read as p":                    {Input{Kind: Z, Statistic: "1.37", P: "1.37"}, false, []SlipName{StatisticAsP}, false},
		"one side for two":               {Input{Kind: Z, Statistic: "-2.197", P: "0.0140"}, false, []SlipName{Halved}, false},
		"two sides for one":              {Input{Kind: Z, Sided: 1, Statistic: "-2.197", P: "0.0280"}, false, []SlipName{Doubled}, false},
		"z where X² should be":           {Input{Kind: ChiSquare, Statistic: "2.197", DF: ref(1.0), P: "0.028"}, false, []SlipName{ZNotSquared}, true},
		"normal for t":                   {Input{Kind: T, Statistic: "2.20", DF: ref(14.0), P: "0.0278"}, false, []SlipName{NormalForT}, false},
		"t as it should be":              {Input{Kind: T, Statistic: "2.20", DF: ref(14.0), P: "0.045"}, true, nil, false},
		"zero is no probability here":    {Input{Kind: ChiSquare, Statistic: "31.2", DF: ref(3.0), P: "0.000"}, true, []SlipName{PrintedAsZero}, false},
		"percent":                        {Input{Kind: Z, Statistic: "1.00", P: "31.7"}, false, []SlipName{PercentWithoutP}, false},
		"negative X²":                    {Input{Kind: ChiSquare, Statistic: "-1.0", DF: ref(3.0), P: "0.80"}, false, nil, false},
		"counts agree":                   {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(3.0), P: "0.024", Observed: counts, N: ref(int64(200))}, true, nil, false},
		"df taken from the counts":       {Input{Kind: ChiSquare, Statistic: "9.40", P: "0.024", Observed: counts}, true, nil, false},
		"n of others":                    {Input{Kind: ChiSquare, Statistic: "9.40", P: "0.024", Observed: counts, N: ref(int64(201))}, false, nil, false},
		"computed on percents":           {Input{Kind: ChiSquare, Statistic: "4.70", DF: ref(3.0), P: "0.195", Observed: counts}, false, []SlipName{OnPercents}, false},
		"equal shares for given ones":    {Input{Kind: ChiSquare, Statistic: "9.40", DF: ref(3.0), P: "0.024", Observed: counts, Shares: third(2, 3, 2, 3)}, false, []SlipName{EqualShares}, false},
		"Yates":                          {Input{Kind: ChiSquare, Statistic: "9.57", DF: ref(1.0), P: "0.002", Table: table}, false, []SlipName{YatesCorrected}, false},
		"likelihood ratio":               {Input{Kind: ChiSquare, Statistic: "10.94", DF: ref(1.0), P: "0.001", Table: table}, false, []SlipName{LikelihoodRatio}, false},
		"z of a table":                   {Input{Kind: Z, Statistic: "3.28", P: "0.001", Table: table}, true, nil, false},
		"cells as df":                    {Input{Kind: ChiSquare, Statistic: "10.77", DF: ref(4.0), P: "0.029", Table: table}, false, []SlipName{RowsTimesCols}, false},
		"nothing explains it":            {Input{Kind: ChiSquare, Statistic: "123.4", DF: ref(2.0), P: "0.31"}, false, nil, true},
		"a p just on the other side":     {Input{Kind: Z, Statistic: "1.90", P: "0.047"}, false, nil, true},
		"not below, as the p is printed": {Input{Kind: Z, Statistic: "1.99", P: "> 0.05"}, false, nil, true},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := Compute(c.in)
			require.NoError(t, err)
			assert.Equal(t, c.holds, r.Holds, "%+v", r.Checks)
			var got []SlipName
			for _, s := range r.Slips {
				got = append(got, s.Name)
			}
			for _, want := range c.slips {
				assert.Contains(t, got, want)
			}
			if name == "nothing explains it" {
				assert.Empty(t, got)
			}
			if c.holds && len(c.slips) == 0 {
				assert.Empty(t, got)
			}
			assert.Equal(t, c.turns, r.DecisionChanges)
		})
	}
}

// Whatever the test gives holds when it is printed, however few digits are kept.
func TestTrueResultsHoldAtAnyRounding(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for range 400 {
		table := [][]int64{{1 + rng.Int64N(60), 1 + rng.Int64N(60), 1 + rng.Int64N(60)}, {1 + rng.Int64N(60), 1 + rng.Int64N(60), 1 + rng.Int64N(60)}}
		r, err := infer.ComputeIndependence(table, 0.05)
		require.NoError(t, err)
		in := Input{Kind: ChiSquare, Statistic: strconv.FormatFloat(r.Statistic, 'f', 1+rng.IntN(5), 64), P: fmt.Sprintf("%.*f", 2+rng.IntN(4), r.P.Value), DF: ref(2.0), Table: table, N: &r.N}
		got, err := Compute(in)
		require.NoError(t, err)
		assert.True(t, got.Holds, "%+v %+v", in, got.Checks)
		assert.False(t, got.DecisionChanges)
	}
}

func TestPrintedResultsRefuse(t *testing.T) {
	for name, c := range map[string]struct {
		in  Input
		why infer.Reason
	}{
		"no number":           {Input{Kind: ChiSquare, Statistic: "large", DF: ref(3.0), P: "0.1"}, StatisticText},
		"a bounded statistic": {Input{Kind: ChiSquare, Statistic: "> 3", DF: ref(3.0), P: "0.1"}, StatisticText},
		"no p":                {Input{Kind: ChiSquare, Statistic: "3", DF: ref(3.0), P: "n. s."}, PText},
		"another statistic":   {Input{Kind: "f", Statistic: "3", DF: ref(3.0), P: "0.1"}, UnknownKind},
		"df missing":          {Input{Kind: T, Statistic: "3", P: "0.1"}, DFNeeded},
		"both counts":         {Input{Kind: ChiSquare, Statistic: "3", P: "0.1", Observed: []int64{1, 2}, Table: [][]int64{{1, 2}, {3, 4}}}, TwoKindsCounts},
		"counts for t":        {Input{Kind: T, Statistic: "3", P: "0.1", Observed: []int64{1, 2}}, CountsForT},
		"nobody counted":      {Input{Kind: ChiSquare, Statistic: "3", P: "0.1", Observed: []int64{0, 0}}, infer.NoObservations},
		"three sides":         {Input{Kind: Z, Sided: 3, Statistic: "3", P: "0.1"}, SidesRange},
	} {
		_, err := Compute(c.in)
		var bad *infer.InputError
		require.ErrorAs(t, err, &bad, name)
		assert.Equal(t, c.why, bad.Reason, name)
	}
}

// FuzzPrinted reads any texts as a printed result: refused or judged, never a panic, and
// what holds has no slip but that p was printed as zero.
func FuzzPrinted(f *testing.F) {
	f.Add("9.40", "0.024", 3.0, uint8(0))
	f.Add("−2.20", "< .05", 14.0, uint8(2))
	f.Add("1e-7", "0.000", 1.0, uint8(1))
	f.Fuzz(func(t *testing.T, statistic, p string, df float64, kind uint8) {
		r, err := Compute(Input{Kind: []Kind{ChiSquare, Z, T}[kind%3], Statistic: statistic, P: p, DF: &df})
		if err != nil {
			var bad *infer.InputError
			require.ErrorAs(t, err, &bad)
			return
		}
		if r.Holds {
			for _, s := range r.Slips {
				require.Equal(t, PrintedAsZero, s.Name, "%q, %q with %g", statistic, p, df)
			}
		}
		require.True(t, !r.PTo.Less(r.PFrom) && r.PFrom.Value >= 0 && r.PTo.Value <= 1, "%q, %q with %g: %+v", statistic, p, df, r)
	})
}

// A size is held against the statistic, and a wrong name is found: 14/3 of 100 in three answers
// against equal shares gives w = √(X²/n); V belongs to tables.
func TestPrintedSizes(t *testing.T) {
	n, one, four := int64(100), 1.0, 4.0
	for _, k := range []struct {
		what    string
		in      Input
		holds   bool
		slip    SlipName
		refused infer.Reason
	}{
		{"w as it is", Input{Observed: []int64{30, 50, 20}, Statistic: "14.00", P: "0.001", Effect: "0.37", EffectName: NamedW}, true, "", ""}, // √(14/100)
		{"w called V", Input{Observed: []int64{30, 50, 20}, Statistic: "14.00", P: "0.001", Effect: "0.37", EffectName: NamedV}, false, WUnderOtherName, ""},
		{"w divided as V", Input{Observed: []int64{30, 50, 20}, Statistic: "14.00", P: "0.001", Effect: "0.26", EffectName: NamedV}, false, OneWayDivided, ""}, // √(14/200)
		{"w without its root", Input{Observed: []int64{30, 50, 20}, Statistic: "14.00", P: "0.001", Effect: "0.14", EffectName: NamedW}, false, EffectSquared, ""},
		{"V of a table of three by three, from its df", Input{DF: &four, N: &n, Statistic: "9.0", P: "0.061", Effect: "0.21", EffectName: NamedV}, true, "", ""}, // √(9/200)
		{"V called w", Input{DF: &four, N: &n, Statistic: "9.0", P: "0.061", Effect: "0.21", EffectName: NamedW}, false, VUnderOtherName, ""},
		{"C called w", Input{DF: &four, N: &n, Statistic: "9.0", P: "0.061", Effect: "0.287", EffectName: NamedW}, false, CUnderOtherName, ""}, // √(9/109)
		{"φ of two by two", Input{DF: &one, N: &n, Statistic: "4.0", P: "0.046", Effect: "0.20", EffectName: NamedPhi}, true, "", ""},
		{"without n", Input{DF: &one, Statistic: "4.0", P: "0.046", Effect: "0.20", EffectName: NamedPhi}, false, "", EffectNeedsN},
		{"no number", Input{DF: &one, N: &n, Statistic: "4.0", P: "0.046", Effect: "small", EffectName: NamedPhi}, false, "", EffectText},
	} {
		t.Run(k.what, func(t *testing.T) {
			k.in.Kind = ChiSquare
			r, err := Compute(k.in)
			var refused *infer.InputError
			if k.refused != "" {
				require.ErrorAs(t, err, &refused)
				assert.Equal(t, k.refused, refused.Reason)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, k.holds, r.Holds, r.Checks)
			if k.slip != "" {
				require.NotEmpty(t, r.Slips)
				assert.Equal(t, k.slip, r.Slips[0].Name)
			}
		})
	}
}
