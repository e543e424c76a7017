package book

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/analysis"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/survey"
)

// A banner and a book go with other keys where a study is opened elsewhere; what names something that is not there is
// left out, and nothing else.
func TestMovedToOtherKeys(t *testing.T) {
	t.Parallel()
	to := Renamed(func(key analysis.Key) (analysis.Key, bool) { return "n" + key, key != "gone" })
	banner := Banner{[]Break{{}, {Questions: []analysis.Key{"a", "b"}, Label: "x"}, {Questions: []analysis.Key{"a", "gone"}}, {Subgroup: "s"}, {Subgroup: "gone"}}}
	assert.Equal(t, Banner{[]Break{{}, {Questions: []analysis.Key{"na", "nb"}, Label: "x"}, {Subgroup: "ns"}}}, banner.Moved(to, to))
	b := Book{
		Title: "t", Banner: "b", Subgroup: "s", Choice: Choice{Which: Picked, Questions: []analysis.Key{"a", "gone", "c"}},
		Batteries: []Battery{{Questions: []analysis.Key{"a", "gone"}, Shows: MeanScores}, {Questions: []analysis.Key{"a", "b", "gone"}, Shows: MeanScores}},
	}
	moved, there := b.Moved(to, to, to)
	assert.True(t, there)
	assert.Equal(t, Book{
		Title: "t", Banner: "nb", Subgroup: "ns", Choice: Choice{Which: Picked, Questions: []analysis.Key{"na", "nc"}},
		Batteries: []Battery{{Questions: []analysis.Key{"na", "nb"}, Shows: MeanScores}},
	}, moved)
	for _, lacking := range []Book{{Banner: "gone"}, {Banner: "b", Subgroup: "gone"}} {
		_, there = lacking.Moved(to, to, to)
		assert.False(t, there)
	}
	nets := NetsOf{Questions: map[analysis.Key][]Net{"a": {{"x", []string{"1", "2"}}}, "gone": {{"y", nil}}}}
	assert.Equal(t, NetsOf{Questions: map[analysis.Key][]Net{"na": {{"x", []string{"1", "2"}}}}}, nets.Moved(to, to))
}

// The tables of a book are those that were chosen, in the order of the questionnaire or in that in which they were
// picked; a battery stands in the place of its first question.
func TestWhichTables(t *testing.T) {
	t.Parallel()
	var all []Listed
	for _, name := range []analysis.Key{"a", "b", "c", "d"} {
		s := single(string(name), survey.Single, 3, nil)
		s.Question.Section = map[analysis.Key]string{"a": "first", "b": "first"}[name]
		all = append(all, Listed{name, s.Question})
	}
	all = append(all, Listed{"id", survey.Question{Name: "id", Kind: survey.Identifier}}, Listed{"wide", single("wide", survey.Single, MostAnswers+1, nil).Question})
	names := func(b Book) (out []string) {
		for _, t := range b.Tables(all) {
			text := ""
			for _, q := range t.Questions {
				text += q.Name
			}
			out = append(out, text)
		}
		return out
	}
	assert.Equal(t, []string{"a", "b", "c", "d"}, names(Book{Choice: Choice{Which: AllQuestions}}), "neither identifiers nor hundreds of answers")
	assert.Equal(t, []string{"a", "b"}, names(Book{Choice: Choice{Which: OfSections, Sections: []string{"first"}}}))
	picked := Choice{Which: Picked, Questions: []analysis.Key{"d", "gone", "a"}}
	assert.Equal(t, []string{"d", "a"}, names(Book{Choice: picked}))
	battery := []Battery{{Questions: []analysis.Key{"b", "d"}, Shows: FirstAnswers, Boxes: 1}}
	assert.Equal(t, []string{"a", "bd", "c"}, names(Book{Choice: Choice{Which: AllQuestions}, Batteries: battery}))
}

// A battery has a row for each question: its first or last answers together, or its mean; its base is the smallest of
// its rows. Answers stand by size where that is asked for, nets and means below them.
func TestBatteriesAndOrders(t *testing.T) {
	t.Parallel()
	one := single("one", survey.Discrete, 3, []uint8{1, 1, 2, 3, 3, 3, 0, 2})
	two := single("two", survey.Discrete, 3, []uint8{3, 3, 3, 3, 0, 0, 0, 1})
	by := single("by", survey.Single, 2, []uint8{1, 1, 1, 1, 2, 2, 2, 2})
	of := from(t, 8, one, two, by)
	l, err := Lay(Banner{[]Break{{}, {Questions: []analysis.Key{"by"}}}}, of)
	assert.NoError(t, err)
	listed := []Listed{{"one", one.Question}, {"two", two.Question}}
	for shows, want := range map[BatteryShows][2]float64{FirstAnswers: {2.0 / 7, 1.0 / 5}, LastAnswers: {3.0 / 7, 4.0 / 5}, MeanScores: {15.0 / 7, 13.0 / 5}} {
		made, err := Make(t.Context(), Book{}, l, []Table{{Questions: listed, Battery: &Battery{Shows: shows, Boxes: 1}}}, func(analysis.Key) []Net { return nil }, of)
		assert.NoError(t, err)
		assert.Len(t, made[0].Rows, 2)
		for i, x := range want {
			assert.InDelta(t, x, *made[0].Rows[i].Cells[0].Value, 1e-12, "%s, row %d", shows, i)
		}
		assert.Equal(t, int64(5), made[0].All.N)
	}
	one.Question.Kind = survey.Single
	of = from(t, 8, one, by)
	b := Book{Order: "size"}
	made, l := make1(t, b, Banner{[]Break{{}}}, of, "one", Net{"some", []string{"1", "2"}})
	var names []string
	for _, row := range made.Document(b, l, "homes", "", disclosure.Rule{}).Table.Rows {
		if v := row.Name.Values["value"]; v.Kind == document.Words {
			names = append(names, v.Text)
		} else {
			names = append(names, row.Name.ID)
		}
	}
	assert.Equal(t, []string{"one 3", "one 1", "one 2", "book.net", "book.row.n"}, names)
}
