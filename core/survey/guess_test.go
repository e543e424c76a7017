package survey

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// repeated gives n cells made by f.
func repeated(n int, f func(i int) string) (cells []string) {
	for i := range n {
		cells = append(cells, f(i))
	}
	return cells
}

func TestGuessedKinds(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(5, 5))
	cases := []struct {
		about, name string
		cells       []string
		kind        Kind
		reason      Reason
	}{
		{"words that come back", "ward", repeated(60, func(i int) string { return []string{"Harbour", "Fenside", ""}[i%3] }), Single, FewWords},
		{"a few codes", "tenure", repeated(60, func(i int) string { return fmt.Sprint(1 + i%4) }), Single, FewCodes},
		{"codes with a word for missing", "tenure", repeated(60, func(i int) string {
			return []string{"1", "2", "1", "2", "1", "2", "1", "2", "1", "2", "1", "n/a"}[i%12]
		}), Single, FewCodes},
		{"wholes close together", "persons", repeated(90, func(i int) string { return fmt.Sprint(i % 9) }), Discrete, SomeWholes},
		{"wholes with gaps", "district", repeated(90, func(i int) string { return fmt.Sprint(100 * (i % 9)) }), Single, CodeName},
		{"codes by their name", "ward_code", repeated(90, func(i int) string { return fmt.Sprint(i % 9) }), Single, CodeName},
		{"1 to 10 without a word for what", "q7", repeated(90, func(i int) string { return fmt.Sprint(1 + i%10) }), Single, FewCodes},
		{"1 to 10 of something", "number of rooms", repeated(90, func(i int) string { return fmt.Sprint(1 + i%10) }), Discrete, SomeWholes},
		{"percents of a few rows", "recycled", []string{"12.5 %", "40 %", "7.25 %"}, Continuous, Amounts},
		{"money of a few rows", "rent", []string{"€ 1200", "€ 950", "€ 1480", "€ 700"}, Continuous, Amounts},
		{"round money that comes back", "income", repeated(90, func(i int) string {
			return []string{"2500", "5000", "10000", "20000", "50000", "200000", "999999", ""}[i%8]
		}), Continuous, Amounts},
		{"round codes of two levels", "trade", repeated(90, func(i int) string { return []string{"1100", "1200", "2100", "3100", "9600"}[i%5] }), Single, FewCodes},
		{"round codes without a gap", "trade", repeated(90, func(i int) string { return fmt.Sprint(1000 * (1 + i%9)) }), Single, FewCodes},
		{"years of a survey stay codes", "year", repeated(40, func(i int) string { return fmt.Sprint(2020 + i%4) }), Single, FewCodes},
		{"a few respondents' numbers", "respondent", []string{"17", "4", "23"}, Identifier, AllDifferent},
		{"numbers that are names", "id", []string{"A7", "B-12", "17"}, Identifier, AllDifferent},
		{"many different numbers", "rent", repeated(90, func(i int) string { return fmt.Sprint(300.5 + float64(i%45)*7.25) }), Continuous, ManyNumbers},
		{"ages", "age", repeated(400, func(int) string { return fmt.Sprint(18 + rng.IntN(55)) }), Discrete, SomeWholes},
		{"a decimal comma", "rent", repeated(90, func(i int) string { return strings.Replace(fmt.Sprint(300.5+float64(i%45)*7.25), ".", ",", 1) }), Continuous, ManyNumbers},
		{"running numbers", "id", repeated(40, func(i int) string { return fmt.Sprint(1000 + i) }), Identifier, AllDifferent},
		{"codes of one shape", "household", repeated(40, func(i int) string { return fmt.Sprintf("F%04d", i) }), Identifier, AllDifferent},
		{"too few rows to tell", "dwelling", repeated(20, func(i int) string { return fmt.Sprintf("F%04d", i) }), Single, FewWords},
		{"a weight by its name", "design_weight", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Weight, WeightName},
		{"a weight of 0 leaves a row out", "weight", repeated(90, func(i int) string { return fmt.Sprint(float64(i%45) / 50) }), Weight, WeightName},
		{"a weight is not below 0", "weight", repeated(90, func(i int) string { return fmt.Sprint(float64(i%45)/50 - 0.5) }), Continuous, ManyNumbers},
		{"in German", "Gewicht", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Weight, WeightName},
		{"a probability weight", "pweight", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Weight, WeightName},
		{"the final one", "w_final", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Weight, WeightName},
		{"a replicate of the weights", "rw12", repeated(90, func(i int) string { return fmt.Sprint(float64(i%45) / 50) }), Weight, WeightName},
		{"replicates by another name", "rep_weight_3", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Weight, WeightName},
		{"not a weight but weightlifting", "weightlifting", repeated(90, func(i int) string { return fmt.Sprint(0.5 + float64(i%45)/50) }), Continuous, ManyNumbers},
		{"many different words", "remark", repeated(200, func(i int) string { return strings.Repeat("so ", 1+i%7) + fmt.Sprint("and ", i) }), Text, ManyTexts},
		{"nobody answered", "empty", repeated(9, func(int) string { return " " }), Single, NothingAtAll},
		{"more than slots can hold", "remark", repeated(70_000, func(i int) string { return fmt.Sprintf("remark number %d of all", i%66_000) }), Text, ManyTexts},
		{"more numbers than slots can hold", "income", repeated(70_000, func(i int) string { return fmt.Sprintf("%d.5", i%66_000) }), Continuous, ManyNumbers},
		{"more weights than slots can hold", "wt", repeated(70_000, func(i int) string { return fmt.Sprintf("%d.5", i%66_000) }), Weight, WeightName},
		{"more numbers than slots, all different", "id", repeated(70_000, func(i int) string { return fmt.Sprint(i) }), Identifier, AllDifferent},
	}
	for _, c := range cases {
		t.Run(c.about, func(t *testing.T) {
			b := NewBuilder(true)
			b.Grow(len(c.cells))
			for _, cell := range c.cells {
				b.Add([]byte(cell))
			}
			built := b.Finish(c.name)
			assert.Equal(t, c.kind, built.Kind)
			assert.Equal(t, c.reason, built.Reason)
			require.Equal(t, len(c.cells), built.Data.Rows())
			assert.Positive(t, built.Data.Bytes())
			if c.kind == Continuous || c.kind == Weight {
				assert.True(t, HasNumber(built.Data))
				return
			}
			for i := 0; i < len(c.cells); i += 1 + len(c.cells)/50 {
				assert.Equal(t, strings.TrimSpace(c.cells[i]), built.Code(built.Data, i))
			}
		})
	}
	assert.True(t, NamesCount("Households") && !NamesCount("householder"))
}

func TestSummarisedColumns(t *testing.T) {
	t.Parallel()
	for about, c := range map[string]struct {
		cells []string
		kind  Kind
	}{
		"answers":      {[]string{"yes", "no", "unsure"}, Single},
		"wholes":       {repeated(9, func(i int) string { return fmt.Sprint(i) }), Discrete},
		"a few wholes": {[]string{"1", "2", "3"}, Single},
		"amounts":      {[]string{"1.5", "2", "3"}, Continuous},
	} {
		b := NewBuilder(false)
		for _, cell := range c.cells {
			b.Add([]byte(cell))
		}
		built := b.FinishDistinct("q")
		assert.Equal(t, c.kind, built.Kind, about)
		assert.Equal(t, FromForm, built.Reason, about)
	}
}

func TestDerivedFromSeveral(t *testing.T) {
	t.Parallel()
	one := Slot(1)
	ward := Source{Question{Name: "ward", Kind: Single, Answers: []Answer{{Slot: 1, Code: "H", Label: "Harbour"}, {Slot: 2, Code: "F", Label: "Fenside"}, {Slot: 3, Code: "h", SameAs: &one}, blankAnswer()}},
		Column{U8: []uint8{1, 2, 3, 1, 0}}}
	caddy := Source{Question{Name: "caddy", Kind: Single, Answers: []Answer{{Slot: 1, Code: "y", Label: "Yes"}, {Slot: 2, Code: "n", Label: "No"}, {Slot: 3, Code: "9", Missing: "refused"}, blankAnswer()}},
		Column{U8: []uint8{1, 1, 2, 3, 2}}}
	reasons := Source{Question{Name: "reasons", Kind: ChooseAll, Answers: []Answer{{Slot: 1, Code: "smell"}, {Slot: 2, Code: "time"}, {Slot: 3, Code: "Smell", SameAs: &one}, blankAnswer()}},
		Column{Sets: []uint64{0b0010, 0b0110, 0b1010, 0, 0b0001}}}
	text := Source{Question{Name: "said", Kind: Text, Answers: []Answer{blankAnswer()}}, Column{Text: []string{"bus; bike", "bike", "", "bus;;tram", "bus"}}}
	assert.Equal(t, map[string]int64{"Harbour × Yes": 1, "Harbour × No": 1, "Fenside × Yes": 1, "Fenside × No": 0, "No answer": 2},
		counted(t, Derivation{Rule: Combine, Sources: []uint64{1, 2}}, Sample{}, ward, caddy), "a spelling counts with its answer, a missing one with neither")
	assert.Equal(t, map[string]int64{"0": 1, "1": 2, "2": 1, "No answer": 1},
		counted(t, Derivation{Rule: HowMany, Sources: []uint64{1}}, Sample{}, reasons), "the same reason in two spellings is one")
	assert.Equal(t, map[string]int64{"bike": 2, "bus": 3, "tram": 1, "No answer": 1},
		counted(t, Derivation{Rule: Parts, Sources: []uint64{1}, Separator: ";"}, Sample{}, text))
	// caddy 1, 1, 2, 3 (refused), 2: what was merged and is missing now stays apart, and a
	// merged answer that nobody is left in keeps its row.
	assert.Equal(t, map[string]int64{"all": 2, "No": 2, "": 1, "No answer": 0},
		counted(t, Derivation{Rule: Merge, Sources: []uint64{1}, Groups: []Group{{"all", []Slot{1, 3}}}}, Sample{}, caddy))
	assert.Equal(t, map[string]int64{"none": 0, "Yes": 2, "No": 2, "": 1, "No answer": 0},
		counted(t, Derivation{Rule: Merge, Sources: []uint64{1}, Groups: []Group{{"none", []Slot{3}}}}, Sample{}, caddy))
	for name, c := range map[string]struct {
		d       Derivation
		sources []Source
	}{
		"combining numbers":         {Derivation{Rule: Combine, Sources: []uint64{1, 2}}, []Source{ward, numbersAsked(1, 2, 3, 4, 5)}},
		"counting one answer":       {Derivation{Rule: HowMany, Sources: []uint64{1}}, []Source{ward}},
		"parting at nothing":        {Derivation{Rule: Parts, Sources: []uint64{1}}, []Source{text}},
		"merging an unknown answer": {Derivation{Rule: Merge, Sources: []uint64{1}, Groups: []Group{{"all", []Slot{1, 9}}}}, []Source{ward}},
		"a name that is taken":      {Derivation{Rule: Merge, Sources: []uint64{1}, Groups: []Group{{"F", []Slot{1}}}}, []Source{ward}},
	} {
		_, _, _, err := Derive(c.d, c.sources, Sample{})
		var bad *DerivationError
		assert.ErrorAs(t, err, &bad, name)
	}
}

// Columns of every sort: blanks are missing, joining puts rows behind rows, renumbering
// answers there and back changes nothing.
func TestColumnsOfEverySort(t *testing.T) {
	t.Parallel()
	for _, kind := range []Kind{Single, Ordered, Discrete, Continuous, Weight, Text, ChooseAll} {
		blanks := Blanks(kind, 3)
		require.Equal(t, 3, blanks.Rows(), kind)
		q := Question{Kind: kind, Answers: []Answer{blankAnswer()}}
		counts, err := CountAnswers(q, blanks, Sample{})
		require.NoError(t, err)
		assert.Equal(t, int64(3), counts.Missing, kind)
		assert.Equal(t, 6, Joined(blanks, Blanks(kind, 3)).Rows(), kind)
	}
	for name, c := range map[string]Column{"narrow": {U8: []uint8{1, 2, 0, 2}}, "wide": {U16: []uint16{1, 300, 0, 2}}, "numbers": {F64: []float64{4, MissingNumber(1), 7.5, MissingNumber(2)}}, "sets": {Sets: []uint64{1, 0b110, 0b010}}} {
		up := func(s Slot) Slot { return s + 1 }
		down := func(s Slot) Slot { return max(s, 1) - 1 }
		if c.Sets != nil { // the last bit has nowhere to go
			up = func(s Slot) Slot { return min(s+1, MostSetItems) }
		}
		if c.U16 != nil {
			up = func(s Slot) Slot { return min(s+1, SlotLimit-1) }
		}
		back := c.reslot(up).reslot(down)
		q := Question{Answers: repeatedAnswers(400)}
		for i := range c.Rows() {
			assert.Equal(t, q.Code(c, i), q.Code(back, i), name)
		}
	}
	wide := Joined(Column{U8: []uint8{1, 2}}, Column{U16: []uint16{300}})
	assert.Equal(t, []uint16{1, 2, 300}, wide.U16)
	times := Column{F64: []float64{3, 0, MissingNumber(Blank), 12}}
	assert.Equal(t, []int64{3, 0, 0, 12}, times.Multiplicities())
	_, bad := BadCount(times)
	assert.False(t, bad)
	for _, x := range []float64{-1, 2.5, 1e16} {
		row, bad := BadCount(Column{F64: []float64{1, x}})
		assert.True(t, bad && row == 1, "%g", x)
	}
}

func repeatedAnswers(n int) (out []Answer) {
	for s := range n {
		out = append(out, Answer{Slot: Slot(s), Code: fmt.Sprint("c", s)})
	}
	return out
}

// Counting one spelling under another takes along what was counted under it, never the
// blank, and never in a ring.
func TestCountAs(t *testing.T) {
	t.Parallel()
	q := Question{Answers: []Answer{{Slot: 1, Code: "Harbour"}, {Slot: 2, Code: "Harbor"}, {Slot: 3, Code: "harbor"}, blankAnswer()}}
	q = CountAs(q, "harbor", "Harbor")
	q = CountAs(q, "Harbor", "Harbour")
	assert.Equal(t, []Slot{Blank, 1, 1, 1}, q.counted())
	for _, c := range [][2]string{{"Harbour", "Harbor"}, {"", "Harbour"}, {"Harbour", "Harbour"}, {"Fenside", "Harbour"}} {
		assert.Equal(t, q, CountAs(q, c[0], c[1]), "%v", c)
	}
}

// Spaces around a number do not make it another answer; around a word they may be meant
// and are shown.
func TestSpacesAroundNumbers(t *testing.T) {
	t.Parallel()
	b := NewBuilder(false)
	for _, cell := range []string{"1", " 1", "1 ", "2", "South", "South "} {
		b.Add([]byte(cell))
	}
	q := b.As("x", Single)
	codes := []string{}
	for _, a := range q.Answers {
		if a.Missing == "" {
			codes = append(codes, a.Code)
		}
	}
	assert.Equal(t, []string{"1", "2", "South", "South "}, codes)
	assert.Equal(t, int64(3), b.times("1"))
}

// What columns are called tells which part of a design they may be.
func TestNamesOfADesign(t *testing.T) {
	t.Parallel()
	for name, want := range map[string]string{
		"rw1": "rw 1", "RW80": "RW 80", "rep_wgt_12": "rep_wgt_ 12", "replicate_weight7": "replicate_weight 7", "rw": "", "row1": "", "rw1a": "", "rw12345": "",
	} {
		set, number, ok := NamesReplicate(name)
		got := ""
		if ok {
			got = fmt.Sprint(set, " ", number)
		}
		assert.Equal(t, want, got, name)
	}
	for name, want := range map[string][3]bool{ // stratum, cluster, place
		"stratum": {true}, "design_strata": {true}, "STRATUM_2": {true}, "strategy": {}, "psu": {false, true}, "cluster_id": {false, true},
		"clustering": {}, "street": {false, false, true}, "home_village": {false, false, true}, "streetwise": {}, "ward": {},
	} {
		assert.Equal(t, want, [3]bool{NamesStratum(name), NamesCluster(name), NamesPlace(name)}, name)
	}
}
