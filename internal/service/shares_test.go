package service

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/shares"
	"widetally/core/study"
)

func register(figures ...string) shares.Set {
	s := shares.Set{Title: "the register", Kind: shares.Register, Scale: shares.Percents}
	for i, f := range figures {
		s.Answers = append(s.Answers, shares.SetAnswer{Label: string(rune('a' + i)), Figure: f})
	}
	return s
}

// Of eight who change a set at once one is first, the others are told; versions follow each
// other, and a set that was taken off the shelf cannot be changed.
func TestASetOfSharesIsChangedByOneAtATime(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	set, err := s.Shares.AddShareSet(t.Context(), register("40", "60"))
	require.NoError(t, err)
	var work []func() error
	for i := range 8 {
		work = append(work, func() error {
			_, err := s.Shares.EditShareSet(t.Context(), set.ID, 1, register(fmt.Sprint(41+i), fmt.Sprint(59-i)))
			return err
		})
	}
	first := 0
	for _, err := range together(work...) {
		if err == nil {
			first++
		} else {
			assert.ErrorIs(t, err, study.ErrStale)
		}
	}
	assert.Equal(t, 1, first)
	all, err := s.Shares.ShareVersions(t.Context(), set.ID)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, []int{2, 1}, []int{all[0].Version, all[1].Version})
	assert.Equal(t, "40", all[1].Answers[0].Figure)
	require.NoError(t, s.Shares.SetShareSetDeleted(t.Context(), set.ID, true))
	_, err = s.Shares.EditShareSet(t.Context(), set.ID, 2, register("50", "50"))
	assert.ErrorIs(t, err, study.ErrStale)
	assert.ErrorIs(t, s.Shares.SetShareSetDeleted(t.Context(), 999, true), study.ErrNotFound)
	_, err = s.Shares.ShareVersions(t.Context(), 999)
	assert.ErrorIs(t, err, study.ErrNotFound)
	var refusal *InvalidError
	_, err = s.Shares.AddShareSet(t.Context(), register("40", "61"))
	require.True(t, errors.As(err, &refusal))
	assert.Equal(t, document.Values{"sum": document.Text("101"), "target": document.Text("100"), "gap": document.Text("1"), "text": document.Text("1")}, refusal.Values)
}

// An adjustment that was chosen before a test was run says so; one that was chosen afterwards
// cannot pass for it, whatever is undone.
func TestWhenTheAdjustmentWasChosen(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\na\na\nb\nb\nb\n", nil)
	require.NoError(t, s.Claims.Adjust(t.Context(), st.ID, analysis.HolmAdjustment))
	r, err := s.Claims.Register(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{analysis.HolmAdjustment, false}, []any{r.Adjustment, r.Afterwards})
	chosen := *r.ChosenAt
	_, _, err = s.Claims.State(t.Context(), st.ID, expecting(question(t, s, st.ID, "ward"), shares.Equal, nil), true)
	require.NoError(t, err)
	require.NoError(t, s.Claims.Adjust(t.Context(), st.ID, analysis.HolmAdjustment))
	r, err = s.Claims.Register(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Equal(t, chosen, *r.ChosenAt, "choosing the same again is no new choice")
	require.NotNil(t, r.Claims[0].Adjusted)
	assert.Equal(t, r.Claims[0].Document.Outcome.P.Number, r.Claims[0].Adjusted.P.Value, "of a single claim")
	require.NoError(t, s.Claims.Adjust(t.Context(), st.ID, analysis.BenjaminiHochberg))
	r, err = s.Claims.Register(t.Context(), st.ID)
	require.NoError(t, err)
	assert.True(t, r.Afterwards)
	require.NoError(t, undo(t, s, st.ID))
	r, err = s.Claims.Register(t.Context(), st.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{analysis.HolmAdjustment, false}, []any{r.Adjustment, r.Afterwards})
	assert.Error(t, s.Claims.Adjust(t.Context(), st.ID, "sidak"))
	assert.ErrorIs(t, s.Claims.Adjust(t.Context(), 999, analysis.HolmAdjustment), study.ErrNotFound)
}

// A rejection says from the fifth test on that it is one of many, withdrawn ones counted, until
// an adjustment is chosen; a null that is kept is not reminded.
func TestARejectionSaysThatItIsOneOfMany(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, "ward\n"+strings.Repeat("a\n", 40)+strings.Repeat("b\n", 8), nil)
	reminded := func() (out []string) {
		r, err := s.Claims.Register(t.Context(), st.ID)
		require.NoError(t, err)
		for _, c := range r.Claims {
			for _, n := range c.Document.Notes {
				if n.ID == "note.many_tests" {
					out = append(out, fmt.Sprint(c.Number, " of ", n.Values["tests"].Number, ": ", n.Values["chance"].Number))
				}
			}
		}
		return out
	}
	for range 4 {
		_, _, err := s.Claims.State(t.Context(), st.ID, expecting(question(t, s, st.ID, "ward"), shares.Equal, nil), true)
		require.NoError(t, err)
	}
	assert.Empty(t, reminded(), "four are few")
	fifth, _, err := s.Claims.State(t.Context(), st.ID, expecting(question(t, s, st.ID, "ward"), shares.Ratio, map[string]string{"a": "5"}), true)
	require.NoError(t, err)
	many := []string{"1 of 5: 0.25", "2 of 5: 0.25", "3 of 5: 0.25", "4 of 5: 0.25"}
	assert.Equal(t, many, reminded())
	require.NoError(t, s.Claims.Withdraw(t.Context(), st.ID, fifth))
	assert.Equal(t, many, reminded(), "a withdrawn test has been run")
	require.NoError(t, s.Claims.Adjust(t.Context(), st.ID, analysis.HolmAdjustment))
	assert.Empty(t, reminded(), "they are adjusted for")
}
