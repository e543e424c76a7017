package survey

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func number(x float64) *float64 { return &x }

// Six respondents: tenure owns, rents, blank, refused, "Rents" counted as rents, owns;
// size 1 to 6 with one missing; a set of two; a text.
func household() map[uint64]Source {
	rents := Slot(2)
	return map[uint64]Source{
		1: {Question{Name: "tenure", Kind: Single, Answers: []Answer{{Slot: 1, Code: "owns"}, {Slot: 2, Code: "rents"}, {Slot: 3, Code: "Rents", SameAs: &rents}, {Slot: 4, Code: "-9", Missing: "refused"}, blankAnswer()}},
			Column{U8: []uint8{1, 2, 0, 4, 3, 1}}},
		2: {Question{Name: "size", Kind: Continuous, Answers: []Answer{blankAnswer()}}, Column{F64: []float64{1, 2, 3, 4, MissingNumber(Blank), 6}}},
		3: {Question{Name: "reasons", Kind: ChooseAll, Answers: []Answer{{Slot: 1, Code: "a"}, {Slot: 2, Code: "b"}, blankAnswer()}}, Column{Sets: []uint64{1 << 1, 1<<1 | 1<<2, 1 << Blank, 0, 1 << 2, 0}}},
		4: {Question{Name: "comment", Kind: Text, Answers: []Answer{blankAnswer()}}, Column{Text: []string{"x", "", "y", "", "z", ""}}},
		5: {Question{Name: "people", Kind: Discrete, Answers: []Answer{{Slot: 1, Code: "2"}, {Slot: 2, Code: "3"}, blankAnswer()}}, Column{U16: []uint16{1, 2, 0, 1, 2, 2}}},
	}
}

func setOf(in []bool) *Set {
	s := NewSet(len(in))
	for i, is := range in {
		if is {
			s.Add(i)
		}
	}
	return s
}

func TestConditions(t *testing.T) {
	t.Parallel()
	all := household()
	rents := Condition{Op: AnyOf, Question: 1, Answers: []Slot{2}}
	small := Condition{Op: Between, Question: 2, To: number(3)}
	not := func(c Condition) Condition { return Condition{Op: Not, Of: []Condition{c}} }
	cases := []struct {
		name string
		c    Condition
		want []bool
	}{
		{"one of, other spellings too", rents, []bool{false, true, false, false, true, false}},
		{"not one of leaves out who did not answer", not(rents), []bool{true, false, false, false, false, true}},
		{"not not", not(not(rents)), []bool{false, true, false, false, true, false}},
		{"a range open below", small, []bool{true, true, true, false, false, false}},
		{"outside the range", not(small), []bool{false, false, false, true, false, true}},
		{"a range of coded numbers", Condition{Op: Between, Question: 5, From: number(3)}, []bool{false, true, false, false, true, true}},
		{"a chosen answer of a set", Condition{Op: AnyOf, Question: 3, Answers: []Slot{2}}, []bool{false, true, false, false, true, false}},
		{"not chosen: those who answered", not(Condition{Op: AnyOf, Question: 3, Answers: []Slot{2}}), []bool{true, false, false, true, false, true}},
		{"answered", Condition{Op: Answered, Question: 1}, []bool{true, true, false, false, true, true}},
		{"not answered", not(Condition{Op: Answered, Question: 1}), []bool{false, false, true, true, false, false}},
		{"a set answered with nothing", Condition{Op: Answered, Question: 3}, []bool{true, true, false, true, true, true}},
		{"a text written", Condition{Op: Answered, Question: 4}, []bool{true, false, true, false, true, false}},
		{"false and unknown is false, so its contrary holds", not(Condition{Op: And, Of: []Condition{rents, small}}), []bool{true, false, false, true, false, true}},
		{"true or unknown is true", Condition{Op: Or, Of: []Condition{rents, small}}, []bool{true, true, true, false, true, false}},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			require.NoError(t, c.c.Check(func(id uint64) (Question, bool) { s, ok := all[id]; return s.Question, ok }))
			got, err := c.c.Evaluate(6, func(id uint64) (Source, error) { return all[id], nil })
			require.NoError(t, err)
			assert.Equal(t, setOf(c.want), got)
			assert.Equal(t, setOf(c.want).Count(), 6-got.Without().Count())
		})
	}
	broken := errors.New("damaged")
	_, err := rents.Evaluate(6, func(uint64) (Source, error) { return Source{}, broken })
	assert.ErrorIs(t, err, broken)
	_, err = rents.Evaluate(7, func(id uint64) (Source, error) { return all[id], nil })
	assert.Error(t, err, "a column of another length")
}

func TestConditionsRefused(t *testing.T) {
	t.Parallel()
	all := household()
	deep := Condition{Op: Answered, Question: 1}
	for range deepest + 2 {
		deep = Condition{Op: Not, Of: []Condition{deep}}
	}
	wide := Condition{Op: And}
	for range MostConditions + 1 {
		wide.Of = append(wide.Of, Condition{Op: Answered, Question: 1})
	}
	for why, c := range map[string]Condition{
		"operation": {Op: "xor"}, "question": {Op: Answered, Question: 9}, "range": {Op: Between, Question: 2}, "too_large": deep,
	} {
		var bad *ConditionError
		require.ErrorAs(t, c.Check(func(id uint64) (Question, bool) { s, ok := all[id]; return s.Question, ok }), &bad)
		assert.Equal(t, why, bad.Why)
	}
	for _, c := range []Condition{wide, {Op: And}, {Op: Not, Of: []Condition{deep, deep}}, {Op: AnyOf, Question: 1}, {Op: AnyOf, Question: 2, Answers: []Slot{1}}, {Op: Between, Question: 1, From: number(1)}, {Op: Between, Question: 2, From: number(3), To: number(1)}} {
		assert.Error(t, c.Check(func(id uint64) (Question, bool) { s, ok := all[id]; return s.Question, ok }))
	}
	assert.Equal(t, []uint64{1, 1}, Condition{Op: Or, Of: []Condition{{Op: Answered, Question: 1}, {Op: Not, Of: []Condition{{Op: Answered, Question: 1}}}}}.Questions())
}

// Rows that stand for many count as the same rows written out.
func TestCountsEqualRowsWrittenOut(t *testing.T) {
	t.Parallel()
	for id, s := range household() {
		times, in := []int64{3, 0, 2, 1, 5, 1}, []bool{true, true, false, true, true, true}
		got, err := CountAnswers(s.Question, s.Column, Sample{Frequency: times, Subset: setOf(in)})
		require.NoError(t, err)
		var out Column
		for i, n := range times {
			for range n {
				if in[i] {
					out.U8, out.U16, out.F64, out.Text, out.Sets = add(out.U8, s.Column.U8, i), add(out.U16, s.Column.U16, i), add(out.F64, s.Column.F64, i), add(out.Text, s.Column.Text, i), add(out.Sets, s.Column.Sets, i)
				}
			}
		}
		want, err := CountAnswers(s.Question, out, Sample{})
		require.NoError(t, err)
		assert.Equal(t, want, got, id)
		assert.Equal(t, int64(10), got.Everyone)
	}
	s := household()[1]
	_, err := CountAnswers(s.Question, s.Column, Sample{Frequency: []int64{1}})
	assert.Error(t, err)
	_, err = CountAnswers(s.Question, Column{U8: []uint8{200}}, Sample{})
	assert.Error(t, err, "a slot that the question lacks")
	_, err = CountAnswers(household()[3].Question, Column{Sets: []uint64{1 << 40}}, Sample{})
	assert.Error(t, err)
}

func add[T any](out, column []T, i int) []T {
	if column == nil {
		return nil
	}
	return append(out, column[i])
}

func TestCorrect(t *testing.T) {
	t.Parallel()
	all := household()
	cases := []struct {
		name  string
		id    uint64
		text  string
		isNew bool
		want  string
		err   error
	}{
		{"by code", 1, "rents", false, "rents", nil},
		{"to blank", 1, "", false, "", nil},
		{"unknown", 1, "lodges", false, "", ErrUnknownAnswer},
		{"as a new answer", 1, "lodges", true, "lodges", nil},
		{"a number", 2, "2,5", false, "2.5", nil},
		{"no number", 2, "many", false, "", ErrUnknownAnswer},
		{"a text", 4, "anything", false, "anything", nil},
		{"the wide width", 5, "3", false, "3", nil},
		{"a set stays as it is made", 3, "a", true, "", ErrChooseAll},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := all[c.id]
			before := s.Question.Code(s.Column, 0)
			q, column, err := Correct(s.Question, s.Column, 0, c.text, c.isNew)
			require.ErrorIs(t, err, c.err)
			assert.Equal(t, before, s.Question.Code(s.Column, 0), "the column that came in is not touched")
			if err == nil {
				assert.Equal(t, c.want, q.Code(column, 0))
				assert.Equal(t, s.Question.Code(s.Column, 1), q.Code(column, 1))
			}
		})
	}
	_, _, err := Correct(Question{Kind: Count, Answers: []Answer{blankAnswer()}}, Column{F64: []float64{1}}, 0, "1.5", false)
	assert.ErrorIs(t, err, ErrNotACount)
}
