package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const caddies = `format: widetally/recipe
version: 1
study: {name: Caddies, units: households, decimals: 1}
questions:
  - name: ward
    kind: single
    answers: [{code: Harbour}, {code: Fenside}]
  - name: use
    wording: Does your household use the food caddy?
    short: caddy use
    kind: single
    answers: [{code: "1", label: "Yes"}, {code: "2", label: "No"}, {code: "9", label: Refused, missing: refused}]
subgroups:
  - name: Harbour people
    condition: {op: any_of, question: ward, answers: [Harbour]}
analyses:
  - name: claim 1
    ask: {method: one-proportion, version: 1, questions: [use], settings: {success: ["1"], claimed: "62 %", direction: less, role: "null", level: 0.05, source: {}}}
  - name: by ward
    ask: {method: crosstab, version: 1, questions: [use, ward], settings: {reading: row}}
report:
  title: Caddies of Fernmouth
  pieces:
    - tally: use
      among: Harbour people
    - analysis: claim 1
    - prose: "p comes to {claim 1: p}."
`

// answers holds 734 of 1,240 with a caddy, 734 of them Harbour's, and 10 who refused.
var answers = "ward,use\n" + strings.Repeat("Harbour,1\n", 734) + strings.Repeat("Fenside,2\n", 506) + strings.Repeat("Fenside,9\n", 10)

func TestARecipeRuns(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	data, recipe := write("answers.csv", answers), write("recipe.yaml", caddies)
	results, page := filepath.Join(dir, "results.json"), filepath.Join(dir, "report.html")
	out, err := command(t, "", "run", recipe, "--data", data, "--out", results, "--report", page)
	require.NoError(t, err, out)
	var got struct {
		Respondents int
		Analyses    []struct {
			Name, Finding string
			Result        struct{ Z, P json.RawMessage }
		}
	}
	raw, err := os.ReadFile(results)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &got))
	assert.Equal(t, 1250, got.Respondents)
	assert.Contains(t, string(raw), "-2.03601399224422", "z of 734 in 1,240 against 62 %, worked by hand: (0.59194 − 0.62) ÷ √(0.62 × 0.38 ÷ 1240)")
	html, err := os.ReadFile(page)
	require.NoError(t, err)
	for _, want := range []string{"Caddies of Fernmouth", "in “Harbour people”", "p comes to ", "0.0209", "caddy use"} {
		assert.Contains(t, string(html), want)
	}

	// What is wrong is told with its line and column; the file of another year runs as far as it goes.
	for _, k := range []struct {
		what, recipe, data, says string
		code                     int
	}{
		{"no YAML", "format: [", data, ":1:1: ", exitUsage},
		{"nothing", "", data, "the recipe is empty", exitUsage},
		{"another document", "format: else\nversion: 1\nquestions: []\nanalyses: []\nstudy: {name: a, units: b, decimals: 1}\n", data, ":1:9: this is no recipe", exitUsage},
		{"from the future", strings.Replace(caddies, "version: 1", "version: 2", 1), data, ":2:10: this recipe is of version 2", exitUsage},
		{"an unknown member", strings.Replace(caddies, "    short:", "    shrot:", 1), data, ":10:12: nothing is called “shrot” here", exitUsage},
		{"an unknown method", strings.Replace(caddies, "one-proportion", "guess", 1), data, ":18:19: ", exitUsage},
		{"an unknown setting", strings.Replace(caddies, "direction: less", "way: less", 1), data, ":18:114: Nothing is called “way” here.", exitUsage},
		{"an unknown question", strings.Replace(caddies, "questions: [use]", "questions: [usage]", 1), data, ":18:59: there is no question “usage”", exitUsage},
		{"a text for a number", strings.Replace(caddies, "decimals: 1", "decimals: one", 1), data, ":3:53: ", exitUsage},
		{"twice the same", strings.Replace(caddies, "    kind: single\n", "    kind: single\n    kind: single\n", 1), data, ":7:5: “kind” stands here twice", exitUsage},
		{"an alias", strings.Replace(caddies, "format:", "x: &a 1\ny: *a\nformat:", 1), data, ":2:4: a recipe has no aliases", exitUsage},
		{"a list for a name", strings.Replace(caddies, "format:", "[a, b]: 1\nformat:", 1), data, ":1:1: a name belongs here", exitUsage},
		{"a number no other reads", strings.Replace(caddies, "version: 1", "version: 0x1", 1), data, ":2:10: “0x1” is no number", exitUsage},
		{"nothing for a list", strings.Replace(caddies, "questions: [use]", "questions: null", 1), data, ":18:", exitUsage},
		{"far too deep", "format: " + strings.Repeat("[", 100) + strings.Repeat("]", 100), data, "this lies too deep", exitUsage},
		{"too long", "# " + strings.Repeat("x", 17<<20), data, "a recipe has at most 16 MB", exitUsage},
		{"a last row of no kind", strings.Replace(caddies, "questions:", "data: {lastRow: sum}\nquestions:", 1), data, "one of total and respondent", exitUsage},
		{"a total below, not said", caddies, write("total.csv", answers+"Total,1250\n"), "a recipe says it under data", exitFailed},
		{"a total below", strings.Replace(caddies, "questions:", "data: {lastRow: total}\nquestions:", 1), write("total.csv", answers+"Total,1250\n"), `"respondents": 1250`, 0},
		{"no data", caddies, filepath.Join(dir, "none.csv"), "no such file", exitFailed},
		{"a column that is lacking", caddies, write("later.csv", strings.Replace(answers, "ward,", "district,", 1)), "no column “ward”", exitPartial},
		{"further answers", caddies, write("more.csv", answers+"Harbour,3\n"), "has a further answer, counted as it stands: “3”", 0},
	} {
		t.Run(k.what, func(t *testing.T) {
			out, err := command(t, "", "run", write("other.yaml", k.recipe), "--data", k.data)
			assert.Equal(t, k.code, exitOf(err))
			if err != nil {
				out += err.Error()
			}
			assert.Contains(t, out, k.says)
		})
	}
	out, err = command(t, answers, "run", recipe, "--data", "-")
	require.NoError(t, err)
	assert.Contains(t, out, `"respondents": 1250`)
	_, err = command(t, "", "run", recipe, "--data", data, "--report", filepath.Join(dir, "report.exe"))
	assert.Equal(t, exitUsage, exitOf(err))
	assert.NoFileExists(t, filepath.Join(dir, "report.exe"))
}

func TestQuickAnswersAtTheTerminal(t *testing.T) {
	t.Parallel()
	counted := "answer,n\nown,30\nrent,50\n"
	for _, k := range []struct {
		args  []string
		input string
		want  string
		code  int
	}{
		{[]string{"tally", "-", "use"}, answers, "1    734           58.7", 0},
		{[]string{"tally", "-", "use", "--json"}, answers, `"count": 734`, 0},
		{[]string{"tally", "-", "use", "--decimals", "3"}, answers, "1    734         58.720", 0},
		{[]string{"tally", "-", "use", "--decimals", "9"}, answers, "--decimals takes 0 to 6", exitUsage},
		{[]string{"tally", "-", "use", "--order", "odd"}, answers, "--order takes asked, size, label", exitUsage},
		{[]string{"tally", "-", "ward", "--order", "size", "--as", "md"}, "ward\nA\nB\nB\n", "| B | 2 | 66.7 |\n| A | 1 | 33.3 |\n| Total | 3 | 100.0 |", 0},
		{[]string{"cross", "-", "use", "ward", "--as", "csv"}, answers, "Harbour,100.0,0.0,0.0,100.0,734", 0},
		{[]string{"cross", "-", "use", "ward", "--as", "docx"}, answers, "--as takes csv, md, html or tex", exitUsage},
		{[]string{"__complete", "tally", "-", "w"}, answers, "ward\tward", 0},
		{[]string{"tally", "-", "answer", "--counts", "n"}, counted, "own     30           37.5", 0},
		{[]string{"tally", "-", "answer", "--counts", "n"}, counted + "let,many\n", `“many” is no count`, exitFailed},
		{[]string{"tally", "-", "answer", "--counts", "n"}, counted + "Total,80\n", "own     30           37.5", 0},
		{[]string{"tally", "-", "answer", "--counts", "n"}, counted + "Total,81\n", "the total says 81, the figures add to 80", exitFailed},
		{[]string{"tally", "-", "answer", "--counts", "m"}, counted, "No column is called “m”", exitFailed},
		{[]string{"tally", "-", "use"}, answers + "Total,1250\n", "Say so with --last-row total", exitFailed},
		{[]string{"tally", "-", "use", "--last-row", "total"}, answers + "Total,1250\n", "1    734           58.7", 0},
		{[]string{"test", "-", "ward", "--equal", "--last-row", "total"}, answers + "Total,1250\n", "χ² = ", 0},
		{[]string{"tally", "-", "none"}, answers, `no column "none"`, exitFailed},
		{[]string{"tally"}, "", "tally FILE", exitUsage},
		{[]string{"cross", "-", "use", "ward"}, answers, "Harbour", 0},
		{[]string{"test", "-", "use", "--success", "1", "--claimed", "62 %", "--direction", "less"}, answers, "−2.389", 0},
		{[]string{"test", "-", "ward", "--equal"}, answers, "χ² = ", 0},
		{[]string{"test", "-", "ward", "--shares", "Harbour=60,Fenside=40"}, answers, "χ² = ", 0},
		{[]string{"test", "-", "ward", "--shares", "Harbour"}, answers, "is no share", exitUsage},
		{[]string{"test", "-", "use", "--by", "ward"}, answers, "χ² = ", 0},
		{[]string{"test", "-", "use"}, answers, "say against what", exitUsage},
		{[]string{"test", "-", "use", "--equal", "--level", "7"}, answers, "level", exitUsage},
		{[]string{"compute", "goodness-of-fit"}, `{"observed":[50,30,20],"shares":[0.4,0.4,0.2],"level":0.05}`, `"statistic":5,`, 0},
		{[]string{"compute", "goodness-of-fit"}, `{"watched":[1]}`, "cannot be read", exitUsage},
		{[]string{"compute", "guess"}, "", "no method", exitUsage},
		{[]string{"compute", "--list"}, "", "mantel-haenszel", 0},
		{[]string{"tables"}, "", `no command "tables"`, exitUsage},
		{[]string{"tally", "--sideways"}, "", "unknown flag", exitUsage},
		{[]string{"help"}, "", "Exit codes", 0},
		{[]string{"__complete", "compute", "goodness"}, "", "goodness-of-fit\t", 0},
		{[]string{"completion", "bash"}, "", "__start_widetally", 0},
	} {
		t.Run(strings.Join(k.args, " "), func(t *testing.T) {
			out, err := command(t, k.input, k.args...)
			if err != nil {
				out += err.Error()
			}
			assert.Equal(t, k.code, exitOf(err), out)
			assert.Contains(t, out, k.want)
		})
	}
}

// Others reach the application only where people sign in, and over a line that nobody else reads.
func TestWhatIsListenedOn(t *testing.T) {
	t.Parallel()
	for address, allowed := range map[string]bool{"127.0.0.1:8420": true, "localhost:0": true, "[::1]:8420": true, "127.1.2.3:1": true, ":8420": false, "0.0.0.0:8420": false, "[::]:8420": false, "192.168.1.7:8420": false, "survey.example:8420": false, "8420": false} {
		assert.Equal(t, allowed, reached{}.check(address) == nil, address)
		assert.Equal(t, address != "8420", reached{origins: []string{"https://tally.example"}}.check(address) == nil, address)
	}
	for origin, allowed := range map[string]bool{"https://tally.example": true, "https://tally.example:8443/": true, "http://localhost:8420": true, "http://127.0.0.1:8420": true,
		"http://tally.example": false, "tally.example": false, "https://tally.example/app": false, "https://me@tally.example": false, "ftp://tally.example": false} {
		assert.Equal(t, allowed, reached{origins: []string{origin}}.check("127.0.0.1:1") == nil, origin)
	}
	assert.Error(t, reached{certificate: "a.pem"}.check("127.0.0.1:1"))
	data := filepath.Join(t.TempDir(), "data")
	_, err := command(t, "", "serve", "--addr", "0.0.0.0:8420", "--data", data)
	require.ErrorContains(t, err, "since nobody signs in")
	assert.NoDirExists(t, data, "nothing is begun")
}
