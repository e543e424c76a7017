package i18n

import (
	"encoding/json"
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
)

var update = flag.Bool("update", false, "write the sentences anew, to be read by a person")

// sentencesFile holds the finding of every kind of claim, by what is claimed, its direction,
// which hypothesis is the claim, and what was decided. Each was read by itself.
const sentencesFile = "testdata/sentences.txt"

// A finding says for its kind, its direction, the role of the claim and the decision exactly
// what was agreed on, and of every kind both decisions are among them.
func TestTheSentencesOfEveryKind(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	said := map[string]string{}
	for _, s := range allSpecs(t) {
		if !s.Settings.Tests() {
			continue
		}
		for round, counts := range [][][]int64{{{50, 50, 0}, {10, 40, 3}}, {{300, 3, 1}, {2, 400, 90}}, {{40, 41, 2}, {39, 42, 2}}, {{4, 900, 0}, {350, 80, 9}}, {{400, 400, 20}, {400, 401, 20}}, {{20, 20, 20}, {21, 20, 22}}} {
			var source analysis.Source = typed(counts)
			if s.Questions[0] == "set" || s.Questions[0] == "age" {
				source = columns(t, round)
			}
			counted, err := analysis.Count(t.Context(), s, source)
			require.NoError(t, err)
			o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1000, Replicates: 100}, s, counted)
			require.NoError(t, err)
			if o.Refusal != nil {
				continue
			}
			for _, b := range o.Document(claim.About{Units: document.Text("homes")}).Blocks {
				if b.Kind == document.Sentence {
					decided := "kept"
					if strings.Contains(b.Said[0].ID, "rejected") {
						decided = "rejected"
					}
					if key := kindOf(t, s) + " " + decided; said[key] == "" {
						said[key] = c.Say(b.Said[0])
					}
					break
				}
			}
		}
	}
	var list strings.Builder
	for _, key := range slices.Sorted(maps.Keys(said)) {
		fmt.Fprintf(&list, "%s: %s\n", key, said[key])
		kind, decided, _ := cutLast(key)
		assert.NotEmpty(t, said[kind+" "+map[string]string{"kept": "rejected", "rejected": "kept"}[decided]], "only one decision of "+kind)
	}
	if *update {
		require.NoError(t, os.WriteFile(sentencesFile, []byte(list.String()), 0o644))
	}
	agreed, err := os.ReadFile(sentencesFile)
	require.NoError(t, err)
	assert.Equal(t, string(agreed), list.String())
}

func cutLast(s string) (before, after string, found bool) {
	i := strings.LastIndexByte(s, ' ')
	return s[:max(i, 0)], s[i+1:], i >= 0
}

// kindOf names what a spec claims, without its figures and its level.
func kindOf(t *testing.T, s analysis.Spec) string {
	t.Helper()
	raw, err := json.Marshal(s.Settings)
	require.NoError(t, err)
	var all struct {
		Form, Direction, Role string
		Test                  struct{ Role string }
		Shares                struct{ Scale string }
	}
	require.NoError(t, json.Unmarshal(raw, &all))
	parts := []string{s.Method}
	if all.Shares.Scale == "equal" {
		parts = append(parts, "equal")
	}
	for _, part := range []string{all.Form, all.Direction, all.Role + all.Test.Role} {
		if part != "" {
			parts = append(parts, part)
		}
	}
	return strings.Join(parts, " ")
}
