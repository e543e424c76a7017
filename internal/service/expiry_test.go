package service

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/people"
	"widetally/core/study"
)

// Whatever lets somebody in ends by itself: a session that was not used for too long or is too old, an invitation, a token, a link, and
// what a passkey has to answer. One that holds still is let in beside each.
func TestWhatLetsInEndsByItself(t *testing.T) {
	t.Parallel()
	s, kept := newService(t)
	ada, err := s.People.AddAccount(t.Context(), "ada@tally.example", "Ada", "quarry lantern seven herons", true)
	require.NoError(t, err)
	as := study.WithActor(t.Context(), ada.Actor())
	st, err := kept.AddStudy(as, study.Study{Name: "Fernmouth", Units: "households"})
	require.NoError(t, err)
	now := time.Now()
	for name, k := range map[string]struct {
		secret        string
		created, seen time.Duration // before now
		expires       time.Duration // from now
		ended         bool
	}{
		"in use":              {"a", time.Hour, time.Minute, time.Hour, false},
		"just within":         {"b", people.LongestTime - time.Hour, people.IdleTime - time.Hour, time.Hour, false},
		"not used for long":   {"c", 24 * time.Hour, people.IdleTime + time.Minute, time.Hour, true},
		"in use, and too old": {"d", people.LongestTime + time.Hour, time.Minute, -time.Minute, true},
	} {
		require.NoError(t, kept.AddSession(t.Context(), people.Session{Hash: hashOf(k.secret), Account: ada.ID, CreatedAt: now.Add(-k.created), SeenAt: now.Add(-k.seen), ExpiresAt: now.Add(k.expires)}))
		for range 2 { // it does not come back either
			_, err := s.People.SignedIn(t.Context(), k.secret)
			assert.Equal(t, k.ended, err != nil, name)
			if k.ended {
				require.ErrorIs(t, err, ErrSignedOut, name)
			}
		}
	}
	for _, k := range []struct {
		secret  string
		expires time.Duration
		ended   bool
	}{{"widetally_x", time.Minute, false}, {"widetally_y", -time.Minute, true}} {
		at := now.Add(k.expires)
		require.NoError(t, kept.Invite(t.Context(), hashOf(k.secret), people.Account{Email: k.secret + "@tally.example", Name: "Ida"}, ada.ID, at))
		require.NoError(t, kept.AddToken(t.Context(), people.Token{Hash: hashOf(k.secret), Account: ada.ID, Name: "nightly", Scope: people.TokenSees, CreatedAt: now, ExpiresAt: at}))
		require.NoError(t, kept.AddLink(t.Context(), people.Link{Hash: hashOf(k.secret), StudyID: st.ID, Shows: people.LinkReport, CreatedAt: now, ExpiresAt: at}))
		require.NoError(t, kept.AddChallenge(t.Context(), hashOf(k.secret), `{}`, at))
		_, invited := s.People.Invited(t.Context(), k.secret)
		_, _, met := kept.InvitedByEmail(t.Context(), k.secret+"@tally.example")
		_, token := s.People.ByToken(t.Context(), k.secret)
		_, link := s.People.ByLink(t.Context(), k.secret)
		_, challenge := s.People.challenge(t.Context(), k.secret)
		for what, err := range map[string]error{"invitation": invited, "invitation by its email": met, "token": token, "link": link, "challenge": challenge} {
			assert.Equal(t, k.ended, err != nil, "%s: %v", what, err)
		}
	}
	_, _, err = s.People.Accept(t.Context(), "widetally_y", "another lantern nine herons", From{})
	require.ErrorIs(t, err, study.ErrNotFound)
	_, challenge := s.People.challenge(t.Context(), "widetally_x")
	require.ErrorIs(t, challenge, ErrPasskey, "once")
}
