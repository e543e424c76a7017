package httpapi

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

// Whatever is sent, the answer is a result or a problem with words, never a breakdown,
// and the study stays as it was or as a valid edit made it.
func TestNothingSentBreaksIt(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("h.csv", household, nil, "[]")
	q := c.question(st, "ward")
	id, settings := c.arrival("two.csv", "ward,size\nHarbour,2\n", nil)
	conditions := []string{`null`, `{}`, `{"op":"and","of":null}`, `{"op":"not","of":[{"op":"not","of":[]}]}`, `{"op":"any_of","question":-1}`, `{"op":"any_of","question":18446744073709551615,"answers":[65535]}`,
		fmt.Sprintf(`{"op":"any_of","question":%v,"answers":[65535,0]}`, q["id"]), fmt.Sprintf(`{"op":"between","question":%v,"from":1e308,"to":-1e308}`, q["id"]), strings.Repeat(`{"op":"not","of":[`, 200) + `{"op":"answered","question":1}` + strings.Repeat(`]}`, 200)}
	derivations := []string{`{}`, `{"rule":"merge"}`, `{"rule":"merge","sources":[]}`, `{"rule":"together","sources":[]}`, `{"rule":"together","sources":[1],"chosen":[[]]}`, `{"rule":"combine","sources":[1,1]}`,
		fmt.Sprintf(`{"rule":"together","sources":[%v],"chosen":[[65535]]}`, q["id"]), fmt.Sprintf(`{"rule":"merge","sources":[%v],"groups":[{"label":"x","answers":[0]}]}`, q["id"]),
		fmt.Sprintf(`{"rule":"merge","sources":[%v],"groups":[{"label":"x","answers":[1,1]}]}`, q["id"]), fmt.Sprintf(`{"rule":"bands","sources":[%v],"cut":"groups","number":1000000}`, q["id"]),
		fmt.Sprintf(`{"rule":"parts","sources":[%v],"separator":""}`, q["id"]), fmt.Sprintf(`{"rule":"how_many","sources":[%v]}`, q["id"])}
	type request struct{ method, path, body string }
	var all []request
	for _, x := range conditions {
		all = append(all, request{"POST", st + "/subgroups/count", `{"condition":` + x + `}`}, request{"POST", st + "/subgroups", `{"name":"n` + fmt.Sprint(len(all)) + `","condition":` + x + `}`},
			request{"PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), `{"base":` + x + `}`}, request{"PATCH", st + "/codebook", fmt.Sprintf(`{"questions":[{"id":%v,"version":1}],"base":%s}`, q["id"], x)})
	}
	for _, x := range derivations {
		all = append(all, request{"POST", st + "/questions", `{"wording":"w","derivation":` + x + `}`}, request{"PUT", fmt.Sprintf("%s/questions/%v/derivation", st, q["id"]), `{"wording":"w","derivation":` + x + `}`})
	}
	for _, body := range []string{`null`, `[]`, `{}`, `"x"`, `{"questions":null}`, `{"questions":[{"id":0,"version":0}]}`, `{"name":"` + strings.Repeat("x", 500) + `"}`, `{"text":"\u0001"}`, `{"arrivalId":"../../etc/passwd"}`, `{"questionId":0}`, `{"settings":{"shape":"rows"}}`} {
		for _, path := range []string{"/codebook", "/lists", "/subgroups", "/subgroups/count", "/codebook/file", "/refresh", "/questions"} {
			all = append(all, request{"POST", st + path, body})
		}
		all = append(all, request{"PATCH", st + "/codebook", body}, request{"PUT", st + "/counts", body}, request{"POST", "/arrivals/" + id + "/look", body}, request{"POST", "/studies", body},
			request{"PATCH", fmt.Sprintf("%s/questions/%v/responses/1", st, q["id"]), body}, request{"PATCH", fmt.Sprintf("%s/questions/%v/responses/99999999", st, q["id"]), body})
	}
	for _, change := range []string{`"headerRow":-1`, `"headerRow":99999`, `"shape":"counts"`, `"shape":"grid"`, `"shape":"two","second":"asked"`, `"shape":"classes"`, `"format":"xlsx"`, `"format":"ods"`, `"format":"package"`, `"delimiter":"ab"`, `"delimiter":""`, `"encoding":"klingon"`, `"part":"\u0000"`, `"openFrom":1e400`} {
		all = append(all, request{"POST", "/arrivals/" + id + "/look", `{"settings":{` + change + "," + dropped(settings, change) + `}`})
	}
	for _, path := range []string{"/responses?from=-5&most=-1", "/responses?from=999999999", "/responses?question=x&text=y", "/topline?of=x", "/topline?of=0", "/codebook/file?format=pdf", "/codebook/file", "/check", "/history"} {
		all = append(all, request{"GET", st + path, ""})
	}
	answers := map[int]int{}
	for _, r := range all {
		res := c.send(r.method, "/api/v1"+r.path, r.body, "If-Match", `"1"`)
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		answers[res.StatusCode]++
		assert.Less(t, res.StatusCode, http.StatusInternalServerError, "%s %s %.200s: %.300s", r.method, r.path, r.body, raw)
		if res.StatusCode >= 400 {
			assert.NotContains(t, string(raw), `"title":"["`)
			assert.NotContains(t, string(raw), "problem.", "%.300s", raw)
		}
	}
	assert.Greater(t, answers[http.StatusUnprocessableEntity], 30, "most of it gets as far as the use cases: %v", answers)
	assert.Equal(t, []string{"Fenside 2", "Harbor 1", "Harbour 9"}, c.tallyOf(st, "ward"), "the answers are as they came")
	c.call("GET", st+"/topline", "", 200)
	c.call("GET", st+"/check", "", 200)
}

// dropped takes the members that a change names out of settings, and the opening brace.
func dropped(settings, change string) string {
	members := strings.Split(strings.Trim(settings, "{}"), ",\"")
	var left []string
	for i, m := range members {
		if i > 0 {
			m = `"` + m
		}
		if name := strings.SplitN(m, ":", 2)[0]; !strings.Contains(change, name+":") {
			left = append(left, m)
		}
	}
	return strings.Join(left, ",") + "}"
}
