package httpapi

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// kinds is a study of which each kind of claim can be made: 65 respondents in three waves with a
// mood from 1 to 3, of whom the first 20 are in one of two halves with a number, and a set of
// two reasons of which 45 chose both, 17 the first and 3 the second alone.
func kinds() string {
	var b strings.Builder
	b.WriteString("wave,mood,half,number,reasons\n")
	moods := []string{strings.Repeat("1", 6) + strings.Repeat("2", 8) + strings.Repeat("3", 6), strings.Repeat("1", 3) + strings.Repeat("2", 7) + strings.Repeat("3", 15), strings.Repeat("1", 10) + strings.Repeat("2", 6) + strings.Repeat("3", 4)}
	i := 0
	for wave, list := range moods {
		for _, mood := range list {
			half, number, reasons := "", "", "smell;time"
			switch {
			case i < 10:
				half, number = "first", fmt.Sprintf("%d.0", 4+i%5)
			case i < 20:
				half, number = "second", fmt.Sprintf("%d.0", 6+2*(i%5))
			}
			switch {
			case i < 17:
				reasons = "smell"
			case i < 20:
				reasons = "time"
			}
			fmt.Fprintf(&b, "%d,%c,%s,%s,%s\n", wave, mood, half, number, reasons)
			i++
		}
	}
	return b.String()
}

// Each kind of claim, from the answers to its finding: the sentence, and a figure that was
// computed independently from its formula.
func TestClaimsOfEveryKind(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(kinds())
	key := func(name string) string { return fmt.Sprintf(`"%v"`, c.question(st, name)["id"]) }
	for name, kind := range map[string]string{"mood": "ordered", "wave": "ordered", "number": "continuous"} {
		q := c.question(st, name)
		if q["kind"] != kind {
			c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), fmt.Sprintf(`{"kind":%q}`, kind), 200, "If-Match", fmt.Sprintf(`"%v"`, q["version"]))
		}
	}
	set := c.call("POST", st+"/questions", fmt.Sprintf(`{"wording":"Which reasons?","derivation":{"rule":"parts","sources":[%v],"separator":";"}}`, c.question(st, "reasons")["id"]), 201)
	for _, k := range []struct{ method, questions, settings, fact, value, sentence string }{
		// Welch: (6 − 10) ÷ √(2.2222 ÷ 10 + 8.8889 ÷ 10) = −3.795 with 13.2 degrees of freedom.
		{"means", key("number") + "," + key("half"), `{"direction":"different","role":"null","level":0.05}`, "statistic", "t = −3.795 (Welch)", "there is evidence that the mean of “number” among the households with “first” differs from the mean among those with “second”"},
		{"means", key("number") + "," + key("half"), `{"direction":"less","role":"alternative","level":0.05}`, "p", "0.0011", "the evidence supports the claim that the mean of “number” is lower among the households with “first” than among those with “second”"},
		{"means", key("number") + "," + key("half"), `{"direction":"greater","role":"null","level":0.05}`, "df", "13.2", "Not enough evidence, at the 5\u00a0% level, to reject the claim that the mean of “number” is at most as high"},
		// Mean ranks 30.9, 41.4 and 24.6: H = 10.319 with the ties; e^(−H/2) = 0.0057.
		{"ordered", key("mood") + "," + key("wave"), `{"form":"shift","role":"null","level":0.01,"reading":"row"}`, "statistic", "H = 10.319", "there is evidence that the answers to “mood” stand higher in some groups of “wave” than in others"},
		{"ordered", key("mood") + "," + key("wave"), `{"form":"trend","role":"alternative","level":0.05,"reading":"row"}`, "correlation", "−0.144", "Not enough evidence, at the 5\u00a0% level, to support the claim that “mood” rises or falls with “wave”"},
		// 6 of 20 against 10 of 20: z = −0.2 ÷ √(0.4 × 0.6 × 0.1) = −1.291; the smaller tail 0.0984.
		{"two-proportions", key("mood") + "," + key("wave"), `{"success":["1"],"groups":{"first":"0","second":"2"},"direction":"less","role":"alternative","level":0.05}`, "statistic", "−1.291", "Not enough evidence, at the 5\u00a0% level, to support the claim that the share answering “1” (“mood”) is lower among the households with “0” than among those with “2”"},
		{"two-proportions", key("mood") + "," + key("wave"), `{"success":["3"],"groups":{"first":"1","second":"2"},"direction":"different","role":"null","level":0.05}`, "difference", "+40.0 (95\u00a0%: +11.1 to +60.4)", "there is evidence that the share answering “3” (“mood”) among the households with “1” differs from the share among those with “2”"},
		// 8 with a variance of 9.4737: t = (8 − 7) ÷ (3.0779 ÷ √20) = 1.453.
		{"one-mean", key("number"), `{"claimed":"7,0","direction":"greater","role":"null","level":0.05,"source":{}}`, "statistic", "t = 1.453", "Not enough evidence, at the 5\u00a0% level, to reject the claim that the mean of “number” among the households is 7 or less"},
		// With σ = 2: z = 1 ÷ (2 ÷ √20) = 2.236, twice 0.01267.
		{"one-mean", key("number"), `{"claimed":7,"sigma":2,"direction":"different","role":"alternative","level":0.05,"source":{}}`, "p", "0.0253", "the evidence supports the claim that the mean of “number” among the households is not 7"},
		// 19 of 65 by 30 %: at 20 % z = 6 ÷ √10.4 = 1.861, at 40 % z = −7 ÷ √15.6 = −1.772, of which the p is 0.0382.
		{"equivalence/share", key("mood"), `{"success":["1"],"expected":"30 %","margin":"10","role":"alternative","level":0.05,"source":{}}`, "p", "0.0382", "the evidence supports the claim that the share of households answering “1” (“mood”) lies less than 10 percentage points from 30\u00a0%"},
		{"equivalence/two-shares", key("mood") + "," + key("wave"), `{"success":["2"],"groups":{"first":"0","second":"2"},"margin":"0.5 %","role":"null","level":0.05}`, "difference", "+10.0 (90\u00a0%: −14.7 to +33.6)", "Not enough evidence, at the 5\u00a0% level, to reject the claim that the shares answering “2” (“mood”) lie 0.5 or more percentage points apart"},
		// 19, 21 and 25 of 65 by a third each: the furthest is 25, at the upper edge z = (25 − 65 × 0.5333) ÷ √(65 × 0.5333 × 0.4667) = −2.403.
		{"equivalence/distribution", key("mood"), `{"shares":{"scale":"equal","source":{}},"margin":"20","role":"alternative","level":0.05}`, "p", "0.0081", "the evidence supports the claim that each share of the answers to “mood” lies less than 20 percentage points from its expected share"},
		// 19, 21, 25 against 40, 15, 10: χ² = (19 − 40)²/59 + (21 − 15)²/36 + (25 − 10)²/35, the margins being equal.
		{"homogeneity", key("mood"), `{"shares":{"scale":"counts","figures":[{"code":"1","figure":"40"},{"code":"2","figure":"15"},{"code":"3","figure":"10"}],"source":{"kind":"survey","title":"last year’s survey"}},"role":"null","level":0.01}`, "statistic", "χ² = 14.903", "there is evidence that the answers to “mood” differ between here and last year’s survey"},
		// (17 − 3)² ÷ (17 + 3) = 9.8, McNemar's for two answers.
		{"cochran-q", fmt.Sprintf(`"%v"`, set["id"]), `{"role":"alternative","level":0.05}`, "statistic", "Q = 9.800", "the evidence supports the claim that some answers to “Which reasons?” are chosen more often than others"},
	} {
		t.Run(k.method+" "+k.value, func(t *testing.T) {
			c.t = t
			made := c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":%q,"version":1,"questions":[%s],"settings":%s}}`, k.method, k.questions, k.settings), 201)
			list := at(t, made, "question.analyses").([]any)
			facts, said := map[string]string{}, ""
			for _, b := range at(t, list[len(list)-1], "document.blocks").([]any) {
				for _, f := range b.(object)["facts"].([]any) {
					facts[f.(object)["key"].(string)] = f.(object)["value"].(string)
				}
				if lines := b.(object)["lines"].([]any); b.(object)["kind"] == "sentence" && said == "" {
					said = lines[0].(string)
				}
			}
			assert.Equal(t, k.value, facts[k.fact])
			assert.Contains(t, said, k.sentence)
		})
	}
	c.t = t
	// The register holds all of them; adjusted for being many, after tests were run, it says so.
	// The smallest p, e^(−14.903/2) = 5.81 × 10⁻⁴, is multiplied by their number.
	c.call("PUT", st+"/claims/adjustment", `{"adjustment":"sidak"}`, 422)
	c.call("PUT", st+"/claims/adjustment", `{"adjustment":"holm"}`, 204)
	register := c.call("GET", st+"/claims", "", 200)
	assert.Equal(t, true, register["afterwards"])
	claims := register["claims"].([]any)
	require.Len(t, claims, 14)
	states := map[any]int{}
	for _, one := range claims {
		states[one.(object)["state"]]++
		if one.(object)["method"] == "homogeneity" {
			assert.Equal(t, []any{"5.81 × 10⁻⁴", "0.0081", "rejected"}, []any{at(t, one, "outcome.p"), one.(object)["adjusted"], one.(object)["adjustedState"]})
		}
	}
	assert.Equal(t, map[any]int{"rejected": 9, "kept": 5}, states)
	c.call("PUT", st+"/claims/adjustment", `{"adjustment":"none"}`, 204)
	assert.Equal(t, "", at(t, c.call("GET", st+"/claims", "", 200), "claims.0.adjusted"))
	// A write-up in each style, with its base and where the figures come from.
	for _, a := range at(t, c.call("GET", st+"/questions?ids="+strings.Trim(key("mood"), `"`), "", 200), "questions.0.analyses").([]any) {
		if at(t, a, "spec.method") != "homogeneity" {
			continue
		}
		blocks := at(t, a, "document.blocks").([]any)
		styles := at(t, blocks[len(blocks)-1], "styles")
		assert.Contains(t, fmt.Sprint(at(t, styles, "plain")), "χ²(2, n = 65 and 65) = 14.903, p < 0.001")
		assert.Contains(t, fmt.Sprint(at(t, styles, "journal")), "χ²(2, n = 65 and 65) = 14.90, p < .001")
		assert.Contains(t, fmt.Sprint(at(t, styles, "journal")), "Compared with: last year’s survey.")
		assert.Regexp(t, `represent \(p < 0\.001\)\.\]$`, fmt.Sprint(at(t, styles, "minimal")))
	}
	// A note that was answered stays quiet with its reason, until it is to speak again.
	first := claims[0].(object)
	answer := func(body string, status int) map[string]any {
		return c.call("PUT", fmt.Sprintf("%s/analyses/%v/notes", st, first["id"]), body, status)
	}
	notes := func(q map[string]any) map[string]any {
		out := map[string]any{}
		for _, a := range q["analyses"].([]any) {
			if a.(object)["id"] == first["id"] {
				for _, n := range at(t, a, "document.notes").([]any) {
					out[n.(object)["id"].(string)] = n.(object)["seen"]
				}
			}
		}
		return out
	}
	seen := notes(answer(`{"id":"note.means.few_known","seen":true,"reason":"they are nearly normal"}`, 200))
	assert.Equal(t, "they are nearly normal", seen["note.means.few_known"])
	assert.Nil(t, seen["note.numeric_summary.box"])
	assert.Nil(t, notes(answer(`{"id":"note.means.few_known","seen":false}`, 200))["note.means.few_known"])
	assert.Equal(t, "note.rule", answer(`{"id":"<script>","seen":true}`, 422)["code"])
	answer(`{"id":"note.x","seen":true,"reason":"`+strings.Repeat("x", 301)+`"}`, 422)
	// An address may ask for another look at a claim, and for nothing of what it claims.
	page := c.call("GET", st+"/questions?ids="+strings.Trim(key("mood"), `"`), "", 200)
	claim := at(t, page, "questions.0.analyses.0").(object)
	change := func(body string, status int) map[string]any {
		return c.call("PATCH", fmt.Sprintf("%s/analyses/%v", st, claim["id"]), body, status, "If-Match", fmt.Sprintf(`"%v"`, claim["version"]))
	}
	assert.Equal(t, "spec.no_look", change(`{"change":{"level":0.5},"look":true}`, 422)["code"])
	assert.Equal(t, "spec.no_look", change(`{"change":{"reading":"column","role":"alternative"},"look":true}`, 422)["code"])
	change(`{"change":{"reading":"column"},"look":true}`, 200)
	// Nothing rises or falls with answers that have no order, and three groups have no two means.
	problem := func(method, questions, settings string) any {
		return at(t, c.call("POST", st+"/analyses/check", fmt.Sprintf(`{"spec":{"method":%q,"version":1,"questions":[%s],"settings":%s}}`, method, questions, settings), 200), "problems.0.code")
	}
	assert.Equal(t, "ordered.order", problem("ordered", key("mood")+","+key("half"), `{"form":"trend","role":"null","level":0.05,"reading":"row"}`))
	assert.Equal(t, "ordered.form", problem("ordered", key("mood")+","+key("wave"), `{"form":"","role":"null","level":0.05,"reading":"row"}`))
	assert.Equal(t, "claim.kind", problem("means", key("number")+","+key("wave"), `{"direction":"less","role":"null","level":0.05}`))
	assert.Equal(t, "share.direction", problem("means", key("number")+","+key("half"), `{"direction":"","role":"null","level":0.05}`))
	assert.Equal(t, "groups.same", problem("two-proportions", key("mood")+","+key("wave"), `{"success":["1"],"groups":{"first":"0","second":"0"},"direction":"less","role":"null","level":0.05}`))
	assert.Equal(t, "margin.below_one", problem("equivalence/share", key("mood"), `{"success":["1"],"expected":"30 %","margin":"0.5","role":"null","level":0.05,"source":{}}`))
	assert.Equal(t, "homogeneity.whole", problem("homogeneity", key("mood"), `{"shares":{"scale":"counts","figures":[{"code":"1","figure":"4.5"},{"code":"2","figure":"1"},{"code":"3","figure":"1"}],"source":{"kind":"survey","title":"x"}},"role":"null","level":0.05}`))
	assert.Equal(t, "mean.empty", problem("one-mean", key("number"), `{"direction":"less","role":"null","level":0.05,"source":{}}`))
	assert.Equal(t, "claim.kind", problem("cochran-q", key("mood"), `{"role":"null","level":0.05}`))
}

// A claim that has no result says why in the question's own words, is kept as it was stated, and
// shows no figure.
func TestClaimsWithoutAResult(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,caddy,bin,years,garden,yard\nHarbour,yes,,4,yes,yes\nHarbour,yes,,4,yes,yes\nFenside,yes,,4,no,no\nFenside,yes,,4,no,no\n")
	key := func(name string) string { return fmt.Sprintf(`"%v"`, c.question(st, name)["id"]) }
	for name, kind := range map[string]string{"years": "continuous", "bin": "single"} {
		if q := c.question(st, name); q["kind"] != kind {
			c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), fmt.Sprintf(`{"kind":%q}`, kind), 200, "If-Match", fmt.Sprintf(`"%v"`, q["version"]))
		}
	}
	for _, k := range []struct{ method, questions, settings, says string }{
		{"one-mean", key("years"), `{"claimed":3,"direction":"different","role":"null","level":0.05,"source":{}}`, "Nothing varies in what is compared"},
		{"crosstab", key("caddy") + "," + key("ward"), `{"reading":"row","test":{"role":"null","level":0.05}}`, "Fewer than two rows or two columns hold anybody"},
		{"means", key("years") + "," + key("ward"), `{"direction":"different","role":"null","level":0.05}`, "Nothing varies in what is compared"},
		{"paired", key("garden") + "," + key("yard"), `{"role":"null","level":0.05}`, "Nobody gave another answer the second time"},
		{"goodness-of-fit", key("ward"), `{"shares":{"scale":"percents","figures":[{"code":"Harbour","figure":"100"},{"code":"Fenside","figure":"0"}],"source":{"kind":"theory","title":"all in one"}},"role":"null","level":0.05}`, "“Fenside”"},
		{"mantel-haenszel", key("garden") + "," + key("yard") + "," + key("ward"), `{"reading":"row","test":{"role":"null","level":0.05}}`, "Nothing varies in what is compared"},
	} {
		t.Run(k.method, func(t *testing.T) {
			c.t = t
			made := c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":%q,"version":1,"questions":[%s],"settings":%s}}`, k.method, k.questions, k.settings), 201)
			list := at(t, made, "question.analyses").([]any)
			a := list[len(list)-1].(object)
			assert.Contains(t, fmt.Sprint(a["problems"]), k.says)
			assert.Nil(t, a["document"])
			assert.NotEmpty(t, a["statement"])
		})
	}
	c.t = t
	register := c.call("GET", st+"/claims", "", 200)
	for _, one := range register["claims"].([]any) {
		assert.NotContains(t, []any{"rejected", "not_rejected"}, one.(object)["state"], "there is no decision without a result")
	}
}
