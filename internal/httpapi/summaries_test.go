package httpapi

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/infer"
	"widetally/internal/service"
)

// Two groups with n, mean and standard deviation become a study: the groups are its respondents,
// whose numbers nobody knows, so that nothing but the means is asked of them. All goes along with
// the study's file and its recipe.
func TestTwoMeansAreKeptInAStudy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	made := c.call("POST", "/analyses/keep", `{"name":"Two means","spec":{"method":"means","version":1,"questions":["q","g"],"settings":{"direction":"different","role":"null","level":0.05}},"counts":{"units":"gardens","questions":[{"key":"q","wording":"","short":"yield","kind":"continuous","summaries":[{"n":40,"mean":10.5,"sd":4},{"n":42,"mean":12.25,"sd":5.5}]},{"key":"g","short":"bed","categories":[{"code":"1","label":"raised"},{"code":"2","label":"flat"}]}]}}`, 201)
	study := fmt.Sprintf("/studies/%v", made["id"])
	for _, study := range []string{study, c.open(c.fileOf(study))} {
		questions := map[string]object{}
		for _, q := range c.call("GET", study+"/topline", "", 200)["questions"].([]any) {
			questions[q.(object)["wording"].(string)] = q.(object)
		}
		bed, yield := questions["bed"], questions["yield"]
		require.NotNil(t, yield, questions)
		assert.EqualValues(t, 82, bed["everyone"])
		assert.Equal(t, []any{object{"label": "raised", "n": 40.0, "mean": 10.5, "sd": 4.0}, object{"label": "flat", "n": 42.0, "mean": 12.25, "sd": 5.5}}, yield["summaries"])
		assert.Equal(t, []any{"means"}, yield["asks"])
		assert.Empty(t, yield["derivable"])
		assert.Empty(t, yield["notes"])
		for _, q := range c.call("GET", study+"/check", "", 200)["questions"].([]any) {
			if q.(object)["kind"] == "summarised" {
				assert.Empty(t, q.(object)["suspicions"], "that nobody's number is known is no suspicion")
			}
		}
		// t = −1.75 ÷ √(16/40 + 30.25/42) = −1.65342
		assert.Contains(t, fmt.Sprint(at(t, yield, "analyses.0.document")), "−1.653")
		run := c.run(c.recipeOf(study), []byte("bed,count\nraised,40\nflat,42\n"))
		require.Len(t, run.Results, 1)
		require.Empty(t, run.Results[0].Problems)
		assert.InDelta(t, -1.6534188, run.Results[0].Outcome.Result.(*infer.Means).Student.Statistic, 1e-6)

		add := func(more string) string {
			return fmt.Sprintf(`{"wording":"x","derivation":{"rule":"summaries","sources":[%v],"summaries":[%s]}}`, bed["id"], more)
		}
		for more, code := range map[string]string{
			`{"answer":1,"n":400,"mean":1,"sd":1}`:                                  "derivation.summaries_n",
			`{"answer":1,"n":4,"mean":1,"sd":1},{"answer":1,"n":4,"mean":1,"sd":1}`: "derivation.summaries",
			`{"answer":0,"n":4,"mean":1,"sd":1}`:                                    "derivation.summaries",
			`{"answer":1,"n":4,"mean":1,"sd":-1}`:                                   "derivation.summaries",
			``:                                                                      "derivation.summaries",
		} {
			assert.Equal(t, code, c.call("POST", study+"/questions", add(more), 422)["code"], more)
		}
		assert.Equal(t, "question.kind_unknown", c.call("PATCH", fmt.Sprintf("%s/questions/%v", study, bed["id"]), `{"kind":"summarised"}`, 422, "If-Match", fmt.Sprintf(`"%v"`, bed["version"]))["code"])
		// Among some of the respondents nothing is known.
		group := at(t, c.call("POST", study+"/subgroups", fmt.Sprintf(`{"name":"raised","condition":{"op":"any_of","question":%v,"answers":[1]}}`, bed["id"]), 200), "subgroups.0").(object)
		refused := c.call("POST", study+"/analyses", fmt.Sprintf(`{"spec":{"method":"means","version":1,"questions":["%v","%v"],"subgroup":"%v","settings":{"direction":"different","role":"null","level":0.05}},"run":true}`, yield["id"], bed["id"], group["id"]), 422)
		assert.Equal(t, "spec.respondents", refused["code"])
	}
}
