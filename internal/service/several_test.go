package service

import (
	"context"
	"io"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/arrivals"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/testroom"
)

// Two processes on one database: what is done at one is told, and can be stopped, at the other; a kept file is there for both,
// byte for byte, and a file that a third, of a machine of its own, still packs is not called damaged.
func TestSeveralProcesses(t *testing.T) {
	t.Parallel()
	ctx, dsn := t.Context(), mariadbtest.Database(t)
	one, rows := serviceWith(t, dsn, Options{Several: true})
	other, _ := serviceWith(t, dsn, Options{Several: true})

	path := writeSurvey(t, 300_000, 30)
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	a, err := one.Uploads.Arrive(ctx, "answers.csv", f)
	require.NoError(t, err)
	var wait sync.WaitGroup
	var ended error
	wait.Go(func() {
		_, ended = one.Studies.Create(ctx, NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "a"})
	})
	testroom.Await(t, "the import to be seen by the other", func() bool {
		p, err := other.Uploads.Progress(ctx, a.ID)
		return err == nil && p.Stage == arrivals.Reading
	})
	other.Uploads.Discard(ctx, a.ID)
	wait.Wait()
	require.ErrorIs(t, ended, context.Canceled)
	_, err = one.Uploads.Progress(ctx, a.ID)
	require.ErrorIs(t, err, study.ErrNotFound)
	list, err := rows.Studies(ctx)
	require.NoError(t, err)
	assert.Empty(t, list)

	text := "ward,n\nHarbour,1\nFenside,2\nHarbour,3\n"
	b, err := one.Uploads.Arrive(ctx, "answers.csv", strings.NewReader(text))
	require.NoError(t, err)
	in := NewStudy{ArrivalID: b.ID, Settings: b.Settings, Name: "b"}
	made := make([]study.Study, 4)
	for i := range made { // asked again and again, of either: one study
		wait.Go(func() {
			st, err := []*Places{one, other}[i%2].Studies.Create(ctx, in)
			assert.NoError(t, err)
			made[i] = st
		})
	}
	wait.Wait()
	for _, st := range made {
		assert.Equal(t, made[0].ID, st.ID)
	}
	in.Name = "c"
	_, err = other.Studies.Create(ctx, in)
	require.ErrorIs(t, err, study.ErrNotFound, "it has become another study")
	list, err = rows.Studies(ctx)
	require.NoError(t, err)
	assert.Len(t, list, 1)
	for _, s := range []*Places{one, other} {
		files, err := rows.Files(ctx, made[0].ID)
		require.NoError(t, err)
		kept, _, err := s.Answers.KeptFile(ctx, made[0].ID, files[0].ID)
		require.NoError(t, err)
		raw, err := io.ReadAll(kept)
		require.NoError(t, err)
		assert.Equal(t, text, string(raw))
		kept.Close()
		os.Remove(kept.Name())
	}

	id, err := rows.SaveFile(ctx, study.File{StudyID: made[0].ID, Name: "packed.csv", Size: 1 << 21, Settings: "{}", Arrival: "{}", Waiting: "elsewhere"})
	require.NoError(t, err)
	_, _, err = other.Answers.KeptFile(ctx, made[0].ID, id)
	require.ErrorIs(t, err, study.ErrPacking)
	check, err := other.Uploads.Check(ctx, made[0].ID)
	require.NoError(t, err)
	assert.False(t, check.Files[0].Damaged)

	// Files that are added at the same time through both, with columns stored ahead: one of them finds the study changed.
	var adding sync.WaitGroup
	const added = 3
	for _, s := range []*Places{one, other} {
		s.base.aheadFrom = 1
		adding.Go(func() {
			for range added {
				a, err := s.Uploads.Arrive(ctx, "answers.csv", strings.NewReader(text))
				if assert.NoError(t, err) {
					assert.NoError(t, s.Uploads.Refresh(ctx, made[0].ID, Refresh{ArrivalID: a.ID, Settings: a.Settings, Add: true}))
				}
			}
		})
	}
	adding.Wait()
	for _, s := range []*Places{one, other} {
		page, err := s.Toplines.Topline(ctx, made[0].ID, nil, Window{})
		require.NoError(t, err)
		assert.EqualValues(t, 3*(1+2*added), page.Study.Rows)
		for _, q := range page.Questions {
			if q.Frequency != nil {
				assert.EqualValues(t, 3*(1+2*added), q.Frequency.Everyone, q.Name)
			}
		}
	}

	told, end := one.Writings.Begin("a-file-that-leaves")
	told(3, 4)
	testroom.Await(t, "the other to be told", func() bool {
		thousandths, ok := other.Writings.At(ctx, "a-file-that-leaves")
		return ok && thousandths == 750
	})
	end()
	testroom.Await(t, "the other to be told of the end", func() bool {
		_, ok := other.Writings.At(ctx, "a-file-that-leaves")
		return !ok
	})
}
