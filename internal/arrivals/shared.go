package arrivals

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"widetally/core/study"
)

// Board is where processes that serve one database pass arrived files on to each other: each is in the database, with
// how far the work on it has come, so that any process can go on with it.
type Board interface {
	Rows
	PutArrival(ctx context.Context, a study.Arrival) error
	Arrival(ctx context.Context, id string, silence time.Duration) (study.Arrival, error)
	NoteProgress(ctx context.Context, a study.Arrival) (there bool, err error)
	DropArrival(ctx context.Context, id string) error
	SweepArrivals(ctx context.Context, before time.Time, silence time.Duration) error
}

// Silence is after how long without a word a process counts as gone that was at work on an arrived file.
const Silence = 6 * time.Second

// tellTime bounds how long telling others may take.
const tellTime = 3 * time.Second

func (a *Room) progress(id string) *progress {
	if a.board == nil {
		return &progress{}
	}
	return &progress{next: make(chan struct{}, 1), tell: func(p Progress) bool {
		ctx, cancel := context.WithTimeout(context.Background(), tellTime)
		defer cancel()
		there, err := a.board.NoteProgress(ctx, study.Arrival{ID: id, Stage: string(p.Stage), Rows: p.Rows, Done: p.Done, Left: p.Left})
		return there || err != nil
	}}
}

// share stores a file that lies here for the other processes.
func (a *Room) share(ctx context.Context, w *File) error {
	if a.board == nil {
		return nil
	}
	f, err := os.Open(w.path)
	if err != nil {
		return fmt.Errorf("arrivals: %w", err)
	}
	defer f.Close()
	if w.fileID, err = a.board.SaveFile(ctx, study.File{Name: w.Name, Size: w.Size, Settings: "{}", Arrival: "{}"}); err != nil {
		return err
	}
	if err := a.board.PackFile(ctx, study.File{ID: w.fileID, Size: w.Size}, f); err != nil {
		return err
	}
	return study.Again(func() error {
		return a.board.PutArrival(ctx, study.Arrival{ID: w.ID, FileID: w.fileID, Author: w.By, Name: w.Name, Size: w.Size})
	})
}

// unshare drops files for the other processes, and what nobody has come back to.
func (a *Room) unshare(ctx context.Context, gone []File) {
	if a.board == nil {
		return
	}
	ctx = context.WithoutCancel(ctx)
	for _, w := range gone {
		if w.mine {
			_ = a.board.DropArrival(ctx, w.ID) // else it goes with what nobody comes back to
		}
	}
	_ = a.board.SweepArrivals(ctx, time.Now().Add(-arrivalLife), Silence)
}

// shared finds a file that has arrived here or at another process; known is what this one knows of it.
func (a *Room) shared(ctx context.Context, id string, known File) (File, error) {
	row, err := a.board.Arrival(ctx, id, Silence)
	if err != nil && !errors.Is(err, study.ErrNotFound) {
		return known, err
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if err != nil {
		a.remove(id)
		return known, err
	}
	if w, ok := a.byID[id]; ok && w.fileID == row.FileID {
		w.Done = row.StudyID
		return w, nil
	}
	a.remove(id) // something was added to it elsewhere
	w := File{ID: id, By: row.Author, Name: row.Name, Size: row.Size, path: filepath.Join(a.dir, id), since: time.Now(), progress: a.progress(id), fileID: row.FileID, Done: row.StudyID}
	a.byID[id] = w
	return w, nil
}

// fetch brings a file here that arrived at another process.
func (a *Room) fetch(ctx context.Context, w File) (*os.File, error) {
	if err := a.Fits(w.Size); err != nil {
		return nil, err
	}
	f, err := os.CreateTemp(a.dir, "in")
	if err != nil {
		return nil, err
	}
	err = a.board.WriteFile(ctx, study.File{ID: w.fileID, Name: w.Name, Size: w.Size}, f)
	if err == nil {
		err = os.Rename(f.Name(), w.path)
	}
	if err != nil {
		f.Close()
		os.Remove(f.Name())
		return nil, err
	}
	return f, nil
}

// elsewhere tells how far another process has come with a file.
func (a *Room) elsewhere(ctx context.Context, id string) (Progress, error) {
	row, err := a.board.Arrival(ctx, id, Silence)
	if err != nil || row.Silent || row.Stage == "" {
		return Progress{Stage: Idle}, err
	}
	return Progress{Stage: Stage(row.Stage), Rows: row.Rows, Done: row.Done, Left: row.Left}, nil
}
