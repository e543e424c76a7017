package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/demo"
)

type trail struct {
	Name    string
	Entries []struct {
		Number                    uint64
		Actor, Name, Via, Address string
		Text, Seal                string
	}
}

func (c *client) trailOf(cookie, path string) (out trail) {
	c.t.Helper()
	resp := c.as(cookie, "GET", path, "")
	require.Equal(c.t, 200, resp.StatusCode)
	raw, err := io.ReadAll(resp.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, json.Unmarshal(raw, &out))
	return out
}

// Whatever is done with a study stands in its trail at once, by whom and from where; what fails does not. Its
// owners read it, filtered and as a file of which no cell is a formula.
func TestAuditTrail(t *testing.T) {
	t.Parallel()
	c := team(t)
	root, ada := c.joined("root@tally.example", true), c.joined("ada@tally.example", false)
	tobin := c.joined("tobin@tally.example", false)
	a, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(ada, "__Host-widetally="))
	require.NoError(t, err)
	st, err := demo.Make(study.WithActor(t.Context(), a.Actor()), c.cases)
	require.NoError(t, err)
	path := fmt.Sprintf("/studies/%d", st.ID)
	edit := func() uint64 {
		var book struct{ Undo, Redo *struct{ ID uint64 } }
		raw, err := io.ReadAll(c.as(ada, "GET", path+"/codebook", "").Body)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(raw, &book))
		if book.Redo != nil {
			return book.Redo.ID
		}
		return book.Undo.ID
	}
	step := func() string { return fmt.Sprintf(`{"editId":%d}`, edit()) }
	last := c.trailOf(ada, path+"/trail").Entries[0].Number
	for _, k := range []struct {
		cookie, method, path string
		body                 func() string
		status               int
		want                 string // "" where nothing is noted
	}{
		{ada, "PUT", path + "/members", func() string { return `{"email":"tobin@tally.example","role":"editor"}` }, 200, "tobin@tally.example: editor"},
		{ada, "PUT", path + "/members", func() string { return `{"email":"","role":"reader"}` }, 200, "Everybody who signs in: reader"},
		{ada, "PUT", path + "/members", func() string { return `{"email":"","role":""}` }, 200, "Everybody who signs in: nothing"},
		{tobin, "PUT", path + "/members", func() string { return `{"email":"","role":"reader"}` }, 403, ""},
		{tobin, "POST", path + "/subgroups", func() string {
			return `{"name":"=HYPERLINK(1)","condition":{"op":"any_of","question":999,"answers":[1]}}`
		}, 422, ""},
		{tobin, "PATCH", path, func() string { return `{"name":"=Kerbside"}` }, 200, "study is called “=Kerbside”, its rows households, percents with 1 decimal"},
		{tobin, "POST", path + "/subgroups", func() string { return `{"name":"=1+1","condition":{"op":"any_of","question":4,"answers":[1]}}` }, 200, "subgroup “=1+1” saved"},
		{ada, "POST", path + "/undo", step, 200, "taken back: "},
		{ada, "POST", path + "/redo", step, 200, "done again: "},
		{tobin, "GET", path + "/questions/4/table?form=csv", nil, 200, ".csv taken out"},
		{tobin, "GET", path + "/questions/4/table?form=xlsx", nil, 200, ".xlsx taken out"},
		{tobin, "GET", path + "/file", nil, 200, ".zip taken out"},
		{tobin, "GET", path + "/codebook/file?format=csv", nil, 200, ".csv taken out"},
		{tobin, "GET", path + "/recipe", nil, 200, ".yaml taken out"},
		{tobin, "GET", path + "/files/1", nil, 200, "taken out"},
		{tobin, "GET", path + "/responses?from=2&most=3", nil, 200, "rows 3 to 5 looked at"},
		{tobin, "GET", path + "/topline", nil, 200, ""},
		{ada, "DELETE", path, nil, 204, "study deleted"},
		{ada, "POST", path + "/restore", nil, 200, "study brought back"},
	} {
		body := ""
		if k.body != nil {
			body = k.body()
		}
		resp := c.as(k.cookie, k.method, k.path, body, "If-Match", `"1"`)
		raw, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.Equal(t, k.status, resp.StatusCode, "%s %s: %.200s", k.method, k.path, raw)
		if k.method == "DELETE" {
			continue
		}
		after := c.trailOf(ada, path+"/trail")
		n := after.Entries[0].Number - last
		last = after.Entries[0].Number
		if k.want == "" {
			assert.Zero(t, n, "%s %s", k.method, k.path)
			continue
		}
		require.Positive(t, n, "%s %s", k.method, k.path)
		newest := after.Entries[0]
		assert.Contains(t, newest.Text, k.want)
		assert.Equal(t, map[string]string{ada: "ada@tally.example", tobin: "tobin@tally.example"}[k.cookie], newest.Name)
		assert.Equal(t, "page", newest.Via)
		assert.NotEmpty(t, newest.Address)
	}

	for _, cookie := range []string{tobin, root} {
		assert.Equal(t, 403, status(c.as(cookie, "GET", path+"/trail", "")))
	}
	assert.Equal(t, 403, status(c.as(ada, "GET", "/trail", "")), "of accounts")
	for query, want := range map[string]string{"?what=trail.left": "taken out", "?what=trail.deleted": "study deleted", "?what=trail.looked&actor=" + c.actorOf("tobin"): "looked at"} {
		found := c.trailOf(ada, path+"/trail"+query)
		require.NotEmpty(t, found.Entries, query)
		for _, e := range found.Entries {
			assert.Contains(t, e.Text, want)
		}
	}
	assert.Empty(t, c.trailOf(ada, path+"/trail?to=2001-01-01").Entries)
	assert.Empty(t, c.trailOf(ada, path+"/trail?from=2999-01-01").Entries)
	assert.Len(t, c.trailOf(ada, path+"/trail?before=3").Entries, 2)
	assert.Equal(t, 422, status(c.as(ada, "GET", path+"/trail?from=yesterday", "")))
	raw, err := io.ReadAll(c.as(ada, "GET", path+"/trail?form=csv", "").Body)
	require.NoError(t, err)
	assert.Contains(t, string(raw), "study is called")
	assert.NotContains(t, "\n"+strings.ReplaceAll(string(raw), ",", "\n"), "\n=", "no cell is a formula")

	accounts := c.trailOf(root, "/trail")
	assert.Contains(t, accounts.Entries[0].Text, "tobin@tally.example) signed in")
	seen := map[uint64]uint64{}
	require.NoError(t, c.cases.Trails.Verify(t.Context(), func(id, n uint64, _ string, fault error) { seen[id] = n; assert.NoError(t, fault) }))
	assert.Len(t, seen, 2)
}

// actorOf is the id under which somebody's acts are noted.
func (c *client) actorOf(name string) string {
	all, err := c.cases.People.Accounts(c.t.Context())
	require.NoError(c.t, err)
	for _, a := range all {
		if strings.HasPrefix(a.Email, name+"@") {
			return a.Actor().ID
		}
	}
	return ""
}
