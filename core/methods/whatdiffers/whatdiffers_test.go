package whatdiffers

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/claim"
	"widetally/core/document"
)

// The order is that of Cramér's V whatever the sizes of the tables; p-values are adjusted by Holm for those that were
// tested; a table with one answer alone stands last, untested, and small expected counts are told.
func TestTheOrderOfCrossings(t *testing.T) {
	t.Parallel()
	list, err := Compute(Request{Level: 0.05, Tables: [][][]int64{
		{{50, 50}, {48, 52}},             // next to nothing: V² = 0.0004
		{{30, 0}, {20, 0}},               // nobody gave the second answer
		{{80, 20}, {20, 80}},             // V = 0.6
		{{6, 1}, {1, 6}},                 // V = 5/7, of few
		{{900, 100, 0}, {600, 300, 100}}, // of many
	}})
	require.NoError(t, err)
	var at []int
	for _, c := range list {
		at = append(at, c.At)
	}
	assert.Equal(t, []int{3, 2, 4, 0, 1}, at)
	assert.InDelta(t, 5.0/7, list[0].CramersV, 1e-12)
	assert.InDelta(t, 0.6, list[1].CramersV, 1e-12)
	assert.True(t, list[0].Rough)
	assert.False(t, list[1].Rough)
	assert.Nil(t, list[4].P)
	// Four were tested: the second smallest p counts three times.
	assert.InEpsilon(t, 3*list[1].P.Value, list[1].Adjusted.Value, 1e-12)
	assert.InDelta(t, list[3].P.Value, list[3].Adjusted.Value, 1e-12)

	l := List{Question: claim.Question{Short: "use"}, Level: 0.05, About: claim.About{Units: document.Text("homes")}}
	for _, name := range []string{"a", "b", "c", "d", "e"} {
		l.Others = append(l.Others, claim.Question{Short: name})
	}
	d := l.Document(list, nil)
	assert.Equal(t, "read.what_differs.some", d.Blocks[0].Said[0].ID)
	table := d.Blocks[1].Table
	assert.Equal(t, "d", table.Rows[0].Name.Values["value"].Text)
	assert.True(t, table.Rows[4].Faint)
	assert.Equal(t, document.More, table.Rows[1].Cells[0].Mark)
	assert.Empty(t, table.Rows[3].Cells[0].Mark)
	options := d.Blocks[2].Choices.Options
	require.Len(t, options, 3)
	assert.Equal(t, &document.Ask{Method: "crosstab", Others: []int{4}}, options[0].Ask)
	var notes []string
	for _, n := range d.Notes {
		notes = append(notes, n.ID)
	}
	assert.Equal(t, []string{"note.what_differs.looked", "note.what_differs.rough"}, notes)

	none := l.Document(list[3:4], nil)
	assert.Equal(t, "read.what_differs.none", none.Blocks[0].Said[0].ID)
	_, err = Compute(Request{Level: 0.05, Tables: [][][]int64{{{1, 2}, {3}}}})
	assert.Error(t, err)
}
