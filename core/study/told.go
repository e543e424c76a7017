package study

import (
	"context"
	"sync/atomic"
)

type toldKey struct{}

// WithTold has a context note the revision of the study that is told or changed in it.
func WithTold(ctx context.Context) (context.Context, *atomic.Uint64) {
	told := &atomic.Uint64{}
	return context.WithValue(ctx, toldKey{}, told), told
}

// Tell notes the revision that a study had when reading of it began.
func Tell(ctx context.Context, revision uint64) {
	if told, noted := ctx.Value(toldKey{}).(*atomic.Uint64); noted {
		told.CompareAndSwap(0, revision)
	}
}

// TellChanged notes the revision that a study has after a change.
func TellChanged(ctx context.Context, revision uint64) {
	if told, noted := ctx.Value(toldKey{}).(*atomic.Uint64); noted {
		told.Store(revision)
	}
}
