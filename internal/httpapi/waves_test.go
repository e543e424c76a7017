package httpapi

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/report"
	"widetally/internal/reporting"
	"widetally/internal/service"
)

// changedRows are the rows of the tables that say what changed, as text.
func changedRows(t *testing.T, page object) (out []string) {
	t.Helper()
	for _, b := range at(t, page, "made.blocks").([]any) {
		b := b.(object)
		if b["part"] != "changes" || b["table"] == nil {
			continue
		}
		for _, row := range at(t, b, "table.rows").([]any) {
			var cells []string
			for _, cell := range row.([]any) {
				cells = append(cells, cell.(object)["text"].(string))
			}
			out = append(out, strings.Join(cells, "|"))
		}
	}
	return out
}

// All that is asked of one wave goes to the next in one edit, what compares waves stays, and the report says what
// changed, number by number; undo takes it back.
func TestTheNextWave(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("wave,use,tenure\n")
	for w, yes := range []int{50, 60, 75} { // of a hundred in each of three years
		for i := range 100 {
			use := "no"
			if i < yes {
				use = "yes"
			}
			fmt.Fprintf(&file, "%d,%s,%s\n", 2024+w, use, []string{"owns", "rents"}[i%2])
		}
	}
	st := c.begin(file.String())
	ids := map[string]any{}
	for _, name := range []string{"wave", "use", "tenure"} {
		ids[name] = c.question(st, name)["id"]
	}
	ask := func(method string, questions string, settings, more string) any {
		return c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":"%s","questions":[%s],"settings":%s%s}}`, method, questions, settings, more), 201)["analysisId"]
	}
	share := ask("one-proportion", fmt.Sprintf(`"%v"`, ids["use"]), `{"success":["yes"],"claimed":"50 %","direction":"greater","role":"alternative"}`, "")
	rents := c.call("POST", st+"/subgroups", fmt.Sprintf(`{"name":"Renting","condition":{"op":"any_of","question":%v,"answers":[2]}}`, ids["tenure"]), 200)["subgroups"].([]any)[0].(object)["id"]
	ask("frequency", fmt.Sprintf(`"%v"`, ids["use"]), `{}`, fmt.Sprintf(`,"subgroup":"%v"`, rents))
	ask("trend", fmt.Sprintf(`"%v","%v"`, ids["use"], ids["wave"]), `{}`, "")
	for _, path := range []string{fmt.Sprintf("questions/%v", ids["use"]), fmt.Sprintf("analyses/%v", share)} {
		c.call("PUT", st+"/report/"+path, "", 204)
	}
	banner := c.call("POST", st+"/banners", fmt.Sprintf(`{"name":"Tenure","banner":{"breaks":[{},{"questions":["%v"]}]}}`, ids["tenure"]), 200)["saved"]
	over := c.call("POST", st+"/banners", fmt.Sprintf(`{"name":"Waves","banner":{"breaks":[{"questions":["%v"]}]}}`, ids["wave"]), 200)["saved"]
	for title, by := range map[string]any{"By tenure": banner, "By wave": over} {
		c.call("POST", st+"/books", fmt.Sprintf(`{"title":"%s","banner":"%v","choice":{"which":"all"}}`, title, by), 200)
	}

	// It is seen beforehand what goes along; the trend tells which question is that of the waves.
	plan := c.call("GET", st+"/waves", "", 200)
	assert.Equal(t, ids["wave"], plan["question"])
	for member, want := range map[string]any{"from": "", "to": "2026", "compared": "2025", "claims": 1.0, "described": 1.0, "tallies": 1.0, "books": 1.0, "staying": 1.0} {
		assert.Equal(t, want, plan[member], member)
	}
	assert.ElementsMatch(t, []any{"wave: 2026", "Renting, 2026"}, plan["made"])
	for query, code := range map[string]string{"?to=2031": "waves.to", "?from=2031": "waves.from", "?from=2026&to=2026": "waves.same"} {
		assert.Equal(t, code, c.call("GET", st+"/waves"+query, "", 422)["code"])
	}
	c.call("GET", st+"/waves?question=999999", "", 404)
	move := func(from, to string, status int) object {
		return c.call("POST", st+"/waves", fmt.Sprintf(`{"question":%v,"from":"%s","to":"%s"}`, ids["wave"], from, to), status)
	}
	assert.Equal(t, "waves.same", move("2025", "2025", 422)["code"])

	// First to 2025, of which the report says what changed since 2024; then from there to 2026.
	page := move("", "2025", 200)
	assert.Equal(t, object{"question": ids["wave"], "wave": "2025", "since": "2024"}, at(t, page, "report.compared"))
	page = move("2025", "2026", 200)
	assert.Equal(t, object{"question": ids["wave"], "wave": "2026", "since": "2025"}, at(t, page, "report.compared"))
	rows := changedRows(t, page)
	for _, want := range []string{"yes|Count|60|75|+15", "yes|% of answered|60.0|75.0|+15.0", "no|% of answered|40.0|25.0|−15.0", "Total|Count|100|100|0"} {
		assert.Contains(t, rows, want)
	}
	text := strings.Join(rows, "\n")
	assert.Contains(t, text, "What came out||", "of the claim, too")
	assert.Contains(t, text, "p-value, greater||0.0228|2.87", "the facts of the claim")
	assert.NotContains(t, text, "Critical z", "nor what stayed")
	again := c.call("GET", st+"/waves", "", 200)
	assert.Equal(t, []any{"2026", "", 0.0}, []any{again["from"], again["to"], again["claims"]}, "all is about the last one")
	back := c.call("GET", st+"/waves?to=2024", "", 200)
	assert.Equal(t, []any{"2026", 1.0, 1.0, 1.0}, []any{back["from"], back["claims"], back["tallies"], back["books"]})
	changes := fmt.Sprint(at(t, c.call("GET", st+"/claims", "", 200), "claims.0.changes"))
	assert.Contains(t, changes, "whom it is about: “wave: 2025” → “wave: 2026”", "the claim says that it is about others now")
	for _, b := range c.call("GET", st+"/books", "", 200)["books"].([]any) {
		_, moved := b.(object)["book"].(object)["subgroup"]
		assert.Equal(t, at(t, b.(object), "book.title") == "By tenure", moved, "a book whose columns are waves stays")
	}

	// It leaves in every form, as a study file too, and can be left out.
	assert.Contains(t, c.text("GET", st+"/report/file?form=md", ""), "## What changed in 2026 since 2025")
	assert.Contains(t, c.text("GET", st+"/report/file?form=figures", ""), "yes · % of answered,Change")
	other := c.open(c.fileOf(st))
	assert.Equal(t, rows, changedRows(t, c.call("GET", other+"/report", "", 200)))

	// Its recipe tells the same of the file.
	_, content, err := c.run(c.recipeOf(st), []byte(file.String())).Report()
	require.NoError(t, err)
	require.NotNil(t, content.Since)
	assert.Equal(t, []string{"2026", "2025"}, []string{content.Since.Wave, content.Since.Before})
	made, err := reporting.Maker{Words: c.cases.Words(), Methods: c.cases.Methods()}.Make(t.Context(), report.Report{Pieces: []report.Piece{{ID: 1, Question: 1}, {ID: 2, Analysis: 1}}}, content)
	require.NoError(t, err)
	raw, err := json.Marshal(object{"made": made})
	require.NoError(t, err)
	var told object
	require.NoError(t, json.Unmarshal(raw, &told))
	assert.Equal(t, rows, changedRows(t, told))

	// What may not be told of one wave tells nothing of how it changed.
	c.call("PUT", st+"/disclosure", `{"fewest":30}`, 200, "If-Match", `"1"`)
	assert.Contains(t, changedRows(t, c.call("GET", st+"/report", "", 200)), "yes|% of answered|60.0|–|")
	c.step(st, "undo", 200)

	// One step back it speaks of 2025 again, two of all.
	c.step(st, "undo", 200)
	assert.Contains(t, changedRows(t, c.call("GET", st+"/report", "", 200)), "yes|Count|50|60|+10")
	c.step(st, "undo", 200)
	assert.Empty(t, changedRows(t, c.call("GET", st+"/report", "", 200)))
	assert.Contains(t, fmt.Sprint(c.analyses(st, "use")[0]["document"]), "185 of 300")
}
