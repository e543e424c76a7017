package httpapi

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"testing/fstest"

	"github.com/gofiber/fiber/v3"
	"github.com/pb33f/libopenapi"
	validator "github.com/pb33f/libopenapi-validator"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/methods"
	"widetally/core/study"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/store"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

// described is what holds answers against the API's description.
var described = sync.OnceValues(func() (validator.Validator, error) {
	raw, err := os.ReadFile("../../api/openapi.yaml")
	if err != nil {
		return nil, err
	}
	doc, err := libopenapi.NewDocument(raw)
	if err != nil {
		return nil, err
	}
	check, errs := validator.NewValidator(doc)
	return check, errors.Join(errs...)
})

// client calls the application in process and holds every answer against the
// API's description.
type client struct {
	t     testing.TB
	app   *fiber.App
	check validator.Validator
	log   *bytes.Buffer
	cases *service.Places
}

// languages are all that there are.
func languages(t testing.TB) *i18n.Languages {
	t.Helper()
	l, err := i18n.LoadAll("")
	require.NoError(t, err)
	return l
}

func newClient(t testing.TB, opt service.Options) *client {
	t.Helper()
	return newClientWith(t, opt, func(*Config) {})
}

func newClientWith(t testing.TB, opt service.Options, configure func(*Config)) *client {
	t.Helper()
	s, err := store.Open(t.Context(), mariadbtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	w, err := i18n.Load("en")
	require.NoError(t, err)
	opt.ArrivalsDir = t.TempDir()
	cases, err := service.New(s, w, methods.All(), opt)
	require.NoError(t, err)
	check, err := described()
	require.NoError(t, err)
	var log bytes.Buffer
	web := fstest.MapFS{"index.html": {Data: []byte(`<meta name="csp-nonce" content="__NONCE__">`)}, "assets/a.js": {Data: []byte("1")}, "assets/a.js.br": {Data: []byte("small")}, "icon.svg": {Data: []byte("<svg/>")}, "manifest.webmanifest": {Data: []byte("{}")}}
	config := Config{Words: languages(t), Places: cases, Web: web, Log: slog.New(slog.NewTextHandler(&log, nil))}
	configure(&config)
	return &client{t: t, app: New(config), check: check, log: &log, cases: cases}
}

func (c *client) send(method, path, body string, headers ...string) *http.Response {
	c.t.Helper()
	req := httptest.NewRequest(method, path, strings.NewReader(body))
	req.Host = "localhost:8420"
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			req.Host = headers[i+1]
		}
		req.Header.Set(headers[i], headers[i+1])
	}
	res, err := c.app.Test(req, fiber.TestConfig{})
	require.NoError(c.t, err)
	return res
}

// call sends a request, checks the answer against the description, wants this
// status, and decodes the body.
func (c *client) call(method, path, body string, status int, headers ...string) map[string]any {
	c.t.Helper()
	res := c.send(method, "/api/v1"+path, body, headers...)
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, status, res.StatusCode, "%s %s: %s", method, path, raw)
	if status == http.StatusNoContent {
		return nil
	}
	req := httptest.NewRequest(method, "http://localhost:8420/api/v1"+path, nil)
	res.Body = io.NopCloser(bytes.NewReader(raw))
	ok, problems := c.check.ValidateHttpResponse(req, res)
	if !ok && !(status == http.StatusNotFound && len(problems) == 1 && strings.Contains(problems[0].Message, "Path")) {
		for _, p := range problems {
			c.t.Errorf("%s %s %d: %s: %s", method, path, status, p.Message, p.Reason)
			for _, e := range p.SchemaValidationErrors {
				c.t.Errorf("  %s: %s", e.FieldPath, e.Reason)
			}
		}
	}
	var out map[string]any
	require.NoError(c.t, json.Unmarshal(raw, &out))
	return out
}

// step takes the edit back (undo) or does it again (redo) that the page shows as next.
func (c *client) step(study, way string, status int) map[string]any {
	c.t.Helper()
	next, _ := c.call("GET", study+"/codebook", "", 200)[way].(map[string]any)
	if next == nil {
		next = map[string]any{"id": 1}
	}
	return c.call("POST", study+"/"+way, fmt.Sprintf(`{"editId":%v}`, next["id"]), status)
}

// wards has 25 rows, enough for a column of different values to be an identifier.
var wards = func() string {
	var b strings.Builder
	b.WriteString("id;ward;caddy\n")
	for i := range 25 {
		fmt.Fprintf(&b, "A%02d;%s;%s\n", i, []string{"Harbour", "Fenside", "Saltings"}[i%3], []string{"yes", "no"}[i%2])
	}
	return b.String()
}()

// begin brings a file in and returns the study's path. further are settings beside those that
// are guessed, each a name and a value.
func (c *client) begin(file string, further ...string) string {
	c.t.Helper()
	a := c.call("POST", "/arrivals?name=wards.csv", file, 201, "Content-Type", "application/octet-stream")
	a["settings"].(map[string]any)["headerSaid"] = true
	for i := 0; i < len(further); i += 2 {
		a["settings"].(map[string]any)[further[i]] = further[i+1]
	}
	settings, err := json.Marshal(a["settings"])
	require.NoError(c.t, err)
	c.call("POST", fmt.Sprintf("/arrivals/%v/look", a["id"]), fmt.Sprintf(`{"settings":%s}`, settings), 200)
	st := c.call("POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"Fernmouth","units":"households"}`, a["id"], settings), 201)
	return fmt.Sprintf("/studies/%v", st["id"])
}

func (c *client) question(study, name string) map[string]any {
	c.t.Helper()
	for _, q := range c.call("GET", study+"/topline", "", 200)["questions"].([]any) {
		if q := q.(map[string]any); q["name"] == name {
			return q
		}
	}
	c.t.Fatalf("no question %s", name)
	return nil
}

// figures gives each proper answer of a question the figure under its label.
func figures(q map[string]any, byLabel map[string]string) string {
	var out []string
	for _, r := range q["rows"].([]any) {
		row := r.(map[string]any)
		out = append(out, fmt.Sprintf(`{"code":%q,"figure":%q}`, row["code"], byLabel[row["label"].(string)]))
	}
	return "[" + strings.Join(out, ",") + "]"
}

// statement is a claim that a question's answers are spread so.
func statement(q map[string]any, level, figures string) string {
	return fmt.Sprintf(`{"spec":{"method":"goodness-of-fit","version":1,"questions":["%v"],"settings":{"role":"null","level":%s,"shares":{"scale":"percents","rescale":false,"figures":%s,"source":{"kind":"register","title":"the register","date":"2026"}}}}}`, q["id"], level, figures)
}

// analyses are what is asked under a question.
func (c *client) analyses(study, question string) (out []map[string]any) {
	c.t.Helper()
	for _, a := range c.question(study, question)["analyses"].([]any) {
		out = append(out, a.(map[string]any))
	}
	return out
}

// first is the first of them.
func first(q any) map[string]any { return q.(map[string]any)["analyses"].([]any)[0].(map[string]any) }

// block finds the first block of a kind in the document of an analysis.
func block(t testing.TB, a map[string]any, kind string) map[string]any {
	t.Helper()
	document, ok := a["document"].(map[string]any)
	require.True(t, ok, "no document: %v", a["problems"])
	for _, b := range document["blocks"].([]any) {
		if b := b.(map[string]any); b["kind"] == kind {
			return b
		}
	}
	t.Fatalf("no block %s", kind)
	return nil
}

// facts are those of a document by their keys.
func facts(t testing.TB, a map[string]any) map[string]string {
	t.Helper()
	out := map[string]string{}
	for _, f := range block(t, a, "facts")["facts"].([]any) {
		out[f.(map[string]any)["key"].(string)] = f.(map[string]any)["value"].(string)
	}
	return out
}

func TestFromFileToFinding(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	// 50 : 30 : 20 against 40 : 40 : 20, worked by hand: (10²/40 + 10²/40) = 5,
	// df 2, p = e^(−5/2) exactly.
	var file strings.Builder
	file.WriteString("ward\n" + strings.Repeat("Harbour\n", 50) + strings.Repeat("Fenside\n", 30) + strings.Repeat("Saltings\n", 20))
	st := c.begin(file.String())
	q := c.question(st, "ward")
	path := fmt.Sprintf("%s/questions/%v", st, q["id"])

	check := c.call("POST", path+"/shares", `{"scale":"percents","rescale":false,"pasted":"saltings\t20\nHarbour 40 %\nFenside;40\n"}`, 200)
	assert.Equal(t, true, check["usable"])
	short := c.call("POST", path+"/shares", `{"scale":"percents","rescale":false,"pasted":"Saltings 20\nHarbour 40\nFenside 38.5\nOldgate 1"}`, 200)
	assert.Equal(t, false, short["usable"])
	assert.Contains(t, short["problems"].([]any)[0].(map[string]any)["text"], "No answer is called “Oldgate”")

	full := figures(q, map[string]string{"Harbour": "40", "Fenside": "40", "Saltings": "20"})
	c.call("POST", st+"/analyses?of=x", statement(q, "0.05", full), 404)
	assert.Empty(t, c.question(st, "ward")["analyses"], "nothing is stated for an address that cannot be answered")
	claim := first(c.call("POST", st+"/analyses", statement(q, "0.05", full), 201)["question"])
	assert.Nil(t, claim["document"], "a claim is run only when asked for")
	assert.Nil(t, claim["firstRunAt"])
	at := fmt.Sprintf("%s/analyses/%v", st, claim["id"])
	ran := first(c.call("POST", at+"/run", "", 200))
	found := facts(t, ran)
	assert.Equal(t, []string{"χ² = 5.000", "3 − 1 = 2", "0.0821", "5.991"}, []string{found["statistic"], found["df"], found["p"], found["critical"]})
	assert.Contains(t, block(t, ran, "sentence")["lines"].([]any)[0], "Not enough evidence, at the 5\u00a0% level, to reject the claim that the answers to “")
	assert.Equal(t, "before", ran["timing"])

	// Another level is another run of the same inputs, and is remembered as a change.
	again := first(c.call("PUT", at, statement(q, `"10 %"`, full), 200, "If-Match", `"1"`))
	assert.Contains(t, block(t, again, "sentence")["lines"].([]any)[0], "At the 10\u00a0% level the claim is rejected")
	assert.Equal(t, "changed", again["timing"])
	assert.Equal(t, ran["firstRunAt"], again["firstRunAt"])
	assert.Contains(t, again["changes"].([]any)[0].(map[string]any)["text"], "0.05 → 0.1")
	c.call("PUT", at, statement(q, "0.01", "[]"), 422, "If-Match", `"2"`)
	c.call("PUT", at, statement(q, "0.01", full), 412, "If-Match", `"1"`)

	c.call("DELETE", at, "", 204)
	assert.Empty(t, c.analyses(st, "ward"))
	page := c.call("GET", st+"/claims", "", 200)
	assert.Equal(t, 1.0, page["testsRun"], "a test that was run stays counted")
	assert.Equal(t, again["statement"], page["withdrawn"].([]any)[0].(map[string]any)["statement"], "and its claim in the register")
	assert.Len(t, c.call("POST", at+"/restore", "", 200)["analyses"], 1)

	assert.NotContains(t, c.log.String(), "Harbour", "no answer in the log")
	assert.NotContains(t, c.log.String(), "wards.csv", "no file name in the log")
}

// A 999 among ages that nobody answered at arrival stands beside their mean, with its
// remedy; pressed, it is missing.
func TestWhatWasNoticedStandsBesideTheTally(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("age,ward\n")
	for i := range 60 {
		fmt.Fprintf(&file, "%d,Harbour\n", 18+i)
	}
	file.WriteString("999,Harbour\n999,Harbour\n")
	st := c.begin(file.String())
	q := c.question(st, "age")
	assert.InDelta(t, (60*47.5+2*999)/62, q["numeric"].(map[string]any)["mean"], 1e-9)
	note := q["notes"].([]any)[0].(map[string]any)
	assert.Equal(t, "“999” (2) usually means that an answer is missing.", note["text"])
	remedy := note["remedy"].(map[string]any)
	c.call("PATCH", st+"/codebook", fmt.Sprintf(`{"questions":[{"id":%v,"version":%v}],"missing":{%q:%q}}`, q["id"], q["version"], remedy["code"], remedy["reason"]), 200)
	q = c.question(st, "age")
	assert.InDelta(t, 47.5, q["numeric"].(map[string]any)["mean"], 1e-9)
	assert.Equal(t, 2.0, q["missing"])
}

func TestEditsOfAQuestion(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward\nHarbour\nharbour\nFenside\nHarbour\n-9\n")
	q := c.question(st, "ward")
	path := fmt.Sprintf("%s/questions/%v", st, q["id"])
	note := q["notes"].([]any)[0].(map[string]any)
	assert.Contains(t, note["text"], "differ only in letter case")
	remedy := note["remedy"].(map[string]any)

	assert.Contains(t, fmt.Sprint(q["notes"]), "“-9” (1) usually means that an answer is missing", "what nobody answered at arrival stands beside the tally")
	assert.Contains(t, fmt.Sprint(q["notes"]), "Only 5 answered: one of them is 20.0 points")
	slots := map[any]any{}
	for _, x := range q["answers"].([]any) {
		slots[x.(map[string]any)["code"]] = x.(map[string]any)["slot"]
	}
	var answers []string
	for _, x := range q["answers"].([]any) {
		a := x.(map[string]any)
		missing, same := a["missing"], "null"
		if a["code"] == "-9" {
			missing = "refused"
		}
		if a["code"] == remedy["code"] {
			same = fmt.Sprint(slots[remedy["other"]])
		}
		answers = append([]string{fmt.Sprintf(`{"slot":%v,"label":%q,"missing":%q,"sameAs":%s}`, a["slot"], "="+a["label"].(string), missing, same)}, answers...)
	}
	body := `{"wording":"Where?","short":"ward","kind":"ordered","answers":[` + strings.Join(answers, ",") + `]}`
	c.call("PATCH", path, body, 428)
	after := c.call("PATCH", path, body, 200, "If-Match", `"1"`)
	c.call("PATCH", path, body, 412, "If-Match", `"1"`)
	whole := c.call("PATCH", path+"?whole=true", `{"note":"Asked of all."}`, 200, "If-Match", `"2"`)
	assert.NotNil(t, whole["undo"], "one edit, one answer with all that it changed")
	assert.Equal(t, []any{"Where?", "ward", "ordered", 4.0, 1.0}, []any{after["wording"], after["short"], after["kind"], after["answered"], after["missing"]})
	counts := map[string]any{}
	for _, r := range after["rows"].([]any) {
		counts[r.(map[string]any)["label"].(string)] = r.(map[string]any)["count"]
	}
	assert.Len(t, counts, 2, "one spelling is counted under the other")
	assert.Equal(t, 1.0, counts["=Fenside"])
	for name, bad := range map[string]string{
		"one answer short":    `{"answers":[` + strings.Join(answers[1:], ",") + `]}`,
		"an answer twice":     `{"answers":[` + strings.Join(append(answers[1:], answers[1]), ",") + `]}`,
		"no such kind change": `{"kind":"continuous"}`,
		"empty wording":       `{"wording":"  "}`,
		"control characters":  `{"wording":"a\u0000b"}`,
	} {
		t.Run(name, func(t *testing.T) {
			p := (&client{t, c.app, c.check, c.log, c.cases}).call("PATCH", path, bad, 422, "If-Match", `"2"`)
			assert.NotContains(t, p["title"], "[", "the problem has its words")
		})
	}
	assert.Equal(t, after["answers"], c.question(st, "ward")["answers"], "refused edits change nothing")
}

func TestRefusals(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{MaxUpload: 1000})
	st := c.begin(wards)
	q := c.question(st, "ward")
	path := fmt.Sprintf("%s/questions/%v", st, q["id"])
	full := figures(q, map[string]string{"Harbour": "40", "Fenside": "40", "Saltings": "20"})
	octets := []string{"Content-Type", "application/octet-stream"}
	cases := []struct {
		name, method, path, body string
		status                   int
		code                     string
		headers                  []string
	}{
		{"no such study", "GET", "/studies/999", "", 404, "http.not_found", nil},
		{"an id that is no number", "GET", "/studies/1x", "", 404, "http.bad_id", nil},
		{"an id of zero", "GET", "/studies/0", "", 404, "http.bad_id", nil},
		{"a foreign host", "GET", "/studies", "", 403, "http.foreign", []string{"Host", "evil.example"}},
		{"a foreign origin", "POST", st + "/restore", "", 403, "http.foreign", []string{"Origin", "http://evil.example"}},
		{"another port is another origin", "DELETE", st, "", 403, "http.foreign", []string{"Origin", "http://localhost:9999"}},
		{"a cross-site request without origin", "DELETE", st, "", 403, "http.foreign", []string{"Sec-Fetch-Site", "cross-site"}},
		{"a form instead of JSON", "POST", st + "/analyses", "role=null", 415, "http.media_type", []string{"Content-Type", "application/x-www-form-urlencoded"}},
		{"broken JSON", "POST", st + "/analyses", `{"role":`, 400, "http.bad_json", nil},
		{"an unknown member", "POST", st + "/analyses", `{"rol":"null"}`, 400, "http.bad_json", nil},
		{"two values", "POST", path + "/shares", `{"scale":"equal","rescale":false}{}`, 400, "http.bad_json", nil},
		{"a body too large", "POST", st + "/analyses", `{"source":"` + strings.Repeat("x", maxBody) + `"}`, 413, "http.body_too_large", nil},
		{"a file too large", "POST", "/arrivals?name=a.csv", strings.Repeat("x", 1001), 413, "http.too_large", octets},
		{"a level of zero", "POST", st + "/analyses", statement(q, "0", full), 422, "claim.level", nil},
		{"a confidence level", "POST", st + "/analyses", statement(q, "0.95", full), 422, "claim.level_high", nil},
		{"a level of null", "POST", st + "/analyses", statement(q, "null", full), 422, "spec.null", nil},
		{"a method unknown", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), "goodness-of-fit", "guess", 1), 422, "spec.method", nil},
		{"a version from the future", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), `"version":1`, `"version":2`, 1), 422, "spec.version", nil},
		{"a member that no setting is", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), `"role"`, `"rôle":"x","role"`, 1), 422, "spec.member", nil},
		{"two questions for one", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), `"questions":[`, `"questions":["1",`, 1), 422, "spec.questions", nil},
		{"a question that is not there", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), `"questions":["`, `"questions":["9`, 1), 422, "spec.question", nil},
		{"a subgroup that is not there", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), `"settings"`, `"subgroup":"9","settings"`, 1), 422, "claim.subgroup", nil},
		{"no spec", "POST", st + "/analyses", `{"run":true}`, 422, "http.null", nil},
		{"no source", "POST", st + "/analyses", strings.Replace(statement(q, "0.05", full), "the register", " ", 1), 422, "claim.source_empty", nil},
		{"a scale unknown", "POST", path + "/shares", `{"scale":"guess","rescale":false}`, 422, "claim.scale", nil},
		{"shares that do not add up", "POST", st + "/analyses", statement(q, "0.05", figures(q, map[string]string{"Harbour": "40", "Fenside": "40", "Saltings": "18"})), 422, "shares.sum_off_short", nil},
		{"a question of identifiers", "POST", st + "/analyses", statement(c.question(st, "id"), "0.05", "[]"), 422, "claim.kind", nil},
		{"a question of another study", "GET", "/studies/999/questions/1", "", 404, "http.not_found", nil},
		{"an arrival that is gone", "POST", "/arrivals/0123456789abcdef01234567/look", `{"settings":{"format":"delimited","encoding":"utf-8","delimiter":",","part":"","headerRow":1,"padShort":false,"fixNames":false,"shape":"rows","countColumn":"","second":"","upTo":"","openFrom":null,"openTo":null}}`, 404, "http.not_found", nil},
		{"a study of nothing", "POST", "/studies", `{"arrivalId":"x","name":"a","settings":{"format":"delimited","encoding":"utf-8","delimiter":",","part":"","headerRow":1,"padShort":false,"fixNames":false,"shape":"rows","countColumn":"","second":"","upTo":"","openFrom":null,"openTo":null}}`, 404, "http.not_found", nil},
		{"no version", "PATCH", st, `{"name":"x"}`, 428, "http.no_version", nil},
		{"a stale version", "PATCH", st, `{"name":"x"}`, 412, "http.stale", []string{"If-Match", `"7"`}},
		{"an empty name", "PATCH", st, `{"name":""}`, 422, "text.empty", []string{"If-Match", `"1"`}},
		{"too many decimals", "PATCH", st, `{"decimals":9}`, 422, "study.decimals", []string{"If-Match", `"1"`}},
		{"no such address", "GET", "/nothing", "", 404, "http.not_found", nil},
	}
	for _, x := range cases {
		t.Run(x.name, func(t *testing.T) {
			p := (&client{t, c.app, c.check, c.log, c.cases}).call(x.method, x.path, x.body, x.status, x.headers...)
			assert.Equal(t, x.code, p["code"])
			assert.NotEmpty(t, p["requestId"])
			assert.NotContains(t, p["title"], "[", "the problem has its words")
		})
	}
	assert.Len(t, c.call("GET", "/studies", "", 200)["studies"], 1, "nothing half saved")
	assert.Equal(t, 1000.0, c.call("GET", "/limits", "", 200)["fileBytes"])
}

func TestFilesThatCannotBeReadArriveWithTheirProblem(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	cases := []struct{ name, body, code, remedy string }{
		{"empty", " \n", "empty", ""},
		{"binary", "\x00\x01\x02", "binary", ""},
		{"another archive", "PK\x03\x04", "other_zip", ""},
		{"ragged", "a,b\n1,2\n3\n", "short_line", "padShort"},
		{"names", "a,a\nx,y\n", "duplicate_name", "fixNames"},
	}
	for _, x := range cases {
		t.Run(x.name, func(t *testing.T) {
			a := (&client{t, c.app, c.check, c.log, c.cases}).call("POST", "/arrivals?name=..%2Fx.csv", x.body, 201, "Content-Type", "application/octet-stream")
			assert.Equal(t, "x.csv", a["name"], "only the last part of a name is kept")
			p, _ := a["problem"].(map[string]any)
			if p == nil {
				settings, err := json.Marshal(a["settings"])
				require.NoError(t, err)
				a = c.call("POST", fmt.Sprintf("/arrivals/%v/look", a["id"]), fmt.Sprintf(`{"settings":%s}`, settings), 200)
				p = a["preview"].(map[string]any)["problems"].([]any)[0].(map[string]any)
			}
			assert.Equal(t, x.code, p["code"])
			if x.remedy != "" {
				assert.Equal(t, []any{x.remedy}, p["remedies"])
			}
			c.call("DELETE", "/arrivals/"+a["id"].(string), "", 204)
		})
	}
}

func TestStudiesAreDeletedWithUndo(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	c.call("DELETE", st, "", 204)
	c.call("GET", st+"/topline", "", 404)
	c.call("POST", st+"/restore", "", 200)
	assert.Equal(t, 25.0, c.call("GET", st+"/topline", "", 200)["study"].(map[string]any)["rows"])
	renamed := c.call("PATCH", st, `{"name":"Wards","decimals":0}`, 200, "If-Match", `"1"`)
	assert.Equal(t, []any{"Wards", 0.0, 2.0}, []any{renamed["name"], renamed["decimals"], renamed["version"]})
}

func TestThePageComesWithItsPolicy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	nonces := map[string]bool{}
	for range 2 {
		res := c.send("GET", "/studies/3", "")
		page, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		policy := res.Header.Get("Content-Security-Policy")
		nonce := strings.TrimSuffix(strings.TrimPrefix(string(page), `<meta name="csp-nonce" content="`), `">`)
		assert.Contains(t, policy, "'nonce-"+nonce+"'")
		assert.NotContains(t, policy, "unsafe")
		assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
		nonces[nonce] = true
	}
	assert.Len(t, nonces, 2, "a nonce is used once")
	for path, status := range map[string]int{"/assets/a.js": 200, "/assets/../index.html": 404, "/assets/b.js": 404, "/go.mod": 404, "/icon.svg": 200, "/manifest.webmanifest": 200, "/icon-192.png": 404} {
		assert.Equal(t, status, c.send("GET", path, "").StatusCode, path)
	}
}

func TestUnknownErrorsSayNothingOfTheInside(t *testing.T) {
	t.Parallel()
	s := &server{}
	status, code, _, _ := s.explain(errors.New("secret table name"))
	assert.Equal(t, []any{500, "http.internal"}, []any{status, code})
	status, code, _, values := s.explain(&study.DamagedError{QuestionID: 7, Name: "ward", Chunk: 2, Cause: errors.New("secret")})
	assert.Equal(t, []any{409, "http.damaged", map[string]string{"name": "ward"}}, []any{status, code, values})
}

// What was compressed when it was built goes out so to who takes it; nothing else is there.
func TestAssetsAreSmall(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	for accepts, want := range map[string]string{"gzip, deflate, br": "small", "gzip": "1", "": "1", "br;q=0": "1"} {
		res := c.send("GET", "/assets/a.js", "", "Accept-Encoding", accepts)
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		assert.Equal(t, want, string(raw), accepts)
		assert.Equal(t, map[bool]string{true: "br"}[want == "small"], res.Header.Get("Content-Encoding"))
		assert.Equal(t, "text/javascript; charset=utf-8", res.Header.Get("Content-Type"))
		assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
	}
	for _, path := range []string{"/assets/a.js.br", "/assets/none.js", "/assets/..%2findex.html", "/assets/a"} {
		assert.Equal(t, 404, c.send("GET", path, "").StatusCode, path)
	}
}
