package store

import (
	"context"

	"widetally/core/study"
)

// Remarks are those of a study, oldest first.
func (s *Store) Remarks(ctx context.Context, studyID uint64) (out []study.Remark, err error) {
	err = s.with(ctx).Table("remarks").Where("study_id = ?", studyID).Order("id").Find(&out).Error
	return out, translate(err)
}

// Remark finds one of a study.
func (s *Store) Remark(ctx context.Context, studyID, id uint64) (r study.Remark, err error) {
	err = s.with(ctx).Table("remarks").Where("study_id = ? AND id = ?", studyID, id).Take(&r).Error
	return r, translate(err)
}

// AddRemark keeps one, by who acts in the context.
func (s *Store) AddRemark(ctx context.Context, r study.Remark) (study.Remark, error) {
	r.ID, r.Author, r.At = 0, study.ActorOf(ctx).ID, now()
	err := s.with(ctx).Table("remarks").Create(&r).Error
	return r, translate(err)
}

// ResolveRemark settles one, or opens it again.
func (s *Store) ResolveRemark(ctx context.Context, id uint64, resolved bool) error {
	values := map[string]any{"resolved_at": nil, "resolved_by": ""}
	if resolved {
		values = map[string]any{"resolved_at": now(), "resolved_by": study.ActorOf(ctx).ID}
	}
	return translate(s.with(ctx).Table("remarks").Where("id = ?", id).Updates(values).Error)
}

// DeleteRemark takes one away, with its answers.
func (s *Store) DeleteRemark(ctx context.Context, studyID, id uint64) error {
	return translate(s.with(ctx).Exec("DELETE FROM remarks WHERE study_id = ? AND (id = ? OR `to` = ?)", studyID, id, id).Error)
}
