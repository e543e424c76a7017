package store

import (
	"database/sql"
	"encoding/json"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/study"
	"widetally/internal/mariadb/mariadbtest"
)

// allStatements are those of every migration, as a start runs them.
func allStatements() (out []string) {
	for _, m := range migrationSteps {
		out = append(out, m.sql...)
	}
	return out
}

func raw(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

func schema(t *testing.T, db *sql.DB) (out []string) {
	t.Helper()
	rows, err := db.Query("SELECT CONCAT_WS(' ', table_name, column_name, column_type, is_nullable) FROM information_schema.columns WHERE table_schema = DATABASE() UNION ALL SELECT CONCAT_WS(' ', table_name, index_name, column_name, non_unique) FROM information_schema.statistics WHERE table_schema = DATABASE() ORDER BY 1")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var s string
		require.NoError(t, rows.Scan(&s))
		out = append(out, s)
	}
	return out
}

// A start that is ended behind any statement of any migration starts again and ends with
// the same tables.
func TestAMigrationSurvivesAKillAtAnyStatement(t *testing.T) {
	t.Parallel()
	whole := mariadbtest.Database(t)
	s, err := Open(ctx, whole)
	require.NoError(t, err)
	s.Close()
	want := schema(t, raw(t, whole))
	all := allStatements()
	require.Greater(t, len(all), 18)
	for k := range all {
		dsn := mariadbtest.Database(t)
		db := raw(t, dsn)
		for _, statement := range all[:k+1] {
			_, err := db.Exec(statement)
			require.NoError(t, err, statement)
		}
		s, err := Open(ctx, dsn)
		require.NoError(t, err, "ended behind %.70s", all[k])
		s.Close()
		assert.Equal(t, want, schema(t, db), "ended behind %.70s", all[k])
	}
}

func TestTwoStartsAtOnce(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	var wait sync.WaitGroup
	for range 4 {
		wait.Go(func() {
			s, err := Open(ctx, dsn)
			if assert.NoError(t, err) {
				s.Close()
			}
		})
	}
	wait.Wait()
}

// A study of an earlier version keeps its claims' numbers and its columns' generations.
func TestAnEarlierStudyIsBroughtUpToDate(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	db := raw(t, dsn)
	for _, m := range migrationSteps[:2] {
		for _, statement := range m.sql {
			_, err := db.Exec(statement)
			require.NoError(t, err)
		}
	}
	for _, statement := range strings.Split(`CREATE TABLE migrations (id VARCHAR(64) PRIMARY KEY);
		INSERT INTO migrations VALUES ('0001'), ('0002');
		INSERT INTO studies VALUES (7, 'Fernmouth', 'households', 1, 2, NOW(), NOW(), NULL, 3, NULL);
		INSERT INTO questions (id, study_id, position, name, wording, kind, kind_reason, version, generation) VALUES (9, 7, 0, 'ward', 'ward', 'single', 'few_words', 1, 3);
		INSERT INTO column_chunks (question_id, generation, seq, encoding, row_count, checksum, data) VALUES (9, 5, 0, 1, 2, 0, '');
		INSERT INTO answers (question_id, slot, position, code, label, missing) VALUES (9, 1, 0, 'a "b"', 'a', ''), (9, 2, 1, 'ü\\', 'u', '');
		INSERT INTO claims (id, study_id, question_id, number, role, level, mode, rescale, reference_kind, source, source_date, stated_at, version, subgroup_id) VALUES (21, 7, 9, 4, 'null', 0.025, 'percents', 1, 'register', 'the "register"', 'May', NOW(), 3, 11);
		INSERT INTO claims (id, study_id, question_id, number, role, level, mode, rescale, reference_kind, source, source_date, stated_at, deleted_at, version) VALUES (22, 7, 9, 3, 'alternative', 1e-5, 'equal', 0, 'theory', '', '', NOW(), NOW(), 1);
		INSERT INTO claim_shares (claim_id, slot, figure) VALUES (21, 2, '1/3'), (21, 1, '66,7')`, ";\n") {
		_, err := db.Exec(statement)
		require.NoError(t, err, statement)
	}
	s, err := Open(ctx, dsn)
	require.NoError(t, err)
	defer s.Close()
	a, err := s.AddAnalysis(ctx, study.Analysis{StudyID: 7, QuestionID: 9, Spec: "{}"}, true)
	require.NoError(t, err)
	assert.Equal(t, 5, a.Number)
	all, err := s.AllAnalyses(ctx, 7)
	require.NoError(t, err)
	require.Len(t, all, 3)
	assert.Equal(t, `{"method":"goodness-of-fit","version":1,"questions":["9"],"subgroup":"11","settings":{"shares":{"scale":"percents","rescale":true,"figures":[{"code":"a \"b\"","figure":"66,7"},{"code":"ü\\","figure":"1/3"}],"source":{"kind":"register","title":"the \"register\"","date":"May"}},"role":"null","level":0.025}}`, all[0].Spec)
	assert.Equal(t, []any{4, 3, []study.Use{{Subject: study.OfPart, ID: 11}, {Subject: study.OfQuestion, ID: 9}}}, []any{all[0].Number, all[0].Version, all[0].Uses})
	assert.NotNil(t, all[1].WithdrawnAt)
	assert.True(t, json.Valid([]byte(all[1].Spec)), all[1].Spec)
	next, err := s.NextGeneration(ctx, 9)
	require.NoError(t, err)
	assert.Equal(t, 6, next, "5 belongs to an edit that was taken back")
}

// What the server says of a full disk is told apart.
func TestAFullDiskIsTold(t *testing.T) {
	t.Parallel()
	s := open(t)
	err := translate(s.db.Exec("SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = 1114, MESSAGE_TEXT = 'The table is full'").Error)
	assert.ErrorIs(t, err, study.ErrFull)
	err = translate(s.db.Exec("SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = 1644, MESSAGE_TEXT = 'Something else'").Error)
	assert.NotErrorIs(t, err, study.ErrFull)
}
