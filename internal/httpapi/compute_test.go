package httpapi

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/pb33f/libopenapi"
	validator "github.com/pb33f/libopenapi-validator"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/semaphore"

	"widetally/api"
	"widetally/core/methods"
	"widetally/internal/i18n"
	"widetally/internal/service"
	"widetally/internal/store"
	"widetally/internal/workedcases"
)

// newComputeClient holds answers against the description of the compute routes.
func newComputeClient(t *testing.T) *client {
	c := newClient(t, service.Options{})
	doc, err := libopenapi.NewDocument(api.Compute)
	require.NoError(t, err)
	check, errs := validator.NewValidator(doc)
	require.Empty(t, errs)
	c.check = check
	return c
}

// at follows a path such as result.rows.0.p.value.
func at(t *testing.T, v any, path string) any {
	t.Helper()
	for _, step := range strings.Split(path, ".") {
		switch x := v.(type) {
		case map[string]any:
			var ok bool
			v, ok = x[step]
			require.True(t, ok, "%s: no %s", path, step)
		case []any:
			i, err := strconv.Atoi(step)
			require.NoError(t, err, path)
			require.Less(t, i, len(x), path)
			v = x[i]
		default:
			require.Fail(t, "nothing below", "%s at %s", path, step)
		}
	}
	return v
}

// Every family answers one request, as described, with a figure known beforehand: those
// of the worked cases in core/testdata, or by the hand derivation beside it.
func TestComputeFamilies(t *testing.T) {
	t.Parallel()
	c := newComputeClient(t)
	tried := map[string]bool{}
	for _, k := range []struct {
		path, body, figure string
		want               any
	}{
		{"goodness-of-fit", `{"observed":[118,203,97],"shares":[30,"45","25 %"],"scale":"percents","level":0.01}`, "result.goodnessOfFit.p.log10", -0.46800367613922990678},
		{"goodness-of-fit", `{"observed":[3,0],"shares":["1/2",0.5],"exact":{}}`, "result.exact.exact.p.value", 0.25}, // 2·(1/2)³
		{"goodness-of-fit", `{"observed":[40,20],"shares":[2,1],"scale":"ratio","exact":{"way":"simulation","replicates":50}}`, "result.exact.simulated.byChiSquare.p.value", 1.0},
		{"goodness-of-fit", `{"observed":[900,100],"shares":[1e-1,9e-1]}`, "result.goodnessOfFit.rows.0.share", 0.1},
		{"homogeneity", `{"observed":[10,20],"published":[10,20]}`, "result.test.statistic", 0.0},
		{"simultaneous-intervals", `{"observed":[43,61,27,19]}`, "result.goodman.0.lower", 0.204423144923266937},
		{"equivalence/share", `{"successes":50,"n":100,"expected":0.5,"margin":0.1}`, "result.notBelow.z", 10 / 4.898979485566356196}, // 10/√24
		{"equivalence/two-shares", `{"first":{"successes":50,"n":100},"second":{"successes":50,"n":100},"margin":0.2}`, "result.estimate", 0.0},
		{"equivalence/distribution", `{"observed":[50,50],"shares":[],"scale":"equal","margin":0.1}`, "result.answers.0.estimate", 0.0},
		{"equivalence/distribution", `{"observed":[50,50],"scale":"equal","margin":0.1}`, "result.answers.1.notAbove.z", -10 / 4.898979485566356196},
		{"one-proportion", `{"successes":57,"n":140,"claimed":0.5}`, "result.score.twoSided.value", 0.027991815485665746882},
		{"two-proportions", `{"first":{"successes":44,"n":90},"second":{"successes":61,"n":95}}`, "result.z", -2.1024925203449302768},
		{"means", `{"first":{"n":16,"mean":10,"sigma":4},"claimed":8}`, "result.normal.statistic", 2.0},
		{"one-mean", `{"n":16,"mean":10,"sd":4,"claimed":8}`, "result.student.statistic", 2.0},
		{"crosstab", `{"table":[[34,0,21],[18,0,40],[0,0,0]],"exact":{"way":"exact"}}`, "result.twoByTwo.phi", 0.30870918907435193632},
		{"ordered", `{"table":[[20,14,6],[11,17,13],[4,12,25]]}`, "result.effects.0.value", 0.56572090330052113492},
		{"mantel-haenszel", `{"tables":[[[14,22],[9,31]],[[27,13],[20,24]],[[8,5],[6,10]]]}`, "result.commonOddsRatio", 2.4028910375270272871},
		{"paired", `{"table":[[45,17],[8,52]]}`, "result.mcNemar.midP.value", 0.075518697500228881836},
		{"cochran-q", `{"patterns":[{"chosen":[true,false],"count":17},{"chosen":[false,true],"count":8},{"chosen":[true,true],"count":45}]}`, "result.statistic", 3.24}, // McNemar's for two items
		{"adjust", `{"p":["0.012",0.2,4e-4,0.03,"3e-2"]}`, "result.holm.2.value", 0.002},
		{"adjust", `{"p":["1e-400"]}`, "result.holm.0.log10", -400.0},
		{"printed-result", `{"statistic":"3.84","df":1,"p":"0.05"}`, "result.holds", true},
		{"planning/chi-square", `{"w":0.2,"df":4,"power":0.8}`, "result.n", 299.0},
		{"planning/chi-square", `{"expectedShares":[0.5,0.5],"trueShares":[0.6,0.4],"n":100}`, "result.noncentrality", 4.0}, // n·w², w = 0.2
		{"planning/chi-square", `{"jointShares":[[0.3,0.2],[0.2,0.3]],"n":100}`, "result.noncentrality", 4.0},
		{"planning/margin", `{"margin":0.025,"share":0.3,"confidence":0.9,"population":12000}`, "result.n", 846.0},
		{"planning/one-proportion", `{"claimed":0.5,"true":1,"n":5}`, "result.exact.power", 0.0}, // 2/2⁵ is above 5 %
		{"planning/two-proportions", `{"share1":0.5,"n1":100,"n2":100,"power":0.8}`, "result.share1", 0.5},
		{"distribution", `{"name":"chi_square","df":10,"x":2500}`, "result.upper.log10", -531.85928271520400194},
		{"distribution", `{"name":"normal","upperTail":1e-300}`, "result.upper.log10", -300.0},
		{"distribution", `{"name":"binomial","n":4,"share":0.5,"x":3}`, "result.upper.value", 5.0 / 16},
		{"numeric-summary", `{"values":[0,1,2,10],"counts":[5,5,3,1],"percents":[66,95]}`, "result.percentilesAtNMinus1.1", 4.8},
		{"battery", `{"counts":[[1,2,3,4],[0,0,0,0]],"nets":true}`, "result.topTwo.0", 0.7},
		{"frequency", `{"counts":[12,40,64,80,64,40,20]}`, "result.cumulativeOf.2", 0.3625},
		{"frequencies", `{"questions":[{"counts":[1,3]},{"counts":[0,0],"missing":4}]}`, "result.0.shares.1", 0.75},
		{"dissimilarity", `{"table":[[30,10],[10,30]]}`, "result.indices.0.estimate", 0.5},
		{"crosstabs", `{"tables":[[[3,1],[1,5]]]}`, "result.0.ofColumns.0.0", 0.75},
		{"what-differs", `{"tables":[[[30,30],[31,29]],[[50,10],[9,51]]]}`, "result.0.at", 1.0},
		{"trend", `{"waves":[[30,70],[45,55],[50,50]]}`, "result.rows.0.changes.1.difference", 0.05},
		{"multiple-response-by-group", `{"counts":[[3,4],[1,0]],"bases":[4,6]}`, "result.ofAll.0", 0.4},
		{"numeric-comparison", `{"lists":[{"values":[1,2,6]},{"values":[]}]}`, "result.0.mean", 3.0},
		{"numeric-by-group", `{"lists":[{"values":[1,2,6],"counts":[1,1,2]}]}`, "result.0.median", 4.0},
		{"ordered-summary", `{"counts":[2,0,2],"scores":[-1,0,3]}`, "result.meanScore", 1.0},
		{"ordered-summary", `{"counts":[5,0,0,5]}`, "result.upper.1", 3.0},
		{"multiple-response", `{"counts":[7,5,0],"chosen":[1,4,4]}`, "result.ofResponses.0", 7.0 / 12},
		{"grouped-summary", `{"classes":[[18,25],[25,35],[35,50],[50,65],[65,90]],"counts":[22,41,37,30,11]}`, "result.median", 38.040540540540540541},
	} {
		t.Run(k.path, func(t *testing.T) {
			c.t = t
			tried[k.path] = true
			if code, ok := k.want.(string); ok && k.figure == "" {
				assert.Equal(t, code, c.call("POST", "/compute/"+k.path, k.body, 422)["code"])
				return
			}
			got := at(t, c.call("POST", "/compute/"+k.path, k.body, 200), k.figure)
			if want, ok := k.want.(float64); ok {
				assert.InDelta(t, want, got, 1e-12*max(1, want, -want), "%s %s", k.body, k.figure)
			} else {
				assert.Equal(t, k.want, got)
			}
		})
	}
	for _, example := range workedcases.Designed(t) {
		tried[example.Path()] = true // in TestDesignedCasesOverHTTP
	}
	var described struct {
		Paths map[string]map[string]struct {
			RequestBody struct {
				Content map[string]struct{ Example json.RawMessage }
			}
		}
	}
	require.NoError(t, json.Unmarshal(api.Compute, &described))
	for _, f := range methods.All().All() {
		assert.True(t, tried[f.Name], "no request tried for %s", f.Name)
		example := described.Paths["/compute/"+f.Name]["post"].RequestBody.Content["application/json"].Example
		c.t = t
		c.call("POST", "/compute/"+f.Name, string(example), 200)
	}
}

func TestComputeRefuses(t *testing.T) {
	t.Parallel()
	c := newComputeClient(t)
	fractions := make([]string, 1001)
	for i := range fractions {
		fractions[i] = "1"
	}
	thousandAndOne := strings.Join(fractions, ",")
	for _, k := range []struct {
		path, body string
		status     int
		code       string
		says       string
	}{
		{"goodness-of-fit", `{"observed":[1,2],"shares":[0.5,0.4]}`, 422, "shares.sum_off_short", "add to 0.9, 0.1 short of 1"},
		{"goodness-of-fit", `{"observed":[1,2],"shares":[0.5,"half"]}`, 422, "shares.not_a_number", "“half” for “2”"},
		{"goodness-of-fit", `{"observed":[1,2],"shares":[0,1]}`, 422, "compute.chosen_but_share_zero", "no p-value exists; check the share or the count. This is about entry 1 of “shares”"},
		{"goodness-of-fit", `{"observed":[1,2],"shares":[0.5,0.5],"scale":"permille"}`, 422, "compute.unknown_name", ""},
		{"goodness-of-fit", `{"observed":[1,2],"shares":["1/3000001","3000000/3000001"]}`, 422, "compute.out_of_domain", ""},
		{"goodness-of-fit", `{"observed":[` + thousandAndOne + `],"scale":"equal"}`, 422, "compute.too_many_answers", ""},
		{"goodness-of-fit", `{"observed":[1,2],"shares":[1,1],"scale":"ratio","exact":{"replicates":1000001}}`, 422, "compute.simulation_range", ""},
		{"goodness-of-fit", `{"observed":[1.5,2]}`, 400, "http.wrong_type", "observed holds number 1.5 where a whole number belongs"},
		{"goodness-of-fit", `{"observed":3}`, 400, "http.wrong_type", "observed holds number where a list belongs"},
		{"goodness-of-fit", `{"observed":[1,2],"rescale":1}`, 400, "http.wrong_type", "where true or false belongs"},
		{"printed-result", `{"statistic":9.4}`, 400, "http.wrong_type", "where text belongs"},
		{"means", `{"first":7}`, 400, "http.wrong_type", "where an object belongs"},
		{"means", `{"first":{"mean":"x"}}`, 400, "http.wrong_type", "first.mean holds string where a number belongs"},
		{"goodness-of-fit", `{"observed":[1,2],"share":[1,1]}`, 400, "http.bad_json", "share"},
		{"crosstab", `{"table":[[1,2],[3]]}`, 422, "compute.ragged_table", "entry 2"},
		{"crosstab", `{"table":[[1,-2],[3,4]]}`, 422, "compute.negative_count", ""},
		{"crosstab", `{"table":[[9000000000000,9000000000000],[3,4]]}`, 422, "compute.count_too_large", ""},
		{"mantel-haenszel", `{"tables":[[[1,2],[3,4]],[[1,2]]]}`, 422, "compute.pair_length", "entry 2"},
		{"paired", `{"table":[[1,2,3],[4,5,6]]}`, 422, "compute.not_square", ""},
		{"adjust", `{"p":[0.5,1.5]}`, 422, "compute.probability_range", "entry 2"},
		{"distribution", `{"name":"chi_square","df":-1,"x":1}`, 422, "compute.range_above", "“df” must be above 0 and at most 1e+09"},
		{"distribution", `{"name":"student_t","df":1e300,"x":1}`, 422, "compute.range_above", "“df” must be above 0 and at most 1e+15"},
		{"distribution", `{"name":"chi_square","df":1}`, 422, "compute.nothing_asked", ""},
		{"means", `{"first":{"n":4,"mean":1e90,"sd":1e-100},"second":{"n":4,"mean":-1e90,"sd":1e-100}}`, 422, "compute.not_computable", "result.student"},
		{"planning/chi-square", `{"df":1}`, 422, "compute.two_of_three", ""},
		{"multiple-response-by-group", `{"counts":[[5]],"bases":[4]}`, 422, "compute.responses_disagree", ""},
		{"crosstabs", `{"tables":[[[1,2],[3]]]}`, 422, "compute.counts_length", ""},
		{"ordered-summary", `{"counts":[1,2],"percents":[101]}`, 422, "compute.percent_range", ""},
		{"nothing-like-it", `{}`, 404, "http.unknown_family", "no computation called “nothing-like-it”. There are: goodness-of-fit"},
		{"means", `{"first":{"n":10,"mean":3}}`, 422, "compute.lacking", "“first.sd” is missing"},
		{"means", ` `, 400, "http.empty_body", "Send a JSON object"},
		{"means", `[]`, 400, "http.not_an_object", ""},
		{"means", `null`, 400, "http.not_an_object", ""},
		{"means", `{"first":null}`, 422, "http.null", "“first” is null"},
		{"means", `{"first":{"n":4,"mean":null,"sd":1}}`, 422, "http.null", "“first.mean” is null"},
		{"numeric-summary", `{"values":[1,null,3]}`, 422, "http.null", "“values[2]” is null"},
		{"numeric-summary", `{"values":[1,2],"counts":[1,null]}`, 422, "http.null", "“counts[2]” is null"},
		{"grouped-summary", `{"classes":[[1,2],[2,null]],"counts":[1,2]}`, 422, "http.null", "“classes[2][2]” is null"},
		{"crosstab", `{"table":[[1,2],[3,null]]}`, 422, "http.null", "“table[2][2]” is null"},
		{"crosstab", `{"table":[[1,2],null]}`, 422, "http.null", "“table[2]” is null"},
		{"cochran-q", `{"patterns":[{"chosen":[true,null],"count":1}]}`, 422, "http.null", "“patterns[1].chosen[2]” is null"},
		{"goodness-of-fit", `{"observed":[3,4],"shares":[0.5,null]}`, 422, "http.null", "“shares[2]” is null"},
		{"goodness-of-fit", `{"observed":[3,4],"scale":"equal","level":95}`, 422, "compute.level_range", "This is about “level”"},
	} {
		t.Run(fmt.Sprintf("%s %s", k.path, k.code), func(t *testing.T) {
			c.t = t
			p := c.call("POST", "/compute/"+k.path, k.body, k.status)
			assert.Equal(t, k.code, p["code"])
			assert.Contains(t, p["title"], k.says)
		})
	}
	c.t = t
	assert.Equal(t, http.StatusForbidden, c.send("POST", "/api/v1/compute/adjust", `{"p":[0.1]}`, "Origin", "http://elsewhere.example").StatusCode)
	assert.Equal(t, "3.1.0", c.call("GET", "/compute", "", 200)["openapi"])
}

// Requests that may take seconds wait their turn, within their own time; light ones do
// not wait. A computation that outlives its time is stopped and says so.
func TestHeavyRequestsWait(t *testing.T) {
	t.Parallel()
	w, err := i18n.Load("en")
	require.NoError(t, err)
	cases, err := service.New((*store.Store)(nil), w, methods.All(), service.Options{ArrivalsDir: t.TempDir()})
	require.NoError(t, err)
	s := &server{words: languages(t).First(), application: &application{Places: cases, languages: languages(t), log: slog.New(slog.DiscardHandler), heavy: semaphore.NewWeighted(heavyAtOnce)}}
	app := fiber.New(fiber.Config{ErrorHandler: s.fail})
	limited := false // what has a limit cannot be done within any
	app.Use(func(c fiber.Ctx) error {
		if limited {
			ctx, cancel := context.WithTimeout(c.Context(), 100*time.Millisecond)
			defer cancel()
			c.SetContext(ctx)
		}
		return c.Next()
	})
	s.computeRoutes(app)
	status := func(path, body string) int {
		req := httptest.NewRequest("POST", "/compute/"+path, strings.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		res, err := app.Test(req, fiber.TestConfig{})
		require.NoError(t, err)
		return res.StatusCode
	}
	small, light := `{"table":[[3,4],[5,6]],"exact":{"way":"simulation","replicates":10}}`, `{"table":[[3,4],[5,6]],"exact":{}}`
	assert.Equal(t, http.StatusOK, status("crosstab", small))
	require.NoError(t, s.heavy.Acquire(t.Context(), heavyAtOnce))
	limited = true
	assert.Equal(t, http.StatusServiceUnavailable, status("crosstab", small))
	limited = false
	assert.Equal(t, http.StatusOK, status("crosstab", light), "whether a request waits is a matter of the request")
	assert.Equal(t, http.StatusOK, status("goodness-of-fit", `{"observed":[3000000,4],"scale":"equal","exact":{}}`))
	s.heavy.Release(heavyAtOnce)
	assert.Equal(t, http.StatusOK, status("crosstab", small))
	long := `{"table":[[90,40,30,20,10],[30,80,60,20,40],[20,50,70,60,30],[10,20,40,50,50],[10,30,20,40,80]],"exact":{"way":"simulation","replicates":1000000}}`
	limited = true
	assert.Equal(t, http.StatusServiceUnavailable, status("crosstab", long))
	assert.True(t, s.heavy.TryAcquire(heavyAtOnce), "its turn is given back")
}
