package httpapi

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/i18n"
)

// Every code that the program can give has its words in the catalogue. The codes are
// taken from the sources, so that a new one without words fails here.
func TestEveryCodeHasItsWords(t *testing.T) {
	t.Parallel()
	w, err := i18n.Load("en")
	require.NoError(t, err)
	for _, c := range []struct {
		files, pattern, prefix, suffix string
		fewest                         int
	}{
		{"../service/*.go", `invalid\("([a-z_.]+)"`, "problem.", "", 40},
		{"../service/*.go", `Title\{ID: "([a-z_]+)"`, "history.", "", 10},
		{"../../core/survey/*.go", `ConditionError\{"([a-z_]+)"\}`, "problem.condition.", "", 6},
		{"../../core/survey/*.go", `DerivationError\{"([a-z_]+)"\}`, "problem.derivation.", "", 10},
		{"../intake/problem.go", `Code += "([a-z_0-9]+)"`, "problem.intake.", "", 30},
		{"../../core/inspect/inspect.go", `Kind += "([a-z_]+)"`, "inspect.", ".text", 12},
		{"../../core/survey/builder.go", `Reason += "([a-z_]+)"|^\t[A-Z]\w+ += "([a-z_]+)"`, "kind_reason.", "", 5},
		{"../../core/infer/error.go", `Reason += "([a-z_]+)"`, "problem.compute.", "", 35},
		{"../../core/plan/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 6},
		{"../../core/printed/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 6},
		{"../../core/tally/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 3},
		{"../../core/analysis/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 5},
		{"../../core/analysis/*.go", `Assumption += "([a-z_]+)"`, "assumption.", "", 8},
		{"../../core/analysis/*.go", `(?:Code: |Refused\(|bad\()"([a-z_.]+)"`, "problem.", "", 20},
		{"../../core/methods/*/*.go", `(?:Code: |Refused\(|bad\()"([a-z_.]+)"`, "problem.", "", 12},
		{"../../core/methods/*/*.go", `(?:Add|Caution)\(document\.\w+, "([a-z_.]+)"`, "note.", "", 25},
		{"../../core/methods/*/*.go", `document\.Say\("([a-z_.]+)"`, "", "", 25},
		{"../../core/claim/*.go", `document\.Say\("([a-z_.]+)"`, "", "", 5},
		{"../../core/methods/*/*.go", `Fact\("[a-z]+", "([a-z_]+)"`, "fact.", "", 12},
		{"*.go", `refusal\{status: [^}]*code: "([a-z_]+)"`, "problem.http.", "", 7},
	} {
		files, err := filepath.Glob(c.files)
		require.NoError(t, err)
		found := map[string]bool{}
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") {
				continue
			}
			raw, err := os.ReadFile(f)
			require.NoError(t, err)
			for _, m := range regexp.MustCompile(c.pattern).FindAllStringSubmatch(string(raw), -1) {
				found[m[1]] = m[1] != "" && !strings.HasSuffix(m[1], ".") && !strings.HasSuffix(m[1], "_")
			}
		}
		assert.GreaterOrEqual(t, len(found), c.fewest, c.pattern)
		for code, ok := range found {
			if ok {
				assert.True(t, w.Has(c.prefix+code+c.suffix), c.prefix+code+c.suffix)
			}
		}
	}
}
