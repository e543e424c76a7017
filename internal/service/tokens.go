package service

import (
	"context"
	"errors"
	"strings"
	"time"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
)

// tokenPrefix lets a token be known for one where it lies about.
const tokenPrefix = "widetally_"

// AddToken makes a token for a script that acts for who asks, and gives it: it is not told again.
func (s *People) AddToken(ctx context.Context, name string, scope people.TokenScope, studyID uint64, days int) (secret string, t people.Token, err error) {
	who := study.ActorOf(ctx)
	if name, err = plain(name, "/name", maxName, true); err != nil {
		return "", t, err
	}
	if scope.May() == nil {
		return "", t, invalid("token.scope", "/scope", nil)
	}
	if days < 1 || days > people.MostTokenDays {
		return "", t, invalid("token.days", "/days", nil)
	}
	if studyID > 0 {
		if err := s.may(ctx, studyID, study.ToSee); err != nil {
			return "", t, err
		}
	}
	all, err := s.store.Tokens(ctx, who.Account)
	if err != nil {
		return "", t, err
	}
	if len(all) >= people.MostTokens {
		return "", t, invalid("token.many", "", nil)
	}
	if secret, _, err = token(); err != nil {
		return "", t, err
	}
	secret = tokenPrefix + secret
	at := time.Now()
	t = people.Token{Hash: hashOf(secret), Account: who.Account, Name: name, Scope: scope, Study: studyID, CreatedAt: at, ExpiresAt: at.AddDate(0, 0, days)}
	return secret, t, s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.AddToken(ctx, t); err != nil {
			return err
		}
		return s.base.store.Note(ctx, 0, document.Say("trail.account.token", document.Values{"name": document.Text(name), "scope": document.Term("ui.people.scopes." + string(scope))}))
	})
}

// Tokens are those of who asks; EndToken ends one of them, by its hash.
func (s *People) Tokens(ctx context.Context) ([]people.Token, error) {
	return s.store.Tokens(ctx, study.ActorOf(ctx).Account)
}

// EndToken ends a token of who asks.
func (s *People) EndToken(ctx context.Context, hash string) error {
	return s.store.EndToken(ctx, study.ActorOf(ctx).Account, hash)
}

// ByToken is who a script acts for; ErrSignedOut for a token that does not hold (any more).
func (s *People) ByToken(ctx context.Context, secret string) (study.Actor, error) {
	if !strings.HasPrefix(secret, tokenPrefix) {
		return study.Actor{}, ErrSignedOut
	}
	t, err := s.store.Token(ctx, hashOf(secret))
	now := time.Now()
	if errors.Is(err, study.ErrNotFound) || err == nil && now.After(t.ExpiresAt) {
		return study.Actor{}, ErrSignedOut
	}
	if err != nil {
		return study.Actor{}, err
	}
	a, err := s.store.Account(ctx, t.Account)
	if err != nil || a.DisabledAt != nil {
		return study.Actor{}, errors.Join(ErrSignedOut, err)
	}
	if t.SeenAt == nil || now.Sub(*t.SeenAt) > seenEvery {
		err = s.store.SeeToken(ctx, t.Hash, now)
	}
	who := a.Actor()
	who.Administrator, who.Via, who.Token = false, study.ViaToken, &study.Scope{Study: t.Study, May: t.Scope.May()}
	return who, err
}
