package httpapi

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/workedcases"
)

// raw gives an input of a case as JSON.
func raw(c workedcases.Case, name string) string { return string(c.Input[name]) }

// plain gives an input that may be written as a text or a ratio as a number.
func plain(t *testing.T, c workedcases.Case, name, otherwise string) string {
	if c.Input[name] == nil {
		return otherwise
	}
	return fmt.Sprintf("%.17g", workedcases.Float(t, c, name))
}

// The worked cases of designed samples, sent as they stand.
func TestDesignedCasesOverHTTP(t *testing.T) {
	t.Parallel()
	c := newComputeClient(t)
	for _, example := range workedcases.Designed(t) {
		if why, refused := example.Expect["refused"].(string); refused {
			problem := c.call("POST", "/compute/"+example.Path(), string(example.Body(t)), 422)
			assert.Equal(t, "compute."+why, problem["code"], example.ID)
			continue
		}
		example.Answered(t, c.call("POST", "/compute/"+example.Path(), string(example.Body(t)), 200)["result"].(map[string]any))
	}
}

// The worked cases once more, as somebody would ask them over HTTP: every input goes
// where it belongs and every figure comes back under its name.
func TestReferenceCasesOverHTTP(t *testing.T) {
	t.Parallel()
	c := newComputeClient(t)
	tails := func(prefix, at string) map[string]string {
		return map[string]string{prefix + "less_p_value": at + ".less.value", prefix + "greater_p_value": at + ".greater.value", prefix + "two_sided_p_value": at + ".twoSided.value"}
	}
	with := func(all ...map[string]string) map[string]string {
		out := map[string]string{}
		for _, m := range all {
			for k, v := range m {
				out[k] = v
			}
		}
		return out
	}
	for _, k := range []struct {
		kind, path string
		body       func(c workedcases.Case) string
		figures    map[string]string
	}{
		{"gof", "goodness-of-fit", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"observed":%s,"shares":%s,"scale":"ratio","level":%s}`, raw(c, "observed"), raw(c, "shares"), plain(t, c, "alpha", "0.05"))
		}, map[string]string{"n": "goodnessOfFit.n", "statistic": "goodnessOfFit.statistic", "df": "goodnessOfFit.df", "p_value_log10": "goodnessOfFit.p.log10", "g_statistic": "goodnessOfFit.g", "g_p_value_log10": "goodnessOfFit.gp.log10",
			"critical_value": "goodnessOfFit.criticalValue", "cohens_w": "goodnessOfFit.cohensW", "cramers_v": "goodnessOfFit.effects.2.value"}},
		{"independence", "crosstab", func(c workedcases.Case) string {
			exact := ""
			if c.Input["exact"] != nil {
				exact = `,"exact":{"way":"exact"}`
			}
			return fmt.Sprintf(`{"table":%s,"level":%s%s}`, raw(c, "table"), plain(t, c, "alpha", "0.05"), exact)
		}, map[string]string{"statistic": "independence.statistic", "df": "independence.df", "p_value_log10": "independence.p.log10", "g_statistic": "independence.g", "cramers_v": "independence.cramersV",
			"cramers_v_bias_corrected": "independence.cramersVCorrected", "min_expected": "independence.smallestExpected", "exact_p_value": "exact.exact.p.value", "yates_statistic": "twoByTwo.yates", "phi": "twoByTwo.phi"}},
		{"association", "ordered", func(c workedcases.Case) string { return fmt.Sprintf(`{"table":%s}`, raw(c, "table")) },
			map[string]string{"concordant": "concordant", "gamma": "effects.0.value", "kendall_tau_b": "effects.1.value", "somers_d_columns_given_rows": "effects.3.value", "somers_d_rows_given_columns": "effects.4.value", "linear_by_linear_p_value": "trend.p.value"}},
		{"one_proportion", "one-proportion", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"successes":%s,"n":%s,"claimed":%s,"confidence":%s}`, raw(c, "successes"), raw(c, "n"), plain(t, c, "p0", ""), plain(t, c, "level", "0.95"))
		}, with(map[string]string{"z": "z", "se_null": "standardErrorNull"}, tails("", "score"), tails("exact_", "exact"))},
		{"two_proportions", "two-proportions", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"first":{"successes":%s,"n":%s},"second":{"successes":%s,"n":%s},"confidence":%s}`, raw(c, "x1"), raw(c, "n1"), raw(c, "x2"), raw(c, "n2"), plain(t, c, "level", "0.95"))
		}, with(map[string]string{"difference": "difference", "z": "z", "se_unpooled": "standardErrorUnpooled"}, tails("", "tails"))},
		{"mcnemar", "paired", func(c workedcases.Case) string { return fmt.Sprintf(`{"table":%s}`, raw(c, "table")) },
			map[string]string{"statistic": "mcNemar.statistic", "cc_p_value": "mcNemar.correctedP.value", "exact_p_value": "mcNemar.exact.value", "mid_p_value": "mcNemar.midP.value"}},
		{"agreement", "paired", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"table":%s,"confidence":%s}`, raw(c, "table"), plain(t, c, "level", "0.95"))
		}, map[string]string{"bowker_statistic": "symmetry.statistic", "bowker_df": "symmetry.df", "kappa": "kappa.value", "kappa_se": "kappa.standardError", "kappa_se_null": "kappa.standardErrorNull"}},
		{"cmh", "mantel-haenszel", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"tables":%s,"confidence":%s}`, raw(c, "strata"), plain(t, c, "level", "0.95"))
		}, map[string]string{"statistic": "statistic", "statistic_cc": "corrected", "common_odds_ratio": "commonOddsRatio", "breslow_day_statistic": "homogeneity.statistic", "tarone_p_value": "homogeneity.taroneP.value"}},
		{"numeric_summary", "numeric-summary", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"values":%s,"counts":%s,"confidence":%s}`, raw(c, "values"), raw(c, "frequency"), plain(t, c, "level", "0.95"))
		}, map[string]string{"n": "n", "mean": "mean", "median": "median", "variance": "variance", "sd": "sd", "se_mean": "standardError", "range": "range"}},
		{"grouped_summary", "grouped-summary", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"classes":%s,"counts":%s}`, strings.ReplaceAll(raw(c, "classes"), `"`, ""), raw(c, "frequency"))
		}, map[string]string{"mean": "mean", "variance": "variance", "median": "median"}},
		{"power_chi2", "planning/chi-square", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"w":%s,"n":%s,"df":%s,"level":%s}`, plain(t, c, "w", ""), raw(c, "n"), raw(c, "df"), plain(t, c, "alpha", "0.05"))
		}, map[string]string{"power": "power", "type_2_error": "type2Error", "noncentrality": "noncentrality", "critical_value": "criticalValue"}},
		{"required_n", "planning/chi-square", func(c workedcases.Case) string {
			return fmt.Sprintf(`{"w":%s,"power":%s,"df":%s,"level":%s}`, plain(t, c, "w", ""), plain(t, c, "power", ""), raw(c, "df"), plain(t, c, "alpha", "0.05"))
		}, map[string]string{"n": "n", "power": "power", "power_at_n_minus_1": "powerOneFewer"}},
	} {
		t.Run(k.kind, func(t *testing.T) {
			c.t = t
			compared := map[string]bool{}
			for _, example := range workedcases.Load(t, k.kind) {
				body := k.body(example)
				require.True(t, json.Valid([]byte(body)), body)
				result := c.call("POST", "/compute/"+k.path, body, 200)["result"]
				for name, path := range k.figures {
					if _, given := example.Expect[name].(string); !given {
						continue // not defined for that input
					}
					got, isNumber := at(t, result, path).(float64)
					require.True(t, isNumber, "%s: %s is no number", example.ID, path)
					if strings.HasSuffix(name, "_log10") {
						compared[name] = example.NearProb(t, strings.TrimSuffix(name, "_log10"), at(t, result, strings.TrimSuffix(path, "log10")+"value").(float64), got)
						continue
					}
					compared[name] = example.Near(t, name, got)
				}
			}
			for name := range k.figures {
				assert.True(t, compared[name], "%s was in no case", name)
			}
		})
	}
}
