package inspect

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// built makes a column of cells, each repeated as often as said.
func built(name string, cells map[string]int) survey.Built {
	b := survey.NewBuilder(true)
	for cell, n := range cells {
		for range n {
			b.Add([]byte(cell))
		}
	}
	return b.Finish(name)
}

func TestSuspicions(t *testing.T) {
	years := map[string]int{"999": 4}
	weights, ids := map[string]int{}, map[string]int{}
	for i := range 60 {
		years[fmt.Sprint(i)] = 3
		weights[fmt.Sprintf("%.2f", 0.7+float64(i)/100)] = 2
		ids[fmt.Sprintf("F%03d", i)] = 1
	}
	cases := []struct {
		name string
		c    survey.Built
		want []string
	}{
		{"words", built("ward", map[string]int{"Harbour": 40, "Fenside": 30}), nil},
		{"a word for missing", built("ward", map[string]int{"Harbour": 40, "Fenside": 30, "refused": 2}), []string{"missing_code refused 2"}},
		{"a code for missing", built("tenure", map[string]int{"1": 40, "2": 30, "3": 9, "-9": 2}), []string{"missing_code -9 2"}},
		{"nine among five points", built("view", map[string]int{"1": 9, "2": 9, "3": 9, "4": 9, "5": 9, "9": 2}), []string{"missing_code 9 2"}},
		{"nine among ten", built("size", map[string]int{"1": 9, "2": 9, "3": 9, "4": 9, "5": 9, "6": 2, "7": 2, "8": 2, "9": 2}), nil},
		{"999 among years", built("years", years), []string{"missing_code 999 4"}},
		{"a weight by another name", built("design", weights), []string{"weight  0"}},
		{"identifiers", built("id", ids), []string{"identifier  0"}},
		{"one answer only", built("borough", map[string]int{"Fernmouth": 30}), []string{"constant  0"}},
		{"shares of a list", built("share", map[string]int{"12,5 %": 1, "50 %": 1, "37.5 %": 1}), []string{"shares  0"}},
		{"percents of a list", built("share of homes", map[string]int{"12.5": 1, "50": 1, "37.5": 1}), []string{"shares  0"}},
		{"percents with their mark", built("homes", map[string]int{"12%": 1, "88%": 1}), []string{"shares  0"}},
		{"proportions of a list", built("proportion", map[string]int{"0.125": 1, "0.5": 1, "0.375": 1}), []string{"shares  0"}},
		{"respondents whose numbers add to 100", built("age", map[string]int{"20": 1, "30": 1, "50": 1}), nil},
		{"percents beside their counts", built("%", map[string]int{"94.6": 1234, "5.4": 70}), []string{"percents  0"}},
		{"the same percent twice", built("p", map[string]int{"25": 60, "50.0": 60}), []string{"percents  0"}},
		{"proportions beside their counts", built("p", map[string]int{"0.12": 12, "0.88": 85}), []string{"percents  0"}},
		{"codes that are no percents", built("use", map[string]int{"1": 20, "2": 80}), nil},
		{"nobody", built("q", map[string]int{"": 30}), []string{"nobody  0"}},
		{"dates", built("visited", map[string]int{"2026-01-31": 3, "2026-02-01": 4}), []string{"dates  0"}},
		{"several answers in a cell", built("why", map[string]int{"smell;time": 3, "time": 4, "smell": 2, "time;space": 2, "space;smell": 1, "smell;time;space": 1}), []string{"parts  4"}},
		{"accents", built("town", map[string]int{"Süd": 30, "Sud": 20}), []string{"same_case  20"}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			d, err := survey.Distribute(c.c.Data, c.c.Question.Slots(), survey.Sample{})
			require.NoError(t, err)
			r := Question(c.c.Question, d, nil)
			var got []string
			for _, s := range r.Suspicions {
				got = append(got, fmt.Sprint(s.Kind, " ", s.Code, " ", s.N))
			}
			assert.Equal(t, c.want, got)
		})
	}
}

func TestGroupsOfQuestions(t *testing.T) {
	flag := func(name string) survey.Question {
		return built(name, map[string]int{"1": 3, "0": 4, "": 1}).Question
	}
	scale := func(name string) survey.Question {
		return built(name, map[string]int{"1": 3, "2": 4, "3": 1}).Question
	}
	questions := []survey.Question{flag("reason_smell"), flag("reason_time"), flag("reason_no_garden"), flag("used_before"), flag("used_after"), scale("a"), scale("b"), flag("x1"), flag("x2"), flag("x3")}
	sets := Sets(questions)
	require.Len(t, sets, 2)
	assert.Equal(t, []int{0, 1, 2}, sets[0].Questions)
	assert.Equal(t, "reason", sets[0].Stem)
	assert.Equal(t, []int{7, 8, 9}, sets[1].Questions)
	chosen, _ := questions[0].Answer(sets[0].Chosen[0])
	assert.Equal(t, "1", chosen.Code)
	assert.Equal(t, []Pair{{3, 4}}, Pairs(questions))
	assert.Equal(t, [][]int{{5, 6}}, Batteries(questions))
}
