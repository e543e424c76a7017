package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
	"widetally/core/survey"
)

type questionRow struct {
	ID         uint64
	StudyID    uint64
	Position   int
	Name       string
	Wording    string
	Short      string
	Note       string
	Section    string
	Kind       string
	KindReason string
	Base       *string // a survey.Condition as JSON
	Derivation *string // a survey.Derivation as JSON
	ListID     *uint64
	Generation int
	Deleted    bool
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
	Score      *float64
	LowerLimit *float64
	UpperLimit *float64
}

func (answerRow) TableName() string { return "answers" }

func (r questionRow) question(answers []answerRow) (study.Question, error) {
	q := study.Question{ID: r.ID, StudyID: r.StudyID, Position: r.Position, KindReason: r.KindReason, ListID: r.ListID, Generation: r.Generation, Deleted: r.Deleted, Version: r.Version,
		Question: survey.Question{Name: r.Name, Wording: r.Wording, Short: r.Short, Note: r.Note, Section: r.Section, Kind: survey.Kind(r.Kind), Answers: make([]survey.Answer, len(answers))}}
	for i, a := range answers {
		q.Answers[i] = survey.Answer{Slot: survey.Slot(a.Slot), Code: a.Code, Label: a.Label, Missing: a.Missing, SameAs: (*survey.Slot)(a.SameAs), Score: a.Score, From: a.LowerLimit, To: a.UpperLimit}
	}
	for _, part := range []struct {
		text *string
		into any
	}{{r.Base, &q.Base}, {r.Derivation, &q.Derivation}} {
		if part.text != nil {
			if err := json.Unmarshal([]byte(*part.text), part.into); err != nil {
				return q, fmt.Errorf("store: question %d: %w", r.ID, err)
			}
		}
	}
	return q, nil
}

func rowOf(q study.Question) (questionRow, error) {
	r := questionRow{ID: q.ID, StudyID: q.StudyID, Position: q.Position, Name: q.Name, Wording: q.Wording, Short: q.Short, Note: q.Note, Section: q.Section, Kind: string(q.Kind),
		KindReason: q.KindReason, ListID: q.ListID, Generation: q.Generation, Deleted: q.Deleted, Version: q.Version}
	text := func(v any) (*string, error) {
		raw, err := json.Marshal(v)
		s := string(raw)
		return &s, err
	}
	var err error
	if q.Base != nil {
		r.Base, err = text(q.Base)
	}
	if q.Derivation != nil && err == nil {
		r.Derivation, err = text(q.Derivation)
	}
	return r, err
}

func answerRowsOf(q study.Question) []answerRow {
	rows := make([]answerRow, len(q.Answers))
	for i, a := range q.Answers {
		rows[i] = answerRow{QuestionID: q.ID, Slot: uint16(a.Slot), Position: i, Code: a.Code, Label: a.Label, Missing: a.Missing, SameAs: (*uint16)(a.SameAs), Score: a.Score, LowerLimit: a.From, UpperLimit: a.To}
	}
	return rows
}

// Questions returns a study's questions in order, with their answers.
func (s *Store) Questions(ctx context.Context, studyID uint64) ([]study.Question, error) {
	return s.questions(ctx, studyID, "study_id = ? AND NOT deleted")
}

func (s *Store) questions(ctx context.Context, studyID uint64, which string) ([]study.Question, error) {
	var rows []questionRow
	if err := s.with(ctx).Where(which, studyID).Order("position, id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var answers []answerRow
	err := s.with(ctx).Where("question_id IN (SELECT id FROM questions WHERE "+which+")", studyID).Find(&answers).Error
	if err != nil {
		return nil, translate(err)
	}
	// Sorted here: the server would write texts of two tables to the disk for it, and on a full
	// one nothing could be read.
	slices.SortFunc(answers, func(a, b answerRow) int {
		return cmp.Or(cmp.Compare(a.QuestionID, b.QuestionID), cmp.Compare(a.Position, b.Position))
	})
	byQuestion := map[uint64][]answerRow{}
	for _, a := range answers {
		byQuestion[a.QuestionID] = append(byQuestion[a.QuestionID], a)
	}
	out := make([]study.Question, len(rows))
	for i, r := range rows {
		if out[i], err = r.question(byQuestion[r.ID]); err != nil {
			return nil, err
		}
		out[i].Number = i + 1
	}
	return out, nil
}

// Question returns one question of a study; ErrNotFound when it has been deleted.
func (s *Store) Question(ctx context.Context, studyID, id uint64) (study.Question, error) {
	var r questionRow
	if err := s.with(ctx).Where("id = ? AND study_id = ? AND NOT deleted", id, studyID).Take(&r).Error; err != nil {
		return study.Question{}, translate(err)
	}
	var answers []answerRow
	if err := s.with(ctx).Where("question_id = ?", id).Order("position").Find(&answers).Error; err != nil {
		return study.Question{}, translate(err)
	}
	q, err := r.question(answers)
	if err != nil {
		return q, err
	}
	var before int64
	err = s.with(ctx).Model(&questionRow{}).Where("study_id = ? AND NOT deleted AND (position < ? OR position = ? AND id < ?)", studyID, r.Position, r.Position, id).Count(&before).Error
	q.Number = int(before) + 1
	return q, translate(err)
}

// AddQuestion stores a new question with its answers and returns its id. Questions
// from its position on move back by one.
func (s *Store) AddQuestion(ctx context.Context, q study.Question) (uint64, error) {
	err := s.with(ctx).Model(&questionRow{}).Where("study_id = ? AND position >= ?", q.StudyID, q.Position).UpdateColumn("position", gorm.Expr("position + 1")).Error
	if err != nil {
		return 0, translate(err)
	}
	ids, err := s.AddQuestions(ctx, []study.Question{q})
	if err != nil {
		return 0, err
	}
	return ids[0], nil
}

// Rows sent in one statement.
const (
	questionsSent = 250
	answersSent   = 1000
)

// AddQuestions stores new questions with their answers at the positions that they bear
// and returns their ids in the same order.
func (s *Store) AddQuestions(ctx context.Context, questions []study.Question) ([]uint64, error) {
	rows := make([]questionRow, len(questions))
	for i, q := range questions {
		q.ID, q.Version, q.Generation = 0, 1, 1
		var err error
		if rows[i], err = rowOf(q); err != nil {
			return nil, translate(err)
		}
	}
	if err := s.with(ctx).CreateInBatches(rows, questionsSent).Error; err != nil {
		return nil, translate(err)
	}
	ids := make([]uint64, len(rows))
	var answers []answerRow
	for i, r := range rows {
		ids[i], questions[i].ID = r.ID, r.ID
		answers = append(answers, answerRowsOf(questions[i])...)
	}
	return ids, translate(s.with(ctx).CreateInBatches(answers, answersSent).Error)
}

// EditQuestions stores what questions say if the version of each is still the one it
// bears; all or none. Their places and names stay, and so do the answers of those of
// which answered says that they are as they were.
func (s *Store) EditQuestions(ctx context.Context, questions []study.Question, answered func(i int) bool) error {
	if len(questions) == 0 {
		return nil
	}
	ids := make([]uint64, len(questions))
	rows := make([]questionRow, len(questions))
	var answers []answerRow
	var anew []uint64 // questions whose answers are written anew
	for i, q := range questions {
		var err error
		if rows[i], err = rowOf(q); err != nil {
			return translate(err)
		}
		ids[i] = q.ID
		rows[i].Version++
		if answered(i) {
			anew = append(anew, q.ID)
			answers = append(answers, answerRowsOf(q)...)
		}
	}
	var now []questionRow
	if err := s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Select("id", "version", "position").Where("id IN ?", ids).Find(&now).Error; err != nil {
		return translate(err)
	}
	kept := map[uint64]questionRow{}
	for _, r := range now {
		kept[r.ID] = r
	}
	for i, q := range questions {
		r, ok := kept[q.ID]
		if !ok || r.Version != q.Version {
			return study.ErrStale
		}
		rows[i].Position = r.Position
	}
	said := []string{"wording", "short", "note", "section", "kind", "kind_reason", "base", "derivation", "list_id", "generation", "deleted", "version"}
	if err := s.with(ctx).Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns(said)}).CreateInBatches(rows, questionsSent).Error; err != nil {
		return translate(err)
	}
	if len(anew) == 0 {
		return nil
	}
	if err := s.with(ctx).Where("question_id IN ?", anew).Delete(&answerRow{}).Error; err != nil {
		return translate(err)
	}
	return translate(s.with(ctx).CreateInBatches(answers, answersSent).Error)
}

// AllQuestions returns a study's questions by id, deleted ones too.
func (s *Store) AllQuestions(ctx context.Context, studyID uint64) (map[uint64]study.Question, error) {
	list, err := s.questions(ctx, studyID, "study_id = ?")
	out := make(map[uint64]study.Question, len(list))
	for _, q := range list {
		out[q.ID] = q
	}
	return out, err
}
