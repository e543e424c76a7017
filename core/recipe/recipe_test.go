package recipe

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/methods"
	"widetally/core/survey"
)

// built reads columns of cells, a name first.
func built(columns ...string) (out []survey.Built, rows int) {
	for _, c := range columns {
		cells := strings.Split(c, " ")
		b := survey.NewBuilder(false)
		for _, cell := range cells[1:] {
			b.Add([]byte(strings.ReplaceAll(cell, "_", "")))
		}
		out, rows = append(out, b.As(cells[0], survey.Single)), len(cells)-1
	}
	return out, rows
}

func minimal(questions ...Question) Recipe {
	return Recipe{Format: Format, Version: Version, Study: Study{Name: "Bins", Units: "households", Decimals: new(1)}, Questions: questions}
}

func single(name string, codes ...string) Question {
	q := Question{Name: name, Kind: survey.Single}
	for _, c := range codes {
		q.Answers = append(q.Answers, Answer{Code: c})
	}
	return q
}

func ask(t *testing.T, spec string) analysis.Spec {
	t.Helper()
	s, err := methods.All().Spec([]byte(spec))
	require.NoError(t, err)
	return s
}

// counts are the tallies of a question as text: code, count, code, count.
func counts(t *testing.T, p *Prepared, name, among string) string {
	t.Helper()
	f, ok, err := p.Tally(name, among)
	require.NoError(t, err)
	if !ok {
		return "lacking"
	}
	q, _ := p.Question(name)
	var out []string
	for _, r := range f.Rows {
		a, _ := q.Answer(r.Slot)
		out = append(out, a.Label+" "+string(rune('0'+r.Count)))
	}
	return strings.Join(out, ", ")
}

func TestWhatCanBeARecipe(t *testing.T) {
	same := "a"
	other := "z"
	spec := ask(t, `{"method":"frequency","version":1,"questions":["ward"],"settings":{}}`)
	within := spec
	within.Subgroup = "people"
	for _, k := range []struct {
		change  func(r *Recipe)
		pointer string
	}{
		{func(*Recipe) {}, ""},
		{func(r *Recipe) { r.Format = "x" }, "/format"},
		{func(r *Recipe) { r.Version = Version + 1 }, "/version"},
		{func(r *Recipe) { r.Version = 0 }, "/version"},
		{func(r *Recipe) { r.Study.Decimals = new(9) }, "/study/decimals"},
		{func(r *Recipe) { r.Adjustment = "none" }, ""},
		{func(r *Recipe) { r.Adjustment = "more" }, "/adjustment"},
		{func(r *Recipe) { r.Questions[0].Name = "" }, "/questions/0/name"},
		{func(r *Recipe) { r.Questions = append(r.Questions, r.Questions[0]) }, "/questions/1/name"},
		{func(r *Recipe) { r.Questions[0].Kind = "rumour" }, "/questions/0/kind"},
		{func(r *Recipe) { r.Questions[0].Answers[1].Code = "a" }, "/questions/0/answers/1/code"},
		{func(r *Recipe) { r.Questions[0].Answers[1].SameAs = &same }, ""},
		{func(r *Recipe) { r.Questions[0].Answers[0].SameAs = &same }, "/questions/0/answers/0/sameAs"},
		{func(r *Recipe) { r.Questions[0].Answers[0].SameAs = &other }, "/questions/0/answers/0/sameAs"},
		{func(r *Recipe) {
			people := Subgroup{"people", Condition{Op: survey.Answered, Question: "ward"}}
			r.Subgroups = []Subgroup{people, people}
		}, "/subgroups/1/name"},
		{func(r *Recipe) {
			r.Subgroups = []Subgroup{{"people", Condition{Op: survey.Not, Of: []Condition{{Op: "in"}}}}}
		}, "/subgroups/0/condition/of/0/op"},
		{func(r *Recipe) { r.Analyses = []Analysis{{Name: "x", Spec: spec}} }, ""},
		{func(r *Recipe) { r.Analyses = []Analysis{{Name: "x", Spec: spec}, {Name: "x", Spec: spec}} }, "/analyses/1/name"},
		{func(r *Recipe) { r.Analyses = []Analysis{{Name: "x"}} }, "/analyses/0/ask"},
		{func(r *Recipe) { r.Analyses = []Analysis{{Name: "x", Spec: within}} }, "/analyses/0/ask/subgroup"},
		{func(r *Recipe) { r.Report = &Report{Pieces: []Piece{{Tally: "ward"}, {Prose: "x"}}} }, ""},
		{func(r *Recipe) { r.Report = &Report{Pieces: []Piece{{Analysis: "x"}}} }, "/report/pieces/0/analysis"},
		{func(r *Recipe) { r.Report = &Report{Pieces: []Piece{{Tally: "ward", Among: "people"}}} }, "/report/pieces/0/among"},
	} {
		r := minimal(single("ward", "a", "b"))
		k.change(&r)
		var wrong *Error
		if k.pointer == "" {
			assert.NoError(t, r.Check())
		} else if assert.True(t, errors.As(r.Check(), &wrong), k.pointer) {
			assert.Equal(t, k.pointer, wrong.Pointer)
		}
	}
}

// Each way of saying what columns mean, on columns small enough to be counted by hand.
func TestAFileIsPrepared(t *testing.T) {
	b, nine, two := "b", "9", 2.0
	columns, rows := built("ward a a b c _", "size 1 2 2 5 9", "x yes no yes no yes", "y no no yes yes no", "n 1 1 2 2 3")
	coded := single("ward", "a", "b", "c")
	coded.Answers[2].SameAs = &b
	sized := single("size", "1", "2", "5")
	sized.Kind = survey.Discrete
	sized.Answers = append(sized.Answers, Answer{Code: nine, Label: "refused", Missing: "refused"})
	yes := func(name string) Question { return single(name, "yes", "no") }
	for _, k := range []struct {
		what, of, among, want string
		change                func(r *Recipe)
	}{
		{"another spelling is counted under its answer", "ward", "", "a 2, b 2", func(*Recipe) {}},
		{"a reason to be missing", "size", "", "1 1, 2 2, 5 1", func(*Recipe) {}},
		{"a label", "ward", "", "Harbour 2, b 2", func(r *Recipe) { r.Questions[0].Answers[0].Label = "Harbour" }},
		{"an answer that nobody gave keeps its place", "x", "", "yes 3, maybe 0, no 2", func(r *Recipe) { r.Questions[2] = single("x", "yes", "maybe", "no") }},
		{"counts", "ward", "", "a 2, b 4", func(r *Recipe) {
			r.Study.CountedBy = "n"
			r.Questions[4].Kind = survey.Count
			r.Questions[4].Answers = nil
		}},
		{"answers merged", "homes", "", "a or b 4", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "homes", Kind: survey.Single, Derive: &Derivation{Rule: survey.Merge, Sources: []string{"ward"}, Groups: []Group{{"a or b", []string{"a", "b"}}}}})
		}},
		{"answers chosen together", "both", "", "x 3, y 2", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "both", Kind: survey.ChooseAll, Derive: &Derivation{Rule: survey.Together, Sources: []string{"x", "y"}, Chosen: [][]string{{"yes"}, {"yes"}}}})
		}},
		{"derived from what is derived, in any order", "many", "", "0 1, 1 3, 2 1", func(r *Recipe) {
			r.Questions = append([]Question{{Name: "many", Kind: survey.Discrete, Derive: &Derivation{Rule: survey.HowMany, Sources: []string{"both"}}},
				{Name: "both", Kind: survey.ChooseAll, Derive: &Derivation{Rule: survey.Together, Sources: []string{"x", "y"}, Chosen: [][]string{{"yes"}, {"yes"}}}}}, r.Questions...)
		}},
		{"a subgroup by answers", "ward", "people", "a 1, b 1", func(r *Recipe) {
			r.Subgroups = []Subgroup{{"people", Condition{Op: survey.AnyOf, Question: "x", Answers: []string{"yes"}}}}
		}},
		{"a subgroup by a number and not by an answer", "x", "people", "yes 1, no 2", func(r *Recipe) {
			r.Subgroups = []Subgroup{{"people", Condition{Op: survey.And, Of: []Condition{{Op: survey.Between, Question: "size", From: &two}, {Op: survey.Not, Of: []Condition{{Op: survey.AnyOf, Question: "n", Answers: []string{"9"}}}}}}}}
			r.Questions[4].Answers = append(r.Questions[4].Answers, Answer{Code: "9"})
		}},
		{"a question that is lacking", "sea", "", "lacking", func(r *Recipe) { r.Questions = append(r.Questions, single("sea")) }},
		{"a subgroup by what is lacking", "ward", "people", "lacking", func(r *Recipe) {
			r.Questions = append(r.Questions, single("sea", "1"))
			r.Subgroups = []Subgroup{{"people", Condition{Op: survey.Answered, Question: "sea"}}}
		}},
		{"derived from what is lacking", "homes", "", "lacking", func(r *Recipe) {
			r.Questions = append(r.Questions, single("sea", "1"), Question{Name: "homes", Kind: survey.Single, Derive: &Derivation{Rule: survey.Merge, Sources: []string{"sea"}}})
		}},
	} {
		t.Run(k.what, func(t *testing.T) {
			again := coded
			again.Answers = append([]Answer{}, coded.Answers...)
			r := minimal(again, sized, yes("x"), yes("y"), single("n", "1", "2", "3"))
			k.change(&r)
			p, err := Prepare(r, columns, rows)
			require.NoError(t, err)
			assert.Equal(t, k.want, counts(t, p, k.of, k.among))
			assert.Equal(t, strings.Contains(k.want, "lacking"), len(p.Noticed) > 0, p.Noticed)
		})
	}
}

// What is wrong with the recipe itself is told where it stands; what of the file is otherwise is noticed.
func TestMistakesAndNotices(t *testing.T) {
	columns, rows := built("ward a b", "n 1 x")
	for _, k := range []struct {
		what, pointer, noticed string
		change                 func(r *Recipe)
	}{
		{"counts that are none", "/study/countedBy", "", func(r *Recipe) { r.Study.CountedBy = "n" }},
		{"counts with a text among them", "/study/countedBy", "", func(r *Recipe) { r.Study.CountedBy = "n"; r.Questions[1] = Question{Name: "n", Kind: survey.Count} }},
		{"counts that are lacking", "/study/countedBy", "", func(r *Recipe) { r.Study.CountedBy = "m" }},
		{"derived from nobody's", "/questions/2/derive/sources/0", "", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "d", Kind: survey.Single, Derive: &Derivation{Rule: survey.Merge, Sources: []string{"sea"}}})
		}},
		{"derived from nothing", "/questions/2/derive/sources", "", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "d", Kind: survey.Single, Derive: &Derivation{Rule: survey.Merge}})
		}},
		{"derived from itself", "", "cannot_be_made d", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "d", Kind: survey.Single, Derive: &Derivation{Rule: survey.Merge, Sources: []string{"d"}}})
		}},
		{"a rule of nobody's", "/questions/2/derive", "", func(r *Recipe) {
			r.Questions = append(r.Questions, Question{Name: "d", Kind: survey.Single, Derive: &Derivation{Rule: "guess", Sources: []string{"ward"}}})
		}},
		{"a condition on nobody's question", "/subgroups/0/condition/question", "", func(r *Recipe) {
			r.Subgroups = []Subgroup{{"g", Condition{Op: survey.Answered, Question: "sea"}}}
		}},
		{"a condition on nobody's answers", "/subgroups/0/condition/answers", "", func(r *Recipe) {
			r.Subgroups = []Subgroup{{"g", Condition{Op: survey.AnyOf, Question: "ward", Answers: []string{"z"}}}}
		}},
		{"a condition that asks nothing", "/questions/0/base", "", func(r *Recipe) { r.Questions[0].Base = &Condition{Op: survey.And} }},
		{"a base on what is lacking", "", "condition sea", func(r *Recipe) {
			r.Questions = append(r.Questions, single("sea", "1"))
			r.Questions[0].Base = &Condition{Op: survey.Answered, Question: "sea"}
		}},
		{"further answers", "", "further ward", func(r *Recipe) { r.Questions[0] = single("ward", "a") }},
		{"a column that it does not know", "", "unknown n", func(r *Recipe) { r.Questions = r.Questions[:1] }},
		{"a name in other letters", "", "", func(r *Recipe) { r.Questions[0].Name = "WARD" }},
	} {
		t.Run(k.what, func(t *testing.T) {
			r := minimal(single("ward", "a", "b"), single("n", "1", "x"))
			k.change(&r)
			p, err := Prepare(r, columns, rows)
			var wrong *Error
			if k.pointer != "" {
				require.True(t, errors.As(err, &wrong), "%v", err)
				assert.Equal(t, k.pointer, wrong.Pointer)
				return
			}
			require.NoError(t, err)
			var said []string
			for _, n := range p.Noticed {
				said = append(said, n.Message.ID+" "+n.Column)
			}
			if k.noticed == "" {
				assert.Empty(t, said)
			} else {
				assert.Contains(t, strings.Join(said, " "), k.noticed)
			}
		})
	}
}

// What a study says in ids and slots comes back from names and codes.
func TestNamesAndCodesComeBack(t *testing.T) {
	slot := survey.Slot(1)
	one, half := 1.0, 0.5
	q := survey.Question{Name: "ward", Wording: "Which ward?", Short: "ward", Note: "n", Section: "Home", Kind: survey.Ordered, Answers: []survey.Answer{
		{Slot: 1, Code: "a", Label: "Harbour", Score: &half}, {Slot: 2, Code: "b", Label: "b", SameAs: &slot, From: &one}, {Slot: 0, Label: "No answer", Missing: "no answer"}}}
	find := func(uint64) (survey.Question, bool) { return q, true }
	back := QuestionOf(q, find)
	again := back.question()
	assert.Equal(t, q, again)
	condition := survey.Condition{Op: survey.Or, Of: []survey.Condition{{Op: survey.AnyOf, Question: 7, Answers: []survey.Slot{1}}, {Op: survey.Not, Of: []survey.Condition{{Op: survey.Between, Question: 7, From: &half, To: &one}}}}}
	named, err := ConditionOf(condition, find).condition("", func(string) (uint64, survey.Question, bool) { return 7, q, true })
	require.NoError(t, err)
	assert.Equal(t, condition, named)
	for _, d := range []survey.Derivation{
		{Rule: survey.Merge, Sources: []uint64{7}, Groups: []survey.Group{{Label: "x", Answers: []survey.Slot{1, 2}}}},
		{Rule: survey.Bands, Sources: []uint64{7}, Cut: survey.GivenLimits, Limits: []float64{1, 2.5}, UpperClosed: true},
		{Rule: survey.Together, Sources: []uint64{7, 7}, Chosen: [][]survey.Slot{{1}, {2}}},
		{Rule: survey.Parts, Sources: []uint64{7}, Separator: ";"},
	} {
		got, _, err := derivationOf(d, find).derivation("", func(string) (uint64, survey.Question, bool) { return 7, q, true })
		require.NoError(t, err)
		assert.Equal(t, d, got)
	}
}
