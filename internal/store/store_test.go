package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/mariadb/mariadbtest"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

var ctx = context.Background()

func open(t *testing.T) *Store {
	t.Helper()
	dsn := mariadbtest.Database(t)
	s, err := Open(ctx, dsn)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	again, err := Open(ctx, dsn)
	require.NoError(t, err, "migrations run once")
	again.Close()
	return s
}

// anew says that the answers of every question are stored anew.
func anew(int) bool { return true }

func withQuestion(t *testing.T, ctx context.Context, s *Store) (study.Study, study.Question) {
	t.Helper()
	st, err := s.AddStudy(ctx, study.Study{Name: "Fernmouth", Units: "households", Decimals: 1, Rows: 5})
	require.NoError(t, err)
	one := survey.Slot(1)
	q := study.Question{StudyID: st.ID, Question: survey.Question{Name: "ward", Wording: "Wohin? 🚮", Kind: survey.Single, Answers: []survey.Answer{
		{Slot: 2, Code: "Fenside", Label: "Fenside"}, {Slot: 1, Code: "Harbour", Label: "Harbour"}, {Slot: 3, Code: "harbour ", Label: "harbour", SameAs: &one},
		{Slot: 0, Label: "No answer", Missing: "no answer"}}}}
	q.ID, err = s.AddQuestion(ctx, q)
	require.NoError(t, err)
	q.Version, q.Number, q.Generation = 1, 1, 1
	return st, q
}

func TestColumnsComeBackBitForBit(t *testing.T) {
	t.Parallel()
	s := open(t)
	_, q := withQuestion(t, ctx, s)
	rng := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{1, ChunkRows - 1, ChunkRows, ChunkRows + 1, 2*ChunkRows + 7} {
		columns := map[string]survey.Column{"u8": {U8: make([]uint8, n)}, "u16": {U16: make([]uint16, n)}, "f64": {F64: make([]float64, n)}, "text": {Text: make([]string, n)}, "few": {F64: make([]float64, n)}, "alike": {U8: make([]uint8, n)}, "sets": {Sets: make([]uint64, n)}}
		for i := range n {
			columns["u8"].U8[i] = uint8(rng.Uint32())
			columns["u16"].U16[i] = uint16(rng.Uint32())
			columns["f64"].F64[i] = rng.NormFloat64()
			columns["few"].F64[i] = float64(rng.IntN(40)) / 3
			columns["alike"].U8[i] = 3
			columns["text"].Text[i] = strings.Repeat("ü", rng.IntN(3))
		}
		columns["f64"].F64[0] = survey.MissingNumber(7)
		for name, want := range columns {
			require.NoError(t, s.db.Exec("DELETE FROM column_chunks").Error)
			require.NoError(t, s.SaveColumn(ctx, q.ID, 1, want))
			got, err := s.LoadColumn(ctx, q.ID, 1, int64(n))
			require.NoError(t, err)
			if name == "f64" { // NaN is not equal to itself, its bits are
				assert.Equal(t, math.Float64bits(want.F64[0]), math.Float64bits(got.F64[0]))
				want.F64[0], got.F64[0] = 0, 0
			}
			require.True(t, assert.ObjectsAreEqual(want, got), "%s of %d rows", name, n)
		}
	}
}

func TestDamageIsFound(t *testing.T) {
	t.Parallel()
	s := open(t)
	_, q := withQuestion(t, ctx, s)
	cases := map[string]string{
		"a bit flipped":     "UPDATE column_chunks SET checksum = checksum ^ 1 WHERE seq = 1",
		"the first lost":    "DELETE FROM column_chunks WHERE seq = 0",
		"the last lost":     "DELETE FROM column_chunks WHERE seq = 1",
		"all lost":          "DELETE FROM column_chunks",
		"one too many":      "INSERT INTO column_chunks SELECT question_id, generation, 2, encoding, row_count, checksum, data FROM column_chunks WHERE seq = 1",
		"two widths":        "UPDATE column_chunks SET encoding = 2, row_count = 5 WHERE seq = 1",
		"another row count": "UPDATE column_chunks SET row_count = row_count - 1 WHERE seq = 1",
		"no zstd at all":    "UPDATE column_chunks SET data = 'x' WHERE seq = 1",
		"a strange coding":  "UPDATE column_chunks SET encoding = 99 WHERE seq = 1",
	}
	for name, damage := range cases {
		t.Run(name, func(t *testing.T) {
			require.NoError(t, s.db.Exec("DELETE FROM column_chunks").Error)
			require.NoError(t, s.SaveColumn(ctx, q.ID, 1, survey.Column{U8: make([]uint8, ChunkRows+10)}))
			require.NoError(t, s.db.Exec(damage).Error)
			_, err := s.LoadColumn(ctx, q.ID, 1, ChunkRows+10)
			var damaged *study.DamagedError
			require.ErrorAs(t, err, &damaged)
			assert.Equal(t, q.ID, damaged.QuestionID)
		})
	}
}

// A piece that is whole but stands where another belongs is damage: its neighbour, that of another
// question, or of another state of the same one.
func TestPiecesThatBelongElsewhereAreDamage(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	other, err := s.AddQuestion(ctx, study.Question{StudyID: st.ID, Position: 1, Question: survey.Question{Name: "other", Kind: survey.Single}})
	require.NoError(t, err)
	column := func(of uint8) survey.Column {
		return survey.Column{U8: append(bytes.Repeat([]uint8{of}, ChunkRows), bytes.Repeat([]uint8{of + 1}, ChunkRows)...)}
	}
	for name, from := range map[string]string{
		"its neighbour":    fmt.Sprintf("b.question_id = %d AND b.generation = 1 AND b.seq = 1", q.ID),
		"another question": fmt.Sprintf("b.question_id = %d AND b.generation = 1 AND b.seq = 0", other),
		"another state":    fmt.Sprintf("b.question_id = %d AND b.generation = 2 AND b.seq = 0", q.ID),
	} {
		t.Run(name, func(t *testing.T) {
			require.NoError(t, s.db.Exec("DELETE FROM column_chunks").Error)
			require.NoError(t, s.SaveColumn(ctx, q.ID, 1, column(1)))
			require.NoError(t, s.SaveColumn(ctx, q.ID, 2, column(3)))
			require.NoError(t, s.SaveColumn(ctx, other, 1, column(5)))
			_, err := s.LoadColumn(ctx, q.ID, 1, 2*ChunkRows)
			require.NoError(t, err)
			put := s.db.Exec("UPDATE column_chunks a JOIN column_chunks b ON " + from + " SET a.encoding = b.encoding, a.data = b.data, a.checksum = b.checksum WHERE a.seq = 0 AND a.generation = 1 AND a.question_id = " + fmt.Sprint(q.ID))
			require.NoError(t, put.Error)
			require.Equal(t, int64(1), put.RowsAffected)
			_, err = s.LoadColumn(ctx, q.ID, 1, 2*ChunkRows)
			var damaged *study.DamagedError
			require.ErrorAs(t, err, &damaged)
		})
	}
}

func TestEditsAreGuardedByVersions(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	q.Wording = "Which ward?"
	q.Answers[0], q.Answers[1] = q.Answers[1], q.Answers[0]
	q.Answers[0].Label = "The Harbour"
	require.NoError(t, s.EditQuestions(ctx, []study.Question{q}, anew))
	assert.ErrorIs(t, s.EditQuestions(ctx, []study.Question{q}, anew), study.ErrStale, "the second tab still has version 1")
	got, err := s.Question(ctx, st.ID, q.ID)
	require.NoError(t, err)
	assert.Equal(t, q.Question, got.Question)
	assert.Equal(t, 2, got.Version)
	all, err := s.Questions(ctx, st.ID)
	require.NoError(t, err)
	assert.Equal(t, []study.Question{got}, all)

	st.Name = "Fernmouth 2026"
	require.NoError(t, s.EditStudy(ctx, st))
	assert.ErrorIs(t, s.EditStudy(ctx, st), study.ErrStale)

	_, err = s.Question(ctx, st.ID+1, q.ID)
	assert.ErrorIs(t, err, study.ErrNotFound, "a question is found only in its own study")
}

func TestAnalysesAreKeptAndWithdrawn(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, q := withQuestion(t, ctx, s)
	described, err := s.AddAnalysis(ctx, study.Analysis{StudyID: st.ID, QuestionID: q.ID, Spec: `{"a":1}`, Uses: []study.Use{{Subject: study.OfQuestion, ID: q.ID}}}, false)
	require.NoError(t, err)
	assert.Zero(t, described.Number, "what is only described has no number")
	a, err := s.AddAnalysis(ctx, study.Analysis{StudyID: st.ID, QuestionID: q.ID, Spec: `{"b":1}`, Uses: []study.Use{{Subject: study.OfPart, ID: 5}, {Subject: study.OfQuestion, ID: q.ID}}}, true)
	require.NoError(t, err)
	got, err := s.Analysis(ctx, st.ID, a.ID)
	require.NoError(t, err)
	assert.Equal(t, a, got)
	require.NoError(t, s.MarkRun(ctx, a.ID, "{}"))
	first, err := s.Analysis(ctx, st.ID, a.ID)
	require.NoError(t, err)
	require.NotNil(t, first.FirstRunAt)
	require.NoError(t, s.MarkRun(ctx, a.ID, "other"))

	changed := first
	changed.Spec, changed.Uses = `{"b":2}`, []study.Use{{Subject: study.OfQuestion, ID: q.ID}}
	after, err := s.EditAnalysis(ctx, changed, true)
	require.NoError(t, err)
	assert.Equal(t, []any{1, 2}, []any{after.Number, after.Version}, "a number once given stays")
	_, err = s.EditAnalysis(ctx, changed, true)
	assert.ErrorIs(t, err, study.ErrStale)
	got, err = s.Analysis(ctx, st.ID, a.ID)
	require.NoError(t, err)
	assert.Equal(t, after, got, "the first run stays the first")

	described.Spec = `{"a":2}`
	described, err = s.EditAnalysis(ctx, described, true)
	require.NoError(t, err)
	assert.Equal(t, 2, described.Number, "what becomes a claim is numbered then")

	require.NoError(t, s.SetAnalysisDeleted(ctx, st.ID, a.ID, true))
	list, err := s.Analyses(ctx, st.ID)
	require.NoError(t, err)
	assert.Equal(t, []study.Analysis{described}, list)
	all, err := s.AllAnalyses(ctx, st.ID)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.NotNil(t, all[1].WithdrawnAt)
	assert.ErrorIs(t, s.SetAnalysisDeleted(ctx, st.ID, a.ID, true), study.ErrNotFound)
	require.NoError(t, s.SetAnalysisDeleted(ctx, st.ID, a.ID, false))
	list, err = s.Analyses(ctx, st.ID)
	require.NoError(t, err)
	assert.Equal(t, []study.Analysis{described, after}, list)
}

func TestATransactionKeepsAllOrNothing(t *testing.T) {
	t.Parallel()
	s := open(t)
	stop := errors.New("stop")
	for _, in := range []func(context.Context, func(context.Context) error) error{s.InTx, s.InBulk} {
		err := in(ctx, func(ctx context.Context) error {
			st, q := withQuestion(t, ctx, s)
			require.NoError(t, s.SaveColumn(ctx, q.ID, 1, survey.Column{U8: []uint8{1}}))
			id, err := s.SaveFile(ctx, study.File{StudyID: st.ID, Name: "a.csv", Size: 1})
			require.NoError(t, err)
			require.NoError(t, s.PackFile(ctx, study.File{ID: id, Size: 1}, strings.NewReader("a")))
			return stop
		})
		require.ErrorIs(t, err, stop)
		for _, table := range []string{"studies", "questions", "answers", "column_chunks", "source_files", "source_chunks"} {
			var n int64
			require.NoError(t, s.db.Table(table).Count(&n).Error)
			assert.Zero(t, n, table)
		}
	}
}

// What is stored in bulk is what any other connection reads and finds; what is no text at all
// is refused, not stored in part.
func TestTextsStoredInBulk(t *testing.T) {
	t.Parallel()
	s := open(t)
	for _, name := range []string{"Fährhaus, Süd", "船着き場", "🚲 & ☃", "e\u0301 is not é", `'"\%_`, ""} {
		var id uint64
		require.NoError(t, s.InBulk(ctx, func(ctx context.Context) error {
			st, err := s.AddStudy(ctx, study.Study{Name: name, Units: "homes"})
			if id = st.ID; err != nil {
				return err
			}
			_, err = s.SaveFile(ctx, study.File{StudyID: id, Name: name, Waiting: "beside " + name})
			return err
		}))
		st, err := s.Study(ctx, id)
		require.NoError(t, err)
		assert.Equal(t, name, st.Name)
		file, err := s.FileWaiting(ctx, "beside "+name)
		require.NoError(t, err)
		assert.Equal(t, name, file.Name)
	}
	assert.Error(t, s.InBulk(ctx, func(ctx context.Context) error {
		_, err := s.AddStudy(ctx, study.Study{Name: "F\xe4hrhaus", Units: "homes"})
		return err
	}))
}

func TestTheFileComesBack(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	raw := bytes.Repeat([]byte("Harbour;\xe4\x00,\r\n"), 300_000)
	_, err := s.SaveFile(ctx, study.File{StudyID: st.ID, Name: "wards.csv", Settings: "{}", Size: int64(len(raw)), Waiting: "beside"})
	require.NoError(t, err)
	file, err := s.FileWaiting(ctx, "beside")
	require.NoError(t, err)
	assert.Error(t, s.PackFile(ctx, file, bytes.NewReader(raw[:2_500_000])), "it ends too early")
	file, err = s.FileWaiting(ctx, "beside")
	require.NoError(t, err, "it still waits")
	require.NoError(t, s.PackFile(ctx, file, bytes.NewReader(raw)))
	_, err = s.FileWaiting(ctx, "beside")
	assert.ErrorIs(t, err, study.ErrNotFound)
	var out bytes.Buffer
	require.NoError(t, s.WriteFile(ctx, file, &out))
	assert.True(t, bytes.Equal(raw, out.Bytes()))
	require.NoError(t, s.SetFileDigest(ctx, file.ID, "abc"))
	list, err := s.Files(ctx, st.ID)
	require.NoError(t, err)
	assert.Equal(t, "abc", list[0].SHA256)
	require.NoError(t, s.db.Exec("UPDATE source_chunks SET checksum = checksum ^ 1 WHERE seq = 1").Error)
	assert.Error(t, s.WriteFile(ctx, file, &out), "damage is found")
}

func TestDeletedStudiesComeBackUntilPurged(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	require.NoError(t, s.SetStudyDeleted(ctx, st.ID, true))
	_, err := s.Study(ctx, st.ID)
	assert.ErrorIs(t, err, study.ErrNotFound)
	require.NoError(t, s.SetStudyDeleted(ctx, st.ID, false))
	list, err := s.Studies(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 1, list[0].Questions)
	assert.Equal(t, []any{st.ID, "Fernmouth", 1}, []any{list[0].ID, list[0].Name, list[0].Version})
	require.NoError(t, s.SetStudyDeleted(ctx, st.ID, true))
	n, err := s.Purge(ctx, now().Add(1e9))
	require.NoError(t, err)
	assert.Equal(t, int64(1), n)
	assert.ErrorIs(t, s.SetStudyDeleted(ctx, st.ID, false), study.ErrNotFound)
}

// A trail is written one entry behind the other however many write at once; it breaks where a row of it is changed or
// taken out, also the last one, and outlives its study.
func TestTheTrailBreaksWhereItIsTouched(t *testing.T) {
	t.Parallel()
	s := open(t)
	st, _ := withQuestion(t, ctx, s)
	var all errgroup.Group
	for i := range 20 {
		all.Go(func() error {
			return s.Note(ctx, st.ID, document.Say("trail.left", document.Values{"file": document.Text(fmt.Sprint(i))}))
		})
	}
	require.NoError(t, all.Wait())
	require.Error(t, s.InTx(ctx, func(ctx context.Context) error {
		require.NoError(t, s.Note(ctx, st.ID, document.Say("trail.deleted", nil)))
		return errors.New("what it tells of failed")
	}))
	verify := func() (entries uint64, fault error) {
		require.NoError(t, s.VerifyTrails(ctx, func(id, n uint64, _ string, err error) { entries, fault = n, err }))
		return entries, fault
	}
	n, fault := verify()
	require.NoError(t, fault)
	assert.EqualValues(t, 21, n)
	for sql, at := range map[string]uint64{
		"UPDATE trail SET name = 'Bob' WHERE number = 5": 5,
		"UPDATE trail SET at = NOW() WHERE number = 1":   1,
		"DELETE FROM trail WHERE number = 7":             7,
		"DELETE FROM trail WHERE number > 19":            21,
		"DELETE FROM trail_heads":                        21,
		"UPDATE trail SET number = 99 WHERE number = 21": 21,
		"DELETE FROM trail":                              21,
	} {
		tx := s.db.Begin()
		within := context.WithValue(ctx, txKey{}, tx)
		require.NoError(t, tx.Exec(sql).Error)
		var found error
		require.NoError(t, s.verifyTrails(within, func(_, _ uint64, _ string, err error) { found = err }))
		var broken *study.BrokenError
		require.ErrorAs(t, found, &broken, sql)
		assert.Equal(t, at, broken.Number, sql)
		tx.Rollback()
	}
	require.NoError(t, s.SetStudyDeleted(ctx, st.ID, true))
	_, err := s.Purge(ctx, now().Add(time.Hour))
	require.NoError(t, err)
	n, fault = verify()
	require.NoError(t, fault)
	assert.EqualValues(t, 22, n)
}

// Whether the database answers is told as it is at the moment.
func TestReady(t *testing.T) {
	t.Parallel()
	s, err := Open(ctx, mariadbtest.Database(t))
	require.NoError(t, err)
	require.NoError(t, s.Ready(ctx))
	assert.Len(t, s.Pools(), 3)
	ended, stop := context.WithCancel(ctx)
	stop()
	require.Error(t, s.Ready(ended))
	require.NoError(t, s.Close())
	require.Error(t, s.Ready(ctx))
}
