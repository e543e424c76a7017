// Package arrivals keeps files from their arrival until they are packed into the database: a room
// for those that wait to be kept, with how far work on each has come and whose turn it is, and the
// kept ones that still have to be packed.
package arrivals

import (
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
	// fileID is that of the kept file that it becomes, where other processes can go on with it, and Done the study that was made of it.
	fileID uint64
	Done   *uint64
	// mine says that it came to this process.
	mine bool
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
	board   Board // nil where this process is the only one
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
// what the disk allows; memory bounds what reading one may take, 0 for 1 GB. board, which may be nil, is
// where processes that serve one database pass files on to each other.
func OpenRoom(dir string, most, memory int64, board Board) (*Room, error) {
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
	return &Room{dir: own, lock: lock, most: most, memory: memory, Reserve: usualReserve, byID: map[string]File{}, board: board,
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

// Take takes a file in, by somebody. Errors: ErrTooLarge, that of a full disk, that of the reader.
func (a *Room) Take(ctx context.Context, by, name string, r io.Reader) (File, error) {
	raw := make([]byte, 12)
	if _, err := rand.Read(raw); err != nil {
		return File{}, fmt.Errorf("arrivals: %w", err)
	}
	id := hex.EncodeToString(raw)
	w := File{ID: id, By: by, Name: cleanName(name), path: filepath.Join(a.dir, id), since: time.Now(), progress: a.progress(id), mine: true}
	var err error
	if w.Size, err = a.write(w.path, func(f io.Writer) error {
		_, err := io.Copy(f, r)
		return err
	}); err != nil {
		return File{}, err
	}
	if err := a.share(ctx, &w); err != nil {
		os.Remove(w.path)
		return File{}, err
	}
	a.mu.Lock()
	gone := a.sweep()
	a.byID[id] = w
	a.mu.Unlock()
	a.unshare(ctx, gone)
	return w, nil
}

// Bundle adds a file that an arrived descriptor names to it.
func (a *Room) Bundle(ctx context.Context, id, name string, r io.Reader) (File, error) {
	w, err := a.Get(ctx, id)
	if err != nil {
		return w, err
	}
	bundle := w.path + "+"
	err = a.Look(ctx, w, func(f intake.File) (err error) {
		w.Size, err = a.write(bundle, func(out io.Writer) error { return intake.Bundle(out, f, name, r) })
		return err
	})
	if err != nil {
		return w, err
	}
	if err := os.Rename(bundle, w.path); err != nil {
		return w, fmt.Errorf("arrivals: %w", err)
	}
	if err := a.share(ctx, &w); err != nil {
		return w, err
	}
	a.mu.Lock()
	a.byID[id] = w
	a.mu.Unlock()
	return w, nil
}

// sweep drops what waited too long, and the oldest when there are too many, but nothing that is
// being worked on. It tells what went.
func (a *Room) sweep() (gone []File) {
	oldest := ""
	for id, w := range a.byID {
		if w.progress.busy() {
			continue
		}
		if time.Since(w.since) > arrivalLife {
			gone = append(gone, a.remove(id)...)
			continue
		}
		if oldest == "" || w.since.Before(a.byID[oldest].since) {
			oldest = id
		}
	}
	if len(a.byID) >= mostArrivals {
		gone = append(gone, a.remove(oldest)...)
	}
	return gone
}

func (a *Room) remove(id string) (gone []File) {
	if w, ok := a.byID[id]; ok {
		w.progress.stop()
		os.Remove(w.path)
		delete(a.byID, id)
		gone = append(gone, w)
	}
	if a.last.id == id {
		a.last.id, a.last.table = "", nil
	}
	return gone
}

// Get finds an arrived file; study.ErrNotFound where it has gone.
func (a *Room) Get(ctx context.Context, id string) (File, error) {
	a.mu.Lock()
	w, ok := a.byID[id]
	a.mu.Unlock()
	if a.board != nil {
		return a.shared(ctx, id, w)
	}
	if !ok {
		return w, study.ErrNotFound
	}
	return w, nil
}

// Read reads an arrived file, unless it was just read with the same settings.
func (a *Room) Read(ctx context.Context, id string, settings intake.Settings) (*intake.Table, error) {
	w, err := a.Get(ctx, id)
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
	err = a.Look(ctx, w, func(f intake.File) (err error) {
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
	w, err := a.Get(ctx, id)
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
	err = a.Look(ctx, w, func(f intake.File) (err error) {
		s, err = intake.Sniff(ctx, f)
		return err
	})
	return s, err
}

// Look opens an arrived file as long as f looks at it.
func (a *Room) Look(ctx context.Context, w File, f func(intake.File) error) error {
	in, err := os.Open(w.path)
	if errors.Is(err, os.ErrNotExist) && a.board != nil {
		in, err = a.fetch(ctx, w)
	}
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
func (a *Room) Discard(ctx context.Context, id string) {
	a.mu.Lock()
	a.remove(id)
	a.mu.Unlock()
	a.unshare(ctx, []File{{ID: id, mine: true}})
}

// Forget drops what this process has of an arrived file of which a study was made; others are still told of it.
func (a *Room) Forget(ctx context.Context, id string) {
	if a.board == nil {
		a.Discard(ctx, id)
		return
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.remove(id)
}
