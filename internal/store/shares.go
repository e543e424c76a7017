package store

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"widetally/core/people"
	"widetally/core/study"
)

type shareSetRow struct {
	ID        uint64
	Version   int
	Deleted   bool
	Everybody people.Role
}

func (shareSetRow) TableName() string { return "share_sets" }

type shareVersionRow struct {
	SetID      uint64
	Version    int
	Definition string
	CreatedAt  time.Time
	Author     string
}

func (shareVersionRow) TableName() string { return "share_versions" }

func (s *Store) shareSets(ctx context.Context) *gorm.DB {
	return s.with(ctx).Table("share_sets s").Select("s.id, v.version, v.definition, v.created_at, v.author, s.deleted").Joins("JOIN share_versions v ON v.set_id = s.id")
}

// ShareSets lists the newest version of each set that is not deleted, by its age.
func (s *Store) ShareSets(ctx context.Context) (out []study.ShareSet, err error) {
	err = s.shareSets(ctx).Where("v.version = s.version AND NOT s.deleted").Scan(&out).Error
	slices.SortFunc(out, func(a, b study.ShareSet) int { return cmp.Compare(a.ID, b.ID) })
	return out, translate(err)
}

// ShareVersions lists the versions of one set, deleted or not, the newest first; ErrNotFound
// when there is none.
func (s *Store) ShareVersions(ctx context.Context, id uint64) (out []study.ShareSet, err error) {
	err = s.shareSets(ctx).Where("s.id = ?", id).Order("v.version DESC").Scan(&out).Error
	if err == nil && len(out) == 0 {
		err = gorm.ErrRecordNotFound
	}
	return out, translate(err)
}

// AddShareSet keeps the first version of a set.
func (s *Store) AddShareSet(ctx context.Context, definition string) (id uint64, err error) {
	err = s.InTx(ctx, func(ctx context.Context) error {
		row := shareSetRow{Version: 1}
		if err := s.with(ctx).Create(&row).Error; err != nil {
			return translate(err)
		}
		id = row.ID
		if account := study.ActorOf(ctx).Account; account > 0 { // who makes a set owns it
			if err := s.SetMember(ctx, people.Shared{Thing: people.Set, ID: id}, account, people.Owner); err != nil {
				return err
			}
		}
		return s.addShareVersion(ctx, id, 1, definition)
	})
	return id, err
}

// EditShareSet keeps another version of a set that is still at this one.
func (s *Store) EditShareSet(ctx context.Context, id uint64, version int, definition string) error {
	return s.InTx(ctx, func(ctx context.Context) error {
		if err := edited(s.with(ctx).Model(&shareSetRow{}).Where("id = ? AND version = ? AND NOT deleted", id, version).Update("version", version+1)); err != nil {
			return err
		}
		return s.addShareVersion(ctx, id, version+1, definition)
	})
}

func (s *Store) addShareVersion(ctx context.Context, id uint64, version int, definition string) error {
	return translate(s.with(ctx).Create(&shareVersionRow{id, version, definition, time.Now().UTC(), study.ActorOf(ctx).ID}).Error)
}

// SetShareSetDeleted takes a set off the shelf or puts it back.
func (s *Store) SetShareSetDeleted(ctx context.Context, id uint64, deleted bool) error {
	tx := s.with(ctx).Model(&shareSetRow{}).Where("id = ?", id).Update("deleted", deleted)
	if tx.Error == nil && tx.RowsAffected == 0 {
		return study.ErrNotFound
	}
	return translate(tx.Error)
}
