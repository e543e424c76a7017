package mariadb

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// One server is taken through its life: made in a path with a blank, used,
// killed, started again; killed application, started again; locked while it runs.
func TestServerSurvivesKillsAndKeepsItsData(t *testing.T) {
	ctx := context.Background()
	dir := filepath.Join(t.TempDir(), "a checkout with blanks", "db")
	first, err := Start(ctx, dir, Options{})
	require.NoError(t, err)

	_, err = Start(ctx, dir, Options{})
	require.ErrorIs(t, err, ErrInUse)

	info, err := os.Stat(filepath.Join(dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	run(t, first.DSN(), "CREATE TABLE kept (n INT)", "INSERT INTO kept VALUES (42)", "INSERT INTO kept VALUES (43)")
	wrong := strings.Replace(first.DSN(), first.secret, "wrong", 1)
	assert.Error(t, open(t, wrong).Ping(), "another password is refused")
	root := strings.Replace(first.DSN(), account+":"+first.secret, "root:", 1)
	assert.Error(t, open(t, root).Ping(), "root cannot come over the network")

	require.NoError(t, first.cmd.Process.Signal(syscall.SIGKILL))
	<-first.Exited()
	first.lock.Close()
	second, err := Start(ctx, dir, Options{Throwaway: true})
	require.NoError(t, err, "comes up again after a kill")
	assert.Equal(t, 2, count(t, second.DSN()))

	second.lock.Close() // as when the application is killed: the server goes on
	third, err := Start(ctx, dir, Options{Throwaway: true})
	require.NoError(t, err, "takes over from a server left behind")
	defer third.Stop()
	<-second.Exited()
	assert.Equal(t, 2, count(t, third.DSN()))
}

// A start on a full disk ends with words instead of hanging.
func TestNoRoom(t *testing.T) {
	_, err := Start(context.Background(), t.TempDir(), Options{Room: 1 << 60})
	require.ErrorIs(t, err, ErrNoRoom)
	assert.ErrorContains(t, err, "make room and start again")
}

func open(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

func run(t *testing.T, dsn string, statements ...string) {
	t.Helper()
	db := open(t, dsn)
	for _, s := range statements {
		_, err := db.Exec(s)
		require.NoError(t, err, s)
	}
}

func count(t *testing.T, dsn string) (n int) {
	t.Helper()
	require.NoError(t, open(t, dsn).QueryRow("SELECT COUNT(*) FROM kept").Scan(&n))
	return n
}
