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

const tabulated = `questions:
  - {name: ward, answers: [{code: Harbour}, {code: Fenside}]}
  - {name: use, answers: [{code: "1", label: "Yes"}, {code: "2", label: "No"}, {code: "9", label: "Cannot say"}], nets: [{label: Any answer, codes: ["1", "9"]}]}
subgroups: [{name: fens, condition: {op: any_of, question: ward, answers: [Fenside]}}]
banners:
  - {name: usual, breaks: [{}, {questions: [ward]}, {subgroup: fens}]}
books:
  - {title: All by ward, banner: usual, choice: {which: all}, figures: [column_percent, observed]}
  - {title: Use, banner: usual, choice: {which: picked, questions: [use]}, differences: {against: columns}}
`

// TestARecipeWithTables makes the books of a recipe, each in a file of its own; what the file lacks is left out and
// told, and a rule of what may be told holds for all that is written.
func TestARecipeWithTables(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	data, recipe := write("answers.csv", answers), write("recipe.yaml", tabulated)
	to, results := filepath.Join(dir, "tables.csv"), filepath.Join(dir, "results.json")
	safe := write("safe.yaml", tabulated+"safeToPublish: {fewest: 11}\n")
	book := func(name string) string {
		raw, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		return string(raw)
	}
	ran := func(args ...string) map[string]any {
		out, err := command(t, "", args...)
		require.NoError(t, err, out)
		var got map[string]any
		require.NoError(t, json.Unmarshal([]byte(book("results.json")), &got))
		return got
	}
	got := ran("run", recipe, "--data", data, "--tables", to, "--out", results)
	assert.Equal(t, []any{
		map[string]any{"title": "All by ward", "banner": "usual", "tables": 2.0, "comparisons": 0.0, "standingOut": 0.0},
		map[string]any{"title": "Use", "banner": "usual", "tables": 1.0, "comparisons": 3.0, "standingOut": 3.0},
	}, withoutSaid(got["books"]))
	all := book("tables-all-by-ward.csv")
	for _, want := range []string{"Answer,All,ward: Harbour,ward: Fenside,fens", "Cannot say,0.8,0.0,1.9,1.9", "Any answer (net),59.5,", "answers, unweighted, "} {
		assert.Contains(t, all, want)
	}
	assert.Contains(t, book("tables-use.csv"), "Yes,58.7,100.0,0.0,0.0")

	// Ten could not say: by the rule neither they nor those by whom they could be had are told, in tables, tallies and
	// reports; and no whole results, which tell all counts.
	got = ran("run", safe, "--data", data, "--tables", to, "--out", results)
	assert.Contains(t, got, "safeToPublish")
	raw, _ := json.Marshal(got["tallies"])
	assert.NotContains(t, string(raw), `"count":10`)
	assert.Contains(t, string(raw), `"withheld":true`)
	assert.Contains(t, book("tables-all-by-ward.csv"), "Cannot say,few,0.0,few,few")
	for _, args := range [][]string{{"tally", data, "use", "--fewest", "11"}, {"cross", data, "use", "ward", "--fewest", "11"}} {
		out, err := command(t, "", args...)
		require.NoError(t, err, out)
		assert.Contains(t, out, "–", args)
		assert.NotContains(t, out, " 10 ", args)
	}

	for _, k := range []struct {
		what, text, from, to, says string
		code                       int
	}{
		{"no banner", tabulated, "banner: usual", "banner: other", `: there is no banner “other”`, exitUsage},
		{"a title twice", tabulated, "title: Use", "title: All by ward", "recipe.yaml:9:", exitUsage},
		{"a subgroup that is nowhere", tabulated, "subgroup: fens", "subgroup: hills", "there is no subgroup “hills”", exitUsage},
		{"a question that is nowhere", tabulated, "questions: [use]}, diff", "questions: [usage]}, diff", "there is no question “usage”", exitUsage},
		{"what is no figure", tabulated, "observed", "share", "All by ward is left out: ", exitPartial},
		{"a rule that is none", tabulated + "safeToPublish: {rounding: 4}\n", "", "", "Counts are rounded to 3, 5 or 10, or not at all.", exitUsage},
		{"a column that the file lacks", strings.Replace(tabulated, "- {name: ward,", "- {name: tenure}\n  - {name: ward,", 1), "questions: [ward]}", "questions: [tenure]}", "The file has no column “tenure”", 0},
	} {
		t.Run(k.what, func(t *testing.T) {
			text := k.text
			if k.from != "" {
				require.Contains(t, text, k.from)
				text = strings.Replace(text, k.from, k.to, 1)
			}
			out, err := command(t, "", "run", write("recipe.yaml", text), "--data", data, "--tables", to)
			assert.Equal(t, k.code, exitOf(err), out)
			if err != nil {
				out += err.Error()
			}
			assert.Contains(t, out, k.says)
		})
	}
	_, err := command(t, "", "analyse", write("spec.json", `{"method":"frequency","questions":["use"]}`), data, "--json", "--fewest", "11")
	assert.Equal(t, exitUsage, exitOf(err), "a whole result tells all counts")
}

func withoutSaid(of any) any {
	list, _ := of.([]any)
	for _, one := range list {
		delete(one.(map[string]any), "said")
	}
	return of
}
