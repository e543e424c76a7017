package service

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
)

// Whoever does something stands beside it: an edit, an analysis, a subgroup, a file, a version of
// a set of shares. What nobody was named for this computer did.
func TestEveryChangeHasAnAuthor(t *testing.T) {
	t.Parallel()
	s, kept := newService(t)
	as := func(id string) context.Context {
		return study.WithActor(t.Context(), study.Actor{ID: id, Via: study.ViaPage})
	}
	a, err := s.Uploads.Arrive(as("ines"), "answers.csv", strings.NewReader("ward,use\nHarbour,yes\nFenside,no\n"))
	require.NoError(t, err)
	a.Settings.HeaderSaid, a.Settings.HeaderRow = true, 1
	_, err = s.Studies.Create(as("oskar"), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "Fernmouth"})
	require.ErrorIs(t, err, study.ErrNotFound, "it is for who brought it")
	st, err := s.Studies.Create(as("ines"), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "Fernmouth"})
	require.NoError(t, err)
	wording := "Which ward?"
	require.NoError(t, s.Codebooks.EditQuestion(as("ines"), st.ID, question(t, s, st.ID, "ward").ID, 1, QuestionEdit{Wording: &wording}))
	use := question(t, s, st.ID, "use")
	_, err = s.Codebooks.SaveSubgroup(as("oskar"), st.ID, 0, 0, SubgroupEdit{Name: "harbour", Condition: survey.Condition{Op: survey.AnyOf, Question: question(t, s, st.ID, "ward").ID, Answers: []survey.Slot{1}}})
	require.NoError(t, err)
	spec, err := s.base.methods.Spec([]byte(`{"method":"simultaneous-intervals","version":1,"questions":["` + string(KeyOf(use.ID)) + `"],"settings":{"confidence":0.95}}`))
	require.NoError(t, err)
	_, _, err = s.Claims.State(as("oskar"), st.ID, spec, false)
	require.NoError(t, err)
	edits, err := s.UndoLine.History(t.Context(), st.ID)
	require.NoError(t, err)
	_, err = s.UndoLine.Undo(t.Context(), st.ID, edits[0].ID)
	require.NoError(t, err)
	_, _, err = s.Claims.State(t.Context(), st.ID, spec, false)
	require.NoError(t, err)

	edits, err = s.UndoLine.History(t.Context(), st.ID)
	require.NoError(t, err)
	var authors []string
	for _, e := range edits {
		authors = append(authors, e.Author)
	}
	assert.Equal(t, []string{study.ThisComputer, "oskar", "oskar", "ines"}, authors, "an edit taken back stays that of whoever made it")
	analyses, err := kept.AllAnalyses(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Equal(t, "oskar", analyses[0].Author)
	parts, err := kept.Parts(t.Context(), st.ID, study.Subgroup)
	require.NoError(t, err)
	assert.Equal(t, "oskar", parts[0].Author)
	files, err := kept.Files(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Equal(t, "ines", files[0].Author)
	_, err = s.Shares.AddShareSet(as("ines"), shares.Set{Title: "Wards", Kind: shares.Report, Scale: shares.Percents, Answers: []shares.SetAnswer{{Label: "Harbour", Figure: "60"}, {Label: "Fenside", Figure: "40"}}})
	require.NoError(t, err)
	sets, err := kept.ShareSets(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "ines", sets[0].Author)
}
