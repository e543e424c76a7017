package service

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/infer"
	"widetally/core/methods/crosstab"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/shares"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/mariadb/mariadbtest"
)

// A study that was kept before claims were analyses is brought over whole: its claims with
// their numbers, first runs and changes, who is in the subgroup, and every step of undo.
// testdata/README.md tells where the study comes from.
func TestAnEarlierStudyIsBroughtOver(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("testdata/earlier.sql")
	require.NoError(t, err)
	dsn := mariadbtest.Database(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	for _, statement := range strings.Split(string(raw), ";\n") {
		if strings.TrimSpace(statement) != "" {
			_, err := db.Exec(statement)
			require.NoError(t, err, statement)
		}
	}
	s, kept := serviceOn(t, dsn)

	ward := question(t, s, 1, "ward")
	assert.Equal(t, []string{"Fenside 30", "Harbour 50", "Saltings 20"}, counts(ward))
	require.Len(t, ward.Analyses, 2)
	first, second := ward.Analyses[0], ward.Analyses[1]
	r := first.Outcome.Result.(goodnessoffit.Answer).GoodnessOfFit
	assert.InDelta(t, 5, r.Statistic, 1e-12, "(10² + 10²)/40")
	assert.Equal(t, []any{1, 2, 0.1}, []any{first.Number, first.Version, r.Level})
	assert.Equal(t, "the borough register", first.Spec.Settings.(*goodnessoffit.Settings).Shares.Source.Title)
	assert.Equal(t, []analysis.Difference{analysis.ClaimDiffers}, first.Differs, "its level was changed after the first run, and nothing else")
	require.Len(t, first.Changes, 1)
	assert.Equal(t, []any{"level", "0.05", "0.1", true}, []any{first.Changes[0].Field, first.Changes[0].Old, first.Changes[0].New, first.Changes[0].AfterRun})
	assert.Equal(t, int64(49), second.Outcome.Result.(goodnessoffit.Answer).GoodnessOfFit.N, "the renters alone")
	assert.Equal(t, claim.ClaimIsAlternative, second.Spec.Settings.(*goodnessoffit.Settings).Role)
	assert.Empty(t, second.Differs)
	page, err := s.Toplines.Topline(t.Context(), 1, nil, Window{})
	require.NoError(t, err)
	register, err := s.Claims.Register(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, register.Withdrawn, 1)
	assert.Equal(t, 3, register.Withdrawn[0].Number)
	refused(t, s.Codebooks.DeletePart(t.Context(), 1, page.Subgroups[0].ID, study.Subgroup), "subgroup.in_use")

	// The line of undo goes on in both directions over snapshots of the earlier form.
	require.NoError(t, redo(t, s, 1))
	assert.Equal(t, "tenure", question(t, s, 1, "tenure").Short)
	for range 2 {
		require.NoError(t, undo(t, s, 1))
	}
	for _, a := range question(t, s, 1, "ward").Analyses {
		assert.NotNil(t, a.Outcome, "a claim keeps its subgroup, though this has been taken back")
	}
	require.NoError(t, undo(t, s, 1))
	assert.Equal(t, []string{"Fenside 30", "Harbour 50", "Salt ings 1", "Saltings 19"}, counts(question(t, s, 1, "ward")))
	require.NoError(t, undo(t, s, 1))
	assert.Equal(t, "ward", question(t, s, 1, "ward").Wording)
	for range 3 {
		require.NoError(t, redo(t, s, 1))
	}
	assert.Equal(t, "Which ward?", question(t, s, 1, "ward").Wording)
	next, err := kept.AddAnalysis(t.Context(), study.Analysis{StudyID: 1, QuestionID: ward.ID, Spec: "{}"}, true)
	require.NoError(t, err)
	assert.Equal(t, 4, next.Number)
}

// state is all that a person sees of a study: questions with their tallies, subgroups,
// lists, and what is asked with its result.
func state(t *testing.T, s *Places, id uint64) string {
	t.Helper()
	page, err := s.Toplines.Topline(t.Context(), id, nil, Window{})
	require.NoError(t, err)
	var out []any
	for _, q := range page.Questions {
		var list []any
		for _, a := range q.Analyses {
			list = append(list, a.ID, a.Spec, a.Problems)
			if a.Spec.Settings.Tests() {
				list = append(list, a.Number)
			}
			if a.Outcome != nil {
				list = append(list, a.Outcome.Result)
			}
		}
		plain := q.Question
		plain.Version, plain.Generation = 0, 0
		out = append(out, plain, q.Frequency, list)
	}
	for _, g := range page.Subgroups {
		out = append(out, g.Name, g.Condition, g.N)
	}
	raw, err := json.Marshal(append(out, page.Study.Rows, page.Study.CountQuestion))
	require.NoError(t, err)
	return string(raw)
}

// Undo after do is nothing, and redo after undo is nothing, over random edits of every kind.
func TestUndoTakesBackWhateverWasDone(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward,tenure,n\n"+strings.Repeat("a,owns,1\nb,rents,2\nc,rents,1\na,owns,3\nB,,2\n", 6), nil)
	rng := rand.New(rand.NewPCG(4, 12))
	done := 0
	for round := range 60 {
		ward, tenure, n := question(t, s, st.ID, "ward"), question(t, s, st.ID, "tenure"), question(t, s, st.ID, "n")
		before := state(t, s, st.ID)
		name := fmt.Sprint("edit ", round)
		standing := func() (AnalysisView, bool) {
			all := append(append([]AnalysisView{}, ward.Analyses...), tenure.Analyses...)
			if len(all) == 0 {
				return AnalysisView{}, false
			}
			return all[rng.IntN(len(all))], true
		}
		edits := []func() error{
			func() error {
				return s.Codebooks.EditQuestion(t.Context(), st.ID, ward.ID, ward.Version, QuestionEdit{Wording: &name})
			},
			func() error {
				return s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: ward.ID, Version: ward.Version}}, SameAs: map[string]string{"B": "b"}})
			},
			func() error {
				return s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: tenure.ID, Version: tenure.Version}}, Missing: map[string]string{"owns": name}})
			},
			func() error {
				return s.Answers.CorrectCell(t.Context(), st.ID, ward.ID, ward.Version, int64(1+rng.IntN(20)), []string{"a", "b", "c"}[rng.IntN(3)], false)
			},
			func() error { return s.Uploads.SetCounts(t.Context(), st.ID, &n.ID) },
			func() error { return s.Uploads.SetCounts(t.Context(), st.ID, nil) },
			func() error {
				_, err := s.Codebooks.SaveSubgroup(t.Context(), st.ID, 0, 0, SubgroupEdit{Name: name, Condition: survey.Condition{Op: survey.Answered, Question: tenure.ID}})
				return err
			},
			func() error {
				_, _, err := s.Claims.State(t.Context(), st.ID, expecting(ward, shares.Ratio, nil), true)
				return err
			},
			func() error {
				_, _, err := s.Claims.State(t.Context(), st.ID, crosstab.Described(KeyOf(tenure.ID), KeyOf(ward.ID)), false)
				return err
			},
			func() error {
				a, ok := standing()
				if !ok {
					return nil
				}
				change := `{"level":0.0` + fmt.Sprint(1+rng.IntN(9)) + `}`
				if a.Number == 0 || a.Spec.Method == "crosstab" {
					change = `{"test":{"role":"null","level":0.0` + fmt.Sprint(1+rng.IntN(9)) + `}}`
				}
				_, err := s.Claims.ChangeAnalysis(t.Context(), st.ID, a.ID, a.Version, []byte(change), false)
				return err
			},
			func() error {
				a, ok := standing()
				if !ok {
					return nil
				}
				return s.Claims.Withdraw(t.Context(), st.ID, a.ID)
			},
		}
		which := rng.IntN(len(edits))
		if err := edits[which](); err != nil {
			var invalid *InvalidError
			require.ErrorAs(t, err, &invalid, "edit %d", which)
			assert.Equal(t, before, state(t, s, st.ID), "a refused edit changes nothing")
			continue
		}
		after := state(t, s, st.ID)
		if after == before {
			continue
		}
		done++
		require.NoError(t, undo(t, s, st.ID), "edit %d", which)
		require.Equal(t, before, state(t, s, st.ID), "undo of edit %d", which)
		require.NoError(t, redo(t, s, st.ID), "edit %d", which)
		require.Equal(t, after, state(t, s, st.ID), "redo of edit %d", which)
		if rng.IntN(2) == 0 {
			require.NoError(t, undo(t, s, st.ID))
		}
	}
	assert.Greater(t, done, 25)
}

// What was counted is remembered as long as nothing changed, and results as long as the
// counts are the same.
func TestACrossingIsCountedOnceForItsRevision(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward,tenure\n"+strings.Repeat("a,owns\nb,rents\na,rents\n", 30), nil)
	ward, tenure := question(t, s, st.ID, "ward"), question(t, s, st.ID, "tenure")
	_, _, err := s.Claims.State(t.Context(), st.ID, crosstab.Described(KeyOf(ward.ID), KeyOf(tenure.ID)), false)
	require.NoError(t, err)
	first := question(t, s, st.ID, "ward")
	require.Len(t, first.Analyses, 1)
	assert.Zero(t, first.Analyses[0].Number)
	assert.Same(t, first, question(t, s, st.ID, "ward"), "nothing changed, nothing is counted again")
	wording := "Which ward?"
	require.NoError(t, s.Codebooks.EditQuestion(t.Context(), st.ID, ward.ID, ward.Version, QuestionEdit{Wording: &wording}))
	again := question(t, s, st.ID, "ward")
	assert.NotSame(t, first, again)
	r := again.Analyses[0].Outcome.Result.(crosstab.Answer).Independence
	assert.Same(t, first.Analyses[0].Outcome.Result.(crosstab.Answer).Independence, r, "the same counts have the same result")
	assert.Equal(t, int64(90), r.N)
	// A table that cannot be tested is described; asked for a test it says why not.
	require.NoError(t, s.Codebooks.EditMany(t.Context(), st.ID, BulkEdit{Questions: []Versioned{{ID: tenure.ID, Version: question(t, s, st.ID, "tenure").Version}}, Missing: map[string]string{"owns": "x"}}))
	view := question(t, s, st.ID, "ward").Analyses[0]
	require.NotNil(t, view.Document)
	assert.Nil(t, view.Document.Outcome)
	_, err = s.Claims.ChangeAnalysis(t.Context(), st.ID, view.ID, view.Version, []byte(`{"test":{"role":"null","level":0.05}}`), false)
	require.NoError(t, err)
	view = question(t, s, st.ID, "ward").Analyses[0]
	require.NotNil(t, view.Refusal)
	assert.Equal(t, infer.OneRowOrColumn, view.Refusal.Reason)
	assert.Equal(t, 1, view.Number, "asked for a test it is a claim")
}
