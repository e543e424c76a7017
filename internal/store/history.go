package store

import (
	"context"
	"time"
)

// Subject says what a change was made to.
type Subject string

// The subjects of changes.
const (
	OfQuestion Subject = "question"
	OfClaim    Subject = "claim" // what was changed in a claim, as it shows it
	OfAnalysis Subject = "analysis"
	OfPart     Subject = "part"
	OfStudy    Subject = "study"
)

// Change is one edit, with what was there before.
type Change struct {
	Subject   Subject
	SubjectID uint64
	Field     string
	Old, New  string
	// AfterRun is set for a change to a claim whose test had already been run.
	AfterRun bool
	At       time.Time
}

type changeRow struct {
	ID        uint64
	StudyID   uint64
	Subject   string
	SubjectID uint64
	Field     string
	OldValue  string
	NewValue  string
	AfterRun  bool
	At        time.Time
}

func (changeRow) TableName() string { return "changes" }

// AddChanges appends to a study's history.
func (s *Store) AddChanges(ctx context.Context, studyID uint64, changes []Change) error {
	if len(changes) == 0 {
		return nil
	}
	rows := make([]changeRow, len(changes))
	for i, c := range changes {
		rows[i] = changeRow{StudyID: studyID, Subject: string(c.Subject), SubjectID: c.SubjectID, Field: c.Field, OldValue: c.Old, NewValue: c.New, AfterRun: c.AfterRun, At: now()}
	}
	return translate(s.with(ctx).CreateInBatches(rows, 500).Error)
}

// Changes returns the history of a study, oldest first.
func (s *Store) Changes(ctx context.Context, studyID uint64) ([]Change, error) {
	var rows []changeRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]Change, len(rows))
	for i, r := range rows {
		out[i] = Change{Subject(r.Subject), r.SubjectID, r.Field, r.OldValue, r.NewValue, r.AfterRun, r.At}
	}
	return out, nil
}
