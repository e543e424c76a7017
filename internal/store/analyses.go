package store

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"

	"widetally/core/study"
)

type analysisRow struct {
	ID          uint64
	StudyID     uint64
	QuestionID  uint64
	Number      *int
	Spec        string
	StatedAt    time.Time
	FirstRunAt  *time.Time
	FirstInputs *string
	DeletedAt   *time.Time
	Version     int
	Author      string
}

func (analysisRow) TableName() string { return "analyses" }

type useRow struct {
	AnalysisID uint64 `gorm:"primaryKey;autoIncrement:false"`
	Subject    string `gorm:"primaryKey"`
	SubjectID  uint64 `gorm:"primaryKey;autoIncrement:false"`
}

func (useRow) TableName() string { return "analysis_uses" }

func (r analysisRow) analysis() study.Analysis {
	a := study.Analysis{ID: r.ID, StudyID: r.StudyID, QuestionID: r.QuestionID, Spec: r.Spec, StatedAt: r.StatedAt, FirstRunAt: r.FirstRunAt, WithdrawnAt: r.DeletedAt, Version: r.Version, Author: r.Author}
	if r.Number != nil {
		a.Number = *r.Number
	}
	if r.FirstInputs != nil {
		a.FirstInputs = *r.FirstInputs
	}
	return a
}

// Analyses returns those of a study that are not withdrawn, in the order in which they
// were made.
func (s *Store) Analyses(ctx context.Context, studyID uint64) ([]study.Analysis, error) {
	all, err := s.AllAnalyses(ctx, studyID)
	return slices.DeleteFunc(all, func(a study.Analysis) bool { return a.WithdrawnAt != nil }), err
}

// AllAnalyses returns those of a study, withdrawn ones too.
func (s *Store) AllAnalyses(ctx context.Context, studyID uint64) ([]study.Analysis, error) {
	var rows []analysisRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var uses []useRow
	err := s.with(ctx).Where("analysis_id IN (SELECT id FROM analyses WHERE study_id = ?)", studyID).Find(&uses).Error
	if err != nil {
		return nil, translate(err)
	}
	slices.SortFunc(uses, func(a, b useRow) int {
		return cmp.Or(cmp.Compare(a.AnalysisID, b.AnalysisID), cmp.Compare(a.Subject, b.Subject), cmp.Compare(a.SubjectID, b.SubjectID))
	})
	out, at := make([]study.Analysis, len(rows)), map[uint64]int{}
	for i, r := range rows {
		out[i], at[r.ID] = r.analysis(), i
	}
	for _, u := range uses {
		a := &out[at[u.AnalysisID]]
		a.Uses = append(a.Uses, study.Use{Subject: study.Subject(u.Subject), ID: u.SubjectID})
	}
	return out, nil
}

// Analysis returns one of a study, withdrawn or not.
func (s *Store) Analysis(ctx context.Context, studyID, id uint64) (study.Analysis, error) {
	var r analysisRow
	if err := s.with(ctx).Where("id = ? AND study_id = ?", id, studyID).Take(&r).Error; err != nil {
		return study.Analysis{}, translate(err)
	}
	var uses []useRow
	if err := s.with(ctx).Where("analysis_id = ?", id).Order("subject, subject_id").Find(&uses).Error; err != nil {
		return study.Analysis{}, translate(err)
	}
	a := r.analysis()
	for _, u := range uses {
		a.Uses = append(a.Uses, study.Use{Subject: study.Subject(u.Subject), ID: u.SubjectID})
	}
	return a, nil
}

// AddAnalysis stores a new analysis, made now, and returns it; numbered says that it is a
// claim.
func (s *Store) AddAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error) {
	r := analysisRow{StudyID: a.StudyID, QuestionID: a.QuestionID, Spec: a.Spec, StatedAt: now(), Version: 1, Author: study.ActorOf(ctx).ID}
	if numbered {
		number, err := s.nextClaimNumber(ctx, a.StudyID)
		if err != nil {
			return study.Analysis{}, err
		}
		r.Number = &number
	}
	if err := s.with(ctx).Create(&r).Error; err != nil {
		return study.Analysis{}, translate(err)
	}
	out := r.analysis()
	out.Uses = a.Uses
	return out, s.saveUses(ctx, out)
}

// KeepAnalysis stores an analysis with the number and the times that it bears; the study's
// next claim comes after it.
func (s *Store) KeepAnalysis(ctx context.Context, a study.Analysis) (uint64, error) {
	r := analysisRow{StudyID: a.StudyID, QuestionID: a.QuestionID, Spec: a.Spec, StatedAt: a.StatedAt, FirstRunAt: a.FirstRunAt, DeletedAt: a.WithdrawnAt, Version: 1, Author: study.ActorOf(ctx).ID}
	if a.FirstInputs != "" {
		r.FirstInputs = &a.FirstInputs
	}
	if a.Number > 0 {
		r.Number = &a.Number
		if err := s.with(ctx).Model(&studyRow{}).Where("id = ? AND last_claim < ?", a.StudyID, a.Number).UpdateColumn("last_claim", a.Number).Error; err != nil {
			return 0, translate(err)
		}
	}
	if err := s.with(ctx).Create(&r).Error; err != nil {
		return 0, translate(err)
	}
	a.ID = r.ID
	return r.ID, s.saveUses(ctx, a)
}

// nextClaimNumber counts a study's claims on its row, which stays locked until the
// transaction ends, so that no number is given twice.
func (s *Store) nextClaimNumber(ctx context.Context, studyID uint64) (int, error) {
	row := s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID)
	if err := row.UpdateColumn("last_claim", gorm.Expr("last_claim + 1")).Error; err != nil {
		return 0, translate(err)
	}
	var number int
	err := s.with(ctx).Model(&studyRow{}).Where("id = ?", studyID).Select("last_claim").Scan(&number).Error
	return number, translate(err)
}

// EditAnalysis stores what is asked if the version is still a.Version. What becomes a claim
// only now gets its number and is stated now; a number once given stays. It returns the
// analysis as it is then.
func (s *Store) EditAnalysis(ctx context.Context, a study.Analysis, numbered bool) (study.Analysis, error) {
	change := map[string]any{"spec": a.Spec, "version": a.Version + 1}
	if numbered && a.Number == 0 {
		number, err := s.nextClaimNumber(ctx, a.StudyID)
		if err != nil {
			return a, err
		}
		a.Number, a.StatedAt = number, now()
		change["number"], change["stated_at"] = number, a.StatedAt
	}
	err := edited(s.with(ctx).Model(&analysisRow{}).Where("id = ? AND version = ? AND deleted_at IS NULL", a.ID, a.Version).Updates(change))
	if err != nil {
		return a, err
	}
	a.Version++
	return a, s.saveUses(ctx, a)
}

// PutSpec stores what is asked as an earlier or later state has it.
func (s *Store) PutSpec(ctx context.Context, a study.Analysis, uses []study.Use) error {
	a.Uses = uses
	err := s.with(ctx).Model(&analysisRow{}).Where("id = ?", a.ID).Updates(map[string]any{"spec": a.Spec, "version": a.Version + 1}).Error
	if err != nil {
		return translate(err)
	}
	return s.saveUses(ctx, a)
}

func (s *Store) saveUses(ctx context.Context, a study.Analysis) error {
	if err := s.with(ctx).Where("analysis_id = ?", a.ID).Delete(&useRow{}).Error; err != nil {
		return translate(err)
	}
	rows := make([]useRow, len(a.Uses))
	for i, u := range a.Uses {
		rows[i] = useRow{a.ID, string(u.Subject), u.ID}
	}
	if len(rows) == 0 {
		return nil
	}
	return translate(s.with(ctx).Create(rows).Error)
}

// MarkRun notes the time of the first run and what its result depended on; later runs
// leave both as they are.
func (s *Store) MarkRun(ctx context.Context, id uint64, inputs string) error {
	return translate(s.with(ctx).Model(&analysisRow{}).Where("id = ? AND first_run_at IS NULL", id).UpdateColumns(map[string]any{"first_run_at": now(), "first_inputs": inputs}).Error)
}

// SetAnalysisDeleted withdraws an analysis or brings a withdrawn one back.
func (s *Store) SetAnalysisDeleted(ctx context.Context, studyID, id uint64, deleted bool) error {
	q := s.with(ctx).Model(&analysisRow{}).Where("study_id = ? AND id = ?", studyID, id)
	var value any
	if deleted {
		q, value = q.Where("deleted_at IS NULL"), now()
	} else {
		q = q.Where("deleted_at IS NOT NULL")
	}
	q = q.UpdateColumn("deleted_at", value)
	if q.Error == nil && q.RowsAffected == 0 {
		return study.ErrNotFound
	}
	return translate(q.Error)
}
