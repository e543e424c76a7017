package httpapi

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/service"
)

func TestLaterFilesReplaceOrAdd(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("one.csv", "ward,size,old\nHarbour,2,x\nFenside,-9,y\nHarbour,4,x\n", nil, `[{"name":"size","kind":"continuous","missing":{"-9":"not recorded"}}]`)
	q := c.question(st, "ward")
	stated := first(c.call("POST", st+"/analyses", statement(q, "0.05", figures(q, map[string]string{"Harbour": "50", "Fenside": "50"})), 201)["question"])
	c.call("POST", fmt.Sprintf("%s/analyses/%v/run", st, stated["id"]), "", 200)

	send := func(file string, add, dry bool, wave string, status int) object {
		id, settings := c.arrival("two.csv", file, nil)
		return c.call("POST", st+"/refresh", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"add":%t,"waveQuestion":"wave","wave":%q,"dry":%t}`, id, settings, add, wave, dry), status)
	}
	second := "SIZE,ward,new\n-9,Oldgate,1\n7,Harbour,2\n"
	fit := send(second, true, true, "", 200)
	matched := func(name string, codes ...any) object {
		return object{"name": name, "newCodes": append([]any{}, codes...), "unreadable": false, "wording": "", "doubtful": false, "relabelled": []any{}}
	}
	assert.Equal(t, object{"rows": 2.0, "lacking": []any{"old"}, "further": []any{"new"}, "matched": []any{matched("ward", "Oldgate"), matched("size")}}, fit)
	assert.Equal(t, []string{"Fenside 1", "Harbour 2"}, c.tallyOf(st, "ward"), "nothing yet")
	send(second, true, false, "2026", 200)
	assert.Equal(t, []string{"Fenside 1", "Harbour 3", "Oldgate 1"}, c.tallyOf(st, "ward"))
	assert.Equal(t, []string{"x 2", "y 1", "(No answer 2)"}, c.tallyOf(st, "old"))
	assert.Equal(t, []string{"2026 2", "(No answer 3)"}, c.tallyOf(st, "wave"))
	assert.Equal(t, 2.0, c.question(st, "size")["missing"], "−9 still means missing")
	claim := c.analyses(st, "ward")[0]
	assert.Nil(t, claim["document"], "an answer without a share keeps the test from being run")
	assert.Contains(t, claim["problems"].([]any)[0], "“Oldgate” has no share yet")
	c.step(st, "undo", 200)
	assert.Equal(t, []string{"Fenside 1", "Harbour 2"}, c.tallyOf(st, "ward"))
	assert.Equal(t, "3", c.total(c.analyses(st, "ward")[0]))
	send("ward,size\nFenside,1\nFenside,3\n", false, false, "", 200)
	assert.Equal(t, []string{"Fenside 2", "Harbour 0"}, c.tallyOf(st, "ward"), "replaced; the answer that nobody chose keeps its place")
	assert.Equal(t, "changed", c.analyses(st, "ward")[0]["timing"])
	assert.Len(t, c.call("GET", st+"/check", "", 200)["files"], 3)
	send("nothing,fits\n1,2\n", false, false, "", 422)
}

// A column that has the name of a question and other answers is asked about: it is that question, another one, or none.
func TestALaterFileIsAskedAbout(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("one.csv", "ward,use\nHarbour,1\nFenside,2\nHarbour,1\n", nil, `[]`)
	second := "ward,use\nHarbour,often\nFenside,never\n"
	send := func(more string, status int) object {
		id, settings := c.arrival("two.csv", second, nil)
		return c.call("POST", st+"/refresh", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"add":true,"waveQuestion":"wave","wave":"2026"%s}`, id, settings, more), status)
	}
	assert.Equal(t, true, at(t, send(`,"dry":true`, 200), "matched.1.doubtful"))
	for _, more := range []string{`,"dry":false`, `,"dry":false,"matches":{"use":"perhaps"}`, `,"dry":false,"matches":{"ward":"same"}`} {
		assert.Equal(t, "refresh.doubtful", send(more, 422)["code"], more)
	}
	assert.Equal(t, []string{"1 2", "2 1"}, c.tallyOf(st, "use"), "nothing has come in")
	for match, want := range map[string][]string{
		"same":  {"1 2", "2 1", "never 1", "often 1"},
		"apart": {"1 2", "2 1", "(No answer 2)"},
		"out":   {"1 2", "2 1", "(No answer 2)"},
	} {
		send(fmt.Sprintf(`,"dry":false,"matches":{"use":%q}`, match), 200)
		assert.Equal(t, want, c.tallyOf(st, "use"), match)
		if match == "apart" {
			assert.Equal(t, []string{"never 1", "often 1", "(No answer 3)"}, c.tallyOf(st, "use_2026"))
		}
		c.step(st, "undo", 200)
		assert.Equal(t, []string{"1 2", "2 1"}, c.tallyOf(st, "use"))
	}

	// What was asked in other words is noted beside the question, and codes that mean something else are asked about.
	worded := func(st, wording, one string) {
		use := c.call("GET", st+"/codebook", "", 200)["questions"].([]any)[1].(object)
		var answers []string
		for _, a := range use["answers"].([]any) {
			a := a.(object)
			label := strings.Replace(fmt.Sprint(a["label"]), "1", one, 1)
			answers = append(answers, fmt.Sprintf(`{"slot":%v,"label":%q,"missing":%q,"sameAs":null}`, a["slot"], label, a["missing"]))
		}
		body := fmt.Sprintf(`{"wording":%q,"answers":[%s]}`, wording, strings.Join(answers, ","))
		c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, use["id"]), body, 200, "If-Match", fmt.Sprintf(`"%v"`, use["version"]))
	}
	other := c.open(c.fileOf(st))
	worded(st, "Do you use it?", "Yes")
	worded(other, "Do you use the caddy?", "No")
	second = c.text("GET", other+"/codebook/file?format=package", "")
	fit := send(`,"dry":true`, 200)
	assert.Equal(t, "Do you use the caddy?", at(t, fit, "matched.1.wording"))
	assert.Equal(t, []any{object{"code": "1", "here": "Yes", "there": "No"}}, at(t, fit, "matched.1.relabelled"))
	send(`,"dry":false,"matches":{"use":"same"}`, 200)
	assert.Equal(t, "In 2026 it was asked as “Do you use the caddy?”. In 2026 code 1 stood for “No”.", c.question(st, "use")["note"])
}
