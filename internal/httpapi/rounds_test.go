package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"reflect"
	"regexp"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// strange is what a member of a request is replaced by.
var strange = []any{nil, "", "x", "1,200", "twelve", -1, 0, 0.5, 1e308, 5e-324, -1e308, 9007199254740993, 1e300, true, []any{}, map[string]any{}, []any{nil}, "0x10", "1/0", "\u0000", "=1+1"}

// leaf is a value within a request.
type leaf struct {
	is     any
	set    func(to any)
	inList bool
}

func leaves(l leaf) []leaf {
	out := []leaf{l}
	switch x := l.is.(type) {
	case map[string]any:
		for _, k := range slices.Sorted(maps.Keys(x)) {
			out = append(out, leaves(leaf{x[k], func(to any) { x[k] = to }, false})...)
		}
	case []any:
		for i := range x {
			out = append(out, leaves(leaf{x[i], func(to any) { x[i] = to }, true})...)
		}
	}
	return out
}

// instead chooses what a value is replaced by, mostly one of its own kind.
func instead(random *rand.Rand, of any) any {
	for {
		to := strange[random.IntN(len(strange))]
		if i, ok := to.(int); ok {
			to = float64(i)
		}
		if random.IntN(4) == 0 || reflect.TypeOf(to) == reflect.TypeOf(of) {
			return to
		}
	}
}

var notANumber = regexp.MustCompile(`\b(NaN|Infinity|[+-]?Inf)\b`)

// spoil sends a request with one or two of its values replaced, in an order that a seed
// fixes, and holds the answer against what every answer promises.
func (c *client) spoil(random *rand.Rand, method, path, body string, answers map[int]int, headers ...string) {
	c.t.Helper()
	var v any
	require.NoError(c.t, json.Unmarshal([]byte(body), &v))
	nullInList := false
	for range 1 + random.IntN(2) {
		all := leaves(leaf{v, func(to any) { v = to }, false})
		one := all[random.IntN(len(all))]
		to := instead(random, one.is)
		one.set(to)
		nullInList = nullInList || one.inList && to == nil
	}
	sent, err := json.Marshal(v)
	require.NoError(c.t, err)
	res := c.send(method, "/api/v1"+path, string(sent), headers...)
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	answers[res.StatusCode]++
	what := fmt.Sprintf("%s %s %.300s: %d %.300s", method, path, sent, res.StatusCode, raw)
	assert.Less(c.t, res.StatusCode, 500, what)
	if res.StatusCode < 300 {
		assert.NotRegexp(c.t, notANumber, string(raw), what)
	} else {
		assert.NotContains(c.t, string(raw), "problem.", what)
	}
	if nullInList && res.StatusCode < 300 {
		// Another replacement may have taken the list with the null away.
		assert.NotContains(c.t, string(sent), "null", what)
	}
}

// Computations: whatever stands where a figure belongs, the answer is a result with
// numbers in it or a refusal with words, and a null is never counted.
func TestAHostileRoundOfComputations(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	random, answers := rand.New(rand.NewPCG(9, 1)), map[int]int{}
	for _, r := range []struct{ path, body string }{
		{"goodness-of-fit", `{"observed":[118,203,97],"shares":[30,"45","25 %"],"scale":"percents","level":0.01}`},
		{"homogeneity", `{"observed":[10,20],"published":[10,20]}`},
		{"simultaneous-intervals", `{"observed":[43,61,27,19]}`},
		{"equivalence/two-shares", `{"first":{"successes":50,"n":100},"second":{"successes":50,"n":100},"margin":0.2}`},
		{"one-proportion", `{"successes":57,"n":140,"claimed":0.5}`},
		{"two-proportions", `{"first":{"successes":44,"n":90},"second":{"successes":61,"n":95}}`},
		{"means", `{"first":{"n":16,"mean":10,"sigma":4},"claimed":8}`},
		{"crosstab", `{"table":[[34,0,21],[18,0,40]],"level":0.05}`},
		{"ordered", `{"table":[[20,14,6],[11,17,13],[4,12,25]]}`},
		{"mantel-haenszel", `{"tables":[[[14,22],[9,31]],[[27,13],[20,24]]]}`},
		{"paired", `{"table":[[45,17],[8,52]]}`},
		{"cochran-q", `{"patterns":[{"chosen":[true,false],"count":17},{"chosen":[false,true],"count":8}]}`},
		{"adjust", `{"p":["0.012",0.2,4e-4]}`},
		{"printed-result", `{"statistic":"3.84","df":1,"p":"0.05"}`},
		{"planning/chi-square", `{"w":0.2,"df":4,"power":0.8}`},
		{"planning/margin", `{"margin":0.025,"share":0.3,"confidence":0.9,"population":12000}`},
		{"distribution", `{"name":"chi_square","df":10,"x":2500}`},
		{"numeric-summary", `{"values":[0,1,2,10],"counts":[5,5,3,1],"percents":[66,95]}`},
		{"grouped-summary", `{"classes":[[18,25],[25,35],[35,50]],"counts":[22,41,37]}`},
	} {
		for range 60 {
			c.spoil(random, "POST", "/compute/"+r.path, r.body, answers)
		}
	}
	assert.Greater(t, answers[200], 50, "some replacements are harmless: %v", answers)
	assert.Greater(t, answers[422], 200, "most get as far as the computation: %v", answers)
}

// A study: whatever its edits are spoilt with, everybody in it is still counted, once.
func TestAHostileRoundOfEdits(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("h.csv", household, nil, "[]")
	random, answers := rand.New(rand.NewPCG(9, 2)), map[int]int{}
	for range 40 {
		q := c.question(st, "ward")
		path, version := fmt.Sprintf("%s/questions/%v", st, q["id"]), fmt.Sprintf(`"%v"`, q["version"])
		full := figures(q, map[string]string{"Harbour": "60", "Fenside": "30", "Harbor": "10"})
		rows, err := json.Marshal(q["answers"])
		require.NoError(t, err)
		var list []map[string]any
		require.NoError(t, json.Unmarshal(rows, &list))
		for _, a := range list {
			for _, k := range []string{"code", "from", "to"} {
				delete(a, k)
			}
		}
		rows, err = json.Marshal(list)
		require.NoError(t, err)
		c.spoil(random, "POST", st+"/analyses", statement(q, "0.05", full), answers)
		c.spoil(random, "POST", path+"/shares", `{"scale":"percents","rescale":false,"figures":`+full+`}`, answers)
		c.spoil(random, "PATCH", path, `{"wording":"Where?","short":"ward","answers":`+string(rows)+`}`, answers, "If-Match", version)
		c.spoil(random, "PATCH", st+"/codebook", fmt.Sprintf(`{"questions":[{"id":%v,"version":%v}],"missing":{"Harbor":"a slip"},"section":"Home"}`, q["id"], c.question(st, "ward")["version"]), answers)
		c.spoil(random, "POST", st+"/subgroups", fmt.Sprintf(`{"name":"g","condition":{"op":"any_of","question":%v,"answers":[1]}}`, q["id"]), answers)
	}
	assert.Greater(t, answers[200]+answers[201], 10, "some are harmless: %v", answers)
	assert.Greater(t, answers[422], 30, "most get as far as the use cases: %v", answers)
	q := c.question(st, "ward")
	assert.Equal(t, 12.0, q["everyone"])
	assert.Equal(t, 12.0, q["answered"].(float64)+q["missing"].(float64))
	sum := 0.0
	for _, rows := range []any{q["rows"], q["missingRows"]} {
		for _, r := range rows.([]any) {
			sum += r.(object)["count"].(float64)
		}
	}
	assert.Equal(t, 12.0, sum)
}
