package service

import (
	"bufio"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/methods"
	"widetally/core/study"
	"widetally/internal/arrivals"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/store"
	"widetally/internal/testroom"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

var _ Store = (*store.Store)(nil)

func newService(t testing.TB) (*Places, *store.Store) {
	t.Helper()
	return serviceOn(t, mariadbtest.Database(t))
}

func serviceOn(t testing.TB, dsn string) (*Places, *store.Store) {
	t.Helper()
	return serviceWith(t, dsn, Options{})
}

func serviceWith(t testing.TB, dsn string, opt Options) (*Places, *store.Store) {
	t.Helper()
	kept, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { kept.Close() })
	w, err := i18n.Load("en")
	require.NoError(t, err)
	opt.ArrivalsDir = t.TempDir()
	s, err := New(kept, w, methods.All(), opt)
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
	t.Parallel()
	s, kept := newService(t)
	path := writeSurvey(t, 400_000, 20)
	for _, stage := range []arrivals.Stage{arrivals.Reading, arrivals.Keeping} {
		t.Run(string(stage), func(t *testing.T) {
			f, err := os.Open(path)
			require.NoError(t, err)
			defer f.Close()
			a, err := s.Uploads.Arrive(t.Context(), "answers.csv", f)
			require.NoError(t, err)
			var wait sync.WaitGroup
			var ended error
			var took time.Duration
			wait.Go(func() {
				_, ended = s.Studies.Create(t.Context(), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "a"})
			})
			testroom.Await(t, "the import to be "+string(stage), func() bool {
				p, err := s.Uploads.Progress(t.Context(), a.ID)
				return err == nil && p.Stage == stage && p.Rows > 0
			})
			since := time.Now()
			s.Uploads.Discard(t.Context(), a.ID)
			wait.Wait()
			took = time.Since(since)
			require.ErrorIs(t, ended, context.Canceled)
			t.Logf("answered after %v", took)
			list, err := kept.Studies(t.Context())
			require.NoError(t, err)
			assert.Empty(t, list)
			_, err = s.Uploads.Progress(t.Context(), a.ID)
			assert.ErrorIs(t, err, study.ErrNotFound)
			assert.NoFileExists(t, filepath.Join(s.base.room.Dir(), a.ID))
		})
	}
}

// peakMB is the most memory that the process has had; 0 where the system does not tell.
func peakMB(b *testing.B) float64 {
	b.Helper()
	raw, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(raw), "VmHWM:")
	kb, err := strconv.Atoi(strings.Fields(rest)[0])
	require.NoError(b, err)
	return float64(kb) / 1024
}

// BenchmarkImport brings files in, from the first byte that arrives to committed columns, and
// prints the time as a ratio to a plain read of the same bytes with encoding/csv in the same
// run, and the most memory that the process has had.
func BenchmarkImport(b *testing.B) {
	for _, k := range []struct{ rows, columns int }{{1_000_000, 20}, {1_000_000, 50}, {10_000_000, 10}, {100_000, 500}} {
		b.Run(fmt.Sprintf("%d×%d", k.rows, k.columns), func(b *testing.B) {
			path := writeSurvey(b, k.rows, k.columns)
			s, _ := newService(b)
			runtime.GC()
			debug.FreeOSMemory()
			if err := os.WriteFile("/proc/self/clear_refs", []byte("5"), 0o600); err != nil {
				b.Log("the peak is that of the whole process")
			}
			plain, own := 0.0, 0.0
			for b.Loop() {
				plain += seconds(func() { readPlainly(b, path) })
				own += seconds(func() {
					f, err := os.Open(path)
					require.NoError(b, err)
					defer f.Close()
					a, err := s.Uploads.Arrive(b.Context(), "answers.csv", f)
					require.NoError(b, err)
					_, err = s.Studies.Create(b.Context(), NewStudy{ArrivalID: a.ID, Settings: a.Settings, Name: "a"})
					require.NoError(b, err)
				})
				s.base.kept.Wait() // until the file has been packed in the background
			}
			b.ReportMetric(own/plain, "×encoding/csv")
			b.ReportMetric(peakMB(b), "peak-MB")
		})
	}
}

func seconds(f func()) float64 {
	start := time.Now()
	f()
	return time.Since(start).Seconds()
}

func readPlainly(b *testing.B, path string) {
	f, err := os.Open(path)
	require.NoError(b, err)
	defer f.Close()
	r := csv.NewReader(bufio.NewReaderSize(f, 1<<20))
	r.ReuseRecord = true
	for {
		if _, err := r.Read(); errors.Is(err, io.EOF) {
			return
		} else if err != nil {
			b.Fatal(err)
		}
	}
}
