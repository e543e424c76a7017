package recipes

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/recipe"
	"widetally/core/survey"
)

// Labels and codes that older readers of YAML take for truths, numbers or days stand in quotes; others
// stand as a person would write them.
func TestLabelsAreTextsForEveryReader(t *testing.T) {
	t.Parallel()
	var answers []recipe.Answer
	for _, label := range []string{"Yes", "no", "On", "1", "010", "1_000", "12:30", "2026-11-29", "~", "0x1F", "1e3", "Never", "Own or rent"} {
		answers = append(answers, recipe.Answer{Code: label, Label: label})
	}
	var out bytes.Buffer
	require.NoError(t, Write(&out, recipe.Recipe{Questions: []recipe.Question{{Name: "q", Kind: survey.Single, Answers: answers}}}))
	for _, want := range []string{`label: "Yes"`, `label: "no"`, `label: "On"`, `code: "1"`, `label: "010"`, `label: "1_000"`, `label: "12:30"`, `label: "2026-11-29"`, `label: "~"`, `label: "0x1F"`, `label: "1e3"`, "label: Never\n", "label: Own or rent\n"} {
		assert.Contains(t, out.String(), want)
	}
}
