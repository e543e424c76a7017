package identity

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"crypto/subtle"
	"errors"
	"slices"
	"sync"
	"time"

	jose "github.com/go-jose/go-jose/v4"
	"github.com/zitadel/oidc/v3/pkg/oidc"
	"github.com/zitadel/oidc/v3/pkg/op"
)

// request is somebody who was sent to sign in.
type request struct {
	*oidc.AuthRequest
	id   string
	who  string // the subject, once chosen
	when time.Time
}

func (r *request) GetID() string          { return r.id }
func (r *request) GetACR() string         { return "" }
func (r *request) GetAMR() []string       { return []string{"pwd"} }
func (r *request) GetAudience() []string  { return []string{r.ClientID} }
func (r *request) GetAuthTime() time.Time { return r.when }
func (r *request) GetClientID() string    { return r.ClientID }
func (r *request) GetNonce() string       { return r.Nonce }
func (r *request) GetRedirectURI() string { return r.RedirectURI }
func (r *request) GetScopes() []string    { return r.Scopes }
func (r *request) GetState() string       { return r.State }
func (r *request) GetSubject() string     { return r.who }
func (r *request) Done() bool             { return r.who != "" }
func (r *request) GetCodeChallenge() *oidc.CodeChallenge {
	if r.CodeChallenge == "" {
		return nil
	}
	return &oidc.CodeChallenge{Challenge: r.CodeChallenge, Method: r.CodeChallengeMethod}
}
func (r *request) GetResponseType() oidc.ResponseType { return r.ResponseType }
func (r *request) GetResponseMode() oidc.ResponseMode { return r.ResponseMode }

// client is the application that sends people.
type client struct {
	id, key   string
	redirects []string
}

func (c *client) GetID() string                       { return c.id }
func (c *client) RedirectURIs() []string              { return c.redirects }
func (c *client) PostLogoutRedirectURIs() []string    { return nil }
func (c *client) ApplicationType() op.ApplicationType { return op.ApplicationTypeWeb }
func (c *client) AuthMethod() oidc.AuthMethod         { return oidc.AuthMethodBasic }
func (c *client) ResponseTypes() []oidc.ResponseType {
	return []oidc.ResponseType{oidc.ResponseTypeCode}
}
func (c *client) GrantTypes() []oidc.GrantType        { return []oidc.GrantType{oidc.GrantTypeCode} }
func (c *client) LoginURL(id string) string           { return "/choose?request=" + id }
func (c *client) AccessTokenType() op.AccessTokenType { return op.AccessTokenTypeBearer }
func (c *client) IDTokenLifetime() time.Duration      { return time.Hour }
func (c *client) DevMode() bool                       { return true } // loopback without https
func (c *client) RestrictAdditionalIdTokenScopes() func(scopes []string) []string {
	return slices.Clone
}
func (c *client) RestrictAdditionalAccessTokenScopes() func(scopes []string) []string {
	return slices.Clone
}
func (c *client) IsScopeAllowed(string) bool           { return false }
func (c *client) IDTokenUserinfoClaimsAssertion() bool { return true }
func (c *client) ClockSkew() time.Duration             { return 0 }

// signing is the key with which it signs, made anew at each start.
type signing struct{ key *rsa.PrivateKey }

func (s signing) SignatureAlgorithm() jose.SignatureAlgorithm { return jose.RS256 }
func (s signing) Key() any                                    { return s.key }
func (s signing) ID() string                                  { return "stand-in" }

type public struct{ signing }

func (p public) Algorithm() jose.SignatureAlgorithm { return jose.RS256 }
func (p public) Use() string                        { return "sig" }
func (p public) Key() any                           { return &p.key.PublicKey }

// storage keeps in memory what a provider has to know between the steps. What this one does not offer,
// such as tokens that are renewed, it refuses.
type storage struct {
	people []Person
	client *client
	keys   signing

	mu       sync.Mutex
	requests map[string]*request
	codes    map[string]string // to requests
	tokens   map[string]string // to subjects
}

var (
	errUnknown = errors.New("identity: there is none like that")
	errNot     = errors.New("identity: that is not offered")
)

// tokenTime is how long an access token serves.
const tokenTime = 5 * time.Minute

func (s *storage) person(subject string) (Person, error) {
	at := slices.IndexFunc(s.people, func(p Person) bool { return p.Subject == subject })
	if at < 0 {
		return Person{}, errUnknown
	}
	return s.people[at], nil
}

// choose notes who somebody is that was sent.
func (s *storage) choose(id, subject string) error {
	if _, err := s.person(subject); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	r := s.requests[id]
	if r == nil {
		return errUnknown
	}
	r.who, r.when = subject, time.Now()
	return nil
}

func (s *storage) CreateAuthRequest(_ context.Context, asked *oidc.AuthRequest, _ string) (op.AuthRequest, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	r := &request{AuthRequest: asked, id: rand.Text()}
	s.requests[r.id] = r
	return r, nil
}

func (s *storage) AuthRequestByID(_ context.Context, id string) (op.AuthRequest, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if r := s.requests[id]; r != nil {
		return r, nil
	}
	return nil, errUnknown
}

func (s *storage) AuthRequestByCode(ctx context.Context, code string) (op.AuthRequest, error) {
	s.mu.Lock()
	id := s.codes[code]
	s.mu.Unlock()
	return s.AuthRequestByID(ctx, id)
}

func (s *storage) SaveAuthCode(_ context.Context, id, code string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.codes[code] = id
	return nil
}

func (s *storage) DeleteAuthRequest(_ context.Context, id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.requests, id)
	for code, of := range s.codes {
		if of == id {
			delete(s.codes, code)
		}
	}
	return nil
}

func (s *storage) CreateAccessToken(_ context.Context, r op.TokenRequest) (string, time.Time, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	id := rand.Text()
	s.tokens[id] = r.GetSubject()
	return id, time.Now().Add(tokenTime), nil
}

func (s *storage) SigningKey(context.Context) (op.SigningKey, error) { return s.keys, nil }
func (s *storage) SignatureAlgorithms(context.Context) ([]jose.SignatureAlgorithm, error) {
	return []jose.SignatureAlgorithm{jose.RS256}, nil
}
func (s *storage) KeySet(context.Context) ([]op.Key, error) { return []op.Key{public{s.keys}}, nil }

func (s *storage) GetClientByClientID(_ context.Context, id string) (op.Client, error) {
	if id != s.client.id {
		return nil, errUnknown
	}
	return s.client, nil
}

func (s *storage) AuthorizeClientIDSecret(_ context.Context, id, key string) error {
	if id != s.client.id || subtle.ConstantTimeCompare([]byte(key), []byte(s.client.key)) != 1 {
		return errUnknown
	}
	return nil
}

func (s *storage) tell(info *oidc.UserInfo, subject string) error {
	p, err := s.person(subject)
	if err != nil {
		return err
	}
	info.Subject, info.Email, info.EmailVerified, info.Name = p.Subject, p.Email, oidc.Bool(!p.Unverified), p.Name
	return nil
}

// SetUserinfoFromRequest tells who somebody is as it is signed.
func (s *storage) SetUserinfoFromRequest(_ context.Context, info *oidc.UserInfo, r op.IDTokenRequest, _ []string) error {
	return s.tell(info, r.GetSubject())
}

func (s *storage) SetUserinfoFromScopes(context.Context, *oidc.UserInfo, string, string, []string) error {
	return nil
}

func (s *storage) SetUserinfoFromToken(_ context.Context, info *oidc.UserInfo, token, _, _ string) error {
	s.mu.Lock()
	subject := s.tokens[token]
	s.mu.Unlock()
	return s.tell(info, subject)
}

func (s *storage) GetPrivateClaimsFromScopes(context.Context, string, string, []string) (map[string]any, error) {
	return nil, nil
}

func (s *storage) Health(context.Context) error { return nil }

func (s *storage) CreateAccessAndRefreshTokens(context.Context, op.TokenRequest, string) (string, string, time.Time, error) {
	return "", "", time.Time{}, errNot
}
func (s *storage) TokenRequestByRefreshToken(context.Context, string) (op.RefreshTokenRequest, error) {
	return nil, errNot
}
func (s *storage) TerminateSession(context.Context, string, string) error { return nil }
func (s *storage) RevokeToken(context.Context, string, string, string) *oidc.Error {
	return oidc.ErrInvalidRequest()
}
func (s *storage) GetRefreshTokenInfo(context.Context, string, string) (string, string, error) {
	return "", "", op.ErrInvalidRefreshToken
}
func (s *storage) SetIntrospectionFromToken(context.Context, *oidc.IntrospectionResponse, string, string, string) error {
	return errNot
}
func (s *storage) GetKeyByIDAndClientID(context.Context, string, string) (*jose.JSONWebKey, error) {
	return nil, errNot
}
func (s *storage) ValidateJWTProfileScopes(context.Context, string, []string) ([]string, error) {
	return nil, errNot
}
