package survey

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func numbersAsked(values ...float64) Source {
	return Source{Question{Name: "n", Kind: Continuous, Answers: []Answer{blankAnswer()}}, Column{F64: values}}
}

// labelled counts a derived column by label.
func counted(t *testing.T, d Derivation, of Sample, sources ...Source) map[string]int64 {
	t.Helper()
	kind, answers, column, err := Derive(d, sources, of)
	require.NoError(t, err)
	counts, err := CountAnswers(Question{Kind: kind, Answers: answers}, column, of)
	require.NoError(t, err)
	out := map[string]int64{}
	for _, a := range answers {
		out[a.Label] = counts.BySlot[a.Slot]
	}
	return out
}

func TestBands(t *testing.T) {
	t.Parallel()
	ages := numbersAsked(17, 18, 24, 25, 40, MissingNumber(Blank))
	ten := numbersAsked(1, 2, 3, 4, 5, 6, 7, 8, 9, 10)
	ties := numbersAsked(1, 1, 1, 1, 1, 1, 2, 3)
	cases := []struct {
		name string
		src  Source
		of   Sample
		d    Derivation
		want map[string]int64
	}{
		{"a limit belongs above", ages, Sample{}, Derivation{Cut: GivenLimits, Limits: []float64{18, 25}}, map[string]int64{"< 18": 1, "18 to < 25": 2, "≥ 25": 2, "No answer": 1}},
		{"a limit belongs below", ages, Sample{}, Derivation{Cut: GivenLimits, Limits: []float64{18, 25}, UpperClosed: true}, map[string]int64{"≤ 18": 2, "> 18 to 25": 2, "> 25": 1, "No answer": 1}},
		{"equal width", numbersAsked(0, 4, 5, 10), Sample{}, Derivation{Cut: EqualWidth, Number: 2}, map[string]int64{"< 5": 2, "≥ 5": 2, "No answer": 0}},
		{"equal groups", ten, Sample{}, Derivation{Cut: EqualGroups, Number: 5, UpperClosed: true}, map[string]int64{"≤ 2": 2, "> 2 to 4": 2, "> 4 to 6": 2, "> 6 to 8": 2, "> 8": 2, "No answer": 0}},
		{"equal groups closed below", ten, Sample{}, Derivation{Cut: EqualGroups, Number: 2}, map[string]int64{"< 6": 5, "≥ 6": 5, "No answer": 0}},
		{"ties keep together", ties, Sample{}, Derivation{Cut: EqualGroups, Number: 4, UpperClosed: true}, map[string]int64{"≤ 1": 6, "> 1": 2, "No answer": 0}},
		{"rows that stand for many", numbersAsked(1, 2, 3), Sample{Frequency: []int64{1, 1, 8}}, Derivation{Cut: EqualGroups, Number: 2}, map[string]int64{"≥ 3": 8, "< 3": 2, "No answer": 0}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			c.d.Rule, c.d.Sources = Bands, []uint64{1}
			assert.Equal(t, c.want, counted(t, c.d, c.of, c.src))
		})
	}
	for name, d := range map[string]Derivation{
		"no limits": {Cut: GivenLimits}, "limits that fall": {Cut: GivenLimits, Limits: []float64{2, 1}}, "one class": {Cut: EqualWidth, Number: 1}, "no cut": {Number: 3},
	} {
		d.Rule, d.Sources = Bands, []uint64{1}
		_, _, _, err := Derive(d, []Source{ten}, Sample{})
		var bad *DerivationError
		assert.ErrorAs(t, err, &bad, name)
	}
}

// Laws over random columns: a merge, bands and a set change nobody's being missing and
// lose nobody.
func TestDerivationsLoseNobody(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(11, 3))
	one := Slot(1)
	q := Question{Name: "q", Kind: Discrete, Answers: []Answer{{Slot: 1, Code: "1"}, {Slot: 2, Code: "2"}, {Slot: 3, Code: "3"}, {Slot: 4, Code: "1 ", SameAs: &one}, {Slot: 5, Code: "-9", Missing: "refused"}, blankAnswer()}}
	for range 50 {
		n := 1 + rng.IntN(200)
		column, of := Column{U8: make([]uint8, n)}, Sample{Frequency: make([]int64, n), Subset: NewSet(n)}
		for i := range n {
			column.U8[i], of.Frequency[i] = uint8(rng.IntN(6)), rng.Int64N(4)
			if rng.IntN(3) > 0 {
				of.Subset.Add(i)
			}
		}
		before, err := CountAnswers(q, column, of)
		require.NoError(t, err)
		for _, d := range []Derivation{
			{Rule: Merge, Groups: []Group{{"low", []Slot{1, 2}}}},
			{Rule: Bands, Cut: GivenLimits, Limits: []float64{2}},
			{Rule: Together, Chosen: [][]Slot{{1}}},
		} {
			d.Sources = []uint64{1}
			kind, answers, made, err := Derive(d, []Source{{q, column}}, of)
			require.NoError(t, err)
			after, err := CountAnswers(Question{Kind: kind, Answers: answers}, made, of)
			require.NoError(t, err)
			assert.Equal(t, []int64{before.Everyone, before.Missing}, []int64{after.Everyone, after.Missing}, d.Rule)
			if d.Rule == Together {
				assert.Equal(t, before.BySlot[1], after.BySlot[1])
			}
		}
	}
}

func TestRefitKeepsSlotsByCode(t *testing.T) {
	t.Parallel()
	kept := []Answer{{Slot: 2, Code: "b", Label: "Bee"}, {Slot: 1, Code: "a"}, {Slot: 0, Missing: "no answer"}}
	made := []Answer{{Slot: 1, Code: "c", Label: "c"}, {Slot: 2, Code: "a"}, {Slot: 0, Missing: "x"}}
	answers, column, added, err := Refit(kept, made, Column{U8: []uint8{1, 2, 0}}, false)
	require.NoError(t, err)
	assert.Equal(t, []Answer{kept[0], kept[1], {Slot: 3, Code: "c", Label: "c"}, kept[2]}, answers)
	assert.Equal(t, []uint8{3, 1, 0}, column.U8)
	assert.Equal(t, []string{"c"}, added)
	answers, _, _, err = Refit(kept, made, Column{U8: []uint8{1}}, true)
	require.NoError(t, err)
	assert.Len(t, answers, 3, "b is gone")

	wide := make([]Answer, 300)
	for i := range wide {
		wide[i] = Answer{Slot: Slot(i), Code: string(rune('a' + i))}
	}
	_, column, _, err = Refit([]Answer{{Slot: 0, Code: "a"}}, wide, Column{U8: []uint8{255}, U16: nil}, false)
	require.NoError(t, err)
	assert.Equal(t, 1, column.Rows())
}

// Recoding to numbers and back gives every respondent the same code again.
func TestRecodeComesBack(t *testing.T) {
	t.Parallel()
	b := NewBuilder(true)
	codes := []string{"1", "2", "7", "1", "", "n/a", "2"}
	for _, c := range codes {
		b.Add([]byte(c))
	}
	was := b.As("q", Single)
	for _, to := range []Kind{Continuous, Text, Weight, Ordered} {
		q, column, _, err := Recode(was.Question, was.Data, to)
		require.NoError(t, err)
		q, column, _, err = Recode(q, column, Single)
		require.NoError(t, err)
		for i, want := range codes {
			assert.Equal(t, want, q.Code(column, i), to)
		}
	}
	_, _, _, err := Recode(was.Question, was.Data, ChooseAll)
	assert.ErrorIs(t, err, ErrChooseAll)
}

func TestMissingCodesOfNumbers(t *testing.T) {
	t.Parallel()
	q, c, found := SetMissing(Question{Kind: Continuous, Answers: []Answer{blankAnswer()}}, Column{F64: []float64{3, -9, 4, -9}}, map[string]string{"-9": "refused", "77": "x"})
	assert.Equal(t, 1, found)
	assert.Equal(t, "-9", q.Code(c, 1))
	counts, err := CountAnswers(q, c, Sample{})
	require.NoError(t, err)
	assert.Equal(t, int64(2), counts.Missing)
	_, back, _ := SetMissing(q, c, map[string]string{"-9": ""})
	assert.Equal(t, []float64{3, -9, 4, -9}, back.F64, "a number again")
}

func TestNumbersAreWrittenAsPeopleWriteThem(t *testing.T) {
	t.Parallel()
	for x, want := range map[float64]string{0: "0", 1_234_567: "1234567", -2.5: "-2.5", 0.1: "0.1", 1e-7: "1e-07", 1.0 / 3: "0.3333333333333333", 123_456_789_012: "123456789012", 1e15: "1e+15"} {
		assert.Equal(t, want, FormatNumber(x))
		back, ok := ParseNumber(want, true)
		assert.True(t, ok && back == x)
		q := Question{Kind: Continuous, Answers: []Answer{blankAnswer()}}
		assert.Equal(t, want, q.Code(Column{F64: []float64{x}}, 0))
	}
}

// What the columns of a set repeat is said by its wording; an answer says what is its own.
func TestTheAnswersOfASetAreWithoutTheirStem(t *testing.T) {
	t.Parallel()
	for _, c := range [][2][]string{
		{{"Why not the caddy: it smells", "Why not the caddy: flies"}, {"it smells", "flies"}},
		{{"Which? – Bins: small", "Which? – Bins: large"}, {"small", "large"}},
		{{"Which? – bins", "Which? – caddies"}, {"bins", "caddies"}},
		{{"Größe: ä", "Größe: ö"}, {"ä", "ö"}},
		{{"Bins", "Bikes"}, {"Bins", "Bikes"}},
		{{"Reason: ", "Reason: flies"}, {"Reason: ", "Reason: flies"}},
		{{"It smells: often"}, {"It smells: often"}},
	} {
		var sources []Source
		d := Derivation{Rule: Together}
		for i, wording := range c[0] {
			q := Question{Name: "q", Wording: wording, Kind: Single, Answers: []Answer{{Slot: 1, Code: "1"}, blankAnswer()}}
			sources = append(sources, Source{q, Column{U8: []uint8{1}}})
			d.Sources, d.Chosen = append(d.Sources, uint64(i)), append(d.Chosen, []Slot{1})
		}
		_, answers, _, err := Derive(d, sources, Sample{})
		require.NoError(t, err)
		var labels []string
		for _, a := range answers[:len(answers)-1] {
			labels = append(labels, a.Label)
		}
		assert.Equal(t, c[1], labels)
	}
}
