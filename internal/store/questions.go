package store

import (
	"context"

	"gorm.io/gorm/clause"

	"widetally/core/survey"
)

// Question is a question as kept, with its answers in the order shown.
type Question struct {
	survey.Question
	ID         uint64
	StudyID    uint64
	Position   int // 0-based place in the study
	KindReason string
	Version    int
}

type questionRow struct {
	ID         uint64
	StudyID    uint64
	Position   int
	Name       string
	Wording    string
	Kind       string
	KindReason string
	Version    int
}

func (questionRow) TableName() string { return "questions" }

type answerRow struct {
	QuestionID uint64 `gorm:"primaryKey"`
	Slot       uint16 `gorm:"primaryKey;autoIncrement:false"`
	Position   int
	Code       string
	Label      string
	Missing    string
	SameAs     *uint16
}

func (answerRow) TableName() string { return "answers" }

func (r questionRow) question(answers []answerRow) Question {
	q := Question{ID: r.ID, StudyID: r.StudyID, Position: r.Position, KindReason: r.KindReason, Version: r.Version,
		Question: survey.Question{Name: r.Name, Wording: r.Wording, Kind: survey.Kind(r.Kind), Answers: make([]survey.Answer, len(answers))}}
	for i, a := range answers {
		q.Answers[i] = survey.Answer{Slot: survey.Slot(a.Slot), Code: a.Code, Label: a.Label, Missing: a.Missing, SameAs: (*survey.Slot)(a.SameAs)}
	}
	return q
}

func (q Question) answerRows() []answerRow {
	rows := make([]answerRow, len(q.Answers))
	for i, a := range q.Answers {
		rows[i] = answerRow{QuestionID: q.ID, Slot: uint16(a.Slot), Position: i, Code: a.Code, Label: a.Label, Missing: a.Missing, SameAs: (*uint16)(a.SameAs)}
	}
	return rows
}

// Questions returns a study's questions in order, with their answers.
func (s *Store) Questions(ctx context.Context, studyID uint64) ([]Question, error) {
	var rows []questionRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("position").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var answers []answerRow
	err := s.with(ctx).Where("question_id IN (SELECT id FROM questions WHERE study_id = ?)", studyID).Order("question_id, position").Find(&answers).Error
	if err != nil {
		return nil, translate(err)
	}
	byQuestion := map[uint64][]answerRow{}
	for _, a := range answers {
		byQuestion[a.QuestionID] = append(byQuestion[a.QuestionID], a)
	}
	out := make([]Question, len(rows))
	for i, r := range rows {
		out[i] = r.question(byQuestion[r.ID])
	}
	return out, nil
}

// Question returns one question of a study.
func (s *Store) Question(ctx context.Context, studyID, id uint64) (Question, error) {
	var r questionRow
	if err := s.with(ctx).Where("id = ? AND study_id = ?", id, studyID).Take(&r).Error; err != nil {
		return Question{}, translate(err)
	}
	var answers []answerRow
	err := s.with(ctx).Where("question_id = ?", id).Order("position").Find(&answers).Error
	return r.question(answers), translate(err)
}

// AddQuestion stores a new question with its answers and returns its id.
func (s *Store) AddQuestion(ctx context.Context, q Question) (uint64, error) {
	r := questionRow{StudyID: q.StudyID, Position: q.Position, Name: q.Name, Wording: q.Wording, Kind: string(q.Kind), KindReason: q.KindReason, Version: 1}
	if err := s.with(ctx).Create(&r).Error; err != nil {
		return 0, translate(err)
	}
	q.ID = r.ID
	return r.ID, translate(s.with(ctx).CreateInBatches(q.answerRows(), 500).Error)
}

// EditQuestion stores wording, kind and answers if the version is still
// q.Version. Slots and codes are never changed.
func (s *Store) EditQuestion(ctx context.Context, q Question) error {
	err := edited(s.with(ctx).Model(&questionRow{}).Where("id = ? AND version = ?", q.ID, q.Version).
		Updates(map[string]any{"wording": q.Wording, "kind": string(q.Kind), "version": q.Version + 1}))
	if err != nil {
		return err
	}
	return translate(s.with(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"position", "label", "missing", "same_as"})}).
		CreateInBatches(q.answerRows(), 500).Error)
}
