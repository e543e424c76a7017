package mariadb

import (
	"context"
	"database/sql"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A cluster keeps what it was given, whichever node is asked, over the loss of one and the end of all.
func TestACluster(t *testing.T) {
	programs, err := FindPrograms("../..")
	if err != nil {
		t.Skip(err)
	}
	dir := t.TempDir()
	ctx := context.Background()
	t0 := time.Now()
	c, err := StartCluster(ctx, dir, 3, programs, Options{Throwaway: true}, true)
	require.NoError(t, err)
	t.Log("started", time.Since(t0))
	count := func(i int) (n int) {
		db, err := sql.Open("mysql", c.DSN(i))
		require.NoError(t, err)
		defer db.Close()
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM t").Scan(&n))
		return n
	}
	db, err := sql.Open("mysql", c.DSN(1))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("CREATE TABLE t (id INT PRIMARY KEY)")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO t VALUES (1), (2)")
	require.NoError(t, err)
	c.Kill(0)
	t0 = time.Now()
	_, err = db.Exec("INSERT INTO t VALUES (3)")
	require.NoError(t, err)
	t.Log("write after kill", time.Since(t0))
	t0 = time.Now()
	require.NoError(t, c.Start(ctx, 0))
	t.Log("restart", time.Since(t0))
	for i := range 3 {
		assert.Equal(t, 3, count(i))
	}
	c.Stop()
	t0 = time.Now()
	c, err = StartCluster(ctx, dir, 3, programs, Options{Throwaway: true}, true)
	require.NoError(t, err)
	t.Log("again", time.Since(t0))
	assert.Equal(t, 3, count(2))
	c.Stop()
}
