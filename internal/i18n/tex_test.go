package i18n

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
)

func TestValuesInTeX(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{"1,234,567.5": `1{,}234{,}567.5`, "−2.036": "-2.036", "= 8.97 × 10⁻⁶": `= 8.97 \times  10^{-6}`, "5\u00a0%": `5\,\%`, `50 % & {more} $\x_1`: `50 \% \& \{more\} \$\backslash x\_1`} {
		assert.Equal(t, want, texValue(text))
	}
}

// Every formula has all its values, and its braces match; each belongs to a line that exists.
func TestEveryFormulaHasItsValues(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	for id := range c.formulas {
		assert.True(t, c.Has(id), id)
	}
	seen := map[string]bool{}
	for _, s := range allSpecs(t) {
		if !s.Settings.Tests() {
			continue
		}
		var source analysis.Source = typed([][]int64{{50, 50, 0}, {10, 40, 3}})
		if s.Questions[0] == "set" || s.Questions[0] == "age" {
			source = columns(t, 0)
		}
		counted, err := analysis.Count(t.Context(), s, source)
		require.NoError(t, err)
		o, err := analysis.Run(analysis.Work{Context: t.Context(), Steps: 1000, Replicates: 100}, s, counted)
		require.NoError(t, err)
		if o.Refusal != nil {
			continue
		}
		for _, b := range o.Document(claim.About{Units: document.Text("homes")}).Blocks {
			for _, m := range b.Said {
				if formula := c.TeX(m); formula != "" {
					seen[m.ID] = true
					assert.NotContains(t, formula, "[", m.ID)
					assert.Equal(t, strings.Count(strings.ReplaceAll(formula, `\{`, ""), "{"), strings.Count(strings.ReplaceAll(formula, `\}`, ""), "}"), formula)
				}
			}
		}
	}
	for id := range c.formulas {
		assert.True(t, seen[id], "no claim comes to %s", id)
	}
}
