package service

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/store"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

var _ Store = (*store.Store)(nil)

func newService(t testing.TB) (*Services, *store.Store) {
	t.Helper()
	return serviceOn(t, mariadbtest.Database(t))
}

func serviceOn(t testing.TB, dsn string) (*Services, *store.Store) {
	t.Helper()
	kept, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { kept.Close() })
	w, err := i18n.Load("en")
	require.NoError(t, err)
	s, err := New(kept, w, Options{ArrivalsDir: t.TempDir()})
	require.NoError(t, err)
	return s, kept
}

// survey writes a file of short codes, as surveys are: most questions with a few
// answers, some with many, one in ten a number.
func writeSurvey(t testing.TB, rows, columns int) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "answers.csv")
	f, err := os.Create(path)
	require.NoError(t, err)
	w := bufio.NewWriterSize(f, 1<<20)
	rng := rand.New(rand.NewPCG(7, 50))
	for c := range columns {
		if c > 0 {
			w.WriteByte(',')
		}
		w.WriteString("q" + strconv.Itoa(c+1))
	}
	w.WriteByte('\n')
	line := make([]byte, 0, 400)
	for range rows {
		line = line[:0]
		for c := range columns {
			if c > 0 {
				line = append(line, ',')
			}
			switch {
			case rng.IntN(33) == 0: // left blank
			case c%10 == 9:
				line = strconv.AppendInt(line, rng.Int64N(100), 10)
			case c%10 == 4:
				line = append(line, [...]string{"Harbour", "Millbrook", "Oldgate", "Quarry Hill", "Saltings", "Fenside"}[rng.IntN(6)]...)
			default:
				line = strconv.AppendInt(line, 1+rng.Int64N(5), 10)
			}
		}
		w.Write(append(line, '\n'))
	}
	require.NoError(t, w.Flush())
	require.NoError(t, f.Close())
	return path
}

// A long import that is cancelled answers at once and leaves nothing, whether it was
// reading or keeping.
func TestACancelledImportLeavesNothing(t *testing.T) {
	s, kept := newService(t)
	path := writeSurvey(t, 400_000, 20)
	for _, stage := range []Stage{Reading, Keeping} {
		t.Run(string(stage), func(t *testing.T) {
			f, err := os.Open(path)
			require.NoError(t, err)
			defer f.Close()
			a, err := s.Arrive(t.Context(), "answers.csv", f)
			require.NoError(t, err)
			var wait sync.WaitGroup
			var ended error
			var took time.Duration
			wait.Go(func() { _, ended = s.Create(t.Context(), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "a"}) })
			for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(time.Millisecond) {
				if p, err := s.Progress(a.ID); err == nil && p.Stage == stage && p.Rows > 0 {
					break
				}
			}
			since := time.Now()
			s.Discard(a.ID)
			wait.Wait()
			took = time.Since(since)
			require.ErrorIs(t, ended, context.Canceled)
			t.Logf("answered after %v", took)
			list, err := kept.Studies(t.Context())
			require.NoError(t, err)
			assert.Empty(t, list)
			_, err = s.Progress(a.ID)
			assert.ErrorIs(t, err, study.ErrNotFound)
			waiting, err := os.ReadDir(s.arrivals.dir)
			require.NoError(t, err)
			assert.Len(t, waiting, 1, "the file is gone, too; only the folder's lock is left")
		})
	}
}

// BenchmarkImport sets a plain read with encoding/csv against the whole way from the
// file to committed columns, of the same bytes.
func BenchmarkImport(b *testing.B) {
	const rows, columns = 1_000_000, 50
	path := writeSurvey(b, rows, columns)
	info, err := os.Stat(path)
	require.NoError(b, err)
	b.Run("encoding-csv", func(b *testing.B) {
		b.SetBytes(info.Size())
		for b.Loop() {
			f, err := os.Open(path)
			require.NoError(b, err)
			r := csv.NewReader(bufio.NewReaderSize(f, 1<<20))
			r.ReuseRecord = true
			for {
				if _, err := r.Read(); errors.Is(err, io.EOF) {
					break
				} else if err != nil {
					b.Fatal(err)
				}
			}
			f.Close()
		}
	})
	b.Run("file-to-columns", func(b *testing.B) {
		s, _ := newService(b)
		b.SetBytes(info.Size())
		for b.Loop() {
			b.StopTimer() // the file arrives
			f, err := os.Open(path)
			require.NoError(b, err)
			a, err := s.Arrive(b.Context(), "answers.csv", f)
			require.NoError(b, err)
			f.Close()
			b.StartTimer()
			_, err = s.Create(b.Context(), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "a"})
			require.NoError(b, err)
		}
		var usage syscall.Rusage
		if syscall.Getrusage(syscall.RUSAGE_SELF, &usage) == nil {
			b.ReportMetric(float64(usage.Maxrss)/1024, "peak-MB")
		}
	})
}
