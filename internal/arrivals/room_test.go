package arrivals

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/intake"
)

// Files wait for a while and not without end: the oldest make room, what has waited too long
// goes when the next one comes, and neither does while somebody works on it. What is gone is
// gone from the disk.
func TestFilesThatWait(t *testing.T) {
	t.Parallel()
	synctest.Test(t, func(t *testing.T) {
		a, err := OpenRoom(t.TempDir(), 1<<20, 64<<20, nil)
		require.NoError(t, err)
		arrive := func(name string) string {
			w, err := a.Take(t.Context(), "", name, strings.NewReader("ward,n\nHarbour,"+name+"\n"))
			require.NoError(t, err)
			time.Sleep(time.Second)
			return w.ID
		}
		there := func(id string) bool {
			_, err := a.Get(t.Context(), id)
			if err != nil {
				require.ErrorIs(t, err, study.ErrNotFound)
			}
			_, onDisk := os.Stat(filepath.Join(a.dir, id))
			assert.Equal(t, err == nil, onDisk == nil, "known and on the disk, or neither")
			return err == nil
		}
		busy := arrive("0")
		w, err := a.Get(t.Context(), busy)
		require.NoError(t, err)
		ctx, done := w.progress.begin(t.Context(), Reading)
		var ids []string
		for i := range mostArrivals + 2 {
			ids = append(ids, arrive(fmt.Sprint(i+1)))
		}
		assert.True(t, there(busy), "somebody works on the oldest")
		for i, id := range ids {
			assert.Equal(t, i >= 3, there(id), "number %d", i+1)
		}
		time.Sleep(arrivalLife)
		last := arrive("later")
		assert.True(t, there(busy))
		require.NoError(t, ctx.Err())
		assert.True(t, there(last))
		for _, id := range ids {
			assert.False(t, there(id))
		}
		done()
		arrive("the last")
		assert.False(t, there(busy), "nobody works on it any more")

		// What was just read is not read again, and one that has gone is not found by its table.
		settings := intake.Settings{Format: intake.Delimited, Encoding: intake.UTF8, Delimiter: ",", HeaderRow: 1, Shape: intake.Rows, HeaderSaid: true}
		table, err := a.Read(t.Context(), last, settings)
		require.NoError(t, err)
		require.NoError(t, os.Truncate(filepath.Join(a.dir, last), 0))
		again, err := a.Read(t.Context(), last, settings)
		require.NoError(t, err)
		assert.Same(t, table, again)
		a.mu.Lock()
		a.remove(last)
		a.mu.Unlock()
		_, err = a.Read(t.Context(), last, settings)
		require.ErrorIs(t, err, study.ErrNotFound)
	})
}

// A file that is too large, or that comes with a name of any sort, leaves nothing behind but what
// may be there.
func TestFilesAsTheyArrive(t *testing.T) {
	t.Parallel()
	a, err := OpenRoom(t.TempDir(), 100, 64<<20, nil)
	require.NoError(t, err)
	inDir := func() []string {
		names, err := filepath.Glob(filepath.Join(a.dir, "*"))
		require.NoError(t, err)
		return names
	}
	before := inDir()
	_, err = a.Take(t.Context(), "", "large.csv", strings.NewReader(strings.Repeat("x", 101)))
	require.ErrorIs(t, err, ErrTooLarge)
	assert.Equal(t, before, inDir())
	for given, kept := range map[string]string{
		"answers.csv": "answers.csv", "../../etc/answers.csv": "answers.csv", "/a/b/../c.csv": "c.csv", "": "answers", "/": "answers", "..": "answers",
		"a\xff.csv": "answers", strings.Repeat("ä", 130): strings.Repeat("ä", 120), `C:\years\2026.csv`: `C:\years\2026.csv`,
	} {
		w, err := a.Take(t.Context(), "", given, strings.NewReader("x"))
		require.NoError(t, err)
		assert.Equal(t, kept, w.Name, "%q", given)
		assert.Equal(t, a.dir, filepath.Dir(w.path), "%q", given)
	}
}

// Files of another process that still runs are left alone; those of one that has ended
// go at the next start.
func TestWaitingFilesBelongToTheirProcess(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	first, err := OpenRoom(dir, 1<<20, 0, nil)
	require.NoError(t, err)
	w, err := first.Take(t.Context(), "", "a.csv", strings.NewReader("a\n1\n"))
	require.NoError(t, err)
	second, err := OpenRoom(dir, 1<<20, 0, nil)
	require.NoError(t, err)
	assert.FileExists(t, w.path)
	_, err = second.Get(t.Context(), w.ID)
	assert.ErrorIs(t, err, study.ErrNotFound)
	require.NoError(t, first.lock.Close()) // as when its process ends
	_, err = OpenRoom(dir, 1<<20, 0, nil)
	require.NoError(t, err)
	assert.NoFileExists(t, w.path)
}
