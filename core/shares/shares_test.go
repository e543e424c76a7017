package shares

import (
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParseFigure(t *testing.T) {
	cases := []struct {
		text string
		mode Scale
		want string // exact rational, or the problem
	}{
		{"12.5", Percents, "25/2"}, {" 12,5 ", Percents, "25/2"}, {"12.5 %", Percents, "25/2"}, {"1/3", Proportions, "1/3"},
		{"0,125", Proportions, "1/8"}, {"12 500", Counts, "12500"}, {".5", Proportions, "1/2"}, {"0", Percents, "0"},
		{"+3", Ratio, "3"}, {"12,500", Counts, "ambiguous_comma"}, {"50%", Ratio, "percent_mark"}, {"-3", Ratio, "negative"},
		{"−3", Ratio, "negative"}, {"", Percents, "not_a_number"}, {"five", Ratio, "not_a_number"}, {"1e400000000", Ratio, "not_a_number"},
		{"0x10", Ratio, "not_a_number"}, {"1/0", Ratio, "not_a_number"}, {"/2", Ratio, "not_a_number"}, {"1/2/3", Ratio, "not_a_number"},
		{"1.2.3", Ratio, "not_a_number"}, {"%", Percents, "not_a_number"}, {"--1", Ratio, "not_a_number"}, {".", Ratio, "not_a_number"},
	}
	for _, c := range cases {
		t.Run(c.text, func(t *testing.T) {
			r, p := ParseFigure(c.text, c.mode)
			if p.Kind != "" {
				assert.Equal(t, c.want, string(p.Kind))
				return
			}
			assert.Equal(t, c.want, r.RatString())
		})
	}
}

func FuzzParseFigure(f *testing.F) {
	for _, s := range []string{"12.5", "1/3", "1/0", "٣", "1e9", "+-1", ",", "./"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		r, p := ParseFigure(s, Percents)
		if (r == nil) == (p.Kind == "") {
			t.Fatalf("%q: neither a number nor a problem, or both", s)
		}
		if r != nil && r.Sign() < 0 {
			t.Fatalf("%q: negative", s)
		}
	})
}

func TestParseLines(t *testing.T) {
	got := ParseLines("Harbour\t21.5\r\nQuarry Hill 18 %\n\n Old; gate;20,5\nFenside\nRents, privately\t3")
	assert.Equal(t, []Entry{{"Harbour", "21.5"}, {"Quarry Hill", "18%"}, {"Old; gate", "20,5"}, {"Fenside", ""}, {"Rents, privately", "3"}}, got)
}

var wards = []Name{{"Harbour", "1"}, {"Quarry Hill", "2"}, {"Fenside", "3"}}

func TestAlignMatchesByNameNeverByPosition(t *testing.T) {
	a := Align(wards, []Entry{{"Fenside", "50"}, {"quarry  hill", "30"}, {"1", "20"}}, Percents, false)
	require.True(t, a.Usable(), a.Problems)
	assert.Equal(t, []*big.Rat{big.NewRat(1, 5), big.NewRat(3, 10), big.NewRat(1, 2)}, a.Shares)
	assert.Equal(t, []int{1}, a.Loose)
}

func TestAlignProblems(t *testing.T) {
	full := func(f1, f2, f3 string) []Entry { return []Entry{{"Harbour", f1}, {"Quarry Hill", f2}, {"Fenside", f3}} }
	cases := []struct {
		name    string
		entries []Entry
		mode    Scale
		rescale bool
		want    []ProblemKind
		text    string
	}{
		{"percents short", full("33.2", "33.3", "33.3"), Percents, false, []ProblemKind{SumOff}, "-0.2"},
		{"a hair short", full("33.33333333333", "33.33333333333", "33.3333333"), Percents, false, []ProblemKind{SumOff}, "-3.33e-08"},
		{"off by rounding", full("33.3", "33.3", "33.3"), Percents, false, nil, ""},
		{"rounding does not reach two figures", []Entry{{"Harbour", "50"}, {"Quarry Hill", "49"}, {"Fenside", "0"}}, Percents, false, []ProblemKind{SumOff}, "-1"},
		{"fractions are never rounded", full("1/3", "1/3", "0.3"), Proportions, false, []ProblemKind{SumOff}, "-0.033333"},
		{"proportions over", full("0.5", "0.3", "0.25"), Proportions, false, []ProblemKind{SumOff}, "0.05"},
		{"rescaled on request", full("33.1", "33.3", "33.3"), Percents, true, nil, ""},
		{"thirds are exact", full("1/3", "1/3", "1/3"), Proportions, false, nil, ""},
		{"tenths are exact", full("0.1", "0.2", "0.7"), Proportions, false, nil, ""},
		{"a ratio needs no total", full("5", "3", "2"), Ratio, false, nil, ""},
		{"all zero", full("0", "0", "0"), Ratio, false, []ProblemKind{SumZero}, ""},
		{"one left out", full("5", "3", "2")[:2], Ratio, false, []ProblemKind{NoFigure}, "Fenside"},
		{"one empty", full("5", "3", " "), Ratio, false, []ProblemKind{NoFigure}, "Fenside"},
		{"a name unknown", append(full("5", "3", "2"), Entry{"Harbor", "1"}), Ratio, false, []ProblemKind{UnknownAnswer}, "Harbor"},
		{"given twice", append(full("5", "3", "2"), Entry{"FENSIDE", "1"}), Ratio, false, []ProblemKind{GivenTwice}, "FENSIDE"},
		{"equal ignores figures", full("x", "", "2"), Equal, false, nil, ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			a := Align(wards, c.entries, c.mode, c.rescale)
			var kinds []ProblemKind
			for _, p := range a.Problems {
				kinds = append(kinds, p.Kind)
			}
			require.Equal(t, c.want, kinds)
			if c.text != "" {
				assert.Equal(t, c.text, a.Problems[0].Text)
			}
			if a.Usable() {
				sum := new(big.Rat)
				for _, s := range a.Shares {
					sum.Add(sum, s)
				}
				assert.Equal(t, "1", sum.RatString(), "usable shares add to exactly one")
			}
			assert.Equal(t, c.rescale, a.Rescaled)
			assert.Equal(t, c.name == "off by rounding", a.Rounded)
		})
	}
	twins := Align([]Name{{"Yes", "1"}, {"yes ", "2"}}, []Entry{{"YES", "50"}, {"2", "50"}}, Percents, false)
	assert.Equal(t, AmbiguousName, twins.Problems[0].Kind, "two answers that differ in case cannot be told apart by another case")
	assert.Equal(t, TooFewAnswers, Align(wards[:1], nil, Equal, false).Problems[0].Kind)
}
