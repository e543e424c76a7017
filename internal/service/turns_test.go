package service

import (
	"context"
	"errors"
	"runtime"
	"testing"
	"testing/synctest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What many ask for at the same moment is found once for all; who has gone meanwhile is told so,
// and the others are answered.
func TestManyAskForTheSame(t *testing.T) {
	t.Parallel()
	synctest.Test(t, func(t *testing.T) {
		turns, finds := newTurns(), 0
		let := make(chan struct{})
		find := func(ctx context.Context) (int, error) {
			finds++
			<-let
			return 42, ctx.Err() // who has gone does not end it for the others
		}
		impatient, leave := context.WithCancel(t.Context())
		gone := make(chan error, 1)
		go func() {
			_, err := once(impatient, turns, "counts", find)
			gone <- err
		}()
		synctest.Wait()
		const askers = 50
		answers := make(chan int, askers)
		for range askers {
			go func() {
				got, err := once(t.Context(), turns, "counts", find)
				assert.NoError(t, err)
				answers <- got
			}()
		}
		synctest.Wait()
		leave()
		require.ErrorIs(t, <-gone, context.Canceled)
		assert.Empty(t, answers)
		close(let)
		for range askers {
			assert.Equal(t, 42, <-answers)
		}
		assert.Equal(t, 1, finds)

		_, err := once(t.Context(), turns, "counts", find) // nothing is kept: who keeps it does so by its key
		require.NoError(t, err)
		assert.Equal(t, 2, finds)
	})
}

// An error is everybody's and is not kept; a panic is an error, not the end of the process.
func TestWhatCannotBeFound(t *testing.T) {
	t.Parallel()
	turns := newTurns()
	broken := errors.New("broken")
	_, err := once(t.Context(), turns, "a", func(context.Context) (int, error) { return 0, broken })
	assert.ErrorIs(t, err, broken)
	_, err = once(t.Context(), turns, "a", func(context.Context) (int, error) { panic("beyond the last row") })
	assert.ErrorContains(t, err, "beyond the last row")
	got, err := once(t.Context(), turns, "a", func(context.Context) (int, error) { return 7, nil })
	require.NoError(t, err)
	assert.Equal(t, 7, got)
}

// As many have their turn as there are processors; a bounded number waits, and one more is sent
// away. Each turn that is given back goes to one who waits, and who leaves takes none along.
func TestTurns(t *testing.T) {
	t.Parallel()
	synctest.Test(t, func(t *testing.T) {
		turns := newTurns()
		var held []func()
		for range runtime.GOMAXPROCS(0) {
			done, err := turns.take(t.Context())
			require.NoError(t, err)
			held = append(held, done)
		}
		ctx, leave := context.WithCancel(t.Context())
		ended := make(chan error, mostWaiting)
		for i := range mostWaiting {
			mine := t.Context()
			if i%2 == 0 {
				mine = ctx
			}
			go func() {
				done, err := turns.take(mine)
				if err == nil {
					done()
				}
				ended <- err
			}()
		}
		synctest.Wait()
		_, err := turns.take(t.Context())
		require.ErrorIs(t, err, ErrCrowded)
		leave()
		synctest.Wait()
		require.Len(t, ended, mostWaiting/2)
		for range mostWaiting / 2 {
			require.ErrorIs(t, <-ended, context.Canceled)
		}
		for _, done := range held {
			done()
		}
		for range mostWaiting / 2 {
			require.NoError(t, <-ended)
		}
		assert.Zero(t, turns.waiting.Load())
		assert.True(t, turns.places.TryAcquire(int64(runtime.GOMAXPROCS(0))), "every turn was given back")
	})
}
