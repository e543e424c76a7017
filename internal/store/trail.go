package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/document"
	"widetally/core/study"
)

type entryRow struct {
	StudyID    uint64 `gorm:"primaryKey;autoIncrement:false"`
	Number     uint64 `gorm:"primaryKey;autoIncrement:false"`
	At         time.Time
	Actor      string
	Name       string
	Via        string
	Address    string
	What       string
	WhatValues string
	Seal       string
}

func (entryRow) TableName() string { return "trail" }

func (r entryRow) entry() study.Entry {
	return study.Entry{StudyID: r.StudyID, Number: r.Number, At: r.At.UTC(), Actor: r.Actor, Name: r.Name, Via: study.Way(r.Via), Address: r.Address, What: r.What, Values: r.WhatValues, Seal: r.Seal}
}

// headRow is the last entry of a trail: what is written next takes its row.
type headRow struct {
	StudyID uint64 `gorm:"primaryKey;autoIncrement:false"`
	Number  uint64
	Seal    string
}

func (headRow) TableName() string { return "trail_heads" }

// Note writes an entry into the trail of a study, 0 for that of the accounts, by who acts in the context. It
// belongs to the transaction that the context carries.
func (s *Store) Note(ctx context.Context, studyID uint64, what document.Message) error {
	values, err := document.StoreValues(what.Values)
	if err != nil {
		return translate(err)
	}
	who := study.ActorOf(ctx)
	return s.within(ctx, func(ctx context.Context) error {
		head := headRow{StudyID: studyID}
		lock := s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"})
		err := lock.Take(&head, "study_id = ?", studyID).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			if err = s.with(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&head).Error; err == nil {
				err = s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Take(&head, "study_id = ?", studyID).Error
			}
		}
		if err != nil {
			return translate(err)
		}
		e := study.Entry{StudyID: studyID, Number: head.Number + 1, At: now(), Actor: who.ID, Name: who.Name, Via: who.Via, Address: who.Address, What: what.ID, Values: string(values)}
		e.Seal = e.Sealed(head.Seal)
		if err := s.with(ctx).Create(&entryRow{e.StudyID, e.Number, e.At, e.Actor, e.Name, string(e.Via), e.Address, e.What, e.Values, e.Seal}).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Model(&headRow{}).Where("study_id = ?", studyID).Updates(map[string]any{"number": e.Number, "seal": e.Seal}).Error)
	})
}

// Trail gives entries of a study, the newest first.
func (s *Store) Trail(ctx context.Context, studyID uint64, of study.Looked) (out []study.Entry, err error) {
	q := s.with(ctx).Where("study_id = ?", studyID)
	if of.Actor != "" {
		q = q.Where("actor = ?", of.Actor)
	}
	if of.Words != "" {
		q = q.Where("what LIKE CONCAT(?, '%')", of.Words)
	}
	if !of.From.IsZero() {
		q = q.Where("at >= ?", of.From.UTC())
	}
	if !of.To.IsZero() {
		q = q.Where("at < ?", of.To.UTC())
	}
	if of.Before > 0 {
		q = q.Where("number < ?", of.Before)
	}
	var rows []entryRow
	err = q.Order("number DESC").Limit(of.Most).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.entry())
	}
	return out, translate(err)
}

// VerifyTrails looks through every trail, also of studies that are gone, and tells of each how many entries it
// has and its last seal, or the *study.BrokenError.
func (s *Store) VerifyTrails(ctx context.Context, tell func(studyID, entries uint64, seal string, err error)) error {
	return s.Snapshot(ctx, func(ctx context.Context) error { return s.verifyTrails(ctx, tell) })
}

func (s *Store) verifyTrails(ctx context.Context, tell func(studyID, entries uint64, seal string, err error)) error {
	const atOnce = 1000
	var ids []uint64
	if err := s.with(ctx).Raw("SELECT study_id FROM trail UNION SELECT study_id FROM trail_heads ORDER BY study_id").Scan(&ids).Error; err != nil {
		return translate(err)
	}
	for _, id := range ids {
		var head headRow
		if err := s.with(ctx).Take(&head, "study_id = ?", id).Error; err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
			return translate(err)
		}
		var n uint64
		var seal string
		for more := true; more; {
			var rows []entryRow
			if err := s.with(ctx).Where("study_id = ? AND number > ?", id, n).Order("number").Limit(atOnce).Find(&rows).Error; err != nil {
				return translate(err)
			}
			entries := make([]study.Entry, len(rows))
			for i, r := range rows {
				entries[i] = r.entry()
			}
			after, broken := study.Verify(entries, id, n, seal)
			if broken != nil {
				tell(id, n, seal, broken)
				break
			}
			seal = after
			n += uint64(len(rows))
			more = len(rows) == atOnce
			if !more && (head.Number != n || head.Seal != seal) {
				broken = &study.BrokenError{StudyID: id, Number: max(head.Number, n), Lacking: head.Number > n}
			}
			if !more {
				tell(id, n, seal, broken)
			}
		}
	}
	return nil
}
