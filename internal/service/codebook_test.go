package service

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/intake"
)

// kept makes a study of a file with changed settings.
func kept(t *testing.T, s *Places, file string, change func(*intake.Settings)) study.Study {
	t.Helper()
	id, settings := arrived(t, s, file, change)
	st, err := s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "Fernmouth"})
	require.NoError(t, err)
	return st
}

func arrived(t *testing.T, s *Places, file string, change func(*intake.Settings)) (string, intake.Settings) {
	t.Helper()
	a, err := s.Uploads.Arrive(t.Context(), "answers.csv", strings.NewReader(file))
	require.NoError(t, err)
	a.Settings.HeaderSaid = true
	if change != nil {
		change(&a.Settings)
	}
	return a.ID, a.Settings
}

func question(t *testing.T, s *Places, study uint64, name string) *QuestionView {
	t.Helper()
	page, err := s.Toplines.Topline(t.Context(), study, nil, Window{})
	require.NoError(t, err)
	for i, q := range page.Questions {
		if q.Name == name {
			return page.Questions[i]
		}
	}
	t.Fatalf("no question %s", name)
	return nil
}

func counts(v *QuestionView) (out []string) {
	for _, r := range v.Frequency.Rows {
		a, _ := v.Question.Question.Answer(r.Slot)
		out = append(out, fmt.Sprint(a.Label, " ", r.Count))
	}
	return out
}

// undo takes back what the page shows as the last edit.
func undo(t *testing.T, s *Places, study uint64) error {
	t.Helper()
	page, err := s.Toplines.Topline(t.Context(), study, nil, Window{})
	require.NoError(t, err)
	require.NotNil(t, page.Undo)
	_, err = s.UndoLine.Undo(t.Context(), study, page.Undo.ID)
	return err
}

func redo(t *testing.T, s *Places, study uint64) error {
	t.Helper()
	page, err := s.Toplines.Topline(t.Context(), study, nil, Window{})
	require.NoError(t, err)
	require.NotNil(t, page.Redo)
	_, err = s.UndoLine.Redo(t.Context(), study, page.Redo.ID)
	return err
}

func refused(t *testing.T, err error, code string) {
	t.Helper()
	var bad *InvalidError
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, code, bad.Code)
}

// A column of counts, declared later, rules every tally; a later file must bring one,
// too; and what is derived follows.
func TestCountsDeclaredLater(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward,age,n\nHarbour,20,3\nFenside,40,5\nHarbour,60,2\n", nil)
	id := func(name string) uint64 { return question(t, s, st.ID, name).ID }
	_, err := s.Codebooks.AddDerived(t.Context(), st.ID, DerivedEdit{Wording: "Age in halves", Derivation: survey.Derivation{Rule: survey.Bands, Sources: []uint64{id("age")}, Cut: survey.EqualGroups, Number: 2}})
	require.Error(t, err, "few codes are an answer list until somebody says otherwise")
	kind := survey.Continuous
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, id("age"), 1, QuestionEdit{Kind: &kind}))
	_, err = s.Codebooks.AddDerived(t.Context(), st.ID, DerivedEdit{Wording: "Age in halves", Derivation: survey.Derivation{Rule: survey.Bands, Sources: []uint64{id("age")}, Cut: survey.EqualGroups, Number: 2, UpperClosed: true}})
	require.NoError(t, err)
	assert.Equal(t, []string{"≤ 40 2", "> 40 1"}, counts(question(t, s, st.ID, "age_bands")))
	n := id("n")
	require.NoError(t, s.Uploads.SetCounts(t.Context(), st.ID, &n))
	assert.Equal(t, []string{"Fenside 5", "Harbour 5"}, counts(question(t, s, st.ID, "ward")))
	assert.Equal(t, 38.0, question(t, s, st.ID, "age").Numeric.Mean, "(3·20 + 5·40 + 2·60) ÷ 10")
	refused(t, s.Codebooks.EditQuestion(t.Context(), st.ID, n, question(t, s, st.ID, "n").Version, QuestionEdit{Kind: &kind}), "question.in_use")
}

// Calling a column a count of respondents puts it in force with the same edit; it is the
// study's frequency then, and no question with a mean.
func TestACountOfRespondentsIsInForce(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward,n\nHarbour,3\nFenside,5\nHarbour,2\n", nil)
	n, kind := question(t, s, st.ID, "n"), survey.Count
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, n.ID, n.Version, QuestionEdit{Kind: &kind}))
	assert.Equal(t, []string{"Fenside 5", "Harbour 5"}, counts(question(t, s, st.ID, "ward")))
	n = question(t, s, st.ID, "n")
	assert.True(t, n.IsCounts)
	assert.Nil(t, n.Numeric)
	require.NoError(t, undo(t, s, st.ID))
	assert.Equal(t, []string{"Fenside 1", "Harbour 2"}, counts(question(t, s, st.ID, "ward")))
	assert.Equal(t, survey.Single, question(t, s, st.ID, "n").Kind)
	require.NoError(t, s.Uploads.SetCounts(t.Context(), st.ID, &n.ID))
	require.NoError(t, s.Uploads.SetCounts(t.Context(), st.ID, nil))
	assert.Equal(t, survey.Continuous, question(t, s, st.ID, "n").Kind)
	ward := question(t, s, st.ID, "ward")
	n = question(t, s, st.ID, "n")
	refused(t, s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: ward.ID, Version: ward.Version}, {ID: n.ID, Version: n.Version}}, Kind: &kind}), "question.one_count")
}

// expecting is a claim that a question's answers are spread so; by 1 each without figures.
func expecting(q *QuestionView, scale shares.Scale, figures map[string]string) analysis.Spec {
	settings := &goodnessoffit.Settings{Role: claim.ClaimIsNull, Level: 0.05, Shares: analysis.ExpectedShares{Scale: scale, Source: analysis.Reference{Kind: claim.Theory, Title: "x"}}}
	for _, a := range q.Question.Question.Proper() {
		figure, given := figures[a.Code]
		if !given {
			figure = "1"
		}
		if scale != shares.Equal {
			settings.Shares.Figures = append(settings.Shares.Figures, analysis.CategoryFigure{Code: a.Code, Figure: figure})
		}
	}
	return analysis.Spec{Method: "goodness-of-fit", Version: 1, Questions: []analysis.Key{KeyOf(q.ID)}, Settings: settings}
}

// What a result depends on is compared with the first run: each kind of difference is
// said as itself, and taking it back takes the mark away.
func TestWhatDiffersFromTheFirstRun(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward,n\na,3\nb,5\na,2\nc,4\n", nil)
	q, n := question(t, s, st.ID, "ward"), question(t, s, st.ID, "n").ID
	_, _, err := s.Claims.State(t.Context(), st.ID, expecting(q, shares.Equal, nil), true)
	require.NoError(t, err)
	for _, x := range []struct {
		name string
		edit func() error
		want []analysis.Difference
	}{
		{"wording", func() error {
			wording := "Which ward?"
			return s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, question(t, s, st.ID, "ward").Version, QuestionEdit{Wording: &wording})
		}, nil},
		{"counts", func() error { return s.Uploads.SetCounts(t.Context(), st.ID, &n) }, []analysis.Difference{analysis.CountsDiffer}},
		{"coding", func() error {
			return s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: q.ID, Version: question(t, s, st.ID, "ward").Version}}, Missing: map[string]string{"c": "refused"}})
		}, []analysis.Difference{analysis.CodingDiffers}},
		{"a corrected answer", func() error {
			return s.Answers.CorrectCell(t.Context(), st.ID, q.ID, question(t, s, st.ID, "ward").Version, 2, "a", false)
		}, []analysis.Difference{analysis.AnswersDiffer}},
	} {
		t.Run(x.name, func(t *testing.T) {
			require.NoError(t, x.edit())
			assert.Equal(t, x.want, question(t, s, st.ID, "ward").Analyses[0].Differs)
			require.NoError(t, undo(t, s, st.ID))
			assert.Empty(t, question(t, s, st.ID, "ward").Analyses[0].Differs)
		})
	}
}

// What is named by slot must not be read anew under it.
func TestQuestionsInUseAreNotReadAnew(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "size,ward\n1,a\n2,b\n3,a\n1,a\n", nil)
	q := question(t, s, st.ID, "size")
	kind := survey.Text
	_, _, err := s.Claims.State(t.Context(), st.ID, expecting(q, shares.Ratio, nil), false)
	require.NoError(t, err)
	refused(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, q.Version, QuestionEdit{Kind: &kind}), "question.in_use")
	list := question(t, s, st.ID, "size").Analyses
	require.NoError(t, s.Claims.Withdraw(t.Context(), st.ID, list[0].ID))
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, q.Version, QuestionEdit{Kind: &kind}))
	require.NoError(t, undo(t, s, st.ID))
	assert.Equal(t, []string{"1 2", "2 1", "3 1"}, counts(question(t, s, st.ID, "size")))
}

// Claims are part of the line of undo: an answer to which a claim gives a share is not taken
// from under it, since the claim goes first, and comes back when the answer is there again.
func TestClaimsAreUndoneInTheirTurn(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\na\nb\na\n", nil)
	q := question(t, s, st.ID, "ward")
	require.NoError(t, s.Answers.CorrectCell(t.Context(), st.ID, q.ID, q.Version, 2, "c", true))
	id, _, err := s.Claims.State(t.Context(), st.ID, expecting(question(t, s, st.ID, "ward"), shares.Ratio, nil), true)
	require.NoError(t, err)
	first := question(t, s, st.ID, "ward").Analyses[0]
	assert.NotNil(t, first.Document)
	require.NoError(t, undo(t, s, st.ID))
	assert.Empty(t, question(t, s, st.ID, "ward").Analyses)
	page, err := s.Claims.Register(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Len(t, page.Withdrawn, 1, "a claim that was undone stays in the register")
	require.NoError(t, undo(t, s, st.ID))
	assert.Equal(t, []string{"a 2", "b 1"}, counts(question(t, s, st.ID, "ward")))
	_, err = s.Claims.RestoreAnalysis(t.Context(), st.ID, id)
	refused(t, err, "claim.answers_gone")
	assert.Empty(t, question(t, s, st.ID, "ward").Analyses, "nor is it half restored")
	require.NoError(t, redo(t, s, st.ID))
	require.NoError(t, redo(t, s, st.ID))
	again := question(t, s, st.ID, "ward").Analyses[0]
	assert.Equal(t, []any{first.ID, first.Number, first.Spec, first.FirstRunAt}, []any{again.ID, again.Number, again.Spec, again.FirstRunAt})
	assert.Empty(t, again.Differs)
}

// A claim that comes back gives its shares to the answers that they were entered for,
// though these have been read anew in another order.
func TestRestoredClaimsKeepTheirShares(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "size,ward\n3,a\n2,b\n1,a\n3,a\n", nil)
	kind := func(k survey.Kind) {
		q := question(t, s, st.ID, "size")
		require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, q.ID, q.Version, QuestionEdit{Kind: &k}))
	}
	byCode := func() map[string]string {
		out := map[string]string{}
		for _, f := range question(t, s, st.ID, "size").Analyses[0].Spec.Settings.(*goodnessoffit.Settings).Shares.Figures {
			out[f.Code] = f.Figure
		}
		return out
	}
	q := question(t, s, st.ID, "size")
	share := map[string]string{"1": "20", "2": "30", "3": "50"}
	id, _, err := s.Claims.State(t.Context(), st.ID, expecting(q, shares.Percents, share), true)
	require.NoError(t, err)
	require.Equal(t, share, byCode())
	require.NoError(t, s.Claims.Withdraw(t.Context(), st.ID, id))
	kind(survey.Text)
	_, err = s.Claims.RestoreAnalysis(t.Context(), st.ID, id)
	refused(t, err, "claim.answers_gone")
	kind(survey.Single)
	_, err = s.Claims.RestoreAnalysis(t.Context(), st.ID, id)
	require.NoError(t, err)
	assert.Equal(t, share, byCode())
	assert.Empty(t, question(t, s, st.ID, "size").Analyses[0].Differs, "the result is the one of the first run")
}

// Many questions change together or not at all, also when one of them is stale.
func TestBulkEditsAreAllOrNothing(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "a,b\n1,2\n2,1\n", nil)
	a, b := question(t, s, st.ID, "a"), question(t, s, st.ID, "b")
	section := "Views"
	wording := "Changed meanwhile"
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, b.ID, 1, QuestionEdit{Wording: &wording}))
	err := s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: a.ID, Version: 1}, {ID: b.ID, Version: 1}}, Section: &section})
	require.ErrorIs(t, err, study.ErrStale)
	assert.Empty(t, question(t, s, st.ID, "a").Section)
	kind := survey.ChooseAll
	err = s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: a.ID, Version: 1}, {ID: b.ID, Version: 2}}, Kind: &kind})
	refused(t, err, "question.kind")
	require.NoError(t, s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: a.ID, Version: 1}, {ID: b.ID, Version: 2}}, Section: &section}))
	edits, err := s.UndoLine.History(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Len(t, edits, 2, "one edit for both")
}

// A definition that leads back to itself, directly or through others, is refused.
func TestDerivedQuestionsMakeNoCircle(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\na\nb\nc\na\n", nil)
	ward := question(t, s, st.ID, "ward")
	slots := func(q *QuestionView) (out []survey.Slot) {
		for _, r := range q.Frequency.Rows {
			out = append(out, r.Slot)
		}
		return out
	}
	merge := func(from *QuestionView, label string) DerivedEdit {
		return DerivedEdit{Wording: label, Derivation: survey.Derivation{Rule: survey.Merge, Sources: []uint64{from.ID}, Groups: []survey.Group{{Label: label, Answers: slots(from)[:2]}}}}
	}
	first, err := s.Codebooks.AddDerived(t.Context(), st.ID, merge(ward, "a or b"))
	require.NoError(t, err)
	one, err := s.Toplines.Question(t.Context(), st.ID, first, nil)
	require.NoError(t, err)
	second, err := s.Codebooks.AddDerived(t.Context(), st.ID, merge(one, "any"))
	require.NoError(t, err)
	two, err := s.Toplines.Question(t.Context(), st.ID, second, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"any 4"}, counts(two))
	refused(t, s.Codebooks.EditDerived(t.Context(), st.ID, first, one.Version, merge(one, "x")), "derivation.sources")
	circle := merge(ward, "x")
	circle.Derivation.Sources = []uint64{second}
	refused(t, s.Codebooks.EditDerived(t.Context(), st.ID, first, one.Version, circle), "derivation.sources")
	refused(t, s.Codebooks.DeleteQuestion(t.Context(), st.ID, first, one.Version), "question.in_use")
}

// An arrival can be looked at again and again; what was chosen shows, nothing is kept.
func TestLookingKeepsNothing(t *testing.T) {
	t.Parallel()
	s, db := newService(t)
	id, settings := arrived(t, s, "ward,caddy\nHarbour,yes\nharbour,n/a\n", nil)
	for range 3 {
		a, err := s.Uploads.Look(t.Context(), id, settings, []ColumnChoice{{Name: "ward", SameAs: map[string]string{"harbour": "Harbour"}}, {Name: "caddy", Missing: map[string]string{"n/a": "not asked"}}})
		require.NoError(t, err)
		require.Len(t, a.Check.Questions, 2)
		assert.Equal(t, 1, a.Check.Questions[0].Report.Different)
		assert.Equal(t, int64(1), a.Check.Questions[1].Report.Missing)
	}
	a, err := s.Uploads.Look(t.Context(), id, settings, nil)
	require.NoError(t, err)
	assert.Equal(t, 2, a.Check.Questions[0].Report.Different, "choices of an earlier look leave no trace")
	_, err = s.Uploads.Look(t.Context(), id, settings, []ColumnChoice{{Name: "nowhere"}})
	refused(t, err, "choice.column")
	_, err = s.Studies.Create(t.Context(), NewStudy{ArrivalID: id, Settings: settings, Name: "x", Choices: []ColumnChoice{{Name: "ward", Skip: true}, {Name: "caddy", Skip: true}}})
	refused(t, err, "choice.nothing_left")
	studies, err := db.Studies(context.Background())
	require.NoError(t, err)
	assert.Empty(t, studies)
}
