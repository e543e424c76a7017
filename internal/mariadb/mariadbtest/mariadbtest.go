// Package mariadbtest gives tests a real MariaDB: one throwaway server per test
// binary, one database per test.
package mariadbtest

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"

	"widetally/internal/mariadb"
)

var (
	admin   string
	counter atomic.Int64
)

// Run starts the server, runs the tests and ends it; call it from TestMain. With
// WIDETALLY_TEST_DSN set, that server is used instead; its account must be
// allowed to create databases named widetally…. With WIDETALLY_DURABLE set, as for
// benchmarks, the server keeps what was committed as an ordinary one does.
func Run(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	if admin = os.Getenv("WIDETALLY_TEST_DSN"); admin != "" {
		return m.Run()
	}
	dir, err := os.MkdirTemp("", "widetally test ")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	server, err := mariadb.Start(context.Background(), dir, mariadb.Options{Throwaway: os.Getenv("WIDETALLY_DURABLE") == ""})
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	admin = server.DSN()
	return m.Run()
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
