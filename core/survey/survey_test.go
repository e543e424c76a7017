package survey

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLookalikes(t *testing.T) {
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
