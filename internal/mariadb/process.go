package mariadb

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// endOrphans ends servers that an earlier, killed application left running on this
// folder, whether they were up, still starting, or making the system tables. They are
// recognised by their command lines.
func (s *Server) endOrphans() error {
	var left []int
	began := time.Now()
	for signal := syscall.SIGTERM; ; time.Sleep(50 * time.Millisecond) {
		if left = s.orphans(); len(left) == 0 {
			return nil
		}
		for _, pid := range left {
			_ = syscall.Kill(pid, signal)
		}
		if time.Since(began) > stopWait/3 { // it does not listen; the tables recover by themselves
			signal = syscall.SIGKILL
		}
		if time.Since(began) > stopWait {
			return fmt.Errorf("mariadb: a server left from an earlier run (process %d) does not end; end it and start again", left[0])
		}
	}
}

// orphans lists the processes that work on this folder.
func (s *Server) orphans() (pids []int) {
	files, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, f := range files {
		line, err := os.ReadFile(f)
		if err != nil || !bytes.Contains(line, []byte("--datadir="+s.path("data")+"\x00")) && !bytes.Contains(line, []byte("--datadir=/tmp/"+s.aliasPrefix())) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(f))); err == nil && pid != os.Getpid() {
			pids = append(pids, pid)
		}
	}
	return pids
}

// aliasPrefix begins the names under which this folder is known to the script that makes
// the system tables.
func (s *Server) aliasPrefix() string {
	sum := sha256.Sum256([]byte(s.dir))
	return "widetally-" + hex.EncodeToString(sum[:8]) + "-"
}

// find looks for a program in PATH and where Debian puts servers, which an
// ordinary user's PATH does not name.
func find(program string) (string, error) {
	if p, err := exec.LookPath(program); err == nil {
		return p, nil
	}
	for _, dir := range []string{"/usr/sbin", "/usr/local/sbin", "/usr/bin", "/usr/local/bin"} {
		p := filepath.Join(dir, program)
		if info, err := os.Stat(p); err == nil && !info.IsDir() {
			return p, nil
		}
	}
	return "", fmt.Errorf("mariadb: the program %s is not installed; run scripts/setup.sh, or name another server in WIDETALLY_DSN", program)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("mariadb: no free port: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// tail returns the last lines of a log for an error text.
func tail(file string) string {
	raw, _ := os.ReadFile(file)
	lines := strings.Split(strings.TrimSpace(string(raw)), "\n")
	return strings.Join(lines[max(0, len(lines)-8):], "\n")
}
