package methods_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/methods"
	"widetally/core/survey"
)

// The design settles the method: the same people are never tested as different ones, a choose-all
// question never by the table of separate people, and an order is used where there is one.
func TestTheDesignProposesTheMethod(t *testing.T) {
	t.Parallel()
	answers := []survey.Answer{{Slot: 1, Code: "1"}, {Slot: 2, Code: "2"}, {Slot: 3, Code: "3"}}
	proposed := func(kind survey.Kind, with methods.With, aim methods.Aim) string {
		q := survey.Question{Kind: kind, Answers: answers}
		if kind.Numeric() {
			q.Answers = nil
		}
		for _, p := range methods.Proposed(registry.AskedOf(0, q)) {
			if p.With == with && p.Aim == aim {
				return p.Method
			}
		}
		return ""
	}
	for _, k := range []struct {
		kind survey.Kind
		with methods.With
		aim  methods.Aim
		want string
	}{
		{survey.Single, methods.WithShares, methods.AimDifference, "goodness-of-fit"},
		{survey.Single, methods.WithShares, methods.AimAgreement, "equivalence/distribution"},
		{survey.Single, methods.WithShare, methods.AimDifference, "one-proportion"},
		{survey.Single, methods.WithShare, methods.AimAgreement, "equivalence/share"},
		{survey.Single, methods.WithSample, methods.AimDifference, "homogeneity"},
		{survey.Single, methods.WithSample, methods.AimAgreement, ""},
		{survey.Single, methods.WithGroups, methods.AimDifference, "two-proportions"},
		{survey.Single, methods.WithGroups, methods.AimAgreement, "equivalence/two-shares"},
		{survey.Single, methods.WithQuestion, methods.AimDifference, "crosstab"},
		{survey.Ordered, methods.WithQuestion, methods.AimDifference, "ordered"},
		{survey.Single, methods.WithAgain, methods.AimDifference, "paired"},
		{survey.ChooseAll, methods.WithItself, methods.AimDifference, "cochran-q"},
		{survey.ChooseAll, methods.WithQuestion, methods.AimDifference, ""},
		{survey.ChooseAll, methods.WithShares, methods.AimDifference, ""},
		{survey.Continuous, methods.WithMean, methods.AimDifference, "one-mean"},
		{survey.Continuous, methods.WithGroups, methods.AimDifference, "means"},
		{survey.Continuous, methods.WithAgain, methods.AimDifference, ""},
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
		s, err := registry.Spec([]byte(`{"method":"one-proportion","version":1,"questions":["q"],"settings":` + settings + `}`))
		require.NoError(t, err)
		raw, err := json.Marshal(s.Pattern())
		require.NoError(t, err)
		assert.JSONEq(t, want, string(raw))
	}
	s, err := registry.Spec([]byte(`{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"role":"null","level":0.05,"picture":"ticks","shares":{"scale":"percents","rescale":true,"figures":[{"code":"1","figure":"40"}],"source":{"title":"x","kind":"report"}}}}`))
	require.NoError(t, err)
	raw, err := json.Marshal(s.Pattern())
	require.NoError(t, err)
	assert.JSONEq(t, `{"role":"null","level":0.05,"shares":{"scale":"percents","source":{"title":"x","kind":"report"}}}`, string(raw))
}
