package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
)

type writingRow struct {
	Token       string `gorm:"primaryKey"`
	Thousandths int
}

func (writingRow) TableName() string { return "writings" }

// PutWriting tells how far a file has come that is being written for somebody who watches; those of which nothing was heard for
// so long go.
func (s *Store) PutWriting(ctx context.Context, token string, thousandths int, silence time.Duration) error {
	if err := s.with(ctx).Where(isOld, silence.Seconds()).Delete(&writingRow{}).Error; err != nil {
		return translate(err)
	}
	return translate(s.with(ctx).Model(&writingRow{}).Clauses(clause.OnConflict{UpdateAll: true}).
		Create(map[string]any{"token": token, "thousandths": thousandths, "seen_at": gorm.Expr(clock)}).Error)
}

// Writing tells how far a file has come; study.ErrNotFound where nobody has told of it.
func (s *Store) Writing(ctx context.Context, token string, silence time.Duration) (thousandths int, err error) {
	var r writingRow
	q := s.with(ctx).Where("token = ? AND NOT ("+isOld+")", token, silence.Seconds()).Limit(1).Find(&r)
	if q.Error == nil && q.RowsAffected == 0 {
		return 0, study.ErrNotFound
	}
	return r.Thousandths, translate(q.Error)
}

// EndWriting tells that a file has been written.
func (s *Store) EndWriting(ctx context.Context, token string) error {
	return translate(s.with(ctx).Where("token = ?", token).Delete(&writingRow{}).Error)
}
