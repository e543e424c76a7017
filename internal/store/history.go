package store

import (
	"context"
	"slices"
	"time"

	"widetally/core/study"
)

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
func (s *Store) AddChanges(ctx context.Context, studyID uint64, changes []study.Change) error {
	if len(changes) == 0 {
		return nil
	}
	stamped := slices.Clone(changes)
	for i := range stamped {
		stamped[i].At = now()
	}
	return s.KeepChanges(ctx, studyID, stamped)
}

// KeepChanges adds changes to the history with the times that they bear.
func (s *Store) KeepChanges(ctx context.Context, studyID uint64, changes []study.Change) error {
	if len(changes) == 0 {
		return nil
	}
	rows := make([]changeRow, len(changes))
	for i, c := range changes {
		rows[i] = changeRow{StudyID: studyID, Subject: string(c.Subject), SubjectID: c.SubjectID, Field: c.Field, OldValue: c.Old, NewValue: c.New, AfterRun: c.AfterRun, At: c.At}
	}
	return translate(s.with(ctx).CreateInBatches(rows, 500).Error)
}

// Changes returns the history of a study, oldest first.
func (s *Store) Changes(ctx context.Context, studyID uint64) ([]study.Change, error) {
	var rows []changeRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]study.Change, len(rows))
	for i, r := range rows {
		out[i] = study.Change{Subject: study.Subject(r.Subject), SubjectID: r.SubjectID, Field: r.Field, Old: r.OldValue, New: r.NewValue, AfterRun: r.AfterRun, At: r.At}
	}
	return out, nil
}
