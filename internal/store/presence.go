package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"widetally/core/people"
)

type presenceRow struct {
	Tab       string `gorm:"primaryKey"`
	StudyID   uint64
	AccountID uint64
	Place     string
	Editing   bool
	SeenAt    time.Time
}

func (presenceRow) TableName() string { return "presence" }

// PutPresence notes where in a study somebody is; who was not seen for longer than that goes.
func (s *Store) PutPresence(ctx context.Context, p people.Presence, longest time.Duration) error {
	if err := s.with(ctx).Delete(&presenceRow{}, "seen_at < ?", now().Add(-longest)).Error; err != nil {
		return translate(err)
	}
	return translate(s.with(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&presenceRow{p.Tab, p.StudyID, p.Account, p.Place, p.Editing, now()}).Error)
}

// EndPresence notes that a tab was closed.
func (s *Store) EndPresence(ctx context.Context, account uint64, tab string) error {
	return translate(s.with(ctx).Delete(&presenceRow{}, "tab = ? AND account_id = ?", tab, account).Error)
}

// Presences are those who were seen lately, by study and name.
func (s *Store) Presences(ctx context.Context, longest time.Duration) (out []people.Presence, err error) {
	err = s.with(ctx).Table("presence p").Select("p.tab, p.study_id, p.account_id AS account, a.name, p.place, p.editing").
		Joins("JOIN accounts a ON a.id = p.account_id").Where("p.seen_at >= ?", now().Add(-longest)).Order("p.study_id, a.name, p.tab").Scan(&out).Error
	return out, translate(err)
}

// Revisions are those of all studies, by their ids.
func (s *Store) Revisions(ctx context.Context) (map[uint64]uint64, error) {
	var rows []struct{ ID, Revision uint64 }
	err := s.with(ctx).Table("studies").Select("id, revision").Where("deleted_at IS NULL").Scan(&rows).Error
	out := make(map[uint64]uint64, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Revision
	}
	return out, translate(err)
}
