package store

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/testroom"
)

// relay passes on what is said to a server, until it is silenced, closed or told to end a line at a word.
type relay struct {
	net.Listener
	to     string
	silent atomic.Bool
	endAt  atomic.Pointer[[]byte]
	mu     sync.Mutex
	lines  []net.Conn
}

// through is an address of the database that leads through a relay.
func through(t *testing.T, dsn string) (*relay, string) {
	t.Helper()
	c, err := driver.ParseDSN(dsn)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	r := &relay{Listener: l, to: c.Addr}
	go r.serve()
	t.Cleanup(r.end)
	return r, strings.Replace(dsn, c.Addr, l.Addr().String(), 1)
}

func (r *relay) serve() {
	for {
		in, err := r.Accept()
		if err != nil {
			return
		}
		out, err := net.Dial("tcp", r.to)
		if err != nil {
			in.Close()
			continue
		}
		r.mu.Lock()
		r.lines = append(r.lines, in, out)
		r.mu.Unlock()
		go r.pass(in, out)
		go r.pass(out, in)
	}
}

func (r *relay) pass(from, to net.Conn) {
	defer to.Close()
	buf := make([]byte, 64<<10)
	for {
		n, err := from.Read(buf)
		if word := r.endAt.Load(); word != nil && bytes.Contains(buf[:n], *word) {
			r.endAt.Store(nil)
			from.Close()
			if bytes.Equal(*word, []byte("\x03COMMIT")) { // which reaches the server; the answer is lost
				_, _ = to.Write(buf[:n])
				_, _ = to.Read(buf)
			}
			return
		}
		for r.silent.Load() {
			time.Sleep(5 * time.Millisecond)
		}
		if err != nil {
			return
		}
		if _, err := to.Write(buf[:n]); err != nil {
			return
		}
	}
}

// endNextAt ends the line at which this is said next.
func (r *relay) endNextAt(text string) {
	word := []byte(text)
	r.endAt.Store(&word)
}

func (r *relay) end() {
	r.Close()
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, l := range r.lines {
		l.Close()
	}
}

func opened(t *testing.T, dsn string) *Store {
	t.Helper()
	s, err := Open(ctx, dsn)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// A server that falls silent is told as gone to who waits, in whatever they do, and works again when it does.
func TestASilentServer(t *testing.T) {
	t.Parallel()
	r, dsn := through(t, mariadbtest.Database(t))
	s := opened(t, dsn)
	st, _ := withQuestion(t, ctx, s)
	for _, what := range []func() error{
		func() error { _, err := s.Study(ctx, st.ID); return err },
		func() error { return s.Change(ctx, st.ID, func(context.Context, study.Study) error { return nil }) },
		func() error {
			return s.Snapshot(ctx, func(ctx context.Context) error { _, err := s.Study(ctx, st.ID); return err })
		},
	} {
		r.silent.Store(true)
		within, stop := context.WithTimeout(ctx, time.Minute)
		assert.ErrorIs(t, what(), study.ErrGone)
		require.NoError(t, within.Err())
		stop()
		r.silent.Store(false)
		require.Eventually(t, func() bool { return what() == nil }, 30*time.Second, 20*time.Millisecond)
	}
}

// A connection lost while a transaction is being kept leaves it unknown whether it was; one lost before leaves nothing, and
// it is done again.
func TestAConnectionLostWhileKeeping(t *testing.T) {
	t.Parallel()
	r, dsn := through(t, mariadbtest.Database(t))
	s := opened(t, dsn)
	rows := func() (n int) {
		list, err := s.Studies(ctx)
		require.NoError(t, err)
		return len(list)
	}
	for _, c := range []struct {
		word string
		want error
		kept int
	}{{"\x03COMMIT", study.ErrUnsure, 1}, {"RELEASE SAVEPOINT", nil, 1}, {"INSERT INTO `studies`", nil, 1}, {"SAVEPOINT", nil, 1}} {
		before := rows()
		r.endNextAt(c.word)
		err := s.InTx(ctx, func(ctx context.Context) error {
			_, err := s.AddStudy(ctx, study.Study{Name: "A study", Units: "homes"})
			return err
		})
		if c.want == nil {
			require.NoError(t, err, c.word)
		} else {
			require.ErrorIs(t, err, c.want, c.word)
		}
		testroom.Await(t, "what was kept, which may come to the server later than the line ends", func() bool { return rows()-before >= c.kept })
		assert.Equal(t, c.kept, rows()-before, c.word)
	}
	r.endNextAt("UPDATE `studies`") // by itself: it may have been done
	require.ErrorIs(t, s.SetStudyData(ctx, study.Study{ID: 1, Rows: 2}), study.ErrUnsure)
	r.endNextAt("SELECT")
	assert.Equal(t, 4, rows())
}

// What follows a transaction that the server has ended without a word is not kept by itself: it is done again as a whole.
func TestATransactionThatWasEndedUnasked(t *testing.T) {
	t.Parallel()
	s := opened(t, mariadbtest.Database(t))
	for name, in := range map[string]func(context.Context, func(context.Context) error) error{"tx": s.InTx, "bulk": s.InBulk} {
		tries := 0
		require.NoError(t, in(ctx, func(ctx context.Context) error {
			tries++
			if _, err := s.AddStudy(ctx, study.Study{Name: name + " first", Units: "homes"}); err != nil {
				return err
			}
			if tries == 1 {
				require.NoError(t, s.with(ctx).Exec("ROLLBACK").Error)
			}
			_, err := s.AddStudy(ctx, study.Study{Name: name + " second", Units: "homes"})
			return err
		}))
		assert.Equal(t, 2, tries, name)
	}
	list, err := s.Studies(ctx)
	require.NoError(t, err)
	assert.Len(t, list, 4, "each once")
}

// Several servers are tried in turn; who is lost is replaced by the next, and those that wait for one that has
// fallen silent go on at another.
func TestSeveralServers(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	c, err := driver.ParseDSN(dsn)
	require.NoError(t, err)
	first, _ := through(t, dsn)
	second, _ := through(t, dsn)
	nobody, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	nobody.Close()
	all := strings.Join([]string{nobody.Addr().String(), first.Addr().String(), second.Addr().String()}, ", ")
	s := opened(t, strings.Replace(dsn, c.Addr, all, 1))
	st, _ := withQuestion(t, ctx, s)
	change := func() error {
		return s.Change(ctx, st.ID, func(context.Context, study.Study) error { return nil })
	}
	first.silent.Store(true)
	require.Eventually(t, func() bool { return change() == nil }, 30*time.Second, 20*time.Millisecond)
	first.silent.Store(false)
	second.end()
	require.NoError(t, change())
	first.end()
	require.ErrorIs(t, change(), study.ErrGone)
	_, err = Open(ctx, strings.Replace(dsn, c.Addr, nobody.Addr().String(), 1))
	require.Error(t, err)
}

func TestErrorsOfTheServer(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		err  error
		want error
	}{
		{&driver.MySQLError{Number: 1047, Message: "WSREP has not yet prepared node for application use"}, study.ErrGone},
		{&driver.MySQLError{Number: 1180, Message: "Got error 90 \"Message too long\" during COMMIT"}, study.ErrTooMuch},
		{&driver.MySQLError{Number: 1105, Message: "Maximum writeset size exceeded"}, study.ErrTooMuch},
		{&driver.MySQLError{Number: 1021}, study.ErrFull},
		{&net.OpError{Op: "read", Err: io.EOF}, study.ErrGone},
	} {
		require.ErrorIs(t, translate(c.err), c.want)
	}
	assert.True(t, lostWhileKeeping(&driver.MySQLError{Number: 1180, Message: "Error while appending streaming replication fragment(provider status: Not connected to Primary Component)"}))
	assert.False(t, lostWhileKeeping(&driver.MySQLError{Number: 1180, Message: "Got error 90 \"Message too long\" during COMMIT"}))
	other := &driver.MySQLError{Number: 1105, Message: "Unknown error"}
	for _, e := range []error{study.ErrGone, study.ErrTooMuch, study.ErrFull} {
		assert.False(t, errors.Is(translate(other), e))
	}
}
