package service

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"sync/atomic"

	"golang.org/x/sync/semaphore"
	"golang.org/x/sync/singleflight"

	"widetally/core/analysis"
)

// columnKey names a state of a question's answers, which never changes.
type columnKey struct {
	question   uint64
	generation int
}

// result is an outcome with the memory that it holds.
type result struct{ *analysis.Outcome }

// Bytes estimates the memory that a result holds: what was counted for it, mostly.
func (r result) Bytes() int {
	n := 4000
	for _, s := range append(r.Counted.Summaries, r.Counted.Summary) {
		if s != nil {
			n += 48 * len(s.Rows)
		}
	}
	for _, t := range append(r.Counted.Crosstabs, r.Counted.Crosstab) {
		if t != nil {
			n += 8 * len(t.Cells)
		}
	}
	return n
}

// ErrCrowded says that too much waits for its turn to be counted.
var ErrCrowded = errors.New("service: too much waits for its turn")

// mostWaiting bounds what waits for its turn.
const mostWaiting = 128

// turns lets as much be counted at a time as there are processors, so that small requests
// keep being answered while large ones are; what several ask for at the same moment is
// counted once for all of them.
type turns struct {
	going   singleflight.Group
	places  *semaphore.Weighted
	waiting atomic.Int64
}

func newTurns() *turns { return &turns{places: semaphore.NewWeighted(int64(runtime.GOMAXPROCS(0)))} }

// take waits for a turn; done gives it back. Errors: ErrCrowded, that of a context that ended.
func (t *turns) take(ctx context.Context) (done func(), err error) {
	if t.waiting.Add(1) > mostWaiting {
		t.waiting.Add(-1)
		return nil, ErrCrowded
	}
	defer t.waiting.Add(-1)
	if err := t.places.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	return func() { t.places.Release(1) }, nil
}

// free takes a turn that nobody waits for; ok is false where there is none.
func (t *turns) free() (done func(), ok bool) {
	if t.waiting.Load() > 0 || !t.places.TryAcquire(1) {
		return nil, false
	}
	return func() { t.places.Release(1) }, true
}

// once has something found by the first who asks for it under a key, for all who ask until it
// is found. It goes on when one of them has gone.
func once[T any](ctx context.Context, t *turns, key string, find func(ctx context.Context) (T, error)) (T, error) {
	found := t.going.DoChan(key, func() (_ any, err error) {
		defer func() {
			if gone := recover(); gone != nil { // else it would end the process
				err = fmt.Errorf("service: panic: %v", gone)
			}
		}()
		return find(context.WithoutCancel(ctx))
	})
	var none T
	select {
	case r := <-found:
		if r.Err != nil {
			return none, r.Err
		}
		return r.Val.(T), nil
	case <-ctx.Done():
		return none, ctx.Err()
	}
}
