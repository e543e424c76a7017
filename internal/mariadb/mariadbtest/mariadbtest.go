// Package mariadbtest gives tests a real MariaDB: one throwaway server for a whole run of the
// tests, or for a test binary that is run alone, and one database per test.
package mariadbtest

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"

	"widetally/internal/mariadb"
	"widetally/internal/testroom"
)

// Env names the variable that holds the address of a server to use instead of an own one; its
// account must be allowed to create databases named widetally….
const Env = "WIDETALLY_TEST_DSN"

var (
	admin   string
	counter atomic.Int64
)

// Run gives the tests a room and a server and runs them; call it from TestMain. With
// WIDETALLY_DURABLE set, as for benchmarks, the server keeps what was committed as an ordinary
// one does.
func Run(m *testing.M) {
	os.Exit(testroom.In(func(r testroom.Room) int {
		var err error
		if admin, err = Serve(r); err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		return m.Run()
	}))
}

// Serve starts a throwaway server in a room, with which it ends, unless one is named, and
// returns its address.
func Serve(r testroom.Room) (dsn string, err error) {
	if dsn = os.Getenv(Env); dsn != "" {
		return dsn, nil
	}
	server, err := mariadb.Start(context.Background(), filepath.Join(r.Dir, "a server"),
		mariadb.Options{Throwaway: os.Getenv("WIDETALLY_DURABLE") == ""})
	if err != nil {
		return "", err
	}
	return server.DSN(), nil
}

// Database makes an empty database, dropped when the test ends, and returns its
// address.
func Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("widetally_t%d_%d", os.Getpid(), counter.Add(1))
	db, err := sql.Open("mysql", admin)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("CREATE DATABASE `" + name + "`"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_, _ = db.Exec("DROP DATABASE IF EXISTS `" + name + "`")
		db.Close()
	})
	c, err := mysql.ParseDSN(admin)
	if err != nil {
		t.Fatal(err)
	}
	c.DBName = name
	return c.FormatDSN()
}
