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
	"sync"
	"time"
	"unicode/utf8"

	"widetally/internal/intake"
	"widetally/internal/store"
)

const (
	mostArrivals = 32
	arrivalLife  = 2 * time.Hour
	sniffBytes   = 256 << 10
)

// ErrTooLarge is returned for a file over the limit.
var ErrTooLarge = errors.New("study: the file is larger than allowed")

// Arrival is a file that has arrived and waits to be kept, with what a look at it
// found. Preview is nil when Problem says that it cannot be read at all.
type Arrival struct {
	ID      string
	Name    string
	Size    int64
	Preview *intake.Preview
	Problem *intake.Problem
	// Settings are those used, guessed or given.
	Settings intake.Settings
}

type waiting struct {
	path, name string
	size       int64
	since      time.Time
}

// arrivals keeps files between arriving and being kept. Safe for concurrent use.
type arrivals struct {
	dir  string
	most int64
	mu   sync.Mutex
	byID map[string]waiting
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
	w := waiting{path: filepath.Join(a.dir, id), name: cleanName(name), since: time.Now()}
	f, err := os.OpenFile(w.path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", waiting{}, fmt.Errorf("study: arrivals: %w", err)
	}
	w.size, err = io.Copy(f, io.LimitReader(r, a.most+1))
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err == nil && w.size > a.most {
		err = ErrTooLarge
	}
	if err != nil {
		os.Remove(w.path)
		return "", waiting{}, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	a.sweep()
	a.byID[id] = w
	return id, w, nil
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
		os.Remove(w.path)
		delete(a.byID, id)
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

// Arrive takes a file in, guesses how it is to be read, and looks at it. Nothing
// is kept in the database. A file that cannot be read as delimited text is not
// an error but an arrival with a Problem, since other settings may cure it.
func (s *Service) Arrive(ctx context.Context, name string, r io.Reader) (*Arrival, error) {
	id, w, err := s.arrivals.take(name, r)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	head := make([]byte, sniffBytes)
	n, err := io.ReadFull(f, head)
	f.Close()
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	settings, err := intake.Sniff(head[:n])
	var problem *intake.Problem
	if errors.As(err, &problem) {
		settings = intake.Settings{Encoding: intake.UTF8, Delimiter: ",", Header: true}
		return &Arrival{ID: id, Name: w.name, Size: w.size, Problem: problem, Settings: settings}, nil
	}
	a, err := s.Look(ctx, id, settings)
	if err == nil && a.Problem != nil && a.Problem.Code == intake.NotUTF8 {
		// The first stretch was plain ASCII and what follows is not UTF-8.
		settings.Encoding = intake.Windows1252
		return s.Look(ctx, id, settings)
	}
	return a, err
}

// Look looks at an arrived file again with other settings.
func (s *Service) Look(ctx context.Context, id string, settings intake.Settings) (*Arrival, error) {
	w, err := s.arrivals.get(id)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(w.path)
	if err != nil {
		return nil, fmt.Errorf("study: arrivals: %w", err)
	}
	defer f.Close()
	a := &Arrival{ID: id, Name: w.name, Size: w.size, Settings: settings}
	a.Preview, err = intake.Look(ctx, f, settings)
	if errors.As(err, &a.Problem) {
		return a, nil
	}
	return a, err
}

// Discard drops an arrived file.
func (s *Service) Discard(id string) {
	s.arrivals.mu.Lock()
	defer s.arrivals.mu.Unlock()
	s.arrivals.remove(id)
}
