package i18n

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/methods"
	"widetally/core/survey"
)

// spoken are the notes that stand in the margin of a spec on typed counts, by their rules.
func spoken(t *testing.T, method, settings string, weights string, from analysis.Typed, questions ...string) map[string]document.Note {
	t.Helper()
	_, o := outcomeOf(t, method, settings, from, questions...)
	require.NoError(t, o.Refusal)
	out := map[string]document.Note{}
	for _, n := range o.Document(claim.About{Units: document.Text("homes"), Weights: weights}).Notes {
		out[strings.TrimPrefix(n.ID, "note.")] = n
	}
	return out
}

// outcomeOf runs a spec on typed counts.
func outcomeOf(t *testing.T, method, settings string, from analysis.Typed, questions ...string) (analysis.Spec, *analysis.Outcome) {
	t.Helper()
	keys, err := json.Marshal(questions)
	require.NoError(t, err)
	s, err := methods.All().Spec(fmt.Appendf(nil, `{"method":%q,"version":1,"questions":%s,"settings":%s}`, method, keys, settings))
	require.NoError(t, err)
	counted, err := analysis.Count(t.Context(), s, from)
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 10_000, Replicates: 500}, s, counted)
	require.NoError(t, err)
	return s, o
}

func one(kind survey.Kind, counts ...int64) analysis.Typed {
	q := analysis.TypedQuestion{Key: "q", Kind: kind, Counts: counts}
	for i := range counts {
		q.Categories = append(q.Categories, analysis.TypedCategory{Code: fmt.Sprint(i + 1)})
	}
	return analysis.Typed{Questions: []analysis.TypedQuestion{q}}
}

// numbered is a question with these codes, each chosen by some.
func numbered(codes ...int) analysis.Typed {
	q := analysis.TypedQuestion{Key: "q"}
	for _, code := range codes {
		q.Categories, q.Counts = append(q.Categories, analysis.TypedCategory{Code: fmt.Sprint(code)}), append(q.Counts, int64(20+code))
	}
	return analysis.Typed{Questions: []analysis.TypedQuestion{q}}
}

func numbersOf(values ...float64) analysis.Typed {
	return analysis.Typed{Questions: []analysis.TypedQuestion{{Key: "q", Kind: survey.Discrete, Values: values}}}
}

// two are questions with the same answers where same is set, with these wordings.
func two(same bool, kind survey.Kind, first, second string, table [][]int64) analysis.Typed {
	side := func(key analysis.Key, n int, wording, prefix string) analysis.TypedQuestion {
		q := analysis.TypedQuestion{Key: key, Kind: kind, Wording: &wording}
		for i := range n {
			q.Categories = append(q.Categories, analysis.TypedCategory{Code: fmt.Sprint(prefix, i+1)})
		}
		return q
	}
	prefix := ""
	if !same {
		prefix = "g"
	}
	return analysis.Typed{Questions: []analysis.TypedQuestion{side("q", len(table[0]), first, ""), side("g", len(table), second, prefix)}, Crosstabs: []analysis.TypedCrosstab{{Rows: "g", Columns: "q", Counts: [][][]int64{table}}}}
}

// Each rule of the margin speaks where its slip is, and stays quiet on the harmless twin; a
// remedy opens the method that serves.
func TestRulesOfTheMargin(t *testing.T) {
	t.Parallel()
	shares := func(scale, kind string, figures ...string) string {
		var list []string
		for i, f := range figures {
			list = append(list, fmt.Sprintf(`{"code":"%d","figure":%q}`, i+1, f))
		}
		return fmt.Sprintf(`{"role":"null","level":0.05,"shares":{"scale":%q,"rescale":true,"figures":[%s],"source":{"kind":%q,"title":"x"}}}`, scale, strings.Join(list, ","), kind)
	}
	share := func(direction, claimed, more string) string {
		return fmt.Sprintf(`{"success":["1"],"claimed":%q,"direction":%q,"role":"null","level":0.05%s}`, claimed, direction, more)
	}
	const table, groups = `{"reading":"row","test":{"role":"alternative","level":0.05}}`, `{"success":["1"],"groups":{"first":"g1","second":"g2"},"direction":"different","role":"null","level":0.05}`
	type said struct {
		method, settings, weights string
		from                      analysis.Typed
	}
	q := []string{"q"}
	both := []string{"q", "g"}
	big, small := [][]int64{{60, 40}, {35, 65}}, [][]int64{{6, 2}, {1, 7}}
	scattered := [][]int64{ // 49 degrees of freedom for 30 respondents
		{0, 1, 0, 1, 0, 0, 0, 1}, {1, 0, 0, 0, 0, 1, 0, 0}, {0, 3, 2, 0, 0, 0, 1, 0}, {0, 1, 1, 1, 0, 0, 0, 0},
		{0, 0, 0, 0, 2, 0, 0, 0}, {2, 0, 1, 0, 0, 0, 1, 0}, {0, 0, 0, 1, 0, 1, 2, 0}, {0, 0, 0, 0, 1, 0, 2, 3},
	}
	for _, k := range []struct {
		rule, remedy string
		questions    []string
		speaks, not  said
	}{
		{"shares.rescaled", "", q, said{"goodness-of-fit", shares("percents", "register", "40", "50"), "", one("", 40, 60)}, said{"goodness-of-fit", shares("percents", "register", "40", "60"), "", one("", 40, 60)}},
		{"shares.placed", "", q, said{"goodness-of-fit", strings.Replace(shares("percents", "register", "40", "60"), `"rescale"`, `"placed":true,"rescale"`, 1), "", one("", 40, 60)}, said{"goodness-of-fit", shares("percents", "register", "40", "60"), "", one("", 40, 60)}},
		{"shares.placed_turned", "", q, said{"goodness-of-fit", strings.Replace(shares("percents", "register", "70", "20", "10"), `"rescale"`, `"placed":true,"rescale"`, 1), "", one("", 12, 18, 70)}, said{"goodness-of-fit", strings.Replace(shares("percents", "register", "10", "20", "70"), `"rescale"`, `"placed":true,"rescale"`, 1), "", one("", 12, 18, 70)}},
		{"shares.gap", "", q, said{"goodness-of-fit", shares("equal", "theory"), "", numbered(1, 2, 4, 5)}, said{"goodness-of-fit", shares("equal", "theory"), "", numbered(1, 2, 3, 4)}},
		{"reference.sample", "homogeneity", q, said{"goodness-of-fit", shares("counts", "survey", "40", "50"), "", one("", 40, 60)}, said{"goodness-of-fit", shares("percents", "register", "40", "60"), "", one("", 40, 60)}},
		{"reference.survey", "", q, said{"goodness-of-fit", shares("percents", "survey", "40", "60"), "", one("", 40, 60)}, said{"goodness-of-fit", shares("percents", "target", "40", "60"), "", one("", 40, 60)}},
		{"conditions.poor", "", q, said{"goodness-of-fit", shares("percents", "register", "2", "48", "50"), "", one("", 2, 18, 15)}, said{"goodness-of-fit", shares("percents", "register", "20", "40", "40"), "", one("", 20, 30, 40)}},
		{"goodness_of_fit.size.tiny", "", q, said{"goodness-of-fit", shares("percents", "register", "50", "50"), "", one("", 50_600, 49_400)}, said{"goodness-of-fit", shares("percents", "register", "50", "50"), "", one("", 70, 30)}},
		{"goodness_of_fit.size.chance", "", q, said{"goodness-of-fit", shares("equal", "theory"), "", one("", slices.Repeat([]int64{0, 1, 5}, 20)...)}, said{"goodness-of-fit", shares("percents", "register", "50", "50"), "", one("", 70, 30)}},
		{"crosstab.size.chance", "", both, said{"crosstab", table, "", two(false, "", "a", "b", scattered)}, said{"crosstab", table, "", two(false, "", "a", "b", big)}},
		{"goodness_of_fit.not_proving.medium", "equivalence/distribution", q, said{"goodness-of-fit", shares("percents", "register", "50", "50"), "", one("", 26, 24)}, said{"goodness-of-fit", shares("percents", "register", "50", "50"), "", one("", 40, 10)}},
		{"one_proportion.not_proving", "equivalence/share", q, said{"one-proportion", share("different", "50 %", ""), "", one("", 52, 48)}, said{"one-proportion", share("different", "50 %", ""), "", one("", 90, 10)}},
		{"one_proportion.looked", "", q, said{"one-proportion", share("less", "50 %", `,"looked":["greater"]`), "", one("", 52, 48)}, said{"one-proportion", share("less", "50 %", ""), "", one("", 52, 48)}},
		{"one_proportion.poor", "", q, said{"one-proportion", share("less", "2 %", ""), "", one("", 1, 90)}, said{"one-proportion", share("less", "20 %", ""), "", one("", 21, 90)}},
		{"one_proportion.two_sided", "", q, said{"one-proportion", share("less", "50 %", ""), "", one("", 52, 48)}, said{"one-proportion", share("different", "50 %", ""), "", one("", 52, 48)}},
		{"conditions.unweighted", "", q, said{"one-proportion", share("less", "50 %", ""), "w", one("", 52, 48)}, said{"one-proportion", share("less", "50 %", ""), "", one("", 52, 48)}},
		{"crosstab.same_answers", "paired", both, said{"crosstab", table, "", two(true, "", "Did you use the caddy before?", "Do you use the caddy now?", big)}, said{"crosstab", table, "", two(true, "", "Is there a garden?", "Do you take glass away?", big)}},
		{"crosstab.ordered", "ordered", both, said{"crosstab", table, "", two(false, survey.Ordered, "a", "b", [][]int64{{20, 30, 40}, {40, 30, 20}})}, said{"crosstab", table, "", two(false, "", "a", "b", [][]int64{{20, 30, 40}, {40, 30, 20}})}},
		{"crosstab.poor", "", both, said{"crosstab", table, "", two(false, "", "a", "b", small)}, said{"crosstab", table, "", two(false, "", "a", "b", big)}},
		{"crosstab.few", "", both, said{"crosstab", table, "", two(false, "", "a", "b", small)}, said{"crosstab", table, "", two(false, "", "a", "b", big)}},
		{"crosstab.not_cause", "", both, said{"crosstab", table, "", two(false, "", "a", "b", big)}, said{"crosstab", table, "", two(false, "", "a", "b", [][]int64{{50, 50}, {51, 49}})}},
		{"crosstab.read_row", "", both, said{"crosstab", table, "", two(false, "", "a", "b", big)}, said{"crosstab", strings.Replace(table, "row", "column", 1), "", two(false, "", "a", "b", big)}},
		{"two_proportions.poor", "", both, said{"two-proportions", groups, "", two(false, "", "a", "b", small)}, said{"two-proportions", groups, "", two(false, "", "a", "b", big)}},
		{"two_proportions.detectable", "", both, said{"two-proportions", groups, "", two(false, "", "a", "b", [][]int64{{50, 50}, {51, 49}})}, said{"two-proportions", groups, "", two(false, "", "a", "b", big)}},
		{"two_proportions.others", "", both, said{"two-proportions", groups, "", two(false, "", "a", "b", [][]int64{{50, 50}, {51, 49}, {9, 9}})}, said{"two-proportions", groups, "", two(false, "", "a", "b", big)}},
		{"equivalence.not_shown", "", q, said{"equivalence/share", `{"success":["1"],"expected":"50 %","margin":"3","role":"alternative"}`, "", one("", 52, 48)}, said{"equivalence/share", `{"success":["1"],"expected":"50 %","margin":"20","role":"alternative"}`, "", one("", 52, 48)}},
		{"equivalence.outside", "", q, said{"equivalence/share", `{"success":["1"],"expected":"50 %","margin":"3","role":"alternative"}`, "", one("", 70, 30)}, said{"equivalence/share", `{"success":["1"],"expected":"50 %","margin":"3","role":"alternative"}`, "", one("", 52, 48)}},
		{"homogeneity.differ", "", q, said{"homogeneity", shares("counts", "survey", "50", "50"), "", one("", 570, 430)}, said{"homogeneity", shares("counts", "survey", "500", "500"), "", one("", 570, 430)}},
		{"numeric_summary.codes", "", q, said{"numeric-summary", `{"picture":"histogram","height":"count","parts":4}`, "", numbersOf(1, 2, 3, 4, 5, 4)}, said{"numeric-summary", `{"picture":"histogram","height":"count","parts":4}`, "", numbersOf(0, 1, 2, 3, 7)}},
		{"means.few_known", "", q, said{"one-mean", `{"claimed":2,"direction":"less","role":"null"}`, "", numbersOf(1, 2, 4)}, said{"one-mean", `{"claimed":2,"direction":"less","role":"null"}`, "", numbersOf(slices.Repeat([]float64{1, 2, 4}, 20)...)}},
	} {
		t.Run(k.rule, func(t *testing.T) {
			note, speaks := spoken(t, k.speaks.method, k.speaks.settings, k.speaks.weights, k.speaks.from, k.questions...)[k.rule]
			assert.True(t, speaks, "it does not speak")
			_, speaks = spoken(t, k.not.method, k.not.settings, k.not.weights, k.not.from, k.questions...)[k.rule]
			assert.False(t, speaks, "it speaks on the harmless twin")
			if k.remedy == "" {
				return
			}
			require.NotNil(t, note.Remedy)
			require.NotNil(t, note.Remedy.Ask)
			assert.Equal(t, k.remedy, note.Remedy.Ask.Method)
			// What is filled in already is settings of that method.
			m, _ := methods.All().Find(k.remedy)
			raw := note.Remedy.Ask.Settings
			d := json.NewDecoder(strings.NewReader(string(raw)))
			d.DisallowUnknownFields()
			assert.NoError(t, d.Decode(m.Asked.New()), string(raw))
		})
	}
}
