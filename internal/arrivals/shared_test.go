package arrivals

import (
	"bytes"
	"context"
	"io"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/intake"
	"widetally/internal/testroom"
)

// board is one in memory.
type board struct {
	Rows
	mu       sync.Mutex
	arrivals map[string]study.Arrival
	pieces   map[uint64][]byte
	away     bool
	swept    int
}

func newBoard() *board {
	return &board{arrivals: map[string]study.Arrival{}, pieces: map[uint64][]byte{}}
}

func (b *board) SaveFile(context.Context, study.File) (uint64, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.away {
		return 0, study.ErrGone
	}
	id := uint64(len(b.pieces) + 1)
	b.pieces[id] = nil
	return id, nil
}

func (b *board) PackFile(_ context.Context, f study.File, in io.Reader) error {
	raw, err := io.ReadAll(in)
	b.mu.Lock()
	defer b.mu.Unlock()
	b.pieces[f.ID] = raw
	return err
}

func (b *board) WriteFile(_ context.Context, f study.File, w io.Writer) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	_, err := w.Write(b.pieces[f.ID])
	return err
}

func (b *board) PutArrival(_ context.Context, a study.Arrival) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.arrivals[a.ID] = a
	return nil
}

func (b *board) Arrival(_ context.Context, id string, _ time.Duration) (study.Arrival, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.away {
		return study.Arrival{}, study.ErrGone
	}
	a, ok := b.arrivals[id]
	if !ok {
		return a, study.ErrNotFound
	}
	return a, nil
}

func (b *board) NoteProgress(_ context.Context, a study.Arrival) (bool, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	was, ok := b.arrivals[a.ID]
	was.Stage, was.Rows, was.Done = a.Stage, a.Rows, a.Done
	if ok {
		b.arrivals[a.ID] = was
	}
	return ok, nil
}

func (b *board) DropArrival(_ context.Context, id string) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	delete(b.arrivals, id)
	return nil
}

func (b *board) SweepArrivals(context.Context, time.Time, time.Duration) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.swept++
	return nil
}

// What arrives at one process is read, added to, watched and dropped at another, as if it had arrived there.
func TestARoomOfSeveralProcesses(t *testing.T) {
	t.Parallel()
	ctx, on := t.Context(), newBoard()
	room := func() *Room {
		a, err := OpenRoom(t.TempDir(), 1<<20, 64<<20, on)
		require.NoError(t, err)
		return a
	}
	one, other := room(), room()
	content := func(a *Room, id string) string {
		w, err := a.Get(ctx, id)
		require.NoError(t, err)
		var out bytes.Buffer
		require.NoError(t, a.Look(ctx, w, func(f intake.File) error {
			_, err := io.Copy(&out, io.NewSectionReader(f.R, 0, f.Size))
			return err
		}))
		return out.String()
	}
	w, err := one.Take(ctx, "ada", "a.csv", strings.NewReader("ward\nHarbour\n"))
	require.NoError(t, err)
	there, err := other.Get(ctx, w.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"ada", "a.csv", w.Size}, []any{there.By, there.Name, there.Size})
	for range 2 { // fetched once
		assert.Equal(t, "ward\nHarbour\n", content(other, w.ID))
		on.mu.Lock()
		on.pieces[there.fileID] = []byte("otherwise")
		on.mu.Unlock()
	}

	// Something is added to it at the other: the first one reads what it has become.
	anew := there
	require.NoError(t, os.WriteFile(anew.path, []byte("ward\nMill\n"), 0o600))
	anew.Size = 10
	require.NoError(t, other.share(ctx, &anew))
	assert.Equal(t, "ward\nMill\n", content(one, w.ID))

	within, end := there.Begin(ctx, Keeping)
	there.At(7, 0.5)
	testroom.Await(t, "one to be told of the other's work", func() bool {
		p, err := one.Progress(ctx, w.ID)
		return err == nil && p.Stage == Keeping && p.Rows == 7
	})
	on.mu.Lock()
	on.away = true
	on.mu.Unlock()
	_, err = one.Get(ctx, w.ID)
	require.ErrorIs(t, err, study.ErrGone, "it is not called gone because the database is")
	_, err = one.Take(ctx, "ada", "b.csv", strings.NewReader("x"))
	require.ErrorIs(t, err, study.ErrGone)
	on.mu.Lock()
	on.away = false
	on.mu.Unlock()
	one.Discard(ctx, w.ID)
	testroom.Await(t, "the work to stop", func() bool { return within.Err() != nil })
	end()
	_, err = other.Get(ctx, w.ID)
	require.ErrorIs(t, err, study.ErrNotFound)
	assert.NoFileExists(t, there.path)
	assert.NotZero(t, on.swept)

	// Of one of which a study was made only the file here goes.
	w, err = one.Take(ctx, "ada", "c.csv", strings.NewReader("x"))
	require.NoError(t, err)
	one.Forget(ctx, w.ID)
	assert.NoFileExists(t, w.path)
	_, err = other.Get(ctx, w.ID)
	require.NoError(t, err)
}
