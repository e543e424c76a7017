package disclosure

import (
	"fmt"
	"math/rand/v2"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// built reads a column of cells as a question of a kind.
func built(t *testing.T, name string, kind survey.Kind, cells ...string) survey.Source {
	t.Helper()
	q := survey.Question{Name: name, Kind: survey.Single, Answers: []survey.Answer{{Slot: survey.Blank, Missing: "no answer"}}}
	slots := map[string]uint16{"": 0}
	column := survey.Column{U16: make([]uint16, len(cells))}
	for i, cell := range cells {
		slot, known := slots[cell]
		if !known {
			slot = uint16(len(slots))
			slots[cell] = slot
			q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(slot), Code: cell, Label: strings.ToUpper(cell)})
		}
		column.U16[i] = slot
	}
	if kind == survey.Single {
		return survey.Source{Question: q, Column: column}
	}
	q, column, _, err := survey.Recode(q, column, kind)
	require.NoError(t, err)
	return survey.Source{Question: q, Column: column}
}

// leaving writes the whole file.
func (m *Microdata) leaving(rows int) [][]string {
	out := make([][]string, rows)
	for i := range out {
		out[i] = make([]string, len(m.Questions))
		m.Row(i, out[i])
	}
	return out
}

// Whatever the answers are, every combination of answers to the key questions that leaves is shared by k rows at least;
// nobody is without answers who need not be, and what is no key leaves whole. All is counted again from the file.
func TestNoCombinationIsRarerThanSaid(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 30))
	for try := range 300 {
		rows, keys, answers := 20+r.IntN(180), 1+r.IntN(4), 2+r.IntN(6)
		release := Release{Least: int64(2 + r.IntN(8)), Bands: 3}
		var chosen []Chosen
		original := map[string]int{}
		whole := make([]string, rows)
		for k := range keys {
			cells := make([]string, rows)
			for i := range cells {
				if n := r.IntN(answers+1) * r.IntN(2); n > 0 { // uneven, many blank
					cells[i] = string(rune('a' + n))
				}
				whole[i] += cells[i] + "|"
			}
			chosen = append(chosen, Chosen{built(t, fmt.Sprint("key", k), survey.Single, cells...), true})
		}
		others := make([]string, rows)
		for i := range others {
			others[i] = string(rune('a' + r.IntN(3)))
			original[whole[i]]++
		}
		chosen = append(chosen, Chosen{Source: built(t, "other", survey.Single, others...)})
		m, err := MakeMicrodata(release, chosen, rows, survey.Sample{})
		require.NoError(t, err)
		shared, left := map[string]int{}, []string{}
		for _, row := range m.leaving(rows) {
			shared[strings.Join(row[:keys], "|")+"|"]++
			left = append(left, row[keys])
		}
		blank := strings.Repeat("|", keys)
		few, alone, smallest, rarestKept, most := 0, 0, rows, rows, 0
		for combination, n := range original {
			smallest = min(smallest, n)
			if n < int(release.Least) {
				few += n
			}
			if n == 1 {
				alone++
			}
			if combination != blank && shared[combination] > 0 {
				assert.Equal(t, n, shared[combination], "a combination leaves whole or not at all")
				rarestKept = min(rarestKept, n)
			} else if combination != blank {
				most = max(most, n)
			}
		}
		for combination, n := range shared {
			assert.GreaterOrEqual(t, n, int(release.Least), "try %d: %s", try, combination)
		}
		a := m.Anonymity
		assert.LessOrEqual(t, most, rarestKept, "the rarest are withheld first")
		assert.Equal(t, shared[blank]-original[blank], int(a.Withheld))
		if few == 0 {
			assert.Zero(t, a.Withheld)
		}
		assert.Equal(t, []int{len(original), smallest, alone, few}, []int{a.Combinations, int(a.Smallest), int(a.Alone), int(a.Few)})
		sort.Strings(left)
		sort.Strings(others)
		assert.Equal(t, others, left)
	}
}

func TestWhatLeavesForOthers(t *testing.T) {
	five := Release{Least: 2, Bands: 2}
	t.Run("another spelling leaves as its answer and hides among it", func(t *testing.T) {
		s := built(t, "ward", survey.Single, "fen", "Fen", "fen", "bay", "bay")
		to := s.Question.Answers[1].Slot
		s.Question.Answers[2].SameAs = &to
		m, err := MakeMicrodata(five, []Chosen{{s, true}}, 5, survey.Sample{})
		require.NoError(t, err)
		assert.Equal(t, Anonymity{Respondents: 5, Combinations: 2, Smallest: 2}, m.Anonymity)
		assert.NotContains(t, fmt.Sprint(m.leaving(5)), "Fen")
		assert.NotContains(t, fmt.Sprint(m.Questions), "Fen")
	})
	t.Run("rows that stand for several hide these", func(t *testing.T) {
		s := built(t, "ward", survey.Single, "fen", "bay", "sea")
		m, err := MakeMicrodata(five, []Chosen{{s, true}}, 3, survey.Sample{Frequency: []int64{3, 2, 0}})
		require.NoError(t, err)
		assert.Equal(t, Anonymity{Respondents: 5, Combinations: 2, Smallest: 2}, m.Anonymity)
	})
	t.Run("numbers leave in bands, with open ends", func(t *testing.T) {
		s := built(t, "income", survey.Continuous, "100.5", "200.5", "300.5", "90000.5", "")
		m, err := MakeMicrodata(five, []Chosen{{Source: s}}, 5, survey.Sample{})
		require.NoError(t, err)
		left := map[string]int{}
		for _, row := range m.leaving(5) {
			left[row[0]]++
		}
		assert.Equal(t, map[string]int{"< 300.5": 2, "≥ 300.5": 2, "": 1}, left)
		assert.Equal(t, survey.Ordered, m.Questions[0].Kind)
		assert.NotContains(t, fmt.Sprint(m.Questions), "90000")
	})
	t.Run("a number that all gave", func(t *testing.T) {
		m, err := MakeMicrodata(five, []Chosen{{built(t, "rooms", survey.Continuous, "3.5", "3.5", "3.5"), true}}, 3, survey.Sample{})
		require.NoError(t, err)
		assert.Equal(t, [][]string{{"≥ 3.5"}, {"≥ 3.5"}, {"≥ 3.5"}}, m.leaving(3))
	})
	t.Run("a rare answer that is no key is told", func(t *testing.T) {
		m, err := MakeMicrodata(five, []Chosen{{Source: built(t, "job", survey.Single, "baker", "baker", "mayor")}}, 3, survey.Sample{})
		require.NoError(t, err)
		assert.Equal(t, []RareAnswer{{"job", "MAYOR", 1}}, m.Anonymity.RareAnswers)
	})
	t.Run("too few", func(t *testing.T) {
		_, err := MakeMicrodata(five, []Chosen{{built(t, "ward", survey.Single, "fen"), true}}, 1, survey.Sample{})
		assert.ErrorIs(t, err, ErrTooFew)
	})
	for _, k := range []struct {
		Release
		questions, keys int
		want            string
	}{
		{Release{5, 5}, 3, 2, ""}, {Release{5, 5}, 0, 0, "microdata.questions"}, {Release{1, 5}, 1, 0, "microdata.least"},
		{Release{1001, 5}, 1, 0, "microdata.least"}, {Release{5, 1}, 1, 0, "microdata.bands"}, {Release{5, 5}, 20, 13, "microdata.keys"},
	} {
		found := k.Check(k.questions, k.keys)
		if k.want == "" {
			assert.Empty(t, found)
		} else if assert.Len(t, found, 1) {
			assert.Equal(t, k.want, found[0].Code)
		}
	}
}
