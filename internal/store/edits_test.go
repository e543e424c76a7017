package store

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
)

// states lists a study's edits, the newest first, as title and state.
func states(t *testing.T, s *Store, study uint64) (out []string) {
	t.Helper()
	list, err := s.Edits(ctx, study, 100)
	require.NoError(t, err)
	for _, e := range list {
		out = append(out, e.Values["n"].Text+" "+string(e.State))
	}
	return out
}

func TestTheLineOfUndo(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	do := func(n string) {
		_, err := s.AddEdit(ctx, study.Edit{StudyID: st.ID, Title: "question", Values: document.Values{"n": document.Text(n)}}, []study.Snapshot{{Subject: study.OfQuestion, SubjectID: q.ID, Before: "before " + n, After: "after " + n, GenerationBefore: 1, GenerationAfter: 1}})
		require.NoError(t, err)
	}
	move := func(from, to study.EditState) string {
		e, touched, err := s.NextEdit(ctx, st.ID, from)
		require.NoError(t, err)
		peeked, err := s.PeekEdit(ctx, st.ID, from)
		require.NoError(t, err)
		assert.Equal(t, e, peeked)
		require.Len(t, touched, 1)
		assert.Equal(t, "before "+e.Values["n"].Text, touched[0].Before)
		require.NoError(t, s.SetEditState(ctx, e.ID, to))
		return e.Values["n"].Text
	}
	_, _, err := s.NextEdit(ctx, st.ID, study.Done)
	require.ErrorIs(t, err, study.ErrNotFound)
	do("1")
	do("2")
	do("3")
	assert.Equal(t, "3", move(study.Done, study.Undone))
	assert.Equal(t, "2", move(study.Done, study.Undone))
	assert.Equal(t, "2", move(study.Undone, study.Done), "what was taken back last comes first")
	assert.Equal(t, []string{"3 undone", "2 done", "1 done"}, states(t, s, st.ID))
	do("4")
	assert.Equal(t, []string{"4 done", "3 dropped", "2 done", "1 done"}, states(t, s, st.ID), "something new was done after that")
	require.NoError(t, s.SettleEdits(ctx, st.ID))
	_, _, err = s.NextEdit(ctx, st.ID, study.Done)
	assert.ErrorIs(t, err, study.ErrNotFound)
	assert.Len(t, states(t, s, st.ID), 4, "the history stays")
}

func TestOldGenerationsArePruned(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	for g := 1; g <= editsKept+5; g++ {
		require.NoError(t, s.SaveColumn(ctx, q.ID, g, survey.Column{U8: []uint8{1, 2}}))
		if g > 1 {
			q.Generation = g
			require.NoError(t, s.EditQuestions(ctx, []study.Question{q}, anew))
			q.Version++
			_, err := s.AddEdit(ctx, study.Edit{StudyID: st.ID, Title: "cell", Values: document.Values{}}, []study.Snapshot{{Subject: study.OfQuestion, SubjectID: q.ID, Before: fmt.Sprint(g - 1), After: fmt.Sprint(g), GenerationBefore: g - 1, GenerationAfter: g}})
			require.NoError(t, err)
		}
	}
	const last = editsKept + 5
	var kept int64
	require.NoError(t, s.db.Model(&chunkRow{}).Where("question_id = ?", q.ID).Count(&kept).Error)
	assert.Equal(t, int64(editsKept+1), kept, "those that undo can still reach, and the one in force")
	c, err := s.LoadColumn(ctx, q.ID, last, 2)
	require.NoError(t, err)
	assert.Equal(t, []uint8{1, 2}, c.U8)
}

func TestPartsAndManyQuestionsAtOnce(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	p, err := s.AddPart(ctx, study.Part{StudyID: st.ID, Kind: study.Subgroup, Name: "Renters", Definition: "{}"})
	require.NoError(t, err)
	p.Name = "Tenants"
	require.NoError(t, s.EditPart(ctx, p))
	assert.ErrorIs(t, s.EditPart(ctx, p), study.ErrStale)
	list, err := s.Parts(ctx, st.ID, study.Subgroup)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Tenants", list[0].Name)
	lists, err := s.Parts(ctx, st.ID, study.AnswerList)
	require.NoError(t, err)
	assert.Empty(t, lists)

	// A further question before the first moves it back; a stale one keeps both.
	other := q
	other.Name, other.Position = "tenure", 0
	id, err := s.AddQuestion(ctx, other)
	require.NoError(t, err)
	all, err := s.Questions(ctx, st.ID)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, []any{id, 1, q.ID, 2}, []any{all[0].ID, all[0].Number, all[1].ID, all[1].Number})
	score, base := 3.5, survey.Condition{Op: survey.Answered, Question: q.ID}
	for i := range all {
		all[i].Section, all[i].Base = "A", &base
		all[i].Answers[0].Score, all[i].Answers[1].From = &score, &score
	}
	stale := []study.Question{all[0], all[1]}
	stale[1].Version = 9
	assert.ErrorIs(t, s.InTx(ctx, func(ctx context.Context) error { return s.EditQuestions(ctx, stale, anew) }), study.ErrStale)
	require.NoError(t, s.EditQuestions(ctx, all, anew))
	after, err := s.Questions(ctx, st.ID)
	require.NoError(t, err)
	for i := range all {
		all[i].Version++
	}
	assert.Equal(t, all, after)
	after[0].Deleted = true
	require.NoError(t, s.EditQuestions(ctx, after[:1], func(int) bool { return false }))
	_, err = s.Question(ctx, st.ID, id)
	assert.ErrorIs(t, err, study.ErrNotFound)
	every, err := s.AllQuestions(ctx, st.ID)
	require.NoError(t, err)
	assert.True(t, every[id].Deleted)
	assert.Equal(t, all[0].Answers, every[id].Answers, "its answers stay")
}
