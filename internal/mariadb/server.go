// Package mariadb runs a private MariaDB server for this application: its own
// data folder, loopback only, a free port, its own account with a random
// password in a file that only the owner can read. No server or database of the
// system is used, started or changed.
package mariadb

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

const (
	database  = "widetally"
	account   = "widetally"
	startWait = 90 * time.Second
	stopWait  = 60 * time.Second
	fullWait  = 3 * time.Second // on a disk without room, for which the server would wait
)

// Server is a running private server.
type Server struct {
	dir    string
	port   int
	secret string
	lock   *os.File
	cmd    *exec.Cmd
	exited chan struct{}
}

// ErrInUse is returned by Start when another process already uses the folder.
var ErrInUse = errors.New("another Wide Tally already runs on this data folder")

// Options adjusts a server.
type Options struct {
	// Throwaway trades durability for speed, and a server that outlives its application for
	// one that ends with it, for tests.
	Throwaway bool
	// Room is how many bytes must be free before the server starts, which would hang
	// on a full disk; 0 takes what its files need.
	Room int64
	// Member makes it a node of a cluster; nil for a server by itself.
	Member *Member
}

// ErrNoRoom is returned by Start when the disk has too little room for a start.
var ErrNoRoom = errors.New("the disk is too full to start")

// Room for a first start, which makes the system tables and the logs, and for a later
// one.
const (
	firstRoom = 512 << 20
	laterRoom = 64 << 20
	endRoom   = 4 << 20
)

// room reports a disk without room in words, before the server meets it.
func (s *Server) room(opt Options) error {
	need := opt.Room
	if need == 0 {
		need = laterRoom
		if _, err := os.Stat(s.path("data")); err != nil {
			need = firstRoom
		}
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(s.dir, &disk); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	if free := int64(disk.Bavail) * disk.Bsize; free < need {
		return fmt.Errorf("%w: %d MB are free at %s, %d MB are needed; make room and start again", ErrNoRoom, free>>20, s.dir, need>>20)
	}
	return nil
}

// Start brings up a server on dir, which is created when it does not exist. A
// server left behind by a killed application is ended first; a data folder left
// behind by a killed server is recovered by MariaDB itself.
func Start(ctx context.Context, dir string, opt Options) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, fmt.Errorf("mariadb: %w", err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("mariadb: data folder: %w", err)
	}
	s := &Server{dir: dir, exited: make(chan struct{})}
	if err := s.acquire(); err != nil {
		return nil, err
	}
	if err := s.start(ctx, opt); err != nil {
		s.lock.Close()
		return nil, err
	}
	return s, nil
}

func (s *Server) start(ctx context.Context, opt Options) error {
	if err := s.room(opt); err != nil {
		return err
	}
	if err := s.endOrphans(); err != nil {
		return err
	}
	if err := s.initialise(ctx, opt); err != nil {
		return err
	}
	if err := s.password(); err != nil {
		return err
	}
	// The port is free when asked for; another process may take it before the
	// server does, so a failed start is tried again with another one.
	var err error
	for range 3 {
		if err = s.launch(ctx, opt); err == nil || ctx.Err() != nil {
			return err
		}
	}
	return err
}

func (s *Server) path(name string) string { return filepath.Join(s.dir, name) }

// DSN returns the address of the database in the form of the Go driver.
func (s *Server) DSN() string { return s.dsn(database) }

func (s *Server) dsn(db string) string {
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.DBName = account, s.secret, "tcp", db
	c.Addr = net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port))
	return c.FormatDSN()
}

// acquire takes the folder's lock, which the kernel gives back however the
// process ends.
func (s *Server) acquire() error {
	f, err := os.OpenFile(s.path("lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return fmt.Errorf("%w (%s)", ErrInUse, s.dir)
	}
	s.lock = f
	return nil
}

// initialise makes the system tables, in a folder that gets its final name only
// when it is complete, so that a killed initialisation is started over.
func (s *Server) initialise(ctx context.Context, opt Options) error {
	if _, err := os.Stat(s.path("data")); err == nil {
		return nil
	}
	if opt.Member != nil && !opt.Member.founds { // which takes over the tables of another node
		if err := os.Mkdir(s.path("data"), 0o700); err != nil {
			return fmt.Errorf("mariadb: %w", err)
		}
		return nil
	}
	if err := os.RemoveAll(s.path("data.new")); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	me, err := user.Current()
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	program, err := find("mariadb-install-db")
	if err != nil {
		return err
	}
	if err := s.makeTemporary(); err != nil {
		return err
	}
	// The script does not quote its folder, so it is handed one without blanks.
	alias, err := os.MkdirTemp("/tmp", s.aliasPrefix())
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	defer os.RemoveAll(alias)
	if err := os.Symlink(s.dir, filepath.Join(alias, "db")); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	cmd := exec.CommandContext(ctx, program, "--no-defaults", "--datadir="+filepath.Join(alias, "db", "data.new"), "--user="+me.Username,
		"--auth-root-authentication-method=socket", "--auth-root-socket-user="+me.Username, "--skip-test-db", "--skip-name-resolve")
	cmd.Env = append(os.Environ(), "TMPDIR="+filepath.Join(alias, "db", "tmp"))
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("mariadb: making the data folder %s: %w\n%s", s.path("data"), err, out)
	}
	if err := os.Rename(s.path("data.new"), s.path("data")); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	return nil
}

// makeTemporary makes the server's own folder for temporary tables. A starting server
// clears its folder of what looks left behind, so sharing one would let a second copy
// delete what the first is using.
func (s *Server) makeTemporary() error {
	if err := os.MkdirAll(s.path("tmp"), 0o700); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	return nil
}

// password reads the account's password, or makes one on the first start.
func (s *Server) password() error {
	file := s.path("password")
	if raw, err := os.ReadFile(file); err == nil && len(raw) >= 32 {
		s.secret = string(raw)
		return nil
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	s.secret = hex.EncodeToString(raw)
	if err := os.WriteFile(file, []byte(s.secret), 0o600); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	return nil
}

func (s *Server) launch(ctx context.Context, opt Options) error {
	program, err := find("mariadbd")
	if err != nil {
		return err
	}
	me, err := user.Current()
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	if s.port, err = freePort(); err != nil {
		return err
	}
	if opt.Member != nil {
		s.port = opt.Member.Port
	}
	if err := s.makeTemporary(); err != nil {
		return err
	}
	setup := "CREATE DATABASE IF NOT EXISTS " + database + " CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;\n" +
		"CREATE USER IF NOT EXISTS '" + account + "'@'127.0.0.1';\n" +
		"ALTER USER '" + account + "'@'127.0.0.1' IDENTIFIED BY '" + s.secret + "';\n" +
		"GRANT ALL ON `widetally%`.* TO '" + account + "'@'127.0.0.1';\n"
	if err := os.WriteFile(s.path("setup.sql"), []byte(setup), 0o600); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	args := []string{"--no-defaults", "--datadir=" + s.path("data"), "--user=" + me.Username,
		"--bind-address=127.0.0.1", "--port=" + strconv.Itoa(s.port), "--socket=server.sock", // relative to the data folder: a long path would not fit
		"--pid-file=" + s.path("server.pid"), "--log-error=" + s.path("server.log"), "--tmpdir=" + s.path("tmp"), "--init-file=" + s.path("setup.sql"),
		"--skip-name-resolve", "--skip-symbolic-links", "--local-infile=0", "--max-allowed-packet=64M",
		"--innodb-buffer-pool-size=128M", "--innodb-log-file-size=192M", "--innodb-log-buffer-size=32M", "--character-set-server=utf8mb4", "--collation-server=utf8mb4_bin",
		"--sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION", "--performance-schema=OFF"}
	if opt.Throwaway {
		args = append(args, "--innodb-flush-log-at-trx-commit=0", "--innodb-buffer-pool-size=64M", "--innodb-log-file-size=64M")
	}
	if opt.Member != nil {
		more, err := opt.Member.args(s, program)
		if err != nil {
			return err
		}
		args = append(args, more...)
	}
	s.cmd = exec.Command(program, args...)
	s.cmd.Dir = s.dir
	if opt.Member != nil {
		s.cmd.Env = opt.Member.programs.env()
	}
	// Its own process group, so that Ctrl-C reaches the application alone, which
	// then ends the server in order.
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if opt.Throwaway {
		s.cmd.SysProcAttr.Pdeathsig = syscall.SIGKILL
	}
	if err := s.cmd.Start(); err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	s.exited = make(chan struct{})
	go func() { _ = s.cmd.Wait(); close(s.exited) }()
	if err := s.awaitReady(ctx, opt); err != nil {
		s.end()
		return err
	}
	return nil
}

func (s *Server) awaitReady(ctx context.Context, opt Options) error {
	db, err := sql.Open("mysql", s.dsn(database))
	if err != nil {
		return fmt.Errorf("mariadb: %w", err)
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(ctx, startWait)
	defer cancel()
	for {
		if err = db.PingContext(ctx); err == nil && opt.Member != nil {
			err = synced(ctx, db)
		}
		if err == nil {
			return nil
		}
		select {
		case <-s.exited:
			return fmt.Errorf("mariadb: the server ended while starting; its log %s ends with:\n%s", s.path("server.log"), tail(s.path("server.log")))
		case <-ctx.Done():
			return fmt.Errorf("mariadb: the server did not answer: %w (last: %v)", ctx.Err(), err)
		case <-time.After(60 * time.Millisecond):
		}
	}
}

// patience is how long the server is given to end in order. On a full disk it waits for room
// that does not come; what was committed stands in its log, and the next start takes it from there.
func (s *Server) patience() time.Duration {
	if errors.Is(s.room(Options{Room: endRoom}), ErrNoRoom) {
		return fullWait
	}
	return stopWait
}

// Exited is closed when the server process ends, wanted or not.
func (s *Server) Exited() <-chan struct{} { return s.exited }

// Stop ends the server in order and gives the folder back.
func (s *Server) Stop() {
	s.end()
	s.lock.Close()
}

func (s *Server) end() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	select {
	case <-s.exited:
	case <-time.After(s.patience()):
		_ = s.cmd.Process.Kill()
		<-s.exited
	}
}
