package store

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/mariadb/mariadbtest"
)

// soon is so short that whoever was heard of before counts as gone, and late so long that nobody does.
const (
	soon = 0
	late = time.Hour
)

// arrived stores a file that has arrived.
func arrived(t *testing.T, s *Store, id string) study.Arrival {
	t.Helper()
	file, err := s.SaveFile(ctx, study.File{Name: "a.csv", Size: 1, Settings: "{}", Arrival: "{}"})
	require.NoError(t, err)
	a := study.Arrival{ID: id, FileID: file, Author: "ada", Name: "a.csv", Size: 1}
	require.NoError(t, s.PutArrival(ctx, a))
	return a
}

// What is to be made of an arrived file is made by one process at a time, by another when that one is gone, and once.
func TestWhoMakesAStudyOfAFile(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	a := arrived(t, s, "aaaaaaaaaaaaaaaaaaaaaaaa")
	a.Job, a.Worker = `{"name":"Fähre"}`, "one"
	take := func(job, worker string, silence time.Duration) bool {
		b := a
		b.Job, b.Worker = job, worker
		taken, err := s.TakeJob(ctx, b, silence)
		require.NoError(t, err)
		return taken
	}
	assert.True(t, take(a.Job, "one", late))
	assert.False(t, take(a.Job, "other", late), "one is at it")
	assert.False(t, take(`{"name":"another"}`, "other", soon), "another study is being made of it")
	left, err := s.LeftJobs(ctx, late)
	require.NoError(t, err)
	assert.Empty(t, left)
	time.Sleep(2 * time.Millisecond) // of the database's clock
	left, err = s.LeftJobs(ctx, soon)
	require.NoError(t, err)
	require.Len(t, left, 1)
	assert.Equal(t, a.Job, left[0].Job)
	assert.True(t, take(a.Job, "other", soon), "one has gone")

	end := func(worker string, made *uint64) error {
		b := a
		b.Worker, b.StudyID = worker, made
		return s.InBulk(ctx, func(ctx context.Context) error { return s.EndJob(ctx, b) })
	}
	require.ErrorIs(t, end("one", &st.ID), study.ErrStale, "it comes too late")
	require.NoError(t, end("other", &st.ID))
	require.ErrorIs(t, end("other", &st.ID), study.ErrStale, "once")
	assert.False(t, take(a.Job, "third", soon))
	known, err := s.Arrival(ctx, a.ID, late)
	require.NoError(t, err)
	assert.Equal(t, st.ID, *known.StudyID)
	require.NoError(t, s.DropArrival(ctx, a.ID))
	_, err = s.Arrival(ctx, a.ID, late)
	require.NoError(t, err, "what a study was made of is told until it is swept")

	b := arrived(t, s, "bbbbbbbbbbbbbbbbbbbbbbbb")
	b.Job, b.Worker = "{}", "one"
	_, err = s.TakeJob(ctx, b, late)
	require.NoError(t, err)
	require.NoError(t, s.EndJob(ctx, b), "it came to nothing")
	b.Job = `{"name":"otherwise"}`
	taken, err := s.TakeJob(ctx, b, late)
	require.NoError(t, err)
	assert.True(t, taken, "so it can be asked for otherwise")
}

// An arrived file goes with its pieces when it is dropped, and when nobody comes back to it; not while it is worked on, nor once a study
// has it.
func TestArrivedFilesGo(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	files := func() (n int64) {
		require.NoError(t, s.db.Table("source_files").Count(&n).Error)
		return n
	}
	a, b, c := arrived(t, s, "aaaaaaaaaaaaaaaaaaaaaaaa"), arrived(t, s, "bbbbbbbbbbbbbbbbbbbbbbbb"), arrived(t, s, "cccccccccccccccccccccccc")
	assert.EqualValues(t, 3, files())
	require.NoError(t, s.AdoptFile(ctx, c.FileID, st.ID))
	require.NoError(t, s.AdoptFile(ctx, c.FileID, st.ID), "done again, it is done")
	require.ErrorIs(t, s.AdoptFile(ctx, c.FileID, st.ID+1), study.ErrBusy)
	require.NoError(t, s.DropArrival(ctx, a.ID))
	require.NoError(t, s.DropArrival(ctx, a.ID))
	assert.EqualValues(t, 2, files())
	there, err := s.NoteProgress(ctx, a)
	require.NoError(t, err)
	assert.False(t, there, "whoever is at work on it learns of it")
	b.Stage, b.Rows, b.Done, b.Left = "reading", 7, 0.5, 3*time.Second
	there, err = s.NoteProgress(ctx, b)
	require.NoError(t, err)
	assert.True(t, there)
	told, err := s.Arrival(ctx, b.ID, late)
	require.NoError(t, err)
	assert.Equal(t, b, study.Arrival{ID: told.ID, FileID: told.FileID, Author: told.Author, Name: told.Name, Size: told.Size, Stage: told.Stage, Rows: told.Rows, Done: told.Done, Left: told.Left})
	tomorrow := now().Add(24 * time.Hour)
	require.NoError(t, s.SweepArrivals(ctx, tomorrow, late))
	assert.EqualValues(t, 2, files(), "they were heard of")
	time.Sleep(2 * time.Millisecond)
	require.NoError(t, s.SweepArrivals(ctx, tomorrow, soon))
	assert.EqualValues(t, 1, files(), "the one that a study has")
	_, err = s.Arrival(ctx, b.ID, late)
	require.ErrorIs(t, err, study.ErrNotFound)
}

// A study that is being made is seen by nobody, cannot be brought back, and is there whole or not at all.
func TestAStudyThatIsBeingMade(t *testing.T) {
	t.Parallel()
	s := open(t)
	seen := func() int {
		list, err := s.Studies(ctx)
		require.NoError(t, err)
		return len(list)
	}
	st, err := s.BeginStudy(ctx, study.Study{Name: "Fernmouth", Units: "homes"})
	require.NoError(t, err)
	assert.Zero(t, seen())
	_, err = s.Study(ctx, st.ID)
	require.ErrorIs(t, err, study.ErrNotFound)
	require.ErrorIs(t, s.SetStudyDeleted(ctx, st.ID, false), study.ErrNotFound)
	revisions, err := s.Revisions(ctx)
	require.NoError(t, err)
	assert.Empty(t, revisions)
	for range 2 { // it was not known whether the first was kept
		require.NoError(t, s.ShowStudy(ctx, st))
	}
	assert.Equal(t, 1, seen())
	entries, err := s.Trail(ctx, st.ID, study.Looked{Most: 5})
	require.NoError(t, err)
	assert.Len(t, entries, 1)
	require.NoError(t, s.EndStudy(ctx, st.ID))
	assert.Equal(t, 1, seen(), "one that is shown stays")

	given, err := s.BeginStudy(ctx, study.Study{Name: "given up", Units: "homes"})
	require.NoError(t, err)
	require.NoError(t, s.EndStudy(ctx, given.ID))
	require.ErrorIs(t, s.ShowStudy(ctx, given), study.ErrNotFound)
	forgotten, err := s.BeginStudy(ctx, study.Study{Name: "forgotten", Units: "homes"})
	require.NoError(t, err)
	purged := func() int64 {
		n, err := s.Purge(ctx, now().Add(-30*24*time.Hour))
		require.NoError(t, err)
		return n
	}
	assert.Zero(t, purged(), "somebody may be at it")
	require.NoError(t, s.db.Exec("UPDATE studies SET deleted_at = deleted_at - INTERVAL 2 DAY WHERE id = ?", forgotten.ID).Error)
	assert.EqualValues(t, 1, purged())
	assert.Equal(t, 1, seen())
}

// A start waits for one at another node of a cluster as long as that lives, and takes its place when it does not.
func TestAStartAtAnotherNode(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	s := opened(t, dsn)
	hold := "UPDATE starts SET holder = 'another', node = 'elsewhere', renewed = renewed + 1, renewed_at = UTC_TIMESTAMP(3) + INTERVAL ? SECOND"
	began := make(chan error, 1)
	begin := func() {
		again, err := Open(ctx, dsn)
		if err == nil {
			err = again.Close()
		}
		began <- err
	}
	require.NoError(t, s.db.Exec(hold, 0).Error)
	go begin()
	for range 6 { // it lives
		time.Sleep(50 * time.Millisecond)
		require.NoError(t, s.db.Exec(hold, 0).Error)
		require.Empty(t, began, "it waits")
	}
	require.NoError(t, s.db.Exec("UPDATE starts SET holder = '', renewed = renewed + 1").Error)
	require.NoError(t, <-began)

	require.NoError(t, s.db.Exec(hold, -3600).Error) // one that has ended without a word
	go begin()
	require.NoError(t, <-began)
	var holder string
	require.NoError(t, s.db.Raw("SELECT holder FROM starts").Scan(&holder).Error)
	assert.Empty(t, holder, "and gives it back")
}

func TestAddressesOfSeveralServers(t *testing.T) {
	t.Parallel()
	for dsn, want := range map[string][]string{
		"u:p@tcp(a:1)/w":               {"u:p@tcp(a:1)/w"},
		"u:p@tcp(a:1,b:2, c:3)/w?x=1":  {"u:p@tcp(a:1)/w?x=1", "u:p@tcp(b:2)/w?x=1", "u:p@tcp(c:3)/w?x=1"},
		"u:p,q@tcp([::1]:1,[::2]:2)/w": {"u:p,q@tcp([::1]:1)/w", "u:p,q@tcp([::2]:2)/w"},
		"u:a@tcp(b,c)d@tcp(a:1,b:2)/w": {"u:a@tcp(b,c)d@tcp(a:1)/w", "u:a@tcp(b,c)d@tcp(b:2)/w"},
		"u@unix(/run/a,b.sock)/w":      {"u@unix(/run/a,b.sock)/w"},
	} {
		assert.Equal(t, want, addresses(dsn), dsn)
	}
	for _, dsn := range []string{"no address", "u:p@tcp(a:1,b:2)"} {
		_, _, err := findNodes(dsn)
		require.ErrorContains(t, err, "cannot be read")
	}
}
