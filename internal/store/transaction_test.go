package store

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
)

// What is done with the context of a transaction belongs to it: seen within, by nobody
// outside until it is kept, and gone with it. What is done with another context does not.
func TestATransactionIsCarriedByItsContext(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	stop := errors.New("stop")
	names := func(ctx context.Context) (out []string) {
		list, err := s.Studies(ctx)
		require.NoError(t, err)
		for _, one := range list {
			out = append(out, one.Name)
		}
		return out
	}
	err := s.InTx(ctx, func(inner context.Context) error {
		_, err := s.AddStudy(inner, study.Study{Name: "within", Units: "homes"})
		require.NoError(t, err)
		_, err = s.AddStudy(ctx, study.Study{Name: "beside", Units: "homes"})
		require.NoError(t, err)
		assert.ElementsMatch(t, []string{st.Name, "within", "beside"}, names(inner))
		assert.ElementsMatch(t, []string{st.Name, "beside"}, names(ctx))
		derived, cancel := context.WithTimeout(inner, time.Minute) // a context made of it is of it
		defer cancel()
		assert.ElementsMatch(t, []string{st.Name, "within", "beside"}, names(derived))
		return stop
	})
	require.ErrorIs(t, err, stop)
	assert.ElementsMatch(t, []string{st.Name, "beside"}, names(ctx))
}

// A change counts the study's revision up with what it changes, or not at all; changes of one
// study happen one after another, each on what the one before it left.
func TestChangesOfAStudyFollowEachOther(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	revision := func() uint64 {
		now, err := s.Study(ctx, st.ID)
		require.NoError(t, err)
		return now.Revision
	}
	before := revision()
	stop := errors.New("stop")
	told := study.WithKept(ctx)
	require.ErrorIs(t, s.Change(told, st.ID, func(context.Context, study.Study) error { return stop }), stop)
	assert.Equal(t, before, revision())
	assert.False(t, study.WasKept(told))
	require.NoError(t, s.Change(told, st.ID, func(context.Context, study.Study) error { return nil }))
	assert.True(t, study.WasKept(told), "what fails after it does not take it back")
	before++
	require.ErrorIs(t, s.Change(ctx, st.ID+99, func(context.Context, study.Study) error { return nil }), study.ErrNotFound)

	var wait sync.WaitGroup
	const editors = 8
	for range editors {
		wait.Go(func() {
			assert.NoError(t, s.Change(ctx, st.ID, func(ctx context.Context, now study.Study) error {
				now.Rows++ // lost, if two were to read the same
				time.Sleep(5 * time.Millisecond)
				return s.SetStudyData(ctx, now)
			}))
		})
	}
	wait.Wait()
	after, err := s.Study(ctx, st.ID)
	require.NoError(t, err)
	assert.Equal(t, st.Rows+editors, after.Rows)
	assert.Equal(t, before+editors, after.Revision)
}

// A snapshot sees one state, whatever is kept beside it meanwhile, and changes nothing.
func TestASnapshotIsOfOneMoment(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	require.NoError(t, s.Snapshot(ctx, func(inner context.Context) error {
		before, err := s.Study(inner, st.ID)
		require.NoError(t, err)
		require.NoError(t, s.Change(ctx, st.ID, func(ctx context.Context, now study.Study) error {
			now.Rows = 777
			return s.SetStudyData(ctx, now)
		}))
		after, err := s.Study(inner, st.ID)
		require.NoError(t, err)
		assert.Equal(t, before, after)
		assert.Error(t, s.TouchStudy(inner, st.ID), "it only reads")
		return nil
	}))
	now, err := s.Study(ctx, st.ID)
	require.NoError(t, err)
	assert.EqualValues(t, 777, now.Rows)
}
