package methods_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
)

// decided is what a document of a claim says: its decision, the p-value beside it, and the first
// message of its finding.
func decided(t *testing.T, o *analysis.Outcome) (rejected bool, log10 float64, finding string) {
	t.Helper()
	d := o.Document(claim.About{Units: document.Text("homes"), Everyone: 100})
	require.NotNil(t, d.Outcome)
	for _, b := range d.Blocks {
		if b.Kind == document.Sentence {
			finding = b.Said[0].ID
			break
		}
	}
	require.NotEmpty(t, finding)
	require.InDelta(t, d.Outcome.P.Number, math.Pow(10, d.Outcome.P.Log10), 1e-9)
	return d.Outcome.Rejected, d.Outcome.P.Log10, finding
}

// Of whatever was answered, a claim is decided once: the outcome in the register, the p-value
// beside it and the finding agree; a stricter level never rejects what a looser one keeps, and
// which hypothesis the claim is changes what is said, not what is decided.
func TestTheDecisionIsOne(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(89, 144))
	levels := []float64{0.2, 0.05, 0.01, 0.0001}
	// What is said when the null hypothesis is rejected is never said when it is kept.
	said := map[string]map[bool]bool{}
	rounds, both := map[string]int{}, map[string]map[bool]bool{}
	for range 25 {
		sample := make([]int, 20+rng.IntN(80))
		skew := 1 + 2*rng.Float64()
		for i := range sample {
			sample[i] = int(100 * math.Pow(rng.Float64(), skew))
		}
		source := homesOf(t, sample, nil)
		for _, k := range everyMethod {
			if !strings.Contains(k.settings, decides) {
				continue
			}
			// What lies far apart among all homes would never be kept, and never be near enough.
			questions := strings.Replace(k.questions, "years ward", "size ward", 1)
			nearer := strings.NewReplacer(`"margin":"15","groups"`, `"margin":"70","groups"`, `"direction":"less"`, `"direction":"different"`)
			var before bool
			for at, level := range levels {
				var first bool
				var firstP float64
				for i, role := range []claim.Role{claim.ClaimIsNull, claim.ClaimIsAlternative} {
					settings := strings.ReplaceAll(nearer.Replace(k.settings), decides, fmt.Sprintf(`"role":%q,"level":%v`, role, level))
					o, err := ask(t, source, specOf(k.method, questions, settings))
					require.NoError(t, err)
					if o.Refusal != nil {
						continue
					}
					rejected, p, finding := decided(t, o)
					what := fmt.Sprintf("%s at %v, the claim is the %s, of %v", k.method, level, role, sample)
					require.Equal(t, p <= math.Log10(level), rejected, what)
					if i > 0 {
						require.Equal(t, first, rejected, what)
						require.Equal(t, firstP, p, what)
					}
					first, firstP = rejected, p
					if at > 0 && rejected {
						require.True(t, before, "%s: kept at a looser level", what)
					}
					key := k.method + " " + finding
					if said[key] == nil {
						said[key] = map[bool]bool{}
					}
					said[key][rejected] = true
					require.Len(t, said[key], 1, "%s is said of both decisions", key)
					rounds[k.method]++
					if both[k.method] == nil {
						both[k.method] = map[bool]bool{}
					}
					both[k.method][rejected] = true
				}
				before = first
			}
		}
	}
	for _, k := range everyMethod {
		if strings.Contains(k.settings, decides) {
			assert.Greater(t, rounds[k.method], 50, k.method)
			assert.Len(t, both[k.method], 2, "%s is rejected and kept", k.method)
		}
	}
}
