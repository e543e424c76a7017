package service

import (
	"context"

	"widetally/core/document"
	"widetally/core/study"
)

// mostEntries bounds the entries of an audit trail that are told at once; a file has as many as a sheet has rows.
const (
	mostEntries       = 200
	mostEntriesOfFile = 1_000_000
)

// Of gives entries of a study's audit trail, the newest first, to whoever owns the study; those of the accounts,
// whose number is 0, to whoever keeps them. Whole gives as many as a file holds.
func (s *Trails) Of(ctx context.Context, studyID uint64, of study.Looked, whole bool) ([]study.Entry, error) {
	if studyID == 0 {
		if who := study.ActorOf(ctx); who.Account > 0 && !who.Administrator {
			return nil, study.ErrNotAllowed
		}
	} else if err := s.may(ctx, studyID, study.ToOwn); err != nil {
		return nil, err
	}
	if of.Most = mostEntries; whole {
		of.Most = mostEntriesOfFile
	}
	return s.store.Trail(ctx, studyID, of)
}

// Left notes that something of a study left as a file.
func (s *Trails) Left(ctx context.Context, studyID uint64, file string) error {
	return s.store.Note(ctx, studyID, document.Say("trail.left", document.Values{"file": document.Text(file)}))
}

// Verify looks whether every trail is as it was written, and tells of each.
func (s *Trails) Verify(ctx context.Context, tell func(studyID, entries uint64, seal string, err error)) error {
	return s.store.VerifyTrails(ctx, tell)
}

// Looked notes that answers of a study were looked at one by one.
func (s *Trails) Looked(ctx context.Context, studyID uint64, from, to int64) error {
	return s.store.Note(ctx, studyID, document.Say("trail.looked", document.Values{"from": document.N(from), "to": document.N(to)}))
}
