package httpapi

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

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
	assert.Equal(t, "ordered_groups.order", problem("ordered", key("mood")+","+key("half"), `{"form":"trend","role":"null","level":0.05,"reading":"row"}`))
	assert.Equal(t, "ordered_groups.form", problem("ordered", key("mood")+","+key("wave"), `{"form":"","role":"null","level":0.05,"reading":"row"}`))
	assert.Equal(t, "claim.kind", problem("means", key("number")+","+key("wave"), `{"direction":"less","role":"null","level":0.05}`))
	assert.Equal(t, "share.direction", problem("means", key("number")+","+key("half"), `{"direction":"","role":"null","level":0.05}`))
	assert.Equal(t, "claim.kind", problem("cochran-q", key("mood"), `{"role":"null","level":0.05}`))
}
