package study

import (
	"context"
	"sync/atomic"
)

type keptKey struct{}

// WithKept gives what is done in a context a place where it is noted that a change of a study was kept.
func WithKept(ctx context.Context) context.Context {
	return context.WithValue(ctx, keptKey{}, &atomic.Bool{})
}

// NoteKept notes that a change was kept.
func NoteKept(ctx context.Context) {
	if kept, ok := ctx.Value(keptKey{}).(*atomic.Bool); ok {
		kept.Store(true)
	}
}

// WasKept reports whether a change was kept in a context: what fails after it does not take it back.
func WasKept(ctx context.Context) bool {
	kept, ok := ctx.Value(keptKey{}).(*atomic.Bool)
	return ok && kept.Load()
}
