// Package arrivals keeps files from their arrival until they are packed into the database: a room
// for those that wait to be kept, with how far work on each has come and whose turn it is, and the
// kept ones that still have to be packed.
package arrivals

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

	"golang.org/x/sync/semaphore"

	"widetally/core/study"
	"widetally/internal/intake"
)

const (
	mostArrivals = 32
	arrivalLife  = 2 * time.Hour
)

// ErrTooLarge is returned for a file over the limit.
var ErrTooLarge = errors.New("arrivals: the file is larger than allowed")

// File is an arrived file.
type File struct {
	ID, Name string
	// By is the id of who brought it, whom alone it is for.
	By       string
	Size     int64 // bytes
	path     string
	since    time.Time
	progress *progress
}

// How many files are read, and how many kept, at once; the others wait their turn, so
// that the rest of the application finds memory, processors and connections.
const (
	readAtOnce = 2
	keptAtOnce = 4
)

// Room keeps files between arriving and being kept. Safe for concurrent use.
type Room struct {
	// Reserve is what must stay free on the disk, in bytes: the database server ends when it
	// cannot write, so nothing is begun that could bring it there.
	Reserve int64
	dir     string
	lock    *os.File // held as long as the folder is in use
	most    int64    // bytes of one file; 0 for what the disk allows
	memory  int64    // that reading a file may take
	reading *semaphore.Weighted
	keeping *semaphore.Weighted
	mu      sync.Mutex
	byID    map[string]File
	// last is the table read last, so that keeping a file right after a look at it
	// need not read it again. There is only one, since tables are large.
	last struct {
		id    string
		table *intake.Table
	}
}

// OpenRoom makes a folder of this process's own within dir, and removes those of processes that
// have ended: several may serve the same database and folder. most bounds a file, in bytes, 0 for
// what the disk allows; memory bounds what reading one may take, 0 for 1 GB.
func OpenRoom(dir string, most, memory int64) (*Room, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
	}
	left, err := os.ReadDir(dir)
	if err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
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
		return nil, fmt.Errorf("arrivals: %w", err)
	}
	lock, err := lockFolder(own, os.O_CREATE)
	if err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
	}
	return &Room{dir: own, lock: lock, most: most, memory: memory, Reserve: usualReserve, byID: map[string]File{},
		reading: semaphore.NewWeighted(readAtOnce), keeping: semaphore.NewWeighted(keptAtOnce)}, nil
}

// Dir is the folder in which the files lie, each under its id.
func (a *Room) Dir() string { return a.dir }

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

const usualReserve = 96 << 20

// keptTimes is how often a file lies on the disk at the most while it is brought in: as it
// arrived, packed, its columns, and what the server writes beside them to be able to take them
// back.
const keptTimes = 4

// free is what may still be written to the disk.
func (a *Room) free() (int64, error) {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(a.dir, &disk); err != nil {
		return 0, fmt.Errorf("arrivals: %w", err)
	}
	return int64(disk.Bavail)*disk.Bsize - a.Reserve, nil
}

// Limit is how large a file may be, in bytes, as the disk is now.
func (a *Room) Limit() int64 {
	free, err := a.free()
	if most := max(0, free/keptTimes); err == nil && (a.most == 0 || most < a.most) {
		return most
	}
	return a.most
}

// Fits refuses to write so many more bytes where the disk would come near to full. The
// private server's files lie on the same disk as the folder of waiting files.
func (a *Room) Fits(more int64) error {
	free, err := a.free()
	if err == nil && free < more {
		err = fmt.Errorf("arrivals: %d MB free: %w", (free+a.Reserve)>>20, syscall.ENOSPC)
	}
	return err
}

// turn waits until there is a place; release gives it back.
func turn(ctx context.Context, places *semaphore.Weighted, p *progress) (release func(), err error) {
	release = func() { places.Release(1) }
	if places.TryAcquire(1) {
		return release, nil
	}
	ctx, end := p.begin(ctx, Waiting)
	defer end()
	if err := places.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	return release, nil
}

// TurnToKeep waits until a file may be kept, of which only a few are at once, and refuses what would
// not fit on the disk: about as often as it is kept there, with what the server writes beside it to
// be able to take it back. release gives the turn back.
func (a *Room) TurnToKeep(ctx context.Context, w File) (release func(), err error) {
	if release, err = turn(ctx, a.keeping, w.progress); err != nil {
		return nil, err
	}
	if err := a.Fits((keptTimes - 1) * w.Size); err != nil {
		release()
		return nil, err
	}
	return release, nil
}

// Outgoing writes a file that will be sent and returns it, open at its beginning. Where the disk
// is full it is written among the system's temporary files: what leaves makes room.
func (a *Room) Outgoing(fill func(io.Writer) error) (*os.File, error) {
	f, err := a.filled(a.dir, fill)
	if errors.Is(err, syscall.ENOSPC) {
		f, err = a.filled("", fill)
	}
	return f, err
}

func (a *Room) filled(dir string, fill func(io.Writer) error) (*os.File, error) {
	f, err := os.CreateTemp(dir, "out")
	if err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
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

// Take takes a file in, by somebody. Errors: ErrTooLarge, that of a full disk, that of the reader.
func (a *Room) Take(by, name string, r io.Reader) (File, error) {
	raw := make([]byte, 12)
	if _, err := rand.Read(raw); err != nil {
		return File{}, fmt.Errorf("arrivals: %w", err)
	}
	id := hex.EncodeToString(raw)
	w := File{ID: id, By: by, Name: cleanName(name), path: filepath.Join(a.dir, id), since: time.Now(), progress: &progress{}}
	var err error
	if w.Size, err = a.write(w.path, func(f io.Writer) error {
		_, err := io.Copy(f, r)
		return err
	}); err != nil {
		return File{}, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.sweep()
	a.byID[id] = w
	return w, nil
}

// Bundle adds a file that an arrived descriptor names to it.
func (a *Room) Bundle(id, name string, r io.Reader) (File, error) {
	w, err := a.Get(id)
	if err != nil {
		return w, err
	}
	bundle := w.path + "+"
	err = a.Look(w, func(f intake.File) (err error) {
		w.Size, err = a.write(bundle, func(out io.Writer) error { return intake.Bundle(out, f, name, r) })
		return err
	})
	if err != nil {
		return w, err
	}
	if err := os.Rename(bundle, w.path); err != nil {
		return w, fmt.Errorf("arrivals: %w", err)
	}
	a.mu.Lock()
	a.byID[id] = w
	a.mu.Unlock()
	return w, nil
}

// write makes a file of bounded size, or none.
func (a *Room) write(path string, fill func(io.Writer) error) (int64, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, fmt.Errorf("arrivals: %w", err)
	}
	most := a.most
	if most == 0 {
		if most = a.Limit(); most == 0 {
			err = a.Fits(2 * lookEvery)
		}
	}
	if err != nil {
		f.Close()
		os.Remove(path)
		return 0, err
	}
	bounded := &boundedWriter{w: f, left: most, fits: a.Fits}
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
	fits func(more int64) error
	due  int64 // bytes after which the disk is looked at again
}

// lookEvery is how many bytes are written between two looks at the disk.
const lookEvery = 8 << 20

func (b *boundedWriter) Write(p []byte) (int, error) {
	if b.due -= int64(len(p)); b.due < 0 {
		if err := b.fits(2 * lookEvery); err != nil {
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
func (a *Room) sweep() {
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

func (a *Room) remove(id string) {
	if w, ok := a.byID[id]; ok {
		w.progress.stop()
		os.Remove(w.path)
		delete(a.byID, id)
	}
	if a.last.id == id {
		a.last.id, a.last.table = "", nil
	}
}

// Get finds an arrived file; study.ErrNotFound where it has gone.
func (a *Room) Get(id string) (File, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	w, ok := a.byID[id]
	if !ok {
		return w, study.ErrNotFound
	}
	return w, nil
}

// Read reads an arrived file, unless it was just read with the same settings.
func (a *Room) Read(ctx context.Context, id string, settings intake.Settings) (*intake.Table, error) {
	w, err := a.Get(id)
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
	release, err := turn(ctx, a.reading, w.progress)
	if err != nil {
		return nil, err
	}
	defer release()
	ctx, end := w.progress.begin(ctx, Reading)
	defer end()
	var table *intake.Table
	err = a.Look(w, func(f intake.File) (err error) {
		table, err = intake.Read(ctx, f, settings, w.progress.at)
		return err
	})
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

// Readable reads an arrived file that can be kept; the first problem is the error.
func (a *Room) Readable(ctx context.Context, id string, settings intake.Settings) (*intake.Table, File, error) {
	w, err := a.Get(id)
	if err != nil {
		return nil, w, err
	}
	table, err := a.Read(ctx, id, settings)
	if err == nil && len(table.Problems) > 0 {
		err = &table.Problems[0]
	}
	return table, w, err
}

// Sniff guesses how an arrived file is to be read.
func (a *Room) Sniff(ctx context.Context, w File) (s intake.Settings, err error) {
	release, err := turn(ctx, a.reading, w.progress)
	if err != nil {
		return s, err
	}
	defer release()
	err = a.Look(w, func(f intake.File) (err error) {
		s, err = intake.Sniff(ctx, f)
		return err
	})
	return s, err
}

// Look opens an arrived file as long as f looks at it.
func (a *Room) Look(w File, f func(intake.File) error) error {
	in, err := os.Open(w.path)
	if err != nil {
		return fmt.Errorf("arrivals: %w", err)
	}
	defer in.Close()
	return f(a.Opened(in, w.Size))
}

// Opened is an open file of so many bytes, to be read within the bounds of the room.
func (a *Room) Opened(f *os.File, size int64) intake.File {
	return intake.File{R: f, Size: size, Memory: a.memory}
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

// Discard drops an arrived file and stops whatever is being done with it.
func (a *Room) Discard(id string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.remove(id)
}
