package httpapi

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/words"
)

// Every code that the program can give has its words in the catalogue. The codes are
// taken from the sources, so that a new one without words fails here.
func TestEveryCodeHasItsWords(t *testing.T) {
	w, err := words.Load("en")
	require.NoError(t, err)
	for _, c := range []struct {
		files, pattern, prefix, suffix string
		fewest                         int
	}{
		{"../study/*.go", `invalid\("([a-z_.]+)"`, "problem.", "", 40},
		{"../study/*.go", `Title\{ID: "([a-z_]+)"`, "history.", "", 10},
		{"../../core/survey/*.go", `ConditionError\{"([a-z_]+)"\}`, "problem.condition.", "", 6},
		{"../../core/survey/*.go", `DerivationError\{"([a-z_]+)"\}`, "problem.derivation.", "", 10},
		{"../intake/problem.go", `Code += "([a-z_0-9]+)"`, "problem.intake.", "", 30},
		{"../../core/inspect/inspect.go", `Kind += "([a-z_]+)"`, "inspect.", ".text", 12},
		{"../../core/survey/builder.go", `Reason += "([a-z_]+)"|^\t[A-Z]\w+ += "([a-z_]+)"`, "kind_reason.", "", 5},
		{"../../core/infer/error.go", `Reason += "([a-z_]+)"`, "problem.compute.", "", 35},
		{"../../core/plan/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 6},
		{"../../core/recheck/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 6},
		{"../../core/tally/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 3},
		{"../compute/*.go", `infer\.Reason += "([a-z_]+)"`, "problem.compute.", "", 5},
		{"../compute/*.go", `Assumption += "([a-z_]+)"`, "assumption.", "", 8},
		{"*.go", `refusal\{status: [^}]*code: "([a-z_]+)"`, "problem.http.", "", 7},
	} {
		files, err := filepath.Glob(c.files)
		require.NoError(t, err)
		found := map[string]bool{}
		for _, f := range files {
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
