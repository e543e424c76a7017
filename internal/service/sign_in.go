package service

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/passwords"
)

// From is where somebody signs in.
type From struct{ Agent, Address string }

// Signing in is slowed, never stopped, for an account and for an address: from so many failures on each one
// doubles the wait, up to a bound that a person can bear.
const (
	freeFailures = 5
	firstWait    = time.Second
	longestWait  = 5 * time.Minute
	forgotten    = time.Hour
	// An address stands for many people, and may fail more often.
	freeOfAddress = 50
)

func (s *People) slowed(ctx context.Context, what string, free int) error {
	n, last, err := s.store.SignInFailures(ctx, what)
	if err != nil {
		return err
	}
	if n < free || time.Since(last) > forgotten {
		return nil
	}
	wait := min(firstWait<<min(n-free, 20), longestWait)
	if left := wait - time.Since(last); left > 0 {
		return &SlowedError{left}
	}
	return nil
}

// SignIn begins a session for who knows the password, and gives its token. ErrSignIn, a *SlowedError.
func (s *People) SignIn(ctx context.Context, email, password string, from From) (secret string, a people.Account, err error) {
	if a, err = s.knows(ctx, email, password, from); err != nil {
		return "", people.Account{}, err
	}
	secret, err = s.begin(ctx, a, from)
	return secret, a, err
}

// knows is the account whose password somebody knows; a failure is noted.
func (s *People) knows(ctx context.Context, email, password string, from From) (people.Account, error) {
	none := people.Account{}
	known, ok := people.Email(email)
	if !ok {
		return none, ErrSignIn
	}
	account, address := hashOf("account "+known+" "+from.Address), hashOf("address "+from.Address)
	err := s.slowed(ctx, account, freeFailures)
	if err == nil {
		err = s.slowed(ctx, address, freeOfAddress)
	}
	if err != nil {
		return none, err
	}
	a, hash, err := s.store.AccountByEmail(ctx, known)
	there := err == nil && a.DisabledAt == nil && hash != ""
	if err != nil && !errors.Is(err, study.ErrNotFound) {
		return none, err
	}
	if !there {
		if hash, err = s.nobody(); err != nil {
			return none, err
		}
	}
	same, err := passwords.Same(password, hash)
	switch {
	case err != nil:
		return none, err
	case same && there: // others may have failed from the address
		return a, s.store.NoteSignIn(ctx, account, false)
	}
	for _, what := range []string{account, address} {
		if err := s.store.NoteSignIn(ctx, what, true); err != nil {
			return none, err
		}
	}
	return none, ErrSignIn
}

// nobody is the hash of no password, made once.
func (s *People) nobody() (string, error) {
	s.once.Do(func() {
		var secret string
		if secret, _, s.unmade = token(); s.unmade == nil {
			s.decoy, s.unmade = passwords.Hash(secret)
		}
	})
	return s.decoy, s.unmade
}

// SignInBy begins a session for somebody whom an institution knows: whoever signed in by it before, and at first
// whoever has an account, or an invitation, with the email for which it vouches. ErrNoAccount, ErrUnverified.
func (s *People) SignInBy(ctx context.Context, who people.Identity, from From) (secret string, a people.Account, err error) {
	id := hashOf(who.Issuer + "\n" + who.Subject)
	a, err = s.store.AccountByIdentity(ctx, id)
	if errors.Is(err, study.ErrNotFound) {
		a, err = s.meet(ctx, id, who)
	}
	if err != nil {
		return "", a, err
	}
	if a.DisabledAt != nil {
		return "", people.Account{}, ErrNoAccount
	}
	secret, err = s.begin(ctx, a, from)
	return secret, a, err
}

// The errors of who is known to an institution and not here, or by an email for which it does not vouch.
var (
	ErrNoAccount  = errors.New("service: nobody with that email has an account")
	ErrUnverified = errors.New("service: the institution does not vouch for the email")
)

// meet notes whose an identity is that comes for the first time.
func (s *People) meet(ctx context.Context, id string, who people.Identity) (a people.Account, err error) {
	email, ok := people.Email(who.Email)
	if !ok || !who.Verified {
		return a, ErrUnverified
	}
	err = s.store.InTx(ctx, func(ctx context.Context) error {
		a, _, err = s.store.AccountByEmail(ctx, email)
		if errors.Is(err, study.ErrNotFound) {
			var invited people.Account
			var hash string
			if invited, hash, err = s.store.InvitedByEmail(ctx, email); errors.Is(err, study.ErrNotFound) {
				return ErrNoAccount
			}
			if err == nil {
				err = s.store.UseInvitation(ctx, hash)
			}
			if err == nil {
				a, err = s.addAccount(ctx, invited, "") // no password serves
			}
		}
		if err != nil {
			return err
		}
		return s.store.AddIdentity(ctx, id, a.ID, who)
	})
	return a, err
}

func (s *People) begin(ctx context.Context, a people.Account, from From) (string, error) {
	const mostAgent, mostAddress = 200, 64
	secret, hash, err := token()
	if err != nil {
		return "", err
	}
	at, who := time.Now(), a.Actor()
	who.Address = cut(from.Address, mostAddress)
	return secret, s.store.InTx(study.WithActor(ctx, who), func(ctx context.Context) error {
		if err := s.store.AddSession(ctx, people.Session{Hash: hash, Account: a.ID, CreatedAt: at, SeenAt: at, ExpiresAt: at.Add(people.LongestTime),
			Agent: cut(strings.ToValidUTF8(from.Agent, ""), mostAgent), Address: who.Address}); err != nil {
			return err
		}
		return s.noteAccount(ctx, "signed_in", a)
	})
}

// seenEvery is how often a session notes that it was used.
const seenEvery = time.Minute

// SignedIn is who has a session; ErrSignedOut where it has ended, or the account is closed.
func (s *People) SignedIn(ctx context.Context, secret string) (people.Account, error) {
	if secret == "" {
		return people.Account{}, ErrSignedOut
	}
	session, err := s.store.Session(ctx, hashOf(secret))
	now := time.Now()
	switch {
	case errors.Is(err, study.ErrNotFound):
		return people.Account{}, ErrSignedOut
	case err != nil:
		return people.Account{}, err
	case now.After(session.ExpiresAt) || now.Sub(session.SeenAt) > people.IdleTime:
		return people.Account{}, errors.Join(ErrSignedOut, s.store.EndSession(ctx, session.Account, session.Hash))
	}
	a, err := s.store.Account(ctx, session.Account)
	if err != nil || a.DisabledAt != nil {
		return people.Account{}, errors.Join(ErrSignedOut, err)
	}
	if now.Sub(session.SeenAt) > seenEvery {
		err = s.store.SeeSession(ctx, session.Hash, now)
	}
	return a, err
}

// ChangePassword gives who asks another password, and ends every session but a new one, whose token it gives.
// ErrSignIn where the present one is wrong; that is slowed as signing in is.
func (s *People) ChangePassword(ctx context.Context, present, password string, from From) (secret string, err error) {
	a, err := s.store.Account(ctx, study.ActorOf(ctx).Account)
	if err != nil {
		return "", err
	}
	if _, err := s.knows(ctx, a.Email, present, from); err != nil {
		return "", err
	}
	if err := s.setPassword(ctx, a, password); err != nil {
		return "", err
	}
	return s.begin(ctx, a, from)
}

func (s *People) setPassword(ctx context.Context, a people.Account, password string) error {
	hash, err := s.hashed(password, a)
	if err != nil {
		return err
	}
	return s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.SetPassword(ctx, a.ID, hash); err != nil {
			return err
		}
		return s.noteAccount(ctx, "password", a)
	})
}

// ResetPassword gives somebody another password; only at the terminal, where whoever can reads the data anyway.
func (s *People) ResetPassword(ctx context.Context, email, password string) error {
	a, err := s.find(ctx, email)
	if err != nil {
		return err
	}
	return s.setPassword(ctx, a, password)
}

// Close closes an account, or opens it again. What its owner made stays; studies that nobody else owns are those
// of who keeps the accounts. Somebody keeps them.
func (s *People) Close(ctx context.Context, email string, closed bool) error {
	who := study.ActorOf(ctx)
	if who.Account > 0 && !who.Administrator {
		return study.ErrNotAllowed
	}
	a, err := s.find(ctx, email)
	if err != nil {
		return err
	}
	if a.Administrator && closed {
		all, err := s.store.Accounts(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(all, func(other people.Account) bool {
			return other.Administrator && other.DisabledAt == nil && other.ID != a.ID
		}) {
			return invalid("people.last_administrator", "/email", nil)
		}
	}
	what := "opened"
	if closed {
		what = "closed"
	}
	return s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.SetAccountDisabled(ctx, a.ID, closed); err != nil {
			return err
		}
		return s.noteAccount(ctx, what, a)
	})
}

// find is the account of an email.
func (s *People) find(ctx context.Context, email string) (people.Account, error) {
	known, _ := people.Email(email)
	a, _, err := s.store.AccountByEmail(ctx, known)
	if errors.Is(err, study.ErrNotFound) {
		err = invalid("people.nobody", "/email", map[string]string{"email": email})
	}
	return a, err
}

// SignOut ends a session.
func (s *People) SignOut(ctx context.Context, secret string) error {
	session, err := s.store.Session(ctx, hashOf(secret))
	if errors.Is(err, study.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	return s.store.EndSession(ctx, session.Account, session.Hash)
}

// Sessions are the browsers in which who asks has signed in; EndSession ends one of them.
func (s *People) Sessions(ctx context.Context) ([]people.Session, error) {
	return s.store.Sessions(ctx, study.ActorOf(ctx).Account)
}

// EndSession ends a session of who asks, by its hash.
func (s *People) EndSession(ctx context.Context, hash string) error {
	return s.store.EndSession(ctx, study.ActorOf(ctx).Account, hash)
}

// This is the hash of the session of a token.
func (s *People) This(secret string) string { return hashOf(secret) }
