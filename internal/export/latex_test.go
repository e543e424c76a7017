package export

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// No sign is lost, taken for a command, or out of its mode.
func TestSignsInLaTeX(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"p = 7.06 × 10⁻²⁰":          `p = 7.06 $\times $ 10$^{-20}$`,
		"x₁² ≤ 2":                   `x$_{1}^{2}$ $\le $ 2`,
		"χ² = Σ(O − E)²":            `$\chi ^{2}$ = $\Sigma $(O $-$ E)$^{2}$`,
		"pᵢ ≠ πᵢ":                   `p$_{i}$ $\ne $ $\pi _{i}$`,
		"50\u00a0% & more_of {it}":  `50~\% \& more\_of \{it\}`,
		"[first] * of a row":        `{}[first] * of a row`,
		"*":                         `{}*`,
		"“Größe” – 3 €":             "``Größe'' -- 3 \\texteuro{}",
		"Ж\U0001F6B2":               `\otherchar{416}\otherchar{1F6B2}`,
		`\input{/etc/passwd} $x$ ~`: `\textbackslash{}input\{/etc/passwd\} \$x\$ \textasciitilde{}`,
		"two\nlines":                "two lines",
	} {
		assert.Equal(t, want, escapeLaTeX(text))
	}
	assert.Equal(t, `\hyperref[table-3]{Table \ref*{table-3}}`, latexRuns([]Run{{Text: "Table 3", Link: "#table-3"}}))
}
