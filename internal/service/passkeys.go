package service

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
)

// Site is where a browser asks for a passkey: keys belong to its host.
type Site struct{ Host, Origin string }

// ErrPasskey says that a passkey did not answer what was asked.
var ErrPasskey = errors.New("service: the passkey is not one that is known here")

// challengeTime is how long somebody may take to unlock a device.
const challengeTime = 5 * time.Minute

func (at Site) relying() (*webauthn.WebAuthn, error) {
	w, err := webauthn.New(&webauthn.Config{RPID: at.Host, RPDisplayName: "Wide Tally", RPOrigins: []string{at.Origin},
		AuthenticatorSelection: protocol.AuthenticatorSelection{ResidentKey: protocol.ResidentKeyRequirementRequired, UserVerification: protocol.VerificationRequired}})
	if err != nil {
		return nil, fmt.Errorf("service: passkeys: %w", err)
	}
	return w, nil
}

// holder is an account as whose keys they are.
type holder struct {
	a    people.Account
	keys []people.Passkey
}

func (h holder) WebAuthnID() []byte          { return []byte(h.a.Actor().ID) }
func (h holder) WebAuthnName() string        { return h.a.Email }
func (h holder) WebAuthnDisplayName() string { return h.a.Name }
func (h holder) WebAuthnCredentials() (out []webauthn.Credential) {
	for _, k := range h.keys {
		var c webauthn.Credential
		if json.Unmarshal([]byte(k.Credential), &c) == nil { // what was kept was written by this program
			out = append(out, c)
		}
	}
	return out
}

func (s *People) holder(ctx context.Context, account uint64) (h holder, err error) {
	if h.a, err = s.store.Account(ctx, account); err != nil {
		return h, err
	}
	h.keys, err = s.store.Passkeys(ctx, account)
	return h, err
}

// challenged keeps what is to be answered, and gives the name by which it is found again.
func (s *People) challenged(ctx context.Context, session *webauthn.SessionData) (state string, err error) {
	state, hash, err := token()
	if err != nil {
		return "", err
	}
	raw, err := jsonText(session)
	if err != nil {
		return "", err
	}
	return state, s.store.AddChallenge(ctx, hash, raw, time.Now().Add(challengeTime))
}

func (s *People) challenge(ctx context.Context, state string) (session webauthn.SessionData, err error) {
	raw, err := s.store.TakeChallenge(ctx, hashOf(state))
	if errors.Is(err, study.ErrNotFound) {
		return session, ErrPasskey
	}
	if err == nil {
		err = json.Unmarshal([]byte(raw), &session)
	}
	return session, err
}

// BeginPasskey begins to make a passkey for who asks: options are for the browser, state for FinishPasskey.
func (s *People) BeginPasskey(ctx context.Context, at Site) (options *protocol.CredentialCreation, state string, err error) {
	w, err := at.relying()
	if err != nil {
		return nil, "", err
	}
	h, err := s.holder(ctx, study.ActorOf(ctx).Account)
	if err != nil {
		return nil, "", err
	}
	if len(h.keys) >= people.MostPasskeys {
		return nil, "", invalid("passkey.many", "", nil)
	}
	options, session, err := w.BeginRegistration(h, webauthn.WithExclusions(webauthn.Credentials(h.WebAuthnCredentials()).CredentialDescriptors()))
	if err != nil {
		return nil, "", fmt.Errorf("service: passkeys: %w", err)
	}
	state, err = s.challenged(ctx, session)
	return options, state, err
}

// FinishPasskey keeps the passkey that a browser has made. ErrPasskey.
func (s *People) FinishPasskey(ctx context.Context, at Site, state, name string, answer []byte) error {
	name, err := plain(name, "/name", maxName, true)
	if err != nil {
		return err
	}
	session, err := s.challenge(ctx, state)
	if err != nil {
		return err
	}
	w, err := at.relying()
	if err != nil {
		return err
	}
	h, err := s.holder(ctx, study.ActorOf(ctx).Account)
	if err != nil {
		return err
	}
	parsed, err := protocol.ParseCredentialCreationResponseBytes(answer)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrPasskey, err)
	}
	made, err := w.CreateCredential(h, session, parsed)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrPasskey, err)
	}
	raw, err := jsonText(made)
	if err != nil {
		return err
	}
	return s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.AddPasskey(ctx, people.Passkey{ID: base64.RawURLEncoding.EncodeToString(made.ID), Account: h.a.ID, Name: name, Credential: raw}); err != nil {
			return err
		}
		return s.base.store.Note(ctx, 0, document.Say("trail.account.passkey", document.Values{"name": document.Text(name)}))
	})
}

// Passkeys are those of who asks.
func (s *People) Passkeys(ctx context.Context) ([]people.Passkey, error) {
	return s.store.Passkeys(ctx, study.ActorOf(ctx).Account)
}

// EndPasskey takes a passkey of who asks away.
func (s *People) EndPasskey(ctx context.Context, id string) error {
	return s.store.EndPasskey(ctx, study.ActorOf(ctx).Account, id)
}

// BeginPasskeySignIn asks for any passkey of this site.
func (s *People) BeginPasskeySignIn(ctx context.Context, at Site) (options *protocol.CredentialAssertion, state string, err error) {
	w, err := at.relying()
	if err != nil {
		return nil, "", err
	}
	options, session, err := w.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationRequired))
	if err != nil {
		return nil, "", fmt.Errorf("service: passkeys: %w", err)
	}
	state, err = s.challenged(ctx, session)
	return options, state, err
}

// SignInByPasskey begins a session for who has the passkey that answers. ErrPasskey.
func (s *People) SignInByPasskey(ctx context.Context, at Site, state string, answer []byte, from From) (secret string, a people.Account, err error) {
	session, err := s.challenge(ctx, state)
	if err != nil {
		return "", a, err
	}
	w, err := at.relying()
	if err != nil {
		return "", a, err
	}
	parsed, err := protocol.ParseCredentialRequestResponseBytes(answer)
	if err != nil {
		return "", a, fmt.Errorf("%w: %w", ErrPasskey, err)
	}
	var h holder
	_, used, err := w.ValidatePasskeyLogin(func(_, handle []byte) (webauthn.User, error) {
		account, is := people.AccountOf(string(handle))
		if !is {
			return nil, ErrPasskey
		}
		h, err = s.holder(ctx, account)
		return h, err
	}, session, parsed)
	switch {
	case err != nil:
		return "", a, fmt.Errorf("%w: %w", ErrPasskey, err)
	case h.a.DisabledAt != nil, used.Authenticator.CloneWarning:
		return "", a, ErrPasskey
	}
	raw, err := jsonText(used)
	if err != nil {
		return "", a, err
	}
	if err := s.store.UsePasskey(ctx, base64.RawURLEncoding.EncodeToString(used.ID), raw); err != nil {
		return "", a, err
	}
	secret, err = s.begin(ctx, h.a, from)
	return secret, h.a, err
}
