package httpapi

import (
	"fmt"
	"io"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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

// The guide is a page of its own with its pictures, and nothing from outside.
func TestTheGuide(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	res := c.send("GET", "/guide", "")
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.Contains(t, string(raw), "8. Report</h2>")
	assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'")
	pictures := regexp.MustCompile(`src="(/[^"]*)"`).FindAllStringSubmatch(string(raw), -1)
	assert.Len(t, pictures, 7)
	for _, p := range pictures {
		assert.Equal(t, "image/png", c.send("GET", p[1], "").Header.Get("Content-Type"), p[1])
	}
	assert.NotContains(t, string(raw), `src="http`)
	assert.Equal(t, 404, c.send("GET", "/guide/none.png", "").StatusCode)
	assert.Equal(t, 404, c.send("GET", "/guide/..%2f..%2fgo.mod", "").StatusCode)
}
