package institution

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	jose "github.com/go-jose/go-jose/v4"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/people"
)

// provider is an institution that answers whatever a test has it answer.
type provider struct {
	*httptest.Server
	t      *testing.T
	key    *rsa.PrivateKey
	claims map[string]any
	signer jose.SigningKey
	info   map[string]any
	status int
	asked  url.Values // of the last exchange
}

func newProvider(t *testing.T) *provider {
	t.Helper()
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	p := &provider{t: t, key: key, signer: jose.SigningKey{Algorithm: jose.RS256, Key: key}, status: 200}
	mux := http.NewServeMux()
	answer := func(w http.ResponseWriter, v any) {
		w.Header().Set("Content-Type", "application/json")
		assert.NoError(t, json.NewEncoder(w).Encode(v))
	}
	mux.HandleFunc("/.well-known/openid-configuration", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, map[string]any{"issuer": p.URL, "authorization_endpoint": p.URL + "/authorize", "token_endpoint": p.URL + "/token", "jwks_uri": p.URL + "/keys", "userinfo_endpoint": p.URL + "/userinfo", "id_token_signing_alg_values_supported": []string{"RS256"}})
	})
	mux.HandleFunc("/keys", func(w http.ResponseWriter, _ *http.Request) {
		answer(w, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: &key.PublicKey, Algorithm: "RS256", Use: "sig"}}})
	})
	mux.HandleFunc("/userinfo", func(w http.ResponseWriter, _ *http.Request) { answer(w, p.info) })
	mux.HandleFunc("/token", func(w http.ResponseWriter, r *http.Request) {
		assert.NoError(t, r.ParseForm())
		p.asked = r.Form
		if p.status != 200 {
			http.Error(w, "no", p.status)
			return
		}
		answer(w, map[string]any{"access_token": "x", "token_type": "Bearer", "id_token": p.token()})
	})
	p.Server = httptest.NewServer(mux)
	t.Cleanup(p.Close)
	return p
}

// token is the claims as they are signed; not at all where there is no signer.
func (p *provider) token() string {
	raw, err := json.Marshal(p.claims)
	require.NoError(p.t, err)
	if p.signer.Key == nil {
		return base64.RawURLEncoding.EncodeToString([]byte(`{"alg":"none"}`)) + "." + base64.RawURLEncoding.EncodeToString(raw) + "."
	}
	signer, err := jose.NewSigner(p.signer, nil)
	require.NoError(p.t, err)
	signed, err := signer.Sign(raw)
	require.NoError(p.t, err)
	out, err := signed.CompactSerialize()
	require.NoError(p.t, err)
	return out
}

// Nobody is let in by a word that is not the institution's, not for this application, not for this attempt, or too old; and the
// email of somebody else is not taken for theirs.
func TestWordsThatAreNotTaken(t *testing.T) {
	t.Parallel()
	p := newProvider(t)
	other, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	const back = "https://tally.example/back"
	for name, k := range map[string]struct {
		spoil func(claims map[string]any, pending *Pending)
		want  error
	}{
		"as it should be": {func(map[string]any, *Pending) {}, nil},
		"by the further question": {func(c map[string]any, _ *Pending) {
			delete(c, "email")
			p.info = map[string]any{"sub": "17", "email": "ada@tally.example", "email_verified": true}
		}, nil},
		"of somebody else": {func(c map[string]any, _ *Pending) {
			delete(c, "email")
			p.info = map[string]any{"sub": "18", "email": "ada@tally.example", "email_verified": true}
		}, ErrAway},
		"another issuer":      {func(c map[string]any, _ *Pending) { c["iss"] = "https://other.example" }, ErrRefused},
		"another application": {func(c map[string]any, _ *Pending) { c["aud"] = "another" }, ErrRefused},
		"another attempt":     {func(c map[string]any, _ *Pending) { c["nonce"] = "another" }, ErrRefused},
		"no attempt":          {func(c map[string]any, _ *Pending) { delete(c, "nonce") }, ErrRefused},
		"too old":             {func(c map[string]any, _ *Pending) { c["exp"] = time.Now().Add(-time.Hour).Unix() }, ErrRefused},
		"signed by another":   {func(map[string]any, *Pending) { p.signer.Key = other }, ErrRefused},
		"not signed":          {func(map[string]any, *Pending) { p.signer.Key = nil }, ErrRefused},
		"signed by the client's key": {func(map[string]any, *Pending) {
			p.signer = jose.SigningKey{Algorithm: jose.HS256, Key: []byte(strings.Repeat("k", 32))}
		}, ErrRefused},
		"no code for it": {func(map[string]any, *Pending) { p.status = 400 }, ErrAway},
		"no state":       {func(_ map[string]any, pending *Pending) { pending.State = "" }, ErrRefused},
		"another state":  {func(_ map[string]any, pending *Pending) { pending.State += "x" }, ErrRefused},
	} {
		p.signer, p.status, p.info, p.asked = jose.SigningKey{Algorithm: jose.RS256, Key: p.key}, 200, nil, nil
		i := New(Settings{Issuer: p.URL, ClientID: "widetally", ClientKey: strings.Repeat("k", 32)})
		address, pending, err := i.Begin(t.Context(), back, "/studies/3")
		require.NoError(t, err)
		sent, err := url.Parse(address)
		require.NoError(t, err)
		q := sent.Query()
		proof := sha256.Sum256([]byte(pending.Proof))
		assert.Equal(t, []string{"code", "S256", base64.RawURLEncoding.EncodeToString(proof[:]), back}, []string{q.Get("response_type"), q.Get("code_challenge_method"), q.Get("code_challenge"), q.Get("redirect_uri")}, name)
		assert.NotContains(t, address, pending.Proof, name)
		state := pending.State
		p.claims = maps.Clone(map[string]any{"iss": p.URL, "aud": "widetally", "sub": "17", "nonce": q.Get("nonce"), "iat": time.Now().Unix(), "exp": time.Now().Add(time.Minute).Unix(), "email": "ada@tally.example", "email_verified": true, "name": "Ada"})
		k.spoil(p.claims, &pending)
		who, err := i.Finish(t.Context(), back, pending, state, "code")
		if k.want != nil {
			require.ErrorIs(t, err, k.want, name)
			assert.Empty(t, who, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, people.Identity{Issuer: p.URL, Subject: "17", Email: "ada@tally.example", Verified: true, Name: "Ada"}, who, name)
		assert.Equal(t, pending.Proof, p.asked.Get("code_verifier"), "the proof comes with the code")
	}
	_, _, err = New(Settings{Issuer: p.URL + "/elsewhere"}).Begin(t.Context(), back, "/")
	require.ErrorIs(t, err, ErrAway)
}
