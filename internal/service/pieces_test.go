package service

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"runtime"
	"runtime/debug"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/store"
)

// large stores a study of so many rows with questions of some answers, without a file; the first and its column are returned.
func large(t testing.TB, rows *store.Store, n, questions int) (study.Study, study.Question, survey.Column) {
	t.Helper()
	ctx := t.Context()
	st, err := rows.BeginStudy(ctx, study.Study{Name: "large", Units: "homes", Rows: int64(n)})
	require.NoError(t, err)
	q := study.Question{StudyID: st.ID, KindReason: "chosen", Question: survey.Question{Name: "ward", Kind: survey.Single}}
	for slot, code := range []string{"", "Harbour", "Mill", "Fenside", "Quay"} {
		q.Answers = append(q.Answers, survey.Answer{Slot: survey.Slot(slot), Code: code, Label: code, Missing: map[bool]string{true: "blank"}[slot == 0]})
	}
	list := make([]study.Question, questions)
	for i := range list {
		list[i], list[i].Position, list[i].Name = q, i, fmt.Sprint("ward", i+1)
	}
	ids, err := rows.AddQuestions(ctx, list)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(1, 2))
	c := survey.Column{U8: make([]uint8, n)}
	for i := range c.U8 {
		c.U8[i] = uint8(rng.IntN(5))
	}
	for _, id := range ids {
		require.NoError(t, rows.SaveColumn(ctx, id, 1, c))
	}
	require.NoError(t, rows.ShowStudy(ctx, st))
	q, err = rows.Question(ctx, st.ID, ids[0])
	require.NoError(t, err)
	return st, q, c
}

// BenchmarkLargeTopline counts every question of a large study that nothing is remembered of, and prints the most memory that
// the process has had meanwhile. With WIDETALLY_LARGE it is 100 million × 50 instead of 8 million × 10, which takes some minutes to make.
func BenchmarkLargeTopline(b *testing.B) {
	n, questions := 8_000_000, 10
	if os.Getenv("WIDETALLY_LARGE") != "" {
		n, questions = 100_000_000, 50
	}
	dsn := mariadbtest.Database(b)
	_, rows := serviceOn(b, dsn)
	st, _, _ := large(b, rows, n, questions)
	for _, kind := range []string{"alone", "two processes"} {
		b.Run(fmt.Sprintf("%d×%d/%s", n, questions, kind), func(b *testing.B) {
			runtime.GC()
			debug.FreeOSMemory()
			if err := os.WriteFile("/proc/self/clear_refs", []byte("5"), 0o600); err != nil {
				b.Log("the peak is that of the whole process")
			}
			for b.Loop() {
				b.StopTimer()
				s, _ := serviceWith(b, dsn, Options{Several: kind != "alone"})
				if kind != "alone" {
					other, _ := serviceWith(b, dsn, Options{Several: true})
					require.NoError(b, other.TakeUp(b.Context()))
					defer other.Close()
				}
				list, err := rows.Questions(b.Context(), st.ID)
				require.NoError(b, err)
				for _, q := range list {
					require.NoError(b, rows.DropCount(b.Context(), study.Counting{QuestionID: q.ID, Generation: q.Generation, Slots: q.Slots()}))
				}
				b.StartTimer()
				_, err = s.Toplines.Topline(b.Context(), st.ID, nil, Window{})
				require.NoError(b, err)
			}
			b.ReportMetric(peakMB(b), "peak-MB")
		})
	}
}

// A large column is counted in parts by several processes together, and by one alone; a part that nobody finishes is
// counted by another, and one that cannot be read is told.
func TestLargeColumns(t *testing.T) {
	t.Parallel()
	ctx, dsn := t.Context(), mariadbtest.Database(t)
	alone, rows := serviceOn(t, dsn)
	_, q, column := large(t, rows, partRows+largeRows+77, 1)
	n := int64(column.Rows())
	want, err := survey.Distribute(column, q.Slots(), survey.Sample{})
	require.NoError(t, err)
	var several []*Places
	for range 2 {
		s, _ := serviceWith(t, dsn, Options{Several: true})
		several = append(several, s)
	}
	all := study.Counting{QuestionID: q.ID, Generation: q.Generation, Slots: q.Slots(), Rows: n, All: n}
	for range 2 { // asked for twice, wanted once
		require.NoError(t, rows.WantCounts(ctx, partsOf(all)))
	}
	parts, err := rows.Countings(ctx, all)
	require.NoError(t, err)
	assert.Len(t, parts, 2)
	left, err := rows.TakeCount(ctx, all, "one that ends", countSilence)
	require.NoError(t, err)
	other, err := rows.TakeCount(ctx, all, "another", countSilence)
	require.NoError(t, err)
	assert.NotEqual(t, left.Part, other.Part)
	_, err = rows.TakeCount(ctx, all, "a third", countSilence)
	require.ErrorIs(t, err, study.ErrNotFound)
	again, err := rows.TakeCount(ctx, all, "a third", 0) // who was not heard of has ended
	require.NoError(t, err)
	assert.Equal(t, left.Part, again.Part)
	require.NoError(t, rows.DropCount(ctx, all))
	var wait sync.WaitGroup
	for _, s := range append(several, alone) {
		wait.Go(func() {
			d, err := s.base.count(ctx, q, n, survey.Sample{})
			assert.NoError(t, err)
			assert.Equal(t, want, d)
		})
	}
	wait.Wait()
	parts, err = rows.Countings(ctx, all)
	require.NoError(t, err)
	require.Len(t, parts, 1, "what one counted all know")
	assert.Equal(t, -1, parts[0].Part)

	some := survey.NewSet(int(n))
	for i := 0; i < int(n); i += 3 {
		some.Add(i)
	}
	want, err = survey.Distribute(column, q.Slots(), survey.Sample{Subset: some})
	require.NoError(t, err)
	d, err := several[0].base.count(ctx, q, n, survey.Sample{Subset: some})
	require.NoError(t, err)
	assert.Equal(t, want, d)

	require.NoError(t, rows.DropCount(ctx, all))
	for _, s := range append(several, alone) { // as if the study had more rows than its column
		_, err = s.base.count(ctx, q, n+10, survey.Sample{})
		var damaged *study.DamagedError
		require.True(t, errors.As(err, &damaged), "%v", err)
		assert.Equal(t, "ward1", damaged.Name)
	}
	ended, stop := context.WithCancel(ctx)
	stop()
	_, err = alone.base.count(ended, q, n, survey.Sample{})
	require.ErrorIs(t, err, context.Canceled)
}
