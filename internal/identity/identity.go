// Package identity is a simulated institution that knows people and tells who they are over OpenID Connect. It is for
// trying and testing: whoever comes chooses who they are, without a password.
package identity

import (
	"crypto/rand"
	"crypto/rsa"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"slices"

	"github.com/zitadel/oidc/v3/pkg/op"
)

// Person is somebody whom the institution knows. Unverified says that it does not vouch for the email.
type Person struct {
	Subject, Name, Email string
	Unverified           bool
}

// Settings say whom it knows, and which application sends people; Redirects are where that takes them back.
type Settings struct {
	// Issuer is its own address, such as http://127.0.0.1:8440.
	Issuer              string
	People              []Person
	ClientID, ClientKey string
	Redirects           []string
}

var page = template.Must(template.New("choose").Parse(`<!DOCTYPE html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Simulated institution</title>
<style>body{font:17px/1.5 sans-serif;max-width:30em;margin:12vh auto;padding:0 20px}button{font:inherit;display:block;width:100%;text-align:left;padding:10px 14px;margin:8px 0;background:#fff;border:1px solid #777;cursor:pointer}small{color:#555}</style>
<main><h1>Who are you?</h1><p>This institution is simulated: choose somebody, no password is asked for.</p>
<form method="post" action="/choose"><input type="hidden" name="request" value="{{.Request}}">
{{range .People}}<button name="who" value="{{.Subject}}">{{.Name}}<br><small>{{.Email}}</small></button>
{{end}}</form></main></html>`))

// Handler answers as the institution.
func Handler(s Settings) (http.Handler, error) {
	const keyBits = 2048
	key, err := rsa.GenerateKey(rand.Reader, keyBits)
	if err != nil {
		return nil, fmt.Errorf("identity: %w", err)
	}
	kept := &storage{people: slices.Clone(s.People), client: &client{s.ClientID, s.ClientKey, s.Redirects}, keys: signing{key}, requests: map[string]*request{}, codes: map[string]string{}, tokens: map[string]string{}}
	config := &op.Config{CodeMethodS256: true, CryptoKeyId: "stand-in"}
	if _, err := rand.Read(config.CryptoKey[:]); err != nil {
		return nil, fmt.Errorf("identity: %w", err)
	}
	provider, err := op.NewProvider(config, kept, op.StaticIssuer(s.Issuer), op.WithAllowInsecure(), op.WithLogger(slog.New(slog.DiscardHandler)))
	if err != nil {
		return nil, fmt.Errorf("identity: %w", err)
	}
	back := op.AuthCallbackURL(provider)
	mux := http.NewServeMux()
	mux.HandleFunc("GET /choose", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		_ = page.Execute(w, struct {
			Request string
			People  []Person
		}{r.FormValue("request"), s.People})
	})
	mux.Handle("POST /choose", op.NewIssuerInterceptor(provider.IssuerFromRequest).HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := r.FormValue("request")
		if err := kept.choose(id, r.FormValue("who")); err != nil {
			http.Error(w, "Nobody is expected here, or not you.", http.StatusBadRequest)
			return
		}
		http.Redirect(w, r, back(r.Context(), id), http.StatusFound)
	}))
	mux.Handle("/", provider)
	return mux, nil
}
