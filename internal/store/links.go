package store

import (
	"context"
	"time"

	"widetally/core/people"
)

type linkRow struct {
	Hash      string `gorm:"primaryKey"`
	StudyID   uint64
	Shows     people.LinkKind
	MadeBy    uint64
	CreatedAt time.Time
	ExpiresAt time.Time
	SeenAt    *time.Time
}

func (linkRow) TableName() string { return "links" }

func (r linkRow) link() people.Link {
	return people.Link{Hash: r.Hash, StudyID: r.StudyID, Shows: r.Shows, By: r.MadeBy, CreatedAt: r.CreatedAt, ExpiresAt: r.ExpiresAt, SeenAt: r.SeenAt}
}

// AddLink keeps one.
func (s *Store) AddLink(ctx context.Context, l people.Link) error {
	return translate(s.with(ctx).Create(&linkRow{l.Hash, l.StudyID, l.Shows, l.By, l.CreatedAt.UTC(), l.ExpiresAt.UTC(), nil}).Error)
}

// Link finds one by its hash.
func (s *Store) Link(ctx context.Context, hash string) (people.Link, error) {
	var r linkRow
	err := s.with(ctx).Take(&r, "hash = ?", hash).Error
	return r.link(), translate(err)
}

// Links are those of a study, the newest first.
func (s *Store) Links(ctx context.Context, studyID uint64) (out []people.Link, err error) {
	var rows []linkRow
	err = s.with(ctx).Order("created_at DESC, hash").Find(&rows, "study_id = ?", studyID).Error
	for _, r := range rows {
		out = append(out, r.link())
	}
	return out, translate(err)
}

// SeeLink notes when a link was used last.
func (s *Store) SeeLink(ctx context.Context, hash string, at time.Time) error {
	return translate(s.with(ctx).Model(&linkRow{}).Where("hash = ?", hash).Update("seen_at", at.UTC()).Error)
}

// EndLink ends one of a study.
func (s *Store) EndLink(ctx context.Context, studyID uint64, hash string) error {
	return translate(s.with(ctx).Delete(&linkRow{}, "study_id = ? AND hash = ?", studyID, hash).Error)
}
