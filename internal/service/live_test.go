package service

import (
	"context"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/testroom"
)

// Whoever watches at one process hears of an edit that went to another one, with who made it, and of who is where until they leave; nothing
// is looked at while nobody watches.
func TestWatchingAcrossProcesses(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	here, _ := serviceOn(t, dsn)
	there, _ := serviceOn(t, dsn)
	ada, err := there.People.AddAccount(t.Context(), "ada@tally.example", "Ada", "quarry lantern seven herons", true)
	require.NoError(t, err)
	as := study.WithActor(t.Context(), ada.Actor())
	a, err := there.Uploads.Arrive(as, "answers.csv", strings.NewReader("ward,use\nHarbour,yes\nFenside,no\n"))
	require.NoError(t, err)
	a.Settings.HeaderSaid, a.Settings.HeaderRow = true, 1
	st, err := there.Studies.Create(as, NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "Fernmouth"})
	require.NoError(t, err)

	now, _ := here.Live.Now()
	assert.Nil(t, now, "nobody watches")
	done := here.Live.Watch()
	until := func(what string, is func(*Now) bool) {
		t.Helper()
		testroom.Await(t, what, func() bool { now, _ = here.Live.Now(); return now != nil && is(now) })
	}
	until("the study", func(n *Now) bool { return n.Revisions[st.ID] > 0 })
	before := now.Revisions[st.ID]
	_, next := here.Live.Now()

	wording := "Which ward?"
	require.NoError(t, there.Codebooks.EditQuestion(as, st.ID, question(t, there, st.ID, "ward").ID, 1, QuestionEdit{Wording: &wording}))
	<-next // everybody who waits is woken
	until("the edit", func(n *Now) bool { return n.Revisions[st.ID] == before+1 })
	assert.Equal(t, "history.question", now.Newest[st.ID].What)
	assert.Equal(t, "Ada", now.Newest[st.ID].Name)

	require.NoError(t, there.Live.Here(as, st.ID, "abcdefgh", "1", true))
	require.NoError(t, there.Live.Here(as, st.ID, "abcdefgh", "2", false))
	until("her place", func(n *Now) bool { return len(n.Here[st.ID]) == 1 && n.Here[st.ID][0].Place == "2" })
	assert.Equal(t, people.Presence{Tab: "abcdefgh", StudyID: st.ID, Account: ada.ID, Name: "Ada", Place: "2"}, now.Here[st.ID][0])
	bob, err := there.People.AddAccount(t.Context(), "bob@tally.example", "Bob", "quarry lantern seven herons", false)
	require.NoError(t, err)
	stranger := study.WithActor(t.Context(), bob.Actor())
	require.ErrorIs(t, there.Live.Here(stranger, st.ID, "12345678", "1", false), study.ErrNotAllowed)
	for _, tab := range []string{"", "short", "UPPERCASE", strings.Repeat("a", 33), "a'; DROP"} {
		var refused *InvalidError
		require.ErrorAs(t, there.Live.Here(as, st.ID, tab, "", false), &refused, tab)
	}
	require.NoError(t, there.Live.Here(t.Context(), st.ID, "87654321", "1", true), "who has no account is nobody in particular")
	require.NoError(t, there.Live.Gone(as, st.ID, "abcdefgh"))
	until("her leaving", func(n *Now) bool { return len(n.Here[st.ID]) == 0 })

	require.NoError(t, there.Studies.Delete(as, st.ID))
	until("the study to go", func(n *Now) bool { return n.Revisions[st.ID] == 0 })
	done()
	testroom.Await(t, "the looking to end", func() bool { now, _ = here.Live.Now(); return now == nil })
}

// slowRows answer when they are let, and tell how many ask at once.
type slowRows struct {
	liveRows
	let        chan struct{}
	asked, now atomic.Int64
	most       atomic.Int64
}

func (r *slowRows) Revisions(context.Context) (map[uint64]uint64, error) {
	r.most.Store(max(r.most.Load(), r.now.Add(1)))
	defer r.now.Add(-1)
	r.asked.Add(1)
	<-r.let
	return nil, nil
}

func (r *slowRows) Presences(context.Context, time.Duration) ([]people.Presence, error) {
	return nil, nil
}

// However quickly people come and go, one of a process looks for all of them.
func TestOneLooksForAll(t *testing.T) {
	t.Parallel()
	rows := &slowRows{let: make(chan struct{})}
	live := newLive(nil, rows)
	defer live.Close()
	for range 100 {
		live.Watch()()
	}
	defer live.Watch()()
	testroom.Await(t, "somebody to look", func() bool { return rows.asked.Load() > 0 })
	close(rows.let)
	testroom.Await(t, "them to look on", func() bool { return rows.asked.Load() > 2 })
	assert.EqualValues(t, 1, rows.most.Load())
}
