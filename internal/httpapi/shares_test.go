package httpapi

import (
	"fmt"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
	"widetally/internal/statistics"
)

// A set is kept in versions, goes with a question, and a claim keeps the version and the figures
// that it used.
func TestTheShelfOfShares(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(statistics.StandIn{})
	defer server.Close()
	c := newClient(t, service.Options{Office: server.URL})
	body := func(figures string) string {
		return `{"title":"Tenure in the register","publisher":"Office","date":"2025","kind":"register","scale":"percents","answers":` + figures + `}`
	}
	first := `[{"label":"Owns outright","figure":"31"},{"label":"Owns with a mortgage","figure":"29"},{"label":"Rents","figure":"38"},{"label":"Other","figure":"2"}]`
	assert.Equal(t, "shares.sum_off_over", c.call("POST", "/shares", body(`[{"label":"a","figure":"60"},{"label":"b","figure":"50"}]`), 422)["code"])
	assert.Equal(t, "set.link", c.call("POST", "/shares", `{"title":"x","link":"javascript:alert(1)","kind":"report","scale":"ratio","answers":[{"label":"a","figure":"1"},{"label":"b","figure":"1"}]}`, 422)["code"])
	set := c.call("POST", "/shares", body(first), 201)
	path := fmt.Sprintf("/shares/%v", set["id"])

	st := c.begin("tenure\nOwns\nOwns\nRents\nother\nRents\nRents\n")
	q := c.question(st, "tenure")
	of := fmt.Sprintf(`"study":%s,"question":%v`, st[len("/studies/"):], q["id"])
	fit := c.call("POST", path+"/fit", "{"+of+"}", 200)
	hows := map[any]any{}
	for _, a := range fit["answers"].([]any) {
		hows[a.(object)["label"]] = a.(object)["how"]
	}
	assert.Equal(t, map[any]any{"Owns": "", "Rents": "name", "other": "loose"}, hows)
	assert.Equal(t, []any{0.0, 1.0}, fit["left"])
	order := []string{}
	from := "["
	for i, a := range fit["answers"].([]any) {
		label := a.(object)["label"].(string)
		order = append(order, label)
		from += map[bool]string{true: ","}[i > 0] + map[string]string{"Owns": "[0,1]", "Rents": "[2]", "other": "[3]"}[label]
	}
	fit = c.call("POST", path+"/fit", "{"+of+`,"from":`+from+"]}", 200)
	assert.Empty(t, fit["left"])
	figures := ""
	for i, a := range fit["answers"].([]any) {
		assert.Equal(t, map[string]any{"Owns": "60", "Rents": "38", "other": "2"}[order[i]], a.(object)["figure"])
		figures += map[bool]string{true: ","}[i > 0] + fmt.Sprintf(`{"code":%q,"figure":%q}`, a.(object)["code"], a.(object)["figure"])
	}
	c.call("POST", path+"/fit", "{"+of+`,"from":[[0],[0],[1]]}`, 422)

	claim := c.call("POST", st+"/analyses", fmt.Sprintf(`{"run":true,"spec":{"method":"goodness-of-fit","version":1,"questions":["%v"],"settings":{"role":"null","level":0.05,"shares":{"scale":"percents","figures":[%s],"source":{"title":"Tenure in the register","kind":"register","shelf":{"set":%v,"version":1}}}}}}`, q["id"], figures, set["id"]), 201)
	assert.Equal(t, 1.0, at(t, claim, "question.analyses.0.spec.settings.shares.source.shelf.version"))

	// A newer version leaves the claim alone; an edit of an old one is refused.
	second := `[{"label":"Owns outright","figure":"32"},{"label":"Owns with a mortgage","figure":"28"},{"label":"Rents","figure":"38"},{"label":"Other","figure":"2"}]`
	assert.Equal(t, 2.0, c.call("PUT", path, body(second), 200, "If-Match", `"1"`)["version"])
	c.call("PUT", path, body(first), 412, "If-Match", `"1"`)
	assert.Len(t, c.call("GET", path, "", 200)["sets"], 2)
	assert.Equal(t, 1.0, at(t, c.call("GET", st+"/topline", "", 200), "questions.0.analyses.0.spec.settings.shares.source.shelf.version"))
	c.call("DELETE", path, "", 204)
	assert.Empty(t, c.call("GET", "/shares", "", 200)["sets"])
	c.call("POST", path+"/restore", "", 204)

	// The counts of a question become a set of a sample.
	own := c.call("POST", fmt.Sprintf("%s/questions/%v/shelf", st, q["id"]), "", 201)
	assert.Equal(t, []any{"survey", 6.0, "counts"}, []any{own["kind"], own["n"], own["scale"]})
	assert.Len(t, c.call("GET", "/shares", "", 200)["sets"], 2)

	// The office: its tables, one of them, and the shares along a dimension.
	assert.Len(t, c.call("GET", "/office/tables", "", 200)["tables"], 4)
	table := c.call("GET", "/office/tables/households-by-tenure?dim=tenure&fix=year:2025", "", 200)
	assert.Empty(t, table["answers"], "the ward is not chosen yet")
	table = c.call("GET", "/office/tables/households-by-tenure?dim=tenure&fix=year:2025&fix=ward:A", "", 200)
	assert.Len(t, table["answers"], 5)
	assert.Equal(t, "office.fails", c.call("GET", "/office/tables/none", "", 502)["code"])
}

// The office gone, failing and answering half a document: said, and nothing hurt.
func TestAnOfficeThatFails(t *testing.T) {
	t.Parallel()
	for code, office := range map[string]*statistics.StandIn{"office.fails": {Fail: true}, "office.broken": {Broken: true}, "office.away": nil} {
		server := httptest.NewServer(office)
		if office == nil {
			server.Close()
		}
		c := newClient(t, service.Options{Office: server.URL})
		assert.Equal(t, code, c.call("GET", "/office/tables", "", 502)["code"])
		assert.Equal(t, code, c.call("GET", "/office/tables/adults-by-age?dim=age", "", 502)["code"])
		c.call("GET", "/studies", "", 200)
		server.Close()
	}
	assert.Equal(t, "office.none", newClient(t, service.Options{}).call("GET", "/office/tables", "", 404)["code"])
}

// What was typed for a quick check becomes a study with the same result, whose claim bears that it
// had been looked at; of a mean alone no study can be made, and nothing stays.
func TestAQuickCheckIsKeptInAStudy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	for _, k := range []struct{ spec, counts, fact, value string }{
		{`{"method":"one-proportion","version":1,"questions":["q"],"settings":{"success":["yes"],"claimed":"62 %","direction":"less","role":"null","level":0.05,"source":{}}}`,
			`{"units":"homes","questions":[{"key":"q","wording":"","categories":[{"code":"yes","label":"we use it"},{"code":"no","label":"no"}],"counts":[734,506]}]}`, "statistic", "−2.036"},
		{`{"method":"two-proportions","version":1,"questions":["q","g"],"settings":{"success":["yes"],"groups":{"first":"1","second":"2"},"direction":"different","role":"null","level":0.05}}`,
			`{"questions":[{"key":"q","wording":"","categories":[{"code":"yes","label":"yes"},{"code":"no","label":"no"}]},{"key":"g","short":"ward","categories":[{"code":"1","label":"Harbour"},{"code":"2","label":"Fenside"}]}],"crosstabs":[{"rows":"g","columns":"q","counts":[[[44,46],[61,34]]]}]}`, "statistic", "−2.102"},
		{`{"method":"goodness-of-fit","version":1,"questions":["q"],"settings":{"role":"null","level":0.05,"shares":{"scale":"percents","figures":[{"code":"1","figure":"30"},{"code":"2","figure":"68"},{"code":"3","figure":"2"}],"source":{"title":"x","kind":"theory"}}}}`,
			`{"questions":[{"key":"q","short":"size","kind":"ordered","categories":[{"code":"1","label":"9"},{"code":"2","label":"10"},{"code":"3","label":"1"}],"counts":[40,60,0]}]}`, "df", "3 − 1 = 2"},
		{`{"method":"cochran-q","version":1,"questions":["q"],"settings":{"role":"null","level":0.05}}`,
			`{"questions":[{"key":"q","short":"Ways to travel","kind":"choose_all","categories":[{"code":"1","label":"Bus"},{"code":"2","label":"Tram"},{"code":"3","label":"Boat"}],"patterns":[{"chosen":["1"],"count":20},{"chosen":["1","2"],"count":12},{"chosen":["2"],"count":5},{"chosen":[],"count":3}]}]}`, "df", "2"},
	} {
		st := c.call("POST", "/analyses/keep", fmt.Sprintf(`{"name":"Kept","spec":%s,"counts":%s}`, k.spec, k.counts), 201)
		page := c.call("GET", fmt.Sprintf("/studies/%v/topline", st["id"]), "", 200)
		var claim object
		for _, q := range page["questions"].([]any) {
			for _, a := range q.(object)["analyses"].([]any) {
				claim = a.(object)
			}
		}
		require.NotNil(t, claim, k.spec)
		facts := map[string]string{}
		for _, b := range at(t, claim, "document.blocks").([]any) {
			for _, f := range b.(object)["facts"].([]any) {
				facts[f.(object)["key"].(string)] = f.(object)["value"].(string)
			}
		}
		assert.Contains(t, facts[k.fact], k.value)
		assert.Contains(t, fmt.Sprint(claim["changes"]), "seen in the quick check")
		assert.Equal(t, "changed", claim["timing"])
	}
	kept := len(c.call("GET", "/studies", "", 200)["studies"].([]any))
	assert.Equal(t, "keep.cannot", c.call("POST", "/analyses/keep", `{"name":"No","spec":{"method":"one-mean","version":1,"questions":["q"],"settings":{"claimed":8,"direction":"less","role":"null","level":0.05,"source":{}}},"counts":{"questions":[{"key":"q","kind":"continuous","summaries":[{"n":16,"mean":10,"sd":4}]}]}}`, 422)["code"])
	assert.Len(t, c.call("GET", "/studies", "", 200)["studies"], kept)
}
