package httpapi

import (
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/service"
)

func TestTablesLeave(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st := c.begin(wards)
	ward, caddy := c.question(st, "ward")["id"], c.question(st, "caddy")["id"]
	read := func(path string) (string, string) {
		res := c.send("GET", "/api/v1"+path, "")
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode, "%s: %s", path, raw)
		return res.Header.Get("Content-Type"), string(raw)
	}
	tally := fmt.Sprintf("%s/questions/%v/table", st, ward)
	kind, csv := read(tally)
	assert.Equal(t, "text/csv; charset=utf-8", kind)
	assert.True(t, strings.HasPrefix(csv, "ward,,\nAnswer,Count,% of answered\n"), csv)
	_, tsv := read(tally + "?form=tsv&base=everyone")
	assert.Equal(t, "ward\tCount\t% of everyone\nFenside\t8\t32.0\nHarbour\t9\t36.0\nSaltings\t8\t32.0\nTotal\t25\t100.0\n", tsv)

	book := c.call("POST", st+"/subgroups", fmt.Sprintf(`{"name":"Users","condition":{"op":"any_of","question":%v,"answers":[%v]}}`, caddy, c.question(st, "caddy")["rows"].([]any)[0].(object)["slot"]), 200)
	_, tsv = read(fmt.Sprintf("%s?form=tsv&of=%v", tally, book["subgroups"].([]any)[0].(object)["id"]))
	assert.True(t, strings.HasPrefix(tsv, "ward (Users)\tCount"), tsv)

	c.call("POST", st+"/analyses", fmt.Sprintf(`{"spec":{"method":"crosstab","version":1,"questions":["%v","%v"],"settings":{"reading":"row"}}}`, ward, caddy), 201)
	table := fmt.Sprintf("%s/analyses/%v/tables/", st, c.analyses(st, "ward")[0]["id"])
	_, tsv = read(table + "1?form=tsv")
	assert.Equal(t, "“ward” by “caddy”\tFenside, % of row\tFenside, count\tHarbour, % of row\tHarbour, count\tSaltings, % of row\tSaltings, count\tAll, % of row\tAll, count", strings.Split(tsv, "\n")[0])
	kind, html := read(table + "1?form=html")
	assert.Equal(t, "text/html; charset=utf-8", kind)
	assert.Contains(t, html, "<p>All 25 households answered both “ward” and “caddy”.</p>")
	for path, status := range map[string]int{table + "2": 404, table + "0": 404, tally + "?form=exe": 422, tally + "?base=nobody": 422, fmt.Sprintf("%s/questions/%v/table", st, c.question(st, "id")["id"]): 422, st + "/questions/999/table": 404} {
		c.call("GET", path, "", status)
	}
}
