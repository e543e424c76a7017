package service

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/passwords"
)

// People is who signs in, and who may do what with a study.
type People struct {
	*base
	store peopleRows
	// decoy is the hash that a password is held against where there is no account, so that nobody tells by
	// the time that it takes.
	decoy  string
	unmade error
	once   sync.Once
	names  sync.Map // of accounts, which do not change
}

type peopleRows interface {
	AddAccount(ctx context.Context, a people.Account, password string) (people.Account, error)
	Accounts(ctx context.Context) ([]people.Account, error)
	Account(ctx context.Context, id uint64) (people.Account, error)
	AccountByEmail(ctx context.Context, email string) (people.Account, string, error)
	SetAccountDisabled(ctx context.Context, id uint64, disabled bool) error
	SetPassword(ctx context.Context, id uint64, password string) error
	AddSession(ctx context.Context, s people.Session) error
	Session(ctx context.Context, hash string) (people.Session, error)
	Sessions(ctx context.Context, account uint64) ([]people.Session, error)
	SeeSession(ctx context.Context, hash string, at time.Time) error
	EndSession(ctx context.Context, account uint64, hash string) error
	Invite(ctx context.Context, hash string, a people.Account, by uint64, until time.Time) error
	Invited(ctx context.Context, hash string) (people.Account, error)
	UseInvitation(ctx context.Context, hash string) error
	InvitedByEmail(ctx context.Context, email string) (people.Account, string, error)
	AccountByIdentity(ctx context.Context, hash string) (people.Account, error)
	AddIdentity(ctx context.Context, hash string, account uint64, of people.Identity) error
	AddToken(ctx context.Context, t people.Token) error
	Token(ctx context.Context, hash string) (people.Token, error)
	Tokens(ctx context.Context, account uint64) ([]people.Token, error)
	SeeToken(ctx context.Context, hash string, at time.Time) error
	EndToken(ctx context.Context, account uint64, hash string) error
	AddLink(ctx context.Context, l people.Link) error
	Link(ctx context.Context, hash string) (people.Link, error)
	Links(ctx context.Context, studyID uint64) ([]people.Link, error)
	SeeLink(ctx context.Context, hash string, at time.Time) error
	EndLink(ctx context.Context, studyID uint64, hash string) error
	AddPasskey(ctx context.Context, k people.Passkey) error
	Passkeys(ctx context.Context, account uint64) ([]people.Passkey, error)
	UsePasskey(ctx context.Context, id, credential string) error
	EndPasskey(ctx context.Context, account uint64, id string) error
	AddChallenge(ctx context.Context, hash, data string, until time.Time) error
	TakeChallenge(ctx context.Context, hash string) (data string, err error)
	RoleIn(ctx context.Context, of people.Shared, account uint64) (people.Role, bool, error)
	Members(ctx context.Context, of people.Shared) ([]people.Member, []people.GroupRole, people.Role, error)
	SetMember(ctx context.Context, of people.Shared, account uint64, role people.Role) error
	SetEverybody(ctx context.Context, of people.Shared, role people.Role) error
	SetGroupRole(ctx context.Context, of people.Shared, group uint64, role people.Role) error
	Groups(ctx context.Context) ([]people.Group, error)
	PutGroup(ctx context.Context, g people.Group) (id uint64, err error)
	DeleteGroup(ctx context.Context, id uint64) error
	SignInFailures(ctx context.Context, what string) (int, time.Time, error)
	NoteSignIn(ctx context.Context, what string, failed bool) error
	InTx(ctx context.Context, f func(ctx context.Context) error) error
}

// The errors of signing in. None tells whether there is an account.
var (
	ErrSignIn    = errors.New("service: email or password is wrong")
	ErrSignedOut = errors.New("service: nobody is signed in")
)

// SlowedError says that signing in failed too often, and when it may be tried again.
type SlowedError struct{ Wait time.Duration }

func (e *SlowedError) Error() string { return fmt.Sprintf("service: try again in %s", e.Wait) }

func newPeople(b *base, s peopleRows) *People { return &People{base: b, store: s} }

// token is a secret that nobody guesses, and its hash, which is kept.
func token() (secret, hash string, err error) {
	raw := make([]byte, 32)
	if _, err = rand.Read(raw); err != nil {
		return "", "", fmt.Errorf("service: %w", err)
	}
	secret = base64.RawURLEncoding.EncodeToString(raw)
	return secret, hashOf(secret), nil
}

func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// AddAccount makes an account; the error says what is wrong with what was given.
func (s *People) AddAccount(ctx context.Context, email, name, password string, administrator bool) (people.Account, error) {
	a := people.Account{Administrator: administrator}
	var ok bool
	if a.Email, ok = people.Email(email); !ok {
		return a, invalid("people.email", "/email", nil)
	}
	var err error
	if a.Name, err = plain(name, "/name", maxName, true); err != nil {
		return a, err
	}
	hash, err := s.hashed(password, a)
	if err != nil {
		return a, err
	}
	err = s.store.InTx(ctx, func(ctx context.Context) error {
		a, err = s.addAccount(ctx, a, hash)
		return err
	})
	return a, err
}

func (s *People) addAccount(ctx context.Context, a people.Account, hash string) (people.Account, error) {
	a, err := s.store.AddAccount(ctx, a, hash)
	if errors.Is(err, study.ErrStale) {
		return a, invalid("people.taken", "/email", nil)
	}
	if err != nil {
		return a, err
	}
	return a, s.noteAccount(ctx, "made", a)
}

// noteAccount writes into the trail of the accounts.
func (s *People) noteAccount(ctx context.Context, what string, a people.Account) error {
	return s.base.store.Note(ctx, 0, document.Say("trail.account."+what, document.Values{"name": document.Text(a.Name), "email": document.Text(a.Email)}))
}

func (s *People) hashed(password string, of people.Account) (string, error) {
	if fault := passwords.Check(password, append(strings.Fields(of.Name), of.Email)...); fault != "" {
		return "", invalid("password."+string(fault), "/password", nil)
	}
	return passwords.Hash(password)
}

// Named is the name of who did something, by the id that was noted; "" for who has no account.
func (s *People) Named(actor string) string {
	account, is := people.AccountOf(actor)
	if !is {
		return ""
	}
	if name, known := s.names.Load(account); known {
		return name.(string) //nolint:forcetypeassert // nothing else is put there
	}
	ctx, stop := context.WithTimeout(context.Background(), time.Second)
	defer stop()
	a, err := s.store.Account(ctx, account)
	if err != nil {
		return ""
	}
	s.names.Store(account, a.Name)
	return a.Name
}

// Known says whether anybody has an account.
func (s *People) Known(ctx context.Context) (bool, error) {
	all, err := s.store.Accounts(ctx)
	return len(all) > 0, err
}

// Accounts lists them.
func (s *People) Accounts(ctx context.Context) ([]people.Account, error) {
	return s.store.Accounts(ctx)
}

// Invite makes an invitation that serves once and for a week, and gives its token. Only who administers invites.
func (s *People) Invite(ctx context.Context, email, name string) (secret string, err error) {
	who := study.ActorOf(ctx)
	if who.Account > 0 && !who.Administrator {
		return "", study.ErrNotAllowed
	}
	a := people.Account{}
	var ok bool
	if a.Email, ok = people.Email(email); !ok {
		return "", invalid("people.email", "/email", nil)
	}
	if a.Name, err = plain(name, "/name", maxName, true); err != nil {
		return "", err
	}
	if _, _, err := s.store.AccountByEmail(ctx, a.Email); err == nil {
		return "", invalid("people.taken", "/email", nil)
	} else if !errors.Is(err, study.ErrNotFound) {
		return "", err
	}
	secret, hash, err := token()
	if err != nil {
		return "", err
	}
	return secret, s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.Invite(ctx, hash, a, who.Account, time.Now().Add(people.InvitedFor)); err != nil {
			return err
		}
		return s.noteAccount(ctx, "invited", a)
	})
}

// Invited is whom an invitation is for.
func (s *People) Invited(ctx context.Context, secret string) (people.Account, error) {
	return s.store.Invited(ctx, hashOf(secret))
}

// Accept makes the account of who was invited, and signs in.
func (s *People) Accept(ctx context.Context, secret, password string, from From) (session string, a people.Account, err error) {
	invited, err := s.Invited(ctx, secret)
	if err != nil {
		return "", a, err
	}
	hash, err := s.hashed(password, invited)
	if err != nil {
		return "", a, err
	}
	err = s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.UseInvitation(ctx, hashOf(secret)); err != nil {
			return err
		}
		a, err = s.addAccount(ctx, invited, hash)
		return err
	})
	if err != nil {
		return "", a, err
	}
	session, err = s.begin(ctx, a, from)
	return session, a, err
}
