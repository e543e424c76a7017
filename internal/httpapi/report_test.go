package httpapi

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/service"
)

// A report is stored at the version that was seen; what it names has to be in the study, and
// what was taken out of the study is told where it stood.
func TestTheReportOfAStudy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin("ward,use\nHarbour,yes\nHarbour,no\nFenside,yes\nFenside,yes\n")
	path := st + "/report"
	page := c.call("GET", path, "", 200)
	assert.Empty(t, at(t, page, "report.pieces"))
	ward := c.question(st, "ward")["id"]

	put := func(version any, body string, status int) object {
		return c.call("PUT", path, body, status, "If-Match", fmt.Sprint(version))
	}
	put(page["version"], fmt.Sprintf(`{"title":"Bins","pieces":[{"id":1,"question":%v},{"id":2,"prose":"{ward: %% Harbour} in {ward: table}"}]}`, ward), 200)
	page = c.call("GET", path, "", 200)
	assert.Equal(t, "Bins", at(t, page, "made.title"))
	assert.Contains(t, fmt.Sprint(at(t, page, "made.blocks")), "50.0\u00a0%")
	assert.Equal(t, object{"ward: % Harbour": "50.0\u00a0%"}, at(t, page, "report.pieces.1.figures"))

	assert.Equal(t, "http.stale", put(1, `{"pieces":[]}`, 412)["code"])
	assert.Equal(t, "report.piece", put(page["version"], `{"pieces":[{"id":1,"question":999999}]}`, 422)["code"])
	assert.Equal(t, "report.fact", put(page["version"], `{"facts":[{"key":"n","text":"12"}],"pieces":[]}`, 422)["code"])
	assert.Equal(t, "report.form", c.call("GET", path+"/file?form=exe", "", 422)["code"])

	// In a subgroup the tally is another piece, and says of whom it is.
	sub := c.call("POST", st+"/subgroups", fmt.Sprintf(`{"name":"Users","condition":{"op":"any_of","question":%v,"answers":[1]}}`, c.question(st, "use")["id"]), 200)
	of := at(t, sub, "subgroups.0.id")
	c.call("PUT", fmt.Sprintf("%s/questions/%v?of=%v", path, ward, of), "", 204)
	page = c.call("GET", path, "", 200)
	assert.Contains(t, fmt.Sprint(at(t, page, "made.blocks")), "Of the 3 households in “Users”")
	c.call("DELETE", fmt.Sprintf("%s/subgroups/%v", st, of), "", 200)
	page = c.call("GET", path, "", 200)
	assert.Contains(t, fmt.Sprint(at(t, page, "made.blocks")), "This piece is no longer in the study.")
	assert.Len(t, at(t, page, "report.pieces"), 3)
}

// The guide has a page for each how-to, with its pictures.
func TestTheGuide(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	kinds := map[string]int{}
	var names []string
	for _, page := range c.call("GET", "/guide", "", 200)["pages"].([]any) {
		names = append(names, page.(object)["name"].(string))
		for _, b := range page.(object)["blocks"].([]any) {
			kinds[b.(object)["kind"].(string)]++
			if b.(object)["kind"] == "picture" {
				assert.NotEmpty(t, b.(object)["text"])
				assert.Equal(t, "image/png", c.send("GET", "/api/v1/guide/pictures/"+b.(object)["file"].(string), "").Header.Get("Content-Type"))
			}
		}
	}
	assert.Subset(t, names, []string{"bring-a-file-in", "compare-with-published-shares", "estimate-the-population"})
	assert.Equal(t, map[string]int{"picture": 7, "typed": 7, "table": 1}, map[string]int{"picture": kinds["picture"], "typed": kinds["typed"], "table": kinds["table"]})
	assert.Equal(t, 404, c.send("GET", "/api/v1/guide/pictures/none.png", "").StatusCode)
	assert.Equal(t, 404, c.send("GET", "/api/v1/guide/pictures/..%2f..%2fgo.mod", "").StatusCode)
}
