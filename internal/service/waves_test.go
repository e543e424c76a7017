package service

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/study"
	"widetally/core/survey"
)

// Each subgroup has its counterpart of the other wave, found where there is one and made where there is none; what is
// about other waves, or about all of them, stays where one wave is left.
func TestWhoGoesAlongToAnotherWave(t *testing.T) {
	t.Parallel()
	waves := study.Question{ID: 9, Question: survey.Question{Name: "wave", Kind: survey.Single, Answers: []survey.Answer{{Slot: 1, Code: "25", Label: "2025"}, {Slot: 2, Code: "26", Label: "2026"}, {Slot: 3, Code: "27", Label: "2027"}}}}
	in := func(slots ...survey.Slot) survey.Condition {
		return survey.Condition{Op: survey.AnyOf, Question: 9, Answers: slots}
	}
	rents := survey.Condition{Op: survey.AnyOf, Question: 1, Answers: []survey.Slot{2}}
	var parts []study.Part
	part := func(id uint64, name string, c survey.Condition, deleted bool) {
		raw, err := json.Marshal(c)
		require.NoError(t, err)
		parts = append(parts, study.Part{ID: id, Kind: study.Subgroup, Name: name, Definition: string(raw), Deleted: deleted})
	}
	part(10, "Renting", rents, false)
	part(11, "wave: 2025", in(1), false)
	part(12, "wave: 2026", in(2), false)
	part(13, "Renting in 2025", rents.Within(in(1)), false)
	part(14, "Both", in(1, 2), false)
	part(15, "Renting, 2026", rents.Within(in(2)), true)
	move := func(from, to string) (*waveMove, *[]string) {
		m, err := newWaveMove(waves, from, to, parts)
		require.NoError(t, err)
		made := &[]string{}
		m.make = func(_ survey.Condition, p study.Part) (uint64, error) {
			*made = append(*made, p.Name)
			return uint64(100 + len(*made)), nil
		}
		return m, made
	}
	for _, k := range []struct {
		from, to string
		want     map[uint64]uint64
		made     []string
	}{
		{"", "26", map[uint64]uint64{0: 12, 10: 101, 11: 11, 12: 12, 13: 13, 14: 14, 99: 99}, []string{"Renting, 2026"}},
		{"25", "26", map[uint64]uint64{0: 0, 10: 10, 11: 12, 12: 12, 13: 101, 14: 14}, []string{"Renting in 2026"}},
		{"26", "27", map[uint64]uint64{11: 11, 12: 101}, []string{"wave: 2027"}},
	} {
		m, made := move(k.from, k.to)
		for range 2 { // nothing is made twice
			for id, want := range k.want {
				got, err := m.whom(id)
				require.NoError(t, err)
				assert.Equal(t, want, got, "%s to %s: %d", k.from, k.to, id)
			}
		}
		assert.Equal(t, k.made, *made)
	}
	m, _ := move("25", "26")
	assert.Equal(t, "25", m.since())
	for text, want := range map[string]string{"2025": "2026", "In 2025, of 12025": "In 2026, of 12025", "2025/2025": "2026/2026", "": "", "Renting": "Renting"} {
		assert.Equal(t, want, m.renamed(text))
	}
	m, _ = move("", "25")
	assert.Empty(t, m.since(), "there is none before the first")

	// A column of the wave that is left becomes one of the other, but where there is one of both, or waves are columns.
	m, _ = move("25", "26")
	column := func(id uint64, label string) book.Break { return book.Break{Subgroup: KeyOf(id), Label: label} }
	for _, k := range []struct {
		what  string
		from  []book.Break
		want  []book.Break
		moved bool
	}{
		{"one wave", []book.Break{{}, column(11, "In 2025")}, []book.Break{{}, column(12, "In 2026")}, true},
		{"both waves", []book.Break{column(11, ""), column(12, "")}, []book.Break{column(11, ""), column(12, "")}, false},
		{"waves as columns", []book.Break{column(11, ""), {Questions: []analysis.Key{"9"}}}, []book.Break{column(11, ""), {Questions: []analysis.Key{"9"}}}, false},
	} {
		got, moved, err := m.banner(book.Banner{Breaks: k.from})
		require.NoError(t, err)
		assert.Equal(t, k.moved, moved, k.what)
		assert.Equal(t, k.want, got.Breaks, k.what)
	}
}
