package httpapi

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/service"
)

// figuresOf are all sentences and facts that a topline shows of its analyses, a line each, but for the
// ways to decide, which stand in a line since later.
func (c *client) figuresOf(study string) string {
	c.t.Helper()
	var out strings.Builder
	for _, q := range c.call("GET", study+"/topline", "", 200)["questions"].([]any) {
		for k, a := range q.(object)["analyses"].([]any) {
			document, told := a.(object)["document"].(object)
			if !told {
				continue
			}
			for _, b := range document["blocks"].([]any) {
				if b.(object)["kind"] == "agreement" {
					continue
				}
				at := fmt.Sprintf("%v, analysis %d: ", q.(object)["number"], k+1)
				for _, line := range b.(object)["lines"].([]any) {
					fmt.Fprintf(&out, "%s%v\n", at, line)
				}
				for _, f := range b.(object)["facts"].([]any) {
					fmt.Fprintf(&out, "%s%v = %v\n", at, f.(object)["key"], f.(object)["value"])
				}
			}
		}
	}
	return out.String()
}

// A study that left as a file, and a recipe that was written, before methods were packages of their
// own come back with every figure and sentence as it was. The fixtures are of the version of
// 29 November 2026; they are not written anew, but for the words of a sentence.
func TestWhatWasWrittenBeforeGivesTheSameFigures(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	file, err := os.ReadFile("testdata/before.zip")
	require.NoError(t, err)
	figures, err := os.ReadFile("testdata/before.txt")
	require.NoError(t, err)
	assert.Equal(t, string(figures), c.figuresOf(c.open(file)))

	recipe, err := os.ReadFile("testdata/before.yaml")
	require.NoError(t, err)
	run := c.run(string(recipe), demo.CSV)
	var unknown []string // which the file did not have then
	for _, n := range run.Noticed {
		unknown = append(unknown, n.Column)
	}
	assert.Equal(t, []string{"stratum", "street"}, unknown)
	assert.Greater(t, len(run.Results), 15)
	for _, r := range run.Results {
		require.Empty(t, r.Problems, r.Name)
		for _, b := range r.Document.Blocks {
			for _, f := range b.Facts {
				assert.Contains(t, string(figures), fmt.Sprintf("%s = %s\n", f.Key, c.cases.Words().Say(f.Value)), r.Name)
			}
		}
	}
}
