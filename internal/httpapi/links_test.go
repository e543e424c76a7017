package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/demo"
)

// Whoever has a link sees what it shows and nothing beside it, changes nothing and takes nothing away, until it ends: the report as a page
// by itself, or the topline without single answers and without who works on it.
func TestLinksToLookAt(t *testing.T) {
	t.Parallel()
	c := team(t)
	ada, bob := c.joined("ada@tally.example", false), c.joined("bob@tally.example", false)
	a, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(ada, "__Host-widetally="))
	require.NoError(t, err)
	as := study.WithActor(t.Context(), a.Actor())
	first, err := demo.Make(as, c.cases)
	require.NoError(t, err)
	second := c.owned(ada)
	path := fmt.Sprintf("/studies/%d", first.ID)
	require.Equal(t, 200, status(c.as(ada, "PUT", path+"/members", `{"email":"bob@tally.example","role":"editor"}`)))
	body := func(cookie, method, path, in string, want int) string {
		t.Helper()
		resp := c.as(cookie, method, path, in)
		raw, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.Equal(t, want, resp.StatusCode, "%s %s: %.200s", method, path, raw)
		return string(raw)
	}
	link := func(shows string) (at, id string) {
		var made struct{ Path, ID string }
		require.NoError(t, json.Unmarshal([]byte(body(ada, "POST", path+"/links", fmt.Sprintf(`{"shows":%q,"days":3}`, shows), 201)), &made))
		return made.Path, made.ID
	}
	for in, field := range map[string]string{`{"shows":"answers","days":3}`: "/shows", `{"shows":"report","days":0}`: "/days", `{"shows":"report","days":400}`: "/days"} {
		assert.Contains(t, body(ada, "POST", path+"/links", in, 422), field)
	}
	body(bob, "POST", path+"/links", `{"shows":"report","days":3}`, 403)
	report, reportID := link("report")
	topline, toplineID := link("topline")
	assert.NotContains(t, body(ada, "GET", path+"/links", "", 200), strings.TrimPrefix(report, sharedPath), "told once")

	page := c.send("GET", report, "", "Host", host)
	raw, err := io.ReadAll(page.Body)
	require.NoError(t, err)
	require.Equal(t, 200, page.StatusCode)
	assert.Contains(t, string(raw), "<h1>Fernmouth kerbside survey</h1>")
	assert.Contains(t, page.Header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.Empty(t, page.Header.Get("Set-Cookie"))
	assert.NotRegexp(t, regexp.MustCompile(`(?i)<script|href="http|src="http`), string(raw))

	shown := c.send("GET", topline, "", "Host", host)
	require.Equal(t, 303, shown.StatusCode)
	assert.Equal(t, path+"?read=1", shown.Header.Get("Location"))
	visitor, _, _ := strings.Cut(shown.Header.Get("Set-Cookie"), ";")
	assert.JSONEq(t, fmt.Sprintf(`{"signIn":true,"account":null,"institution":"","link":%d,"passkeys":true}`, first.ID), body(visitor, "GET", "/session", "", 200))
	whole, seen := body(ada, "GET", path+"/topline", "", 200), body(visitor, "GET", path+"/topline", "", 200)
	examples := regexp.MustCompile(`"examples":\["`)
	assert.Regexp(t, examples, whole)
	assert.NotRegexp(t, examples, seen)
	assert.Contains(t, seen, `"undo":null`)
	require.Equal(t, 200, status(c.as(ada, "PUT", path+"/members", `{"email":"bob@tally.example","role":"reader"}`)))
	assert.NotRegexp(t, examples, body(bob, "GET", path+"/topline", "", 200), "no single answers for a reader, whatever somebody else was told just before")
	body(bob, "GET", path+"/codebook/file?format=package", "", 403)
	body(bob, "GET", path+"/codebook/file?format=csv", "", 200)
	for _, at := range []string{"/codebook", "/report", "/responses", "/file", "/history", "/trail", "/members", "/links", "/claims", "/questions/4/table", "/files/1", "/recipe", "/check"} {
		body(visitor, "GET", path+at, "", 403)
	}
	for _, at := range []string{"/studies", "/accounts", "/sessions", "/shares", "/tokens", second + "/topline", fmt.Sprintf("/studies/%d1/topline", first.ID)} {
		body(visitor, "GET", at, "", 403)
	}
	for _, at := range []string{"/analyses", "/undo", "/members", "/subgroups/count", "/arrivals?name=a.csv"} {
		body(visitor, "POST", path+at, `{}`, 403)
	}
	body(visitor, "GET", path+"/questions/4", "", 200)

	newest := c.trailOf(ada, path+"/trail?what=trail.link").Entries
	require.Len(t, newest, 2)
	assert.Contains(t, newest[0].Text, "link to the topline made")
	body(ada, "DELETE", second+"/links/"+reportID, "", 404)
	body(ada, "DELETE", path+"/links/"+reportID, "", 204)
	assert.Equal(t, 404, c.send("GET", report, "", "Host", host).StatusCode)
	body(ada, "DELETE", path+"/links/"+toplineID, "", 204)
	body(visitor, "GET", path+"/topline", "", 401)
	assert.Equal(t, 404, c.send("GET", "/shared/nothing", "", "Host", host).StatusCode)
}
