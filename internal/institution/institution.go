// Package institution signs people in by an institution that knows them, over OpenID Connect (OpenID Connect Core
// 1.0, 2014): the authorization code flow with a state, a nonce and a proof key (RFC 7636).
package institution

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"widetally/core/people"
)

// Settings name an institution and how it knows this application.
type Settings struct {
	// Issuer is its address, such as https://id.fernmouth.example; Name what people call it.
	Issuer, Name        string
	ClientID, ClientKey string
}

// Institution signs people in. It is asked what it offers when somebody first wants to.
type Institution struct {
	Settings
	client *http.Client

	mu       sync.Mutex
	provider *oidc.Provider
}

// answerTime bounds each question to the institution.
const answerTime = 10 * time.Second

// New makes one; nothing is asked of it yet.
func New(s Settings) *Institution {
	return &Institution{Settings: s, client: &http.Client{Timeout: answerTime, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// The errors of signing in by an institution: it cannot be reached or answers what it should not; what came back is
// not what was asked for.
var (
	ErrAway    = errors.New("institution: it does not answer as it should")
	ErrRefused = errors.New("institution: what came back was not asked for")
)

// Pending is what has to be kept, by the browser that was sent, until it comes back.
type Pending struct {
	State string `json:"state"`
	Nonce string `json:"nonce"`
	Proof string `json:"proof"`
	// To is the page to which it goes back.
	To string `json:"to"`
}

func (i *Institution) config(ctx context.Context, redirect string) (*oauth2.Config, *oidc.Provider, error) {
	i.mu.Lock()
	defer i.mu.Unlock()
	if i.provider == nil {
		p, err := oidc.NewProvider(oidc.ClientContext(context.WithoutCancel(ctx), i.client), i.Issuer)
		if err != nil {
			return nil, nil, fmt.Errorf("%w: %w", ErrAway, err)
		}
		i.provider = p
	}
	return &oauth2.Config{ClientID: i.ClientID, ClientSecret: i.ClientKey, Endpoint: i.provider.Endpoint(), RedirectURL: redirect, Scopes: []string{oidc.ScopeOpenID, "email", "profile"}}, i.provider, nil
}

// Begin gives the address to which a browser is sent, and what is to be kept until it comes back to redirect.
func (i *Institution) Begin(ctx context.Context, redirect, to string) (address string, p Pending, err error) {
	c, _, err := i.config(ctx, redirect)
	if err != nil {
		return "", p, err
	}
	p = Pending{State: oauth2.GenerateVerifier(), Nonce: oauth2.GenerateVerifier(), Proof: oauth2.GenerateVerifier(), To: to}
	return c.AuthCodeURL(p.State, oidc.Nonce(p.Nonce), oauth2.S256ChallengeOption(p.Proof)), p, nil
}

// Finish is who came back with a code. ErrRefused, ErrAway.
func (i *Institution) Finish(ctx context.Context, redirect string, p Pending, state, code string) (who people.Identity, err error) {
	if p.State == "" || subtle.ConstantTimeCompare([]byte(p.State), []byte(state)) != 1 || code == "" {
		return who, ErrRefused
	}
	c, provider, err := i.config(ctx, redirect)
	if err != nil {
		return who, err
	}
	ctx = oidc.ClientContext(ctx, i.client)
	token, err := c.Exchange(ctx, code, oauth2.VerifierOption(p.Proof))
	if err != nil {
		return who, fmt.Errorf("%w: %w", ErrAway, err)
	}
	raw, _ := token.Extra("id_token").(string)
	id, err := provider.Verifier(&oidc.Config{ClientID: i.ClientID}).Verify(ctx, raw)
	if err != nil || subtle.ConstantTimeCompare([]byte(id.Nonce), []byte(p.Nonce)) != 1 {
		return who, errors.Join(ErrRefused, err)
	}
	var claims struct {
		Email    string `json:"email"`
		Verified bool   `json:"email_verified"`
		Name     string `json:"name"`
	}
	if err := id.Claims(&claims); err != nil {
		return who, fmt.Errorf("%w: %w", ErrRefused, err)
	}
	if claims.Email == "" { // many tell it only when they are asked once more
		info, err := provider.UserInfo(ctx, oauth2.StaticTokenSource(token))
		if err != nil || info.Subject != id.Subject {
			return who, errors.Join(ErrAway, err)
		}
		claims.Email, claims.Verified = info.Email, info.EmailVerified
	}
	return people.Identity{Issuer: id.Issuer, Subject: id.Subject, Email: claims.Email, Verified: claims.Verified, Name: claims.Name}, nil
}
