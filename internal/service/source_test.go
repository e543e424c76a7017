package service

import (
	"testing"

	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
	"widetally/internal/sourcetest"
)

// A study's columns, loaded from the database, are a source like any other.
func TestAStudyIsASource(t *testing.T) {
	t.Parallel()
	s, _ := newService(t)
	st := kept(t, s, sourcetest.CSV, nil)
	reasons := question(t, s, st.ID, "reasons")
	_, err := s.Codebooks.AddDerived(t.Context(), st.ID, DerivedEdit{Wording: "Reasons", Derivation: survey.Derivation{Rule: survey.Parts, Sources: []uint64{reasons.ID}, Separator: ";"}})
	require.NoError(t, err)
	ward := question(t, s, st.ID, "ward")
	var fenside []survey.Slot
	for _, a := range ward.Answers {
		if a.Code == "Fenside" {
			fenside = append(fenside, a.Slot)
		}
	}
	group, err := s.Codebooks.SaveSubgroup(t.Context(), st.ID, 0, 0, SubgroupEdit{Name: "Fenside", Condition: survey.Condition{Op: survey.AnyOf, Question: ward.ID, Answers: fenside}})
	require.NoError(t, err)
	d, err := s.base.dataset(t.Context(), st.ID)
	require.NoError(t, err)
	key := func(name string) analysis.Key { return KeyOf(question(t, s, st.ID, name).ID) }
	sourcetest.Run(t, sourcetest.Source{Source: s.base.source(t.Context(), d), Ward: key("ward"), Before: key("before"), After: key("after"), Reasons: key("reasons_parts"), Years: key("years"), Fenside: KeyOf(group)})
}
