package store

import (
	"context"

	"gorm.io/gorm"

	"widetally/core/study"
)

// parts is the table, a row of which is a part as it is.
func (s *Store) parts(ctx context.Context) *gorm.DB { return s.with(ctx).Table("parts") }

// Parts returns a study's parts of a kind, deleted ones too, oldest first.
func (s *Store) Parts(ctx context.Context, studyID uint64, kind study.PartKind) ([]study.Part, error) {
	var out []study.Part
	err := s.parts(ctx).Where("study_id = ? AND kind = ?", studyID, string(kind)).Order("id").Find(&out).Error
	return out, translate(err)
}

// Part returns one part of a study, deleted or not.
func (s *Store) Part(ctx context.Context, studyID, id uint64) (study.Part, error) {
	var p study.Part
	err := s.parts(ctx).Where("study_id = ? AND id = ?", studyID, id).Take(&p).Error
	return p, translate(err)
}

// AddPart stores a new part and returns it with its id.
func (s *Store) AddPart(ctx context.Context, p study.Part) (study.Part, error) {
	p.ID, p.Version, p.Author = 0, 1, study.ActorOf(ctx).ID
	err := s.parts(ctx).Create(&p).Error
	return p, translate(err)
}

// EditPart stores a part if the version is still p.Version.
func (s *Store) EditPart(ctx context.Context, p study.Part) error {
	return edited(s.parts(ctx).Where("id = ? AND version = ?", p.ID, p.Version).
		Updates(map[string]any{"name": p.Name, "definition": p.Definition, "deleted": p.Deleted, "version": p.Version + 1}))
}
