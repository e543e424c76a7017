package shares

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func set(scale Scale, pairs ...string) Set {
	s := Set{Title: "the register", Kind: Register, Scale: scale}
	for i := 0; i < len(pairs); i += 2 {
		s.Answers = append(s.Answers, SetAnswer{Label: pairs[i], Figure: pairs[i+1]})
	}
	return s
}

func TestSetsThatCanBeKept(t *testing.T) {
	code := func(s Set) string {
		if list := s.Check(); len(list) > 0 {
			return list[0].Code
		}
		return ""
	}
	good := set(Percents, "a", "40", "b", "60")
	assert.Empty(t, code(good))
	assert.Empty(t, code(set(Counts, "a", "40", "b", "2 000")))
	assert.Equal(t, "shares.sum_off_short", code(set(Percents, "a", "40", "b", "50")))
	assert.Equal(t, "shares.negative", code(set(Percents, "a", "-1", "b", "101")))
	assert.Equal(t, "set.twice", code(set(Percents, "a", "40", " A ", "60")))
	assert.Equal(t, "set.unnamed", code(set(Percents, "", "40", "b", "60")))
	assert.Equal(t, "set.scale", code(set(Equal, "a", "1", "b", "1")))
	for want, change := range map[string]func(s *Set){"set.title": func(s *Set) { s.Title = " " }, "set.kind": func(s *Set) { s.Kind = "rumour" }, "set.n": func(s *Set) { s.N = -1 }, "set.link": func(s *Set) { s.Link = "javascript:alert(1)" }} {
		s := good
		change(&s)
		assert.Equal(t, want, code(s))
	}
}

func TestCategoriesFindTheirAnswers(t *testing.T) {
	of := set(Percents, "Owns outright", "31.5", "Owns with a mortgage", "28.5", "Rents from the council", "21", "rents  privately", "17", "Other", "2")
	answers := []Name{{"Owns", "1"}, {"Rents from the counsil", "2"}, {"Rents privately", "3"}, {"Other", "4"}}
	f := Propose(answers, of)
	assert.Equal(t, [][]int{nil, {2}, {3}, {4}}, f.From)
	assert.Equal(t, []How{NotYet, Closely, Loosely, ByName}, f.How)
	assert.Equal(t, []int{0, 1}, f.Left)
	assert.Equal(t, []string{"", "21", "17", "2"}, of.Figures(f))

	// Several categories go to one answer, added up exactly.
	f, ok := Chosen([][]int{{0, 1}, {2}, {3}, {4}}, 5)
	assert.True(t, ok)
	assert.Empty(t, f.Left)
	assert.Equal(t, []string{"60", "21", "17", "2"}, of.Figures(f))
	thirds, _ := Chosen([][]int{{0, 1}, {2}}, 3)
	assert.Equal(t, []string{"2/3", "1/3"}, set(Proportions, "a", "1/3", "b", "1/3", "c", "1/3").Figures(thirds))
	_, ok = Chosen([][]int{{0}, {0}}, 2)
	assert.False(t, ok, "a category goes to one answer")
	_, ok = Chosen([][]int{{2}, {}}, 2)
	assert.False(t, ok)

	// Two spellings that are equally close are left to a person.
	assert.Equal(t, []How{NotYet}, Propose([]Name{{"North", ""}}, set(Percents, "Norths", "50", "Northe", "50")).How)
}
