package mariadb

import (
	"bytes"
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

// endOrphan ends a server that an earlier, killed application left running on
// this folder. It is recognised by its process id file and its command line.
func (s *Server) endOrphan() error {
	raw, err := os.ReadFile(s.path("server.pid"))
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(raw)))
	if err != nil || pid <= 1 || !s.isOurs(pid) {
		return nil
	}
	_ = syscall.Kill(pid, syscall.SIGTERM)
	for deadline := time.Now().Add(stopWait); time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
		if !s.isOurs(pid) {
			return nil
		}
	}
	return fmt.Errorf("mariadb: a server left from an earlier run (process %d) does not end; end it and start again", pid)
}

func (s *Server) isOurs(pid int) bool {
	line, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && bytes.Contains(line, []byte("--datadir="+s.path("data")+"\x00"))
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
