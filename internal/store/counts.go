package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
)

type countRow struct {
	QuestionID uint64 `gorm:"primaryKey"`
	Generation int    `gorm:"primaryKey;autoIncrement:false"`
	Slots      int    `gorm:"primaryKey;autoIncrement:false"`
	Part       int    `gorm:"primaryKey;autoIncrement:false"`
	FirstRow   int64
	RowCount   int64
	AllRows    int64
	Worker     string
	Result     []byte
}

func (countRow) TableName() string { return "counts" }

const ofCount = "question_id = ? AND generation = ? AND slots = ?"

func (r countRow) counting() study.Counting {
	return study.Counting{QuestionID: r.QuestionID, Generation: r.Generation, Slots: r.Slots, Part: r.Part, From: r.FirstRow, Rows: r.RowCount, All: r.AllRows, Worker: r.Worker, Result: r.Result}
}

// Countings are the parts of a count that are wanted or done, in order; the whole alone once that is known.
func (s *Store) Countings(ctx context.Context, of study.Counting) ([]study.Counting, error) {
	var rows []countRow
	err := s.with(ctx).Where(ofCount, of.QuestionID, of.Generation, of.Slots).Order("part").Find(&rows).Error
	out := make([]study.Counting, len(rows))
	for i, r := range rows {
		out[i] = r.counting()
	}
	return out, translate(err)
}

// WantCounts asks for parts to be counted; what has been asked for stays as it is.
func (s *Store) WantCounts(ctx context.Context, parts []study.Counting) error {
	rows := make([]map[string]any, len(parts))
	for i, p := range parts {
		rows[i] = map[string]any{"question_id": p.QuestionID, "generation": p.Generation, "slots": p.Slots, "part": p.Part, "first_row": p.From, "row_count": p.Rows, "all_rows": p.All, "worker": "", "seen_at": gorm.Expr(clock), "result": nil}
	}
	return translate(s.with(ctx).Model(&countRow{}).Clauses(clause.OnConflict{DoNothing: true}).Create(rows).Error)
}

// TakeCount gives a worker a part that nobody counts, of one count or, where that has no question, of any; ErrNotFound where there
// is none.
func (s *Store) TakeCount(ctx context.Context, of study.Counting, worker string, silence time.Duration) (study.Counting, error) {
	const free = "result IS NULL AND (worker = '' OR " + isOld + ")"
	for {
		q := s.with(ctx).Where(free, silence.Seconds())
		if of.QuestionID != 0 {
			q = q.Where(ofCount, of.QuestionID, of.Generation, of.Slots)
		}
		var r countRow
		if err := q.Order("question_id, part").Take(&r).Error; err != nil {
			return study.Counting{}, translate(err)
		}
		taken := s.with(ctx).Model(&countRow{}).Where(ofCount+" AND part = ? AND "+free, r.QuestionID, r.Generation, r.Slots, r.Part, silence.Seconds()).
			UpdateColumns(map[string]any{"worker": worker, "seen_at": gorm.Expr(clock)})
		if taken.Error != nil {
			return study.Counting{}, translate(taken.Error)
		}
		if taken.RowsAffected > 0 {
			return r.counting(), nil
		}
	}
}

// PutCount stores what was counted in a part.
func (s *Store) PutCount(ctx context.Context, c study.Counting) error {
	return translate(s.with(ctx).Model(&countRow{}).Where(ofCount+" AND part = ?", c.QuestionID, c.Generation, c.Slots, c.Part).UpdateColumn("result", c.Result).Error)
}

// DropCount forgets a count, as where a part of it cannot be read.
func (s *Store) DropCount(ctx context.Context, c study.Counting) error {
	return translate(s.with(ctx).Where(ofCount, c.QuestionID, c.Generation, c.Slots).Delete(&countRow{}).Error)
}

// PutWhole stores a count in the place of its parts, and drops those of earlier answers.
func (s *Store) PutWhole(ctx context.Context, c study.Counting) error {
	return s.within(ctx, func(ctx context.Context) error {
		if err := s.with(ctx).Where("question_id = ? AND (generation < ? OR generation = ? AND slots = ?)", c.QuestionID, c.Generation, c.Generation, c.Slots).Delete(&countRow{}).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Model(&countRow{}).Create(map[string]any{"question_id": c.QuestionID, "generation": c.Generation, "slots": c.Slots, "part": -1,
			"first_row": 0, "row_count": c.All, "all_rows": c.All, "worker": c.Worker, "seen_at": gorm.Expr(clock), "result": c.Result}).Error)
	})
}
