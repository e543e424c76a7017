package service

import (
	"context"
	"errors"
	"io"

	"widetally/core/study"
	"widetally/internal/arrivals"
	"widetally/internal/intake"
)

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

// MaxUpload is the limit of an arriving file in bytes, as the disk is now.
func (s *Uploads) MaxUpload() int64 { return s.room.Limit() }

// Arrive takes a file in and guesses how it is to be read; Look reads it. Nothing is
// kept in the database. A file that cannot be read is not an error but an arrival
// with a Problem, since other settings or a further file may cure it.
func (s *Uploads) Arrive(ctx context.Context, name string, r io.Reader) (*Arrival, error) {
	w, err := s.room.Take(ctx, study.ActorOf(ctx).ID, name, r)
	if err != nil {
		return nil, err
	}
	return s.guess(ctx, w)
}

func (s *Uploads) guess(ctx context.Context, w arrivals.File) (_ *Arrival, err error) {
	a := &Arrival{ID: w.ID, Name: w.Name, Size: w.Size}
	a.Settings, err = s.room.Sniff(ctx, w)
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
func (s *Uploads) AddFile(ctx context.Context, id, name string, r io.Reader) (*Arrival, error) {
	w, err := s.arrived(ctx, id)
	if err == nil {
		w, err = s.room.Bundle(ctx, id, name, r)
	}
	if err != nil {
		return nil, err
	}
	return s.guess(ctx, w)
}

// Look reads an arrived file with these settings and inspects it with these choices.
// Discarding it stops the reading.
func (s *Uploads) Look(ctx context.Context, id string, settings intake.Settings, choices []ColumnChoice) (*Arrival, error) {
	w, err := s.arrived(ctx, id)
	if err != nil {
		return nil, err
	}
	a := &Arrival{ID: id, Name: w.Name, Size: w.Size, Settings: settings}
	a.Table, err = s.room.Read(ctx, id, settings)
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
	a.Check, err = checkColumns(ctx, columns, counts, a.Table.Rows)
	return a, err
}

// Discard drops an arrived file and stops whatever is being done with it.
func (s *Uploads) Discard(ctx context.Context, id string) {
	if _, err := s.arrived(ctx, id); err == nil {
		s.room.Discard(ctx, id)
	}
}

// Progress tells how far work on an arrived file has come.
func (s *Uploads) Progress(ctx context.Context, id string) (arrivals.Progress, error) {
	if _, err := s.arrived(ctx, id); err != nil {
		return arrivals.Progress{}, err
	}
	return s.room.Progress(ctx, id)
}

// arrived finds a file that who asks has brought; study.ErrNotFound for any other.
func (s *base) arrived(ctx context.Context, id string) (arrivals.File, error) {
	w, err := s.room.Get(ctx, id)
	if err == nil && (w.By != study.ActorOf(ctx).ID || w.Done != nil) {
		err = study.ErrNotFound
	}
	return w, err
}

// readable reads a file that who asks has brought and that can be kept; the first problem is the error.
func (s *base) readable(ctx context.Context, id string, settings intake.Settings) (*intake.Table, arrivals.File, error) {
	if w, err := s.arrived(ctx, id); err != nil {
		return nil, w, err
	}
	return s.room.Readable(ctx, id, settings)
}
