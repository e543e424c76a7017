package httpapi

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

type object = map[string]any

// bring reads a file with changed settings and keeps it as a study.
func (c *client) bring(name, file string, change object, columns string) (study string, arrival object) {
	c.t.Helper()
	id, settings := c.arrival(name, file, change)
	arrival = c.call("POST", fmt.Sprintf("/arrivals/%s/look", id), fmt.Sprintf(`{"settings":%s,"columns":%s}`, settings, columns), 200)
	require.NotNil(c.t, arrival["preview"], "%v", arrival["problem"])
	st := c.call("POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"Fernmouth","units":"households","columns":%s}`, id, settings, columns), 201)
	return fmt.Sprintf("/studies/%v", st["id"]), arrival
}

func (c *client) arrival(name, file string, change object) (id, settings string) {
	c.t.Helper()
	a := c.call("POST", "/arrivals?name="+name, file, 201, "Content-Type", "application/octet-stream")
	s := a["settings"].(object)
	s["headerSaid"] = true
	for k, v := range change {
		s[k] = v
	}
	raw, err := json.Marshal(s)
	require.NoError(c.t, err)
	return a["id"].(string), string(raw)
}

// tally gives a question's rows as "label count", missing ones in brackets.
func tallied(q object) (out []string) {
	for _, r := range q["rows"].([]any) {
		out = append(out, fmt.Sprintf("%v %v", r.(object)["label"], r.(object)["count"]))
	}
	for _, r := range q["missingRows"].([]any) {
		out = append(out, fmt.Sprintf("(%v %v)", r.(object)["label"], r.(object)["count"]))
	}
	return out
}

func (c *client) tallyOf(study, name string) []string { return tallied(c.question(study, name)) }

func TestEveryFormBecomesATally(t *testing.T) {
	t.Parallel()
	cases := []struct {
		name, file string
		settings   object
		question   string
		want       []string
	}{
		{"a row per respondent", "ward,caddy\nHarbour,yes\nFenside,no\nHarbour,\n", nil, "ward", []string{"Fenside 1", "Harbour 2"}},
		{"a single column of 0 and 1", "1\n0\n1\n1\n", nil, "column 1", []string{"0 1", "1 3"}},
		{"answer and count", "ward,n\nHarbour,238\nFenside,132\n", object{"shape": "counts", "countColumn": "n"}, "ward", []string{"Harbour 238", "Fenside 132"}},
		{"a grid", "ward,yes,no,total\nHarbour,3,4,7\nFenside,5,6,11\n", object{"shape": "grid"}, "columns", []string{"yes 8", "no 10"}},
		{"two numbers", "62,100", object{"shape": "two", "second": "asked"}, "answer", []string{"yes 62", "no 38"}},
		{"classes", "age,n\n18–24,5\n25–34,7\n", object{"shape": "classes", "upTo": "next"}, "age", []string{"18–24 5", "25–34 7"}},
	}
	c := newClient(t, service.Options{})
	for _, x := range cases {
		t.Run(x.name, func(t *testing.T) {
			cc := &client{t, c.app, c.check, c.log, c.cases}
			st, _ := cc.bring("f.csv", x.file, x.settings, "[]")
			assert.Equal(t, x.want, cc.tallyOf(st, x.question))
			page := cc.call("GET", st+"/topline", "", 200)
			summarised := x.settings != nil
			assert.Equal(t, summarised, page["study"].(object)["countQuestion"] != nil)
			assert.Equal(t, summarised, page["questions"].([]any)[0].(object)["countsInForce"], "the page says that counts are in force")
		})
	}
}

// household is a small file with something of everything that is guessed at.
const household = "id,ward,size,r_smell,r_time,r_space,use_before,use_after,why\n" +
	"1,Harbour,2,1,0,0,yes,yes,a;b\n2,Harbor,3,0,1,0,no,yes,a\n3,Harbour,2,0,0,1,no,no,b\n4,Fenside,-9,1,1,0,yes,yes,a;b;c\n5,Fenside,4,0,0,0,no,yes,c;a\n6,Harbour,1,,,,yes,no,b;c\n" +
	"7,Harbour,2,1,0,0,yes,yes,a;b\n8,Harbour,3,0,1,0,no,yes,a\n9,Harbour,2,0,0,1,no,no,b\n10,Harbour,1,1,1,0,yes,yes,a;b;c\n11,Harbour,4,0,0,0,no,yes,c;a\n12,Harbour,1,1,0,0,yes,no,b;c\n"

func TestTheArrivalCheckSuggestsAndIsOverruled(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, a := c.bring("h.csv", household, nil, `[{"name":"id","kind":"identifier"},{"name":"ward","sameAs":{"Harbor":"Harbour"}},{"name":"size","kind":"continuous","missing":{"-9":"not recorded"}},{"name":"why","skip":false}]`)
	check := a["preview"].(object)["check"].(object)
	assert.Equal(t, 12.0, check["n"])
	var found []string
	for _, f := range check["found"].([]any) {
		found = append(found, fmt.Sprint(f.(object)["kind"], " ", f.(object)["questions"]))
	}
	assert.Equal(t, []string{"set [3 4 5]", "pair [6 7]"}, found)
	kinds := map[string][]string{}
	for _, q := range check["questions"].([]any) {
		for _, s := range q.(object)["suspicions"].([]any) {
			kinds[q.(object)["name"].(string)] = append(kinds[q.(object)["name"].(string)], s.(object)["kind"].(string))
			assert.NotContains(t, s.(object)["text"], "[")
		}
	}
	assert.Equal(t, map[string][]string{"id": {"identifier"}, "why": {"parts"}}, kinds, "what was overruled is no longer suspected")
	assert.Equal(t, []string{"Fenside 2", "Harbour 10"}, c.tallyOf(st, "ward"))
	size := c.question(st, "size")
	assert.Equal(t, 1.0, size["missing"])
	assert.Equal(t, 1.0, size["numeric"].(object)["smallest"], "−9 is missing, not a number")

	kept := c.call("GET", st+"/check", "", 200)
	assert.Equal(t, "h.csv", kept["files"].([]any)[0].(object)["name"])
	first := kept["files"].([]any)[0].(object)["first"].([]any)
	assert.Equal(t, []any{"1", "Harbour", "2", "1", "0", "0", "yes", "yes", "a;b"}, first[0], "the first rows as they were")
}

// derive makes a question and returns its name.
func (c *client) derive(st, body string) object {
	c.t.Helper()
	return c.call("POST", st+"/questions", body, 201)
}

func TestDerivedQuestionsFollowTheirSources(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("h.csv", household, nil, `[{"name":"size","kind":"discrete","missing":{"-9":"not recorded"}}]`)
	id := func(name string) any { return c.question(st, name)["id"] }
	slot := func(q, code string) any {
		for _, a := range c.question(st, q)["answers"].([]any) {
			if a.(object)["code"] == code {
				return a.(object)["slot"]
			}
		}
		t.Fatalf("no answer %s", code)
		return nil
	}
	set := c.derive(st, fmt.Sprintf(`{"wording":"Why not?","derivation":{"rule":"together","sources":[%v,%v,%v],"chosen":[[%v],[%v],[%v]]}}`,
		id("r_smell"), id("r_time"), id("r_space"), slot("r_smell", "1"), slot("r_time", "1"), slot("r_space", "1")))
	assert.Equal(t, "choose_all", set["kind"])
	assert.Equal(t, []string{"r_smell 5", "r_time 4", "r_space 2", "(No answer 1)"}, tallied(set), "respondent 6 left all blank")
	assert.Equal(t, 11.0, set["answered"])
	count := c.derive(st, fmt.Sprintf(`{"wording":"How many reasons?","derivation":{"rule":"how_many","sources":[%v]}}`, set["id"]))
	assert.Equal(t, []string{"0 2", "1 7", "2 2", "3 0", "(No answer 1)"}, tallied(count))
	parts := c.derive(st, fmt.Sprintf(`{"wording":"Parts","derivation":{"rule":"parts","sources":[%v],"separator":";"}}`, id("why")))
	assert.Equal(t, []string{"a 8", "b 8", "c 6"}, tallied(parts))
	bands := c.derive(st, fmt.Sprintf(`{"wording":"Size","derivation":{"rule":"bands","sources":[%v],"cut":"given","limits":[2,4]}}`, id("size")))
	assert.Equal(t, []string{"< 2 3", "2 to < 4 6", "≥ 4 2", "(-9 1)"}, tallied(bands))
	pair := c.derive(st, fmt.Sprintf(`{"wording":"Both","derivation":{"rule":"combine","sources":[%v,%v]}}`, id("use_before"), id("use_after")))
	assert.Equal(t, []string{"no × no 2", "no × yes 4", "yes × no 2", "yes × yes 4"}, tallied(pair))
	merged := c.derive(st, fmt.Sprintf(`{"wording":"Harbour or not","derivation":{"rule":"merge","sources":[%v],"groups":[{"label":"The Harbour","answers":[%v,%v]}]}}`, id("ward"), slot("ward", "Harbour"), slot("ward", "Harbor")))
	assert.Equal(t, []string{"Fenside 2", "The Harbour 10"}, tallied(merged))

	// A cell corrected in the source is seen in what is made from it, and undo takes
	// both back; the source itself stays untouched by the derivation.
	name := func(q object) string { return q["name"].(string) }
	path := fmt.Sprintf("%s/questions/%v", st, id("ward"))
	version := fmt.Sprintf(`"%v"`, c.question(st, "ward")["version"])
	c.call("PATCH", path+"/responses/4", `{"text":"Harbour"}`, 200, "If-Match", version)
	assert.Equal(t, []string{"Fenside 1", "The Harbour 11"}, c.tallyOf(st, name(merged)))
	c.call("PATCH", path+"/responses/4", `{"text":"Oldgate"}`, 422, "If-Match", fmt.Sprintf(`"%v"`, c.question(st, "ward")["version"]))
	c.call("PATCH", path+"/responses/4", `{"text":"Oldgate","isNew":true}`, 200, "If-Match", fmt.Sprintf(`"%v"`, c.question(st, "ward")["version"]))
	assert.Equal(t, []string{"Fenside 1", "The Harbour 10", "Oldgate 1"}, c.tallyOf(st, name(merged)))
	e := c.step(st, "undo", 200)
	assert.Equal(t, "ward, row 4: answer corrected", e["text"])
	c.step(st, "undo", 200)
	assert.Equal(t, []string{"Fenside 2", "The Harbour 10"}, c.tallyOf(st, name(merged)))
	c.step(st, "redo", 200)
	assert.Equal(t, []string{"Fenside 1", "The Harbour 11"}, c.tallyOf(st, name(merged)))

	c.call("DELETE", fmt.Sprintf("%s/questions/%v", st, set["id"]), "", 422, "If-Match", fmt.Sprintf(`"%v"`, set["version"]))
	c.call("DELETE", fmt.Sprintf("%s/questions/%v", st, id("ward")), "", 422, "If-Match", `"1"`)
	c.call("DELETE", fmt.Sprintf("%s/questions/%v", st, pair["id"]), "", 204, "If-Match", fmt.Sprintf(`"%v"`, pair["version"]))
	c.call("PUT", fmt.Sprintf("%s/questions/%v/derivation", st, set["id"]), fmt.Sprintf(`{"wording":"Loop","derivation":{"rule":"merge","sources":[%v],"groups":[{"label":"x","answers":[1]}]}}`, count["id"]), 422, "If-Match", fmt.Sprintf(`"%v"`, set["version"]))
	rebanded := c.call("PUT", fmt.Sprintf("%s/questions/%v/derivation", st, bands["id"]), fmt.Sprintf(`{"wording":"Size","derivation":{"rule":"bands","sources":[%v],"cut":"groups","number":2,"upperClosed":true}}`, id("size")), 200, "If-Match", fmt.Sprintf(`"%v"`, bands["version"]))
	assert.Equal(t, []string{"≤ 2 7", "> 2 4", "(-9 1)"}, tallied(rebanded), "half of 11 is 5.5, reached at 2")
}

func TestSubgroupsCountAndAreUsedEverywhere(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("h.csv", household, nil, `[{"name":"size","kind":"discrete","missing":{"-9":"not recorded"}},{"name":"id","kind":"identifier"}]`)
	id := func(name string) any { return c.question(st, name)["id"] }
	size := fmt.Sprintf(`{"op":"between","question":%v,"from":2,"to":3}`, id("size"))
	cases := []struct {
		name, condition string
		n               float64
	}{
		{"a range", size, 6},
		{"not: who gave no number is in neither", `{"op":"not","of":[` + size + `]}`, 5},
		{"or", fmt.Sprintf(`{"op":"or","of":[%s,{"op":"not","of":[{"op":"answered","question":%v}]}]}`, size, id("size")), 7},
		{"and", fmt.Sprintf(`{"op":"and","of":[%s,{"op":"any_of","question":%v,"answers":[1]}]}`, size, id("ward")), 5},
	}
	for _, x := range cases {
		t.Run(x.name, func(t *testing.T) {
			got := (&client{t, c.app, c.check, c.log, c.cases}).call("POST", st+"/subgroups/count", `{"condition":`+x.condition+`}`, 200)
			assert.Equal(t, object{"n": x.n, "everyone": 12.0}, got)
		})
	}
	for name, bad := range map[string]string{"no operation": `{"op":"xor"}`, "no answers": fmt.Sprintf(`{"op":"any_of","question":%v}`, id("ward")), "a range of words": fmt.Sprintf(`{"op":"between","question":%v,"from":1}`, id("ward")),
		"nothing to join": `{"op":"and"}`, "a question elsewhere": `{"op":"answered","question":99999}`, "an empty range": fmt.Sprintf(`{"op":"between","question":%v,"from":3,"to":2}`, id("size"))} {
		t.Run(name, func(t *testing.T) {
			p := (&client{t, c.app, c.check, c.log, c.cases}).call("POST", st+"/subgroups", `{"name":"x","condition":`+bad+`}`, 422)
			assert.NotContains(t, p["title"], "[")
		})
	}
	book := c.call("POST", st+"/subgroups", `{"name":"Two or three","condition":`+size+`}`, 200)
	group := book["subgroups"].([]any)[0].(object)
	page := c.call("GET", fmt.Sprintf("%s/topline?of=%v", st, group["id"]), "", 200)
	assert.Equal(t, []string{"Fenside 0", "Harbor 1", "Harbour 5"}, tallied(page["questions"].([]any)[1].(object)))
	c.call("GET", st+"/topline?of=999", "", 404)

	// A claim about the subgroup counts it and says so.
	q := c.question(st, "use_after")
	path := fmt.Sprintf("%s/questions/%v", st, q["id"])
	body := strings.Replace(statement(q, "0.05", figures(q, map[string]string{"yes": "50", "no": "50"})), `"settings"`, fmt.Sprintf(`"subgroup":"%v","settings"`, group["id"]), 1)
	both := c.call("POST", st+"/analyses", strings.Replace(body, `{"spec"`, `{"run":true,"spec"`, 1), 201)
	ran := first(both["question"])
	assert.Equal(t, both["analysisId"], ran["id"], "stated and run in one, and the answer names the claim")
	assert.Equal(t, "6", c.total(ran))
	assert.Contains(t, block(t, ran, "sentence")["lines"].([]any)[0], "households in “Two or three” this sample represents")
	c.call("DELETE", fmt.Sprintf("%s/subgroups/%v", st, group["id"]), "", 422)
	c.call("PUT", fmt.Sprintf("%s/subgroups/%v", st, group["id"]), `{"name":"Two or three","condition":`+size+`}`, 200, "If-Match", `"1"`)
	assert.Equal(t, "before", c.analyses(st, "use_after")[0]["timing"], "the same subgroup saved again changes nothing")
	narrower := strings.Replace(size, `"from":2`, `"from":3`, 1)
	require.NotEqual(t, size, narrower)
	c.call("PUT", fmt.Sprintf("%s/subgroups/%v", st, group["id"]), `{"name":"Two or three","condition":`+narrower+`}`, 200, "If-Match", `"2"`)
	changed := c.analyses(st, "use_after")[0]
	assert.Equal(t, "changed", changed["timing"])
	assert.Contains(t, fmt.Sprint(changed["changes"]), "who is in the subgroup is not as it was")
	c.step(st, "undo", 200)
	assert.Equal(t, "before", c.analyses(st, "use_after")[0]["timing"], "nor does a change that was taken back")

	// The base of a question is checked against its answers.
	c.call("PATCH", path, `{"base":`+size+`}`, 200, "If-Match", fmt.Sprintf(`"%v"`, c.question(st, "use_after")["version"]))
	for _, x := range c.call("GET", st+"/check", "", 200)["questions"].([]any) {
		if x := x.(object); x["name"] == "use_after" {
			assert.Contains(t, x["suspicions"].([]any)[0].(object)["text"], "6 answered although the base says")
		}
	}
	p := c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, id("size")), `{"kind":"text"}`, 422, "If-Match", fmt.Sprintf(`"%v"`, c.question(st, "size")["version"]))
	assert.Contains(t, p["title"], "the subgroup “Two or three”", "a question on which something rests is not read anew")
}

func TestTheCodebookInBulkWithUndo(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("a,b,c\n1,5,1\n2,4,3\n5,99,2\n99,1,4\n3,2,1\n")
	book := c.call("GET", st+"/codebook", "", 200)
	versions := func(names ...string) string {
		var out []string
		for _, q := range c.call("GET", st+"/codebook", "", 200)["questions"].([]any) {
			for _, n := range names {
				if q := q.(object); q["name"] == n {
					out = append(out, fmt.Sprintf(`{"id":%v,"version":%v}`, q["id"], q["version"]))
				}
			}
		}
		return "[" + strings.Join(out, ",") + "]"
	}
	old := versions("a", "b", "c")
	c.call("PATCH", st+"/codebook", `{"questions":`+old+`,"kind":"ordered","section":"Views","missing":{"99":"refused"},"labels":"1\tbad\n5 = good"}`, 200)
	assert.Equal(t, []string{"bad 1", "2 1", "3 1", "good 1", "(99 1)"}, c.tallyOf(st, "a"))
	c.call("PATCH", st+"/codebook", `{"questions":`+old+`,"section":"x"}`, 412)
	made := c.call("PATCH", st+"/codebook", `{"questions":`+versions("a", "b")+`,"makeList":"Five points"}`, 200)
	list := made["lists"].([]any)[0].(object)
	for _, q := range made["questions"].([]any)[:2] {
		assert.Equal(t, list["id"], q.(object)["listId"])
	}
	assert.Equal(t, []string{"bad 1", "2 1", "3 0", "good 1", "4 1", "(99 1)"}, c.tallyOf(st, "b"), "the list's order; an answer that nobody chose has its place")
	c.call("PUT", fmt.Sprintf("%s/lists/%v", st, list["id"]), `{"name":"Five points","pasted":"1\tawful\n2\tpoor\n3\tfair\n4\tgood\n5\tfine"}`, 200, "If-Match", fmt.Sprintf(`"%v"`, list["version"]))
	assert.Equal(t, []string{"awful 1", "poor 1", "fair 0", "good 1", "fine 1", "(99 1)"}, c.tallyOf(st, "b"))
	c.call("PATCH", st+"/codebook", `{"questions":`+versions("a")+`,"reverse":true}`, 200)
	assert.Equal(t, []string{"fine 1", "good 0", "fair 1", "poor 1", "awful 1", "(99 1)"}, c.tallyOf(st, "a"))
	first := c.question(st, "a")["answers"].([]any)[0].(object)
	assert.Equal(t, 1.0, first["score"], "the scale is turned round: fine now scores 1")

	history := c.call("GET", st+"/history", "", 200)["edits"].([]any)
	require.Len(t, history, 4)
	for range 4 {
		c.step(st, "undo", 200)
	}
	c.step(st, "undo", 409)
	strip := func(list any) (out []any) {
		for _, q := range list.([]any) {
			q.(object)["version"] = nil
			out = append(out, q)
		}
		return out
	}
	assert.Equal(t, strip(book["questions"]), strip(c.call("GET", st+"/codebook", "", 200)["questions"]), "all taken back")
	for range 4 {
		c.step(st, "redo", 200)
	}
	assert.Equal(t, []string{"fine 1", "good 0", "fair 1", "poor 1", "awful 1", "(99 1)"}, c.tallyOf(st, "a"))
	c.step(st, "undo", 200)
	c.call("PATCH", st+"/codebook", `{"questions":`+versions("c")+`,"section":"Other"}`, 200)
	c.step(st, "redo", 409)
}

func TestCodebooksGoOutAndComeBack(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	file := "ward,size,view\nHarbour,2.5,1\n=Fenside,-9,3\nHarbour,4,-1\n"
	st, _ := c.bring("h.csv", file, nil, `[{"name":"size","kind":"continuous","missing":{"-9":"not recorded"}},{"name":"view","kind":"ordered","missing":{"-1":"refused"}}]`)
	q := c.question(st, "view")
	c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), `{"wording":"How do you <see> it?","section":"Views & more","note":"a note","newAnswer":{"code":"2","label":"so-so"}}`, 200, "If-Match", `"1"`)
	want := c.call("GET", st+"/codebook", "", 200)["questions"].([]any)
	said := func(questions []any) (out []string) {
		for _, q := range questions {
			q := q.(object)
			out = append(out, fmt.Sprint(q["name"], q["wording"], q["kind"], q["section"], q["note"]))
			for _, a := range q["answers"].([]any) {
				out = append(out, fmt.Sprint(" ", a.(object)["code"], "|", a.(object)["label"], "|", a.(object)["missing"]))
			}
		}
		return out
	}
	for format, keeps := range map[string]bool{"csv": true, "ddi": true, "package": false} {
		t.Run(format, func(t *testing.T) {
			cc := &client{t, c.app, c.check, c.log, c.cases}
			res := cc.send("GET", "/api/v1"+st+"/codebook/file?format="+format, "")
			require.Equal(t, 200, res.StatusCode)
			raw, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			if format == "csv" {
				assert.Contains(t, string(raw), "'=Fenside", "no cell can be taken for a formula")
			}
			if format == "package" {
				z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
				require.NoError(t, err)
				require.Len(t, z.File, 7)
				// A package is a study of its own: it comes back through the intake.
				again, _ := cc.bring("p.zip", string(raw), nil, "[]")
				assert.Equal(t, cc.tallyOf(st, "view"), cc.tallyOf(again, "view"))
				assert.Equal(t, cc.question(st, "size")["numeric"], cc.question(again, "size")["numeric"])
			}
			bare, _ := cc.bring("h.csv", file, nil, "[]")
			a := cc.call("POST", "/arrivals?name=book", string(raw), 201, "Content-Type", "application/octet-stream")
			fit := cc.call("POST", bare+"/codebook/file", fmt.Sprintf(`{"arrivalId":%q,"dry":true}`, a["id"]), 200)
			assert.Equal(t, []any{"ward", "size", "view"}, fit["matched"])
			assert.Equal(t, "view", cc.question(bare, "view")["wording"], "nothing applied yet")
			cc.call("POST", bare+"/codebook/file", fmt.Sprintf(`{"arrivalId":%q,"dry":false}`, a["id"]), 200)
			got := cc.call("GET", bare+"/codebook", "", 200)["questions"].([]any)
			if keeps {
				assert.Equal(t, said(want), said(got))
			}
			assert.Equal(t, cc.tallyOf(st, "view"), cc.tallyOf(bare, "view"))
			assert.Equal(t, cc.question(st, "size")["numeric"], cc.question(bare, "size")["numeric"])
		})
	}
	a := c.call("POST", "/arrivals?name=book", "hello", 201, "Content-Type", "application/octet-stream")
	c.call("POST", st+"/codebook/file", fmt.Sprintf(`{"arrivalId":%q,"dry":true}`, a["id"]), 422)
}

// total is the number of respondents in the test of an analysis, as its table shows it.
func (c *client) total(a object) string {
	c.t.Helper()
	rows := block(c.t, a, "table")["table"].(object)["rows"].([]any)
	return rows[len(rows)-1].(object)["cells"].([]any)[0].(object)["figures"].([]any)[0].(object)["text"].(string)
}

func TestResponsesAreReadAndSearched(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	q := c.question(st, "ward")
	all := c.call("GET", st+"/responses?from=23&most=10&labels=1", "", 200)
	assert.Equal(t, 25.0, all["rows"])
	require.Len(t, all["lines"], 2)
	assert.Equal(t, object{"number": 24.0, "cells": []any{"A23", "Saltings", "no"}, "missing": []any{false, false, false}}, all["lines"].([]any)[0])
	found := c.call("GET", fmt.Sprintf("%s/responses?question=%v&text=FEN&from=7", st, q["id"]), "", 200)
	assert.Equal(t, 8.0, found["rows"])
	assert.Equal(t, 23.0, found["lines"].([]any)[0].(object)["number"])
	c.call("GET", st+"/responses?question=999&text=x", "", 404)
}
