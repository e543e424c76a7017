package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// short is a tally and a test in ten lines: all that has a default is left out.
const short = `parameters: {claimed: 62 %, least: null}
analyses:
  - ask:
      method: one-proportion
      questions: [use]
      settings: {success: ["1"], claimed: "${claimed}", direction: less, role: "null"}
report:
  pieces:
    - tally: ward
    - prose: "At least $${least} or ${least}; p is {claim 1: p}."
`

// TestARecipeByHand writes one, takes it over, sets its parameters, begins one from a file, and has them
// explained; what is wrong is told where it stands, in whichever file.
func TestARecipeByHand(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o750))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	data := write("answers.csv", strings.ReplaceAll(answers, "Fenside,9\n", ""))
	recipe := write("short.yaml", short)
	labels := write("codes.csv", "question,code,label,missing\nuse,1,Yes,\nuse,2,No,\nward,Harbour,The Harbour,\n")
	write("shared/questions.yaml", "study: {units: households, decimals: 2}\nquestions:\n  - {name: use, answers: [{code: \"1\", label: \"Yes\"}, {code: \"2\"}]}\n  - {name: ward, wording: \"Which ward?\"}\n")
	over := write("over.yaml", "include: [shared/questions.yaml, short.yaml]\nstudy: {name: Caddies}\nparameters: {least: 5}\nquestions:\n  - {name: ward, wording: \"Where?\"}\n")
	report := filepath.Join(dir, "report.md")
	for _, k := range []struct {
		what string
		args []string
		says string
		code int
	}{
		{"a parameter without a value", []string{"run", recipe, "--data", data}, "short.yaml:10:14: the parameter “least” has no value: give it one with --set least=…", exitUsage},
		{"another name", []string{"run", recipe, "--data", data, "--set", "most=1"}, "“most” is no parameter of the recipe", exitUsage},
		{"as it stands", []string{"run", recipe, "--data", data, "--set", "least=1"}, `"claimed": "62 %"`, 0},
		{"a value that is set", []string{"run", recipe, "--data", data, "--set", "least=1,claimed=50 %"}, `"claimed": "50 %"`, 0},
		{"a number where a text is asked for", []string{"run", recipe, "--data", data, "--set", "least=1,claimed=0.5"}, "short.yaml:6:43: “claimed” is written as text, in quotes, not as a number", exitUsage},
		{"explained", []string{"recipe", "check", recipe, "--set", "least=1"}, "claim 1, Test of one share: The share of respondents answering “1” (“use”) is 62\u00a0% or more. At the 5\u00a0% level.\nThe report has 1 tally, 0 analyses and 1 piece of prose.", 0},
		{"fits a file", []string{"recipe", "check", over, "--data", data}, "“Caddies” counts households.\n2 questions are described, 0 of them made from others. Further columns are taken as they are guessed.", 0},
		{"does not fit", []string{"recipe", "check", over, "--data", write("small.csv", "ward,other\na,1\nb,1\n")}, "short.yaml:5:19: The file has no “use”, or not as it is needed here.", exitPartial},
		{"takes over", []string{"run", over, "--data", data}, `"study": "Caddies"`, 0},
		{"an included mistake", []string{"run", write("bad.yaml", "include: shared/bad.yaml\n"), "--data", data}, "there is no recipe “shared/bad.yaml” to be taken over", exitUsage},
		{"a mistake inside", []string{"run", write("bad2.yaml", "include: shared/wrong.yaml\n"), "--data", write("shared/wrong.yaml", "study: {}\nquestions:\n  - {name: use, kind: rumour}\n")}, "shared/wrong.yaml:3:23: there is no kind “rumour”", exitUsage},
		{"itself", []string{"run", write("self.yaml", "include: self.yaml\n"), "--data", data}, "“self.yaml” takes over itself", exitUsage},
		{"a setting left out", []string{"run", write("role.yaml", strings.Replace(short, `, role: "null"`, "", 1)), "--data", data, "--set", "least=1"}, "role.yaml:6:17: claim 1 is left out: Say which of the two the claim is (role). (One of null, alternative.)", exitPartial},
		{"a word it does not know", []string{"run", write("word.yaml", strings.Replace(short, "direction: less", "direction: down", 1)), "--data", data, "--set", "least=1"}, "word.yaml:6:68: claim 1 is left out: ", exitPartial},
		{"an unknown condition", []string{"run", write("op.yaml", short+"subgroups: [{name: a, condition: {op: in, question: ward}}]\n"), "--data", data, "--set", "least=1"}, "op.yaml:11:39: there is no condition “in”, only “and”, ", exitUsage},
		{"an unknown column", []string{"run", write("column.yaml", strings.Replace(short, "[use]", "[usage]", 1)), "--data", data, "--set", "least=1"}, "column.yaml:5:19: there is no question “usage”", exitUsage},
		{"a start", []string{"recipe", "new", data, "--labels", labels}, "label: The Harbour", 0},
		{"labels", []string{"tally", data, "use", "--labels", labels}, "Yes    734", 0},
		{"labels of another file", []string{"tally", data, "use", "--labels", write("others.csv", "question,code,label\nsea,1,x\n")}, "others.csv: it describes no column of the file", exitUsage},
		{"over a file that is there", []string{"recipe", "new", data, "--out", recipe}, "is there already", exitUsage},
	} {
		t.Run(k.what, func(t *testing.T) {
			out, err := command(t, "", k.args...)
			assert.Equal(t, k.code, exitOf(err), out)
			if err != nil {
				out += err.Error()
			}
			assert.Contains(t, out, k.says)
		})
	}
	_, err := command(t, "", "run", over, "--data", data, "--report", report)
	require.NoError(t, err)
	raw, err := os.ReadFile(report)
	require.NoError(t, err)
	for _, want := range []string{"# Caddies", "**Table 1. Where?**", "| Harbour | 734 | 59.19 |", "At least $\\{least\\} or 5; p is 0\\.0418."} {
		assert.Contains(t, string(raw), strings.ReplaceAll(want, "0\\.0418", "0.0209"))
	}

	// A start runs as it stands, and so does what its comments offer.
	start := filepath.Join(dir, "start.yaml")
	_, err = command(t, "", "recipe", "new", data, "--out", start)
	require.NoError(t, err)
	raw, err = os.ReadFile(start)
	require.NoError(t, err)
	offered := strings.NewReplacer("# analyses:", "analyses:", "#   - name", "  - name", "#     ask", "    ask").Replace(string(raw))
	for _, text := range []string{string(raw), offered} {
		out, err := command(t, "", "run", write("start.yaml", text), "--data", data)
		assert.NoError(t, err, out)
		assert.Equal(t, text == offered, strings.Contains(out, `"all shares"`))
	}
}
