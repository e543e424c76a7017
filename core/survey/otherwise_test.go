package survey

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// asked is a question with answers, a code and a label by turns.
func asked(kind Kind, wording string, answers ...string) Question {
	q := Question{Name: "use", Wording: wording, Kind: kind, Answers: []Answer{blankAnswer()}}
	for i := 0; i < len(answers); i += 2 {
		q.Answers = append(q.Answers, Answer{Slot: Slot(i/2 + 1), Code: answers[i], Label: answers[i+1]})
	}
	return q
}

// The same name may be another question: other answers, or the same codes for something else.
func TestTheSameNameAnotherQuestion(t *testing.T) {
	t.Parallel()
	here := asked(Single, "How satisfied are you?", "1", "Satisfied", "2", "Neither", "3", "Dissatisfied")
	for _, k := range []struct {
		what   string
		file   Question
		doubt  bool
		worded string
	}{
		{"the same", asked(Single, "how  satisfied are you?", "1", "satisfied", "2", "Neither", "3", "Dissatisfied"), false, ""},
		{"without labels", asked(Single, "use", "1", "1", "2", "2"), false, ""},
		{"some answers more", asked(Single, "use", "1", "", "2", "", "4", "", "5", ""), false, ""},
		{"mostly others", asked(Single, "use", "1", "", "4", "", "5", ""), true, ""},
		{"none in common", asked(Single, "use", "yes", "", "no", ""), true, ""},
		{"the scale turned round", asked(Single, "How satisfied are you?", "1", "Dissatisfied", "2", "Neither", "3", "Satisfied"), true, ""},
		{"other words", asked(Single, "How content are you?", "1", "Satisfied"), false, "How content are you?"},
	} {
		got := OtherwiseThan(here, k.file)
		assert.Equal(t, k.doubt, got.Doubtful(), k.what)
		assert.Equal(t, k.worded, got.Wording, k.what)
	}
	assert.Equal(t, []Relabelled{{"1", "Yes", "No"}}, OtherwiseThan(asked(Single, "", "1", "Yes"), asked(Single, "", "1", "No")).Relabelled)
	assert.False(t, OtherwiseThan(asked(Discrete, "", "1", "", "2", ""), asked(Discrete, "", "7", "", "8", "")).Doubtful(), "numbers are whatever they are")
}

// A subgroup of one wave has a counterpart of another one, where it asks for the wave as something that has to hold.
func TestTheCounterpartOfACondition(t *testing.T) {
	t.Parallel()
	wave := func(slots ...Slot) Condition { return Condition{Op: AnyOf, Question: 9, Answers: slots} }
	rents := Condition{Op: AnyOf, Question: 1, Answers: []Slot{2}}
	both := rents.Within(wave(1))
	for _, k := range []struct {
		what string
		c    Condition
		ok   bool
	}{
		{"the wave alone", wave(1), true},
		{"among others", both, true},
		{"two waves", wave(1, 2), false},
		{"not that wave", Condition{Op: Not, Of: []Condition{wave(1)}}, false},
		{"or something else", Condition{Op: Or, Of: []Condition{wave(1), rents}}, false},
		{"another question", rents, false},
	} {
		slot, ok := k.c.Given(9)
		assert.Equal(t, k.ok, ok, k.what)
		moved := k.c.Giving(9, 2)
		if !ok {
			assert.Equal(t, k.c, moved, k.what)
			continue
		}
		assert.Equal(t, Slot(1), slot, k.what)
		slot, _ = moved.Given(9)
		assert.Equal(t, Slot(2), slot, k.what)
	}
	assert.Equal(t, []Slot{1}, both.Of[1].Answers, "what it was made of stays")
	assert.Len(t, both.Within(rents).Of, 3)
}
