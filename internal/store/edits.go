package store

import (
	"context"
	"fmt"
	"math"
	"time"

	"widetally/core/document"
	"widetally/core/study"
)

// editsKept is how many edits of a study can be taken back.
const editsKept = 200

type editRow struct {
	ID          uint64
	StudyID     uint64
	Title       string
	TitleValues string
	State       string
	At          time.Time
	Author      string
}

func (editRow) TableName() string { return "edits" }

type snapshotRow struct {
	EditID           uint64 `gorm:"primaryKey"`
	Subject          string `gorm:"primaryKey"`
	SubjectID        uint64 `gorm:"primaryKey;autoIncrement:false"`
	BeforeEdit       string
	AfterEdit        string
	GenerationBefore int
	GenerationAfter  int
}

func (snapshotRow) TableName() string { return "edit_snapshots" }

func (r editRow) edit() (study.Edit, error) {
	e := study.Edit{ID: r.ID, StudyID: r.StudyID, Title: r.Title, State: study.EditState(r.State), At: r.At, Author: r.Author}
	var err error
	if e.Values, err = document.ReadValues([]byte(r.TitleValues)); err != nil {
		return e, fmt.Errorf("store: edit %d: %w", r.ID, err)
	}
	return e, nil
}

// AddEdit keeps an edit with what it touched and returns its id. What had been taken back can no longer
// be done again; the oldest edits past the number kept, and columns that nothing
// refers to any more, go.
func (s *Store) AddEdit(ctx context.Context, e study.Edit, touched []study.Snapshot) (id uint64, err error) {
	err = s.with(ctx).Model(&editRow{}).Where("study_id = ? AND state = ?", e.StudyID, string(study.Undone)).UpdateColumn("state", string(study.Dropped)).Error
	if err != nil {
		return 0, translate(err)
	}
	values, err := document.StoreValues(e.Values)
	if err != nil {
		return 0, translate(err)
	}
	r := editRow{StudyID: e.StudyID, Title: e.Title, TitleValues: string(values), State: string(study.Done), At: now(), Author: study.ActorOf(ctx).ID}
	if err := s.with(ctx).Create(&r).Error; err != nil {
		return 0, translate(err)
	}
	rows := make([]snapshotRow, len(touched))
	for i, t := range touched {
		rows[i] = snapshotRow{r.ID, string(t.Subject), t.SubjectID, t.Before, t.After, t.GenerationBefore, t.GenerationAfter}
	}
	if err := s.with(ctx).CreateInBatches(rows, 100).Error; err != nil {
		return 0, translate(err)
	}
	if err := s.Note(ctx, e.StudyID, document.Say("history."+e.Title, e.Values)); err != nil {
		return 0, err
	}
	return r.ID, s.prune(ctx, e.StudyID)
}

// SettleEdits keeps a study's edits in its history but forgets what would take them
// back.
func (s *Store) SettleEdits(ctx context.Context, studyID uint64) error {
	return s.forget(ctx, studyID, math.MaxInt64)
}

// forget drops what would take a study's edits back, up to this one. What goes is looked
// up first and then deleted by key: a deletion that searches would wait for the rows of
// other studies.
func (s *Store) forget(ctx context.Context, studyID, upTo uint64) error {
	var ids []uint64
	err := s.with(ctx).Raw("SELECT DISTINCT e.id FROM edits e JOIN edit_snapshots s ON s.edit_id = e.id WHERE e.study_id = ? AND e.id <= ?", studyID, upTo).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return translate(err)
	}
	return translate(s.with(ctx).Where("edit_id IN ?", ids).Delete(&snapshotRow{}).Error)
}

func (s *Store) prune(ctx context.Context, studyID uint64) error {
	var oldest []uint64
	err := s.with(ctx).Model(&editRow{}).Where("study_id = ?", studyID).Order("id DESC").Offset(editsKept).Limit(1).Pluck("id", &oldest).Error
	if err != nil || len(oldest) == 0 {
		return translate(err)
	}
	if err := s.forget(ctx, studyID, oldest[0]); err != nil {
		return err
	}
	var gone []struct {
		QuestionID uint64
		Generation int
	}
	err = s.with(ctx).Raw(`SELECT DISTINCT c.question_id, c.generation FROM column_chunks c JOIN questions q ON q.id = c.question_id
		WHERE q.study_id = ? AND c.generation <> q.generation AND NOT EXISTS (SELECT 1 FROM edit_snapshots s
			WHERE s.subject = ? AND s.subject_id = q.id AND c.generation IN (s.generation_before, s.generation_after))`, studyID, string(study.OfQuestion)).Scan(&gone).Error
	if err != nil {
		return translate(err)
	}
	for _, g := range gone {
		if err := s.with(ctx).Where("question_id = ? AND generation = ?", g.QuestionID, g.Generation).Delete(&chunkRow{}).Error; err != nil {
			return translate(err)
		}
	}
	return nil
}

// Edits returns a study's edits, the newest first.
func (s *Store) Edits(ctx context.Context, studyID uint64, most int) ([]study.Edit, error) {
	var rows []editRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id DESC").Limit(most).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]study.Edit, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.edit(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// NextEdit returns the edit that undo (from Done) or redo (from Undone) would act on,
// with what it touched; ErrNotFound when there is none.
func (s *Store) NextEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, []study.Snapshot, error) {
	r, err := s.nextRow(ctx, studyID, from)
	if err != nil {
		return study.Edit{}, nil, err
	}
	var rows []snapshotRow
	if err := s.with(ctx).Where("edit_id = ?", r.ID).Find(&rows).Error; err != nil {
		return study.Edit{}, nil, translate(err)
	}
	out := make([]study.Snapshot, len(rows))
	for i, s := range rows {
		out[i] = study.Snapshot{Subject: study.Subject(s.Subject), SubjectID: s.SubjectID, Before: s.BeforeEdit, After: s.AfterEdit,
			GenerationBefore: s.GenerationBefore, GenerationAfter: s.GenerationAfter}
	}
	e, err := r.edit()
	return e, out, err
}

// PeekEdit is NextEdit without what the edit touched.
func (s *Store) PeekEdit(ctx context.Context, studyID uint64, from study.EditState) (study.Edit, error) {
	r, err := s.nextRow(ctx, studyID, from)
	if err != nil {
		return study.Edit{}, err
	}
	return r.edit()
}

func (s *Store) nextRow(ctx context.Context, studyID uint64, from study.EditState) (editRow, error) {
	order := "id DESC"
	if from == study.Undone {
		order = "id"
	}
	var r editRow
	if err := s.with(ctx).Where("study_id = ? AND state = ?", studyID, string(from)).Order(order).Take(&r).Error; err != nil {
		return r, translate(err)
	}
	var touched int64
	err := s.with(ctx).Model(&snapshotRow{}).Where("edit_id = ?", r.ID).Count(&touched).Error
	if err == nil && touched == 0 {
		return r, study.ErrNotFound // too old to be taken back
	}
	return r, translate(err)
}

// EditByID returns one edit of a study.
func (s *Store) EditByID(ctx context.Context, studyID, id uint64) (study.Edit, error) {
	var r editRow
	if err := s.with(ctx).Where("study_id = ? AND id = ?", studyID, id).Take(&r).Error; err != nil {
		return study.Edit{}, translate(err)
	}
	return r.edit()
}

// SetEditState moves an edit along the line of undo.
func (s *Store) SetEditState(ctx context.Context, id uint64, state study.EditState) error {
	return translate(s.with(ctx).Model(&editRow{}).Where("id = ?", id).UpdateColumn("state", string(state)).Error)
}
