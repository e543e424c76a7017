package httpapi

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/service"
	"widetally/web"
)

// fileOf takes a study's file.
func (c *client) fileOf(study string) []byte {
	c.t.Helper()
	raw, err := io.ReadAll(c.send("GET", "/api/v1"+study+"/file", "").Body)
	require.NoError(c.t, err)
	return raw
}

// open brings a study file in and opens it.
func (c *client) open(file []byte) string {
	c.t.Helper()
	a := c.call("POST", "/arrivals?name=study.zip", string(file), 201, "Content-Type", "application/octet-stream")
	require.NotNil(c.t, a["packed"])
	require.Empty(c.t, a["packed"].(object)["problem"])
	st := c.call("POST", "/studies/open", fmt.Sprintf(`{"arrivalId":%q}`, a["id"]), 201)
	return fmt.Sprintf("/studies/%v", st["id"])
}

// ids and moments differ from one store to the next, and so may the words “A as B” of what is
// known by its number alone.
var unnumbered = regexp.MustCompile(`"(id|listId|countQuestion|studyId|question|analysis|questionId|subgroup|part|set|revision|version|list|base|partOf)":"?\d+"?|"(createdAt|updatedAt|at|firstRunAt|statedAt)":"[^"]*"|"(questions|sources|analyses)":\[("?\d+"?,?)*\]|state \d+ of the data`)

// shown is a place of a study without the numbers that another store gives.
func (c *client) shown(path string) string {
	c.t.Helper()
	raw, err := io.ReadAll(c.send("GET", "/api/v1"+path, "").Body)
	require.NoError(c.t, err)
	return unnumbered.ReplaceAllString(string(raw), "#")
}

// A study that leaves as a file and comes back is the same in every place, figure for figure;
// so is it once more.
func TestAStudyLeavesAndComesBack(t *testing.T) {
	t.Parallel()
	c := newClientWith(t, service.Options{}, func(c *Config) { c.Charts = web.Charts() })
	st, err := demo.Make(t.Context(), c.cases)
	require.NoError(t, err)
	first := fmt.Sprintf("/studies/%d", st.ID)
	claim := at(t, c.call("GET", first+"/claims", "", 200), "claims.2.id")
	c.call("PUT", fmt.Sprintf("%s/report/analyses/%v", first, claim), "", 204)
	c.call("PUT", first+"/claims/adjustment", `{"adjustment":"holm"}`, 204)
	a := at(t, c.call("GET", fmt.Sprintf("%s/claims", first), "", 200), "claims.2")
	q := c.call("GET", first+"/topline", "", 200)["questions"].([]any)[22].(object)
	c.call("PATCH", fmt.Sprintf("%s/analyses/%v", first, claim), `{"change":{"direction":"different"}}`, 200, "If-Match", fmt.Sprint(at(t, q, "analyses.0.version")))
	assert.NotNil(t, a)

	file := c.fileOf(first)
	second := c.open(file)
	for _, place := range []string{"/topline", "/claims", "/codebook", "/report"} {
		want, got := c.shown(first+place), c.shown(second+place)
		if place == "/topline" || place == "/codebook" || place == "/report" { // the line of undo begins anew
			undo := regexp.MustCompile(`"(undo|redo)":(null|\{[^{}]*\})`)
			want, got = undo.ReplaceAllString(want, ""), undo.ReplaceAllString(got, "")
		}
		same(t, place, want, got)
	}
	again := c.fileOf(c.open(c.fileOf(second)))
	same(t, "the answers", content(t, file, "answers.csv"), content(t, again, "answers.csv"))
	assert.Contains(t, content(t, file, "history.json"), "history.selected")
	for _, name := range []string{"codebook", "analyses", "report", "history", "recipe"} {
		fits(t, name, content(t, file, name+".json"))
	}

	// Without Wide Tally it is a plain package of CSV and JSON.
	var descriptor struct {
		Resources []struct{ Name, Path, Format string }
	}
	require.NoError(t, json.Unmarshal([]byte(content(t, file, "datapackage.json")), &descriptor))
	assert.Len(t, descriptor.Resources, 6)
	assert.True(t, strings.HasPrefix(content(t, file, "answers.csv"), "household,"), content(t, file, "answers.csv")[:100])
}

// same says where two long texts first part.
func same(t *testing.T, what, want, got string) {
	t.Helper()
	if want == got {
		return
	}
	at := 0
	for at < min(len(want), len(got)) && want[at] == got[at] {
		at++
	}
	around := func(s string) string { return s[max(0, at-160):min(len(s), at+160)] }
	t.Errorf("%s differs at %d:\n%s\n---\n%s", what, at, around(want), around(got))
}

func content(t *testing.T, file []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	f, err := z.Open(name)
	require.NoError(t, err)
	raw, err := io.ReadAll(f)
	require.NoError(t, err)
	return string(raw)
}

// A study file that was tampered with, cut, or written by a newer version is refused in words,
// and nothing of it stays.
func TestStudyFilesThatCannotBe(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,use\nHarbour,yes\nFenside,no\nHarbour,no\n")
	file := c.fileOf(st)
	with := func(name string, edit func(s string) string) string {
		z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
		require.NoError(t, err)
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		for _, f := range z.File {
			text := content(t, file, f.Name)
			if f.Name == name {
				text = edit(text)
			}
			entry, err := w.Create(f.Name)
			require.NoError(t, err)
			_, err = io.WriteString(entry, text)
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		return out.String()
	}
	replaced := func(a, b string) func(string) string {
		return func(s string) string {
			require.Contains(t, s, a)
			return strings.Replace(s, a, b, 1)
		}
	}
	for what, k := range map[string]struct {
		file, told, code string
	}{
		"a newer one":              {with("codebook.json", replaced(`"version": 1`, `"version": 2`)), "newer version", "packed.newer"},
		"a newer report":           {with("report.json", replaced(`"version": 1`, `"version": 9`)), "newer version", "packed.newer"},
		"another format":           {with("codebook.json", replaced("widetally/codebook", "else")), "cannot be read", "packed.broken"},
		"half a document":          {with("codebook.json", func(s string) string { return s[:len(s)/2] }), "cannot be read", "packed.broken"},
		"a member of nobody's":     {with("codebook.json", replaced(`"units":`, `"unit":`)), "cannot be read", "packed.broken"},
		"rows that are lacking":    {with("codebook.json", replaced(`"rows": 3`, `"rows": 4`)), "", "packed.broken"},
		"a column that is lacking": {with("codebook.json", replaced(`"name": "ward"`, `"name": "sea"`)), "", "packed.broken"},
		"an answer twice":          {with("codebook.json", replaced(`"slot": 2`, `"slot": 1`)), "", "packed.broken"},
		"an answer of nobody's":    {with("codebook.json", replaced(`"code": "Harbour"`, `"code": "Port"`)), "", "packed.broken"},
		"a kind of nobody's":       {with("codebook.json", replaced(`"kind": "single"`, `"kind": "rumour"`)), "", "packed.broken"},
		"counted under itself":     {with("codebook.json", replaced(`"slot": 1`, `"sameAs": 1, "slot": 1`)), "", "packed.broken"},
		"counted under none":       {with("codebook.json", replaced(`"slot": 1`, `"sameAs": 7, "slot": 1`)), "", "packed.broken"},
		"counted in a ring": {with("codebook.json", func(s string) string {
			return replaced(`"slot": 2`, `"sameAs": 1, "slot": 2`)(replaced(`"slot": 1`, `"sameAs": 2, "slot": 1`)(s))
		}), "", "packed.broken"},
		"a count that is none":     {with("codebook.json", replaced(`"decimals": 1`, `"countedBy": 1, "decimals": 1`)), "", "packed.broken"},
		"sources without end":      {with("codebook.json", replaced(`"kind": "single"`, `"derivation": {"rule": "combine", "sources": [`+strings.Repeat("1,", 8000)+`1]}, "kind": "single"`)), "", "packed.broken"},
		"a claim of the future":    {with("analyses.json", replaced(`"analyses": []`, `"analyses": [{"id":1,"question":1,"statedAt":"2999-01-01T00:00:00Z","spec":{"method":"frequency","version":1,"questions":["1"],"settings":{}}}]`)), "", "packed.broken"},
		"run before it was stated": {with("analyses.json", replaced(`"analyses": []`, `"analyses": [{"id":1,"question":1,"statedAt":"2026-01-02T00:00:00Z","firstRunAt":"2026-01-01T00:00:00Z","spec":{"method":"frequency","version":1,"questions":["1"],"settings":{}}}]`)), "", "packed.broken"},
		"an unknown method":        {with("analyses.json", replaced(`"analyses": []`, `"analyses": [{"id":1,"question":1,"statedAt":"2026-01-01T00:00:00Z","spec":{"method":"guess","version":1,"questions":[],"settings":{}}}]`)), "cannot be read", "packed.broken"},
		"a question elsewhere":     {with("analyses.json", replaced(`"analyses": []`, `"analyses": [{"id":1,"question":99,"statedAt":"2026-01-01T00:00:00Z","spec":{"method":"frequency","version":1,"questions":["99"],"settings":{}}}]`)), "", "packed.broken"},
	} {
		t.Run(what, func(t *testing.T) {
			c := *c
			c.t = t
			before := len(c.call("GET", "/studies", "", 200)["studies"].([]any))
			a := c.call("POST", "/arrivals?name=study.zip", k.file, 201, "Content-Type", "application/octet-stream")
			assert.Contains(t, at(t, a, "packed.problem"), k.told)
			assert.Equal(t, k.code, c.call("POST", "/studies/open", fmt.Sprintf(`{"arrivalId":%q}`, a["id"]), 422)["code"])
			assert.Len(t, c.call("GET", "/studies", "", 200)["studies"], before)
		})
	}
	plain := c.call("POST", "/arrivals?name=a.csv", "a,b\n1,2\n", 201, "Content-Type", "application/octet-stream")
	assert.Nil(t, plain["packed"])
	assert.Equal(t, "packed.none", c.call("POST", "/studies/open", fmt.Sprintf(`{"arrivalId":%q}`, plain["id"]), 422)["code"])
}

// Random answers with all that a file may hold come back to the last sign, and so does every tally.
func TestRandomStudiesComeBack(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	odd := []string{"yes", "no", "=1+1", "'=x", "-5", "@a", "a;b", `say "so"`, "two\nlines", "tab\there", "ä é ü", "", "999", "n/a", "+", "''", "it's"}
	for seed := range uint64(12) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			c := *c
			c.t = t
			r := rand.New(rand.NewPCG(seed, 7))
			var b strings.Builder
			w := csv.NewWriter(&b)
			_ = w.Write([]string{"id", "single", "number", "text", "few"})
			for i := range 30 + r.IntN(60) {
				number := fmt.Sprint(r.NormFloat64() * math.Pow(10, float64(r.IntN(9)-4)))
				if r.IntN(9) == 0 {
					number = odd[r.IntN(2)*11]
				}
				_ = w.Write([]string{fmt.Sprintf("A%03d", i), odd[r.IntN(len(odd))], number, odd[r.IntN(len(odd))] + fmt.Sprint(r.IntN(1000)), fmt.Sprint(r.IntN(5))})
			}
			w.Flush()
			st := c.begin(b.String())
			for _, name := range []string{"single", "few"} { // some answers are missing, some are counted under another
				q := c.question(st, name)
				answers := q["answers"].([]any)
				for k, a := range answers {
					a := a.(object)
					delete(a, "code")
					delete(a, "from")
					delete(a, "to")
					if a["slot"].(float64) > 0 && r.IntN(4) == 0 {
						a["missing"] = "refused"
					}
					if k > 0 && r.IntN(6) == 0 && a["slot"].(float64) > 0 {
						a["label"] = fmt.Sprintf("label %d", k)
					}
				}
				raw, err := json.Marshal(answers)
				require.NoError(t, err)
				c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), fmt.Sprintf(`{"answers":%s}`, raw), 200, "If-Match", fmt.Sprint(q["version"]))
			}
			// Something is asked of it, tested and reported.
			c.askAtRandom(r, st)
			file := c.fileOf(st)
			for _, name := range []string{"codebook", "analyses", "report", "history", "recipe"} {
				fits(t, name, content(t, file, name+".json"))
			}
			fits(t, "made", c.text("GET", st+"/report/file?form=json", ""))
			back := c.open(file)
			undo := regexp.MustCompile(`"(undo|redo)":(null|\{[^{}]*\})`)
			for _, place := range []string{"/topline", "/codebook"} {
				same(t, place, undo.ReplaceAllString(c.shown(st+place), ""), undo.ReplaceAllString(c.shown(back+place), ""))
			}
			same(t, "the answers", content(t, file, "answers.csv"), content(t, c.fileOf(back), "answers.csv"))

			// As a recipe on the file that it was read from, every tally is that of the page.
			run := c.run(c.recipeOf(st), []byte(b.String()))
			assert.Empty(t, run.Noticed)
			raw, err := run.JSON()
			require.NoError(t, err)
			fits(t, "results", string(raw))
			var results struct{ Tallies []object }
			require.NoError(t, json.Unmarshal(raw, &results))
			tallied := 0
			for _, got := range results.Tallies {
				q := c.question(st, got["question"].(string))
				if q["tabulated"] != true {
					continue
				}
				tallied++
				assert.Equal(t, q["answered"], got["answered"])
				assert.Equal(t, q["missing"], got["missing"])
				for k, row := range q["rows"].([]any) {
					answer := got["answers"].([]any)[k].(object)
					for member, of := range map[string]string{"code": "code", "label": "label", "count": "count", "percentOfAnswered": "percentOfAnswered"} {
						assert.Equal(t, row.(object)[of], answer[member], "%v %s", got["question"], member)
					}
				}
			}
			assert.GreaterOrEqual(t, tallied, 2)
		})
	}
}

// askAtRandom asks a study of random answers in several ways, some of which cannot be asked of its answers,
// takes all into the report, and tells something of the survey.
func (c *client) askAtRandom(r *rand.Rand, st string) {
	c.t.Helper()
	id := func(name string) string { return fmt.Sprint(c.question(st, name)["id"]) }
	single, few, number := c.question(st, "single"), c.question(st, "few"), id("number")
	code := few["answers"].([]any)[r.IntN(len(few["answers"].([]any)))].(object)["code"]
	pieces := []string{fmt.Sprintf(`{"id":1,"prose":"# About\n\n*Of* {few: n}, see {few: table} & <b>"},{"id":2,"question":%v,"base":"everyone"},{"id":3,"question":%s}`, few["id"], number)}
	for i, spec := range []string{
		fmt.Sprintf(`{"method":"frequency","questions":["%v"],"settings":{"intervals":"goodman"}}`, single["id"]),
		fmt.Sprintf(`{"method":"crosstab","questions":["%v","%v"],"settings":{"reading":"row"}}`, few["id"], single["id"]),
		fmt.Sprintf(`{"method":"numeric-summary","questions":["%s"],"settings":{}}`, number),
		fmt.Sprintf(`{"method":"one-proportion","questions":["%v"],"settings":{"success":["%v"],"claimed":"%d %%","direction":"different","role":"null","level":0.05,"source":{}}}`, few["id"], code, 1+r.IntN(98)),
	} {
		resp := c.send("POST", "/api/v1"+st+"/analyses", `{"run":true,"spec":`+spec+`}`)
		raw, err := io.ReadAll(resp.Body)
		require.NoError(c.t, err)
		if resp.StatusCode != 201 {
			continue // told why
		}
		var made struct{ AnalysisID int }
		require.NoError(c.t, json.Unmarshal(raw, &made))
		pieces = append(pieces, fmt.Sprintf(`{"id":%d,"analysis":%d}`, 10+i, made.AnalysisID))
	}
	assert.Greater(c.t, len(pieces), 3, "some could be asked")
	version := c.call("GET", st+"/report", "", 200)["version"]
	c.call("PUT", st+"/report", fmt.Sprintf(`{"title":"Random <&>","facts":[{"key":"sponsor","text":"=1+1 & \"x\""}],"pieces":[%s]}`, strings.Join(pieces, ",")), 200, "If-Match", fmt.Sprintf("%q", fmt.Sprint(version)))
}

// fits holds a document against its published schema.
func fits(t *testing.T, name, document string) {
	t.Helper()
	compiler := jsonschema.NewCompiler()
	for _, n := range []string{"spec", name} {
		raw, err := os.ReadFile("../../docs/formats/" + n + ".schema.json")
		require.NoError(t, err)
		schema, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
		require.NoError(t, err)
		require.NoError(t, compiler.AddResource("https://formats/"+n+".schema.json", schema))
	}
	schema, err := compiler.Compile("https://formats/" + name + ".schema.json")
	require.NoError(t, err)
	value, err := jsonschema.UnmarshalJSON(strings.NewReader(document))
	require.NoError(t, err)
	assert.NoError(t, schema.Validate(value), name)
}

// Who goes away while a study is written stops it, and nothing of it stays.
func TestAStudyFileIsStopped(t *testing.T) {
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	kept, err := os.ReadDir(dir)
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	stop()
	id, err := strconv.ParseUint(strings.TrimPrefix(st, "/studies/"), 10, 64)
	require.NoError(t, err)
	_, err = c.cases.StudyFiles.StudyFile(ctx, id, nil)
	assert.ErrorIs(t, err, context.Canceled)
	_, err = written(ctx, func(w io.Writer) error { _, err := w.Write(make([]byte, 1<<20)); return err })
	assert.ErrorIs(t, err, context.Canceled)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, left, len(kept))
}

// Whoever takes a file is told how far it has come while it is written, and that it is written.
func TestAFileIsWatched(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("a\n" + strings.Repeat("x\ny\n", 100_000))
	watched := make(chan string)
	go func() {
		raw, _ := io.ReadAll(c.send("GET", "/api/v1/files/token-12345/progress", "").Body)
		watched <- string(raw)
	}()
	raw, err := io.ReadAll(c.send("GET", "/api/v1"+st+"/file?watch=token-12345", "").Body)
	require.NoError(t, err)
	assert.NotEmpty(t, raw)
	events := <-watched
	assert.Contains(t, events, `data: {"percent":`)
	assert.True(t, strings.HasSuffix(events, "event: gone\ndata: {}\n\n"), events)
}
