package analysis_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
)

// The design settles the method: the same people are never tested as different ones, a choose-all
// question never by the table of separate people, and an order is used where there is one.
func TestTheDesignProposesTheMethod(t *testing.T) {
	t.Parallel()
	answers := []survey.Answer{{Slot: 1, Code: "1"}, {Slot: 2, Code: "2"}, {Slot: 3, Code: "3"}}
	proposed := func(kind survey.Kind, with analysis.With, aim analysis.Aim) string {
		q := survey.Question{Kind: kind, Answers: answers}
		if kind.Numeric() {
			q.Answers = nil
		}
		for _, p := range analysis.Proposed(analysis.AskedOf(0, q)) {
			if p.With == with && p.Aim == aim {
				return p.Method
			}
		}
		return ""
	}
	for _, k := range []struct {
		kind survey.Kind
		with analysis.With
		aim  analysis.Aim
		want string
	}{
		{survey.Single, analysis.WithShares, analysis.AimDifference, "goodness-of-fit"},
		{survey.Single, analysis.WithShares, analysis.AimAgreement, "equivalence/distribution"},
		{survey.Single, analysis.WithShare, analysis.AimDifference, "one-proportion"},
		{survey.Single, analysis.WithShare, analysis.AimAgreement, "equivalence/share"},
		{survey.Single, analysis.WithSample, analysis.AimDifference, "homogeneity"},
		{survey.Single, analysis.WithSample, analysis.AimAgreement, ""},
		{survey.Single, analysis.WithGroups, analysis.AimDifference, "two-proportions"},
		{survey.Single, analysis.WithGroups, analysis.AimAgreement, "equivalence/two-shares"},
		{survey.Single, analysis.WithQuestion, analysis.AimDifference, "crosstab"},
		{survey.Ordered, analysis.WithQuestion, analysis.AimDifference, "ordered"},
		{survey.Single, analysis.WithAgain, analysis.AimDifference, "paired"},
		{survey.ChooseAll, analysis.WithItself, analysis.AimDifference, "cochran-q"},
		{survey.ChooseAll, analysis.WithQuestion, analysis.AimDifference, ""},
		{survey.ChooseAll, analysis.WithShares, analysis.AimDifference, ""},
		{survey.Continuous, analysis.WithMean, analysis.AimDifference, "one-mean"},
		{survey.Continuous, analysis.WithGroups, analysis.AimDifference, "means"},
		{survey.Continuous, analysis.WithAgain, analysis.AimDifference, ""},
	} {
		assert.Equal(t, k.want, proposed(k.kind, k.with, k.aim), "%s with %s, %s", k.kind, k.with, k.aim)
	}
}

// A pattern carries what is plainly the same and nothing of the answers of the question before.
func TestAPatternLeavesNothingBehind(t *testing.T) {
	t.Parallel()
	for settings, want := range map[string]string{
		`{"success":["1"],"claimed":"62 %","direction":"less","role":"null","level":0.01,"source":{"title":"the council","shelf":{"set":3,"version":2}},"looked":["greater"]}`: `{"claimed":"62 %","direction":"less","role":"null","level":0.01,"source":{"title":"the council"}}`,
	} {
		var s analysis.Spec
		require.NoError(t, json.Unmarshal([]byte(`{"method":"one-proportion","version":1,"questions":["q"],"settings":`+settings+`}`), &s))
		raw, err := json.Marshal(s.Pattern())
		require.NoError(t, err)
		assert.JSONEq(t, want, string(raw))
	}
	var s analysis.Spec
	require.NoError(t, json.Unmarshal([]byte(`{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"role":"null","level":0.05,"picture":"ticks","shares":{"scale":"percents","rescale":true,"figures":[{"code":"1","figure":"40"}],"source":{"title":"x","kind":"report"}}}}`), &s))
	raw, err := json.Marshal(s.Pattern())
	require.NoError(t, err)
	assert.JSONEq(t, `{"role":"null","level":0.05,"shares":{"scale":"percents","source":{"title":"x","kind":"report"}}}`, string(raw))
}
