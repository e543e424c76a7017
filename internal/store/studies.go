package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
)

type studyRow struct {
	ID              uint64
	Name            string
	Units           string
	Decimals        int
	RowCount        int64
	CountQuestionID *uint64
	CreatedAt       time.Time
	UpdatedAt       time.Time
	DeletedAt       *time.Time
	LastClaim       int // the highest number that a claim has had
	Version         int
	Revision        uint64
	Making          bool
}

func (studyRow) TableName() string { return "studies" }

func (r studyRow) study() study.Study {
	return study.Study{ID: r.ID, Name: r.Name, Units: r.Units, Decimals: r.Decimals, Rows: r.RowCount, CountQuestion: r.CountQuestionID, CreatedAt: r.CreatedAt, UpdatedAt: r.UpdatedAt, Version: r.Version, Revision: r.Revision}
}

// Studies lists the studies that are not deleted, the latest edited first.
func (s *Store) Studies(ctx context.Context) ([]study.Study, error) {
	var rows []struct {
		Row       studyRow `gorm:"embedded"`
		Questions int
		Claims    int
	}
	err := s.with(ctx).Table("studies").
		Select("studies.*, (SELECT COUNT(*) FROM questions q WHERE q.study_id = studies.id AND NOT q.deleted) AS questions," +
			" (SELECT COUNT(*) FROM analyses a WHERE a.study_id = studies.id AND a.deleted_at IS NULL AND a.number IS NOT NULL) AS claims").
		Where("deleted_at IS NULL").Order("updated_at DESC, id DESC").Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]study.Study, len(rows))
	for i, r := range rows {
		out[i] = r.Row.study()
		out[i].Questions, out[i].Claims = r.Questions, r.Claims
	}
	return out, nil
}

// Study returns one study; ErrNotFound when there is none or it is deleted.
func (s *Store) Study(ctx context.Context, id uint64) (study.Study, error) {
	var r studyRow
	err := s.with(ctx).Where("id = ? AND deleted_at IS NULL", id).Take(&r).Error
	return r.study(), translate(err)
}

// AddStudy stores a new study and returns it with its id.
func (s *Store) AddStudy(ctx context.Context, st study.Study) (study.Study, error) {
	err := s.within(ctx, func(ctx context.Context) (err error) {
		if st, err = s.BeginStudy(ctx, st); err == nil {
			err = s.ShowStudy(ctx, st)
		}
		return err
	})
	return st, err
}

// BeginStudy stores a study that is being made and returns it with its id. Nobody sees it before ShowStudy; EndStudy
// takes it away again, and so does Purge where neither was called.
func (s *Store) BeginStudy(ctx context.Context, st study.Study) (study.Study, error) {
	t := now()
	r := studyRow{Name: st.Name, Units: st.Units, Decimals: st.Decimals, RowCount: st.Rows, CountQuestionID: st.CountQuestion, CreatedAt: t, UpdatedAt: t, Version: 1, Revision: 1, DeletedAt: &t, Making: true}
	err := translate(s.with(ctx).Create(&r).Error)
	return r.study(), err
}

// ShowStudy has a study be seen that was being made, from then on owned by who makes it. One that is seen already stays as it is.
func (s *Store) ShowStudy(ctx context.Context, st study.Study) error {
	return s.within(ctx, func(ctx context.Context) error {
		shown := s.with(ctx).Model(&studyRow{}).Where("id = ? AND making", st.ID).UpdateColumns(map[string]any{"making": false, "deleted_at": nil})
		if shown.Error != nil {
			return translate(shown.Error)
		}
		if shown.RowsAffected == 0 {
			_, err := s.Study(ctx, st.ID)
			return err
		}
		if account := study.ActorOf(ctx).Account; account > 0 {
			if err := s.SetMember(ctx, people.Shared{Thing: people.Study, ID: st.ID}, account, people.Owner); err != nil {
				return err
			}
		}
		return s.Note(ctx, st.ID, document.Say("trail.made", document.Values{"name": document.Text(st.Name)}))
	})
}

// EndStudy takes a study away that was being made.
func (s *Store) EndStudy(ctx context.Context, id uint64) error {
	return translate(s.with(ctx).Where("id = ? AND making", id).Delete(&studyRow{}).Error)
}

// EditStudy changes name, units and decimals if the version is still st.Version.
func (s *Store) EditStudy(ctx context.Context, st study.Study) error {
	return keptWith(ctx, s.within(ctx, func(ctx context.Context) error {
		err := edited(s.with(ctx).Model(&studyRow{}).Where("id = ? AND version = ? AND deleted_at IS NULL", st.ID, st.Version).
			Updates(map[string]any{"name": st.Name, "units": st.Units, "decimals": st.Decimals, "updated_at": now(), "version": st.Version + 1, "revision": gorm.Expr("revision + 1")}))
		if err != nil {
			return err
		}
		return s.Note(ctx, st.ID, document.Say("trail.edited", document.Values{"name": document.Text(st.Name), "units": document.Text(st.Units), "decimals": document.N(int64(st.Decimals))}))
	}))
}

// TouchStudy notes that something in the study was edited.
func (s *Store) TouchStudy(ctx context.Context, id uint64) error {
	return translate(s.with(ctx).Model(&studyRow{}).Where("id = ?", id).Update("updated_at", now()).Error)
}

// SetStudyDeleted deletes a study or brings a deleted one back. The rows stay
// until Purge.
func (s *Store) SetStudyDeleted(ctx context.Context, id uint64, deleted bool) error {
	return keptWith(ctx, s.within(ctx, func(ctx context.Context) error {
		q, what := s.with(ctx).Model(&studyRow{}), "trail.brought_back"
		var value any
		if deleted {
			q, value, what = q.Where("id = ? AND deleted_at IS NULL", id), now(), "trail.deleted"
		} else {
			q = q.Where("id = ? AND deleted_at IS NOT NULL AND NOT making", id)
		}
		q = q.UpdateColumn("deleted_at", value)
		if q.Error == nil && q.RowsAffected == 0 {
			return study.ErrNotFound
		}
		if q.Error != nil {
			return translate(q.Error)
		}
		return s.Note(ctx, id, document.Say(what, nil))
	}))
}

// makingLife is after how long a study that was being made counts as given up.
const makingLife = 24 * time.Hour

// Purge removes what was deleted before the given time for good, and what was never made to its end, and returns how
// many studies went.
func (s *Store) Purge(ctx context.Context, before time.Time) (int64, error) {
	if err := s.with(ctx).Where("deleted_at < ?", before).Delete(&analysisRow{}).Error; err != nil {
		return 0, translate(err)
	}
	r := s.with(ctx).Where("deleted_at < ? OR making AND deleted_at < ?", before, now().Add(-makingLife)).Delete(&studyRow{})
	return r.RowsAffected, translate(r.Error)
}

// SetStudyData notes how many rows a study has and which question counts them.
func (s *Store) SetStudyData(ctx context.Context, st study.Study) error {
	return translate(s.with(ctx).Model(&studyRow{}).Where("id = ?", st.ID).
		Updates(map[string]any{"row_count": st.Rows, "count_question_id": st.CountQuestion, "updated_at": now()}).Error)
}
