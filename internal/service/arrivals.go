package service

import (
	"bufio"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"reflect"
	"sync"
	"syscall"
	"time"
	"unicode/utf8"

	"widetally/core/study"
	"widetally/internal/intake"
)

const (
	mostArrivals = 32
	arrivalLife  = 2 * time.Hour
)

// ErrTooLarge is returned for a file over the limit.
var ErrTooLarge = errors.New("service: the file is larger than allowed")

// waiting is an arrived file. The fields below mu change while it is read.
type waiting struct {
	path, name string
	size       int64
	since      time.Time
	progress   *progress
}

// How many files are read, and how many kept, at once; the others wait their turn, so
// that the rest of the application finds memory, processors and connections.
const (
	readAtOnce = 2
	keptAtOnce = 4
)

// arrivals keeps files between arriving and being kept. Safe for concurrent use.
type arrivals struct {
	dir     string
	lock    *os.File // held as long as the folder is in use
	most    int64    // bytes of one file; 0 for what the disk allows
	memory  int64    // that reading a file may take
	reserve int64    // that must stay free on the disk
	reading chan struct{}
	keeping chan struct{}
	mu      sync.Mutex
	byID    map[string]waiting
	// last is the table read last, so that keeping a file right after a look at it
	// need not read it again. There is only one, since tables are large.
	last struct {
		id    string
		table *intake.Table
	}
}

// newArrivals makes a folder of this process's own within dir, and removes those of
// processes that have ended: several may serve the same database and folder.
func newArrivals(dir string, most, memory int64) (*arrivals, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("service: arrivals: %w", err)
	}
	left, err := os.ReadDir(dir)
	if err != nil {
		return nil, fmt.Errorf("service: arrivals: %w", err)
	}
	for _, e := range left {
		old := filepath.Join(dir, e.Name())
		if e.Name() == keptFolder {
			continue
		}
		if info, err := e.Info(); err != nil || time.Since(info.ModTime()) < time.Minute && !hasLock(old) {
			continue // another process may be making it
		}
		if lock, err := lockFolder(old, 0); err == nil || !e.IsDir() {
			os.RemoveAll(old)
			lock.Close()
		}
	}
	own, err := os.MkdirTemp(dir, "")
	if err != nil {
		return nil, fmt.Errorf("service: arrivals: %w", err)
	}
	lock, err := lockFolder(own, os.O_CREATE)
	if err != nil {
		return nil, fmt.Errorf("service: arrivals: %w", err)
	}
	return &arrivals{dir: own, lock: lock, most: most, memory: memory, reserve: reserve, byID: map[string]waiting{},
		reading: make(chan struct{}, readAtOnce), keeping: make(chan struct{}, keptAtOnce)}, nil
}

func hasLock(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, "lock"))
	return err == nil
}

// lockFolder takes a folder's lock, which the kernel gives back however the process ends.
func lockFolder(dir string, flags int) (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_RDWR|flags, 0o600)
	if errors.Is(err, os.ErrNotExist) && flags == 0 {
		return nil, nil // it was never in use
	}
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, err
	}
	return f, nil
}

// reserve is what must stay free on the disk: the database server ends when it cannot
// write, so nothing is begun that could bring it there.
const reserve = 96 << 20

// keptTimes is how often a file lies on the disk at the most while it is brought in: as it
// arrived, packed, its columns, and what the server writes beside them to be able to take them
// back.
const keptTimes = 4

// free is what may still be written to the disk.
func (a *arrivals) free() (int64, error) {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(a.dir, &disk); err != nil {
		return 0, fmt.Errorf("service: %w", err)
	}
	return int64(disk.Bavail)*disk.Bsize - a.reserve, nil
}

// limit is how large a file may be.
func (a *arrivals) limit() int64 {
	free, err := a.free()
	if most := max(0, free/keptTimes); err == nil && (a.most == 0 || most < a.most) {
		return most
	}
	return a.most
}

// room refuses to write so many more bytes where the disk would come near to full. The
// private server's files lie on the same disk as the folder of waiting files.
func (a *arrivals) room(more int64) error {
	free, err := a.free()
	if err == nil && free < more {
		err = fmt.Errorf("service: %d MB free: %w", (free+a.reserve)>>20, syscall.ENOSPC)
	}
	return err
}

// turn waits until one of so many places is free; release gives it back.
func (a *arrivals) turn(ctx context.Context, places chan struct{}, p *progress) (release func(), err error) {
	release = func() { <-places }
	select {
	case places <- struct{}{}:
		return release, nil
	default:
	}
	ctx, end := p.begin(ctx, Waiting)
	defer end()
	select {
	case places <- struct{}{}:
		return release, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// outgoing writes a file that will be sent and returns it, open at its beginning. Where the disk
// is full it is written among the system's temporary files: what leaves makes room.
func (a *arrivals) outgoing(fill func(io.Writer) error) (*os.File, error) {
	f, err := a.filled(a.dir, fill)
	if errors.Is(err, syscall.ENOSPC) {
		f, err = a.filled("", fill)
	}
	return f, err
}

func (a *arrivals) filled(dir string, fill func(io.Writer) error) (*os.File, error) {
	f, err := os.CreateTemp(dir, "out")
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	out := bufio.NewWriterSize(f, 256<<10)
	if err = fill(out); err == nil {
		err = out.Flush()
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		f.Close()
		os.Remove(f.Name())
		return nil, err
	}
	return f, nil
}

func (a *arrivals) take(name string, r io.Reader) (string, waiting, error) {
	raw := make([]byte, 12)
	if _, err := rand.Read(raw); err != nil {
		return "", waiting{}, fmt.Errorf("service: %w", err)
	}
	id := hex.EncodeToString(raw)
	w := waiting{path: filepath.Join(a.dir, id), name: cleanName(name), since: time.Now(), progress: &progress{}}
	var err error
	if w.size, err = a.write(w.path, func(f io.Writer) error {
		_, err := io.Copy(f, r)
		return err
	}); err != nil {
		return "", waiting{}, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.sweep()
	a.byID[id] = w
	return id, w, nil
}

// write makes a file of bounded size, or none.
func (a *arrivals) write(path string, fill func(io.Writer) error) (int64, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, fmt.Errorf("service: arrivals: %w", err)
	}
	most := a.most
	if most == 0 {
		if most = a.limit(); most == 0 {
			err = a.room(2 * lookEvery)
		}
	}
	if err != nil {
		f.Close()
		os.Remove(path)
		return 0, err
	}
	bounded := &boundedWriter{w: f, left: most, room: a.room}
	err = fill(bounded)
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err != nil {
		os.Remove(path)
		return 0, err
	}
	return most - bounded.left, nil
}

type boundedWriter struct {
	w    io.Writer
	left int64
	room func(more int64) error
	due  int64 // bytes after which the disk is looked at again
}

// lookEvery is how many bytes are written between two looks at the disk.
const lookEvery = 8 << 20

func (b *boundedWriter) Write(p []byte) (int, error) {
	if b.due -= int64(len(p)); b.due < 0 {
		if err := b.room(2 * lookEvery); err != nil {
			return 0, err
		}
		b.due = lookEvery
	}
	if b.left -= int64(len(p)); b.left < 0 {
		return 0, ErrTooLarge
	}
	return b.w.Write(p)
}

// sweep drops what waited too long, and the oldest when there are too many, but nothing that is
// being worked on.
func (a *arrivals) sweep() {
	oldest := ""
	for id, w := range a.byID {
		if w.progress.busy() {
			continue
		}
		if time.Since(w.since) > arrivalLife {
			a.remove(id)
			continue
		}
		if oldest == "" || w.since.Before(a.byID[oldest].since) {
			oldest = id
		}
	}
	if len(a.byID) >= mostArrivals {
		a.remove(oldest)
	}
}

func (a *arrivals) remove(id string) {
	if w, ok := a.byID[id]; ok {
		w.progress.stop()
		os.Remove(w.path)
		delete(a.byID, id)
	}
	if a.last.id == id {
		a.last.id, a.last.table = "", nil
	}
}

func (a *arrivals) get(id string) (waiting, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	w, ok := a.byID[id]
	if !ok {
		return w, study.ErrNotFound
	}
	return w, nil
}

// read reads a waiting file, unless it was just read with the same settings.
func (a *arrivals) read(ctx context.Context, id string, settings intake.Settings) (*intake.Table, error) {
	w, err := a.get(id)
	if err != nil {
		return nil, err
	}
	a.mu.Lock()
	if a.last.id == id && reflect.DeepEqual(a.last.table.Settings, settings) {
		defer a.mu.Unlock()
		return a.last.table, nil
	}
	a.last.id, a.last.table = "", nil
	a.mu.Unlock()
	release, err := a.turn(ctx, a.reading, w.progress)
	if err != nil {
		return nil, err
	}
	defer release()
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("service: arrivals: %w", err)
	}
	defer f.Close()
	ctx, end := w.progress.begin(ctx, Reading)
	defer end()
	table, err := intake.Read(ctx, a.file(f, w), settings, w.progress.at)
	if err != nil {
		return nil, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if _, waits := a.byID[id]; waits {
		a.last.id, a.last.table = id, table
	}
	return table, nil
}

func (a *arrivals) file(f *os.File, w waiting) intake.File {
	return intake.File{R: f, Size: w.size, Memory: a.memory}
}

// cleanName keeps the last part of a file's name, as valid text of bounded length.
func cleanName(name string) string {
	name = filepath.Base(filepath.Clean("/" + name))
	if !utf8.ValidString(name) || name == "/" {
		return "answers"
	}
	if r := []rune(name); len(r) > 120 {
		name = string(r[:120])
	}
	return name
}

func (a *arrivals) discard(id string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.remove(id)
}
