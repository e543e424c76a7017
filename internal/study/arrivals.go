package study

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
	"time"
	"unicode/utf8"

	"widetally/internal/intake"
	"widetally/internal/store"
)

const (
	mostArrivals = 32
	arrivalLife  = 2 * time.Hour
)

// ErrTooLarge is returned for a file over the limit.
var ErrTooLarge = errors.New("study: the file is larger than allowed")

// Arrival is a file that has arrived and waits to be kept, with what reading it
// found. Table is nil when it has not been read yet, or when Problem says that it
// cannot be read at all.
type Arrival struct {
	ID       string
	Name     string
	Size     int64
	Settings intake.Settings // those used, guessed or given
	Table    *intake.Table
	Check    *Check // of the columns as chosen; nil while there are problems
	Problem  *intake.Problem
}

// waiting is an arrived file. The fields below mu change while it is read.
type waiting struct {
	path, name string
	size       int64
	since      time.Time
	progress   *progress
}

// arrivals keeps files between arriving and being kept. Safe for concurrent use.
type arrivals struct {
	dir  string
	most int64
	mu   sync.Mutex
	byID map[string]waiting
	// last is the table read last, so that keeping a file right after a look at it
	// need not read it again. There is only one, since tables are large.
	last struct {
		id    string
		table *intake.Table
	}
}

func newArrivals(dir string, most int64) (*arrivals, error) {
	if err := os.RemoveAll(dir); err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	return &arrivals{dir: dir, most: most, byID: map[string]waiting{}}, nil
}

func (a *arrivals) take(name string, r io.Reader) (string, waiting, error) {
	raw := make([]byte, 12)
	if _, err := rand.Read(raw); err != nil {
		return "", waiting{}, fmt.Errorf("study: %w", err)
	}
	id := hex.EncodeToString(raw)
	w := waiting{path: filepath.Join(a.dir, id), name: cleanName(name), since: time.Now(), progress: &progress{}}
	var err error
	if w.size, err = a.receive(w.path, func(f io.Writer) error {
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

// packedName is the file beside an arrived one that holds it as it will be kept,
// compressed while it arrives.
func packedName(path string) string { return path + ".packed" }

// receive writes a file of bounded size and packs it on the way; both, or neither.
func (a *arrivals) receive(path string, fill func(io.Writer) error) (int64, error) {
	beside, err := os.OpenFile(packedName(path), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, fmt.Errorf("study: arrivals: %w", err)
	}
	defer beside.Close()
	packer := store.NewPacker(beside)
	size, err := a.write(path, func(f io.Writer) error { return fill(io.MultiWriter(f, packer)) })
	if err := errors.Join(err, packer.Close()); err != nil {
		os.Remove(path)
		os.Remove(packedName(path))
		return 0, err
	}
	return size, nil
}

// write makes a file of bounded size, or none.
func (a *arrivals) write(path string, fill func(io.Writer) error) (int64, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, fmt.Errorf("study: arrivals: %w", err)
	}
	bounded := &boundedWriter{w: f, left: a.most}
	err = fill(bounded)
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err != nil {
		os.Remove(path)
		return 0, err
	}
	return a.most - bounded.left, nil
}

type boundedWriter struct {
	w    io.Writer
	left int64
}

func (b *boundedWriter) Write(p []byte) (int, error) {
	if b.left -= int64(len(p)); b.left < 0 {
		return 0, ErrTooLarge
	}
	return b.w.Write(p)
}

// sweep drops what waited too long, and the oldest when there are too many.
func (a *arrivals) sweep() {
	oldest := ""
	for id, w := range a.byID {
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
		os.Remove(packedName(w.path))
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
		return w, store.ErrNotFound
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
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	defer f.Close()
	ctx, end := w.progress.begin(ctx, Reading)
	defer end()
	table, err := intake.Read(ctx, intake.File{R: f, Size: w.size}, settings, w.progress.at)
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

// MaxUpload is the limit of an arriving file in bytes.
func (s *Service) MaxUpload() int64 { return s.arrivals.most }

// Arrive takes a file in and guesses how it is to be read; Look reads it. Nothing is
// kept in the database. A file that cannot be read is not an error but an arrival
// with a Problem, since other settings or a further file may cure it.
func (s *Service) Arrive(ctx context.Context, name string, r io.Reader) (*Arrival, error) {
	id, w, err := s.arrivals.take(name, r)
	if err != nil {
		return nil, err
	}
	return s.guess(id, w)
}

func (s *Service) guess(id string, w waiting) (*Arrival, error) {
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	defer f.Close()
	a := &Arrival{ID: id, Name: w.name, Size: w.size}
	a.Settings, err = intake.Sniff(intake.File{R: f, Size: w.size})
	if errors.As(err, &a.Problem) {
		if a.Settings.Format == "" {
			a.Settings.Format = intake.Delimited
		}
		a.Settings.Shape, a.Settings.Encoding, a.Settings.Delimiter = intake.Rows, intake.UTF8, ","
		return a, nil
	}
	return a, err
}

// AddFile adds a file that an arrived descriptor names, and guesses anew.
func (s *Service) AddFile(ctx context.Context, id, name string, r io.Reader) (*Arrival, error) {
	w, err := s.arrivals.get(id)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	defer f.Close()
	bundle := w.path + "+"
	size, err := s.arrivals.receive(bundle, func(out io.Writer) error {
		return intake.Bundle(out, intake.File{R: f, Size: w.size}, name, r)
	})
	if err != nil {
		return nil, err
	}
	if err := errors.Join(os.Rename(bundle, w.path), os.Rename(packedName(bundle), packedName(w.path))); err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	w.size = size
	s.arrivals.mu.Lock()
	s.arrivals.byID[id] = w
	s.arrivals.mu.Unlock()
	return s.guess(id, w)
}

// Look reads an arrived file with these settings and inspects it with these choices.
// Discarding it stops the reading.
func (s *Service) Look(ctx context.Context, id string, settings intake.Settings, choices []ColumnChoice) (*Arrival, error) {
	w, err := s.arrivals.get(id)
	if err != nil {
		return nil, err
	}
	a := &Arrival{ID: id, Name: w.name, Size: w.size, Settings: settings}
	a.Table, err = s.arrivals.read(ctx, id, settings)
	if errors.As(err, &a.Problem) {
		return a, nil
	}
	if err != nil || len(a.Table.Problems) > 0 {
		return a, err
	}
	columns, counts, err := chosen(a.Table, choices)
	if err != nil {
		return nil, err
	}
	a.Check, err = checkColumns(columns, counts, a.Table.Rows)
	return a, err
}

// Discard drops an arrived file and stops whatever is being done with it.
func (s *Service) Discard(id string) {
	s.arrivals.mu.Lock()
	defer s.arrivals.mu.Unlock()
	s.arrivals.remove(id)
}
