package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A spec is asked of a file with no database and no browser; what is wrong is said with
// its place.
func TestAnalyse(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	// 50 : 30 : 20 against 40 : 40 : 20, worked by hand: (10²/40 + 10²/40) = 5, df 2.
	data := write("wards.csv", "ward\n"+strings.Repeat("Harbour\n", 50)+strings.Repeat("Fenside\n", 30)+strings.Repeat("Saltings\n", 20))
	good := `{"method":"goodness-of-fit","version":1,"questions":["ward"],"settings":{"shares":{"scale":"ratio","figures":[{"code":"Harbour","figure":"2"},{"code":"Fenside","figure":"2"},{"code":"Saltings","figure":"1"}],"source":{"kind":"register","title":"the register"}},"role":"null","level":0.05}}`
	for _, c := range []struct {
		name string
		args []string
		want string
		says string
	}{
		{"a document", []string{"--units", "households", write("good.json", good), data}, "χ² = 5.000", ""},
		{"who it speaks of", []string{"--units", "households", write("good.json", good), data}, "the households this sample represents", ""},
		{"the complete result", []string{"--json", write("good.json", good), data}, `"statistic":5,`, ""},
		{"a question that is not there", []string{write("question.json", strings.Replace(good, `"ward"`, `"wards"`, 1)), data}, "", `no question “wards” here. (/questions/0)`},
		{"a category that is not there", []string{write("code.json", strings.Replace(good, `"Saltings"`, `"Oldgate"`, 1)), data}, "", `no proper answer with the code “Oldgate”`},
		{"no spec", []string{write("bad.json", `{"method":`), data}, "", "unexpected end"},
		{"a ragged file", []string{write("good.json", good), write("ragged.csv", "ward,size\na,1\nb\n")}, "", "Line 3"},
		{"one file only", []string{data}, "", "widetally analyse SPEC.json FILE"},
		{"a file that is not there", []string{write("good.json", good), filepath.Join(dir, "none.csv")}, "", "no such file"},
	} {
		t.Run(c.name, func(t *testing.T) {
			out, err := command(t, "", append([]string{"analyse"}, c.args...)...)
			if c.says != "" {
				assert.ErrorContains(t, err, c.says)
				return
			}
			require.NoError(t, err)
			assert.Contains(t, out, c.want)
		})
	}
}

// command runs a command with what comes through a pipe, and gives what it prints.
func command(t *testing.T, input string, args ...string) (string, error) {
	t.Helper()
	c := root()
	var out, told strings.Builder
	c.SetArgs(args)
	c.SetIn(strings.NewReader(input))
	c.SetOut(&out)
	c.SetErr(&told)
	err := c.ExecuteContext(t.Context())
	return out.String() + told.String(), err
}
