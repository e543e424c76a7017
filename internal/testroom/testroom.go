// Package testroom gives a test binary one folder for all that it leaves behind: temporary
// folders, database servers, browsers, started programs. The folder goes when the tests end;
// after a run that was killed it goes, with every process that works in it, when the next one
// begins.
package testroom

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
	"time"
)

// Room is a folder that belongs to this process as long as it lives.
type Room struct {
	Dir  string
	lock *os.File
}

// Run gives the tests a room and runs them in it; call it from TestMain. Within it
// os.TempDir, and so t.TempDir, is the room.
func Run(m *testing.M) { os.Exit(In(func(Room) int { return m.Run() })) }

// In runs something in a room that goes afterwards and returns what it returns.
func In(run func(Room) int) int {
	before := os.TempDir()
	below := filepath.Join(place(before), fmt.Sprintf("widetally-tests-%d", os.Getuid()))
	if within := filepath.Dir(before); filepath.Base(within) == filepath.Base(below) {
		below = within // started by somebody in a room: beside that one, so that paths stay short
	}
	r, err := Open(below)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer func() {
		if err := r.Close(); err != nil {
			fmt.Fprintln(os.Stderr, err)
		}
	}()
	defer os.Setenv("TMPDIR", before)
	if err := os.Setenv("TMPDIR", r.Dir); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return run(r)
}

// roomy is how much of memory there has to be for rooms to be in it.
const roomy = 12 << 30

// place is where rooms are: in memory where there is plenty of it, since the databases of tests keep nothing, else
// the usual folder. What measures, or shakes for long, is on disk, and so is what somebody named a folder for.
func place(usual string) string {
	const memory, tmpfs, noExec = "/dev/shm", 0x01021994, 8
	if os.Getenv("TMPDIR") != "" || os.Getenv("WIDETALLY_DURABLE") != "" || os.Getenv("WIDETALLY_SOAK") != "" {
		return usual
	}
	var fs syscall.Statfs_t
	if err := syscall.Statfs(memory, &fs); err != nil || fs.Type != tmpfs || fs.Flags&noExec != 0 || int64(fs.Bavail)*fs.Bsize < roomy { //nolint:gosec // blocks of a disk
		return usual
	}
	if available("/proc/meminfo", "MemAvailable: %d kB")<<10 < roomy {
		return usual
	}
	if most := available("/sys/fs/cgroup/memory.max", "%d"); most > 0 && most < roomy {
		return usual
	}
	return memory
}

// available reads a number from the line of a file that has this form; 0 for none.
func available(file, form string) (n int64) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return 0
	}
	for line := range bytes.Lines(raw) {
		if found, _ := fmt.Sscanf(string(line), form, &n); found == 1 {
			return n
		}
	}
	return 0
}

// Open makes a room below a folder, after the rooms of those who are no more have gone.
func Open(below string) (Room, error) {
	if err := os.MkdirAll(below, 0o700); err != nil {
		return Room{}, fmt.Errorf("testroom: %w", err)
	}
	one, err := locked(filepath.Join(below, "lock"), syscall.LOCK_EX) // one looks at a time
	if err != nil {
		return Room{}, err
	}
	defer one.Close()
	if err := sweep(below); err != nil {
		return Room{}, err
	}
	dir, err := os.MkdirTemp(below, "r-")
	if err != nil {
		return Room{}, fmt.Errorf("testroom: %w", err)
	}
	lock, err := locked(filepath.Join(dir, "lock"), syscall.LOCK_EX)
	if err != nil {
		return Room{}, err
	}
	return Room{Dir: dir, lock: lock}, nil
}

// Close ends what still works in the room and removes it.
func (r Room) Close() error {
	defer r.lock.Close()
	return clear(r.Dir)
}

// sweep clears the rooms whose process has ended: the kernel gave their locks back.
func sweep(below string) error {
	rooms, err := filepath.Glob(filepath.Join(below, "r-*"))
	if err != nil {
		return fmt.Errorf("testroom: %w", err)
	}
	for _, dir := range rooms {
		lock, err := locked(filepath.Join(dir, "lock"), syscall.LOCK_EX|syscall.LOCK_NB)
		if errors.Is(err, syscall.EWOULDBLOCK) {
			continue
		}
		if err != nil {
			return err
		}
		err = clear(dir)
		lock.Close()
		if err != nil {
			return err
		}
	}
	return nil
}

func locked(file string, how int) (*os.File, error) {
	f, err := os.OpenFile(file, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("testroom: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), how); err != nil {
		f.Close()
		return nil, fmt.Errorf("testroom: %s: %w", file, err)
	}
	return f, nil
}

// clear ends the processes that name the folder in their command line, and removes it. A
// process may start a further one, or write a file, while it is being ended.
func clear(dir string) error {
	var err error
	for range 200 {
		for _, pid := range within(dir) {
			_ = syscall.Kill(pid, syscall.SIGKILL)
		}
		if err = os.RemoveAll(dir); err == nil && len(within(dir)) == 0 {
			return nil
		}
		time.Sleep(10 * time.Millisecond)
	}
	return fmt.Errorf("testroom: %s does not go: %w", dir, err)
}

// within lists the processes, but for this one, that name a folder in their command line.
func within(dir string) (pids []int) {
	files, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, f := range files {
		line, err := os.ReadFile(f)
		if err != nil || !bytes.Contains(line, []byte(dir)) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(f))); err == nil && pid != os.Getpid() {
			pids = append(pids, pid)
		}
	}
	return pids
}
