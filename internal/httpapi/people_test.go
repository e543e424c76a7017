package httpapi

import (
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"maps"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"widetally/core/study"
	"widetally/internal/demo"
	"widetally/internal/service"
)

var updateAccess = flag.Bool("update-access", false, "write testdata/access.txt anew")

const (
	host     = "tally.example"
	password = "quarry lantern seven herons"
)

// team is a client at which people sign in.
func team(t *testing.T) *client {
	return newClientWith(t, service.Options{}, func(c *Config) { c.Origins = []string{"https://" + host} })
}

// as sends a request with the cookie of somebody, or a token, "" for nobody.
func (c *client) as(cookie, method, path, body string, headers ...string) *http.Response {
	c.t.Helper()
	by := "Cookie"
	if strings.HasPrefix(cookie, "Bearer ") {
		by = "Authorization"
	}
	return c.send(method, "/api/v1"+path, body, append([]string{"Host", host, "Origin", "https://" + host, by, cookie}, headers...)...)
}

// joined makes an account and signs in; the answer is its cookie.
func (c *client) joined(email string, administrator bool) string {
	c.t.Helper()
	_, err := c.cases.People.AddAccount(c.t.Context(), email, email, password, administrator)
	require.NoError(c.t, err)
	return c.signedIn(email)
}

func (c *client) signedIn(email string) string {
	c.t.Helper()
	resp := c.as("", "POST", "/session", fmt.Sprintf(`{"email":%q,"password":%q}`, email, password))
	require.Equal(c.t, 200, resp.StatusCode)
	set := resp.Header.Get("Set-Cookie")
	for _, want := range []string{"__Host-widetally=", "HttpOnly", "secure", "SameSite=Lax", "path=/"} {
		require.Contains(c.t, strings.ToLower(set), strings.ToLower(want))
	}
	require.NotEmpty(c.t, resp.Header.Get("Strict-Transport-Security"))
	cookie, _, _ := strings.Cut(set, ";")
	return cookie
}

// owned is a small study that somebody makes; the questions of the first one have the ids 1 to 3.
func (c *client) owned(cookie string) (path string) {
	c.t.Helper()
	read := func(resp *http.Response, into any) {
		raw, err := io.ReadAll(resp.Body)
		require.NoError(c.t, err)
		require.Equal(c.t, 201, resp.StatusCode, "%s", raw)
		require.NoError(c.t, json.Unmarshal(raw, into))
	}
	var a struct {
		ID       string
		Settings json.RawMessage
	}
	read(c.as(cookie, "POST", "/arrivals?name=homes.csv", "ward,tenure,rooms\nHarbour,own,3\nFenside,rent,4\nHarbour,rent,2\n", "Content-Type", "application/octet-stream"), &a)
	var made struct{ ID uint64 }
	read(c.as(cookie, "POST", "/studies", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"Homes","columns":[]}`, a.ID, a.Settings)), &made)
	return fmt.Sprintf("/studies/%d", made.ID)
}

// token makes one for a script that acts for somebody.
func (c *client) token(cookie, scope string, studyID uint64, days int) string {
	c.t.Helper()
	resp := c.as(cookie, "POST", "/tokens", fmt.Sprintf(`{"name":"nightly","scope":%q,"study":%d,"days":%d}`, scope, studyID, days))
	require.Equal(c.t, 201, resp.StatusCode)
	var made struct{ Secret string }
	raw, err := io.ReadAll(resp.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, json.Unmarshal(raw, &made))
	return "Bearer " + made.Secret
}

func status(resp *http.Response) int { return resp.StatusCode }

// Every address of the description, asked by people of every role with the numbers of a study that is not
// theirs otherwise, lets in whom the table in testdata says, and nobody else. 401 and 403 are refused; “in” is
// any other answer.
func TestWhoMayDoWhat(t *testing.T) {
	c := team(t)
	administrator := c.joined("root@tally.example", true)
	cookies := map[string]string{"stranger": "", "other owner": c.joined("other@tally.example", false)}
	owner := c.joined("owner@tally.example", false)
	cookies["owner"] = owner
	account, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(owner, "__Host-widetally="))
	require.NoError(t, err)
	made, err := demo.Make(study.WithActor(t.Context(), account.Actor()), c.cases)
	require.NoError(t, err)
	path := fmt.Sprintf("/studies/%d", made.ID)
	for _, role := range []string{"editor", "analyst", "reader"} {
		cookies[role] = c.joined(role+"@tally.example", false)
		require.Equal(t, 200, status(c.as(owner, "PUT", path+"/members", fmt.Sprintf(`{"email":"%s@tally.example","role":%q}`, role, role))))
	}
	cookies["administrator"] = administrator
	c.cases.Live.Close()                              // so that whoever is let in to watch is not kept
	for _, scope := range []string{"see", "change"} { // scripts of the owner
		cookies["to "+scope] = c.token(owner, scope, 0, 30)
	}
	who := []string{"stranger", "other owner", "administrator", "reader", "analyst", "editor", "owner", "to see", "to change"}

	raw, err := os.ReadFile("../../api/openapi.yaml")
	require.NoError(t, err)
	var description struct {
		Paths map[string]map[string]yaml.Node
	}
	require.NoError(t, yaml.Unmarshal(raw, &description))
	values := strings.NewReplacer("{study}", fmt.Sprint(made.ID), "{question}", "4", "{analysis}", "1", "{part}", "1", "{file}", "1", "{row}", "1", "{chart}", "1", "{table}", "1")
	other := regexp.MustCompile(`\{\w+\}`)
	var out strings.Builder
	for _, at := range slices.Sorted(maps.Keys(description.Paths)) {
		for _, method := range []string{"get", "post", "put", "patch", "delete"} {
			if _, there := description.Paths[at][method]; !there || strings.HasSuffix(at, "/progress") {
				continue
			}
			fmt.Fprintf(&out, "%-6s %s:", strings.ToUpper(method), at)
			for _, one := range who {
				if method == "delete" && at == "/session" { // that of who asks; it is needed further on
					fmt.Fprint(&out, " –")
					continue
				}
				// A body that nobody can take, so that who is let in changes nothing.
				resp := c.as(cookies[one], strings.ToUpper(method), other.ReplaceAllString(values.Replace(at), "nothing"), `{"no such member":0}`, "If-Match", `"999999"`)
				switch resp.StatusCode {
				case 401, 403:
					fmt.Fprintf(&out, " %s %d,", one, resp.StatusCode)
				default:
					fmt.Fprintf(&out, " %s in,", one)
				}
				if method == "delete" && at == "/studies/{study}" && resp.StatusCode == 204 {
					require.Equal(t, 200, status(c.as(cookies[one], "POST", path+"/restore", "")))
				}
			}
			out.WriteString("\n")
		}
	}
	if *updateAccess {
		require.NoError(t, os.WriteFile("testdata/access.txt", []byte(out.String()), 0o600))
	}
	want, err := os.ReadFile("testdata/access.txt")
	require.NoError(t, err)
	assert.Equal(t, string(want), out.String())
}

// Signing in: by the right password alone, slowed by failures, without a word on whether there is an account; a
// session ends where it is ended, when it is old, and with its account; a stolen token of an ended one is nothing.
func TestSigningIn(t *testing.T) {
	t.Parallel()
	c := team(t)
	cookie := c.joined("ada@tally.example", true)
	for _, k := range []struct {
		email, password string
		status          int
	}{
		{"ada@tally.example", "another password here", 401},
		{"nobody@tally.example", password, 401},
		{"no address", password, 401},
		{" ADA@tally.example ", password, 200},
	} {
		resp := c.as("", "POST", "/session", fmt.Sprintf(`{"email":%q,"password":%q}`, k.email, k.password))
		assert.Equal(t, k.status, resp.StatusCode, k.email)
		if k.status == 401 {
			raw, err := io.ReadAll(resp.Body)
			require.NoError(t, err)
			assert.Contains(t, string(raw), "The email or the password is not right.")
		}
	}
	assert.Equal(t, 200, status(c.as(cookie, "GET", "/studies", "")))
	assert.Equal(t, 401, status(c.as("", "GET", "/studies", "")))
	assert.Equal(t, 401, status(c.as(cookie+"x", "GET", "/studies", "")))

	// From another site, or under another name, nobody gets in even with the cookie.
	for _, headers := range [][]string{{"Origin", "https://stranger.example"}, {"Origin", "null"}, {"Host", "localhost:8420"}, {"Host", "127.0.0.1"}, {"Origin", "", "Sec-Fetch-Site", "cross-site"}} {
		assert.Equal(t, 403, status(c.as(cookie, "POST", "/studies", "{}", headers...)), "%v", headers)
	}

	second := c.signedIn("ada@tally.example")
	var list struct {
		Sessions []struct {
			ID   string
			This bool
		}
	}
	raw, err := io.ReadAll(c.as(second, "GET", "/sessions", "").Body)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &list))
	require.Len(t, list.Sessions, 3)
	assert.NotContains(t, string(raw), strings.TrimPrefix(second, "__Host-widetally="), "no token is told")
	thief := c.joined("thief@tally.example", false)
	for _, one := range list.Sessions {
		require.Equal(t, 204, status(c.as(thief, "DELETE", "/sessions/"+one.ID, "")), "not his: nothing ends")
	}
	assert.Equal(t, 200, status(c.as(cookie, "GET", "/studies", "")))
	for _, one := range list.Sessions {
		if !one.This {
			require.Equal(t, 204, status(c.as(second, "DELETE", "/sessions/"+one.ID, "")))
		}
	}
	assert.Equal(t, 401, status(c.as(cookie, "GET", "/studies", "")), "ended from the other browser")
	assert.Equal(t, 204, status(c.as(second, "DELETE", "/session", "")))
	assert.Equal(t, 401, status(c.as(second, "GET", "/studies", "")), "signed out")

	for range 5 {
		assert.Equal(t, 401, status(c.as("", "POST", "/session", `{"email":"ada@tally.example","password":"wrong wrong wrong"}`)))
	}
	resp := c.as("", "POST", "/session", fmt.Sprintf(`{"email":"ada@tally.example","password":%q}`, password))
	assert.Equal(t, 429, resp.StatusCode, "slowed, the right password too")
	assert.Equal(t, 200, status(c.as("", "POST", "/session", fmt.Sprintf(`{"email":"thief@tally.example","password":%q}`, password))), "others are not locked out")
}

// Whoever fails from behind a proxy is slowed by his own address, whatever he writes himself; where no proxy is
// named nobody is believed.
func TestWhereSomebodySignsInFrom(t *testing.T) {
	t.Parallel()
	for _, k := range []struct {
		proxies []string
		last    string // what the proxy adds
		slowed  int
	}{
		{[]string{"0.0.0.0"}, ", 192.0.2.7", 429}, // of the test's own connection
		{nil, "", 429},
		{[]string{"198.51.100.1"}, ", 192.0.2.7", 429}, // another one
	} {
		c := newClientWith(t, service.Options{}, func(c *Config) { c.Origins, c.Proxies = []string{"https://" + host}, k.proxies })
		c.joined("ada@tally.example", true)
		for i := range 6 {
			resp := c.as("", "POST", "/session", `{"email":"ada@tally.example","password":"wrong wrong wrong"}`, "X-Forwarded-For", fmt.Sprintf("203.0.113.%d%s", i, k.last))
			want := 401
			if i == 5 {
				want = k.slowed
			}
			assert.Equal(t, want, resp.StatusCode, "%v, try %d", k.proxies, i)
		}
	}
}

// An invitation serves once, for whom it is, for a password that is not easily guessed; only who administers
// invites, and an account that is there is not made again.
func TestInvitations(t *testing.T) {
	t.Parallel()
	c := team(t)
	root, ordinary := c.joined("root@tally.example", true), c.joined("bob@tally.example", false)
	invite := func(cookie, email string) (int, string) {
		resp := c.as(cookie, "POST", "/invitations", fmt.Sprintf(`{"email":%q,"name":"Ida"}`, email))
		var made struct {
			Path  string
			Until time.Time
		}
		raw, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		_ = json.Unmarshal(raw, &made) // a problem has no path
		return resp.StatusCode, strings.TrimPrefix(made.Path, "/invited/")
	}
	for email, want := range map[string]int{"bob@tally.example": 422, "no address": 422} {
		got, _ := invite(root, email)
		assert.Equal(t, want, got, email)
	}
	got, _ := invite(ordinary, "ida@tally.example")
	assert.Equal(t, 403, got)
	_, earlier := invite(root, "ida@tally.example")
	got, token := invite(root, "ida@tally.example")
	require.Equal(t, 201, got)
	assert.Equal(t, 404, status(c.as("", "GET", "/invitations/"+earlier, "")), "a later one takes its place")
	assert.Equal(t, 200, status(c.as("", "GET", "/invitations/"+token, "")))
	for _, weak := range []string{"short", "password1234", "ida@tally.example", "passwordpassword", "qwertyuiop12", strings.Repeat("a", 129)} {
		assert.Equal(t, 422, status(c.as("", "POST", "/invitations/"+token, fmt.Sprintf(`{"password":%q}`, weak))), weak)
	}
	accept := fmt.Sprintf(`{"password":%q}`, password)
	assert.Equal(t, 201, status(c.as("", "POST", "/invitations/"+token, accept)))
	assert.Equal(t, 404, status(c.as("", "POST", "/invitations/"+token, accept)), "once")
	ida := c.signedIn("ida@tally.example")

	// She sees what is shared with her, and what she makes herself.
	a, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(ordinary, "__Host-widetally="))
	require.NoError(t, err)
	st, err := demo.Make(study.WithActor(t.Context(), a.Actor()), c.cases)
	require.NoError(t, err)
	shelf := func(cookie string) string {
		raw, err := io.ReadAll(c.as(cookie, "GET", "/studies", "").Body)
		require.NoError(t, err)
		return string(raw)
	}
	assert.NotContains(t, shelf(ida), "Fernmouth")
	members := fmt.Sprintf("/studies/%d/members", st.ID)
	assert.Equal(t, 403, status(c.as(ida, "PUT", members, `{"email":"ida@tally.example","role":"owner"}`)))
	assert.Equal(t, 422, status(c.as(ordinary, "PUT", members, `{"email":"","role":"owner"}`)), "everybody owns nothing")
	assert.Equal(t, 422, status(c.as(ordinary, "PUT", members, `{"email":"bob@tally.example","role":""}`)), "a study keeps an owner")
	assert.Equal(t, 200, status(c.as(ordinary, "PUT", members, `{"email":"","role":"reader"}`)))
	assert.Contains(t, shelf(ida), "Fernmouth")
	raw, err := io.ReadAll(c.as(ida, "GET", members, "").Body)
	require.NoError(t, err)
	assert.JSONEq(t, `{"members":[{"email":"bob@tally.example","name":"bob@tally.example","role":"owner"}],"groups":[],"everybody":"reader","owns":false,"roles":["owner","editor","analyst","reader"]}`, string(raw))
	assert.Equal(t, 403, status(c.as(ida, "GET", fmt.Sprintf("/studies/%d/responses", st.ID), "")), "a reader sees no single answers")
}

// A file that arrived is for who brought it alone, as long as it waits.
func TestAnArrivalIsForWhoBroughtIt(t *testing.T) {
	t.Parallel()
	c := team(t)
	ada, bob := c.joined("ada@tally.example", true), c.joined("bob@tally.example", false)
	resp := c.as(ada, "POST", "/arrivals?name=a.csv", "ward,n\nHarbour,3\nFenside,4\n", "Content-Type", "application/octet-stream")
	raw, err := io.ReadAll(resp.Body)
	require.NoError(t, err)
	require.Equal(t, 201, resp.StatusCode, "%s", raw)
	var a struct {
		ID       string
		Settings json.RawMessage
	}
	require.NoError(t, json.Unmarshal(raw, &a))
	look := fmt.Sprintf(`{"settings":%s,"columns":[]}`, a.Settings)
	keep := fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"name":"a","columns":[]}`, a.ID, a.Settings)
	assert.Equal(t, 404, status(c.as(bob, "POST", "/arrivals/"+a.ID+"/look", look)))
	assert.Equal(t, 404, status(c.as(bob, "POST", "/arrivals/"+a.ID+"/files?name=b.csv", "x", "Content-Type", "application/octet-stream")))
	assert.Equal(t, 404, status(c.as(bob, "POST", "/studies", keep)))
	assert.Equal(t, 404, status(c.as(bob, "POST", "/studies/open", fmt.Sprintf(`{"arrivalId":%q}`, a.ID))))
	progress, err := io.ReadAll(c.as(bob, "GET", "/arrivals/"+a.ID+"/progress", "").Body)
	require.NoError(t, err)
	assert.Contains(t, string(progress), "event: gone")
	assert.Equal(t, 204, status(c.as(bob, "DELETE", "/arrivals/"+a.ID, "")), "which drops nothing")
	assert.Equal(t, 200, status(c.as(ada, "POST", "/arrivals/"+a.ID+"/look", look)))
	kept, err := io.ReadAll(c.as(ada, "POST", "/studies", keep).Body)
	require.NoError(t, err)
	assert.Contains(t, string(kept), `"name":"a"`)
}

// Whoever leaves loses nothing for the others: a closed account signs in no more, its sessions end, its studies are
// those of who keeps the accounts, and opened again it has them back. A password is changed by who knows it, and
// ends every other session.
func TestLeaving(t *testing.T) {
	t.Parallel()
	c := team(t)
	root, ada := c.joined("root@tally.example", true), c.joined("ada@tally.example", false)
	second := c.signedIn("ada@tally.example")
	a, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(ada, "__Host-widetally="))
	require.NoError(t, err)
	st, err := demo.Make(study.WithActor(t.Context(), a.Actor()), c.cases)
	require.NoError(t, err)
	page := fmt.Sprintf("/studies/%d/topline", st.ID)
	assert.Equal(t, 403, status(c.as(root, "GET", page, "")), "it has an owner")

	const another = "nine herons quarry lantern"
	change := func(cookie, present, password string) (int, string) {
		resp := c.as(cookie, "PUT", "/account/password", fmt.Sprintf(`{"present":%q,"password":%q}`, present, password))
		set, _, _ := strings.Cut(resp.Header.Get("Set-Cookie"), ";")
		return resp.StatusCode, set
	}
	got, _ := change(ada, "not the present one", another)
	assert.Equal(t, 401, got)
	got, _ = change(ada, password, "short")
	assert.Equal(t, 422, got)
	got, fresh := change(ada, password, another)
	assert.Equal(t, 204, got)
	for cookie, want := range map[string]int{ada: 401, second: 401, fresh: 200} {
		assert.Equal(t, want, status(c.as(cookie, "GET", page, "")))
	}

	shut := func(cookie, email string, closed bool) int {
		return status(c.as(cookie, "PUT", "/accounts", fmt.Sprintf(`{"email":%q,"closed":%v}`, email, closed)))
	}
	assert.Equal(t, 403, shut(fresh, "root@tally.example", true))
	assert.Equal(t, 422, shut(root, "root@tally.example", true), "somebody keeps the accounts")
	assert.Equal(t, 422, shut(root, "nobody@tally.example", true))
	assert.Equal(t, 200, shut(root, "ada@tally.example", true))
	assert.Equal(t, 401, status(c.as(fresh, "GET", page, "")))
	assert.Equal(t, 401, status(c.as("", "POST", "/session", fmt.Sprintf(`{"email":"ada@tally.example","password":%q}`, another))))
	assert.Equal(t, 200, status(c.as(root, "GET", page, "")), "nobody else owns it now")
	assert.Equal(t, 200, shut(root, "ada@tally.example", false))
	assert.Equal(t, 403, status(c.as(root, "GET", page, "")))
	require.NoError(t, c.cases.People.ResetPassword(t.Context(), "ada@tally.example", password))
	assert.Equal(t, 200, status(c.as(c.signedIn("ada@tally.example"), "GET", page, "")))
}
