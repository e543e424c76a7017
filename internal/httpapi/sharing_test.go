package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A group's people have its role as long as they are in it; it owns nothing, and who keeps the accounts keeps the groups.
func TestGroups(t *testing.T) {
	t.Parallel()
	c := team(t)
	root, ada, bob := c.joined("root@tally.example", true), c.joined("ada@tally.example", false), c.joined("bob@tally.example", false)
	path := c.owned(ada)
	for _, k := range []struct {
		cookie, method, path, body string
		status                     int
		bob                        int // of the page, afterwards
	}{
		{bob, "POST", "/groups", `{"name":"Field","emails":[]}`, 403, 403},
		{root, "POST", "/groups", `{"name":"","emails":[]}`, 422, 403},
		{root, "POST", "/groups", `{"name":"Field","emails":["nobody@tally.example"]}`, 422, 403},
		{root, "POST", "/groups", `{"name":"Field","emails":["bob@tally.example","BOB@tally.example"]}`, 200, 403},
		{root, "POST", "/groups", `{"name":"field","emails":[]}`, 422, 403},
		{bob, "PUT", path + "/members", `{"group":1,"role":"editor"}`, 403, 403},
		{ada, "PUT", path + "/members", `{"group":1,"role":"owner"}`, 422, 403},
		{ada, "PUT", path + "/members", `{"group":9,"role":"reader"}`, 404, 403},
		{ada, "PUT", path + "/members", `{"group":1,"role":"editor"}`, 200, 200},
		{root, "PUT", "/groups/1", `{"name":"Field","emails":["root@tally.example"]}`, 200, 403},
		{root, "PUT", "/groups/1", `{"name":"Field","emails":["bob@tally.example"]}`, 200, 200},
		{root, "PUT", "/groups/9", `{"name":"None","emails":[]}`, 404, 200},
		{ada, "PUT", path + "/members", `{"group":1,"role":""}`, 200, 403},
		{ada, "PUT", path + "/members", `{"group":1,"role":"reader"}`, 200, 200},
		{bob, "DELETE", "/groups/1", "", 403, 200},
		{root, "DELETE", "/groups/1", "", 200, 403},
	} {
		assert.Equal(t, k.status, status(c.as(k.cookie, k.method, k.path, k.body)), "%s %s %s", k.method, k.path, k.body)
		assert.Equal(t, k.bob, status(c.as(bob, "GET", path+"/topline", "")), "after %s %s %s", k.method, k.path, k.body)
	}
	assert.Contains(t, c.trailOf(ada, path+"/trail?what=trail.shared").Entries[0].Text, "Field: reader")
}

// A set of the shelf is whose it is who made it, until it is shared; nobody else sees it, changes it or takes it away before.
func TestSetsOfTheShelfAreShared(t *testing.T) {
	t.Parallel()
	c := team(t)
	ada, bob := c.joined("ada@tally.example", false), c.joined("bob@tally.example", false)
	const set = `{"title":"Register","publisher":"Borough","date":"2026","kind":"register","scale":"percents","answers":[{"label":"Yes","figure":"60"},{"label":"No","figure":"40"}]}`
	resp := c.as(ada, "POST", "/shares", set)
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.Equal(t, 201, resp.StatusCode, "%s", raw)
	var made struct{ ID uint64 }
	require.NoError(t, json.Unmarshal(raw, &made))
	path := fmt.Sprintf("/shares/%d", made.ID)
	ask := func(cookie, method, path, body string) int {
		return status(c.as(cookie, method, path, body, "If-Match", `"1"`))
	}
	listed := func() bool {
		raw, err := io.ReadAll(c.as(bob, "GET", "/shares", "").Body)
		require.NoError(t, err)
		return strings.Contains(string(raw), "Register")
	}
	for _, k := range []struct {
		role                       string
		see, change, share, listed int
	}{{"", 403, 403, 403, 0}, {"reader", 200, 403, 403, 1}, {"analyst", 200, 403, 403, 1}, {"editor", 200, 200, 403, 1}} {
		require.Equal(t, 200, ask(ada, "PUT", path+"/members", fmt.Sprintf(`{"email":"bob@tally.example","role":%q}`, k.role)))
		assert.Equal(t, k.see, ask(bob, "GET", path, ""), k.role)
		assert.Equal(t, k.see, ask(bob, "GET", path+"/members", ""), k.role)
		assert.Equal(t, k.change, ask(bob, "PUT", path, set), k.role)
		assert.Equal(t, k.share, ask(bob, "PUT", path+"/members", `{"role":"reader"}`), k.role)
		assert.Equal(t, 403, ask(bob, "DELETE", path, ""), k.role)
		assert.Equal(t, k.listed == 1, listed(), k.role)
	}
	require.Equal(t, 200, ask(ada, "PUT", path+"/members", `{"email":"bob@tally.example","role":""}`))
	require.Equal(t, 200, ask(ada, "PUT", path+"/members", `{"role":"reader"}`))
	assert.True(t, listed(), "everybody sees it")
	assert.Equal(t, 422, ask(ada, "PUT", path+"/members", `{"email":"ada@tally.example","role":"editor"}`), "it keeps an owner")
	assert.Equal(t, 204, ask(ada, "DELETE", path, ""))
}
