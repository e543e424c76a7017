package study

import (
	"context"
	"sync/atomic"
)

// Told is the revision of a study that is told, or made, in a context.
type Told struct {
	seen, made atomic.Uint64
}

// Seen is the revision that the study had when reading of it began; 0 where none was read.
func (t *Told) Seen() uint64 { return t.seen.Load() }

// Made is the revision that a change has made; 0 where nothing was changed.
func (t *Told) Made() uint64 { return t.made.Load() }

type toldKey struct{}

// WithTold has a context note the revision of the study that is told or changed in it.
func WithTold(ctx context.Context) (context.Context, *Told) {
	told := &Told{}
	return context.WithValue(ctx, toldKey{}, told), told
}

// Tell notes the revision that a study had when reading of it began.
func Tell(ctx context.Context, revision uint64) {
	if told, noted := ctx.Value(toldKey{}).(*Told); noted {
		told.seen.CompareAndSwap(0, revision)
	}
}

// TellChanged notes the revision that a study has after a change.
func TellChanged(ctx context.Context, revision uint64) {
	if told, noted := ctx.Value(toldKey{}).(*Told); noted {
		told.made.Store(revision)
	}
}
