package main

import (
	"database/sql"
	"path/filepath"
	"strings"
	"testing"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb"
)

// The audit trail of a data folder is whole as long as nobody has been at its tables; afterwards the command says where, and fails.
func TestAuditVerify(t *testing.T) {
	t.Parallel()
	data := dataFolder(t)
	add := program("user", "add", "ada@tally.example", "--name", "Ada", "--data", data)
	add.Stdin = strings.NewReader("nine herons quarry lantern\n")
	out, err := add.CombinedOutput()
	require.NoError(t, err, "%s", out)
	verify := func() (string, error) {
		out, err := program("audit", "verify", "--data", data).CombinedOutput()
		return string(out), err
	}
	whole, err := verify()
	require.NoError(t, err, whole)
	assert.Regexp(t, `accounts +1 entries  [0-9a-f]{64}  whole`, whole)
	again, err := verify()
	require.NoError(t, err)
	assert.Equal(t, whole, again, "the last seal stays")

	for _, k := range []struct{ statement, want string }{
		{"UPDATE trail SET what_values = REPLACE(what_values, 'Ada', 'Eve')", "entry 1 of the trail of study 0 was changed"},
		{"DELETE FROM trail", "entry 1 of the trail of study 0 is not there"},
	} {
		server, err := mariadb.Start(t.Context(), filepath.Join(data, "db"), mariadb.Options{})
		require.NoError(t, err)
		db, err := sql.Open("mysql", server.DSN())
		require.NoError(t, err)
		_, err = db.Exec(k.statement)
		require.NoError(t, err)
		require.NoError(t, db.Close())
		server.Stop()
		out, err := verify()
		require.Error(t, err)
		assert.Contains(t, out, k.want)
	}
}
