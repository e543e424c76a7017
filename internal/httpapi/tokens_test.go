package httpapi

import (
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/service"
)

// A script acts for somebody within its scope and study, never further than they may themselves, until its token ends; what it
// does is noted as done by a script. The secret is told once.
func TestScripts(t *testing.T) {
	t.Parallel()
	c := team(t)
	root, ada := c.joined("root@tally.example", true), c.joined("ada@tally.example", false)
	path, other := c.owned(ada), c.owned(ada)
	a, err := c.cases.People.SignedIn(t.Context(), strings.TrimPrefix(ada, "__Host-widetally="))
	require.NoError(t, err)
	as := study.WithActor(t.Context(), a.Actor())
	first, err := strconv.ParseUint(strings.TrimPrefix(path, "/studies/"), 10, 64)
	require.NoError(t, err)

	sees, answers, changes, one := c.token(ada, "see", 0, 30), c.token(ada, "answers", 0, 30), c.token(ada, "change", 0, 30), c.token(ada, "change", first, 30)
	rename := func(token, path string) int {
		return status(c.as(token, "PATCH", path, `{"decimals":2}`, "If-Match", `"1"`))
	}
	for name, k := range map[string]struct{ got, want int }{
		"sees a page":                     {status(c.as(sees, "GET", path+"/topline", "")), 200},
		"sees no answers":                 {status(c.as(sees, "GET", path+"/responses", "")), 403},
		"takes no study":                  {status(c.as(sees, "GET", path+"/file", "")), 403},
		"sees answers":                    {status(c.as(answers, "GET", path+"/responses?most=1", "")), 200},
		"computes":                        {status(c.as(sees, "POST", "/compute/goodness-of-fit", `{"observed":[10,20],"shares":[50,50],"scale":"percents"}`)), 200},
		"changes nothing":                 {rename(answers, path), 403},
		"brings nothing":                  {status(c.as(sees, "POST", "/arrivals?name=a.csv", "a\n1\n")), 403},
		"changes":                         {rename(changes, path), 200},
		"changes its study":               {status(c.as(one, "GET", path, "")), 200},
		"and no other":                    {rename(one, other), 403},
		"makes no other":                  {status(c.as(one, "POST", "/studies", `{}`)), 403},
		"shares nothing":                  {status(c.as(changes, "PUT", path+"/members", `{"email":"","role":"reader"}`)), 403},
		"deletes nothing":                 {status(c.as(changes, "DELETE", path, "")), 403},
		"makes no token":                  {status(c.as(changes, "POST", "/tokens", `{"name":"x","scope":"change","days":9}`)), 403},
		"changes no password":             {status(c.as(changes, "PUT", "/account/password", `{}`)), 403},
		"reads no trail":                  {status(c.as(changes, "GET", path+"/trail", "")), 403},
		"a token that nobody made":        {status(c.as(changes+"x", "GET", path, "")), 401},
		"the cookie of a session is none": {status(c.as("Bearer "+strings.TrimPrefix(ada, "__Host-widetally="), "GET", path, "")), 401},
		"of a stranger to the study":      {status(c.as(c.token(root, "change", 0, 1), "GET", path, "")), 403},
	} {
		assert.Equal(t, k.want, k.got, name)
	}
	for body, field := range map[string]string{`{"name":"","scope":"see","days":9}`: "/name", `{"name":"x","scope":"own","days":9}`: "/scope", `{"name":"x","scope":"see","days":0}`: "/days", `{"name":"x","scope":"see","days":999}`: "/days"} {
		raw, err := io.ReadAll(c.as(ada, "POST", "/tokens", body).Body)
		require.NoError(t, err)
		assert.Contains(t, string(raw), field)
	}
	assert.Equal(t, 403, status(c.as(root, "POST", "/tokens", fmt.Sprintf(`{"name":"x","scope":"see","study":%d,"days":9}`, first))))

	newest := c.trailOf(ada, path+"/trail").Entries[0]
	assert.Equal(t, "ada@tally.example", newest.Name)
	assert.Equal(t, "token", newest.Via)

	list, err := io.ReadAll(c.as(ada, "GET", "/tokens", "").Body)
	require.NoError(t, err)
	assert.NotContains(t, string(list), "widetally_")
	mine, err := c.cases.People.Tokens(as)
	require.NoError(t, err)
	require.Len(t, mine, 4)
	for _, k := range mine {
		require.Equal(t, 204, status(c.as(root, "DELETE", "/tokens/"+k.Hash, "")), "not his: nothing ends")
	}
	assert.Equal(t, 200, status(c.as(sees, "GET", path, "")))
	for _, k := range mine {
		if k.Scope == people.TokenSees {
			require.Equal(t, 204, status(c.as(ada, "DELETE", "/tokens/"+k.Hash, "")))
		}
	}
	assert.Equal(t, 401, status(c.as(sees, "GET", path, "")), "ended")
	require.Equal(t, 200, status(c.as(root, "PUT", "/accounts", `{"email":"ada@tally.example","closed":true}`)))
	assert.Equal(t, 401, status(c.as(changes, "GET", path, "")), "with the account")
}

// A passkey is made and asked for at a name alone, never at an address of numbers; what is answered was asked here, for this account, and once.
func TestPasskeysThatAreNone(t *testing.T) {
	t.Parallel()
	c := team(t)
	ada := c.joined("ada@tally.example", true)
	begin := func(cookie, path string) (state string) {
		var asked struct {
			State   string
			Options struct {
				Challenge string
			}
		}
		raw, err := io.ReadAll(c.as(cookie, "POST", path, "").Body)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(raw, &asked), "%s", raw)
		require.GreaterOrEqual(t, len(asked.Options.Challenge), 40)
		return asked.State
	}
	forged := `{"id":"AAAA","rawId":"AAAA","type":"public-key","response":{"clientDataJSON":"e30","authenticatorData":"AAAA","signature":"AAAA","userHandle":"YWNjb3VudC0x"}}`
	state := begin("", "/session/passkey/begin")
	for _, body := range []string{
		fmt.Sprintf(`{"state":%q,"answer":%s}`, state, forged), // and used by that
		fmt.Sprintf(`{"state":%q,"answer":%s}`, state, forged),
		fmt.Sprintf(`{"state":"nothing","answer":%s}`, forged),
		fmt.Sprintf(`{"state":%q,"answer":{}}`, begin("", "/session/passkey/begin")),
	} {
		assert.Equal(t, 401, status(c.as("", "POST", "/session/passkey", body)), body)
	}
	assert.Equal(t, 401, status(c.as("", "POST", "/passkeys/begin", "")), "who is not signed in makes none")
	made := begin(ada, "/passkeys/begin")
	assert.Equal(t, 422, status(c.as(ada, "POST", "/passkeys", fmt.Sprintf(`{"state":%q,"name":"","answer":{}}`, made))))
	assert.Equal(t, 401, status(c.as(ada, "POST", "/passkeys", fmt.Sprintf(`{"state":%q,"name":"x","answer":{}}`, made))))
	numbers := newClientWith(t, service.Options{}, func(c *Config) { c.Origins = []string{"https://192.0.2.1"} })
	assert.Equal(t, 404, numbers.send("POST", "/api/v1/session/passkey/begin", "", "Host", "192.0.2.1").StatusCode)
}
