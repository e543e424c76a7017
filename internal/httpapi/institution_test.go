package httpapi

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/identity"
	"widetally/internal/institution"
	"widetally/internal/service"
)

// atInstitution is a client at which people sign in by an institution, and what walks through the pages of that as a browser does: from
// the address to which it was sent to the one at which it comes back.
func atInstitution(t *testing.T, known ...identity.Person) (c *client, walk func(address, who string) string) {
	t.Helper()
	var handler http.Handler
	at := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { handler.ServeHTTP(w, r) }))
	t.Cleanup(at.Close)
	var err error
	handler, err = identity.Handler(identity.Settings{Issuer: at.URL, People: known, ClientID: "widetally", ClientKey: "key", Redirects: []string{"https://" + host + backPath}})
	require.NoError(t, err)
	c = newClientWith(t, service.Options{}, func(c *Config) {
		c.Origins = []string{"https://" + host}
		c.Institution = institution.New(institution.Settings{Issuer: at.URL, Name: "Fernmouth College", ClientID: "widetally", ClientKey: "key"})
	})
	browser := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	location := func(resp *http.Response, err error) string {
		require.NoError(t, err)
		defer resp.Body.Close()
		to, err := resp.Location()
		require.NoError(t, err, resp.Status)
		return to.String()
	}
	return c, func(address, who string) string {
		choose := location(browser.Get(address))
		u, err := url.Parse(choose)
		require.NoError(t, err)
		back := location(browser.PostForm(at.URL+"/choose", url.Values{"request": {u.Query().Get("request")}, "who": {who}}))
		return location(browser.Get(back))
	}
}

// sent is where a browser is sent, and the cookie that it keeps meanwhile.
func (c *client) sent(to string) (address, cookie string) {
	resp := c.as("", "GET", "/session/institution?to="+url.QueryEscape(to), "")
	require.Equal(c.t, 303, resp.StatusCode)
	cookie, _, _ = strings.Cut(resp.Header.Get("Set-Cookie"), ";")
	require.Contains(c.t, resp.Header.Get("Set-Cookie"), "HttpOnly")
	return resp.Header.Get("Location"), cookie
}

// came is the answer to a browser that comes back: where it goes on, and the cookie of its session.
func (c *client) came(cookie, back string) (to, session string) {
	u, err := url.Parse(back)
	require.NoError(c.t, err)
	require.Equal(c.t, host, u.Host)
	resp := c.as(cookie, "GET", strings.TrimPrefix(u.RequestURI(), "/api/v1"), "")
	require.Equal(c.t, 303, resp.StatusCode)
	for _, set := range resp.Header.Values("Set-Cookie") {
		if value, _, _ := strings.Cut(set, ";"); strings.HasPrefix(value, "__Host-widetally=") {
			session = value
		}
	}
	return resp.Header.Get("Location"), session
}

// Whoever the institution knows signs in by it: who has an account with the email for which it vouches, or an invitation;
// afterwards by what it calls them, whatever their email has become. Nobody else does, and what comes back is what was asked for.
func TestSigningInByAnInstitution(t *testing.T) {
	t.Parallel()
	c, walk := atInstitution(t, identity.Person{Subject: "1", Name: "Ada", Email: "Ada@tally.example"}, identity.Person{Subject: "2", Name: "Ida", Email: "ida@tally.example"},
		identity.Person{Subject: "3", Name: "Eve", Email: "ada@tally.example", Unverified: true}, identity.Person{Subject: "4", Name: "Odd", Email: "odd@tally.example"})
	root := c.joined("ada@tally.example", true)
	enter := func(who, to string) (string, string) {
		address, cookie := c.sent(to)
		return c.came(cookie, walk(address, who))
	}
	for _, k := range []struct{ who, to, want string }{
		{"1", "/studies/3?of=2#q4", "/studies/3?of=2#q4"},
		{"1", "https://stranger.example/", "/studies"},
		{"1", "//stranger.example", "/studies"},
		{"1", `/\stranger.example`, "/studies"},
		{"2", "/studies", "/studies?refused=no_account"},
		{"3", "/studies", "/studies?refused=unverified"},
		{"4", "/studies", "/studies?refused=no_account"},
	} {
		to, session := enter(k.who, k.to)
		assert.Equal(t, k.want, to)
		assert.Equal(t, k.who == "1", session != "")
		if session != "" {
			assert.Equal(t, 200, status(c.as(session, "GET", "/studies", "")))
		}
	}
	require.Equal(t, 201, status(c.as(root, "POST", "/invitations", `{"email":"ida@tally.example","name":"Ida"}`)))
	to, ida := enter("2", "/shares")
	assert.Equal(t, "/shares", to)
	assert.Equal(t, 200, status(c.as(ida, "GET", "/accounts", "")))
	assert.Equal(t, 401, status(c.as("", "POST", "/session", `{"email":"ida@tally.example","password":""}`)), "she has no password")
	require.Equal(t, 200, status(c.as(root, "PUT", "/accounts", `{"email":"ida@tally.example","closed":true}`)))
	to, _ = enter("2", "/shares")
	assert.Equal(t, "/studies?refused=no_account", to, "closed")

	// Nothing that somebody else began, or that was used, lets anybody in.
	address, cookie := c.sent("/studies")
	back := walk(address, "1")
	_, other := c.sent("/studies")
	for name, k := range map[string]struct{ cookie, back string }{
		"no cookie": {"", back}, "another's cookie": {other, back}, "another state": {cookie, strings.Replace(back, "state=", "state=x", 1)},
		"a forged code": {cookie, fmt.Sprintf("https://%s%s?code=x&state=%s", host, backPath, mustQuery(t, back, "state"))},
	} {
		to, session := c.came(k.cookie, k.back)
		assert.Regexp(t, `^/studies\?refused=(unasked|away)$`, to, name)
		assert.Empty(t, session, name)
	}
	to, session := c.came(cookie, back)
	assert.Equal(t, "/studies", to)
	assert.NotEmpty(t, session)
	_, session = c.came(cookie, back)
	assert.Empty(t, session, "once")

	none := team(t)
	assert.Equal(t, 404, status(none.as("", "GET", "/session/institution", "")))
	away := newClientWith(t, service.Options{}, func(c *Config) {
		c.Origins = []string{"https://" + host}
		c.Institution = institution.New(institution.Settings{Issuer: "http://127.0.0.1:1"})
	})
	assert.Equal(t, "/studies?refused=away", away.as("", "GET", "/session/institution", "").Header.Get("Location"))
}

func mustQuery(t *testing.T, address, name string) string {
	t.Helper()
	u, err := url.Parse(address)
	require.NoError(t, err)
	return u.Query().Get(name)
}
