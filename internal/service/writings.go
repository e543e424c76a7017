package service

import (
	"context"
	"sync"
	"sync/atomic"
	"time"

	"widetally/internal/arrivals"
)

// writingRows are the rows by which processes tell each other of files that are being written.
type writingRows interface {
	PutWriting(ctx context.Context, token string, thousandths int, silence time.Duration) error
	Writing(ctx context.Context, token string, silence time.Duration) (thousandths int, err error)
	EndWriting(ctx context.Context, token string) error
}

// Writings are the files that are being written for somebody who watches, by the token that the
// page has given them.
type Writings struct {
	mu   sync.Mutex
	by   map[string]*atomic.Int64 // thousandths
	rows writingRows              // nil where this process is the only one
}

// Bounds of what is watched, and how often other processes are told.
const (
	mostWritings = 200
	writingEvery = 300 * time.Millisecond
	writingTime  = 2 * time.Second
)

// Begin notes a file that is being written; told tells how far it has come, and end that it is written.
func (w *Writings) Begin(token string) (told func(done, of int), end func()) {
	one := &atomic.Int64{}
	w.mu.Lock()
	full := len(w.by) >= mostWritings
	if !full {
		w.by[token] = one
	}
	w.mu.Unlock()
	over := make(chan struct{})
	if w.rows != nil && !full {
		go w.telling(token, one, over)
	}
	told = func(done, of int) {
		if of > 0 {
			one.Store(int64(1000 * done / of))
		}
	}
	return told, func() {
		close(over)
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.by, token)
	}
}

func (w *Writings) telling(token string, one *atomic.Int64, over chan struct{}) {
	tell := func(f func(ctx context.Context) error) {
		ctx, cancel := context.WithTimeout(context.Background(), writingTime)
		defer cancel()
		_ = f(ctx) // who watches sees the next
	}
	for {
		tell(func(ctx context.Context) error {
			return w.rows.PutWriting(ctx, token, int(one.Load()), arrivals.Silence)
		})
		select {
		case <-over:
			tell(func(ctx context.Context) error { return w.rows.EndWriting(ctx, token) })
			return
		case <-time.After(writingEvery):
		}
	}
}

// At tells how far a file has come, wherever it is written; ok is false where none is.
func (w *Writings) At(ctx context.Context, token string) (thousandths int64, ok bool) {
	w.mu.Lock()
	one := w.by[token]
	w.mu.Unlock()
	if one != nil {
		return one.Load(), true
	}
	if w.rows == nil {
		return 0, false
	}
	n, err := w.rows.Writing(ctx, token, arrivals.Silence)
	return int64(n), err == nil
}
