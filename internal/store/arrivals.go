package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"widetally/core/study"
)

type arrivalRow struct {
	ID        string `gorm:"primaryKey"`
	FileID    uint64
	Author    string
	Name      string
	Size      int64
	ArrivedAt time.Time
	Stage     string
	RowsDone  int
	Done      float64
	LeftMs    int64
	Worker    string
	SeenAt    time.Time
	Job       string
	StudyID   *uint64
	Old       bool `gorm:"->"` // whether nothing was heard of its worker for long
}

func (arrivalRow) TableName() string { return "arrivals" }

func (r arrivalRow) arrival() study.Arrival {
	return study.Arrival{ID: r.ID, FileID: r.FileID, Author: r.Author, Name: r.Name, Size: r.Size, ArrivedAt: r.ArrivedAt,
		Stage: r.Stage, Rows: r.RowsDone, Done: r.Done, Left: time.Duration(r.LeftMs) * time.Millisecond, Worker: r.Worker, Job: r.Job, StudyID: r.StudyID, Silent: r.Old}
}

// By whose clock a worker has been silent is the database's, since those of machines differ.
const (
	clock = "UTC_TIMESTAMP(3)"
	isOld = "seen_at < " + clock + " - INTERVAL ? SECOND"
)

// PutArrival notes a file that has arrived, whose pieces are stored already; one of that id takes the place of its former.
func (s *Store) PutArrival(ctx context.Context, a study.Arrival) error {
	return s.within(ctx, func(ctx context.Context) error {
		if err := s.with(ctx).Where("id = ? AND study_id IS NULL", a.ID).Delete(&arrivalRow{}).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Model(&arrivalRow{}).Create(map[string]any{"id": a.ID, "file_id": a.FileID, "author": a.Author, "name": a.Name, "size": a.Size,
			"arrived_at": now(), "stage": "", "rows_done": 0, "done": 0, "left_ms": 0, "worker": "", "seen_at": gorm.Expr(clock), "job": "", "study_id": nil}).Error)
	})
}

// Arrival finds an arrived file; silence is after how long without a word its worker counts as gone.
func (s *Store) Arrival(ctx context.Context, id string, silence time.Duration) (study.Arrival, error) {
	var r arrivalRow
	err := s.with(ctx).Select("*, "+isOld+" AS old", silence.Seconds()).Where("id = ?", id).Take(&r).Error
	return r.arrival(), translate(err)
}

// NoteProgress tells how far a process has come with an arrived file; there is false where it has been discarded.
func (s *Store) NoteProgress(ctx context.Context, a study.Arrival) (there bool, err error) {
	r := s.with(ctx).Model(&arrivalRow{}).Where("id = ?", a.ID).UpdateColumns(map[string]any{"stage": a.Stage, "rows_done": a.Rows, "done": a.Done,
		"left_ms": a.Left.Milliseconds(), "seen_at": gorm.Expr(clock)})
	return r.RowsAffected > 0, translate(r.Error)
}

// TakeJob gives a worker what is to be made of an arrived file, unless another one that was heard of lately is at it, something
// else is being made, or it has been made.
func (s *Store) TakeJob(ctx context.Context, a study.Arrival, silence time.Duration) (taken bool, err error) {
	r := s.with(ctx).Model(&arrivalRow{}).Where("id = ? AND study_id IS NULL AND (job = '' OR job = ? AND "+isOld+")", a.ID, a.Job, silence.Seconds()).
		UpdateColumns(map[string]any{"job": a.Job, "worker": a.Worker, "seen_at": gorm.Expr(clock)})
	return r.RowsAffected > 0, translate(r.Error)
}

// EndJob notes which study was made by a worker, within the transaction that shows it; none where it came to nothing. ErrStale where
// another worker has taken it over.
func (s *Store) EndJob(ctx context.Context, a study.Arrival) error {
	set := map[string]any{"study_id": a.StudyID}
	if a.StudyID == nil {
		set["job"] = ""
	}
	return edited(s.with(ctx).Model(&arrivalRow{}).Where("id = ? AND worker = ? AND job = ? AND study_id IS NULL", a.ID, a.Worker, a.Job).UpdateColumns(set))
}

// LeftJobs are those whose worker has not been heard of for so long.
func (s *Store) LeftJobs(ctx context.Context, silence time.Duration) (out []study.Arrival, err error) {
	var rows []arrivalRow
	err = s.with(ctx).Where("job <> '' AND study_id IS NULL AND "+isOld, silence.Seconds()).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.arrival())
	}
	return out, translate(err)
}

// DropArrival drops an arrived file, unless a study was made of it.
func (s *Store) DropArrival(ctx context.Context, id string) error {
	return s.within(ctx, func(ctx context.Context) error {
		var r arrivalRow
		q := s.with(ctx).Where("id = ? AND study_id IS NULL", id).Limit(1).Find(&r)
		if q.Error != nil || q.RowsAffected == 0 {
			return translate(q.Error)
		}
		if err := s.with(ctx).Where("id = ?", id).Delete(&arrivalRow{}).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Where("id = ? AND study_id IS NULL", r.FileID).Delete(&fileRow{}).Error)
	})
}

// SweepArrivals drops what arrived before a time, but not what is being worked on.
func (s *Store) SweepArrivals(ctx context.Context, before time.Time, silence time.Duration) error {
	var rows []arrivalRow
	if err := s.with(ctx).Select("id, file_id").Where("arrived_at < ? AND "+isOld, before, silence.Seconds()).Find(&rows).Error; err != nil {
		return translate(err)
	}
	for _, r := range rows {
		if err := s.with(ctx).Where("id = ? AND "+isOld, r.ID, silence.Seconds()).Delete(&arrivalRow{}).Error; err != nil {
			return translate(err)
		}
	}
	return translate(s.with(ctx).Where("study_id IS NULL AND arrived_at < ? AND NOT EXISTS (SELECT 1 FROM arrivals a WHERE a.file_id = source_files.id)", before).Delete(&fileRow{}).Error)
}

// AdoptFile makes an arrived file one of a study. ErrBusy where it is one already.
func (s *Store) AdoptFile(ctx context.Context, id, studyID uint64) error {
	r := s.with(ctx).Model(&fileRow{}).Where("id = ? AND (study_id IS NULL OR study_id = ?)", id, studyID).UpdateColumn("study_id", studyID)
	if r.Error == nil && r.RowsAffected == 0 {
		return study.ErrBusy
	}
	return translate(r.Error)
}
