package methods_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/resultjson"
	"widetally/core/survey"
	"widetally/internal/workedcases"
)

// Typed answers and the specs that ask of them.

func answersOf(key string, counts ...int64) analysis.TypedQuestion {
	q := analysis.TypedQuestion{Key: analysis.Key(key), Counts: counts}
	for i := range counts {
		q.Categories = append(q.Categories, analysis.TypedCategory{Code: strconv.Itoa(i + 1)})
	}
	return q
}

// crossed is two questions with a table, or three with one for each answer of the third.
func crossed(kind survey.Kind, tables ...[][]int64) analysis.Typed {
	rows, columns := answersOf("rows", make([]int64, len(tables[0]))...), answersOf("columns", make([]int64, len(tables[0][0]))...)
	rows.Counts, columns.Counts, rows.Kind, columns.Kind = nil, nil, kind, kind
	out := analysis.Typed{Questions: []analysis.TypedQuestion{rows, columns}}
	x := analysis.TypedCrosstab{Rows: "rows", Columns: "columns", Counts: tables}
	if len(tables) > 1 {
		layers := answersOf("layers", make([]int64, len(tables))...)
		layers.Counts, x.Layers = nil, "layers"
		out.Questions = append(out.Questions, layers)
	}
	out.Crosstabs = []analysis.TypedCrosstab{x}
	return out
}

// result asks a spec of a source and gives the result as it would be sent.
func result(t *testing.T, source analysis.Typed, spec string) map[string]any {
	t.Helper()
	require.NoError(t, source.Check())
	s, err := registry.Spec([]byte(spec))
	require.NoError(t, err, spec)
	counted, err := analysis.Count(context.Background(), s, source)
	require.NoError(t, err)
	o, err := analysis.Run(analysis.Work{Context: context.Background(), Steps: analysis.UsualSteps, Replicates: analysis.UsualReplicates}, s, counted)
	require.NoError(t, err)
	require.NoError(t, o.Refusal, spec)
	raw, err := resultjson.Encode(o.Result)
	require.NoError(t, err)
	var out map[string]any
	require.NoError(t, json.Unmarshal(raw, &out))
	return out
}

// at follows a path through what was sent: members parted by dots, an asterisk for all of a list.
func at(v any, path string) any {
	for path != "" {
		var step string
		step, path, _ = strings.Cut(path, ".")
		switch in := v.(type) {
		case map[string]any:
			v = in[step]
		case []any:
			if step != "*" {
				i, _ := strconv.Atoi(step)
				v = in[i]
				continue
			}
			out := make([]any, len(in))
			for i, x := range in {
				out[i] = at(x, path)
			}
			return out
		default:
			return nil
		}
	}
	return v
}

// agrees compares what was computed with what is expected; null is not compared, and an infinite
// figure is none.
func agrees(t *testing.T, want, got any, what string) {
	t.Helper()
	switch want := want.(type) {
	case nil:
	case []any:
		list, is := got.([]any)
		require.True(t, is && len(list) == len(want), "%s: %v for %v", what, got, want)
		for i := range want {
			agrees(t, want[i], list[i], fmt.Sprintf("%s %d", what, i))
		}
	case string:
		if want == "inf" {
			assert.Nil(t, got, what)
			return
		}
		x, is := got.(float64)
		require.True(t, is, "%s: %v for %s", what, got, want)
		workedcases.Case{ID: what, Expect: map[string]any{"": want}}.Near(t, "", x)
	default:
		assert.Equal(t, want, got, what)
	}
}

// probability marks a path at which a p-value stands with its logarithm.
const probability = "probability "

func p(expect, path string) map[string]string { return map[string]string{expect: probability + path} }

func interval(expect, path string) map[string]string {
	return map[string]string{expect + ".lower": path + ".lower", expect + ".upper": path + ".upper"}
}

func together(lists ...map[string]string) map[string]string {
	out := map[string]string{}
	for _, list := range lists {
		for k, v := range list {
			out[k] = v
		}
	}
	return out
}

func table(v any) [][]int64 {
	var out [][]int64
	for _, row := range v.([]any) {
		out = append(out, counts(row))
	}
	return out
}

func counts(v any) (out []int64) {
	for _, n := range v.([]any) {
		out = append(out, int64(n.(float64)))
	}
	return out
}

func or(v any, otherwise string) string {
	if v == nil {
		return otherwise
	}
	return fmt.Sprint(v)
}

// What a spec that is asked of a source says is what the worked cases say, figure by figure: from
// the answers to the counts, the settings and the result under its name.
func TestReferenceCasesAsAsked(t *testing.T) {
	t.Parallel()
	sided := func(kind string) map[string]string {
		return together(p("less_p_value", kind+".less"), p("greater_p_value", kind+".greater"), p("two_sided_p_value", kind+".twoSided"))
	}
	margins := func(list map[string]string) map[string]string {
		return together(list, map[string]string{"statistic": "independence.statistic", "df": "independence.df", "n": "independence.n", "critical_value": "independence.criticalValue",
			"reject": "independence.reject", "g_statistic": "independence.g", "cohens_w": "independence.cohensW", "cramers_v": "independence.cramersV",
			"cramers_v_bias_corrected": "independence.cramersVCorrected", "contingency_coefficient": "independence.contingency",
			"contingency_coefficient_adjusted": "independence.contingencyScaled", "count_expected_below_5": "independence.lowCells",
			"percent_expected_below_5": "independence.lowPercent", "min_expected": "independence.smallestExpected",
			"row_total": "independence.rowTotals", "column_total": "independence.columnTotals", "expected": "independence.cells.*.*.expected",
			"row_percent": "independence.cells.*.*.rowPercent", "column_percent": "independence.cells.*.*.columnPercent", "total_percent": "independence.cells.*.*.totalPercent",
			"residual": "independence.cells.*.*.difference", "contribution": "independence.cells.*.*.contribution", "pearson_residual": "independence.cells.*.*.pearson",
			"adjusted_residual": "independence.cells.*.*.adjusted", "cell_p_value": "independence.cells.*.*.adjustedP.value", "cell_holm_p_value": "independence.cells.*.*.holmP.value"},
			p("p_value", "independence.p"), p("g_p_value", "independence.gp"))
	}
	kinds := map[string]struct {
		// asks makes the source and the spec of a case; "" where the case is not asked in this way.
		asks func(in map[string]any) (analysis.Typed, string)
		says func(in map[string]any) map[string]string
	}{
		"gof": {func(in map[string]any) (analysis.Typed, string) {
			var figures []string
			for i, share := range in["shares"].([]any) {
				figures = append(figures, fmt.Sprintf(`{"code":"%d","figure":"%v"}`, i+1, share))
			}
			return analysis.Typed{Questions: []analysis.TypedQuestion{answersOf("q", counts(in["observed"])...)}},
				fmt.Sprintf(`{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"role":"null","level":%v,"shares":{"scale":"ratio","figures":[%s],"source":{"kind":"theory","title":"shares"}}}}`, in["alpha"], strings.Join(figures, ","))
		}, func(map[string]any) map[string]string {
			return together(map[string]string{"n": "goodnessOfFit.n", "share": "goodnessOfFit.rows.*.share", "observed_share": "goodnessOfFit.rows.*.observedShare",
				"expected": "goodnessOfFit.rows.*.expected", "residual": "goodnessOfFit.rows.*.difference", "contribution": "goodnessOfFit.rows.*.contribution",
				"pearson_residual": "goodnessOfFit.rows.*.pearson", "standardized_residual": "goodnessOfFit.rows.*.adjusted", "statistic": "goodnessOfFit.statistic",
				"df": "goodnessOfFit.df", "critical_value": "goodnessOfFit.criticalValue", "reject": "goodnessOfFit.reject", "g_statistic": "goodnessOfFit.g",
				"cohens_w": "goodnessOfFit.cohensW", "count_expected_below_5": "goodnessOfFit.lowCells", "percent_expected_below_5": "goodnessOfFit.lowPercent",
				"min_expected": "goodnessOfFit.smallestExpected"}, p("p_value", "goodnessOfFit.p"), p("g_p_value", "goodnessOfFit.gp"))
		}},
		"one_proportion": {func(in map[string]any) (analysis.Typed, string) {
			if or(in["level"], "0.95") != "0.95" {
				return analysis.Typed{}, ""
			}
			yes, n := int64(in["successes"].(float64)), int64(in["n"].(float64))
			return analysis.Typed{Questions: []analysis.TypedQuestion{answersOf("q", yes, n-yes)}},
				fmt.Sprintf(`{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["1"],"claimed":"%v","direction":"less","role":"null","level":0.05,"source":{}}}`, in["p0"])
		}, func(map[string]any) map[string]string {
			out := together(map[string]string{"estimate": "estimate", "se_null": "standardErrorNull", "z": "z", "z_cc": "zCorrected"}, sided("score"), p("z_cc_two_sided_p_value", "zCorrectedP"),
				p("exact_less_p_value", "exact.less"), p("exact_greater_p_value", "exact.greater"), p("exact_two_sided_p_value", "exact.twoSided"),
				map[string]string{"interval.wald.lower_raw": "intervals.waldUncut.lower", "interval.wald.upper_raw": "intervals.waldUncut.upper"})
			for theirs, ours := range map[string]string{"wald": "wald", "agresti_coull": "agrestiCoull", "wilson": "wilson", "wilson_cc": "wilsonCorrected", "clopper_pearson": "clopperPearson", "jeffreys": "jeffreys"} {
				out = together(out, interval("interval."+theirs, "intervals."+ours))
			}
			return out
		}},
		"two_proportions": {func(in map[string]any) (analysis.Typed, string) {
			if or(in["level"], "0.95") != "0.95" {
				return analysis.Typed{}, ""
			}
			n := func(key string) int64 { return int64(in[key].(float64)) }
			return crossed(survey.Single, [][]int64{{n("n1") - n("x1"), n("x1")}, {n("n2") - n("x2"), n("x2")}}),
				`{"method":"two-proportions","version":1,"questions":["columns","rows"],"settings":{"success":["2"],"groups":{"first":"1","second":"2"},"direction":"different","role":"null","level":0.05}}`
		}, func(map[string]any) map[string]string {
			return together(map[string]string{"estimate_1": "estimate1", "estimate_2": "estimate2", "difference": "difference", "pooled": "pooled", "se_pooled": "standardErrorPooled",
				"se_unpooled": "standardErrorUnpooled", "z": "z"}, sided("tails"), interval("wald", "wald"), interval("newcombe", "newcombe"))
		}},
		"independence": {func(in map[string]any) (analysis.Typed, string) {
			return crossed(survey.Single, table(in["table"])),
				fmt.Sprintf(`{"method":"crosstab","version":1,"questions":["columns","rows"],"settings":{"reading":"row","test":{"role":"null","level":%s}}}`, or(in["alpha"], "0.05"))
		}, func(in map[string]any) map[string]string {
			if rows := table(in["table"]); len(rows) != 2 || len(rows[0]) != 2 || in["level"] != nil {
				return margins(nil)
			}
			return margins(together(map[string]string{"phi": "twoByTwo.phi", "difference": "twoByTwo.shares.difference", "odds_ratio": "twoByTwo.shares.oddsRatio",
				"relative_risk": "twoByTwo.shares.relativeRisk", "yates_statistic": "twoByTwo.yates"}, p("yates_p_value", "twoByTwo.yatesP"),
				p("fisher_two_sided_p_value", "twoByTwo.fisher.twoSided"), p("fisher_less_p_value", "twoByTwo.fisher.less"), p("fisher_greater_p_value", "twoByTwo.fisher.greater"),
				interval("difference_wald", "twoByTwo.shares.wald"), interval("difference_newcombe", "twoByTwo.shares.newcombe"),
				interval("odds_ratio_woolf", "twoByTwo.shares.oddsRatioInterval"), interval("relative_risk_log", "twoByTwo.shares.relativeRiskInterval")))
		}},
		"mcnemar": {asksPaired, func(map[string]any) map[string]string {
			return together(map[string]string{"statistic": "mcNemar.statistic", "statistic_cc": "mcNemar.corrected"}, p("p_value", "mcNemar.p"), p("cc_p_value", "mcNemar.correctedP"),
				p("exact_p_value", "mcNemar.exact"), p("mid_p_value", "mcNemar.midP"))
		}},
		"agreement": {asksPaired, func(map[string]any) map[string]string {
			return together(map[string]string{"bowker_statistic": "symmetry.statistic", "bowker_df": "symmetry.df", "observed_agreement": "kappa.observed",
				"expected_agreement": "kappa.expected", "kappa": "kappa.value", "kappa_se": "kappa.standardError", "kappa_se_null": "kappa.standardErrorNull",
				"kappa_z": "kappa.z"}, p("bowker_p_value", "symmetry.p"), p("kappa_two_sided_p_value", "kappa.p"), interval("kappa_interval", "kappa.interval"))
		}},
		"cmh": {func(in map[string]any) (analysis.Typed, string) {
			if in["level"] != nil {
				return analysis.Typed{}, ""
			}
			var tables [][][]int64
			for _, one := range in["strata"].([]any) {
				tables = append(tables, table(one))
			}
			return crossed(survey.Single, tables...), `{"method":"mantel-haenszel","version":1,"questions":["rows","columns","layers"],"settings":{"reading":"row","test":{"role":"null","level":0.05}}}`
		}, func(map[string]any) map[string]string {
			return together(map[string]string{"statistic": "statistic", "df": "df", "statistic_cc": "corrected", "common_odds_ratio": "commonOddsRatio", "log_odds_ratio_se": "logStandardError",
				"breslow_day_statistic": "homogeneity.statistic", "breslow_day_df": "homogeneity.df", "tarone_statistic": "homogeneity.tarone"},
				p("p_value", "p"), p("cc_p_value", "correctedP"), p("breslow_day_p_value", "homogeneity.p"), p("tarone_p_value", "homogeneity.taroneP"),
				interval("common_odds_ratio_interval", "interval"))
		}},
		"simultaneous": {func(in map[string]any) (analysis.Typed, string) {
			alpha, _ := strconv.ParseFloat(in["alpha"].(string), 64)
			return analysis.Typed{Questions: []analysis.TypedQuestion{answersOf("q", counts(in["observed"])...)}},
				fmt.Sprintf(`{"method":"simultaneous-intervals","version":1,"questions":["q"],"settings":{"confidence":%v}}`, 1-alpha)
		}, func(map[string]any) map[string]string {
			return map[string]string{"estimate": "estimates", "goodman.quantile": "goodmanQuantile", "goodman.lower": "goodman.*.lower", "goodman.upper": "goodman.*.upper",
				"quesenberry_hurst.quantile": "quesenberryHurstQuantile", "quesenberry_hurst.lower": "quesenberryHurst.*.lower", "quesenberry_hurst.upper": "quesenberryHurst.*.upper",
				"sison_glaz.c": "sisonGlaz.c", "sison_glaz.lower": "sisonGlaz.intervals.*.lower", "sison_glaz.upper": "sisonGlaz.intervals.*.upper"}
		}},
		"numeric_summary": {func(in map[string]any) (analysis.Typed, string) {
			q := analysis.TypedQuestion{Key: "q", Kind: survey.Discrete, ValueCounts: counts(in["frequency"])}
			for _, v := range in["values"].([]any) {
				q.Values = append(q.Values, v.(float64))
			}
			return analysis.Typed{Questions: []analysis.TypedQuestion{q}},
				`{"method":"numeric-summary","version":1,"questions":["q"],"settings":{"parts":4,"picture":"histogram","height":"count"}}`
		}, func(in map[string]any) map[string]string {
			out := map[string]string{"n": "n", "sum": "sum", "mean": "mean", "median": "median", "modes": "modes", "min": "smallest", "max": "largest", "range": "range",
				"variance": "variance", "sd": "sd", "se_mean": "standardError", "value": "rows.*.value", "count": "rows.*.count",
				"cumulative_count": "rows.*.cumulativeCount", "relative": "rows.*.share", "cumulative_relative": "rows.*.cumulativeShare"}
			if in["level"] == nil {
				out = together(out, interval("mean_interval", "meanInterval"))
			}
			return out
		}},
		"sample_size": {func(in map[string]any) (analysis.Typed, string) {
			switch in["mode"] {
			case "margin":
				population := ""
				if in["population"] != nil {
					population = fmt.Sprintf(`,"population":%v`, in["population"])
				}
				return analysis.Typed{}, fmt.Sprintf(`{"method":"planning/margin","version":1,"questions":[],"settings":{"confidence":"%s","find":"n","margin":"%v %%","share":"%v"%s}}`,
					in["level"], percent(in["margin"]), in["p"], population)
			case "one":
				return analysis.Typed{}, fmt.Sprintf(`{"method":"planning/one-proportion","version":1,"questions":[],"settings":{"claimed":"%v","direction":"different","find":"n","level":%v,"power":"%v","true":"%v"}}`, in["p0"], in["alpha"], in["power"], in["p1"])
			}
			return analysis.Typed{}, fmt.Sprintf(`{"method":"planning/two-proportions","version":1,"questions":[],"settings":{"share1":"%v","find":"n","level":%v,"power":"%v","share2":"%v"}}`, in["p1"], in["alpha"], in["power"], in["p2"])
		}, func(in map[string]any) map[string]string {
			switch {
			case in["mode"] == "two":
				return map[string]string{"n_unrounded": "nUnrounded", "n": "n1"}
			case in["population"] != nil:
				return map[string]string{"n_unrounded": "nUnrounded", "n_finite_unrounded": "nFinite", "n_finite": "n"}
			}
			return map[string]string{"n_unrounded": "nUnrounded", "n": "n"}
		}},
		"required_n": {func(in map[string]any) (analysis.Typed, string) {
			return analysis.Typed{}, fmt.Sprintf(`{"method":"planning/chi-square","version":1,"questions":[],"settings":{"df":%v,"find":"n","level":%v,"power":"%v","w":%v}}`, in["df"], in["alpha"], in["power"], in["w"])
		}, func(map[string]any) map[string]string {
			return map[string]string{"n": "n", "power": "power", "power_at_n_minus_1": "powerOneFewer"}
		}},
		"power_chi2": {func(in map[string]any) (analysis.Typed, string) {
			return analysis.Typed{}, fmt.Sprintf(`{"method":"planning/chi-square","version":1,"questions":[],"settings":{"df":%v,"find":"power","level":%v,"n":%v,"power":"","w":%v}}`, in["df"], in["alpha"], in["n"], in["w"])
		}, func(map[string]any) map[string]string {
			return map[string]string{"critical_value": "criticalValue", "noncentrality": "noncentrality", "power": "power", "type_2_error": "type2Error"}
		}},
		"distribution": {func(in map[string]any) (analysis.Typed, string) {
			ask := func(rest string) string {
				return `{"method":"distribution","version":1,"questions":[],"settings":{"find":"tails",` + rest + `}}`
			}
			switch in["name"] {
			case "chi_square":
				return analysis.Typed{}, ask(fmt.Sprintf(`"name":"chi_square","df":%v,"x":%v`, in["df"], in["x"]))
			case "normal":
				return analysis.Typed{}, ask(fmt.Sprintf(`"name":"normal","x":%v`, in["z"]))
			case "t":
				return analysis.Typed{}, ask(fmt.Sprintf(`"name":"student_t","df":%v,"x":%v`, in["df"], in["t"]))
			}
			return analysis.Typed{}, ""
		}, func(in map[string]any) map[string]string {
			if in["name"] == "chi_square" {
				return together(p("lower_p_value", "lower"), p("upper_p_value", "upper"))
			}
			return together(p("less_p_value", "lower"), p("greater_p_value", "upper"))
		}},
	}
	for name, kind := range kinds {
		asked := 0
		for _, c := range workedcases.Load(t, name) {
			input := map[string]any{}
			for member := range c.Input {
				input[member] = workedcases.In[any](t, c, member)
			}
			source, spec := kind.asks(input)
			if spec == "" {
				continue
			}
			asked++
			t.Run(c.ID, func(t *testing.T) {
				got := result(t, source, spec)
				number := func(path string) float64 { x, _ := at(got, path).(float64); return x }
				compared := 0
				for expect, path := range kind.says(input) {
					want := at(c.Expect, expect)
					if want != nil {
						compared++
					}
					if path, is := strings.CutPrefix(path, probability); is {
						c.NearProb(t, expect, number(path+".value"), number(path+".log10"))
						continue
					}
					agrees(t, want, at(got, path), c.ID+" "+expect)
				}
				require.NotZero(t, compared)
			})
		}
		assert.NotZero(t, asked, "no case of %s is asked", name)
	}
}

func asksPaired(in map[string]any) (analysis.Typed, string) {
	if in["level"] != nil {
		return analysis.Typed{}, ""
	}
	return crossed(survey.Single, table(in["table"])), `{"method":"paired","version":1,"questions":["rows","columns"],"settings":{"role":"null","level":0.05}}`
}

func percent(v any) float64 {
	x, _ := strconv.ParseFloat(fmt.Sprint(v), 64)
	return math.Round(x*1e6) / 1e4
}
