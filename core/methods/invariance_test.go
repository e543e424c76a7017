package methods_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/resultjson"
	"widetally/core/survey"
)

// flat is every figure of a result by its path.
func flat(t *testing.T, source analysis.Source, spec string) map[string]any {
	t.Helper()
	o, err := ask(t, source, spec)
	require.NoError(t, err, spec)
	require.NoError(t, o.Refusal, spec)
	raw, err := resultjson.Encode(o.Result)
	require.NoError(t, err)
	var whole any
	require.NoError(t, json.Unmarshal(raw, &whole))
	out := map[string]any{}
	var walk func(v any, path string)
	walk = func(v any, path string) {
		switch v := v.(type) {
		case map[string]any:
			for name, x := range v {
				walk(x, path+"."+name)
			}
		case []any:
			for i, x := range v {
				walk(x, fmt.Sprintf("%s.%d", path, i))
			}
		default:
			out[strings.TrimPrefix(path, ".")] = v
		}
	}
	walk(whole, "")
	return out
}

// alike compares all figures to twelve digits, beside those near nothing.
func alike(t *testing.T, want, got map[string]any, what string) {
	t.Helper()
	require.Len(t, got, len(want), what)
	for path, w := range want {
		x, isNumber := w.(float64)
		y, too := got[path].(float64)
		if !isNumber || !too {
			assert.Equal(t, w, got[path], "%s: %s", what, path)
			continue
		}
		assert.LessOrEqual(t, math.Abs(x-y), 1e-11*math.Max(math.Abs(x), 1e-2), "%s: %s is %v, not %v", what, path, y, x)
	}
}

// No method depends on the order in which respondents stand in a file, nor on whether those who
// answered alike stand in one row with a count or in many.
func TestTheOrderOfRespondentsDoesNotMatter(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(5, 8))
	shuffled := rng.Perm(100)
	// Half of the respondents twice is each of them with a count of two.
	var half, twice, times []int
	for i := 0; i < 100; i += 2 {
		half, twice, times = append(half, i), append(twice, i, i), append(times, 2)
	}
	rng.Shuffle(len(twice), func(i, j int) { twice[i], twice[j] = twice[j], twice[i] })
	for _, k := range everyMethod {
		if k.questions == "" {
			continue
		}
		t.Run(k.method, func(t *testing.T) {
			spec := specOf(k.method, k.questions, k.settings)
			alike(t, flat(t, homes(t), spec), flat(t, homesOf(t, shuffled, nil), spec), "in another order")
			alike(t, flat(t, homesOf(t, twice, nil), spec), flat(t, homesOf(t, half, times), spec), "with counts")
		})
	}
}

// With everybody counted twice, statistics of counts double, shares and effects stay.
func TestEverybodyTwice(t *testing.T) {
	t.Parallel()
	all, twos := make([]int, 100), make([]int, 100)
	for i := range all {
		all[i], twos[i] = i, 2
	}
	doubled := map[string]map[string]float64{
		"goodness-of-fit":   {"goodnessOfFit.statistic": 2, "goodnessOfFit.g": 2, "goodnessOfFit.cohensW": 1, "goodnessOfFit.rows.0.adjusted": math.Sqrt2},
		"crosstab":          {"independence.statistic": 2, "independence.g": 2, "independence.cramersV": 1, "independence.cells.0.0.adjusted": math.Sqrt2, "twoByTwo.phi": 1, "twoByTwo.shares.oddsRatio": 1},
		"one-proportion":    {"z": math.Sqrt2, "estimate": 1, "standardErrorNull": 1 / math.Sqrt2},
		"two-proportions":   {"z": math.Sqrt2, "difference": 1, "relativeRisk": 1, "standardErrorPooled": 1 / math.Sqrt2},
		"paired":            {"symmetry.statistic": 2, "margins.statistic": 2, "kappa.value": 1, "kappa.standardError": 1 / math.Sqrt2},
		"cochran-q":         {"statistic": 2},
		"multiple-response": {"responses": 2, "meanChosen": 1, "ofRespondents.0": 1},
		"mantel-haenszel":   {"commonOddsRatio": 1},
		"ordered":           {"trend.correlation": 1, "concordant": 4, "discordant": 4, "effects.0.value": 1, "ranks.pair.u": 4},
		"numeric-summary":   {"sum": 2, "mean": 1, "median": 1, "rows.0.share": 1},
		"means":             {"estimate": 1},
	}
	for _, k := range everyMethod {
		if doubled[k.method] == nil {
			continue
		}
		spec := specOf(k.method, k.questions, k.settings)
		once, twice := flat(t, homes(t), spec), flat(t, homesOf(t, all, twos), spec)
		for path, factor := range doubled[k.method] {
			assert.InEpsilon(t, factor*once[path].(float64), twice[path], 1e-12, "%s %s", k.method, path)
		}
	}
}

// swapped is a table with its rows as columns.
func swapped(table [][]int64) [][]int64 {
	out := make([][]int64, len(table[0]))
	for c := range out {
		for r := range table {
			out[c] = append(out[c], table[r][c])
		}
	}
	return out
}

// Of two questions crossed it does not matter which one goes down, nor in which order the answers
// stand; where it must change a sign or turn a ratio round, it does that and nothing else.
func TestWhichWayATableStands(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(13, 21))
	crosstab := `{"method":"crosstab","version":1,"questions":["columns","rows"],"settings":{"reading":"row","test":{"role":"null","level":0.05}}}`
	paired := `{"method":"paired","version":1,"questions":["columns","rows"],"settings":{"role":"null","level":0.05}}`
	shares := `{"method":"two-proportions","version":1,"questions":["columns","rows"],"settings":{"success":["1"],"groups":{"first":"%d","second":"%d"},"direction":"different","role":"null","level":0.05}}`
	for range 60 {
		rows, columns := 2+rng.IntN(4), 2+rng.IntN(4)
		table := make([][]int64, rows)
		for r := range table {
			for range columns {
				table[r] = append(table[r], 1+rng.Int64N(60))
			}
		}
		what := fmt.Sprint(table)
		as := flat(t, crossed(survey.Single, table), crosstab)
		other := flat(t, crossed(survey.Single, swapped(table)), crosstab)
		turned := make([][]int64, rows)
		for r, to := range rng.Perm(rows) {
			turned[to] = table[r]
		}
		moved := flat(t, crossed(survey.Single, turned), crosstab)
		for _, path := range []string{"statistic", "df", "p.value", "p.log10", "g", "gp.log10", "cramersV", "cramersVCorrected", "contingency", "smallestExpected", "lowPercent"} {
			path = "independence." + path
			assert.InDelta(t, as[path], other[path], 1e-11*math.Max(1, math.Abs(as[path].(float64))), "%s swapped: %s", path, what)
			assert.InDelta(t, as[path], moved[path], 1e-11*math.Max(1, math.Abs(as[path].(float64))), "%s moved: %s", path, what)
		}
		for r := range rows {
			sum, of := 0.0, 0.0
			for c := range columns {
				cell := fmt.Sprintf("independence.cells.%d.%d.", r, c)
				sum, of = sum+as[cell+"rowPercent"].(float64), of+as[cell+"difference"].(float64)
				assert.InDelta(t, as[cell+"adjusted"], other[fmt.Sprintf("independence.cells.%d.%d.adjusted", c, r)], 1e-10, what)
				assert.GreaterOrEqual(t, as[cell+"holmP.value"], as[cell+"adjustedP.value"], what)
			}
			assert.InDelta(t, 100, sum, 1e-10, what)
			assert.InDelta(t, 0, of, 1e-9, what)
		}

		two := [][]int64{table[0][:2], table[1][:2]}
		first, second := flat(t, crossed(survey.Single, two), fmt.Sprintf(shares, 1, 2)), flat(t, crossed(survey.Single, two), fmt.Sprintf(shares, 2, 1))
		for _, path := range []string{"z", "difference"} {
			assert.InDelta(t, -first[path].(float64), second[path], 1e-12, what)
		}
		for _, kind := range []string{"wald", "newcombe"} {
			assert.InDelta(t, -first[kind+".lower"].(float64), second[kind+".upper"], 1e-12, what)
			assert.LessOrEqual(t, first[kind+".lower"], first["difference"], what)
			assert.GreaterOrEqual(t, first[kind+".upper"], first["difference"], what)
		}
		assert.InEpsilon(t, 1/first["oddsRatio"].(float64), second["oddsRatio"], 1e-12, what)
		assert.InEpsilon(t, 1/first["relativeRisk"].(float64), second["relativeRisk"], 1e-12, what)
		assert.InEpsilon(t, first["tails.less.value"], second["tails.greater.value"], 1e-11, what)
		assert.InEpsilon(t, first["exact.less.value"], second["exact.greater.value"], 1e-11, what)
		assert.InEpsilon(t, first["exact.twoSided.value"], second["exact.twoSided.value"], 1e-11, what)

		before, after := flat(t, crossed(survey.Single, two), paired), flat(t, crossed(survey.Single, swapped(two)), paired)
		for _, path := range []string{"mcNemar.statistic", "mcNemar.exact.value", "mcNemar.midP.value", "symmetry.statistic", "kappa.value", "kappa.standardError"} {
			assert.InDelta(t, before[path], after[path], 1e-12, "%s: %s", path, what)
		}
		assert.Equal(t, before["mcNemar.changed01"], after["mcNemar.changed10"], what)
	}
}

// Of every share the intervals hold it, lie within 0 and 1, and those of the complement are the
// same from the other end; a wider confidence holds a narrower one.
func TestIntervalsOfAShare(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(34, 55))
	spec := `{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["%d"],"claimed":"50 %%","direction":"different","role":"null","level":%v,"source":{}}}`
	for range 80 {
		n := 1 + rng.Int64N(400)
		yes := rng.Int64N(n + 1)
		source := analysis.Typed{Questions: []analysis.TypedQuestion{answersOf("q", yes, n-yes)}}
		usual := flat(t, source, fmt.Sprintf(spec, 1, 0.05))
		none := flat(t, source, fmt.Sprintf(spec, 2, 0.05))
		wide := flat(t, source, fmt.Sprintf(spec, 1, 0.01))
		what := fmt.Sprintf("%d of %d", yes, n)
		at := usual["estimate"].(float64)
		for _, kind := range []string{"wilson", "wilsonCorrected", "clopperPearson", "jeffreys", "agrestiCoull", "wald"} {
			lower, upper := usual["intervals."+kind+".lower"].(float64), usual["intervals."+kind+".upper"].(float64)
			assert.True(t, 0 <= lower && lower <= at+1e-15 && at <= upper+1e-15 && upper <= 1, "%s of %s: %v to %v", kind, what, lower, upper)
			assert.InDelta(t, 1-upper, none["intervals."+kind+".lower"], 1e-12, "%s of %s", kind, what)
			assert.True(t, wide["intervals."+kind+".lower"].(float64) <= lower && upper <= wide["intervals."+kind+".upper"].(float64), "%s of %s", kind, what)
		}
		assert.InDelta(t, -usual["z"].(float64), none["z"], 1e-12, what)
		assert.InDelta(t, usual["exact.less.value"], none["exact.greater.value"], 1e-12, what)
		assert.InDelta(t, 1, usual["score.less.value"].(float64)+usual["score.greater.value"].(float64), 1e-12, what)
	}
}

// More respondents never make a test weaker, a smaller departure never makes it stronger, and the
// number that is proposed is the first that suffices.
func TestPlansAreMonotone(t *testing.T) {
	t.Parallel()
	number := func(method, settings, path string) float64 {
		return flat(t, analysis.Typed{}, specOf(method, "", settings))[path].(float64)
	}
	for _, w := range []float64{0.1, 0.2, 0.35} {
		last := 0.0
		for _, n := range []int{20, 50, 120, 300, 800} {
			power := number("planning/chi-square", fmt.Sprintf(`"df":3,"find":"power","level":0.05,"n":%d,"power":"","w":%v`, n, w), "power")
			assert.GreaterOrEqual(t, power, last)
			assert.LessOrEqual(t, number("planning/chi-square", fmt.Sprintf(`"df":3,"find":"power","level":0.05,"n":%d,"power":"","w":%v`, n, w/2), "power"), power)
			last = power
		}
		n := number("planning/chi-square", fmt.Sprintf(`"df":3,"find":"n","level":0.05,"power":"0.8","w":%v`, w), "n")
		enough := fmt.Sprintf(`"df":3,"find":"power","level":0.05,"n":%v,"power":"","w":%v`, n, w)
		short := fmt.Sprintf(`"df":3,"find":"power","level":0.05,"n":%v,"power":"","w":%v`, n-1, w)
		assert.GreaterOrEqual(t, number("planning/chi-square", enough, "power"), 0.8)
		assert.Less(t, number("planning/chi-square", short, "power"), 0.8)
	}
	for _, margin := range []string{"1 %", "2.5 %", "4 %", "10 %"} {
		n := number("planning/margin", fmt.Sprintf(`"confidence":"0.95","find":"n","margin":%q,"share":"0.5"`, margin), "n")
		some := number("planning/margin", fmt.Sprintf(`"confidence":"0.95","find":"n","margin":%q,"share":"0.2"`, margin), "n")
		few := number("planning/margin", fmt.Sprintf(`"confidence":"0.95","find":"n","margin":%q,"share":"0.5","population":1000`, margin), "n")
		assert.Less(t, some, n)
		assert.LessOrEqual(t, few, math.Min(n, 1000))
	}
}
