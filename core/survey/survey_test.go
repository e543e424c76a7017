package survey

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLookalikes(t *testing.T) {
	t.Parallel()
	target := Slot(1)
	cases := []struct {
		name   string
		a, b   Answer
		na, nb int64
		want   []Lookalike
	}{
		{"letter case, whatever the counts", Answer{Slot: 1, Code: "Harbour"}, Answer{Slot: 2, Code: "harbour"}, 100, 90, []Lookalike{{2, 1, true}}},
		{"a stray blank", Answer{Slot: 1, Code: "Quarry  Hill "}, Answer{Slot: 2, Code: "Quarry Hill"}, 2, 90, []Lookalike{{1, 2, true}}},
		{"a letter dropped", Answer{Slot: 1, Code: "Harbour"}, Answer{Slot: 2, Code: "Harbor"}, 100, 3, []Lookalike{{2, 1, false}}},
		{"two letters swapped", Answer{Slot: 1, Code: "Oldgate"}, Answer{Slot: 2, Code: "Odlgate"}, 100, 3, []Lookalike{{2, 1, false}}},
		{"a letter changed at the end", Answer{Slot: 1, Code: "Saltings"}, Answer{Slot: 2, Code: "Saltingz"}, 100, 3, []Lookalike{{2, 1, false}}},
		{"both common", Answer{Slot: 1, Code: "Northend"}, Answer{Slot: 2, Code: "Southend"}, 100, 90, nil},
		{"two apart", Answer{Slot: 1, Code: "Northend"}, Answer{Slot: 2, Code: "Southend"}, 100, 1, nil},
		{"short words", Answer{Slot: 1, Code: "owns"}, Answer{Slot: 2, Code: "ows"}, 100, 1, nil},
		{"numbers", Answer{Slot: 1, Code: "10000"}, Answer{Slot: 2, Code: "10001"}, 100, 1, nil},
		{"one is missing", Answer{Slot: 1, Code: "Refused"}, Answer{Slot: 2, Code: "refused", Missing: "refused"}, 9, 9, nil},
		{"already counted together", Answer{Slot: 1, Code: "Harbour"}, Answer{Slot: 2, Code: "harbour", SameAs: &target}, 9, 9, nil},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, c.want, Lookalikes([]Answer{c.a, c.b}, []int64{0, c.na, c.nb}))
		})
	}
}

func TestMissingNumbersCarryTheirSlot(t *testing.T) {
	t.Parallel()
	for _, s := range []Slot{0, 1, 300, 65535} {
		x := MissingNumber(s)
		got, ok := MissingSlot(x)
		assert.True(t, ok && x != x)
		assert.Equal(t, s, got)
	}
	for _, x := range []float64{0, 1.5, -3} {
		_, ok := MissingSlot(x)
		assert.False(t, ok)
	}
}

// A code that the others leave out is noticed where it may be an answer that nobody gave; not where
// codes are labelled, start elsewhere, or leave more out. Put in, it stands in its place.
func TestGapsInCodes(t *testing.T) {
	t.Parallel()
	asked := func(labels bool, codes ...string) Question {
		q := Question{Kind: Single, Answers: []Answer{{Slot: 0, Missing: "no answer"}}}
		for i, c := range codes {
			label := c
			if labels {
				label = "answer " + c
			}
			q.Answers = append(q.Answers, Answer{Slot: Slot(i + 1), Code: c, Label: label})
		}
		return q
	}
	for _, k := range []struct {
		q    Question
		gaps []string
	}{
		{asked(false, "1", "2", "3", "4", "5", "6", "7", "8", "10", "11", "12", "13", "14"), []string{"9"}},
		{asked(false, "0", "1", "3", "4"), []string{"2"}},
		{asked(true, "1", "2", "4", "5"), nil},
		{asked(false, "1", "2", "3", "9"), nil},
		{asked(false, "10", "11", "13"), nil},
		{asked(false, "1", "3"), nil},
		{asked(false, "1", "2", "3"), nil},
		{asked(false, "a", "b", "d"), nil},
	} {
		assert.Equal(t, k.gaps, Gaps(k.q), k.q.Answers)
	}
	q := WithAnswer(asked(false, "1", "2", "4"), "3", "3")
	var order []string
	for _, a := range q.Proper() {
		order = append(order, a.Code)
	}
	assert.Equal(t, []string{"1", "2", "3", "4"}, order)
	assert.Nil(t, Gaps(q))
	q = WithAnswer(Question{Kind: Single, Answers: []Answer{{Slot: 1, Code: "b", Label: "b"}, {Slot: 2, Code: "a", Label: "a"}, {Slot: 0, Missing: "no answer"}}}, "c", "C")
	assert.Equal(t, "c", q.Proper()[2].Code)
}
